"""Files that workers made, each beside the row by which it was asked for."""

from __future__ import annotations

from uuid import UUID

from usagi.store.database import Db

KEEP = """
INSERT INTO made_file (studio_id, estimate_id, name, data)
VALUES (%(studio_id)s, %(estimate_id)s, %(name)s, %(data)s)
ON CONFLICT (studio_id, estimate_id) DO UPDATE SET name = excluded.name, data = excluded.data
"""
READ = "SELECT name, data FROM made_file WHERE studio_id = %(studio_id)s AND estimate_id = %(estimate_id)s"


def keep_file(db: Db, studio: UUID, estimate: UUID, name: str, data: bytes) -> None:
    """Keep the file of an estimate; one that was made twice is kept once."""
    db.execute(KEEP, {"studio_id": studio, "estimate_id": estimate, "name": name, "data": data})


def read_file(db: Db, studio: UUID, estimate: UUID) -> tuple[str, bytes] | None:
    """Its name and its bytes."""
    row = db.execute(READ, {"studio_id": studio, "estimate_id": estimate}).fetchone()
    return None if row is None else (row[0], bytes(row[1]))
