"""Settling and changing the ground: tempo, bar 1, meter, key, feel, bars, chart; and a solo's own settings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from types import MappingProxyType
from uuid import UUID

from usagi.core.chart.changes import in_meter, with_first_facts, with_symbol
from usagi.core.chart.model import (
    Chart,
    ChartBar,
    ChartException,
    Fact,
    FeelFact,
    KeyFact,
    MeterFact,
    in_place_order,
)
from usagi.core.chart.printing import print_chart
from usagi.core.chart.text import ChartUnreadable, read_chart
from usagi.core.chart.timeline import play
from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import Change, Edit, difference
from usagi.core.document.regrid import hold_seconds
from usagi.core.document.retuning import keep_pitches
from usagi.core.document.solo import Anchor, Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.feel import FeelKind, SwingUnit
from usagi.core.meter.grid import grid_at_tempo
from usagi.core.meter.meters import Meter, parse_meter
from usagi.core.pitch.keys import parse_key
from usagi.flows.desk import Desk, NotThere, new_id, now_text
from usagi.flows.edits import Answer, accept
from usagi.store.database import transaction
from usagi.store.documents import solos_of_ground
from usagi.store.drafts import draft, drop_draft, keep_draft

EVEN, DOTTED = 1.0, 3.0  # swing ratios, long to short


@dataclass(frozen=True, slots=True)
class Basics:
    """What is stated before the first note; None leaves a thing as it is."""

    tempo_bpm: float | None = None
    bar_one_s: float | None = None
    meter: str | None = None
    key: str | None = None
    feel: str | None = None  # straight, swing, triplet
    swing_ratio: float | None = None
    swing_unit: str | None = None
    bars: int | None = None
    pickup_pulses: int | None = None
    offset_cents: float | None = None
    tuning: str | None = None
    capo: int | None = None
    last_fret: int | None = None
    first_bar: int | None = None
    last_bar: int | None = None
    keep_seconds: bool = False  # a moved grid: notes stay where they sound, not where they are counted
    keep_pitches: bool = False  # other strings: notes are looked for again, else their frets stay


def facts_of(basics: Basics) -> tuple[Fact, ...]:
    """Meter, key and feel as facts of a first bar. Raises : the errors of their readers."""
    facts: list[Fact] = []
    if basics.meter is not None:
        meter = parse_meter(basics.meter)
        facts.append(MeterFact(numerator=meter.numerator, denominator=meter.denominator, groups=meter.groups))
    if basics.key:
        facts.append(KeyFact(key=str(parse_key(basics.key))))
    if basics.feel is not None:
        facts.append(_feel(basics.feel, basics.swing_unit or "eighth", basics.swing_ratio))
    return tuple(facts)


def _feel(feel: str, unit: str, ratio: float | None) -> FeelFact:
    if feel not in list(FeelKind):
        raise UsagiError(f"“{feel}” is not a feel: straight, swing or triplet.", field="feel")
    if unit not in list(SwingUnit):
        raise UsagiError(f"“{unit}” cannot swing: eighth or sixteenth.", field="swing_unit")
    if ratio is not None and not EVEN <= ratio <= DOTTED:
        raise UsagiError(
            f"A swing ratio of {ratio:g} is out of reach: from {EVEN:g} (straight) over 2 (triplets) to {DOTTED:g}.",
            field="swing_ratio",
        )
    return FeelFact(feel=FeelKind(feel), unit=SwingUnit(unit), ratio=2.0 if ratio is None else ratio)


def anchors_at(bar_one_s: float, tempo_bpm: float, meter: Meter) -> tuple[Anchor, ...]:
    """Two anchors that state a tempo from bar 1 on."""
    grid = grid_at_tempo(bar_one_s, tempo_bpm, meter.pulses[0])
    return tuple(Anchor(id=new_id(), tick=t, second=s) for t, s in zip(grid.ticks, grid.seconds, strict=True))


def bars_until(second: float, ground: Ground) -> int:
    """How many bars start before a second of the recording; at least one."""
    tick = ground.grid.tick(second)
    return max(1, ground.timeline.bars.at(ceil(tick) - 1).number)


def with_basics(ground: Ground, basics: Basics) -> Ground:
    """The ground with what was stated; notes keep their ticks. Raises : the errors of what is stated."""
    chart, meter = ground.chart, ground.timeline.facts_at(0).meter
    facts = facts_of(basics)
    if facts:
        chart = with_first_facts(chart, facts, new_id=new_id)
        stated = next((fact.meter for fact in facts if isinstance(fact, MeterFact)), meter)
        if stated != meter:
            chart, meter = in_meter(chart, stated), stated
    settings = ground.settings.model_dump()
    for name in ("bars", "offset_cents"):
        if getattr(basics, name) is not None:
            settings[name] = getattr(basics, name)
    if basics.pickup_pulses is not None:
        settings["pickup_ticks"] = sum(meter.pulses[-basics.pickup_pulses :]) if basics.pickup_pulses else 0
    anchors = ground.anchors
    if basics.tempo_bpm is not None or basics.bar_one_s is not None:
        anchors = _moved(ground, basics, meter)
    return ground_with(ground, chart, settings, anchors)


def _moved(ground: Ground, basics: Basics, meter: Meter) -> tuple[Anchor, ...]:
    """A stated tempo lays the grid anew; a moved bar 1 shifts every anchor."""
    bar_one = ground.grid.second(0) if basics.bar_one_s is None else basics.bar_one_s
    if basics.tempo_bpm is not None:
        return anchors_at(bar_one, basics.tempo_bpm, meter)
    shift = bar_one - ground.grid.second(0)
    return tuple(anchor.model_copy(update={"second": round(anchor.second + shift, 6)}) for anchor in ground.anchors)


def ground_with(
    ground: Ground, chart: Chart, settings: dict[str, object] | None = None, anchors: tuple[Anchor, ...] | None = None
) -> Ground:
    """A ground with another chart, settings or anchors."""
    base = ground.settings.model_dump() if settings is None else settings
    base |= {"form": [entry.model_dump() for entry in chart.form], "choruses": chart.choruses}
    return Ground.model_validate(
        {
            "settings": base,
            "anchors": [a.model_dump() for a in (ground.anchors if anchors is None else anchors)],
            "sections": [section.model_dump() for section in chart.sections],
            "exceptions": [exception.model_dump() for exception in chart.exceptions],
            "cues": [cue.model_dump() for cue in ground.cues],
        }
    )


def solo_with(solo: Solo, basics: Basics) -> Solo:
    """The solo with what was stated of its instrument and its bars; frets stay unless pitches are to."""
    settings = solo.settings.model_dump()
    if basics.tuning is not None:
        settings["tuning"] = parse_tuning(basics.tuning).midi
    for name in ("capo", "last_fret", "first_bar", "last_bar"):
        if getattr(basics, name) is not None:
            settings[name] = getattr(basics, name)
    after = type(solo.settings).model_validate(settings)
    return keep_pitches(solo, after).solo if basics.keep_pitches else solo.model_copy(update={"settings": after})


def change_basics(desk: Desk, solo_id: UUID, basics: Basics, reader: Reader = Reader()) -> Answer:
    """Change what was settled, of the ground and of the solo, in one act."""
    with transaction(desk.pool) as db:
        solo, solo_version, ground_id = desk.solo(db, solo_id)
        ground, ground_version = desk.ground(db, ground_id)
    moved = with_basics(ground, basics)
    if basics.keep_seconds and moved.anchors != ground.anchors:
        own = solo_with(solo, basics)
        return regrid(desk, solo_id, moved, "move the grid", keep_seconds=True, reader=reader, changed={solo_id: own})
    parts = [(ground_id, difference(ground, moved)), (solo_id, difference(solo, solo_with(solo, basics)))]
    edits = one_act(desk, solo_id, "settle the ground", parts)
    return accept(desk, solo_id, {str(solo_id): solo_version, str(ground_id): ground_version}, edits, reader)


def regrid(
    desk: Desk,
    solo_id: UUID,
    after: Ground,
    label: str,
    *,
    keep_seconds: bool,
    reader: Reader,
    said: Sequence[str] = (),
    changed: Mapping[UUID, Solo] = MappingProxyType({}),
) -> Answer:
    """Put a moved grid in force; notes hold their ticks, or every solo on this ground holds its seconds.

    `changed` are solos that change in the same act besides.
    """
    with transaction(desk.pool) as db:
        _, solo_version, ground_id = desk.solo(db, solo_id)
        before, ground_version = desk.ground(db, ground_id)
        others = solos_of_ground(db, desk.scope, ground_id) if keep_seconds else []
        solos = {other: desk.solo(db, other)[0] for other in others}
    parts = [(ground_id, difference(before, after))]
    sentences = list(said)
    for other, solo in solos.items():
        held, outliers = hold_seconds(changed.get(other, solo), before, after)
        parts.append((other, difference(solo, held)))
        sentences += [outlier.sentence for outlier in outliers]
    edits = one_act(desk, solo_id, label, parts)
    answer = accept(desk, solo_id, {str(solo_id): solo_version, str(ground_id): ground_version}, edits, reader)
    answer.said.extend(sentences)
    return answer


def change_chart(desk: Desk, solo_id: UUID, text: str, reader: Reader = Reader()) -> Answer:
    """Put a chart text in force. A faulty text is kept as its writer's draft, and the last good chart stays.

    Raises : ChartUnreadable, with every fault.
    """
    with transaction(desk.pool) as db:
        _, solo_version, ground_id = desk.solo(db, solo_id)
        ground, ground_version = desk.ground(db, ground_id)
    try:
        first_facts = () if ground.settings.form else _standing_facts(ground)
        read = read_chart(text, new_id=new_id, before=ground.chart, first_facts=first_facts)
    except ChartUnreadable:
        with transaction(desk.pool) as db:
            keep_draft(db, desk.scope, ground_id, text)
        raise
    settings = ground.settings.model_dump()
    after = ground_with(ground, read.chart, settings)
    pulses = after.timeline.facts_at(0).meter.pulses
    if read.pickup_pulses is not None:
        settings["pickup_ticks"] = sum(pulses[-read.pickup_pulses :])
    elif ground.settings.form:  # the old text would have shown one
        settings["pickup_ticks"] = 0
    settings["bars"] = max(ground.settings.bars, len(play(read.chart)))
    after = ground_with(ground, read.chart, settings)
    edits = one_act(desk, solo_id, "change the chart", [(ground_id, difference(ground, after))])
    answer = accept(desk, solo_id, {str(solo_id): solo_version, str(ground_id): ground_version}, edits, reader)
    with transaction(desk.pool) as db:
        drop_draft(db, desk.scope, ground_id)
    return answer


def _standing_facts(ground: Ground) -> tuple[Fact, ...]:
    """What the fields settled before there was a chart text to show it."""
    first = next((bar for section in ground.sections for bar in section.written_bars()), None)
    return () if first is None else first.facts


def change_chord(
    desk: Desk, solo_id: UUID, chord_id: str, symbol: str, bar: int | None = None, reader: Reader = Reader()
) -> Answer:
    """Write another symbol for one chord: in one bar of the recording, or (`bar` None) wherever its bar is played.

    Raises : ChordUnreadable; NotThere.
    """
    parse_chord(symbol)
    with transaction(desk.pool) as db:
        _, solo_version, ground_id = desk.solo(db, solo_id)
        ground, ground_version = desk.ground(db, ground_id)
    chart = with_chord(ground, chord_id, symbol.strip(), bar)
    changes = difference(ground, ground_with(ground, chart))
    edits = one_act(desk, solo_id, f"write {symbol.strip()}", [(ground_id, changes)])
    return accept(desk, solo_id, {str(solo_id): solo_version, str(ground_id): ground_version}, edits, reader)


def with_chord(ground: Ground, chord_id: str, symbol: str, bar: int | None) -> Chart:
    """The chart with another symbol for a chord. A bar that is played once needs no exception to change alone.

    Raises : NotThere.
    """
    chart = ground.chart
    played = [b for b in play(chart) if any(chord.id == chord_id for chord in b.written.chords)]
    if not played:
        raise NotThere("This chord is not in the chart any more.", chord=chord_id)
    here = ground.timeline.played.get(bar) if bar is not None and len(played) > 1 else None
    if here is None:
        return with_symbol(chart, chord_id, symbol)
    chords = tuple(
        c.model_copy(update={"id": new_id()} | ({"symbol": symbol} if c.id == chord_id else {}))
        for c in here.written.chords
    )
    alone = ChartException(
        id=new_id(),
        chorus=here.chorus if chart.choruses > 1 else None,
        place=here.place,
        time=here.time,
        bar=here.index,
        with_bars=(ChartBar(id=new_id(), chords=chords),),
    )
    return chart.model_copy(update={"exceptions": in_place_order((*chart.exceptions, alone))})


def one_act(desk: Desk, solo_id: UUID, label: str, parts: list[tuple[UUID, tuple[Change, ...]]]) -> list[Edit]:
    """One edit a document that changes, all of one act."""
    act, at = new_id(), now_text()
    return [
        Edit(
            id=new_id(),
            act=act,
            document=str(document),
            made_in=str(solo_id),
            person=str(desk.scope.person),
            at=at,
            label=label,
            changes=changes,
        )
        for document, changes in parts
        if changes
    ]


def read_draft(desk: Desk, solo_id: UUID) -> tuple[str, str | None]:
    """The chart in force as text, and this writer's faulty text if there is one."""
    with transaction(desk.pool) as db:
        _, _, ground_id = desk.solo(db, solo_id)
        ground, _ = desk.ground(db, ground_id)
        return chart_text(ground), draft(db, desk.scope, ground_id)


def chart_text(ground: Ground) -> str:
    """The ground's chart as text, with its pick-up in pulses."""
    pickup = ground.settings.pickup_ticks
    pulses = pickup // ground.timeline.facts_at(0).meter.pulses[0] if pickup else None
    return print_chart(ground.chart, pickup_pulses=pulses or None)
