"""Players with their solos as they were read, for what is counted over them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class PlayerRow:
    id: UUID
    name: str
    solos: int
    notes: int
    first_year: int | None
    last_year: int | None


@dataclass(frozen=True, slots=True)
class ReadSolo:
    """A solo of a player as it was read: its sums, or every note that it counts."""

    id: UUID
    tune_id: UUID
    tune: str
    title: str
    year: int | None
    setting: str
    has_sound: bool
    read: Any


_JOINED = """
FROM solo_read
    JOIN solo ON solo.studio_id = solo_read.studio_id AND solo.id = solo_read.solo_id
    JOIN ground ON ground.studio_id = solo.studio_id AND ground.id = solo.ground_id
    JOIN tune ON tune.studio_id = solo.studio_id AND tune.id = ground.tune_id
    LEFT JOIN recording ON recording.studio_id = solo.studio_id AND recording.id = ground.recording_id
"""
PLAYERS = f"""
SELECT player.id, player.name, count(*)::int AS solos,
    sum(solo_read.notes)::int AS notes,
    min(recording.year) AS first_year, max(recording.year) AS last_year
{_JOINED}
    JOIN player ON player.studio_id = solo.studio_id AND player.id = solo.player_id
WHERE solo_read.studio_id = %(studio_id)s AND solo.removed_at IS NULL
    AND solo_read.sums IS NOT NULL
GROUP BY player.id, player.name ORDER BY player.name COLLATE "und-x-icu"
"""
PLAYER = "SELECT name FROM player WHERE studio_id = %(studio_id)s AND id = %(id)s"
_SOLO = """
    solo.id, tune.id AS tune_id, tune.title AS tune, solo.title, recording.year,
    coalesce(recording.setting, '') AS setting, recording.frames IS NOT NULL AS has_sound
"""
_OF_PLAYER = """
WHERE solo_read.studio_id = %(studio_id)s AND solo.player_id = %(player_id)s AND solo.removed_at IS NULL
    AND solo_read.sums IS NOT NULL
    AND (%(tune_id)s::uuid IS NULL OR tune.id = %(tune_id)s)
    AND (%(since)s::int IS NULL OR recording.year >= %(since)s)
    AND (%(until)s::int IS NULL OR recording.year <= %(until)s)
    AND (%(setting)s::text IS NULL OR recording.setting = %(setting)s)
ORDER BY recording.year NULLS LAST, tune.title, solo.title, solo.id
"""
SUMS = f"SELECT {_SOLO}, solo_read.sums AS read {_JOINED} {_OF_PLAYER}"
FACTS = f"SELECT {_SOLO}, solo_read.facts AS read {_JOINED} {_OF_PLAYER}"
# The solos of a player and the versions in which they were read, as one text: what favourite cells were made of.
MADE_OF = """
SELECT solo.player_id,
    md5(string_agg(concat_ws(' ', solo.id, solo_version, ground_version, number), ',' ORDER BY solo.id))
FROM solo_read JOIN solo ON solo.studio_id = solo_read.studio_id AND solo.id = solo_read.solo_id
WHERE solo_read.studio_id = %(studio_id)s AND solo.player_id IS NOT NULL AND solo.removed_at IS NULL
GROUP BY solo.player_id
"""
CELLS = "SELECT made_of, cells FROM player_read WHERE studio_id = %(studio_id)s AND player_id = %(player_id)s"
ALL_CELLS = "SELECT player_id, made_of FROM player_read WHERE studio_id = %(studio_id)s"
KEEP_CELLS = """
INSERT INTO player_read (studio_id, player_id, made_of, cells)
VALUES (%(studio_id)s, %(player_id)s, %(made_of)s, %(cells)s)
ON CONFLICT (studio_id, player_id) DO UPDATE SET made_of = excluded.made_of, cells = excluded.cells
"""


def players(db: Db, scope: Scope) -> list[PlayerRow]:
    """The players who have a solo that counts."""
    with db.cursor(row_factory=class_row(PlayerRow)) as cur:
        return cur.execute(PLAYERS, {"studio_id": scope.studio}).fetchall()


def player_name(db: Db, scope: Scope, player_id: UUID) -> str | None:
    row = db.execute(PLAYER, {"studio_id": scope.studio, "id": player_id}).fetchone()
    return None if row is None else str(row[0])


def read_solos(
    db: Db,
    scope: Scope,
    player_id: UUID,
    query: str,
    *,
    tune_id: UUID | None = None,
    since: int | None = None,
    until: int | None = None,
    setting: str | None = None,
) -> list[ReadSolo]:
    """A player's solos that count, of a tune, some years or a setting alone; by SUMS or by FACTS."""
    values = {"tune_id": tune_id, "since": since, "until": until, "setting": setting, "player_id": player_id}
    with db.cursor(row_factory=class_row(ReadSolo)) as cur:
        return cur.execute(query, values | {"studio_id": scope.studio}).fetchall()


def made_of(db: Db, studio: UUID) -> dict[UUID, str]:
    """By player, a digest of the solos that are counted."""
    return {row[0]: row[1] for row in db.execute(MADE_OF, {"studio_id": studio})}


def cells_made_of(db: Db, studio: UUID) -> dict[UUID, str]:
    return {row[0]: row[1] for row in db.execute(ALL_CELLS, {"studio_id": studio})}


def cells(db: Db, scope: Scope, player_id: UUID) -> tuple[str, Any] | None:
    """Of what a player's favourite cells were made, and the cells."""
    row = db.execute(CELLS, {"studio_id": scope.studio, "player_id": player_id}).fetchone()
    return None if row is None else (row[0], row[1])


def keep_cells(db: Db, studio: UUID, player_id: UUID, of: str, found: Any) -> None:
    values = {"player_id": player_id, "made_of": of, "cells": Jsonb(found)}
    db.execute(KEEP_CELLS, {"studio_id": studio} | values)
