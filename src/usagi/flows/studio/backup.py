"""A backup: one file with everything that the studios hold, and what brings it back.

The file is a ZIP: `manifest.json`, `STUDIO/TABLE.ndjson` (a row a line), `STUDIO/sound/RECORDING.KIND` (bytes), and
for other programs a README and documents (copies.py). The manifest holds the SHA-256 of every part that is brought
back; a restore is compared with it before anything is kept. Nothing is overwritten unasked, and both ways are all or
nothing.
"""

from __future__ import annotations

import hashlib
import json
import os
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID

from psycopg.errors import DataError, IntegrityError

from usagi.core.errors import UsagiError
from usagi.flows.studio import copies
from usagi.flows.workspace import now_text
from usagi.store import backup as stored
from usagi.store.database import Db, Pool, read_consistently, transaction
from usagi.store.recordings import PART_BYTES, read_sound
from usagi.store.studios import Scope

FORMAT = 6
PROGRAM = "usagi"
Say = Callable[[str, float], None]  # what is being done, and how much of all is done, 0 to 1


def _with_follows(table: str, row: dict[str, Any]) -> dict[str, Any]:
    """Format 2: an edit says beside its changes what follows from them."""
    return row | {"follows": []} if table == "edit" else row


def _with_consent(table: str, row: dict[str, Any]) -> dict[str, Any]:
    """Format 3: a studio says whether corrections may be kept; nobody was asked before."""
    return row | {"keeps_corrections": None} if table == "studio" else row


def _with_setting(table: str, row: dict[str, Any]) -> dict[str, Any]:
    """Format 6: a recording says whether it was made in a studio or live; licks came."""
    return row | {"setting": ""} if table == "recording" else row


def _as_it_was(table: str, row: dict[str, Any]) -> dict[str, Any]:
    """Format 4: choices may be waivers. Format 5: roles, and words for phrases."""
    return row


# What brings the rows of an older format to the next: {format: function of (table, row)}.
MIGRATIONS: dict[int, Callable[[str, dict[str, Any]], dict[str, Any]]] = {
    1: _with_follows,
    2: _with_consent,
    3: _as_it_was,
    4: _as_it_was,
    5: _with_setting,
}


class BackupRefused(UsagiError):
    """A backup that cannot be written or restored; nothing was changed."""

    code = "backup-refused"


@dataclass(frozen=True, slots=True)
class Kept:
    """What a backup holds."""

    studios: int
    solos: int
    recordings: int
    bytes: int


def back_up(pool: Pool, to: Path, say: Say = lambda words, share: None, *, replace: bool = False) -> Kept:
    """Write everything to one file. Raises : BackupRefused, StoreAway."""
    if to.exists() and not replace:
        raise BackupRefused(f"{to} is there already; give another name, or --replace.", file=str(to))
    half = to.with_name(to.name + ".half")
    try:
        with transaction(pool) as db, zipfile.ZipFile(half, "w", zipfile.ZIP_DEFLATED) as file:
            read_consistently(db)
            counts = _write_all(db, pool, file, say)
        with half.open("rb") as written:
            os.fsync(written.fileno())
        half.replace(to)
    except OSError as fault:
        raise BackupRefused(f"{to} cannot be written: {fault.strerror or fault}.", file=str(to)) from fault
    finally:
        half.unlink(missing_ok=True)
    return Kept(*counts, bytes=to.stat().st_size)


def _write_all(db: Db, pool: Pool, file: zipfile.ZipFile, say: Say) -> tuple[int, int, int]:
    digests: dict[str, str] = {}
    studios = stored.studios(db)
    sounds = [(studio, *sound) for studio, _, _ in studios for sound in stored.sounds(db, studio)]
    total = sum(size for *_, size in sounds) + 1
    solos = recordings = 0
    file.writestr("README.txt", copies.README)
    for studio, name, _ in studios:
        say(f"writing the rows of “{name}”", 0.0)
        ids: dict[str, list[UUID]] = {"solo": [], "lick": []}
        for table in stored.TABLES:
            lines = list(_lines(stored.rows(db, studio, table)))
            if table in ids:
                ids[table] = [UUID(json.loads(line)["id"]) for line in lines]
            solos += len(lines) if table == "solo" else 0
            recordings += len(lines) if table == "recording" else 0
            data = b"".join(lines)
            digests[f"{studio}/{table}.ndjson"] = hashlib.sha256(data).hexdigest()
            file.writestr(f"{studio}/{table}.ndjson", data)
        for place, document in copies.documents(db, pool, studio, ids["solo"], ids["lick"]):
            file.writestr(place, document)
    done = 0
    for number, (studio, recording, kind, size) in enumerate(sounds, start=1):
        say(f"writing sound {number} of {len(sounds)}", done / total)
        place = f"{studio}/sound/{recording}.{kind}"
        digest = hashlib.sha256()
        entry = zipfile.ZipInfo(place)
        entry.compress_type = zipfile.ZIP_STORED if kind == "upload" else zipfile.ZIP_DEFLATED
        with file.open(entry, "w", force_zip64=True) as part:
            for block in read_sound(db, Scope(studio, studio), recording, kind, 0, size):
                digest.update(block)
                part.write(block)
                done += len(block)
        digests[place] = digest.hexdigest()
    manifest = {
        "program": PROGRAM,
        "format": FORMAT,
        "made_at": now_text(),
        "studios": [{"id": str(i), "name": name, "demo": demo} for i, name, demo in studios],
        "parts": digests,
    }
    file.writestr("manifest.json", json.dumps(manifest, indent=1))
    say("done", 1.0)
    return len(studios), solos, recordings


