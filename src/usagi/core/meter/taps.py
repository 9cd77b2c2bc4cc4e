"""A grid through taps: somebody's foot or finger on the pulses of a recording.

Taps come in seconds of the recording, in the order in which they were made. One too many, one left out or one far off
does no harm: every place of the grid is read from a straight line through the taps around it, and a tap that lies far
from the line of its neighbours is left out. The line is local, so a tempo that drifts is followed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usagi.core.errors import UsagiError
from usagi.core.meter.bars import Bars

Line = NDArray[np.float64]
FEWEST = 4
AROUND = 12  # pulses on either side that a place is read from
FAR_S = 0.060  # from the line of the others, and
FAR_TIMES = 4.0  # so many times what is usual: then a tap is left out
STRAIGHT_S = 0.004  # an anchor that the line of its neighbours hits within this is not needed


class TapsUnreadable(UsagiError):
    """Taps that no grid goes through."""

    code = "taps-unreadable"


@dataclass(frozen=True)
class TapFit:
    """Anchors `(tick, second)`; how even it was: the median distance of a tap from its line, in ms."""

    anchors: tuple[tuple[int, float], ...]
    even_ms: float
    left_out: tuple[int, ...]  # indexes of taps
    first_bpm: float
    last_bpm: float

    @property
    def sentence(self) -> str:
        """The fit in words."""
        out = len(self.left_out)
        left = "" if not out else ", one left out" if out == 1 else f", {out} left out"
        low, high = round(self.first_bpm, 1), round(self.last_bpm, 1)
        tempo = f"{low:g} a minute" if abs(low - high) < 0.6 else f"{low:g} at first, {high:g} at the end"
        return f"Even to {self.even_ms:.0f} ms{left}; {tempo}."


def fit_taps(taps: Sequence[float], from_tick: int, bars: Bars) -> TapFit:
    """The grid of taps on every pulse, the first of them at `from_tick`.

    Each place is read from a line through the taps around it, so a bad, missing or extra tap does no harm and a drift
    is followed.

    Parameters
    ----------
    taps : rising seconds of the recording.
    from_tick : where the first tap lies.
    bars : whose pulses were tapped.

    Raises : TapsUnreadable, for fewer than four or when they do not go forward.
    """
    at = np.asarray(taps, dtype=np.float64)
    if len(at) < FEWEST:
        raise TapsUnreadable(f"{len(at)} taps are too few: a grid needs {FEWEST} at least.", taps=len(at))
    if np.any(np.diff(at) <= 0):
        raise TapsUnreadable("The taps do not go forward: tap along without moving back in the recording.")
    pulse = _pulses(at)
    kept = _kept(pulse, at)
    if int(kept.sum()) < FEWEST:
        raise TapsUnreadable("These taps do not lie on a beat: tap once on every beat.", taps=len(at))
    number, second = pulse[kept], at[kept]
    lines = np.array([_line_at(n, number, second) for n in number])
    even = float(np.median(np.abs(second - lines))) * 1_000
    ticks = _pulse_ticks(from_tick, bars, int(number[-1]) + 1)
    anchors = _needed(_anchors(ticks, number, second, bars))
    step = _slope(number, second)
    return TapFit(
        anchors=tuple((tick, round(s, 6)) for tick, s in anchors),
        even_ms=even,
        left_out=tuple(int(i) for i in np.flatnonzero(~kept)),
        first_bpm=60 / step[0],
        last_bpm=60 / step[-1],
    )


def _pulses(at: Line) -> NDArray[np.int64]:
    """Which pulse each tap means, from the steps around it: none between two is one too many, two is one left out."""
    steps = np.diff(at)
    numbers = [0]
    for i, step in enumerate(steps):
        near = steps[max(0, i - AROUND) : i + AROUND + 1]
        numbers.append(numbers[-1] + round(step / float(np.median(near))))
    return np.asarray(numbers, dtype=np.int64)


def _kept(pulse: NDArray[np.int64], at: Line) -> NDArray[np.bool_]:
    """Taps that are near the line of the others; of two on one pulse the nearer."""
    kept = np.ones(len(at), dtype=bool)
    for _ in range(3):
        off = np.zeros(len(at))
        for i, number in enumerate(pulse):
            others = kept & (np.arange(len(at)) != i)
            off[i] = at[i] - _line_at(int(number), pulse[others], at[others])
        usual = float(np.median(np.abs(off[kept])))
        far = kept & (np.abs(off) > max(FAR_S, FAR_TIMES * usual))
        if not far.any():
            break
        kept[np.argmax(np.where(far, np.abs(off), 0))] = False
    for i in map(int, np.flatnonzero(np.diff(pulse) == 0)):
        if kept[i] and kept[i + 1]:
            kept[i if abs(off[i]) > abs(off[i + 1]) else i + 1] = False
    return kept


def _line_at(number: float, pulses: NDArray[np.int64], seconds: Line) -> float:
    """Where a pulse lies on the line through the taps around it, the near ones counting most."""
    distance = np.abs(pulses - number)
    near = distance <= AROUND
    if int(near.sum()) < FEWEST:
        near = distance <= np.sort(distance)[min(FEWEST, len(pulses)) - 1]
    weight = 1 - distance[near] / (distance[near].max() + 1)
    _, level = np.polyfit(pulses[near] - number, seconds[near], 1, w=np.sqrt(weight))
    return float(level)


def _slope(pulses: NDArray[np.int64], seconds: Line) -> tuple[float, float]:
    """Seconds a pulse at the first and at the last tap."""
    first, last = slice(0, AROUND + 1), slice(-AROUND - 1, None)
    return float(np.polyfit(pulses[first], seconds[first], 1)[0]), float(np.polyfit(pulses[last], seconds[last], 1)[0])


def _pulse_ticks(from_tick: int, bars: Bars, count: int) -> list[int]:
    ticks: list[int] = []
    tick = from_tick
    while len(ticks) < count:
        ticks.append(tick)
        _, start, length = bars.at(tick).pulse_at(tick)
        tick = start + length
    return ticks


def _anchors(ticks: list[int], pulses: NDArray[np.int64], seconds: Line, bars: Bars) -> list[tuple[int, float]]:
    """One at every bar line that was tapped, one at the first and one at the last tap."""
    last = len(ticks) - 1
    wanted = [i for i, tick in enumerate(ticks) if i in (0, last) or bars.at(tick).tick == tick]
    return [(ticks[i], _line_at(i, pulses, seconds)) for i in wanted]


def _needed(anchors: list[tuple[int, float]]) -> list[tuple[int, float]]:
    """Anchors without those that lie on the line between the ones kept (Ramer, Douglas and Peucker)."""
    if len(anchors) < 3:
        return anchors
    (t0, s0), (t1, s1) = anchors[0], anchors[-1]
    off = [abs(s - (s0 + (t - t0) * (s1 - s0) / (t1 - t0))) for t, s in anchors]
    worst = int(np.argmax(off))
    if off[worst] <= STRAIGHT_S:
        return [anchors[0], anchors[-1]]
    return _needed(anchors[: worst + 1])[:-1] + _needed(anchors[worst:])
