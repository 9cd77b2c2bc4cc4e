"""Lines in other keys, on other strings, in triplets; and what is said of notes in the way."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import QUARTER, documents, ground_on, sequential_ids
from usagi.core.document.elements import Note, Rest
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument
from usagi.core.phrases.figures import Copy, copied
from usagi.core.phrases.transforming import (
    Direction,
    FigureImpossible,
    Pulse,
    in_pulse,
    on_strings,
    semitones_to,
    transposed,
)
from usagi.core.pitch.keys import parse_key

SETTINGS = SoloSettings()
HALF = QUARTER // 2


def note(note_id: str, tick: int, string: int, fret: int, **fields: Any) -> Note:
    return Note.model_validate(
        {"id": note_id, "tick": tick, "ticks": QUARTER, "string": string, "fret": fret * 100} | fields
    )


def sounds(notes: list[Note] | tuple[Note, ...], settings: SoloSettings = SETTINGS) -> list[float | None]:
    return [written_pitch(one, settings) for one in sorted(notes, key=lambda one: (one.tick, one.id))]


@pytest.mark.parametrize(
    ("old", "new", "expected"),
    [
        ("C", "F", (5, 5, -7)),
        ("C", "G", (-5, 7, -5)),
        ("C", "F#", (6, 6, -6)),
        ("A minor", "A", (0, 0, 0)),
        ("Eb", "D", (-1, 11, -1)),
    ],
)
def test_a_key_is_reached_by_the_nearest_way_or_up_or_down(old: str, new: str, expected: tuple[int, ...]) -> None:
    assert tuple(semitones_to(parse_key(old), parse_key(new), way) for way in Direction) == expected


def test_all_frets_move_when_they_can_with_what_is_measured_from_them() -> None:
    line = [note("a", 0, 2, 5, trill={"fret": 700}), note("b", QUARTER, 3, 7)]
    up = transposed(line, 3, SETTINGS)
    assert [(one.string, one.fret) for one in up] == [(2, 800), (3, 1000)]
    assert up[0].trill is not None and up[0].trill.fret == 1000


def test_what_cannot_move_is_put_on_other_strings_with_what_is_joined_to_it() -> None:
    line = [note("a", 0, 1, 0), note("b", QUARTER, 1, 3, attack={"kind": "hammer-on"}), note("c", 2 * QUARTER, 2, 5)]
    down = transposed(line, -2, SETTINGS)
    assert sounds(down) == [pitch - 2 for pitch in sounds(line) if pitch is not None]
    placed = {one.id: (one.string, one.fret) for one in down}
    assert placed["c"] == (2, 300) and placed["a"][0] == placed["b"][0] == 2


def test_a_refusal_names_every_note_in_the_way() -> None:
    line = [note("a", 0, 6, 0), note("b", QUARTER, 6, 1), note("c", 2 * QUARTER, 1, 5)]
    with pytest.raises(FigureImpossible) as refused:
        transposed(line, -4, SETTINGS)
    assert refused.value.sentence == (
        "String 6, fret 0, which would sound C2, has no free place on this neck. "
        "String 6, fret 1, which would sound C#2, has no free place on this neck."
    )
    ground = ground_on("| C | F |")
    with pytest.raises(FigureImpossible) as both:
        copied(Solo(notes=tuple(line)), ground, Copy(0, 3 * QUARTER, 4 * QUARTER, frets=-2), sequential_ids("n"))
    assert both.value.sentence.count("the neck ends there") == 2


def test_a_line_goes_to_a_string_set_of_another_size_with_its_pitches() -> None:
    line = [note("a", 0, 3, 7), note("b", QUARTER, 2, 8), note("c", 2 * QUARTER, 1, 8), note("d", 3 * QUARTER, 1, 5)]
    two = on_strings(line, 1, 2, SETTINGS)
    assert {one.string for one in two} <= {1, 2} and sounds(two) == sounds(line)
    with pytest.raises(
        FigureImpossible, match=r"String 3, fret 7, which would sound D4, has no free place on strings 1 to 1"
    ):
        on_strings(line, 1, 1, SETTINGS)
    with pytest.raises(FigureImpossible, match="Strings 1 to 8 are not on this guitar"):
        on_strings(line, 1, 8, SETTINGS)


def test_straight_to_triplets_and_back() -> None:
    timeline = ground_on("| C | F |").timeline
    line = [note(str(i), i * HALF, 2, 5 + i, ticks=HALF) for i in range(4)]
    rests = [Rest(id="r", tick=4 * HALF, ticks=HALF)]
    swung, silent = in_pulse(line, rests, timeline, Pulse.TRIPLETS)
    third = QUARTER // 3
    assert [(one.tick, one.ticks) for one in swung] == [
        (0, 2 * third), (2 * third, third), (QUARTER, 2 * third), (QUARTER + 2 * third, third),
    ]  # fmt: skip
    assert [(one.tick, one.ticks) for one in silent] == [(2 * QUARTER, 2 * third)]
    back, quiet = in_pulse(swung, silent, timeline, Pulse.STRAIGHT)
    assert (back, quiet) == (line, rests)
    compound = ground_on("| {12/8} C |").timeline
    assert in_pulse(line, [], compound, Pulse.TRIPLETS)[0] == line


def test_a_figure_is_copied_in_another_key_from_the_key_that_holds_there() -> None:
    ground = ground_on("| {key A minor} Am7 | D7 |")
    solo = Solo(notes=(note("a", 0, 2, 5), note("b", QUARTER, 2, 8)))
    there = copied(
        solo, ground, Copy(0, 2 * QUARTER, 4 * QUARTER, key="D minor", direction=Direction.UP), sequential_ids("n")
    )
    assert [one.fret for one in there.notes] == [500, 800, 1000, 1300]
    with pytest.raises(FigureImpossible, match="The key here is not known"):
        copied(solo, ground_on("| Am7 | D7 |"), Copy(0, 2 * QUARTER, 4 * QUARTER, key="D"), sequential_ids("n"))


@given(documents(), st.integers(-7, 7))
def test_up_and_down_again_sounds_the_same_and_overlaps_nowhere(document: SoloDocument, semitones: int) -> None:
    settings = document.solo.settings
    line = [one for one in document.solo.notes if one.attack.kind != "harmonic"]
    try:
        there = transposed(line, semitones, settings)
        back = transposed(there, -semitones, settings)
    except FigureImpossible:
        return
    by_id = {one.id: written_pitch(one, settings) for one in line}
    assert {one.id: written_pitch(one, settings) for one in back} == by_id
    assert {one.id: written_pitch(one, settings) for one in there} == {
        one: None if pitch is None else pitch + semitones for one, pitch in by_id.items()
    }
    for string in range(1, len(settings.tuning) + 1):
        ends = [(one.tick, one.end) for one in there if one.string == string]
        assert all(end <= start for (_, end), (start, _) in pairwise(ends))
