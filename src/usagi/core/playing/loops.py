"""Loops and count-ins: which frames of the recording sound, and where the clicks fall (docs/model.md, A loop)."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.audio import RATE_HZ
from usagi.core.document.elements import Phrase
from usagi.core.document.solo import Ground, Solo
from usagi.core.meter.counting import spoken_beat

LEAD_S = 0.03  # the first frame lies this far before the bar line or the onset


@dataclass(frozen=True, slots=True)
class Loop:
    """`[start, end)` in frames of the recording; `tick` and `end_tick` are the marked span."""

    tick: int
    end_tick: int
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class CountIn:
    """Seconds of the clicks from the start of the count-in, whether high, and its length, at the speed that sounds."""

    at_s: tuple[tuple[float, bool], ...]
    beats: tuple[int, ...]  # what is counted on each
    length_s: float


def whole_bars(phrase: Phrase, ground: Ground) -> tuple[int, int]:
    """A phrase as whole bars: from the bar line at or before it to the one at or after its end."""
    bars = ground.timeline.bars
    last = bars.at(phrase.end - 1)
    return bars.at(phrase.start).tick, last.end


def whole_pulses(tick: int, end_tick: int, ground: Ground) -> tuple[int, int]:
    """A span as whole pulses: from the pulse at or before it to the end of the one that holds its last tick."""
    bars = ground.timeline.bars
    _, start, _ = bars.at(tick).pulse_at(tick)
    _, last, length = bars.at(end_tick - 1).pulse_at(end_tick - 1)
    return start, last + length


def with_half_bars(tick: int, end_tick: int, ground: Ground) -> tuple[int, int]:
    """A span with half a bar before it and half a bar after it; what would cut a pulse keeps to the pulses within."""
    bars = ground.timeline.bars
    first = tick - bars.at(tick - 1).meter.bar_ticks // 2
    last = end_tick + bars.at(end_tick).meter.bar_ticks // 2
    _, pulse, length = bars.at(first).pulse_at(first)
    _, last_pulse, _ = bars.at(last).pulse_at(last)
    return min(tick, first if pulse == first else pulse + length), max(end_tick, last_pulse)


def loop_span(solo: Solo, ground: Ground, tick: int, end_tick: int) -> Loop:
    """The frames of a loop over `[tick, end_tick)`.

    The first frame lies 30 ms before the earlier of grid and heard onset, the end as much earlier, so that the
    length is that of the span on the grid.

    Parameters
    ----------
    solo : notes heard on the span's first tick may begin early.
    ground : the grid.
    tick, end_tick : the span.
    """
    grid = ground.grid
    length = round((grid.second(end_tick) - grid.second(tick)) * RATE_HZ)
    heard = [n.heard.onset_s for n in solo.notes if n.heard is not None and n.tick == tick]
    first = min([grid.second(tick), *heard]) - LEAD_S
    start = round(first * RATE_HZ)
    return Loop(tick, end_tick, start, start + max(1, length))


def count_in(ground: Ground, tick: int, *, speed_permille: int) -> CountIn:
    """One bar of clicks before `tick`: the meter there, a click on every pulse, beat 1 higher, at that speed.

    Before a tick within a bar it starts at the same place of a bar, so that beat 1 stays where it is.
    """
    bar = ground.timeline.bars.at(tick)
    speed = speed_permille / 1_000
    per_tick = (ground.grid.second(tick + bar.meter.bar_ticks) - ground.grid.second(tick)) / bar.meter.bar_ticks / speed
    into = tick - bar.counted_from
    starts = sorted(((start - into) % bar.meter.bar_ticks, i) for i, start in enumerate(bar.meter.pulse_starts))
    return CountIn(
        at_s=tuple((start * per_tick, i == 0) for start, i in starts),
        beats=tuple(spoken_beat(bar.meter, i + 1) for _, i in starts),
        length_s=bar.meter.bar_ticks * per_tick,
    )
