"""Who is said to play what, and the instrument and settings that the sound is made with."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.degrees.labels import Reader
from usagi.core.document.edits import difference
from usagi.core.document.solo import Credit, RigRow
from usagi.flows.desk import Desk
from usagi.flows.edits import Answer
from usagi.flows.grounds import answered, one_act
from usagi.store.database import transaction


@dataclass(frozen=True, slots=True)
class Sleeve:
    """What a sleeve would say of a solo."""

    credits: tuple[Credit, ...]
    rig: tuple[RigRow, ...]


def change_sleeve(desk: Desk, solo_id: UUID, sleeve: Sleeve, reader: Reader = Reader()) -> Answer:
    """Put other credits and rig notes on a solo, in one act. Raises : NotThere."""
    with transaction(desk.pool) as db:
        solo, version, _ = desk.solo(db, solo_id)
    settings = solo.settings.model_copy(update={"credits": sleeve.credits, "rig": sleeve.rig})
    after = solo.model_copy(update={"settings": settings})
    edits = one_act(desk, solo_id, "change the credits and the rig", [(solo_id, difference(solo, after))])
    return answered(desk, solo_id, {str(solo_id): version}, edits, reader)
