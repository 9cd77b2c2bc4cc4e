"""What was heard in recordings, the hints that it was asked with, and what a teacher said of it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.store.database import Db

HEARD = """
UPDATE heard SET used_at = now() WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND key = %(key)s
RETURNING found
"""
KEYS_THERE = """
SELECT key FROM heard WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND key = ANY(%(keys)s)
"""
KEEP_HEARD = """
INSERT INTO heard (studio_id, recording_id, key, found, bytes)
VALUES (%(studio_id)s, %(recording_id)s, %(key)s, %(found)s::jsonb, length(%(text)s))
ON CONFLICT (studio_id, recording_id, key) DO UPDATE SET found = excluded.found, used_at = now()
"""
TRIM_HEARD = """
DELETE FROM heard USING (
    SELECT recording_id, key, sum(bytes) OVER (ORDER BY used_at DESC, key) AS so_far
    FROM heard WHERE studio_id = %(studio_id)s
) AS old
WHERE heard.studio_id = %(studio_id)s AND heard.recording_id = old.recording_id AND heard.key = old.key
    AND old.so_far > %(most)s
"""
KEEP_HINTS = """
INSERT INTO listened_span (studio_id, solo_id, from_tick, to_tick, hints)
VALUES (%(studio_id)s, %(solo_id)s, %(start)s, %(end)s, %(hints)s)
ON CONFLICT (studio_id, solo_id, from_tick, to_tick) DO UPDATE SET hints = excluded.hints, asked_at = now()
"""
# The span itself, else the last one that lies over half of it.
HINTS = """
SELECT hints FROM listened_span
WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s AND from_tick < %(end)s AND to_tick > %(start)s
    AND 2 * (least(to_tick, %(end)s) - greatest(from_tick, %(start)s)) > %(end)s - %(start)s
ORDER BY (from_tick = %(start)s AND to_tick = %(end)s) DESC, asked_at DESC LIMIT 1
"""
NEW_NO_NOTE = """
INSERT INTO no_note (studio_id, recording_id, id, second, midi)
VALUES (%(studio_id)s, %(recording_id)s, %(id)s, %(second)s, %(midi)s) ON CONFLICT DO NOTHING
"""
NO_NOTES = """
SELECT id, second, midi FROM no_note
WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND second >= %(start)s AND second < %(end)s
ORDER BY second, id
"""
NOTES_AGAIN = """
DELETE FROM no_note
WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND second >= %(start)s AND second < %(end)s
"""
CONSENT = "SELECT keeps_corrections FROM studio WHERE id = %(studio_id)s"
SET_CONSENT = "UPDATE studio SET keeps_corrections = %(keeps)s WHERE id = %(studio_id)s"
CORRECTED = """
UPDATE listened_span SET corrected = true
WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s AND from_tick <= %(start)s AND to_tick >= %(end)s
    AND EXISTS (SELECT FROM studio WHERE id = %(studio_id)s AND keeps_corrections)
"""
CORRECTED_SPANS = """
SELECT solo_id, from_tick, to_tick FROM listened_span
WHERE studio_id = %(studio_id)s AND corrected ORDER BY solo_id, from_tick, to_tick
"""


@dataclass(frozen=True, slots=True)
class NoNote:
    """A moment of a recording at which a heard pitch is none; `midi` is None for a dead note."""

    id: UUID
    second: float
    midi: int | None


def heard(db: Db, studio: UUID, recording: UUID, key: str) -> Any | None:
    """What is kept under a key; it counts as used."""
    row = db.execute(HEARD, {"studio_id": studio, "recording_id": recording, "key": key}).fetchone()
    return None if row is None else row[0]


def keys_there(db: Db, studio: UUID, recording: UUID, keys: Sequence[str]) -> set[str]:
    """Which of some keys something is kept under."""
    values = {"studio_id": studio, "recording_id": recording, "keys": list(keys)}
    return {row[0] for row in db.execute(KEYS_THERE, values)}


def keep_heard(db: Db, studio: UUID, recording: UUID, key: str, found: Any, *, most: int) -> None:
    """Keep what was heard, up to `most` bytes in a studio; what was not used for longest makes room for it."""
    text = json.dumps(found)
    values = {"studio_id": studio, "recording_id": recording, "key": key, "found": text, "text": text}
    db.execute(KEEP_HEARD, values)
    db.execute(TRIM_HEARD, {"studio_id": studio, "most": most})


def keep_hints(db: Db, studio: UUID, solo: UUID, start: int, end: int, hints: dict[str, Any]) -> None:
    db.execute(KEEP_HINTS, {"studio_id": studio, "solo_id": solo, "start": start, "end": end, "hints": Jsonb(hints)})


def hints(db: Db, studio: UUID, solo: UUID, start: int, end: int) -> dict[str, Any] | None:
    row = db.execute(HINTS, {"studio_id": studio, "solo_id": solo, "start": start, "end": end}).fetchone()
    return None if row is None else dict(row[0])


def add_no_note(db: Db, studio: UUID, recording: UUID, one: NoNote) -> None:
    values = {"id": one.id, "second": one.second, "midi": one.midi}
    db.execute(NEW_NO_NOTE, {"studio_id": studio, "recording_id": recording} | values)


def no_notes(db: Db, studio: UUID, recording: UUID, start: float, end: float) -> Sequence[NoNote]:
    values = {"studio_id": studio, "recording_id": recording, "start": start, "end": end}
    with db.cursor(row_factory=class_row(NoNote)) as cur:
        return cur.execute(NO_NOTES, values).fetchall()


def notes_again(db: Db, studio: UUID, recording: UUID, start: float, end: float) -> int:
    """How many moments may be notes again."""
    values = {"studio_id": studio, "recording_id": recording, "start": start, "end": end}
    return db.execute(NOTES_AGAIN, values).rowcount


def keeps_corrections(db: Db, studio: UUID) -> bool | None:
    """Whether the teacher wants corrections kept for scoring; None when nobody asked yet."""
    row = db.execute(CONSENT, {"studio_id": studio}).fetchone()
    return None if row is None else row[0]


def set_keeps_corrections(db: Db, studio: UUID, *, keeps: bool) -> None:
    db.execute(SET_CONSENT, {"studio_id": studio, "keeps": keeps})


def mark_corrected(db: Db, studio: UUID, solo: UUID, start: int, end: int) -> None:
    """Keep the listened spans that hold a stretch, where the teacher wants that."""
    db.execute(CORRECTED, {"studio_id": studio, "solo_id": solo, "start": start, "end": end})


def corrected_spans(db: Db, studio: UUID) -> list[tuple[UUID, int, int]]:
    """Solo, first and last tick of every span that is kept for scoring."""
    return [(row[0], row[1], row[2]) for row in db.execute(CORRECTED_SPANS, {"studio_id": studio})]
