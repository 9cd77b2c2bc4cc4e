"""The retuning card: what other strings would do to the hand and to the notes, before anything is turned."""

from __future__ import annotations

from dataclasses import dataclass, replace
from uuid import UUID

from usagi.core.document.retuning import Retuned, keep_frets, keep_pitches
from usagi.core.document.strings import SixString, SoundsLow, six_string, sounds_low
from usagi.core.fretboard.tension import USUAL, Gauge, cautions, pounds, turn
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.pitch.names import pitch_text
from usagi.flows.setup.basics import Basics, solo_with
from usagi.flows.workspace import Workspace
from usagi.store.database import transaction


@dataclass(frozen=True, slots=True)
class StringRow:
    """One line of the retuning card."""

    string: int
    before: str
    after: str
    semitones: int
    way: str
    before_n: float
    after_n: float
    before_lbf: float
    after_lbf: float
    estimated: bool
    restoring_inch: float | None


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a choice does to the notes: how many change, and which cannot be played."""

    changed: int
    impossible: list[str]


@dataclass(frozen=True, slots=True)
class RetuningCard:
    strings: list[StringRow]
    cautions: list[str]
    keep_frets: Outcome
    keep_pitches: Outcome


def six_string_for(workspace: Workspace, solo_id: UUID) -> SixString:
    """The six-string that plays a part written for a longer or lower instrument. Raises : NoSixString, NotThere."""
    with transaction(workspace.pool) as db:
        return six_string(workspace.solo(db, solo_id)[0])


def sounds_low_here(workspace: Workspace, solo_id: UUID) -> SoundsLow | None:
    """Raises : NotThere."""
    with transaction(workspace.pool) as db:
        return sounds_low(workspace.solo(db, solo_id)[0])


def retuning(workspace: Workspace, solo_id: UUID, tuning: str | None, capo: int | None) -> RetuningCard:
    """What another tuning or capo would do, before it is done. Raises : TuningUnreadable."""
    with transaction(workspace.pool) as db:
        solo, _, ground_id = workspace.solo(db, solo_id)
        ground, _ = workspace.ground(db, ground_id)
    settings = solo_with(solo, Basics(tuning=tuning, capo=capo)).settings
    before, after = tuning_of(solo.settings.tuning), tuning_of(settings.tuning)
    gauges = tuple(Gauge(g.gauge_inch, g.wound) for g in solo.settings.gauges) + USUAL[len(solo.settings.gauges) :]
    gauges = tuple(replace(gauge, wound_kg_m3=settings.wound_kg_m3) for gauge in gauges)
    scale_m = settings.scale_length_mm / 1_000
    strung_for = settings.strung_for or before.midi
    turns = [
        turn(i + 1, old, new, gauges[i], scale_m, strung_for[i] if i < len(strung_for) else None)
        for i, (old, new) in enumerate(zip(before.midi, after.midi, strict=False))
    ]
    rows = [
        StringRow(
            t.string, pitch_text(before.names[i], t.before_midi), pitch_text(after.names[i], t.after_midi), t.semitones,
            t.way, round(t.before_n, 1), round(t.after_n, 1), round(pounds(t.before_n), 1), round(pounds(t.after_n), 1),
            t.estimated, t.restoring_inch,
        )
        for i, t in enumerate(turns)
    ]  # fmt: skip

    def outcome(found: Retuned) -> Outcome:
        place = ground.timeline.bars.place
        return Outcome(found.changed, [f"{place(one.place_tick)}: {one.sentence}" for one in found.impossible])

    return RetuningCard(
        rows, cautions(turns), outcome(keep_frets(solo, settings)), outcome(keep_pitches(solo, settings))
    )
