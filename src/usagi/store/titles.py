"""Where a ground belongs: its tune and its recording."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from psycopg.rows import class_row

from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class GroundPlace:
    tune: str
    recording_id: UUID | None


PLACE = """
SELECT tune.title AS tune, ground.recording_id
FROM ground JOIN tune ON tune.studio_id = ground.studio_id AND tune.id = ground.tune_id
WHERE ground.studio_id = %(studio_id)s AND ground.id = %(id)s
"""
GROUND_OF_RECORDING = """
SELECT id FROM ground WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s
"""


def ground_place(db: Db, scope: Scope, ground_id: UUID) -> GroundPlace:
    with db.cursor(row_factory=class_row(GroundPlace)) as cur:
        found = cur.execute(PLACE, {"studio_id": scope.studio, "id": ground_id}).fetchone()
    assert found is not None  # a ground always has a tune
    return found


def ground_of_recording(db: Db, scope: Scope, recording_id: UUID) -> UUID | None:
    row = db.execute(GROUND_OF_RECORDING, {"studio_id": scope.studio, "recording_id": recording_id}).fetchone()
    return None if row is None else row[0]
