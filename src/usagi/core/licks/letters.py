"""Lines as letters, one an event, so that a database finds them with patterns.

A slot is a letter from a to l, m where there is no chord. In the form for stacks an event is all its letters, sorted,
and a full stop. Steps are letters of their own around a middle one.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from usagi.core.licks.line import KeyFree
from usagi.core.licks.searching import MOST_BETWEEN, By, Search, Unnamed, spread

NO_CHORD: Final = "m"
MIDDLE, WIDEST = 0x4E80, 90  # of a step's letter: a block of letters that are all alike to a database


def slot_letter(slot: int | None) -> str:
    return NO_CHORD if slot is None else chr(ord("a") + slot)


def step_letter(step: int) -> str:
    return chr(MIDDLE + max(-WIDEST, min(WIDEST, step)))


def line_letters(line: KeyFree) -> str:
    """The voice of a line.

    >>> line_letters(KeyFree(((4,), (3, 0), (None,)), (64, 63, 60), (1, 1, 1)))
    'edm'
    """
    return "".join(slot_letter(slots[0]) for slots in line.slots)


def stack_letters(line: KeyFree) -> str | None:
    """All notes of a line that has stacks; None for a line of single notes, which its voice says.

    >>> stack_letters(KeyFree(((4,), (3, 0)), (64, 63), (1, 1)))
    'e.ad.'
    """
    if not line.stacked:
        return None
    return "".join("".join(sorted({slot_letter(slot) for slot in slots})) + "." for slots in line.slots)


def step_letters(line: KeyFree) -> str:
    return "".join(map(step_letter, line.steps))


def patterns(search: Search) -> list[list[str]]:
    """Patterns for LIKE that find a search in a line of single notes (or in its steps), the most exact first.

    One list for each number of notes that may stand in the gaps.

    >>> from usagi.core.licks.searching import read_search
    >>> patterns(read_search("3 . 1"))
    [['%ea%'], ['%e_a%'], ['%e__a%'], ['%e___a%']]
    """
    letter = slot_letter if search.by is By.DEGREES else step_letter
    found: list[list[str]] = [[] for _ in range(MOST_BETWEEN * search.gaps + 1)]
    for more, row in spread(search):
        found[more].append("%" + "".join("_" if item is None else letter(item) for item in row) + "%")
    return found


def stack_patterns(search: Search) -> list[str]:
    """As `patterns`, as regular expressions for a line with stacks, one for each number of notes in the gaps.

    Unnamed note of a stack will do.
    """
    found: list[list[str]] = [[] for _ in range(MOST_BETWEEN * search.gaps + 1)]
    for more, row in spread(search):
        events = "".join(r"[a-m]+\." if item is None else rf"[a-m]*{slot_letter(item)}[a-m]*\." for item in row)
        found[more].append(rf"(^|\.){events}")
    return ["|".join(one) for one in found]


def first_pattern(search: Search) -> str:
    """One pattern that every line with the search fits, whatever stands in its gaps: a first sieve."""
    letter = slot_letter if search.by is By.DEGREES else step_letter
    return "%" + "".join("%" if item is Unnamed.GAP else "_" if item is Unnamed.ONE else letter(item)
                         for item in search.items) + "%"  # fmt: skip


def windows(line: KeyFree, length: int) -> Sequence[str]:
    """Every run of `length` steps of a line, as letters, each once."""
    letters = step_letters(line)
    return list(dict.fromkeys(letters[i : i + length] for i in range(len(letters) - length + 1)))


def read_letters(line: str, stacks: str | None, steps: str) -> KeyFree:
    """A line from its letters, from pitch 0 on; the gaps are not in them.

    >>> ab = KeyFree(((4,), (3, 0)), (0, -1), (0, 0))
    >>> read_letters(line_letters(ab), stack_letters(ab), step_letters(ab)).steps
    (-1,)
    """
    events = line if stacks is None else stacks.split(".")[:-1]
    slots = tuple(tuple(None if one == NO_CHORD else ord(one) - ord("a") for one in event) for event in events)
    pitches = [0]
    for letter in steps:
        pitches.append(pitches[-1] + ord(letter) - MIDDLE)
    return KeyFree(slots, tuple(pitches[: len(slots)]), (0,) * len(slots))
