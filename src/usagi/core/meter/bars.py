"""Bars laid one after another on the axis of ticks, and places in them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, lru_cache

from usagi.core.meter.meters import Meter


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar: its number, first tick, length and meter. The pick-up is bar 0 and may be shorter than its meter."""

    number: int
    tick: int
    ticks: int
    meter: Meter

    @property
    def end(self) -> int:
        return self.tick + self.ticks

    @property
    def counted_from(self) -> int:
        """Where beat 1 would stand: before the first tick in a pick-up, which counts as the end of a full bar."""
        return self.end - self.meter.bar_ticks if self.number == 0 else self.tick

    def pulse_at(self, tick: int) -> tuple[int, int, int]:
        """Index from 0, first tick and length of the pulse that holds `tick`."""
        index, start, length = _pulse_at(self.meter, tick - self.counted_from)
        return index, self.counted_from + start, length

    def place(self, tick: int) -> str:
        """A tick of this bar as `bar:beat+fraction`."""
        return f"{self.number}:{_place_text(self.meter, tick - self.counted_from)}"

    def pulse_ticks(self) -> list[tuple[int, int]]:
        """`(beat from 1, tick)` of every pulse that lies in the bar."""
        all_of_them = enumerate(self.meter.pulse_starts, start=1)
        return [(n, self.counted_from + start) for n, start in all_of_them if self.counted_from + start >= self.tick]


@dataclass(frozen=True)
class Bars:
    """All bars of a ground in order. Outside them the first and last meter go on."""

    bars: tuple[Bar, ...]

    @cached_property
    def _ticks(self) -> list[int]:
        return [bar.tick for bar in self.bars]

    @cached_property
    def _end(self) -> int:
        return self.bars[-1].end

    @property
    def first_tick(self) -> int:
        return self.bars[0].tick

    @property
    def end_tick(self) -> int:
        return self.bars[-1].end

    def at(self, tick: int) -> Bar:
        """The bar that holds a tick.

        >>> lay_bars([Meter(4, 4), Meter(3, 4)]).at(40320).number
        2
        """
        ticks = self._ticks
        if ticks[0] <= tick < self._end:
            return self.bars[bisect_right(ticks, tick) - 1]
        if tick >= self._end:
            last = self.bars[-1]
            more = (tick - last.end) // last.meter.bar_ticks
            start = last.end + more * last.meter.bar_ticks
            return Bar(last.number + 1 + more, start, last.meter.bar_ticks, last.meter)
        first = self.bars[0]
        if tick < first.counted_from:
            before = -((tick - first.counted_from) // first.meter.bar_ticks)
            start = first.counted_from - before * first.meter.bar_ticks
            return Bar(first.number - before, start, first.meter.bar_ticks, first.meter)
        return first  # the part of a pick-up that is not played

    def number(self, number: int) -> Bar | None:
        """The bar of a number, or None when there is none."""
        index = number - self.bars[0].number
        return self.bars[index] if 0 <= index < len(self.bars) else None

    def place(self, tick: int) -> str:
        """`bar:beat+fraction`, the fraction of the pulse.

        >>> lay_bars([Meter(4, 4)]).place(15120), lay_bars([Meter(4, 4)], pickup_ticks=10080).place(-10080)
        ('1:2+1/2', '0:4')
        """
        return self.at(tick).place(tick)


def bar_name(number: int) -> str:
    """A bar as it is called: bar 0 is the pick-up.

    >>> bar_name(0), bar_name(12)
    ('pick-up', 'bar 12')
    """
    return "pick-up" if number == 0 else f"bar {number}"


def _pulse_at(meter: Meter, offset: int) -> tuple[int, int, int]:
    """Index, start and length of the pulse at an offset from beat 1."""
    starts = meter.pulse_starts
    index = max(0, bisect_right(starts, offset) - 1)
    return index, starts[index], meter.pulses[index]


@lru_cache(maxsize=4096)
def _place_text(meter: Meter, offset: int) -> str:
    index, start, length = _pulse_at(meter, offset)
    part = f"+{Fraction(offset - start, length)}" if offset != start else ""
    return f"{index + 1}{part}"


def lay_bars(meters: Iterable[Meter], *, pickup_ticks: int = 0) -> Bars:
    """Lay bars from tick 0 on, the pick-up before it.

    Parameters
    ----------
    meters : the meter of every bar, at least one.
    pickup_ticks : how much of a bar sounds before bar 1; it becomes bar 0.

    >>> [bar.tick for bar in lay_bars([Meter(3, 4)] * 2, pickup_ticks=10_080).bars]
    [-10080, 0, 30240]
    """
    bars: list[Bar] = []
    tick = 0
    for number, meter in enumerate(meters, start=1):
        bars.append(Bar(number, tick, meter.bar_ticks, meter))
        tick += meter.bar_ticks
    if not bars:
        raise ValueError("no bars")
    if pickup_ticks:
        bars.insert(0, Bar(0, -pickup_ticks, pickup_ticks, bars[0].meter))
    return Bars(tuple(bars))
