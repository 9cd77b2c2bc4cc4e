"""Simpler versions keep the bars and say what they dropped; two states are compared note by note."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import documents, ground_on, sequential_ids
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.document.elements import Note, Stack
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.phrases.comparison import DifferenceKind, compare
from usagi.core.phrases.simplified import Rule, simplify

GROUND = ground_on("| Am7 | D7 | Gmaj7 | E7 |", bars=8)


def note(name: str, tick: int, string: int, fret: int, ticks: int = EIGHTH, **fields: object) -> Note:
    return Note.model_validate(
        {"id": name, "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


@given(documents(), st.sets(st.sampled_from(list(Rule))))
def test_every_simpler_version_holds_and_keeps_its_place(document, rules: set[Rule]) -> None:
    solo, ground = document.solo, document.ground
    found = simplify(solo, ground, tuple(rules), sequential_ids("x"))
    check_solo(found.solo, ground, ())
    assert len(found.messages) == len(rules)
    was = {n.id: n for n in solo.notes}
    for n in found.solo.notes:
        if n.id in was:
            assert (n.tick, n.string) == (was[n.id].tick, was[n.id].string)
    if Rule.NO_BENDS in rules:
        assert all(
            max((q for _, q in n.course), default=0) < 2
            or n.fret is None
            or any(q % 2 for _, q in n.course)
            or n.fret > 1_500
            for n in found.solo.notes
        )
    if Rule.SINGLE_NOTES in rules:
        ticks = [n.tick for n in found.solo.notes]
        assert len(ticks) == len(set(ticks))
        assert all(a.end <= b.tick for a, b in itertools.pairwise(found.solo.notes))
    if Rule.NO_ORNAMENTS in rules:
        assert all(n.vibrato is None and n.trill is None and not n.ghost for n in found.solo.notes)
    assert (
        simplify(found.solo, ground, tuple(rules - {Rule.TARGETS}), sequential_ids("y")).solo.notes == found.solo.notes
    )


def test_a_bend_becomes_slides_to_its_target_and_back() -> None:
    bent = note("b", 0, 2, 8, 2 * QUARTER, course=((0, 0), (5_040, 4), (13_440, 4), (20_160, 0)))
    held = note("h", 3 * QUARTER, 1, 10, QUARTER, course=((0, 4), (5_040, 4)))
    found = simplify(Solo(notes=(bent, held)), GROUND, (Rule.NO_BENDS,), sequential_ids("x"))
    line = [(n.tick, n.ticks, (n.fret or 0) // 100, n.attack.kind) for n in found.solo.notes]
    assert line == [
        (0, 5_040, 8, "picked"), (5_040, 15_120, 10, "slide"), (3 * QUARTER, QUARTER, 12, "picked"),
    ]  # fmt: skip
    assert found.messages == ("2 bends became slides.",)


def test_targets_are_chord_tones_on_pulses_held_over_and_silence_is_written() -> None:
    solo = Solo(
        notes=(note("a", 0, 1, 5), note("b", EIGHTH, 1, 7), note("c", QUARTER, 1, 8), note("d", 2 * QUARTER, 2, 6))
    )
    found = simplify(solo, GROUND, (Rule.TARGETS,), sequential_ids("x"))
    assert [(n.id, n.tick, n.ticks) for n in found.solo.notes] == [("a", 0, QUARTER), ("c", QUARTER, 3 * QUARTER)]
    roles = [next(line.role for line in r.lines if line.shown) for r in read_notes(found.solo, GROUND)]
    assert all(role == "chord tone" for role in roles)
    assert found.messages == ("2 of 4 notes stay: chord tones that begin on a beat.",)


def test_of_a_stop_the_highest_stays() -> None:
    both = (note("low", 0, 3, 7, stack="s"), note("high", 0, 2, 8, stack="s"))
    found = simplify(
        Solo(notes=tuple(sorted(both, key=lambda n: n.string)), stacks=(Stack(id="s"),)),
        GROUND,
        (Rule.SINGLE_NOTES,),
        sequential_ids("x"),
    )
    assert [n.id for n in found.solo.notes] == ["high"] and not found.solo.stacks


def test_straightened_moves_no_tick() -> None:
    solo = Solo(notes=(note("a", EIGHTH, 1, 5),))
    found = simplify(solo, GROUND, (Rule.STRAIGHT,), sequential_ids("x")).solo
    assert (
        found.notes == solo.notes and found.settings.feel is not None and str(found.settings.feel.value) == "straight"
    )


@given(documents())
def test_a_solo_differs_in_nothing_from_itself(document) -> None:
    assert compare(document.solo, document.solo, document.ground.timeline.bars) == []


def test_notes_are_added_gone_moved_and_played_otherwise() -> None:
    there = Solo(
        notes=(note("a", 0, 2, 5), note("b", EIGHTH, 2, 8), note("c", QUARTER, 1, 5), note("d", 2 * QUARTER, 1, 8))
    )
    here = Solo(
        notes=(
            note("a", 0, 3, 9),
            note("b", EIGHTH, 2, 8, vibrato={"start": 0}),
            note("d", 3 * QUARTER, 1, 8),
            note("e", 5 * EIGHTH, 1, 7),
        )
    )
    found = {(d.kind, d.here or d.there): d.sentence for d in compare(here, there, GROUND.timeline.bars)}
    assert found == {
        (DifferenceKind.MOVED, "a"): "1:1: string 3 fret 9 for string 2 fret 5, the same pitch.",
        (DifferenceKind.OTHERWISE, "b"): "1:1+1/2: vibrato, was plain.",
        (DifferenceKind.GONE, "c"): "1:2: string 1 fret 5 is gone.",
        (DifferenceKind.MOVED, "d"): "1:4: from 1:3.",
        (DifferenceKind.ADDED, "e"): "1:3+1/2: string 1 fret 7 is added.",
    }


@pytest.mark.parametrize("late", [0, EIGHTH // 3])
def test_a_line_played_live_is_compared_by_place(late: int) -> None:
    studio = Solo(notes=(note("a", 0, 2, 5), note("b", QUARTER, 2, 8), note("c", 2 * QUARTER, 1, 5)))
    live = Solo(notes=(note("x", late, 2, 5), note("y", QUARTER, 1, 3), note("z", 3 * QUARTER, 1, 7)))
    kinds = [(d.kind, d.here, d.there) for d in compare(live, studio, GROUND.timeline.bars)]
    expected = [(DifferenceKind.MOVED, "y", "b"), (DifferenceKind.GONE, None, "c"), (DifferenceKind.ADDED, "z", None)]
    assert kinds == ([(DifferenceKind.MOVED, "x", "a")] if late else []) + expected
    assert written_pitch(live.notes[1], SoloSettings()) == written_pitch(studio.notes[1], SoloSettings())
