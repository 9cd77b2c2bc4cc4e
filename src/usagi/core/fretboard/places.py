"""Pitches of places and places of pitches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

HUNDREDTHS = 100

# Natural harmonics: fret in hundredths -> semitones above the open (capoed) string.
NATURAL_HARMONICS = {1200: 12, 700: 19, 1900: 19, 500: 24, 2400: 24, 400: 28, 900: 28, 1600: 28, 320: 31}


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """A string and a whole fret, both as the player counts them."""

    string: int
    fret: int


def open_pitch(string: int, tuning: Sequence[int], capo: int) -> int:
    """MIDI pitch of a string that is open above the capo.

    Parameters
    ----------
    string : 1 is the first of the tuning.
    tuning : MIDI pitches of the open strings, string 1 first.
    capo : fret of the capo, 0 for none.

    >>> open_pitch(6, (64, 59, 55, 50, 45, 40), 2)
    42
    """
    return tuning[string - 1] + capo


def fretted_pitch(string: int, fret: int, tuning: Sequence[int], capo: int) -> float:
    """MIDI pitch of a place; `fret` in hundredths. Whole frets give whole numbers.

    Parameters
    ----------
    string : from 1, the thinnest.
    fret : in hundredths, counted from the capo.
    tuning : open pitches from string 1 on.
    capo : its fret, 0 for none.

    >>> fretted_pitch(2, 1000, (64, 59, 55, 50, 45, 40), 0)
    69
    """
    open_string = open_pitch(string, tuning, capo)
    return open_string + (fret // HUNDREDTHS if fret % HUNDREDTHS == 0 else fret / HUNDREDTHS)


@lru_cache(maxsize=4_096)
def places_of(midi: int, tuning: tuple[int, ...], capo: int, last_fret: int) -> tuple[Place, ...]:
    """Every place that sounds a pitch, string 1 first. `last_fret` counts from the nut.

    Parameters
    ----------
    midi : the pitch; whole numbers.
    tuning : open pitches from string 1 on, without the capo.
    capo : its fret, 0 for none.
    last_fret : of the neck, from the nut.

    >>> places_of(69, (64, 59, 55, 50, 45, 40), 0, 22)
    (Place(string=1, fret=5), Place(string=2, fret=10), Place(string=3, fret=14), Place(string=4, fret=19))
    """
    found = []
    for string in range(1, len(tuning) + 1):
        fret = midi - open_pitch(string, tuning, capo)
        if 0 <= fret <= last_fret - capo:
            found.append(Place(string, fret))
    return tuple(found)
