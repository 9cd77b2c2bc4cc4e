"""The chart unrolled: what every bar of the recording is, and which chord sounds at a tick."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, replace
from functools import cached_property

from usagi.core.chart.model import BluesFact, Chart, ChartBar, Fact, FeelFact, KeyFact, MeterFact
from usagi.core.harmony.chord import Chord
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.bars import Bar, Bars, lay_bars
from usagi.core.meter.feel import STRAIGHT, Feel
from usagi.core.meter.meters import COMMON_TIME, Meter
from usagi.core.pitch.keys import Key


@dataclass(frozen=True, slots=True)
class Facts:
    """What holds in a bar."""

    meter: Meter = COMMON_TIME
    key: Key | None = None
    feel: Feel = STRAIGHT
    blues: bool = False

    def after(self, facts: tuple[Fact, ...]) -> Facts:
        now = self
        for fact in facts:
            match fact:
                case MeterFact():
                    now = replace(now, meter=fact.meter)
                case KeyFact():
                    now = replace(now, key=fact.value)
                case FeelFact():
                    now = replace(now, feel=fact.value)
                case BluesFact():
                    now = replace(now, blues=fact.on)
        return now


@dataclass(frozen=True, slots=True)
class PlayedBar:
    """One bar of the unrolled form and where it comes from. `place` is the index in the form, `index` in its pass."""

    written: ChartBar
    facts: Facts
    section: str
    chorus: int
    place: int
    time: int
    index: int  # from 1


@dataclass(frozen=True, slots=True)
class Change:
    """A chord that starts to sound at `tick`; `bar` is the number of the bar that it is written in."""

    tick: int
    id: str
    chord: Chord
    heard: Heard | None  # None for N.C.
    bar: int

    @property
    def shown(self) -> str:
        return self.chord.shown

    def same_harmony(self, other: Change) -> bool:
        """The same root and the same core tones, as heard."""
        if self.heard is None or other.heard is None:
            return self.heard is other.heard
        return self.heard.same_harmony(other.heard)


def play(chart: Chart) -> list[PlayedBar]:
    """All bars in the order in which they are played."""
    facts = _written_facts(chart)
    exceptions: dict[tuple[int | None, int, int, int], list[int]] = {}
    for i, exception in enumerate(chart.exceptions):
        exceptions.setdefault((exception.chorus, exception.place, exception.time, exception.bar), []).append(i)
    played: list[PlayedBar] = []
    for chorus in range(1, chart.choruses + 1):
        for place, entry in enumerate(chart.form):
            section = chart.section(entry.section)
            for time in range(1, entry.times + 1):
                for index, bar in enumerate(section.played_bars(time), start=1):
                    now = [(bar, facts[bar.id])]
                    for key in ((None, place, time, index), (chorus, place, time, index)):
                        for i in exceptions.get(key, ()):
                            other = chart.exceptions[i]
                            new = [(b, facts[bar.id].after(b.facts)) for b in other.with_bars]
                            now = {"replace": new, "add": now + new, "drop": []}[other.does]
                    played += [PlayedBar(b, f, section.name, chorus, place, time, index) for b, f in now]
    return played


def _written_facts(chart: Chart) -> dict[str, Facts]:
    """The facts of every written bar, by bar id, carried on in the order of the text."""
    found: dict[str, Facts] = {}
    now = Facts()
    for section in chart.sections:
        for bar in section.written_bars():
            now = now.after(bar.facts)
            found[bar.id] = now
    return found


@dataclass(frozen=True)
class Timeline:
    """The chart over the bars of a recording."""

    bars: Bars
    facts: dict[int, Facts]  # by bar number
    played: dict[int, PlayedBar]  # by bar number, as far as the chart goes
    changes: tuple[Change, ...]  # by tick
    written_end: int  # after this tick there is no chord yet
    left_over: int  # played bars that lie after the last bar of the recording

    @cached_property
    def _ticks(self) -> list[int]:
        return [change.tick for change in self.changes]

    def index_at(self, tick: int) -> int | None:
        """Index of the change that sounds at a tick; None before the first and after the last written bar."""
        if tick >= self.written_end:
            return None
        index = bisect_right(self._ticks, tick) - 1
        return index if index >= 0 else None

    def chord_at(self, tick: int) -> Change | None:
        index = self.index_at(tick)
        return None if index is None else self.changes[index]

    def next_change(self, tick: int) -> Change | None:
        """The first change after a tick."""
        index = bisect_right(self._ticks, tick)
        return self.changes[index] if index < len(self.changes) else None

    @cached_property
    def _next_other(self) -> list[int]:
        """For each change the index of the next one to another chord; the number of changes where there is none."""
        found = [len(self.changes)] * len(self.changes)
        for i in range(len(self.changes) - 2, -1, -1):
            same = self.changes[i].same_harmony(self.changes[i + 1])
            found[i] = found[i + 1] if same else i + 1
        return found

    def next_other(self, tick: int) -> Change | None:
        """The first change after a tick that is to another chord than sounds there."""
        index = bisect_right(self._ticks, tick)
        if index and tick < self.written_end:
            index = self._next_other[index - 1]
        return self.changes[index] if index < len(self.changes) else None

    def facts_at(self, tick: int) -> Facts:
        number = self.bars.at(tick).number
        last = self.bars.bars[-1].number
        return self.facts[min(max(number, self.bars.bars[0].number), last)]

    def end_of(self, index: int) -> int:
        """Where a change stops to sound."""
        return self.changes[index + 1].tick if index + 1 < len(self.changes) else self.written_end

    @cached_property
    def feels(self) -> dict[int, Feel]:
        return {number: facts.feel for number, facts in self.facts.items()}


def unroll(chart: Chart, *, bars: int, pickup_ticks: int = 0) -> Timeline:
    """Lay a chart over the bars of a recording; what the chart does not reach goes on in its last meter.

    Parameters
    ----------
    chart : sections, the form that plays them, choruses and exceptions.
    bars : how many bars the recording has, at least one.
    pickup_ticks : what sounds before bar 1.

    Returns : bars, the facts that hold in each, and every change of chord at its tick.
    """
    played = play(chart)
    fitting = played[:bars]
    last = fitting[-1].facts if fitting else _first_facts(chart)
    meters = [bar.facts.meter for bar in fitting] + [last.meter] * (bars - len(fitting))
    laid = lay_bars(meters, pickup_ticks=pickup_ticks)
    first = 1 if pickup_ticks else 0
    facts = {bar.number: (fitting[bar.number - 1].facts if bar.number <= len(fitting) else last)
             for bar in laid.bars[first:]}  # fmt: skip
    if pickup_ticks:
        facts[0] = facts[1]
    by_number = dict(enumerate(fitting, start=1))
    laid_bars = {bar.number: bar for bar in laid.bars}
    changes = _changes(by_number, laid_bars, -pickup_ticks)
    end = laid_bars[len(fitting)].end if fitting else 0
    return Timeline(laid, facts, by_number, changes, end, len(played) - len(fitting))


def _first_facts(chart: Chart) -> Facts:
    first = next((bar for section in chart.sections for bar in section.written_bars()), None)
    return Facts() if first is None else Facts().after(first.facts)


def _changes(played: dict[int, PlayedBar], bars: dict[int, Bar], first_tick: int) -> tuple[Change, ...]:
    found: dict[int, Change] = {}
    for number, bar in played.items():
        for placed in bar.written.chords:
            tick = max(bars[number].tick + placed.place - placed.push, first_tick)
            chord = parse_chord(placed.symbol)
            found[tick] = Change(tick, placed.id, chord, hear(chord, from_root=placed.from_root), number)
    return tuple(found[tick] for tick in sorted(found))
