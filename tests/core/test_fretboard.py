"""Tunings, and places against brute force."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from usagi.core.fretboard.places import Place, fretted_pitch, places_of
from usagi.core.fretboard.tunings import KNOWN, TuningUnreadable, parse_tuning, tuning_of


@pytest.mark.parametrize("name", KNOWN)
def test_a_known_tuning_reads_by_its_name_and_by_its_pitches(name: str) -> None:
    tuning = parse_tuning(name)
    assert parse_tuning(tuning.text()).midi == tuning.midi
    assert tuning_of(tuning.midi).known_as == name


@pytest.mark.parametrize(
    ("text", "midi"),
    [
        ("EADGBE", (64, 59, 55, 50, 45, 40)),
        ("D A D G A D", (62, 57, 55, 50, 45, 38)),
        ("A D G C E A", (57, 52, 48, 43, 38, 33)),
        ("Eb Ab Db Gb Bb Eb", (63, 58, 54, 49, 44, 39)),
        ("D A D F A D", (62, 57, 53, 50, 45, 38)),
        ("B E A D G B E", (64, 59, 55, 50, 45, 40, 35)),
        ("F# B E A D G B E", (64, 59, 55, 50, 45, 40, 35, 30)),
        ("E1 A1 D2 G2", (43, 38, 33, 28)),
    ],
)
def test_a_typed_tuning_is_read_low_to_high(text: str, midi: tuple[int, ...]) -> None:
    assert parse_tuning(text).midi == midi


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("Bb A D G B E", "B"),
        ("E A D G", "octaves"),
        ("E A", "2 strings"),
        ("E A D X B E", "X"),
        ("E2 A D3 G3 B3 E4", "some strings"),
        ("G A D G B E", "rise|above the usual"),
        ("E9 A9 D9 G9 B9 E9", "out of a guitar"),
    ],
)
def test_a_tuning_that_is_not_clear_is_asked_back(text: str, words: str) -> None:
    with pytest.raises(TuningUnreadable, match=words):
        parse_tuning(text)


@given(st.sampled_from(list(KNOWN)), st.integers(20, 90), st.integers(0, 7), st.integers(12, 24))
def test_every_place_of_a_pitch_is_found_and_none_is_missed(name: str, midi: int, capo: int, last_fret: int) -> None:
    tuning = parse_tuning(name).midi
    every = [
        Place(string, fret)
        for string in range(1, len(tuning) + 1)
        for fret in range(last_fret - capo + 1)
        if fretted_pitch(string, fret * 100, tuning, capo) == midi
    ]
    assert places_of(midi, tuning, capo, last_fret) == tuple(every)
