"""A chart changed as a whole: facts stated for its first bar, another meter, ids kept over a new text."""

from __future__ import annotations

from collections.abc import Callable

from usagi.core.chart.model import Chart, ChartBar, Fact, MeterFact, Section, in_place_order
from usagi.core.meter.meters import Meter


def with_first_facts(
    chart: Chart, facts: tuple[Fact, ...], *, new_id: Callable[[], str], replace: bool = True
) -> Chart:
    """The chart with facts on its first written bar; those of a kind that is there are replaced or left.

    A chart without bars keeps them on a bar that the form does not play.
    """
    if not facts:
        return chart
    first = next((i for i, section in enumerate(chart.sections) if any(section.written_bars())), None)
    if first is None:
        section = Section(id=new_id(), bars=(ChartBar(id=new_id(), facts=facts),))
        return chart.model_copy(update={"sections": (section,)})
    section = chart.sections[first]
    if not section.bars:
        raise ValueError("a section that is all endings")
    there = {fact.kind: fact for fact in section.bars[0].facts}
    given = {fact.kind: fact for fact in facts}
    merged = there | given if replace else given | there
    order = ("meter", "key", "feel", "blues")
    bar = section.bars[0].model_copy(update={"facts": tuple(merged[kind] for kind in order if kind in merged)})
    changed = section.model_copy(update={"bars": (bar, *section.bars[1:])})
    return chart.model_copy(update={"sections": (*chart.sections[:first], changed, *chart.sections[first + 1 :])})


def in_meter(chart: Chart, meter: Meter) -> Chart:
    """The chart with the chords of its bars laid anew after its first meter has changed, up to the next meter fact.

    Chords share a bar evenly where they can, else they stand on its beats in order; what finds no beat is left out.
    """
    changing = True
    sections = []
    for i, section in enumerate(chart.sections):
        groups: list[tuple[ChartBar, ...]] = []
        for group in (section.bars, *section.endings):
            laid = []
            for j, bar in enumerate(group):
                if (i, j) != (0, 0) and any(isinstance(fact, MeterFact) for fact in bar.facts):
                    changing = False
                laid.append(_laid(bar, meter) if changing else bar)
            groups.append(tuple(laid))
        sections.append(section.model_copy(update={"bars": groups[0], "endings": tuple(groups[1:])}))
    return chart.model_copy(update={"sections": tuple(sections)})


def _laid(bar: ChartBar, meter: Meter) -> ChartBar:
    count = len(bar.chords)
    if count <= 1 and all(chord.place == 0 for chord in bar.chords):
        return bar
    share = meter.bar_ticks // count
    even = meter.bar_ticks % count == 0 and all(i * share % (meter.pulses[0] // 2) == 0 for i in range(count))
    places = [i * share for i in range(count)] if even else [i * meter.beat_ticks for i in range(meter.numerator)]
    chords = [chord.model_copy(update={"place": place}) for chord, place in zip(bar.chords, places, strict=False)]
    return bar.model_copy(update={"chords": tuple(chords)})


def with_symbol(chart: Chart, chord_id: str, symbol: str) -> Chart:
    """The chart with another symbol for the chord of an id, wherever it is written."""

    def changed(bars: tuple[ChartBar, ...]) -> tuple[ChartBar, ...]:
        return tuple(
            bar.model_copy(
                update={
                    "chords": tuple(
                        chord.model_copy(update={"symbol": symbol}) if chord.id == chord_id else chord
                        for chord in bar.chords
                    )
                }
            )
            for bar in bars
        )

    sections = tuple(
        s.model_copy(update={"bars": changed(s.bars), "endings": tuple(map(changed, s.endings))})
        for s in chart.sections
    )
    exceptions = tuple(e.model_copy(update={"with_bars": changed(e.with_bars)}) for e in chart.exceptions)
    return chart.model_copy(update={"sections": sections, "exceptions": exceptions})


def keep_ids(chart: Chart, before: Chart) -> Chart:
    """Sections by name, bars by index and chords by place keep the ids that they had."""
    old_sections = list(before.sections)
    renamed: dict[str, str] = {}
    sections = []
    for section in chart.sections:
        old = next((s for s in old_sections if s.name == section.name), None)
        if old is None:
            sections.append(section)
            continue
        old_sections.remove(old)
        renamed[section.id] = old.id
        bars = _bars_with_ids(section.bars, old.bars)
        endings = tuple(
            _bars_with_ids(ending, old.endings[i] if i < len(old.endings) else ())
            for i, ending in enumerate(section.endings)
        )
        sections.append(section.model_copy(update={"id": old.id, "bars": bars, "endings": endings}))
    form = tuple(e.model_copy(update={"section": renamed.get(e.section, e.section)}) for e in chart.form)
    where = {(e.chorus, e.place, e.time, e.bar, e.does): e for e in before.exceptions}
    exceptions = []
    for exception in chart.exceptions:
        same = where.get((exception.chorus, exception.place, exception.time, exception.bar, exception.does))
        if same is not None:
            bars = _bars_with_ids(exception.with_bars, same.with_bars)
            exception = exception.model_copy(update={"id": same.id, "with_bars": bars})
        exceptions.append(exception)
    return chart.model_copy(
        update={"sections": tuple(sections), "form": form, "exceptions": in_place_order(exceptions)}
    )


def _bars_with_ids(bars: tuple[ChartBar, ...], old: tuple[ChartBar, ...]) -> tuple[ChartBar, ...]:
    kept = []
    for i, bar in enumerate(bars):
        if i < len(old):
            ids = {chord.place: chord.id for chord in old[i].chords}
            chords = tuple(c.model_copy(update={"id": ids.get(c.place, c.id)}) for c in bar.chords)
            bar = bar.model_copy(update={"id": old[i].id, "chords": chords})
        kept.append(bar)
    return tuple(kept)
