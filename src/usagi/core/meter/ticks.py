"""Note lengths in ticks."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

QUARTER = 10_080
WHOLE = 4 * QUARTER
EIGHTH = QUARTER // 2
SIXTEENTH = QUARTER // 4


@dataclass(frozen=True, slots=True)
class Length:
    """A written length: `ticks` without dot or triplet, `dotted` and in a `triplet`."""

    name: str
    short: str
    ticks: int

    @property
    def dotted(self) -> int:
        return self.ticks * 3 // 2

    @property
    def triplet(self) -> int:
        return self.ticks * 2 // 3

    def tuplet(self, count: int) -> int:
        """One of `count` in the time of four.

        >>> [LENGTHS[4].tuplet(n) for n in TUPLETS]
        [2016, 1680, 1440]
        """
        return self.ticks * 4 // count


TUPLETS = (5, 6, 7)  # beside the triplet; all lengths down to a sixty-fourth divide evenly but in sevens of those

# Longest first; the keys shorter and longer walk this list.
LENGTHS = (
    Length("whole note", "1", WHOLE),
    Length("half note", "½", WHOLE // 2),
    Length("quarter note", "¼", QUARTER),
    Length("eighth note", "⅛", EIGHTH),
    Length("sixteenth note", "1/16", SIXTEENTH),
    Length("thirty-second note", "1/32", QUARTER // 8),
    Length("sixty-fourth note", "1/64", QUARTER // 16),
)


@lru_cache(maxsize=4096)
def length_words(ticks: int) -> str:
    """A length in words.

    >>> length_words(5040), length_words(7560), length_words(3360)
    ('an eighth note', 'a dotted eighth note', 'an eighth note in a triplet')
    """
    for length in LENGTHS:
        article = "an" if length.name.startswith("e") else "a"
        if ticks == length.ticks:
            return f"{article} {length.name}"
        if ticks == length.dotted:
            return f"a dotted {length.name}"
        if ticks == length.triplet:
            return f"{article} {length.name} in a triplet"
    return f"{ticks / QUARTER:.2f}".rstrip("0").rstrip(".") + " quarter notes"
