"""One bar of a chart written again where it stands: in one bar of the recording, or every time that it is played."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from usagi.core.chart.changes import bar_by_bar
from usagi.core.chart.model import (
    Chart,
    ChartBar,
    ChartException,
    FormEntry,
    MeterFact,
    PlacedChord,
    Section,
    in_place_order,
)
from usagi.core.chart.text import ChartUnreadable, Fault, read_chart
from usagi.core.chart.timeline import PlayedBar, play
from usagi.core.errors import UsagiError
from usagi.core.meter.meters import Meter

NewId = Callable[[], str]


class BarBeyondChart(UsagiError):
    """A bar that the chart does not reach, and that does not follow its last one."""

    code = "bar-beyond-chart"


def read_bar(text: str, meter: Meter, *, opens: bool, new_id: NewId) -> tuple[PlacedChord, ...]:
    """The chords of one bar, typed without its bar lines: `Em7 A7`, `. . A7 .`, `%`, `N.C.`.

    Parameters
    ----------
    text : as in a chart text.
    meter : of the bar.
    opens : whether it opens a section, a repeat or an ending; then it cannot hold the chord before.
    new_id : gives the ids of the chords.

    Raises : ChartUnreadable; columns count from 1 in `text`.

    >>> from usagi.core.meter.meters import COMMON_TIME
    >>> ids = iter(map(str, range(99)))
    >>> [(c.symbol, c.place) for c in read_bar("Em7 A7", COMMON_TIME, opens=True, new_id=lambda: next(ids))]
    [('Em7', 0), ('A7', 20160)]
    """
    for column, sign in enumerate(text, start=1):
        if sign in "|{":
            what = "bar lines are there already" if sign == "|" else "what stands in braces goes into the chart text"
            raise ChartUnreadable([Fault(f"Column {column}: write the chords of one bar; {what}.", 0, 1, column, sign)])
    if text.strip() in ("", "%") and not opens:
        return ()
    head = "| N.C. |\nhere:\n| " if opens else "| N.C. | "
    lead = len(head.rsplit("\n", 1)[-1])
    fact = MeterFact(numerator=meter.numerator, denominator=meter.denominator, groups=meter.groups)
    try:
        chart = read_chart(f"{head}{text} |", new_id=new_id, first_facts=(fact,)).chart
    except ChartUnreadable as fault:
        raise ChartUnreadable([_own(one, lead) for one in fault.faults]) from fault
    return chart.sections[-1].bars[-1].chords


def _own(fault: Fault, lead: int) -> Fault:
    column = max(1, fault.column - lead)
    words = fault.sentence.rsplit(": ", 1)[-1]
    return replace(fault, sentence=f"Column {column}: {words}", bar=0, line=1, column=column)


def opens(chart: Chart, here: PlayedBar) -> bool:
    """Whether a played bar opens a section, a repeat or an ending, or stands in for one that does."""
    section = chart.section(chart.form[here.place].section)
    return here.index == 1 or here.index == len(section.bars) + 1 or own_exception(chart, here) is not None


def form_bar(chart: Chart, here: PlayedBar) -> ChartBar:
    """The bar that the form has in the place of a played one."""
    return chart.section(chart.form[here.place].section).played_bars(here.time)[here.index - 1]


def own_exception(chart: Chart, here: PlayedBar) -> ChartException | None:
    """The exception that a played bar belongs to."""
    return next((e for e in chart.exceptions if any(bar.id == here.written.id for bar in e.with_bars)), None)


def times_played(chart: Chart, here: PlayedBar) -> int:
    """How often the form's own bar is played where this one is: 1 when it has no other time."""
    wanted = form_bar(chart, here).id
    section = chart.form[here.place].section
    entries = [entry for entry in chart.form if entry.section == section]
    passes = [chart.section(section).played_bars(time) for entry in entries for time in range(1, entry.times + 1)]
    return chart.choruses * sum(bar.id == wanted for bars in passes for bar in bars)


