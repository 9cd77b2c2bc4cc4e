"""What the server writes: figures copied, pitches typed, onsets tapped; and the rules that hold whatever is written."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import documents, ground_on, sequential_ids
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.document.by_ear import Tap, TapsOutside, tapped
from usagi.core.document.elements import Note, Rest, Stack
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.techniques import Sure
from usagi.core.document.writing import cleared, written
from usagi.core.fingering.by_pitch import PitchesUnreadable, Typed, placed, read_pitches
from usagi.core.fingering.chord_shape import NoShape, chord_shape
from usagi.core.fretboard.places import open_pitch
from usagi.core.meter.bars import lay_bars
from usagi.core.meter.feel import Feel, FeelKind
from usagi.core.meter.meters import Meter
from usagi.core.meter.quantise import quantise
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.phrases.figures import Copy, copied
from usagi.core.phrases.transforming import FigureImpossible

BAR = 4 * QUARTER
GROUND = ground_on("| Am7 | D7 | Gmaj7 | E7 |", bars=8)


def note(number: int, tick: int, string: int, fret: int, ticks: int = EIGHTH, **fields: object) -> Note:
    return Note.model_validate(
        {"id": f"n{number}", "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


FIGURE = Solo(notes=(note(0, 0, 2, 5), note(1, EIGHTH, 1, 5), note(2, QUARTER, 1, 8, QUARTER)))


def places(solo: Solo, start: int, end: int) -> list[tuple[int, int, int]]:
    return [(n.tick - start, n.string, (n.fret or 0) // 100) for n in solo.notes if start <= n.tick < end]


@given(documents(), st.integers(0, 8), st.integers(1, 8), st.integers(0, 30))
def test_whatever_is_copied_the_rules_hold_and_the_rest_stays(document, start: int, length: int, to: int) -> None:
    solo, ground = document.solo, document.ground
    wanted = Copy(start * QUARTER, (start + length) * QUARTER, to * QUARTER)
    try:
        after = copied(solo, ground, wanted, sequential_ids("x"))
    except FigureImpossible:
        assert (
            not [n for n in (*solo.notes, *solo.rests) if wanted.start <= n.tick < wanted.end]
            or wanted.to + wanted.end - wanted.start > ground.timeline.bars.end_tick
        )
        return
    check_solo(after, ground, ())
    end = wanted.to + wanted.end - wanted.start
    was = {n.id: n for n in solo.notes}
    for n in after.notes:
        if n.tick >= end or n.tick < wanted.to:
            assert n.id in was
            if n.end <= wanted.to:
                assert n == was[n.id] or was[n.id].end > wanted.to
    assert {n.id for n in solo.notes if not wanted.to <= n.tick < end} == {n.id for n in after.notes} & was.keys()


def test_a_rest_that_lasts_beyond_the_figure_ends_with_its_copy() -> None:
    rests = (Rest(id="r", tick=QUARTER, ticks=2 * QUARTER), Rest(id="s", tick=BAR + 2 * QUARTER, ticks=QUARTER))
    solo = Solo(notes=(note(0, 0, 2, 5, QUARTER),), rests=rests)
    after = copied(solo, GROUND, Copy(0, 2 * QUARTER, BAR), sequential_ids("x"))
    assert [(rest.tick, rest.ticks) for rest in after.rests] == [
        (QUARTER, 2 * QUARTER), (BAR + QUARTER, QUARTER), (BAR + 2 * QUARTER, QUARTER),
    ]  # fmt: skip
    struck = copied(solo, GROUND, Copy(QUARTER, 2 * QUARTER, BAR, ticks=EIGHTH), sequential_ids("x"))
    assert (BAR, EIGHTH) in [(rest.tick, rest.ticks) for rest in struck.rests]


def test_a_figure_goes_on_behind_itself_and_what_stood_there_is_gone() -> None:
    solo = written(FIGURE, [note(9, BAR + EIGHTH, 3, 7)], sequential_ids("s"))
    after = copied(solo, GROUND, Copy(0, 2 * QUARTER, BAR), sequential_ids("x"))
    assert places(after, BAR, 2 * BAR) == places(FIGURE, 0, BAR)
    assert not any(n.id == "n9" for n in after.notes)


def test_along_the_neck_the_pattern_stays_and_the_end_of_the_neck_is_named() -> None:
    up = copied(FIGURE, GROUND, Copy(0, 2 * QUARTER, BAR, frets=5), sequential_ids("x"))
    assert places(up, BAR, 2 * BAR) == [(t, s, f + 5) for t, s, f in places(FIGURE, 0, BAR)]
    with pytest.raises(FigureImpossible, match="String 2, fret 5 cannot go 20 frets up"):
        copied(FIGURE, GROUND, Copy(0, 2 * QUARTER, BAR, frets=20), sequential_ids("x"))


def test_on_other_strings_the_pitches_stay() -> None:
    down = copied(FIGURE, GROUND, Copy(0, 2 * QUARTER, BAR, strings=1), sequential_ids("x"))
    sounding = [written_pitch(n, SoloSettings()) for n in down.notes]
    assert sounding[:3] == sounding[3:]
    assert [n.string for n in down.notes][3:] == [3, 2, 2]
    with pytest.raises(FigureImpossible, match="no string 0"):
        copied(FIGURE, GROUND, Copy(0, 2 * QUARTER, BAR, strings=-1), sequential_ids("x"))


def test_over_another_chord_the_degrees_stay_and_third_fifth_and_seventh_follow() -> None:
    """b3 and 5 of Am7 become 3 and 5 of D7: the third follows the chord."""
    solo = Solo(
        notes=(note(0, 0, 2, 1), note(1, QUARTER, 1, 0), note(2, 2 * QUARTER, 2, 3, course=((0, 0), (2_520, 4))))
    )
    after = copied(solo, GROUND, Copy(0, BAR, BAR, to_chord=True), sequential_ids("x"))
    degrees = {reading.id: reading.degree for reading in read_notes(after, GROUND)}
    assert [degrees[n.id] for n in after.notes][:2] == ["b3", "5"]
    assert [degrees[n.id] for n in after.notes][3:5] == ["3", "5"]
    assert degrees[after.notes[5].id] == "5"  # bent from the 11 to the 5, over both
    with pytest.raises(FigureImpossible, match="no chord on one side"):
        copied(solo, GROUND, Copy(0, BAR, 5 * BAR, to_chord=True), sequential_ids("x"))


def test_nothing_outside_the_bars_and_only_one_way_at_a_time() -> None:
    with pytest.raises(FigureImpossible, match="after the last bar, 8"):
        copied(FIGURE, GROUND, Copy(0, 2 * QUARTER, 8 * BAR - QUARTER), sequential_ids("x"))
    with pytest.raises(FigureImpossible, match="in one way at a time"):
        copied(FIGURE, GROUND, Copy(0, QUARTER, BAR, frets=1, strings=1), sequential_ids("x"))
    with pytest.raises(FigureImpossible, match="no figure"):
        copied(FIGURE, GROUND, Copy(4 * BAR, 5 * BAR, BAR), sequential_ids("x"))


def test_clearing_cuts_what_sounds_into_it_and_keeps_rests_outside() -> None:
    solo = Solo(
        notes=(note(0, 0, 1, 5, BAR, course=((0, 0), (QUARTER, 4), (3 * QUARTER, 0))),),
        rests=(Rest(id="r", tick=BAR, ticks=BAR),),
    )
    after = cleared(solo, 2 * QUARTER, BAR + QUARTER, sequential_ids("x"))
    assert after.notes[0].ticks == 2 * QUARTER and after.notes[0].course == ((0, 0), (QUARTER, 4), (2 * QUARTER, 0))
    assert [(r.tick, r.ticks) for r in after.rests] == [(BAR + QUARTER, 3 * QUARTER)]


# -- by pitch ----------------------------------------------------------------------------------------------------------


def test_typed_pitches_lie_near_the_one_before_and_degrees_count_from_their_chord() -> None:
    typed = read_pitches("A4 C D b3 - 5 F#", 0, QUARTER, GROUND.timeline, None)
    assert [one.midi for one in typed] == [69, 72, 74, 72, None, 69, 66]
    with pytest.raises(PitchesUnreadable, match="Word 2, “H4”"):
        read_pitches("A4 H4", 0, QUARTER, GROUND.timeline, None)
    with pytest.raises(PitchesUnreadable, match="no chord to count it from"):
        read_pitches("b3", 6 * BAR, QUARTER, GROUND.timeline, None)
    with pytest.raises(PitchesUnreadable, match="Type pitches"):
        read_pitches("  ", 0, QUARTER, GROUND.timeline, None)


@given(st.lists(st.integers(45, 84), min_size=1, max_size=8))
def test_placed_pitches_sound_what_was_typed(midi: list[int]) -> None:
    typed = [Typed(one, i * EIGHTH) for i, one in enumerate(midi)]
    seconds = {i * EIGHTH: i * 0.25 for i in range(-1, len(midi))}
    context = [note(99, -EIGHTH, 2, 8)]
    found = placed(typed, EIGHTH, SoloSettings(), context, seconds, sequential_ids("x"))
    assert [written_pitch(n, SoloSettings()) for n in found] == midi
    check_solo(Solo(notes=tuple(found)), GROUND, found)


# -- by ear ------------------------------------------------------------------------------------------------------------

BARS = lay_bars([Meter(4, 4)] * 4)
RHYTHMS = {
    "quarters": [0, 10_080, 20_160, 30_240],
    "eighths": [0, 5_040, 10_080, 15_120, 20_160],
    "triplets": [0, 3_360, 6_720, 10_080, 20_160],
    "sixteenths": [0, 2_520, 5_040, 7_560, 10_080, 12_600],
    "off-beats": [5_040, 15_120, 25_200],
}


@pytest.mark.parametrize("seed", range(20))
@pytest.mark.parametrize("rhythm", RHYTHMS)
@pytest.mark.parametrize("feel", [Feel(), Feel(FeelKind.SWING, ratio=1.8)], ids=str)
def test_taps_within_a_hands_unevenness_find_their_steps(rhythm: str, feel: Feel, seed: int) -> None:
    """Taps that scatter by 12 ms at 100 a minute; swung where the written step is an off-beat eighth."""
    true = RHYTHMS[rhythm]
    if feel.kind is FeelKind.SWING and rhythm == "triplets":
        true = RHYTHMS["quarters"]
    swung = [
        t // 10_080 * 10_080 + (feel.moved(t % 10_080 / 10_080) * 10_080 if rhythm != "triplets" else t % 10_080)
        for t in true
    ]
    scatter = np.random.default_rng(seed).normal(0, 0.012 / 0.6 * 10_080, len(true))
    found = quantise([t + s for t, s in zip(swung, scatter, strict=True)], BARS, dict.fromkeys(range(1, 5), feel))
    wrong = sum(a != b for a, b in zip(found, true, strict=True))
    assert wrong <= (1 if rhythm in ("sixteenths", "triplets") else 0)


def test_tapped_notes_wait_for_their_frets_with_what_was_heard() -> None:
    solo = Solo(notes=(note(0, 0, 2, 5),))
    found = tapped(solo, GROUND, [Tap(0.01), Tap(0.26), Tap(0.74)], 3, {}, sequential_ids("x"))
    assert [(n.tick, n.string, n.fret, n.sure) for n in found.notes] == [
        (0, 2, 500, Sure.SURE), (EIGHTH, 3, None, Sure.UNKNOWN), (3 * EIGHTH, 3, None, Sure.UNKNOWN),
    ]  # fmt: skip
    assert [n.heard.onset_s for n in found.notes if n.heard is not None] == [0.01, 0.26, 0.74]
    assert [n.ticks for n in found.notes] == [EIGHTH, 2 * EIGHTH, QUARTER]
    check_solo(found, GROUND, found.notes)
    with pytest.raises(TapsOutside):
        tapped(solo, GROUND, [Tap(900.0)], 3, {}, sequential_ids("x"))


def test_a_tap_that_is_held_tells_how_long_its_note_lasts_and_what_follows_is_silence() -> None:
    # Quarters at 120: let go half-way, just before the next, at once, and after a bar and a half.
    held = [Tap(0.0, 0.26), Tap(0.5, 0.97), Tap(1.0, 1.03), Tap(2.0, 5.0)]
    found = tapped(Solo(), GROUND, held, 3, {}, sequential_ids("x"))
    assert [(n.tick, n.ticks) for n in found.notes] == [
        (0, EIGHTH), (QUARTER, QUARTER), (2 * QUARTER, EIGHTH), (4 * QUARTER, 4 * QUARTER),
    ]  # fmt: skip
    assert [(r.tick, r.ticks) for r in found.rests] == [(EIGHTH, EIGHTH), (2 * QUARTER + EIGHTH, 3 * EIGHTH)]
    assert [n.heard.end_s for n in found.notes if n.heard is not None] == [0.26, 0.97, 1.03, 4.0]


@given(
    st.lists(
        st.builds(
            lambda at, held: Tap(at, None if held is None else at + held),
            st.floats(-0.2, 8.0),
            st.none() | st.floats(-1, 3),
        ),
        min_size=1,
        max_size=40,
    )
)
def test_taps_of_any_kind_leave_a_solo_that_holds(taps: list[Tap]) -> None:
    try:
        found = tapped(FIGURE, GROUND, taps, 2, {}, sequential_ids("x"))
    except TapsOutside:
        return
    check_solo(found, GROUND, found.notes)
    ticks = [n.tick for n in found.notes]
    assert ticks == sorted(ticks) and all(a <= b for a, b in itertools.pairwise(ticks))
    rests = sorted(found.rests, key=lambda rest: rest.tick)
    assert all(a.end <= b.tick for a, b in itertools.pairwise(rests))
    assert not any(n.tick < r.end and r.tick < n.end for n in found.notes for r in rests)


# -- chords under the hand ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("symbol", "position"), [("Am7", 5), ("D7", 5), ("Gmaj7", 2), ("E7", 0), ("C6", 7), ("Bm7b5", 2)]
)
def test_a_chord_under_the_hand_holds_its_third_and_seventh_and_can_be_held(symbol: str, position: int) -> None:
    heard = ground_on(f"| {symbol} |").timeline.changes[0].heard
    assert heard is not None
    places = chord_shape(heard, position, SoloSettings())
    slots = {(open_pitch(s, SoloSettings().tuning, 0) + f - heard.root.pitch_class) % 12 for s, f in places}
    assert slots <= set(heard.core) and heard.third in slots
    assert (heard.seventh if heard.seventh is not None else 9) in slots
    assert len({s for s, _ in places}) == len(places) >= 3
    assert all(position <= f < position + 4 for _, f in places)
    with pytest.raises(NoShape):
        chord_shape(heard, 30, SoloSettings())


def test_a_stack_is_struck_again_in_another_rhythm() -> None:
    stack = Solo(
        notes=(note(0, 0, 1, 5, QUARTER, stack="s"), note(1, 0, 2, 6, QUARTER, stack="s")),
        stacks=(Stack(id="s", stroke="down"),),
    )
    after = copied(stack, GROUND, Copy(0, 1, QUARTER, ticks=EIGHTH), sequential_ids("x"))
    assert [(n.tick, n.ticks, n.string) for n in after.notes] == [
        (0, QUARTER, 1),
        (0, QUARTER, 2),
        (QUARTER, EIGHTH, 1),
        (QUARTER, EIGHTH, 2),
    ]
    assert [str(one.stroke) for one in after.stacks] == ["down", "down"]
