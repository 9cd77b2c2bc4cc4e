"""Onsets and ends of a performance laid on written steps: kept where they lie on steps already, else quantised."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Final

from usagi.core.meter.bars import Bars
from usagi.core.meter.feel import Feel
from usagi.core.meter.quantise import quantise
from usagi.core.meter.ticks import QUARTER

STEPS: Final = (QUARTER // 24, QUARTER // 10, QUARTER // 14)  # of what is written, not played
NEAR: Final = QUARTER // 240  # as near lies an onset that was written on a step and rounded by its file
WRITTEN: Final = 0.9  # of the onsets: when so many lie on steps, the file is written
TOGETHER: Final = QUARTER // 24  # as near are the notes of one stroke
SMALL: Final = QUARTER // 4  # a gap to the next note that is no rest


def laid_on_steps(
    spans: Sequence[tuple[float, float]], bars: Bars, feels: Mapping[int, Feel], *, played: bool = False
) -> list[tuple[int, int]]:
    """Start and end of every note as it is written.

    Parameters
    ----------
    spans : start and end in ticks of the straight grid, in rising order of their starts.
    bars : of the ground that they are laid on.
    feels : by bar number: where a performance lies beside its steps.
    played : whether it is known to be a performance; else what lies on steps is taken as written.

    Returns : `(tick, ticks)` of each, one tick long at least.
    """
    starts = [start for start, _ in spans]
    written = not played and sum(_off(start) <= NEAR for start in starts) >= WRITTEN * len(starts)
    together = _together(starts, NEAR if written else TOGETHER)
    onsets = sorted(set(together))
    laid = dict(zip(onsets, [_step(on) for on in onsets] if written else quantise(onsets, bars, feels), strict=True))
    ticks = [laid[on] for on in together]
    rising = sorted(set(ticks))
    found = []
    for tick, (start, end) in zip(ticks, spans, strict=True):
        nxt = bisect_right(rising, tick)
        after = rising[nxt] if nxt < len(rising) else None
        if written:
            ticks_long = _written_length(tick, end - start, after)
        else:
            ticks_long = _played_length(tick, end, after, bars, feels)
        found.append((tick, max(1, ticks_long)))
    return found


def joined_spans(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Spans `(start, end)` in order, those that touch or overlap joined.

    >>> joined_spans([(4, 6), (0, 2), (2, 3)])
    [(0, 3), (4, 6)]
    """
    found: list[tuple[int, int]] = []
    for start, end in sorted(spans):
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return found


def silences(spans: Iterable[tuple[int, int]], bars: Bars) -> Iterator[tuple[int, int]]:
    """The rests `(tick, ticks)` of a performance: what is silent from the first bar with a note to the end of the last.

    Parameters
    ----------
    spans : start and end of every note.
    bars : a rest ends with its bar.
    """
    ordered = sorted(spans)
    if not ordered:
        return
    at = bars.at(ordered[0][0]).tick
    last = bars.at(max(max(end for _, end in ordered) - 1, bars.first_tick)).end
    for start, end in [*ordered, (last, last)]:
        while start - at >= SMALL:
            stop = min(start, bars.at(at).end)
            yield at, stop - at
            at = stop
        at = max(at, end)


def _written_length(tick: int, wanted: float, after: int | None) -> int:
    end = tick + wanted
    if after is not None and abs(after - end) <= NEAR:
        return after - tick
    near = _step(end)
    return round(end if abs(near - end) > NEAR else near) - tick


def _played_length(tick: int, end: float, after: int | None, bars: Bars, feels: Mapping[int, Feel]) -> int:
    """Until the next note where hardly anything is missing to it; else to the slot at which it is let go."""
    if after is not None and abs(after - end) <= SMALL:
        return after - tick
    return max(quantise([end], bars, feels)[0] - tick, SMALL // 2)


def _off(tick: float) -> float:
    return min(abs(tick - round(tick / step) * step) for step in STEPS)


def _step(tick: float) -> int:
    """The nearest step of what is written; what lies on none stays where it is."""
    step = min(
        STEPS, key=lambda one: (abs(tick - round(tick / one) * one) > NEAR / 4, abs(tick - round(tick / one) * one))
    )
    near = round(tick / step) * step
    return near if abs(near - tick) <= NEAR else round(tick)


def _together(starts: Sequence[float], near: float) -> list[float]:
    """Starts with those of one stroke made one."""
    found: list[float] = []
    for start in starts:
        found.append(found[-1] if found and start - found[-1] <= near else start)
    return found
