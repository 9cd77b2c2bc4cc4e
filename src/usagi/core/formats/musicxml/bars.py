"""Measures as bars: the pick-up, measures that share a bar, bars of another length than their meter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from usagi.core.formats.musicxml.measures import Measure
from usagi.core.formats.score import (
    FileUnreadable,
    ScoreBar,
)
from usagi.core.meter.meters import COMMON_TIME, DENOMINATORS, MOST_BEATS, Meter
from usagi.core.meter.ticks import QUARTER, WHOLE


def played_bars(measures: Sequence[Measure], order: Sequence[int]) -> tuple[list[ScoreBar], list[int], int, list[str]]:
    """Bars as they are played, where each played measure starts, the pick-up, and what is odd about them.

    A short measure that is no bar of its own (implicit, or the pick-up that comes again) joins the one before it when
    both together make a bar.
    """
    odd: list[str] = []
    first = measures[order[0]]
    pickup = 0
    if first.meter is not None and 0 < first.length < first.meter.bar_ticks and len(order) > 1:
        pickup = first.length
    bars: list[ScoreBar] = []
    starts: list[int] = []
    begin, filled, meter = -pickup, 0, COMMON_TIME  # of the bar that is being filled

    def close() -> None:
        nonlocal begin, filled
        if bars and filled < meter.bar_ticks:
            bars[-1] = replace(bars[-1], meter=_of_length(filled, meter))
            odd.append(f"Bar {len(bars)} has {bars[-1].meter}, as it is played.")
        begin += bars[-1].meter.bar_ticks if bars else pickup
        filled = 0

    section, feel = (first.section, first.feel) if pickup else (None, None)
    for place, index in enumerate(order):
        measure = measures[index]
        length = pickup if pickup and index == order[0] else _length(measure)
        if measure.marks.backward and pickup and measure.length + pickup == length:
            length = measure.length  # it is short by the pick-up, which is played behind it
        if place == 0 and pickup:
            starts.append(begin)
            continue
        shares = measure.implicit or (pickup > 0 and index == order[0])
        if bars and filled and shares and filled + length <= meter.bar_ticks:
            starts.append(begin + filled)
            filled += length
            continue
        close()
        starts.append(begin)
        meter = measure.meter if measure.meter is not None else _of_length(length, COMMON_TIME)
        if length > meter.bar_ticks:
            meter = _of_length(length, meter)
            odd.append(f"Bar {len(bars) + 1} is longer than its meter: it has {meter} here.")
        filled = length
        bars.append(ScoreBar(meter, measure.key, measure.section or section, measure.feel or feel))
        section = feel = None
    if not bars:
        raise FileUnreadable("This part has no whole bar.")
    filled = max(filled, meter.bar_ticks)  # a last bar that is short is left unfilled
    close()
    return bars, starts, pickup, odd


def _length(measure: Measure) -> int:
    """The ticks that a measure takes: as long as it is in the file; its meter where nothing is written."""
    if measure.meter is None:
        return max(measure.length, QUARTER)
    return measure.length or measure.meter.bar_ticks


def _of_length(ticks: int, like: Meter) -> Meter:
    """A meter of a length, over the denominator of `like` where that can be; else to the next thirty-second."""
    for denominator in (like.denominator, *(d for d in DENOMINATORS if d >= 4)):
        beat = WHOLE // denominator
        if ticks % beat == 0 and 1 <= ticks // beat <= MOST_BEATS:
            return Meter(ticks // beat, denominator)
    for denominator in (32, 16, 8, 4, 2, 1):
        count = -(-ticks // (WHOLE // denominator))
        if count <= MOST_BEATS:
            return Meter(count, denominator)
    raise FileUnreadable("A measure of this part is too long to be counted.")
