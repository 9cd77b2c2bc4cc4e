"""Starting a solo, on a recording or on a tempo and a form alone."""

from __future__ import annotations

from dataclasses import dataclass, replace
from uuid import UUID, uuid4

from usagi.core.chart.changes import with_first_facts
from usagi.core.chart.model import Chart
from usagi.core.chart.text import read_chart
from usagi.core.chart.timeline import play
from usagi.core.document.coverage import coverage
from usagi.core.document.edits import EDIT_SCHEMA, to_json
from usagi.core.document.solo import Ground, GroundSettings, Solo, SoloSettings
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.meters import parse_meter
from usagi.core.values import one_line
from usagi.flows.editing.accepting import summary_of
from usagi.flows.setup.basics import Basics, anchors_at, bars_until, facts_of, ground_with, solo_with, with_basics
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import documents as stored
from usagi.store.database import Db, transaction
from usagi.store.recordings import (
    recording,
)
from usagi.store.studios import player_named, tune_titled
from usagi.store.titles import ground_of_recording

DEFAULT_BARS = 16


@dataclass(frozen=True, slots=True)
class NewSolo:
    """What the teacher states of a new solo. Without a recording it has a tempo and a chart only."""

    tune: str
    title: str
    player: str
    basics: Basics
    chart: str = ""
    recording_id: UUID | None = None
    id: UUID | None = None  # made by the sender, so that it may be sent twice


def start_solo(workspace: Workspace, new: NewSolo) -> UUID:
    """A new solo, on the ground that its recording has already or on a new one; sent again, the same solo.

    Raises : ChartUnreadable, and the errors of what is stated; nothing is stored then.
    """
    solo = solo_with(Solo(settings=SoloSettings(title=one_line(new.title), player=one_line(new.player))),
                     replace(new.basics, first_bar=None, last_bar=None))  # fmt: skip
    with transaction(workspace.pool) as db:
        if new.id is not None and stored.made_before(db, workspace.scope, new.id):
            return new.id
        sound = None if new.recording_id is None else recording(db, workspace.scope, new.recording_id)
        if new.recording_id is not None and sound is None:
            raise NotThere("This recording is not here any more.", recording=str(new.recording_id))
        tune_id = tune_titled(db, workspace.scope, new.tune)
        ground_id = None if sound is None else ground_of_recording(db, workspace.scope, sound.id)
        if ground_id is None:
            ground = new_ground(new, None if sound is None else sound.seconds)
            ground_id = uuid4()
            store_ground(db, workspace, ground_id, ground, tune_id, None if sound is None else sound.id)
        else:
            ground, _ = workspace.ground(db, ground_id)
        bars = replace(new.basics, first_bar=new.basics.first_bar or 1,
                       last_bar=new.basics.last_bar or ground.timeline.bars.bars[-1].number)  # fmt: skip
        solo = solo_with(solo, bars)
        return store_solo(db, workspace, new.id or uuid4(), solo, ground, ground_id)


def new_ground(new: NewSolo, seconds: float | None) -> Ground:
    """A ground from what was stated; its bars reach to the end of the recording, of the chart and of the solo."""
    basics = new.basics
    facts = facts_of(replace(basics, meter=basics.meter or "4/4", feel=basics.feel or "straight"))
    if new.chart.strip():
        read = read_chart(new.chart, new_id=new_id, first_facts=facts)
        chart, pickup = read.chart, read.pickup_pulses
    else:
        chart, pickup = with_first_facts(Chart(), facts, new_id=new_id), None
    meter = parse_meter(basics.meter or "4/4")
    first = next((bar for section in chart.sections for bar in section.written_bars()), None)
    for fact in () if first is None else first.facts:
        meter = fact.meter if fact.kind == "meter" else meter
    anchors = anchors_at(basics.bar_one_s or 0.0, 120.0 if basics.tempo_bpm is None else basics.tempo_bpm, meter)
    ground = ground_with(Ground(settings=GroundSettings(bars=DEFAULT_BARS), anchors=anchors), chart)
    pulses = pickup if pickup is not None else basics.pickup_pulses
    wanted = basics.bars or max(
        basics.last_bar or 0,
        len(play(chart)),
        bars_until(seconds, ground) if seconds is not None else 0,
    )
    return with_basics(
        ground, Basics(bars=wanted or DEFAULT_BARS, pickup_pulses=pulses, offset_cents=basics.offset_cents)
    )


def store_ground(
    db: Db, workspace: Workspace, ground_id: UUID, ground: Ground, tune_id: UUID, recording_id: UUID | None
) -> None:
    stored.add_document(db, workspace.scope, ground_id, "ground", to_json(ground), EDIT_SCHEMA)
    stored.add_ground(db, workspace.scope, ground_id, tune_id, recording_id)


def store_solo(db: Db, workspace: Workspace, solo_id: UUID, solo: Solo, ground: Ground, ground_id: UUID) -> UUID:
    """Store a new solo with its row on the shelf; returns its id."""
    stored.add_document(db, workspace.scope, solo_id, "solo", to_json(solo), EDIT_SCHEMA)
    player = player_named(db, workspace.scope, solo.settings.player)
    summary = summary_of(solo, coverage(solo, ground))
    stored.add_solo(
        db, workspace.scope, solo_id, ground_id=ground_id, player_id=player, title=solo.settings.title, summary=summary
    )
    return solo_id


def check_tuning(text: str) -> str:
    """A typed tuning as it is read, low to high. Raises : TuningUnreadable."""
    tuning = parse_tuning(text)
    known = tuning.known_as
    return f"{known}: {tuning.text()}" if known else tuning.text()
