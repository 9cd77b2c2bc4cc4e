"""What is said of a pitch over a chord, remembered: the same few come back all through a solo."""

from __future__ import annotations

from typing import Any, NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.lines import Line, StageLabel
from usagi.core.degrees.naming import name_pitch
from usagi.core.harmony.heard import Heard
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import School
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, pitch_text


class Reader(NamedTuple):
    """What belongs to the reader: how degrees, names and counts are said."""

    style: Style = Style.DEFAULT
    syllables: bool = False
    school: School = School.A


class Context(NamedTuple):
    """What a stage is heard against: the change, and what holds in its bar. Where `same` is equal, so is all said."""

    change: Change | None
    key: Key | None
    blues: bool
    same: int
    bar: Bar


class Spoken(NamedTuple):
    """What is said of a note that keeps one pitch class, whenever it comes: its two lines without their only stage, and
    what the stage says in each."""

    chart: tuple[Any, ...]
    chord: str | None
    degree: str | None
    key: tuple[Any, ...]
    key_degree: str | None

    @classmethod
    def of(cls, chart: Line, key: Line) -> Spoken:
        return cls(chart[:-1], chart.stages[0].chord, chart.stages[0].degree, key[:-1], key.stages[0].degree)

    def lines(self, tick: int, midi: float) -> tuple[Line, Line]:
        return (
            Line._make((*self.chart, (StageLabel(tick, midi, self.chord, self.degree),))),
            Line._make((*self.key, (StageLabel(tick, midi, None, self.key_degree),))),
        )


class Wording:
    """What sounds at a tick, and what is said of a pitch over it, remembered: the same few come back in a solo."""

    def __init__(self, timeline: Timeline, reader: Reader) -> None:
        self.timeline = timeline
        self.reader = reader
        self._context: Context | None = None
        self._from = self.until = 0  # of the last context; notes come in time order
        self._same: dict[tuple[str | None, Heard | None, Key | None, bool], int] = {}
        self.spoken: dict[tuple[float, int, int, bool, frozenset[int] | None], Spoken] = {}
        self._degrees: dict[tuple[float, int], str] = {}
        self._key_degrees: dict[tuple[float, int], str] = {}
        self._names: dict[tuple[float, int], str] = {}
        self._keys: dict[Key, str] = {}

    def degree(self, midi: float, context: Context) -> str | None:
        """The degree of a pitch over a context's chord, if it has one; a quarter tone is the slot below with a plus."""
        heard = None if context.change is None else context.change.heard
        if heard is None:
            return None
        known = (midi, context.same)
        word = self._degrees.get(known)
        if word is None:
            slot = (int(midi // 1) - heard.root.pitch_class) % 12
            word = degree(heard, slot, style=self.reader.style, blues=context.blues) + ("+" if midi % 1 else "")
            self._degrees[known] = word
        return word

    def context(self, tick: int) -> Context:
        if self._context is None or not self._from <= tick < self.until:
            timeline = self.timeline
            change, after = timeline.chord_at(tick), timeline.next_change(tick)
            self._context = self.hearing(change, tick)
            self._from = tick
            end = self._context.bar.end
            self.until = min(end, end if after is None else after.tick)
            if tick < timeline.written_end:
                self.until = min(self.until, timeline.written_end)
        return self._context

    def hearing(self, change: Change | None, tick: int) -> Context:
        """A change heard with the key and the blues marking at a tick."""
        facts = self.timeline.facts_at(tick)
        shown, heard = (None, None) if change is None else (change.shown, change.heard)
        known = (shown, heard, facts.key, facts.blues)
        same = self._same.setdefault(known, len(self._same))
        return Context(change, facts.key, facts.blues, same, self.timeline.bars.at(tick))

    def key_degree(self, midi: float, context: Context) -> str | None:
        """The degree of a pitch in the key of a context, if it has one."""
        key = context.key
        if key is None:
            return None
        known = (midi, context.same)
        word = self._key_degrees.get(known)
        if word is None:
            word = key.degree(int(midi // 1) % 12) + ("+" if midi % 1 else "")
            self._key_degrees[known] = word
        return word

    def key(self, key: Key) -> str:
        return self._keys.get(key) or self._keys.setdefault(key, str(key))

    def name(self, midi: float, context: Context) -> str:
        known = (midi, context.same)
        word = self._names.get(known)
        if word is None:
            heard = context.change.heard if context.change is not None else None
            name: Name = name_pitch(int(midi // 1) % 12, heard, context.key, blues=context.blues)
            word = self._names[known] = pitch_text(name, midi, syllables=self.reader.syllables)
        return word
