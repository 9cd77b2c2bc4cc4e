"""Performed onsets laid on written steps, with the feel in mind.

Each pulse is given the grid that explains its onsets best: the squares of what it leaves over, and a price for each
grid in the order in which grids are tried. In a swung bar the slots of two and four lie where the feel expects them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from math import inf

from usagi.core.meter.bars import Bars
from usagi.core.meter.feel import STRAIGHT, Feel, FeelKind

SIMPLE = (1, 2, 3, 4, 6)
COMPOUND = (1, 3, 6, 2)
PRICE = 0.0035  # in squares of a pulse, for each grid further down the list
EARLY = 1 / 8  # of a pulse: what comes so shortly before a pulse belongs to it


def quantise(ticks: Sequence[float], bars: Bars, feels: Mapping[int, Feel]) -> list[int]:
    """The written tick of each performed one (both in ticks of the straight grid), in rising order.

    Two onsets never take one step; where a pulse has more onsets than any grid has slots, they keep their ticks.

    >>> from usagi.core.meter.bars import lay_bars
    >>> from usagi.core.meter.meters import COMMON_TIME
    >>> quantise([40.0, 5200.0, 10000.0], lay_bars([COMMON_TIME]), {})
    [0, 5040, 10080]
    """

    def pulse_of(tick: float) -> tuple[int, int, int, bool]:
        bar = bars.at(int(tick))
        _, start, length = bar.pulse_at(int(tick))
        if tick >= start + length * (1 - EARLY):
            bar = bars.at(start + length)
            _, start, length = bar.pulse_at(start + length)
        return start, length, bar.number, bar.meter.compound

    found: list[int] = []
    for (start, length, number, compound), group in groupby(sorted(ticks), key=pulse_of):
        feel = feels.get(number, STRAIGHT)
        found += _laid([(tick - start) / length for tick in group], start, length, feel, compound=compound)
    for i in range(1, len(found)):
        found[i] = max(found[i], found[i - 1] + 1)
    return found


def _laid(parts_in: list[float], start: int, length: int, feel: Feel, *, compound: bool) -> list[int]:
    best: tuple[float, list[int]] = (inf, [start + round(part * length) for part in parts_in])
    for rank, parts in enumerate(COMPOUND if compound else SIMPLE):
        slots = [(_expected(slot, parts, length, feel, compound=compound), slot) for slot in range(parts)]
        chosen = [min(slots, key=lambda one: abs(one[0] - part)) for part in parts_in]
        if len({slot for _, slot in chosen}) < len(chosen):
            continue
        left = sum((at - part) ** 2 for (at, _), part in zip(chosen, parts_in, strict=True)) + PRICE * rank
        if left < best[0]:
            best = left, [start + length * slot // parts for _, slot in chosen]
    return best[1]


def _expected(slot: int, parts: int, length: int, feel: Feel, *, compound: bool) -> float:
    """Where a slot is expected, as a share of its pulse."""
    if compound or feel.kind is FeelKind.STRAIGHT or parts not in (2, 4) or length % feel.divided:
        return slot / parts
    at = slot / parts * length / feel.divided
    return (int(at) + feel.moved(at % 1)) * feel.divided / length
