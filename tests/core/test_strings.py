"""What notes tell of their strings: tuned low, fewer strings, a six-string for a lower part, gauges in words."""

from __future__ import annotations

import pytest

from usagi.core.document.elements import Note
from usagi.core.document.retuning import keep_frets, keep_pitches
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.strings import NoSixString, SoundsLow, six_string, sounds_low
from usagi.core.fretboard.tension import GaugesUnreadable, parse_gauges, print_gauges
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.ticks import QUARTER


def solo(places: list[tuple[int, int]], tuning: str = "standard") -> Solo:
    notes = tuple(
        Note(id=f"n{i}", tick=i * QUARTER, ticks=QUARTER, string=string, fret=fret * 100)
        for i, (string, fret) in enumerate(places)
    )
    return Solo(settings=SoloSettings(tuning=parse_tuning(tuning).midi), notes=notes)


def test_open_strings_a_half_step_down_are_evidence_and_ordinary_ones_are_not() -> None:
    low = solo([(2, 4), (3, 3), (2, 4), (4, 4), (3, 3), (1, 11), (2, 4)])  # Eb and Bb and Gb …
    assert sounds_low(low) == SoundsLow(
        "Eb2 Ab2 Db3 Gb3 Bb3 Eb4",
        "It sounds a half step low: 6 notes lie on open strings a half step down, 0 on these. "
        "Tuned down, they would ring open.",
    )
    assert sounds_low(solo([(1, 0), (2, 0), (3, 0), (2, 4), (3, 3), (1, 0)])) is None
    assert sounds_low(solo([(2, 4), (3, 3)])) is None  # too little


def test_a_whole_step_is_told_from_a_half_step() -> None:
    low = sounds_low(solo([(2, 3), (3, 10), (2, 3), (4, 3), (2, 10), (3, 2), (3, 10), (4, 3)]))
    assert low is not None and low.sentence.startswith("It sounds a whole step low")


def test_fewer_strings_list_what_is_lost_or_look_for_its_pitch() -> None:
    seven = solo([(7, 5), (7, 0), (1, 3)], "B1 E2 A2 D3 G3 B3 E4")
    six = seven.settings.model_copy(update={"tuning": parse_tuning("standard").midi})
    kept = keep_frets(seven, six)
    assert [one.sentence for one in kept.impossible] == [
        "There is no string 7: this guitar has 6. Choose a string from 1 to 6."
    ] * 2
    found = keep_pitches(seven, six)
    assert [(n.string, n.fret) for n in found.solo.notes][::2] == [(6, 0), (1, 300)]  # E2 lies open on the sixth
    assert [one.sentence for one in found.impossible] == ["B1 lies below the lowest string."]


def test_a_lower_part_says_which_sixth_string_it_needs() -> None:
    baritone = solo([(6, 0), (1, 5)], "baritone B")
    found = six_string(baritone)
    assert found.tuning == "B1 A2 D3 G3 B3 E4"
    assert found.sentence == "The lowest note is B1: the sixth string goes 5 semitones down, to B1."
    again = baritone.settings.model_copy(update={"tuning": parse_tuning(found.tuning).midi})
    assert keep_pitches(baritone, again).impossible == ()
    assert six_string(solo([(6, 3)])).sentence == "The lowest note is G2: the standard tuning reaches it."
    with pytest.raises(NoSixString, match="The lowest note is C1: no sixth string goes 16 semitones down"):
        six_string(solo([(6, 0)], "C1 A2 D3 G3 B3 E4"))
    with pytest.raises(NoSixString, match="Nothing is written yet"):
        six_string(solo([]))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("10 13", "2 gauges are given for 6 strings"),
        ("a b c d e f", "“a” is no gauge"),
        ("10 13 17 26w 36w 990", "“990”"),
    ],
)
def test_gauges_that_cannot_be_read_are_refused_in_words(text: str, words: str) -> None:
    with pytest.raises(GaugesUnreadable, match=words):
        parse_gauges(text, 6)


def test_gauges_are_written_as_they_are_read() -> None:
    text = "9.5 13 17 26w 36w 46w"
    assert print_gauges(parse_gauges(text, 6)) == text
    assert parse_gauges("0.010, .013, 17 26w", 4) == parse_gauges("10 13 17 26w", 4)
    assert parse_gauges("", 6) == ()
