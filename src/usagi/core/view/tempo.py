"""The tempo over the bars of a ground, and how far its beats lie from what is struck in the recording."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from statistics import median
from typing import Final

import numpy as np

from usagi.core.document.solo import Ground
from usagi.core.meter.bars import Bar, bar_name
from usagi.core.values import Value

NEAR_S: Final = 0.09  # from a beat to an onset that may be its own
FAR_MS: Final = 30  # from here on a bar is worth a look
STEADY: Final = 0.01  # of the tempo: less than this is no drift


class TempoBar(Value):
    """A bar: its tempo in pulses a minute, whether an anchor lies on it, and how late its beats are heard.

    `off_ms` : what is struck minus the grid, the middle one of its beats; None where nothing is struck near them.
    """

    bar: int
    name: str
    tick: int
    end: int
    bpm: float
    anchored: bool
    off_ms: float | None


class HeardTempo(Value):
    """The tempo between two beats that were heard in the recording, at the tick where the grid has the first."""

    tick: int
    bpm: float


class TempoView(Value):
    bars: tuple[TempoBar, ...]
    heard: tuple[HeardTempo, ...]
    says: str  # how the tempo goes
    beats: str  # how far the beats lie from the onsets; empty without a recording
    far_ms: int = FAR_MS


def view_tempo(
    ground: Ground, onsets_s: Sequence[float] | None = None, heard_s: Sequence[float] = (), first_bar: int = 1
) -> TempoView:
    """The tempo of every bar.

    Parameters
    ----------
    ground : grid and bars.
    onsets_s : seconds at which something is struck in the recording, rising; None without one.
    heard_s : seconds of the beats that were heard in it, rising.
    first_bar : the bar that the drift is told from.

    Returns : bars in their order; the drift is told between the first and the last of them.
    """
    grid = ground.grid
    struck = None if onsets_s is None else np.asarray(onsets_s, dtype=np.float64)
    anchors = {anchor.tick for anchor in ground.anchors}
    bars = tuple(
        TempoBar(
            bar=bar.number,
            name=bar_name(bar.number),
            tick=bar.tick,
            end=bar.end,
            bpm=round(_bpm(bar, ground), 1),
            anchored=any(bar.tick <= tick < bar.end for tick in anchors),
            off_ms=None if struck is None else _off_ms(bar, ground, struck),
        )
        for bar in ground.timeline.bars.bars
    )
    steps = [(a, b - a) for a, b in pairwise(heard_s) if b > a]
    return TempoView(
        bars=bars,
        heard=tuple(HeardTempo(tick=round(grid.tick(at)), bpm=round(60 / step, 1)) for at, step in steps),
        says=_drift([bar for bar in bars if bar.bar >= first_bar]),
        beats="" if struck is None else _spread(bars),
    )


def _bpm(bar: Bar, ground: Ground) -> float:
    """Pulses a minute, averaged over the bar."""
    seconds = ground.grid.second(bar.end) - ground.grid.second(bar.tick)
    return 60 * max(1, len(bar.pulse_ticks())) / seconds


def _off_ms(bar: Bar, ground: Ground, struck: np.ndarray[tuple[int], np.dtype[np.float64]]) -> float | None:
    offs = []
    for _, tick in bar.pulse_ticks():
        beat = ground.grid.second(tick)
        near = struck[np.searchsorted(struck, beat - NEAR_S) : np.searchsorted(struck, beat + NEAR_S)]
        if len(near):
            offs.append(float(near[np.argmin(np.abs(near - beat))] - beat))
    return round(1_000 * median(offs), 1) if offs else None


def _drift(bars: Sequence[TempoBar]) -> str:
    if not bars:
        return "There are no bars yet."
    first, last = bars[0], bars[-1]
    if all(abs(bar.bpm / first.bpm - 1) < STEADY for bar in bars):
        return f"{first.bpm:.0f} a minute throughout."
    low, high = min(bars, key=lambda bar: bar.bpm), max(bars, key=lambda bar: bar.bpm)
    return (
        f"{first.bpm:.0f} a minute in {first.name}, {last.bpm:.0f} in {last.name}; "
        f"slowest in {low.name} ({low.bpm:.0f}), fastest in {high.name} ({high.bpm:.0f})."
    )


def _spread(bars: Sequence[TempoBar]) -> str:
    offs = [(bar, abs(bar.off_ms)) for bar in bars if bar.off_ms is not None]
    if not offs:
        return "No notes were found near the beats. Listen with the click: is the grid in the right place?"
    worst, most = max(offs, key=lambda one: one[1])
    usual = median(off for _, off in offs)
    far = sum(off >= FAR_MS for _, off in offs)
    more = f"; {far} bar{'' if far == 1 else 's'} {FAR_MS} ms or more" if far else ""
    return f"Onsets are {usual:.0f} ms off the beats in a typical bar, {most:.0f} ms in the worst ({worst.name}){more}."
