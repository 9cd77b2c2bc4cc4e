"""What a search finds, worked out by hand, note by note."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

NAMES = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")


def matches(items: Sequence[str], events: Sequence[set[int | None]]) -> int | None:
    """By hand: how few notes may stand in the gaps for the items to match somewhere; None when they do nowhere."""

    @cache
    def fewest(i: int, j: int) -> int | None:
        if i == len(items):
            return 0
        if items[i] == ".":
            tried = [(k, fewest(i + 1, j + k)) for k in range(4) if j + k <= len(events)]
            return min((k + rest for k, rest in tried if rest is not None), default=None)
        if j >= len(events):
            return None
        if items[i] != "?" and NAMES.index(items[i]) not in events[j]:
            return None
        return fewest(i + 1, j + 1)

    found = [fewest(0, j) for j in range(len(events))]
    return min((one for one in found if one is not None), default=None)
