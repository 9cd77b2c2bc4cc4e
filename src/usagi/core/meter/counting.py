"""Counting, as spoken, and the grid of a pulse.

The grid is found: the parts are tried in turn, and the first on which all onsets of the pulse lie wins, else the
nearest. Source: docs/music.md, Counting.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache

from usagi.core.meter.meters import Meter

SIMPLE_PARTS = (2, 3, 4, 6, 5, 7, 8)
COMPOUND_PARTS = (3, 6, 2, 4)


class School(StrEnum):
    A = "a"
    B = "b"


# Words of the slots after the first, by number of parts of a simple pulse; other tuplets are numbered.
SIMPLE_WORDS: dict[int, dict[School, tuple[str, ...]]] = {
    1: {School.A: (), School.B: ()},
    2: {School.A: ("&",), School.B: ("&",)},
    3: {School.A: ("trip", "let"), School.B: ("&", "a")},
    4: {School.A: ("e", "&", "a"), School.B: ("e", "&", "a")},
    6: {School.A: ("&", "trip", "&", "let", "&"), School.B: ("&", "trip", "&", "let", "&")},
}
# School B counts a compound pulse; school A its eighths with & between.
COMPOUND_WORDS_B: dict[int, tuple[str, ...]] = {
    2: ("&",),
    3: ("la", "li"),
    4: ("e", "&", "a"),
    6: ("ta", "la", "ta", "li", "ta"),
}


def parts_of(onsets: Iterable[int], pulse: int, *, compound: bool) -> int:
    """The grid of a pulse: into how many parts its onsets (ticks from its start) divide it.

    Onsets that lie on no grid take the one to which their worst onset lies nearest.

    >>> parts_of([0, 5040], 10080, compound=False), parts_of([0, 3360], 10080, compound=False)
    (2, 3)
    """
    return _parts_of(tuple(sorted({onset for onset in onsets if 0 <= onset < pulse})), pulse, compound)


@lru_cache(maxsize=8192)
def _parts_of(inside: tuple[int, ...], pulse: int, compound: bool) -> int:
    candidates = COMPOUND_PARTS if compound else SIMPLE_PARTS

    def off(parts: int) -> Fraction:
        return max((abs(Fraction(onset * parts, pulse) - round(Fraction(onset * parts, pulse))) / parts
                    for onset in inside), default=Fraction(0))  # fmt: skip

    return min(candidates, key=off)  # min takes the first of equals, and 0 is on the grid


def slot_of(onset: int, pulse: int, parts: int) -> tuple[int, bool]:
    """The nearest slot of an onset, the earlier on a tie, and whether it lies exactly there.

    Parameters
    ----------
    onset : ticks from the start of the pulse.
    pulse : ticks of the pulse.
    parts : into how many slots it is divided.

    >>> slot_of(5_040, 10_080, 4), slot_of(5_000, 10_080, 4)
    ((2, True), (2, False))
    """
    exact = Fraction(onset * parts, pulse)
    below = exact.numerator // exact.denominator
    slot = below if exact - below <= Fraction(1, 2) else below + 1
    return slot, exact == slot


def spoken_beat(meter: Meter, beat: int) -> int:
    """The number that a pulse starts on: meters with groups count their denominators, all others their pulses.

    >>> spoken_beat(Meter(7, 8, (2, 2, 3)), 3)
    5
    """
    return sum(meter.groups[: beat - 1]) + 1 if meter.groups else beat


def slot_words(beat: int, parts: int, *, compound: bool, groups: bool, school: School = School.A) -> list[str]:
    """The words of a pulse's slots, the first is its number.

    Parameters
    ----------
    beat : the number that the pulse is counted with, from 1.
    parts : slots of the pulse.
    compound, groups : whether three eighths make a pulse, and whether the meter has uneven groups.
    school : the counting words that the reader holds.

    >>> slot_words(2, 4, compound=False, groups=False)
    ['2', 'e', '&', 'a']
    >>> slot_words(2, 6, compound=True, groups=False)
    ['4', '&', '5', '&', '6', '&']
    """
    if compound and school is School.A:
        first = 3 * (beat - 1) + 1
        if parts == 3:
            return [str(first), str(first + 1), str(first + 2)]
        if parts == 6:
            return [word for n in range(first, first + 3) for word in (str(n), "&")]
        return [str(first), *("&" if 2 * slot == parts else "~" for slot in range(1, parts))]
    if compound:
        return [str(beat), *COMPOUND_WORDS_B[parts]]
    words = SIMPLE_WORDS.get(parts)
    rest = words[school] if words is not None else tuple(str(n) for n in range(2, parts + 1))
    return [str(beat), *rest]
