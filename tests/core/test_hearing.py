"""Beats, swing and chords heard in bands of known truth, on seeds that tuned nothing."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.bands import band
from benchmarks.hearing import chords_right, compound_heard, heard_ms, mono, swing_off

from usagi.core.audio.beats import hear_beats
from usagi.core.audio.chords import hear_chords
from usagi.core.audio.swing import hear_swing


@pytest.mark.parametrize("seed", [5_001, 5_002])
def test_a_drifting_band_is_followed_within_twenty_ms_at_every_bar(seed: int) -> None:
    worst_ms, right_pace, _ = heard_ms(seed, 60.0)
    assert worst_ms < 20 and right_pace


def test_half_and_twice_the_pace_begin_on_a_first_and_lie_on_the_beats() -> None:
    known = band(5_010, 15.0)
    heard = hear_beats([mono(known)], 4)
    assert heard is not None
    as_heard, half, other, twice = (np.array(pace.beats) for pace in heard.paces)
    assert np.array_equal(np.sort(np.concatenate([half, other])), as_heard) and np.array_equal(twice[::2], as_heard)
    assert np.array_equal(half, as_heard[::2]) or np.array_equal(half, as_heard[1::2])
    assert heard.paces[1].bpm == pytest.approx(heard.paces[0].bpm / 2, rel=0.01)
    assert heard.struck > 0.75 and "a minute" in heard.sentence


def test_in_a_compound_meter_the_pulse_is_offered_first_whichever_eighths_were_followed() -> None:
    heard = [compound_heard(seed, 30.0) for seed in range(5_040, 5_048)]
    assert all(right for right, _ in heard)
    assert sum(begins for _, begins in heard) >= 6


def test_what_was_heard_for_a_pulse_is_offered_after_it_and_lies_on_its_eighths() -> None:
    known = band(5_051, 30.0, compound=True)
    heard = hear_beats([mono(known)], 4, compound=True)
    assert heard is not None and heard.paces[0].name in ("two thirds as fast", "a third as fast")
    assert heard.paces[1].name == "as heard" and heard.paces[1].bpm > heard.paces[0].bpm
    pulse, eighths = np.array(heard.paces[0].beats), np.array(heard.paces[1].beats)
    assert np.abs(eighths[:, None] - pulse[None, :-2]).min(axis=0)[::2].max() < 0.002


def test_where_a_pace_is_heard_double_both_sets_of_alternate_beats_are_offered_the_fuller_first() -> None:
    rng = np.random.default_rng(5_060)
    sound = rng.normal(0, 0.002, (48_000 * 20, 1)).astype(np.float32)
    t = np.arange(2_400) / 48_000
    eighth_s = 60 / 132  # the beats are the louder ones, every second
    for number in range(42):
        at = round((0.2 + number * eighth_s) * 48_000)
        size = 0.4 if number % 2 else 0.25
        sound[at : at + 2_400, 0] += size * np.sin(2 * np.pi * 200 * t) * np.exp(-60 * t)
    heard = hear_beats([sound], 4)
    assert heard is not None and heard.paces[0].bpm == pytest.approx(132, rel=0.01)
    halves = [np.array(pace.beats) for pace in heard.paces if pace.name.startswith("half as fast")]
    beats = 0.2 + eighth_s * np.arange(1, 42, 2)
    fuller, other = (np.abs(half[:, None] - beats).min(axis=1) for half in halves)
    assert fuller[:-2].max() < 0.02 and other.min() > 0.4  # the last may lie in the silence at the end


@pytest.mark.parametrize("seconds", [(20.0,), (7.0, 13.0), (0.5, 0.7, 1.1, 17.7)])
def test_a_sound_in_parts_is_heard_as_in_one(seconds: tuple[float, ...]) -> None:
    sound = mono(band(5_070, 20.0))
    edges = np.cumsum([round(one * 48_000) for one in seconds])
    whole, parted = hear_beats([sound], 4), hear_beats(np.split(sound, edges[:-1]), 4)
    assert whole is not None and parted is not None
    assert len(whole.paces[0].beats) == len(parted.paces[0].beats)
    assert np.abs(np.array(whole.paces[0].beats) - parted.paces[0].beats).max() < 0.001


def test_what_has_no_pulse_has_no_beats() -> None:
    assert hear_beats([np.zeros((48_000 * 10, 2), np.float32)], 4) is None
    assert hear_beats([np.zeros((100, 1), np.float32)], 4) is None


@pytest.mark.parametrize("seed", range(5_020, 5_024))
def test_swing_is_measured_within_fifteen_hundredths(seed: int) -> None:
    off, count = swing_off(seed)
    assert count >= 16 and off < 0.15


def test_too_few_off_beats_say_so_and_silence_is_nothing() -> None:
    beats = np.arange(0, 9.0)
    heard = hear_swing(np.sort(np.concatenate([beats, beats[:5] + 0.66])), beats)
    assert heard.count == 5 and heard.sentence == "Too little to go by: it rests on 5 off-beats, and 16 are wanted."
    assert hear_swing(np.array([]), beats).count == 0
    assert hear_swing(beats, np.array([1.0])).count == 0


def test_triplets_are_twice_as_long_as_short_and_straight_is_even() -> None:
    beats = np.arange(0, 30.0)
    assert hear_swing(np.sort(np.concatenate([beats, beats + 2 / 3])), beats).ratio == 2.0
    assert hear_swing(np.sort(np.concatenate([beats, beats + 0.5])), beats).sentence.startswith("Straight; it rests")


def test_a_swing_on_a_wrong_grid_is_doubted() -> None:
    beats = np.arange(0.0, 24.0, 0.5)
    sixteenths = np.arange(0.0, 24.0, 0.125) + np.random.default_rng(3).normal(0, 0.004, 192)
    for grid in (beats, np.arange(0.17, 24.0, 0.5), np.arange(0.0, 24.0, 0.66)):
        heard = hear_swing(np.sort(sixteenths), grid)
        assert heard.doubt == "a guess" and "but that is a guess" in heard.sentence
    long = np.sort(np.concatenate([beats, beats + 1 / 3]))
    assert hear_swing(long, beats).doubt == ""
    assert "perhaps" in hear_swing(long, beats).said("perhaps")


def test_most_chords_are_right_and_nearly_all_are_among_three() -> None:
    count, root, whole, among = np.sum([chords_right(seed, 40.0) for seed in (5_030, 5_031)], axis=0)
    assert count > 25
    assert root / count > 0.9 and whole / count > 0.7 and among / count > 0.9


def test_a_recording_that_is_off_is_heard_with_its_offset() -> None:
    known = band(5_033, 25.0, cents=45.0)
    spans = [(start, end) for start, end, _ in known.chords]
    truth = [chord for _, _, chord in known.chords]

    def right(cents: float) -> float:
        heard = hear_chords(mono(known), spans, cents=cents)
        return float(np.mean([(c[0].root, c[0].quality) == t for c, t in zip(heard, truth, strict=True)]))

    assert right(45.0) > 0.7 > right(-20.0)


def test_silence_suggests_no_chord() -> None:
    assert hear_chords(np.zeros((48_000 * 3, 1), np.float32), [(0.0, 2.0), (9.0, 10.0)]) == [[], []]
