"""Licks that are kept: spans of solos by reference, frozen as documents once their notes are gone."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class Lick:
    """One lick; `frozen` is its document once it is."""

    id: UUID
    version: int
    name: str
    tags: list[str]
    words: str
    solo_id: UUID | None
    first_note: str
    last_note: str
    recording_id: UUID | None
    frozen: Any
    why_frozen: str
    touched_at: datetime
    removed_at: datetime | None


FIELDS = """
id, version, name, tags, words, solo_id, first_note, last_note, recording_id, frozen, why_frozen, touched_at, removed_at
"""
LICK = f"SELECT {FIELDS} FROM lick WHERE studio_id = %(studio_id)s AND id = %(id)s"
LOCK_LICK = f"{LICK} FOR UPDATE"
OF_SOLO = f"""
SELECT {FIELDS} FROM lick WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s AND removed_at IS NULL ORDER BY id
"""
REMOVED = f"""
SELECT {FIELDS} FROM lick WHERE studio_id = %(studio_id)s AND removed_at IS NOT NULL ORDER BY removed_at DESC
"""
FROZEN = f"""
SELECT {FIELDS} FROM lick WHERE studio_id = %(studio_id)s AND frozen IS NOT NULL AND removed_at IS NULL ORDER BY id
"""
KEPT_SPAN = f"""
SELECT {FIELDS} FROM lick
WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s AND removed_at IS NULL AND frozen IS NULL
    AND first_note = %(first_note)s AND last_note = %(last_note)s
ORDER BY id LIMIT 1
"""
LOCK_SOLO = "SELECT id FROM solo WHERE studio_id = %(studio_id)s AND id = %(solo_id)s FOR UPDATE"
NEW_LICK = """
INSERT INTO lick
    (studio_id, id, name, tags, words, solo_id, first_note, last_note, recording_id, frozen, why_frozen)
VALUES
    (%(studio_id)s, %(id)s, %(name)s, %(tags)s, %(words)s, %(solo_id)s, %(first_note)s, %(last_note)s,
     %(recording_id)s, %(frozen)s, %(why_frozen)s)
ON CONFLICT (studio_id, id) DO NOTHING
"""
SET_WORDS = """
UPDATE lick SET name = %(name)s, tags = %(tags)s, words = %(words)s, version = version + 1, touched_at = now()
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
SET_REMOVED = """
UPDATE lick SET removed_at = CASE WHEN %(removed)s THEN now() END, version = version + 1
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
SET_FROZEN = """
UPDATE lick SET frozen = %(frozen)s, why_frozen = %(why_frozen)s WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
KEEP_CHANGE = """
INSERT INTO lick_change (studio_id, lick_id, version, person_id, before)
SELECT studio_id, id, version, %(person_id)s, to_jsonb(lick) - 'frozen' FROM lick
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
DELETE_REMOVED = """
DELETE FROM lick WHERE studio_id = %(studio_id)s AND removed_at < now() - make_interval(days => %(days)s)
"""


def lick(db: Db, scope: Scope, lick_id: UUID, *, lock: bool = False) -> Lick | None:
    with db.cursor(row_factory=class_row(Lick)) as cur:
        return cur.execute(LOCK_LICK if lock else LICK, {"studio_id": scope.studio, "id": lick_id}).fetchone()


def kept_span(db: Db, scope: Scope, solo_id: UUID, first_note: str, last_note: str) -> Lick | None:
    """The lick that keeps these notes already; until the transaction ends nobody else keeps one of this solo."""
    values = {"studio_id": scope.studio, "solo_id": solo_id, "first_note": first_note, "last_note": last_note}
    db.execute(LOCK_SOLO, values)
    with db.cursor(row_factory=class_row(Lick)) as cur:
        return cur.execute(KEPT_SPAN, values).fetchone()


def licks_of_solo(db: Db, scope: Scope, solo_id: UUID) -> list[Lick]:
    with db.cursor(row_factory=class_row(Lick)) as cur:
        return cur.execute(OF_SOLO, {"studio_id": scope.studio, "solo_id": solo_id}).fetchall()


def removed_licks(db: Db, scope: Scope) -> list[Lick]:
    with db.cursor(row_factory=class_row(Lick)) as cur:
        return cur.execute(REMOVED, {"studio_id": scope.studio}).fetchall()


def frozen_licks(db: Db, scope: Scope) -> list[Lick]:
    with db.cursor(row_factory=class_row(Lick)) as cur:
        return cur.execute(FROZEN, {"studio_id": scope.studio}).fetchall()


def add_lick(
    db: Db,
    scope: Scope,
    lick_id: UUID,
    *,
    name: str,
    tags: list[str],
    words: str,
    solo_id: UUID | None,
    first_note: str,
    last_note: str,
    recording_id: UUID | None,
    frozen: Any = None,
    why_frozen: str = "",
) -> None:
    """A new lick; sent again, nothing happens."""
    values: dict[str, Any] = {"name": name, "tags": tags, "words": words, "solo_id": solo_id, "first_note": first_note}
    values |= {"last_note": last_note, "recording_id": recording_id, "why_frozen": why_frozen}
    values |= {"frozen": None if frozen is None else Jsonb(frozen)}
    db.execute(NEW_LICK, values | {"studio_id": scope.studio, "id": lick_id})


def keep_change(db: Db, scope: Scope, lick_id: UUID) -> None:
    """What a lick is before it is changed, and by whom."""
    db.execute(KEEP_CHANGE, {"studio_id": scope.studio, "id": lick_id, "person_id": scope.person})


def set_words(db: Db, scope: Scope, lick_id: UUID, *, name: str, tags: list[str], words: str) -> None:
    values = {"name": name, "tags": tags, "words": words}
    db.execute(SET_WORDS, values | {"studio_id": scope.studio, "id": lick_id})


def set_removed(db: Db, scope: Scope, lick_id: UUID, *, removed: bool) -> None:
    db.execute(SET_REMOVED, {"studio_id": scope.studio, "id": lick_id, "removed": removed})


def set_frozen(db: Db, studio: UUID, lick_id: UUID, frozen: Any, why_frozen: str) -> None:
    """Freeze a lick as a document; None lets it follow its solo again."""
    values = {"frozen": None if frozen is None else Jsonb(frozen), "why_frozen": why_frozen}
    db.execute(SET_FROZEN, values | {"studio_id": studio, "id": lick_id})


def delete_removed(db: Db, scope: Scope, days: int) -> None:
    db.execute(DELETE_REMOVED, {"studio_id": scope.studio, "days": days})
