"""Settling and changing the ground: tempo, bar 1, meter, key, feel, bars, chart; and a solo's own settings."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from uuid import UUID

from usagi.core.chart.changes import in_meter, with_first_facts
from usagi.core.chart.model import (
    Chart,
    Fact,
    FeelFact,
    KeyFact,
    MeterFact,
)
from usagi.core.degrees.spoken import Reader
from usagi.core.document.retuning import keep_pitches
from usagi.core.document.solo import Anchor, Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.feel import FeelKind, SwingUnit
from usagi.core.meter.grid import grid_at_tempo
from usagi.core.meter.meters import Meter, parse_meter
from usagi.core.pitch.keys import parse_key
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.setup.regrid import regrid
from usagi.flows.workspace import Workspace, new_id

EVEN, DOTTED = 1.0, 3.0  # swing ratios, long to short


@dataclass(frozen=True, slots=True)
class Basics:
    """What is stated before the first note; None leaves it as it is."""

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


def change_basics(workspace: Workspace, solo_id: UUID, basics: Basics, reader: Reader = Reader()) -> Answer:
    """Change what was settled, of the ground and of the solo, in one act."""
    loaded = load(workspace, solo_id)
    moved, own = with_basics(loaded.ground, basics), solo_with(loaded.solo, basics)
    if basics.keep_seconds and moved.anchors != loaded.ground.anchors:
        return regrid(workspace, loaded, moved, "move the grid", keep_seconds=True, reader=reader, solo=own)
    return commit(workspace, loaded, "change the setup", reader, solo=own, ground=moved)
