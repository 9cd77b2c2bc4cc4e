"""The chart as a sheet: the bars as they are played, four a row, as a lead sheet is read."""

from __future__ import annotations

from usagi.core.chart.model import Chart, ChartException
from usagi.core.chart.one_bar import form_bar, own_exception, times_played
from usagi.core.chart.printing import chords_text
from usagi.core.chart.timeline import Facts, PlayedBar
from usagi.core.document.solo import Ground
from usagi.core.harmony.symbols import parse_chord
from usagi.core.values import Value

A_ROW = 4


class SheetChord(Value):
    """A chord in its bar: `at` is its share of the bar, from 0; `early` says that it is pushed before its place."""

    id: str
    shown: str
    at: float
    early: bool


class SheetBar(Value):
    bar: int
    tick: int
    end: int
    chords: tuple[SheetChord, ...]  # none: the chord before is held
    text: str  # as it is typed; empty where the chart does not reach
    facts: str  # meter, key, feel or blues, where they change
    ending: int  # which ending begins here, 0 for none
    times: int  # how often the form plays it
    note: str  # where it goes otherwise than the form


class SheetRow(Value):
    """Up to four bars; `section` is said where a pass of it begins."""

    section: str
    bars: tuple[SheetBar, ...]


class Sheet(Value):
    rows: tuple[SheetRow, ...]


def view_sheet(ground: Ground) -> Sheet:
    """The bars of a ground in rows: a new one for every pass of a section, and for what the chart does not reach."""
    timeline, chart = ground.timeline, ground.chart
    rows: list[tuple[str, list[SheetBar]]] = []
    before, facts = None, Facts()
    for bar in timeline.bars.bars:
        if bar.number < 1:
            continue
        played = timeline.played.get(bar.number)
        now = timeline.facts_at(bar.tick)
        if not rows or len(rows[-1][1]) == A_ROW or _begins(played, before, first=bar.number == 1):
            rows.append((_section(chart, played) if _begins(played, before, first=bar.number == 1) else "", []))
        rows[-1][1].append(_bar(ground, bar.number, played, _changed(facts, now, first=bar.number == 1)))
        before, facts = played, now
    return Sheet(rows=tuple(SheetRow(section=section, bars=tuple(bars)) for section, bars in rows))


def _begins(played: PlayedBar | None, before: PlayedBar | None, *, first: bool) -> bool:
    if played is None:
        return before is not None or first
    return before is None or (played.chorus, played.place, played.time) != (before.chorus, before.place, before.time)


def _section(chart: Chart, played: PlayedBar | None) -> str:
    if played is None:
        return "not written yet"
    times = chart.form[played.place].times
    words = [played.section] if played.section else []
    if times > 1:
        words.append(f"{played.time} of {times}")
    if chart.choruses > 1 and played.place == 0 and played.time == 1:
        words.insert(0, f"chorus {played.chorus}")
    return " · ".join(words)


def _changed(before: Facts, now: Facts, *, first: bool) -> str:
    words = []
    if first or now.meter != before.meter:
        words.append(str(now.meter))
    if now.key is not None and now.key != before.key:
        words.append(str(now.key))
    if now.feel != before.feel:
        words.append(str(now.feel))
    if now.blues != before.blues:
        words.append("blues" if now.blues else "not blues")
    return ", ".join(words)


def _bar(ground: Ground, number: int, played: PlayedBar | None, facts: str) -> SheetBar:
    bar = ground.timeline.bars.number(number)
    assert bar is not None
    chart = ground.chart
    chords = () if played is None else played.written.chords
    section = None if played is None else chart.section(chart.form[played.place].section)
    ends = section is not None and played is not None and section.endings and played.index == len(section.bars) + 1
    return SheetBar(
        bar=number,
        tick=bar.tick,
        end=bar.end,
        chords=tuple(
            SheetChord(
                id=chord.id,
                shown=parse_chord(chord.symbol).shown,
                at=round(chord.place / (bar.end - bar.tick), 4),
                early=chord.push > 0,
            )
            for chord in chords
        ),
        text="" if played is None else chords_text(played.written, played.facts.meter),
        facts=facts,
        ending=min(played.time, len(section.endings)) if ends and played is not None and section is not None else 0,
        times=1 if played is None else times_played(chart, played),
        note="" if played is None else _note(chart, played),
    )


def _note(chart: Chart, played: PlayedBar) -> str:
    own = own_exception(chart, played)
    if own is None:
        return ""
    if own.does == "add":
        return f"{_only(own)}, added here"
    form = form_bar(chart, played)
    has = chords_text(form, played.facts.meter) if form.chords else "the chord before"
    return f"{_only(own)}; the form has {has}"


def _only(own: ChartException) -> str:
    return "this time only" if own.chorus is None else f"chorus {own.chorus} only"
