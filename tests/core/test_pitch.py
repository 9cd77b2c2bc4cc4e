"""Names, octaves and keys."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from usagi.core.pitch.keys import SCALES, KeyUnreadable, Mode, parse_key
from usagi.core.pitch.names import Name, NameUnreadable, parse_name, pitch_text, sharp_name, single_name

names = st.builds(Name, st.integers(0, 6), st.integers(-2, 2))


@given(names)
def test_a_name_survives_writing_and_reading(name: Name) -> None:
    assert parse_name(str(name)) == name


@given(names, st.integers(0, 6), st.integers(0, 11))
def test_a_name_above_has_the_letter_and_the_pitch_asked_for(name: Name, steps: int, semitones: int) -> None:
    above = name.above(steps, semitones)
    assert above.letter == (name.letter + steps) % 7
    assert above.pitch_class == (name.pitch_class + semitones) % 12


@given(st.integers(21, 108))
def test_octaves_change_at_c(midi: int) -> None:
    name = sharp_name(midi % 12)
    assert pitch_text(name, midi)[-1] == str(midi // 12 - 1)


@pytest.mark.parametrize(
    ("text", "midi", "shown"), [("B#", 60, "B#3"), ("Cb", 59, "Cb4"), ("A", 69, "A4"), ("Bb", 70.5, "Bb4+")]
)
def test_a_pitch_is_written_with_its_octave_and_a_plus_a_quarter_above(text: str, midi: float, shown: str) -> None:
    assert pitch_text(parse_name(text), midi) == shown


def test_syllables_are_fixed_do() -> None:
    assert [parse_name(text).syllable() for text in ("C", "F#", "Bb", "G")] == ["do", "fa#", "tib", "sol"]


@given(st.integers(0, 11), st.booleans())
def test_a_single_name_has_at_most_one_accidental(pitch_class: int, upwards: bool) -> None:
    name = single_name(pitch_class, upwards=upwards)
    assert name.pitch_class == pitch_class and abs(name.alter) <= 1


@pytest.mark.parametrize("text", ["H", "", "C###", "Cb#", "do", "1"])
def test_what_is_no_name_is_refused(text: str) -> None:
    with pytest.raises(NameUnreadable, match="is not a note name"):
        parse_name(text)


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("E minor", "E minor"),
        ("Bb", "Bb major"),
        ("F#m", "F# minor"),
        ("D dorian", "D dorian"),
        ("C ionian", "C major"),
        ("A aeolian", "A minor"),
        ("B locrian", "B locrian"),
        ("e♭ minor", "Eb minor"),
    ],
)
def test_a_key_is_a_tonic_and_a_mode(text: str, shown: str) -> None:
    assert str(parse_key(text)) == shown


@pytest.mark.parametrize("text", ["", "H minor", "E minorish", "E minor blues", "C## major"])
def test_what_is_no_key_is_refused(text: str) -> None:
    with pytest.raises(KeyUnreadable, match="is not a key"):
        parse_key(text)


@given(st.sampled_from(["C", "Eb", "F#", "Gb", "B", "Ab"]), st.sampled_from(list(Mode)), st.integers(0, 11))
def test_a_key_names_its_own_notes_with_seven_letters_and_every_other_with_one_accidental(
    tonic: str, mode: Mode, pc: int
) -> None:
    key = parse_key(f"{tonic} {mode}")
    own = [key.diatonic_name((key.tonic.pitch_class + step) % 12) for step in SCALES[mode]]
    assert sorted(name.letter for name in own if name is not None) == list(range(7))
    name = key.name(pc)
    assert name.pitch_class == pc
    assert abs(name.alter) < 2 or name in own
    assert key.degree(key.tonic.pitch_class) == "1"
