"""The grid: which second of the recording a tick falls on."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from usagi.core.errors import UsagiError
from usagi.core.meter.ticks import QUARTER


class GridImpossible(UsagiError):
    """Anchors that do not rise, or a tempo that cannot be."""

    code = "grid-impossible"


SLOWEST_BPM, FASTEST_BPM = 20.0, 400.0


@dataclass(frozen=True)
class Grid:
    """Anchors `(tick, second)`, two or more, strictly rising in both; linear between, and outside as at the end."""

    ticks: tuple[int, ...]
    seconds: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.ticks) < 2 or len(self.ticks) != len(self.seconds):
            raise GridImpossible("A tempo grid needs two anchors: where bar 1 starts, and one more place.")
        for i in range(len(self.ticks) - 1):
            if self.ticks[i] >= self.ticks[i + 1] or self.seconds[i] >= self.seconds[i + 1]:
                raise GridImpossible(
                    f"The anchor at {self.seconds[i + 1]:.2f} s does not come after the one at {self.seconds[i]:.2f} s."
                )

    def second(self, tick: float) -> float:
        """Seconds of the recording at a tick.

        >>> Grid((0, 10080), (1.0, 1.5)).second(20160)
        2.0
        """
        return _line(self.ticks, self.seconds, tick)

    def tick(self, second: float) -> float:
        """The tick at a second; the inverse of `second`."""
        return _line(self.seconds, self.ticks, second)

    def tempo_bpm(self, tick: int, pulse_ticks: int) -> float:
        """Pulses a minute at a tick."""
        return 60.0 / (self.second(tick + pulse_ticks) - self.second(tick))


def _line(xs: Sequence[float], ys: Sequence[float], x: float) -> float:
    i = min(max(bisect_right(xs, x) - 1, 0), len(xs) - 2)
    return ys[i] + (x - xs[i]) * (ys[i + 1] - ys[i]) / (xs[i + 1] - xs[i])


def grid_at_tempo(bar_one_s: float, tempo_bpm: float, pulse_ticks: int = QUARTER) -> Grid:
    """The grid of a stated tempo: bar 1 at `bar_one_s`, and a second anchor sixty pulses on.

    Parameters
    ----------
    bar_one_s : second of the recording at which tick 0 lies.
    tempo_bpm : pulses a minute, above zero.
    pulse_ticks : ticks of the pulse that is counted.

    >>> grid_at_tempo(1.5, 120.0).second(10_080)
    2.0
    """
    if not SLOWEST_BPM <= tempo_bpm <= FASTEST_BPM:
        raise GridImpossible(f"A tempo of {tempo_bpm:g} is out of reach: {SLOWEST_BPM:g} to {FASTEST_BPM:g} a minute.")
    # Sixty pulses apart, so that rounding a second anchor to microseconds does not bend the tempo.
    return Grid((0, 60 * pulse_ticks), (bar_one_s, round(bar_one_s + 3600.0 / tempo_bpm, 6)))
