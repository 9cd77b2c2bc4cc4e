"""Who is said to play what, and the instrument and settings that the sound is made with."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Credit, RigRow, StringGauge
from usagi.core.fretboard.tension import parse_gauges
from usagi.core.fretboard.tunings import parse_tuning
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.workspace import NotThere, Workspace
from usagi.store.database import transaction


@dataclass(frozen=True, slots=True)
class Sleeve:
    """What a sleeve would say of a solo."""

    credits: tuple[Credit, ...]
    rig: tuple[RigRow, ...]
    gauges: str | None = None  # from the thinnest on, `10 13 17 26w 36w 46w`; none: as it is
    scale_length_mm: float | None = None
    wound_kg_m3: float | None = None  # density of the wound strings, an estimate
    strung_for: str | None = None  # the tuning that the set is made for; an empty one: that in use
    bottleneck: bool | None = None
    muted_behind: bool | None = None
    continues: UUID | None = None  # the solo of the same tune that this one goes on from
    ends_continuing: bool = False


def change_sleeve(workspace: Workspace, solo_id: UUID, sleeve: Sleeve, reader: Reader = Reader()) -> Answer:
    """Put other credits and rig notes on a solo, in one act. Raises : NotThere, GaugesUnreadable, TuningUnreadable."""
    loaded = load(workspace, solo_id)
    solo = loaded.solo
    changed: dict[str, object] = {"credits": sleeve.credits, "rig": sleeve.rig}
    if sleeve.gauges is not None:
        gauges = parse_gauges(sleeve.gauges, len(solo.settings.tuning))
        changed["gauges"] = tuple(StringGauge(gauge_inch=gauge.inch, wound=gauge.wound) for gauge in gauges)
    for name in ("scale_length_mm", "wound_kg_m3", "bottleneck", "muted_behind"):
        if getattr(sleeve, name) is not None:
            changed[name] = getattr(sleeve, name)
    if sleeve.strung_for is not None:
        changed["strung_for"] = parse_tuning(sleeve.strung_for).midi if sleeve.strung_for.strip() else None
    if sleeve.continues is not None:
        if sleeve.continues == solo_id:
            raise NotThere("A solo cannot go on from itself.")
        with transaction(workspace.pool) as db:
            workspace.solo(db, sleeve.continues)
        changed["continues"] = str(sleeve.continues)
    elif sleeve.ends_continuing:
        changed["continues"] = None
    settings = type(solo.settings).model_validate(solo.settings.model_dump() | changed)
    after = solo.model_copy(update={"settings": settings})
    return commit(workspace, loaded, "change the credits and the rig", reader, solo=after)
