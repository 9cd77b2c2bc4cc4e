"""Where the ticks of a line stand: the longer a note, the wider, but less than in proportion."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from usagi.core.meter.ticks import EIGHTH

LEAST_PT: Final = 15.0  # between two onsets, so that two numbers do not touch
EIGHTH_PT: Final = 22.0
GROWTH: Final = 0.62  # of the room with the length


@dataclass(frozen=True)
class Spacing:
    """Places of some ticks, linear between them."""

    ticks: tuple[int, ...]
    places: tuple[float, ...]

    def x(self, tick: int) -> float:
        """Points from the left edge of the line; what lies outside stands at its ends."""
        if tick <= self.ticks[0]:
            return self.places[0]
        if tick >= self.ticks[-1]:
            return self.places[-1]
        i = bisect_right(self.ticks, tick) - 1
        part = (tick - self.ticks[i]) / (self.ticks[i + 1] - self.ticks[i])
        return self.places[i] + part * (self.places[i + 1] - self.places[i])


def natural_width(ticks: Sequence[int], onsets: Iterable[int]) -> float:
    """The points that a line wants.

    Parameters
    ----------
    ticks : places that matter, rising: onsets, pulses, the line's ends.
    onsets : those of them at which a note starts.
    """
    return sum(_gaps(ticks, set(onsets)))


def spaced(ticks: Sequence[int], onsets: Iterable[int], room: float, *, fill: bool = True) -> Spacing:
    """The places of a line.

    Parameters
    ----------
    ticks, onsets : as in `natural_width`; two ticks or more.
    room : points; a line that wants more is pressed together.
    fill : whether a line that wants less is drawn out to the room.
    """
    gaps = _gaps(ticks, set(onsets))
    whole = sum(gaps)
    factor = room / whole if fill or whole > room else 1.0
    places = [0.0]
    for gap in gaps:
        places.append(places[-1] + gap * factor)
    return Spacing(tuple(ticks), tuple(places))


def _gaps(ticks: Sequence[int], onsets: set[int]) -> list[float]:
    found = []
    for tick, after in pairwise(ticks):
        wanted = EIGHTH_PT * ((after - tick) / EIGHTH) ** GROWTH
        found.append(max(LEAST_PT if tick in onsets else LEAST_PT / 2, wanted))
    return found
