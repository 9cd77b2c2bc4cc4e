"""What is searched for: degrees or steps as they are typed, and whether a line has them (docs/music.md, Licks)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Final, NamedTuple

from usagi.core.document.solo import STANDARD
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import open_pitch
from usagi.core.licks.line import KeyFree

SLOTS: Final = {
    "1": 0, "b2": 1, "b9": 1, "2": 2, "9": 2, "b3": 3, "#9": 3, "#2": 3, "3": 4, "4": 5, "11": 5, "b5": 6, "#4": 6,
    "#11": 6, "5": 7, "#5": 8, "b6": 8, "b13": 8, "6": 9, "13": 9, "bb7": 9, "b7": 10, "7": 11,
}  # fmt: skip
MOST_BETWEEN: Final = 3  # notes that a gap may stand for
MOST_GAPS: Final = 3
LONGEST: Final = 24
_STEP = re.compile(r"[+-]\d{1,2}$")
_PLACE = re.compile(r"(\d)/(\d{1,2})$")


class SearchUnreadable(UsagiError):
    """A search that cannot be read."""

    code = "search-unreadable"


class Unnamed(StrEnum):
    """What stands for notes that are not named: one, or none to three."""

    ONE = "?"
    GAP = "·"


class By(StrEnum):
    """What a search names: degrees over the chord, or steps in semitones from note to note, in any key."""

    DEGREES = "degrees"
    STEPS = "steps"


@dataclass(frozen=True)
class Search:
    """The items of a search in order: slots or steps, or what stands for others. None of them finds everything."""

    by: By = By.DEGREES
    items: tuple[int | Unnamed, ...] = ()

    @property
    def gaps(self) -> int:
        return sum(item is Unnamed.GAP for item in self.items)

    @property
    def named(self) -> int:
        return sum(isinstance(item, int) for item in self.items)


class Match(NamedTuple):
    """Where a line has what is searched for: its first and last event, and how many notes stand in the gaps."""

    first: int
    last: int
    more: int


def read_search(text: str) -> Search:
    """Read `3 b3 1 · 6`, or steps with their signs, `+3 -1 0`, or places on a neck in standard tuning, `2/8 3/9`.

    Places are searched by the steps between them. `?` is one note, `·` (or a full stop, or three) none to three; at
    the ends, where a search is still being typed, a gap says nothing. Raises : SearchUnreadable, naming the word.

    >>> read_search("3 ♭3 1 . 13").items
    (4, 3, 0, <Unnamed.GAP: '·'>, 9)
    >>> read_search("+4 0 -1").by
    <By.STEPS: 'steps'>
    >>> print_search(read_search("2/8 2/10 3/9"))
    '+2 -5'
    """
    words = text.replace("♭", "b").replace("♯", "#").replace("−", "-").replace(",", " ").split()
    if any("/" in word for word in words):
        return Search(By.STEPS, _between_places(words))
    signed = [word for word in words if word[0] in "+-" and len(word) > 1]
    by = By.STEPS if signed else By.DEGREES
    items: list[int | Unnamed] = []
    for word in words:
        if word == "?":
            items.append(Unnamed.ONE)
        elif word in ("·", ".", "...", "…"):
            if items and items[-1] is not Unnamed.GAP:
                items.append(Unnamed.GAP)
        else:
            items.append(_step(word) if by is By.STEPS else slot_of_word(word))
    while items and items[-1] is Unnamed.GAP:
        items.pop()
    found = Search(by, tuple(items))
    if found.gaps > MOST_GAPS:
        raise SearchUnreadable(f"A search has {MOST_GAPS} gaps at most; write ? where one note stands.")
    if len(items) > LONGEST:
        raise SearchUnreadable(f"A search has {LONGEST} notes at most; this one has {len(items)}.")
    return found


def _between_places(words: Sequence[str]) -> tuple[int, ...]:
    """Steps from place to place, string before fret."""
    pitches = []
    for word in words:
        found = _PLACE.match(word)
        if found is None or not 1 <= int(found[1]) <= len(STANDARD):
            raise SearchUnreadable(f"“{word}” is no place: write string and fret, as 2/8 for fret 8 on string 2.")
        pitches.append(open_pitch(int(found[1]), STANDARD, 0) + int(found[2]))
    if len(pitches) > LONGEST:
        raise SearchUnreadable(f"A search has {LONGEST} notes at most; this one has {len(pitches)}.")
    return tuple(b - a for a, b in pairwise(pitches))


def slot_of_word(word: str) -> int:
    """The slot of a degree as it is typed. Raises : SearchUnreadable."""
    slot = SLOTS.get(word.replace("♭", "b").replace("♯", "#").lower())
    if slot is None:
        raise SearchUnreadable(
            f"“{word}” is no degree: write 1, b3, 5 …, ? for any note, a full stop for none to three notes, "
            "or steps in half steps with their signs, as +3 -1.",
            word=word,
        )
    return slot


def _step(word: str) -> int:
    if word == "0":
        return 0
    if not _STEP.match(word):
        raise SearchUnreadable(f"“{word}” is no step: write half steps with a sign, as +3 -1, or 0.", word=word)
    return int(word)


def print_search(search: Search) -> str:
    """A search as it is typed; reading it gives the same search.

    >>> print_search(read_search("3 b3 1 . 6"))
    '3 b3 1 · 6'
    """
    names = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")
    words = []
    for item in search.items:
        if isinstance(item, Unnamed):
            words.append(str(item))
        else:
            words.append(names[item] if search.by is By.DEGREES else f"{item:+d}" if item else "0")
    return " ".join(words)


def spread(search: Search) -> list[tuple[int, tuple[int | None, ...]]]:
    """Every way to fill the gaps: how many notes stand in them, and the items in a row, None for any note.

    In the order of how many, then from the left.
    """
    rows: list[tuple[int, tuple[int | None, ...]]] = [(0, ())]
    for item in search.items:
        if item is Unnamed.GAP:
            rows = [(more + n, (*row, *(None,) * n)) for more, row in rows for n in range(MOST_BETWEEN + 1)]
        else:
            rows = [(more, (*row, None if item is Unnamed.ONE else item)) for more, row in rows]
    return sorted(rows, key=lambda row: row[0])


def find(search: Search, line: KeyFree) -> Match | None:
    """The most exact place of a search in a line, the first of several; None when the line has it nowhere."""
    for more, row in spread(search):
        for first in _places(row, search.by, line):
            return Match(first, first + len(row) - (1 if search.by is By.DEGREES else 0), more)
    return None


def _places(row: Sequence[int | None], by: By, line: KeyFree) -> Iterator[int]:
    if by is By.DEGREES:
        for first in range(len(line.slots) - len(row) + 1):
            if all(item is None or item in line.slots[first + i] for i, item in enumerate(row)):
                yield first
    else:
        for first in range(len(line.steps) - len(row) + 1):
            if all(item is None or item == line.steps[first + i] for i, item in enumerate(row)):
                yield first


_BETWEEN = re.compile(r"\s*(?:,|→|->|–|\bto\b)\s*|\s+-\s+")
_MINOR = re.compile(r"^([b#]?[iv]+)m(?!aj)")


def motion_marks(motion: str) -> str:
    """A motion of chords with a bar around each, in either case and without parentheses: what is searched for in it.

    >>> motion_marks("I7 to IV7"), motion_marks("iim7, V7(b9)")
    ('|i7|iv7|', '|ii7|v7b9|')
    """
    words = [word.strip().lower() for word in _BETWEEN.split(motion.replace("♭", "b").replace("♯", "#"))]
    plain = [_MINOR.sub(r"\1", re.sub(r"[()\s]", "", word)) for word in words]
    return "".join(f"|{word}" for word in plain if word) + "|" if any(plain) else ""
