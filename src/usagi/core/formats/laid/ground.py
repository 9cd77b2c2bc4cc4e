"""The ground that a score of another program stands on: its chart folded into sections, its tempo as anchors."""

from __future__ import annotations

from usagi.core.chart.model import Chart, ChartBar, FormEntry, PlacedChord, Section
from usagi.core.chart.sections import MOST_SECTIONS, cut, new_facts
from usagi.core.chart.timeline import Facts
from usagi.core.document.edits import put_together, take_apart
from usagi.core.document.solo import Anchor, Ground, GroundSettings
from usagi.core.document.writing import NewId
from usagi.core.formats.laid.listing import count_of
from usagi.core.formats.score import Score
from usagi.core.harmony.symbols import is_chord
from usagi.core.meter.bars import Bar, Bars, bar_name, lay_bars
from usagi.core.meter.ticks import EIGHTH, QUARTER, SIXTEENTH


def ground_of(score: Score, new_id: NewId) -> tuple[Ground, list[str]]:
    """The ground that a score stands on, its chart folded into sections; and what a person should hear of."""
    said: list[str] = []
    bars = lay_bars([bar.meter for bar in score.bars], pickup_ticks=score.pickup_ticks)
    chart_bars, odd = _chart_bars(score, bars, new_id)
    said += odd
    flat = Section(id=new_id(), name="", bars=tuple(chart_bars))
    chart = Chart(sections=(flat,), form=(FormEntry(section=flat.id),))
    if not score.chords:
        said.append("The file names no chords: the chart says N.C. until you write them.")
    chart = cut(chart, _section_starts(score), len(score.bars), new_id)
    settings = GroundSettings(
        pickup_ticks=score.pickup_ticks, bars=len(score.bars), form=chart.form, choruses=chart.choruses
    )
    anchors = score.anchors if len(score.anchors) > 1 else ((0, 0.0), (QUARTER * 60, 30.0))
    ground = Ground(
        settings=settings,
        anchors=tuple(Anchor(id=new_id(), tick=tick, second=second) for tick, second in anchors),
        sections=tuple(chart.sections),
        exceptions=chart.exceptions,
    )
    ordered = put_together(take_apart(ground))
    assert isinstance(ordered, Ground)
    return ordered, said


def _section_starts(score: Score) -> list[tuple[int, str]]:
    starts = [(i, _name(bar.section)) for i, bar in enumerate(score.bars, start=1) if bar.section is not None]
    if len(starts) > MOST_SECTIONS:
        starts = starts[:1]
    return starts if starts and starts[0][0] == 1 else [(1, ""), *starts]


def _name(text: str) -> str:
    """A section name that a chart can hold."""
    plain = " ".join(text.replace("|", " ").replace(":", " ").split()).lstrip("{<%. ")[:60].strip()
    return plain or "section"


def _chart_bars(score: Score, bars: Bars, new_id: NewId) -> tuple[list[ChartBar], list[str]]:
    """A chart bar a bar; chords on their beats, pushed where they come an eighth or a sixteenth early."""
    placed: dict[int, dict[int, tuple[str, int]]] = {}
    loose = 0
    unread: list[str] = []
    for tick, symbol in sorted(score.chords):
        if not is_chord(symbol):
            unread.append(f"“{symbol[:40]}” in {bar_name(bars.at(tick).number)}")
            continue
        bar, place, push, exact = _chord_place(tick, bars)
        if bar is None:
            continue
        loose += not exact
        placed.setdefault(bar.number, {})[place] = (symbol, push)
    found = []
    before = Facts()
    for number, one in enumerate(score.bars, start=1):
        now = Facts(
            meter=one.meter,
            key=one.key if one.key is not None else before.key,
            feel=one.feel if one.feel is not None else before.feel,
            blues=one.blues,
        )
        chords = tuple(
            PlacedChord.model_validate({"id": new_id(), "symbol": symbol, "place": place, "push": push})
            for place, (symbol, push) in sorted(placed.get(number, {}).items())
        )
        found.append(ChartBar(id=new_id(), chords=chords, facts=new_facts(before, now)))
        before = now
    said = (
        [f"{count_of(loose, 'chord')} lay on no beat and stand{'s' if loose == 1 else ''} on the nearest."]
        if loose
        else []
    )
    if unread:
        said.append(f"These chord symbols cannot be read and are left out: {', '.join(dict.fromkeys(unread))}.")
    return found, said


def _chord_place(tick: int, bars: Bars) -> tuple[Bar | None, int, int, bool]:
    """The bar of a chord, its place there, how early it comes, and whether that is exactly where it was."""
    for push in (0, EIGHTH, SIXTEENTH):
        bar = bars.number(bars.at(tick + push).number)
        if bar is not None and bar.number > 0 and (tick + push - bar.tick) % bar.meter.beat_ticks == 0:
            if push and tick < bars.bars[0].tick:
                continue
            return bar, tick + push - bar.tick, push, True
    bar = bars.number(bars.at(max(tick, 0)).number)
    if bar is None:
        return None, 0, 0, False
    beat = bar.meter.beat_ticks
    place = min(round((max(tick, 0) - bar.tick) / beat), bar.meter.numerator - 1) * beat
    return bar, place, 0, False
