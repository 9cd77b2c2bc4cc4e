"""Recordings and their sound, in rows of 256 KiB."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from uuid import UUID

from psycopg.rows import class_row

from usagi.store.database import Db
from usagi.store.studios import Scope

PART_BYTES = 256 * 1024


@dataclass(frozen=True, slots=True)
class Recording:
    """`frames` and `channels` are None while the sound has not come."""

    id: UUID
    tune_id: UUID
    sha256: str
    title: str
    file_name: str
    bytes: int | None
    frames: int | None
    channels: int | None
    seconds: float
    source: str = ""  # the album, the film, the broadcast
    year: int | None = None
    take: str = ""
    link: str = ""  # or a shelf mark
    notes: str = ""
    setting: str = ""  # studio or live; empty where it is not known


FIELDS = (
    "id, tune_id, sha256, title, file_name, bytes, frames, channels, seconds, source, year, take, link, notes, setting"
)
RECORDING = f"SELECT {FIELDS} FROM recording WHERE studio_id = %(studio_id)s AND id = %(id)s"
BY_HASH = f"SELECT {FIELDS} FROM recording WHERE studio_id = %(studio_id)s AND sha256 = %(sha256)s"
NEW_RECORDING = """
INSERT INTO recording
    (studio_id, id, tune_id, sha256, title, file_name, bytes, frames, channels, seconds, decoded_by)
VALUES
    (%(studio_id)s, %(id)s, %(tune_id)s, %(sha256)s, %(title)s, %(file_name)s, %(bytes)s, %(frames)s, %(channels)s,
     %(seconds)s, %(decoded_by)s)
"""
SOUND_HAS_COME = """
UPDATE recording
SET file_name = %(file_name)s, bytes = %(bytes)s, frames = %(frames)s, channels = %(channels)s,
    seconds = %(seconds)s, decoded_by = %(decoded_by)s
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
NEW_PART = """
INSERT INTO sound_part (studio_id, recording_id, kind, part, data)
VALUES (%(studio_id)s, %(recording_id)s, %(kind)s, %(part)s, %(data)b)
"""
PARTS = """
SELECT data FROM sound_part
WHERE studio_id = %(studio_id)s AND recording_id = %(recording_id)s AND kind = %(kind)s
    AND part BETWEEN %(first)s AND %(last)s
ORDER BY part
"""


def recording(db: Db, scope: Scope, recording_id: UUID) -> Recording | None:
    with db.cursor(row_factory=class_row(Recording)) as cur:
        return cur.execute(RECORDING, {"studio_id": scope.studio, "id": recording_id}).fetchone()


def recording_by_hash(db: Db, scope: Scope, sha256: str) -> Recording | None:
    with db.cursor(row_factory=class_row(Recording)) as cur:
        return cur.execute(BY_HASH, {"studio_id": scope.studio, "sha256": sha256}).fetchone()


def add_recording(db: Db, scope: Scope, new: Recording, *, decoded_by: str | None) -> None:
    db.execute(NEW_RECORDING, _values(scope, new, decoded_by))


def sound_has_come(db: Db, scope: Scope, known: Recording, *, decoded_by: str) -> None:
    """Fill in a recording that was known by its hash alone."""
    db.execute(SOUND_HAS_COME, _values(scope, known, decoded_by))


def _values(scope: Scope, item: Recording, decoded_by: str | None) -> dict[str, object]:
    return {
        "studio_id": scope.studio,
        "id": item.id,
        "tune_id": item.tune_id,
        "sha256": item.sha256,
        "title": item.title,
        "file_name": item.file_name,
        "bytes": item.bytes,
        "frames": item.frames,
        "channels": item.channels,
        "seconds": item.seconds,
        "decoded_by": decoded_by,
    }


def write_sound(db: Db, scope: Scope, recording_id: UUID, kind: str, blocks: Iterable[bytes]) -> None:
    """Store a stream of bytes as parts; each block but the last is `PART_BYTES` long."""
    rows = (
        {"studio_id": scope.studio, "recording_id": recording_id, "kind": kind, "part": part, "data": block}
        for part, block in enumerate(blocks)
    )
    with db.cursor() as cur:
        cur.executemany(NEW_PART, rows)


def read_sound(db: Db, scope: Scope, recording_id: UUID, kind: str, start: int, end: int) -> Iterator[bytes]:
    """Bytes `[start, end)` of a stored stream, block by block; shorter where the stream ends."""
    if end <= start:
        return
    first, last = start // PART_BYTES, (end - 1) // PART_BYTES
    values = {"studio_id": scope.studio, "recording_id": recording_id, "kind": kind, "first": first, "last": last}
    with db.cursor(binary=True) as cur:
        for part, row in enumerate(cur.execute(PARTS, values), start=first):
            here = part * PART_BYTES
            yield bytes(row[0][max(0, start - here) : end - here])
