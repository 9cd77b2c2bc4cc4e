"""The recordings of a tune, and the solos on each."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from psycopg.rows import class_row

from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class FamilySolo:
    """A solo of the tune: the ground that it stands on, and the recording of that, where there is one."""

    id: UUID
    title: str
    player: str | None
    ground_id: UUID
    recording_id: UUID | None


SOLOS = """
SELECT solo.id, solo.title, player.name AS player, ground.id AS ground_id, ground.recording_id
FROM solo
    JOIN ground ON ground.studio_id = solo.studio_id AND ground.id = solo.ground_id
    LEFT JOIN player ON player.studio_id = solo.studio_id AND player.id = solo.player_id
WHERE solo.studio_id = %(studio_id)s AND solo.removed_at IS NULL AND ground.tune_id = (
    SELECT tune_id FROM ground WHERE studio_id = %(studio_id)s AND id = %(ground_id)s
)
ORDER BY ground.recording_id NULLS LAST, solo.title, solo.id
"""
SET_SLEEVE = """
UPDATE recording
SET title = %(title)s, source = %(source)s, year = %(year)s, take = %(take)s, link = %(link)s, notes = %(notes)s,
    setting = %(setting)s
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""


def solos_of_tune(db: Db, scope: Scope, ground_id: UUID) -> list[FamilySolo]:
    with db.cursor(row_factory=class_row(FamilySolo)) as cur:
        return cur.execute(SOLOS, {"studio_id": scope.studio, "ground_id": ground_id}).fetchall()


def set_recording(
    db: Db, scope: Scope, recording_id: UUID, *, title: str, source: str, year: int | None, take: str, link: str,
    notes: str, setting: str,
) -> None:  # fmt: skip
    values = {
        "title": title,
        "source": source,
        "year": year,
        "take": take,
        "link": link,
        "notes": notes,
        "setting": setting,
    }
    db.execute(SET_SLEEVE, values | {"studio_id": scope.studio, "id": recording_id})