def with_bar(
    chart: Chart, here: PlayedBar, chords: tuple[PlacedChord, ...], *, everywhere: bool, new_id: NewId
) -> Chart:
    """The chart with other chords in one played bar, or `everywhere` that its written bar is played.

    A bar that is played once needs no exception. One that is written again as the form has it is none any more.

    Parameters
    ----------
    chart : the chart.
    here : one of its played bars.
    chords : of `read_bar`.
    everywhere : change what the form has; an exception that stood here goes.
    new_id : gives the id of an exception.
    """
    form, own = form_bar(chart, here), own_exception(chart, here)
    if own is not None and own.does == "add":
        return _with_exception(chart, own, _again(own.with_bars, here.written, chords))
    if everywhere or (own is None and times_played(chart, here) == 1):
        changed = bar_by_bar(chart, lambda bar: _rewritten(bar, chords) if bar.id == form.id else bar)
        return changed if own is None else _with_exception(changed, own, ())
    if own is not None and (own.chorus is not None or chart.choruses == 1):
        others = any((e.place, e.time, e.bar) == (own.place, own.time, own.bar) for e in chart.exceptions if e != own)
        same = len(own.with_bars) == 1 and not others and _alike(chords, form.chords)
        return _with_exception(chart, own, () if same else _again(own.with_bars, here.written, chords))
    if _alike(chords, here.written.chords):
        return chart
    alone = ChartException(
        id=new_id(),
        chorus=here.chorus if chart.choruses > 1 else None,
        place=here.place,
        time=here.time,
        bar=here.index,
        with_bars=(ChartBar(id=new_id(), chords=chords),),
    )
    return chart.model_copy(update={"exceptions": in_place_order((*chart.exceptions, alone))})


def with_next_bar(chart: Chart, number: int, chords: tuple[PlacedChord, ...], *, new_id: NewId) -> Chart:
    """The chart with one bar more, right behind its last; the first of an empty one.

    Raises : BarBeyondChart, when bar `number` is not the next one, or the last section is played again.
    """
    end = len(play(chart))
    if number != end + 1:
        raise BarBeyondChart(f"The chart ends with bar {end}: write bar {end + 1} first.", bar=number)
    bar = ChartBar(id=new_id(), chords=chords)
    if not chart.form:
        standing = chart.sections[0] if chart.sections else Section(id=new_id())  # facts may be there without bars
        first = bar.model_copy(update={"facts": next((one.facts for one in standing.written_bars()), ())})
        section = standing.model_copy(update={"bars": (first,)})
        return chart.model_copy(
            update={"sections": (section, *chart.sections[1:]), "form": (FormEntry(section=section.id),)}
        )
    last = chart.form[-1]
    section = chart.section(last.section)
    again = last.times > 1 or sum(entry.section == section.id for entry in chart.form) > 1 or chart.choruses > 1
    if again or section.endings:
        raise BarBeyondChart(
            f"The chart ends with bar {end}, and its last section is played more than once. Add bars in the text.",
            bar=number,
        )
    longer = section.model_copy(update={"bars": (*section.bars, bar)})
    sections = tuple(longer if one.id == section.id else one for one in chart.sections)
    return chart.model_copy(update={"sections": sections})


def _rewritten(bar: ChartBar, chords: Iterable[PlacedChord]) -> ChartBar:
    ids = {chord.place: chord.id for chord in bar.chords}
    kept = tuple(chord.model_copy(update={"id": ids.get(chord.place, chord.id)}) for chord in chords)
    return bar.model_copy(update={"chords": kept})


def _again(bars: tuple[ChartBar, ...], here: ChartBar, chords: tuple[PlacedChord, ...]) -> tuple[ChartBar, ...]:
    return tuple(_rewritten(bar, chords) if bar.id == here.id else bar for bar in bars)


def _with_exception(chart: Chart, own: ChartException, bars: tuple[ChartBar, ...]) -> Chart:
    """The chart with other bars in an exception; without it when it has none."""
    others = tuple(e for e in chart.exceptions if e.id != own.id)
    kept = (*others, own.model_copy(update={"with_bars": bars})) if bars else others
    return chart.model_copy(update={"exceptions": in_place_order(kept)})


def _alike(some: Iterable[PlacedChord], others: Iterable[PlacedChord]) -> bool:
    return [(c.symbol, c.place, c.push) for c in some] == [(c.symbol, c.place, c.push) for c in others]
