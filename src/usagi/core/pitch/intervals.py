"""Intervals in words, as players say them."""

from __future__ import annotations

from typing import Final

OCTAVE: Final = 12
INTERVALS: Final = (
    "the same pitch", "a half step", "a whole step", "a minor third", "a major third", "a fourth", "a tritone",
    "a fifth", "a minor sixth", "a major sixth", "a minor seventh", "a major seventh", "an octave",
)  # fmt: skip


def interval_words(semitones: int) -> str:
    """The size of an interval.

    >>> [interval_words(one) for one in (-1, 7, 12, 15)]
    ['a half step', 'a fifth', 'an octave', 'an octave and a minor third']
    """
    size = abs(semitones)
    if size <= OCTAVE:
        return INTERVALS[size]
    octaves, rest = divmod(size, OCTAVE)
    words = "an octave" if octaves == 1 else f"{octaves} octaves"
    return words if not rest else f"{words} and {INTERVALS[rest]}"


def nearest_way(one: int, other: int) -> int:
    """Semitones from one pitch class to another, the nearest way; a tritone goes up.

    >>> [nearest_way(0, other) for other in (5, 7, 6)]
    [5, -5, 6]
    """
    up = (other - one) % OCTAVE
    return up if up <= OCTAVE // 2 else up - OCTAVE
