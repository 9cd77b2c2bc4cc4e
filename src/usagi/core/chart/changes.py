"""A chart changed as a whole: facts stated for its first bar, another meter, ids kept over a new text."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from usagi.core.chart.model import BluesFact, Chart, ChartBar, Fact, MeterFact, Section, in_place_order
from usagi.core.meter.meters import Meter

FACT_ORDER = ("meter", "key", "feel", "blues")


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
    bar = section.bars[0]
    there = {fact.kind for fact in bar.facts}
    return with_facts(chart, bar.id, facts if replace else tuple(fact for fact in facts if fact.kind not in there))


def with_facts(chart: Chart, bar_id: str, facts: tuple[Fact, ...]) -> Chart:
    """The chart with facts that hold from a written bar on, in place of those of their kind that it had."""

    def stated(bar: ChartBar) -> ChartBar:
        if bar.id != bar_id:
            return bar
        merged = {fact.kind: fact for fact in (*bar.facts, *facts)}
        return bar.model_copy(update={"facts": tuple(merged[kind] for kind in FACT_ORDER if kind in merged)})

    return bar_by_bar(chart, stated)


def with_blues(chart: Chart, section_id: str, *, on: bool) -> Chart:
    """The chart with one section marked as blues, or as none; what is written after it stays as it is."""
    at = next(i for i, section in enumerate(chart.sections) if section.id == section_id)
    before = _blues_until(chart.sections[: at + 1])
    chart = bar_by_bar(chart, _without_blues, only=section_id)
    first = next(chart.sections[at].written_bars())
    chart = with_facts(chart, first.id, (BluesFact(on=on),))
    following = next((bar for section in chart.sections[at + 1 :] for bar in section.written_bars()), None)
    if following is None or any(isinstance(fact, BluesFact) for fact in following.facts):
        return chart
    return with_facts(chart, following.id, (BluesFact(on=before),))


def _blues_until(sections: Sequence[Section]) -> bool:
    """Whether the last bar of sections is blues, in the order of the text."""
    marked = [f.on for s in sections for bar in s.written_bars() for f in bar.facts if isinstance(f, BluesFact)]
    return marked[-1] if marked else False


def _without_blues(bar: ChartBar) -> ChartBar:
    return bar.model_copy(update={"facts": tuple(fact for fact in bar.facts if not isinstance(fact, BluesFact))})


def bar_by_bar(chart: Chart, changed: Callable[[ChartBar], ChartBar], only: str | None = None) -> Chart:
    """The chart with every written bar of its sections, or of one of them, changed."""
    sections = tuple(
        section
        if only not in (None, section.id)
        else section.model_copy(
            update={
                "bars": tuple(map(changed, section.bars)),
                "endings": tuple(tuple(map(changed, ending)) for ending in section.endings),
            }
        )
        for section in chart.sections
    )
    return chart.model_copy(update={"sections": sections})


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

    def changed(bar: ChartBar) -> ChartBar:
        chords = tuple(c.model_copy(update={"symbol": symbol}) if c.id == chord_id else c for c in bar.chords)
        return bar.model_copy(update={"chords": chords})

    exceptions = tuple(e.model_copy(update={"with_bars": tuple(map(changed, e.with_bars))}) for e in chart.exceptions)
    return bar_by_bar(chart, changed).model_copy(update={"exceptions": exceptions})


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
