"""What workers hear in recordings: asked, under way, found."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.store.database import Db


@dataclass(frozen=True, slots=True)
class EstimateRow:
    """`state` is waiting, running, done, failed or cancelled; `share` is how much is done, 0 to 1."""

    id: UUID
    solo_id: UUID | None
    recording_id: UUID | None
    kind: str
    asked: dict[str, Any]
    state: str
    share: float
    found: dict[str, Any] | None
    trouble: str


FIELDS = "id, solo_id, recording_id, kind, asked, state, share, found, trouble"
NEW = """
INSERT INTO estimate (studio_id, id, solo_id, recording_id, kind, asked)
VALUES (%(studio_id)s, %(id)s, %(solo_id)s, %(recording_id)s, %(kind)s, %(asked)s)
"""
READ = f"SELECT {FIELDS} FROM estimate WHERE studio_id = %(studio_id)s AND id = %(id)s"
OF_RECORDING = """
SELECT id FROM estimate
WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND kind = %(kind)s
    AND state IN ('waiting', 'running', 'done')
ORDER BY made_at DESC LIMIT 1
"""
OPEN_OF_SOLO = f"""
SELECT {FIELDS} FROM estimate
WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s AND state IN ('waiting', 'running')
ORDER BY made_at
"""
BEGIN = """
UPDATE estimate SET state = 'running', share = 0
WHERE studio_id = %(studio_id)s AND id = %(id)s AND state IN ('waiting', 'running')
"""
SHARE = """
UPDATE estimate SET share = %(share)s WHERE studio_id = %(studio_id)s AND id = %(id)s AND state = 'running'
"""
# A result is written once, and a cancelled one stays cancelled. What still waits can end: its workers may have gone
# before they began.
END = """
UPDATE estimate SET state = %(state)s, share = 1, found = %(found)s, trouble = %(trouble)s
WHERE studio_id = %(studio_id)s AND id = %(id)s AND state IN ('waiting', 'running')
"""
# Waiting or under way, with no job in the queue that could end it: its worker fell with the database, or was removed.
ABANDONED = """
UPDATE estimate SET state = 'failed', share = 1, trouble = %(trouble)s
WHERE state IN ('waiting', 'running') AND made_at < now() - make_interval(secs => %(grace_s)s) AND NOT EXISTS (
    SELECT FROM procrastinate_jobs AS job
    WHERE job.status IN ('todo', 'doing') AND job.args->>'estimate' = estimate.id::text
)
RETURNING id
"""
CANCEL = """
UPDATE estimate SET state = 'cancelled'
WHERE studio_id = %(studio_id)s AND id = %(id)s AND state IN ('waiting', 'running')
"""
OLD = "DELETE FROM estimate WHERE studio_id = %(studio_id)s AND made_at < now() - interval '7 days'"


def add(
    db: Db,
    studio: UUID,
    estimate: UUID,
    kind: str,
    asked: dict[str, Any],
    *,
    solo: UUID | None = None,
    recording: UUID | None = None,
) -> None:
    """Of a solo, or of a recording before any solo stands on it."""
    of = {"solo_id": solo, "recording_id": recording}
    values = {"studio_id": studio, "id": estimate, "kind": kind, "asked": Jsonb(asked)} | of
    db.execute(OLD, values)
    db.execute(NEW, values)


def read(db: Db, studio: UUID, estimate: UUID) -> EstimateRow | None:
    with db.cursor(row_factory=class_row(EstimateRow)) as cur:
        return cur.execute(READ, {"studio_id": studio, "id": estimate}).fetchone()


def open_of_solo(db: Db, studio: UUID, solo: UUID) -> list[EstimateRow]:
    """What is asked of a solo and has not ended, the oldest first."""
    with db.cursor(row_factory=class_row(EstimateRow)) as cur:
        return cur.execute(OPEN_OF_SOLO, {"studio_id": studio, "solo_id": solo}).fetchall()


def of_recording(db: Db, studio: UUID, recording: UUID, kind: str) -> UUID | None:
    """What was asked of a recording and was not left, the last of it."""
    row = db.execute(OF_RECORDING, {"studio_id": studio, "recording_id": recording, "kind": kind}).fetchone()
    return None if row is None else row[0]


def begin(db: Db, studio: UUID, estimate: UUID) -> bool:
    """Whether there is something to do: it waits, or a worker that is gone was at it."""
    return db.execute(BEGIN, {"studio_id": studio, "id": estimate}).rowcount == 1


def set_share(db: Db, studio: UUID, estimate: UUID, share: float) -> bool:
    """Whether it is still wanted."""
    return db.execute(SHARE, {"studio_id": studio, "id": estimate, "share": share}).rowcount == 1


def end(
    db: Db, studio: UUID, estimate: UUID, state: str, found: dict[str, Any] | None = None, trouble: str = ""
) -> bool:
    values = {"studio_id": studio, "id": estimate, "state": state, "trouble": trouble}
    return db.execute(END, values | {"found": None if found is None else Jsonb(found)}).rowcount == 1


def end_abandoned(db: Db, *, grace_s: float, trouble: str) -> list[UUID]:
    """End, as failed, what no job in the queue will ever end; a grace for what is just being lined up."""
    return [row[0] for row in db.execute(ABANDONED, {"grace_s": grace_s, "trouble": trouble})]


def cancel(db: Db, studio: UUID, estimate: UUID) -> None:
    db.execute(CANCEL, {"studio_id": studio, "id": estimate})
