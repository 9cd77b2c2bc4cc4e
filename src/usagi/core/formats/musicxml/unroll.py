"""Repeats, endings and jumps of a score played out: which measures sound, in their order."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.formats.score import MOST_BARS, FileUnreadable

MOST_TIMES: Final = 32


@dataclass
class Marks:
    """What a measure says of the order of play."""

    forward: bool = False
    backward: int = 0  # how often all is played; 0 without a repeat sign
    endings: frozenset[int] | None = None  # the passes of an ending that begins here
    ends: bool = False  # an ending stops here
    segno: str | None = None
    coda: str | None = None
    da_capo: bool = False
    dal_segno: str | None = None
    to_coda: str | None = None
    fine: bool = False


def unrolled(marks: Sequence[Marks]) -> list[int]:
    """The indices of measures in the order in which they are played.

    Each repeat is played as often as it says, endings in their passes; a da capo or dal segno is taken once, and after
    it repeats are not played again, a fine ends and a coda is jumped to.

    Raises : FileUnreadable, when that is more than MOST_BARS.

    >>> first, second = Marks(endings=frozenset({1}), ends=True, backward=2), Marks(endings=frozenset({2}))
    >>> unrolled([Marks(forward=True), first, second])
    [0, 1, 0, 2]
    """
    found: list[int] = []
    start, time, jumped = 0, 1, False
    done: set[int] = set()  # repeats that are played out
    ending: frozenset[int] | None = None
    at = 0
    while 0 <= at < len(marks):
        mark = marks[at]
        if mark.forward and at != start:
            start, time = at, 1
        if mark.endings is not None:
            ending = mark.endings
            if not _plays(mark.endings, time, last=jumped):
                at = _after_ending(marks, at)
                ending = None
                continue
        found.append(at)
        if len(found) > MOST_BARS:
            raise FileUnreadable(f"Played out, this is more than {MOST_BARS} bars. Take a part of it.")
        if mark.fine and jumped:
            break
        if mark.to_coda is not None and jumped:
            coda = _find(marks, "coda", mark.to_coda)
            if coda is not None and coda > at:
                at, ending = coda, None
                start, time = at, 1
                continue
        if mark.backward and at not in done and not jumped:
            times = max(mark.backward, _passes(marks, start, at))
            if time < times:
                time += 1
                at = start
                ending = None
                continue
            done.add(at)
            start, time = at + 1, (time if ending is not None and _more(marks, at) else 1)
        if mark.ends or (ending is not None and at + 1 < len(marks) and marks[at + 1].endings is not None):
            ending = None
        if not jumped and (mark.da_capo or mark.dal_segno is not None):
            jumped = True
            to = 0 if mark.da_capo else _find(marks, "segno", mark.dal_segno)
            if to is not None:
                at, start, time, ending = to, to, 1, None
                continue
        at += 1
    return found


def _plays(endings: frozenset[int], time: int, *, last: bool) -> bool:
    """Whether an ending belongs to a pass; after a jump the last one is taken."""
    return (1 not in endings) if last else time in endings


def _after_ending(marks: Sequence[Marks], at: int) -> int:
    """The measure behind an ending."""
    index = at
    while index < len(marks):
        if marks[index].ends:
            return index + 1
        index += 1
        if index < len(marks) and marks[index].endings is not None:
            return index
    return index


def _passes(marks: Sequence[Marks], start: int, at: int) -> int:
    """How often a repeat is played, as its endings say: those before the sign, and those that follow it."""
    numbers = [n for mark in marks[start : at + 1] if mark.endings is not None for n in mark.endings]
    index = at + 1
    while numbers and index < len(marks) and marks[index].endings is not None:
        numbers += [n for n in marks[index].endings or () if n <= MOST_TIMES]
        while index < len(marks) and not marks[index].ends and not marks[index].backward:
            index += 1
        index += 1
    return max(numbers, default=0)


def _more(marks: Sequence[Marks], at: int) -> bool:
    return at + 1 < len(marks) and marks[at + 1].endings is not None


def _find(marks: Sequence[Marks], kind: str, name: str | None) -> int | None:
    places = [i for i, mark in enumerate(marks) if getattr(mark, kind) is not None]
    same = [i for i in places if getattr(marks[i], kind) == name]
    return next(iter(same or places), None)


def ending_numbers(text: str) -> frozenset[int]:
    """The passes of an ending as they are written.

    >>> sorted(ending_numbers("1, 2")), sorted(ending_numbers("1-3"))
    ([1, 2], [1, 2, 3])
    """
    found: set[int] = set()
    for first, last in re.findall(r"(\d{1,2})(?:\s*-\s*(\d{1,2}))?", text):
        found |= set(range(int(first), min(int(last or first), MOST_TIMES) + 1))
    return frozenset(found)
