"""Chart texts with faults, kept for their writer until they read."""

from __future__ import annotations

from uuid import UUID

from usagi.store.database import Db
from usagi.store.studios import Scope

KEEP = """
INSERT INTO chart_draft (studio_id, ground_id, person_id, text)
VALUES (%(studio_id)s, %(ground_id)s, %(person_id)s, %(text)s)
ON CONFLICT (studio_id, ground_id, person_id) DO UPDATE SET text = excluded.text, at = now()
"""
READ = """
SELECT text FROM chart_draft
WHERE studio_id = %(studio_id)s AND ground_id = %(ground_id)s AND person_id = %(person_id)s
"""
DROP = """
DELETE FROM chart_draft
WHERE studio_id = %(studio_id)s AND ground_id = %(ground_id)s AND person_id = %(person_id)s
"""


def _values(scope: Scope, ground_id: UUID) -> dict[str, object]:
    return {"studio_id": scope.studio, "ground_id": ground_id, "person_id": scope.person}


def keep_draft(db: Db, scope: Scope, ground_id: UUID, text: str) -> None:
    db.execute(KEEP, _values(scope, ground_id) | {"text": text})


def draft(db: Db, scope: Scope, ground_id: UUID) -> str | None:
    row = db.execute(READ, _values(scope, ground_id)).fetchone()
    return None if row is None else str(row[0])


def drop_draft(db: Db, scope: Scope, ground_id: UUID) -> None:
    db.execute(DROP, _values(scope, ground_id))
