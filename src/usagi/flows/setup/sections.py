"""Sections and cues of a ground: named over its bars, pinned to their places, out and in as text."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from usagi.core.chart.changes import with_blues, with_facts, with_first_facts
from usagi.core.chart.model import Chart, Fact, KeyFact
from usagi.core.chart.sections import SectionsUnreadable, cut, print_order, print_times, read_times, with_order
from usagi.core.chart.timeline import play
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Cue, Ground
from usagi.core.meter.clock import clock_text
from usagi.core.pitch.keys import parse_key
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.setup.basics import ground_with
from usagi.flows.setup.chart import chart_text
from usagi.flows.workspace import NotThere, Workspace, new_id


@dataclass(frozen=True, slots=True)
class WrittenForm:
    """Sections as tab-separated columns, the order of the parts with their counts, and the chart as text."""

    sections: str
    order: str
    chart: str


def read_form(workspace: Workspace, solo_id: UUID) -> WrittenForm:
    """Raises : NotThere."""
    ground = load(workspace, solo_id).ground
    return WrittenForm(print_times(spans(ground)), print_order(ground.chart), chart_text(ground))


def spans(ground: Ground) -> list[tuple[float, float, str]]:
    """Start, end and name of every pass of a named section, in seconds."""
    found: list[tuple[float, float, str]] = []
    bars = ground.timeline.bars
    before = None
    for number, played in ground.timeline.played.items():
        bar = bars.number(number)
        assert bar is not None
        here = (played.chorus, played.place, played.time)
        start, end = ground.grid.second(bar.tick), ground.grid.second(bar.end)
        if here == before and found and played.section:
            found[-1] = (found[-1][0], end, found[-1][2])
        elif played.section:
            found.append((start, end, played.section))
        before = here
    return found


def name_sections(workspace: Workspace, solo_id: UUID, text: str, reader: Reader = Reader()) -> Answer:
    """Cut the form at the bar lines nearest to times; an empty list leaves one section without a name.

    Raises : SectionsUnreadable, also where a time lies outside the bars or two lie at one bar line; NotThere.
    """
    named = read_times(text)
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    bars = [bar for bar in ground.timeline.bars.bars if bar.number >= 1]
    second = ground.grid.second
    first, last = second(bars[0].tick), second(bars[-1].end)
    starts: dict[int, str] = {} if named else {1: ""}
    messages = []
    for one in named:
        bar = min(bars, key=lambda bar: abs(second(bar.tick) - one.second))
        off = second(bar.tick) - one.second
        at = clock_text(one.second)
        if not first - (second(bars[0].end) - first) <= one.second < last:
            span = f"{clock_text(max(0.0, first))} to {clock_text(last)}"
            raise SectionsUnreadable(f"“{one.name}” at {at} lies outside the bars, which go from {span}.")
        if bar.number in starts:
            other = starts[bar.number]
            raise SectionsUnreadable(f"“{other}” and “{one.name}” both begin at bar {bar.number}. Keep one of the two.")
        starts[bar.number] = one.name
        if abs(off) > 0.25:
            messages.append(f"“{one.name}” at {at} is taken at bar {bar.number}, {off:+.2f} s.")
    label = "name sections" if named else "clear the sections"
    chart = cut(ground.chart, sorted(starts.items()), ground.settings.bars, new_id)
    return commit(workspace, loaded, label, reader, ground=ground_with(ground, chart), messages=messages)


def order_form(workspace: Workspace, solo_id: UUID, text: str, reader: Reader = Reader()) -> Answer:
    """Play the sections in another order, so many times each. Raises : SectionsUnreadable, NotThere."""
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    chart = with_order(ground.chart, text)
    settings = ground.settings.model_dump()
    settings["bars"] = max(ground.settings.bars, len(play(chart)))
    after = ground_with(ground, chart, settings)
    lost = len(ground.chart.exceptions) - len(chart.exceptions)
    messages = [] if not lost else [f"{lost} bar{'s' if lost > 1 else ''} that went otherwise had no place any more."]
    return commit(workspace, loaded, "order the form", reader, ground=after, messages=messages)


def mark_bar(
    workspace: Workspace, solo_id: UUID, bar: int, *, key: str | None, blues: bool | None, reader: Reader = Reader()
) -> Answer:
    """A key from one bar on, or the blues marking of the section that the bar belongs to; what is None stays.

    Raises : KeyUnreadable; NotThere, where the chart has no such bar.
    """
    facts: tuple[Fact, ...] = () if key is None else (KeyFact(key=str(parse_key(key))),)
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    chart = _stated(ground, bar, facts)
    if blues is not None:
        played = ground.timeline.played.get(bar)
        if played is None:
            raise NotThere("Blues is marked on a section of the chart: this bar has none.", bar=bar)
        chart = with_blues(chart, chart.form[played.place].section, on=blues)
    label = "mark the blues" if key is None else "change the key"
    return commit(workspace, loaded, label, reader, ground=ground_with(ground, chart))


def _stated(ground: Ground, bar: int, facts: tuple[Fact, ...]) -> Chart:
    played = ground.timeline.played.get(bar)
    if played is not None:
        return with_facts(ground.chart, played.written.id, facts)
    if ground.timeline.played and bar > 0 and facts:
        raise NotThere(f"Bar {bar} lies after the chart: write its bars first.", bar=bar)
    return with_first_facts(ground.chart, facts, new_id=new_id)


def pin_cues(workspace: Workspace, solo_id: UUID, cues: Sequence[Cue], reader: Reader = Reader()) -> Answer:
    """Put other cues on the ground: words, or another player's entry, each at a place. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    kept = tuple(sorted(cues, key=lambda cue: (cue.tick, cue.id)))
    after = ground.model_copy(update={"cues": kept})
    return commit(workspace, loaded, "pin cues", reader, ground=after)
