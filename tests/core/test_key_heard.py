"""The key that chords suggest, against progressions whose key a person wrote down."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from usagi.core.harmony.key_heard import key_of_chords

MAJOR, MINOR, SEVENTH, MAJOR7, MINOR7 = (0, 4, 7), (0, 3, 7), (0, 4, 7, 10), (0, 4, 7, 11), (0, 3, 7, 10)
PLAYED = [
    ("C major", [(0, MAJOR), (9, MINOR), (5, MAJOR), (7, SEVENTH)]),
    ("D minor", [(2, MINOR7), (7, MINOR7), (9, SEVENTH), (2, MINOR7)]),
    ("A major", [(9, SEVENTH), (2, SEVENTH), (9, SEVENTH), (4, SEVENTH), (2, SEVENTH), (9, SEVENTH)]),  # a blues
    ("F major", [(7, MINOR7), (0, SEVENTH), (5, MAJOR7), (5, MAJOR7)]),  # two, five, one
    ("E minor", [(4, MINOR), (0, MAJOR), (7, MAJOR), (2, MAJOR), (4, MINOR)]),
]


@pytest.mark.parametrize(("key", "chords"), PLAYED)
def test_the_key_a_person_would_say(key: str, chords: list[tuple[int, tuple[int, ...]]]) -> None:
    assert str(key_of_chords(chords)) == key


@given(st.sampled_from([chords for _, chords in PLAYED]), st.integers(0, 11))
def test_moved_chords_move_the_key(chords: list[tuple[int, tuple[int, ...]]], by: int) -> None:
    before, after = key_of_chords(chords), key_of_chords([((root + by) % 12, tones) for root, tones in chords])
    assert before and after
    assert after.tonic.pitch_class == (before.tonic.pitch_class + by) % 12
    assert after.is_minor == before.is_minor


def test_no_chords_suggest_no_key() -> None:
    assert key_of_chords([]) is None