def _lines(rows: Iterator[dict[str, Any]]) -> Iterator[bytes]:
    for row in rows:
        yield json.dumps(row, ensure_ascii=False, sort_keys=True).encode() + b"\n"


def restore(pool: Pool, file: Path, say: Say = lambda words, share: None, *, replace: bool = False) -> Kept:
    """Bring a backup back.

    A studio that is here already and holds something is replaced only when asked, and then wholly.

    Raises : BackupRefused, when the file is no backup, is damaged, is too new or would overwrite something.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            manifest = _manifest(archive)
            with transaction(pool) as db:
                _make_room(db, manifest, replace=replace)
                counts = _bring_back(db, archive, manifest, say)
    except zipfile.BadZipFile as fault:
        raise BackupRefused(f"{file.name} is not a backup of this program, or is damaged.", file=str(file)) from fault
    except OSError as fault:
        raise BackupRefused(f"{file} cannot be read: {fault.strerror or fault}.", file=str(file)) from fault
    except (DataError, IntegrityError, ValueError, KeyError) as fault:
        raise BackupRefused(f"{file.name} is damaged: its rows do not hang together.", file=str(file)) from fault
    return Kept(*counts, bytes=file.stat().st_size)


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    try:
        manifest: dict[str, Any] = json.loads(archive.read("manifest.json"))
        program, number = manifest["program"], int(manifest["format"])
    except (KeyError, ValueError, TypeError) as fault:
        raise BackupRefused("This ZIP file is not a backup of this program.") from fault
    if program != PROGRAM:
        raise BackupRefused("This ZIP file is a backup of another program.")
    if not 1 <= number <= FORMAT:
        raise BackupRefused(f"This backup was made by a newer version (format {number}); this one reads {FORMAT}.")
    return manifest


def _make_room(db: Db, manifest: dict[str, Any], *, replace: bool) -> None:
    """Drop what the backup takes the place of: the same studio, or the one that plays the same part here."""
    coming = {UUID(studio["id"]): bool(studio["demo"]) for studio in manifest["studios"]}
    for here, name, demo in stored.studios(db):
        if here not in coming and demo not in coming.values():
            continue
        held = stored.work_in(db, here)
        if held and not replace:
            raise BackupRefused(
                f"The studio “{name}” is here already and holds {held} solos and recordings. "
                "Nothing was changed; --replace puts the backup in its place.",
                studio=str(here),
            )
        stored.drop(db, here)


def _bring_back(db: Db, archive: zipfile.ZipFile, manifest: dict[str, Any], say: Say) -> tuple[int, int, int]:
    parts: dict[str, str] = manifest["parts"]
    sounds = [place for place in parts if "/sound/" in place]
    solos = recordings = 0
    for studio in (UUID(one["id"]) for one in manifest["studios"]):
        for table in stored.TABLES:
            if stored.SINCE_FORMAT.get(table, 1) > int(manifest["format"]):
                continue
            say(f"restoring the rows of {table}", 0.0)
            data = _checked(archive, f"{studio}/{table}.ndjson", parts)
            rows = [_migrated(table, json.loads(line), int(manifest["format"])) for line in data.splitlines()]
            solos += len(rows) if table == "solo" else 0
            recordings += len(rows) if table == "recording" else 0
            stored.add_rows(db, table, rows)
            if int(manifest["format"]) == FORMAT:
                again = hashlib.sha256(b"".join(_lines(stored.rows(db, studio, table)))).hexdigest()
                _compare(f"{studio}/{table}.ndjson", again, parts)
        stored.go_on_counting(db, studio)
    for number, place in enumerate(sounds):
        say(f"restoring sound {number + 1} of {len(sounds)}", number / max(1, len(sounds)))
        owner, _, name = place.split("/")
        recording, kind = name.split(".")
        digest = hashlib.sha256()
        with archive.open(place) as part:
            stored.add_sound(db, UUID(owner), UUID(recording), kind, _blocks(part, digest))
        _compare(place, digest.hexdigest(), parts)
    say("done", 1.0)
    return len(manifest["studios"]), solos, recordings


def _blocks(part: Any, digest: Any) -> Iterator[bytes]:
    while block := part.read(PART_BYTES):
        digest.update(block)
        yield block


def _checked(archive: zipfile.ZipFile, place: str, parts: dict[str, str]) -> bytes:
    try:
        data = archive.read(place)
    except KeyError as fault:
        raise BackupRefused(f"The backup lacks its part {place}; nothing was changed.", part=place) from fault
    _compare(place, hashlib.sha256(data).hexdigest(), parts)
    return data


def _compare(place: str, digest: str, parts: dict[str, str]) -> None:
    if parts.get(place) != digest:
        raise BackupRefused(f"The part {place} is not what the backup says it is; nothing was changed.", part=place)


def _migrated(table: str, row: dict[str, Any], number: int) -> dict[str, Any]:
    for step in range(number, FORMAT):
        row = MIGRATIONS[step](table, row)
    return row
