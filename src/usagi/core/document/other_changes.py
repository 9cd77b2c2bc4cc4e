"""Other changes that the teacher lays over a span of a solo, typed as chart text."""

from __future__ import annotations

from collections.abc import Callable

from usagi.core.chart.one_bar import read_bar
from usagi.core.chart.text import ChartUnreadable
from usagi.core.chart.timeline import Timeline
from usagi.core.document.elements import ChangesChoice, OtherChord
from usagi.core.document.solo import Solo
from usagi.core.errors import UsagiError


class OtherChangesImpossible(UsagiError):
    """Other changes that do not fit the span they are laid over."""

    code = "other-changes-impossible"


def read_other_changes(
    text: str, start: int, end: int, timeline: Timeline, *, name: str, new_id: Callable[[], str]
) -> ChangesChoice:
    """The changes that a text lays over `[start, end)`.

    Parameters
    ----------
    text : a bar of chart text for every bar that the span touches, from its first on, with bar lines between them. The
        last chord goes on where bars are left out; before the first chord, and where a bar is `%`, what was heard.
    start, end : ticks, start < end.
    timeline : the bars.
    name : what the teacher calls them.
    new_id : gives an id.

    Raises : OtherChangesImpossible, which says which bar.

    >>> from usagi.core.chart.timeline import unroll
    >>> from usagi.core.chart.text import read_chart
    >>> ids = iter(map(str, range(99)))
    >>> chart = read_chart("| Am | % |", new_id=lambda: next(ids)).chart
    >>> timeline = unroll(chart, bars=2)
    >>> laid = read_other_changes("D7 | G7 Db7", 0, 80_640, timeline, name="late IV", new_id=lambda: next(ids))
    >>> [(chord.symbol, chord.tick) for chord in laid.chords]
    [('D7', 0), ('G7', 40320), ('Db7', 60480)]
    """
    bars = [bar for bar in timeline.bars.bars if bar.tick < end and bar.end > start]
    typed = [words.strip() for words in text.strip().strip("|").split("|")]
    if len(typed) > len(bars):
        touched = "1 bar" if len(bars) == 1 else f"{len(bars)} bars"
        raise OtherChangesImpossible(f"The span touches {touched}; {len(typed)} are written.")
    chords: dict[int, str] = {}
    for bar, words in zip(bars, typed, strict=False):
        try:
            placed = read_bar(words, bar.meter, opens=False, new_id=new_id)
        except ChartUnreadable as fault:
            raise OtherChangesImpossible(f"Bar {bar.number}: {fault.faults[0].sentence}") from fault
        for chord in placed:
            tick = bar.tick + chord.place
            if tick >= end:
                raise OtherChangesImpossible(f"Bar {bar.number}: {chord.symbol} begins where the span has ended.")
            chords[max(tick, start)] = chord.symbol
    if not chords:
        raise OtherChangesImpossible("Write at least one chord.")
    return ChangesChoice(
        id=new_id(),
        start=start,
        end=end,
        name=name,
        chords=tuple(OtherChord(tick=tick, symbol=symbol) for tick, symbol in sorted(chords.items())),
    )


def laid_over(solo: Solo, laid: ChangesChoice) -> Solo:
    """The solo with other changes laid above those that they touch, which are no longer the first line."""
    choices = [
        choice.model_copy(update={"shown": False})
        if isinstance(choice, ChangesChoice) and choice.start < laid.end and choice.end > laid.start
        else choice
        for choice in solo.choices
    ]
    return solo.model_copy(update={"choices": tuple(sorted((*choices, laid), key=lambda choice: choice.id))})
