"""The vamp: voicings, bass, drums, exactly on the grid; and what is counted aloud."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import chart_texts, chord_symbols, ground_on
from usagi.core.audio import RATE_HZ
from usagi.core.audio.band import BandEvent, Instrument, band
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.counting import School
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE
from usagi.core.playing.counted import counted
from usagi.core.playing.loops import count_in, with_half_bars
from usagi.core.playing.vamp import VampStyle, played_at, style_of, vamp
from usagi.core.playing.voicing import HIGHEST, LOWEST, led, motion, tones

BLUES = "| {key A major} {swing 2} A7 | D7 | A7 | E7 |"
DRUMS = {Instrument.KICK, Instrument.SNARE, Instrument.HAT, Instrument.RIDE}


def chord(text: str):
    return hear(parse_chord(text))


# -- voicing ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("symbol", "slots"),
    [
        ("C", {4, 7, 0}), ("Cm7", {3, 10, 7, 0}), ("C7", {4, 10, 7, 0}), ("C9", {4, 10, 2, 7}), ("C13", {4, 10, 2, 9}),
        ("C7(b9)", {4, 10, 1, 7}), ("Csus4", {5, 7, 0}), ("C5", {7, 0}), ("Cdim7", {3, 9, 6, 0}), ("C6", {4, 9, 7, 0}),
        ("C7(#5)", {4, 10, 8, 0}), ("Cmaj7", {4, 11, 7, 0}), ("Eb/F", {5, 10, 2, 0}),
    ],
)  # fmt: skip
def test_core_tones_and_named_extensions_are_played(symbol: str, slots: set[int]) -> None:
    assert set(tones(chord(symbol))) == slots


@given(symbols=st.lists(chord_symbols, min_size=2, max_size=8))
def test_voices_lie_in_their_range_hold_their_chord_and_move_little(symbols: list[str]) -> None:
    chords = [chord(symbol) for symbol in symbols]
    found = led(chords)
    for heard, voices in zip(chords, found, strict=True):
        assert list(voices) == sorted(voices) and voices[0] >= LOWEST and voices[-1] <= HIGHEST
        assert {(midi - heard.root.pitch_class) % 12 for midi in voices} == set(tones(heard))
    for one, other in pairwise(found):
        assert motion(one, other) <= 16  # a chord of four can always be reached by a third a voice


# -- the band -----------------------------------------------------------------------------------------------------------


@given(text=chart_texts(), style=st.sampled_from([None, *VampStyle]))
def test_every_pulse_is_on_the_grid_and_every_pitch_in_its_chord(text: str, style: VampStyle | None) -> None:
    ground = ground_on(text)
    end = min(ground.timeline.written_end, 6 * WHOLE)
    events = vamp(ground, 0, end, style=style)
    seconds = {round(event.second, 9) for event in events if event.instrument in DRUMS}
    bar = ground.timeline.bars.at(0)
    while bar.tick < end:
        for _, tick in bar.pulse_ticks():
            assert round(ground.grid.second(tick), 9) in seconds
        bar = ground.timeline.bars.at(bar.end)
    for event in events:
        if event.instrument is Instrument.KEYS:
            tick = round(ground.grid.tick(event.second))
            change = ground.timeline.chord_at(tick)
            assert change is not None and change.heard is not None
            heard = change.heard
            assert (int(event.midi) - heard.root.pitch_class) % 12 in tones(heard)
    assert all(event.held_s >= 0 and 0 < event.loud <= 1 for event in events)


def test_the_bass_plays_the_root_where_a_chord_comes_and_leads_to_the_next() -> None:
    ground = ground_on(BLUES)
    bass = [event for event in vamp(ground, 0, 4 * WHOLE) if event.instrument is Instrument.BASS]
    by_second = {round(event.second, 6): int(event.midi) % 12 for event in bass}
    roots = [9, 2, 9, 4]
    assert [by_second[round(ground.grid.second(i * WHOLE), 6)] for i in range(4)] == roots
    before = [by_second[round(ground.grid.second(i * WHOLE - QUARTER), 6)] for i in range(1, 4)]
    assert all((goal - at) % 12 in (1, 11) for at, goal in zip(before, roots[1:], strict=True))


def test_without_a_chord_the_drums_play_alone_and_one_chord_can_stand_for_all() -> None:
    ground = ground_on("| N.C. | N.C. |")
    assert {event.instrument for event in vamp(ground, 0, 2 * WHOLE)} <= DRUMS
    over = [event for event in vamp(ground, 0, 2 * WHOLE, over=chord("C7")) if event.instrument is Instrument.BASS]
    assert over and int(over[0].midi) % 12 == 0


def test_a_style_follows_meter_and_feel() -> None:
    def style(text: str) -> VampStyle:
        ground = ground_on(text)
        bar = ground.timeline.bars.at(0)
        return style_of(ground.timeline.feels[bar.number], bar)

    assert style("| {swing 1.8} C7 |") is VampStyle.SWING and style("| C7 |") is VampStyle.STRAIGHT
    assert style("| {triplet} C7 |") is VampStyle.SHUFFLE and style("| {6/8} C7 |") is VampStyle.SIX_EIGHT
    assert style("| {12/8} C7 |") is VampStyle.TWELVE_EIGHT


def test_the_swung_off_beat_lies_where_the_feel_puts_it() -> None:
    ground = ground_on("| {swing 1.5} C7 |")
    rides = [event.second for event in vamp(ground, 0, WHOLE) if event.instrument is Instrument.RIDE]
    pulse = ground.grid.second(QUARTER) - ground.grid.second(0)
    off = [round((second / pulse) % 1, 6) for second in rides]
    assert set(off) == {0.0, 0.6}


def onset_of(sound: np.ndarray, near: int) -> int:
    """The first frame near a place at which the sound exceeds a tenth of what it reaches there."""
    window = np.abs(sound[near - 200 : near + 400])
    return near - 200 + int(np.argmax(window > 0.1 * window.max()))


@pytest.mark.parametrize("speed", [0.25, 0.6, 1.0])
def test_strokes_are_heard_within_a_millisecond_of_the_grid(speed: float) -> None:
    ground = ground_on("| C7 | C7 |")
    events = [e for e in played_at(vamp(ground, 0, 2 * WHOLE), speed) if e.instrument is Instrument.HAT]
    sound = band(events, -0.1, round(RATE_HZ * (ground.grid.second(2 * WHOLE) / speed + 0.2)))[:, 0]
    for beat in range(8):
        place = round((ground.grid.second(beat * QUARTER) / speed + 0.1) * RATE_HZ)
        assert abs(onset_of(sound, place) - place) <= RATE_HZ / 1_000


def test_a_loop_joins_itself_and_twenty_of_them_never_click() -> None:
    """What rings on at the end begins the loop: no step from its last frame to its first is larger than those inside."""
    ground = ground_on(BLUES)
    frames = round(RATE_HZ * ground.grid.second(4 * WHOLE))
    loop = band(vamp(ground, 0, 4 * WHOLE), 0.0, frames, loop=True)[:, 0]
    played = np.tile(loop, 20)
    # A click is a jump that nothing struck there explains: the pass is compared with the band playing on without a loop.
    long = band([BandEvent(e.second + n * frames / RATE_HZ, e.instrument, e.midi, e.held_s, e.loud)
                 for n in range(3) for e in vamp(ground, 0, 4 * WHOLE)], 0.0, 3 * frames)[:, 0]  # fmt: skip
    np.testing.assert_allclose(played[frames : 3 * frames], long[frames:], atol=1e-5)


def test_another_key_moves_what_has_a_pitch_and_nothing_else() -> None:
    events = vamp(ground_on(BLUES), 0, WHOLE)
    moved = played_at(events, 0.5, 3)
    for before, after in zip(events, moved, strict=True):
        assert after.second == pytest.approx(2 * before.second)
        assert after.midi - before.midi == (0 if before.instrument in DRUMS else 3)


# -- counting -----------------------------------------------------------------------------------------------------------


def solo_of(*ticks: int) -> Solo:
    return Solo(notes=tuple(Note(id=f"n{t}", tick=t, ticks=100, string=2, fret=500) for t in ticks))


def said(solo: Solo, ground: Ground, speed: float = 1.0, school: School = School.A) -> list[str]:
    return [word.word for word in counted(solo, ground, 0, WHOLE, speed=speed, school=school)]


def test_pulses_are_counted_and_notes_between_them_where_there_is_time() -> None:
    ground = ground_on("| C7 |")
    assert said(solo_of(0), ground) == ["1", "2", "3", "4"]
    assert said(solo_of(0, EIGHTH, QUARTER), ground) == ["1", "&", "2", "3", "4"]
    triplets = solo_of(0, QUARTER // 3, 2 * QUARTER // 3)
    assert said(triplets, ground, speed=0.5) == ["1", "trip", "let", "2", "3", "4"]
    assert said(triplets, ground, speed=0.5, school=School.B) == ["1", "&", "a", "2", "3", "4"]
    assert said(triplets, ground, speed=1.0) == ["1", "2", "3", "4"]  # a sixth of a second is no time for a word
    compound = ground_on("| {6/8} C7 |")
    eighths = solo_of(0, EIGHTH, 2 * EIGHTH)
    assert [w.word for w in counted(eighths, compound, 0, 6 * EIGHTH)] == ["1", "2", "3", "4"]
    assert [w.word for w in counted(eighths, compound, 0, 6 * EIGHTH, school=School.B)] == ["1", "la", "li", "2"]


def test_a_count_in_keeps_beat_one_where_it_is() -> None:
    ground = ground_on("| C7 | C7 |")
    plain = count_in(ground, WHOLE, speed_permille=1_000)
    half = count_in(ground, WHOLE + 2 * QUARTER, speed_permille=500)
    assert plain.beats == (1, 2, 3, 4) and half.beats == (3, 4, 1, 2)
    assert [high for _, high in half.at_s] == [False, False, True, False]
    assert half.length_s == pytest.approx(2 * plain.length_s)


@pytest.mark.parametrize(
    ("start", "end", "wide"),
    [
        (WHOLE, 2 * WHOLE, (WHOLE - 2 * QUARTER, 2 * WHOLE + 2 * QUARTER)),
        (WHOLE + QUARTER, 2 * WHOLE, (WHOLE - QUARTER, 2 * WHOLE + 2 * QUARTER)),
    ],
)
def test_half_a_bar_before_and_after(start: int, end: int, wide: tuple[int, int]) -> None:
    assert with_half_bars(start, end, ground_on("| C7 |\n8 choruses")) == wide
