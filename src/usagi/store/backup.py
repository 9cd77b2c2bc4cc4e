"""All rows of a studio as they are stored, out and in, for backups."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from uuid import UUID

from psycopg.sql import SQL, Composed, Identifier
from psycopg.types.json import Jsonb

from usagi.store.database import Db
from usagi.store.recordings import write_sound
from usagi.store.studios import Scope, drop_studio

# Every table but that of the sound, in an order in which each finds what it refers to, and what its rows are sorted by.
TABLES: dict[str, tuple[str, ...]] = {
    "studio": ("id",),
    "person": ("id",),
    "player": ("id",),
    "tune": ("id",),
    "recording": ("id",),
    "document": ("id",),
    "ground": ("id",),
    "solo": ("id",),
    "edit": ("seq",),
    "snapshot": ("document_id", "version"),
    "chart_draft": ("ground_id", "person_id"),
    "listened_span": ("solo_id", "from_tick", "to_tick"),
    "no_note": ("id",),
    "lick": ("id",),
    "lick_change": ("lick_id", "version"),
}
# Tables that came later, and the format of backups that has them first.
SINCE_FORMAT = {"listened_span": 3, "no_note": 3, "lick": 6, "lick_change": 6}
SOUND_KINDS = ("upload", "pcm")
STUDIOS = "SELECT id, name, demo FROM studio ORDER BY made_at"
STUDIO_WORK = """
SELECT (SELECT count(*) FROM solo WHERE studio_id = %(studio_id)s)
    + (SELECT count(*) FROM recording WHERE studio_id = %(studio_id)s)
"""
SOUND_SIZES = """
SELECT recording_id, kind, sum(length(data)) FROM sound_part
WHERE studio_id = %(studio_id)s GROUP BY recording_id, kind ORDER BY recording_id, kind
"""
# A restored log goes on counting where it ended.
NEXT_SEQ = """
SELECT setval(pg_get_serial_sequence('edit', 'seq'),
    greatest((SELECT max(seq) FROM edit WHERE studio_id = %(studio_id)s), (SELECT max(seq) FROM edit), 1))
"""


def studios(db: Db) -> list[tuple[UUID, str, bool]]:
    """Id, name, and whether it is the demo's."""
    return [(row[0], row[1], row[2]) for row in db.execute(STUDIOS)]


def work_in(db: Db, studio: UUID) -> int:
    """How many solos and recordings a studio holds."""
    row = db.execute(STUDIO_WORK, {"studio_id": studio}).fetchone()
    assert row is not None
    return int(row[0])


def rows(db: Db, studio: UUID, table: str) -> Iterator[dict[str, Any]]:
    """All rows of a table, sorted, as JSON values."""
    key = SQL("id") if table == "studio" else SQL("studio_id")
    order = SQL(", ").join(map(Identifier, TABLES[table]))
    query: Composed = SQL("SELECT to_jsonb(t) FROM {} AS t WHERE {} = %s ORDER BY {}").format(
        Identifier(table), key, order
    )
    for row in db.execute(query, (studio,)):
        yield row[0]


def sounds(db: Db, studio: UUID) -> list[tuple[UUID, str, int]]:
    """Recording, kind and bytes of every stored stream of sound."""
    return [(row[0], row[1], int(row[2])) for row in db.execute(SOUND_SIZES, {"studio_id": studio})]


def add_rows(db: Db, table: str, values: list[dict[str, Any]]) -> None:
    """Put rows back as they were, edits with their place in the log."""
    query = SQL("INSERT INTO {} OVERRIDING SYSTEM VALUE SELECT * FROM jsonb_populate_record(NULL::{}, %s)").format(
        Identifier(table), Identifier(table)
    )
    with db.cursor() as cur:
        cur.executemany(query, [(Jsonb(value),) for value in values])


def add_sound(db: Db, studio: UUID, recording: UUID, kind: str, blocks: Iterator[bytes]) -> None:
    write_sound(db, Scope(studio, studio), recording, kind, blocks)


def go_on_counting(db: Db, studio: UUID) -> None:
    db.execute(NEXT_SEQ, {"studio_id": studio})


def drop(db: Db, studio: UUID) -> None:
    drop_studio(db, Scope(studio, studio))
