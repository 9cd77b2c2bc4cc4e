"""The shelf: a row for each solo, those that were removed too."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg.rows import class_row

from usagi.store.database import Db
from usagi.store.studios import Scope

REMOVED_DAYS = 30


@dataclass(frozen=True, slots=True)
class SoloRow:
    id: UUID
    tune: str
    title: str
    player: str | None
    seconds: float | None
    has_sound: bool
    summary: Any
    touched_at: datetime
    removed_at: datetime | None
    open_findings: int | None  # none: not checked since it changed
    checked: float | None  # the share of bars


SHELF = """
SELECT solo.id, tune.title AS tune, solo.title, player.name AS player, recording.seconds,
    recording.frames IS NOT NULL AS has_sound, solo.summary, solo.touched_at, solo.removed_at,
    solo_check.open AS open_findings, solo_check.done AS checked
FROM solo
    JOIN ground ON ground.studio_id = solo.studio_id AND ground.id = solo.ground_id
    JOIN tune ON tune.studio_id = solo.studio_id AND tune.id = ground.tune_id
    LEFT JOIN player ON player.studio_id = solo.studio_id AND player.id = solo.player_id
    LEFT JOIN recording ON recording.studio_id = solo.studio_id AND recording.id = ground.recording_id
    LEFT JOIN document AS written ON written.studio_id = solo.studio_id AND written.id = solo.id
    LEFT JOIN document AS under ON under.studio_id = solo.studio_id AND under.id = solo.ground_id
    LEFT JOIN solo_check ON solo_check.studio_id = solo.studio_id AND solo_check.solo_id = solo.id
        AND solo_check.solo_version = written.version AND solo_check.ground_version = under.version
WHERE solo.studio_id = %(studio_id)s
ORDER BY player.name COLLATE "und-x-icu" NULLS LAST, tune.title COLLATE "und-x-icu", solo.title COLLATE "und-x-icu"
"""
SET_REMOVED = """
UPDATE solo SET removed_at = CASE WHEN %(removed)s THEN now() END
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
RENAME_TUNE = """
UPDATE ground SET tune_id = %(tune_id)s
WHERE studio_id = %(studio_id)s AND id = (SELECT ground_id FROM solo WHERE studio_id = %(studio_id)s AND id = %(id)s)
"""
# Documents go with their solos; a ground goes when no solo names it any more, its recording when no lick does either.
DELETE_REMOVED = """
DELETE FROM document WHERE studio_id = %(studio_id)s AND id IN (
    SELECT id FROM solo WHERE studio_id = %(studio_id)s AND removed_at < now() - make_interval(days => %(days)s)
)
"""
DROP_LONE_GROUNDS = """
DELETE FROM document WHERE studio_id = %(studio_id)s AND kind = 'ground' AND id NOT IN (
    SELECT ground_id FROM solo WHERE studio_id = %(studio_id)s
)
"""
DROP_LONE_RECORDINGS = """
DELETE FROM recording WHERE studio_id = %(studio_id)s AND made_at < now() - interval '1 day' AND id NOT IN (
    SELECT recording_id FROM ground WHERE studio_id = %(studio_id)s AND recording_id IS NOT NULL
    UNION SELECT recording_id FROM lick WHERE studio_id = %(studio_id)s AND recording_id IS NOT NULL
)
"""


def shelf(db: Db, scope: Scope) -> list[SoloRow]:
    """Every solo, those that were removed too."""
    with db.cursor(row_factory=class_row(SoloRow)) as cur:
        return cur.execute(SHELF, {"studio_id": scope.studio}).fetchall()


REMOVED_SOLOS = "SELECT id FROM solo WHERE studio_id = %(studio_id)s AND removed_at IS NOT NULL"


def removed_solos(db: Db, scope: Scope) -> set[UUID]:
    return {row[0] for row in db.execute(REMOVED_SOLOS, {"studio_id": scope.studio})}


def set_removed(db: Db, scope: Scope, solo_id: UUID, *, removed: bool) -> bool:
    """Remove a solo or restore it; False when there is none."""
    values = {"studio_id": scope.studio, "id": solo_id, "removed": removed}
    return db.execute(SET_REMOVED, values).rowcount == 1


def set_tune(db: Db, scope: Scope, solo_id: UUID, tune_id: UUID) -> None:
    """Move a solo's ground, with all its solos, to a tune."""
    db.execute(RENAME_TUNE, {"studio_id": scope.studio, "id": solo_id, "tune_id": tune_id})


def delete_removed(db: Db, scope: Scope) -> None:
    """Delete what was removed thirty days ago, and what nothing names any more."""
    values = {"studio_id": scope.studio, "days": REMOVED_DAYS}
    db.execute(DELETE_REMOVED, values)
    db.execute(DROP_LONE_GROUNDS, values)
    db.execute(DROP_LONE_RECORDINGS, values)
