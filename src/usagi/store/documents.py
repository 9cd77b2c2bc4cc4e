"""Versioned documents: snapshots, the log of edits, and whose act may be undone."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.core.document.edits import Change, Edit, Kind
from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class Head:
    """A document's kind and version; of a solo its ground, and whether it was removed from the shelf."""

    id: UUID
    kind: str
    version: int
    ground_id: UUID | None
    removed: bool


@dataclass(frozen=True, slots=True)
class StoredSnapshot:
    version: int
    schema: int
    content: Any


@dataclass(frozen=True, slots=True)
class Act:
    """One act of a person in a solo, and the act that it takes back."""

    act: str
    undoes: str | None
    label: str


NEW_DOCUMENT = "INSERT INTO document (studio_id, id, kind) VALUES (%(studio_id)s, %(id)s, %(kind)s)"
ONE_AT_A_TIME = "SELECT pg_advisory_xact_lock(hashtextextended(%(studio_id)s::text || %(id)s::text, 0))"
IS_THERE = "SELECT 1 FROM document WHERE studio_id = %(studio_id)s AND id = %(id)s"
NEW_GROUND = """
INSERT INTO ground (studio_id, id, tune_id, recording_id)
VALUES (%(studio_id)s, %(id)s, %(tune_id)s, %(recording_id)s)
"""
NEW_SOLO = """
INSERT INTO solo (studio_id, id, ground_id, player_id, title, summary)
VALUES (%(studio_id)s, %(id)s, %(ground_id)s, %(player_id)s, %(title)s, %(summary)s)
"""
# In the order of their ids, so that two writers who lock them never wait for each other crosswise.
HEADS = """
SELECT document.id, document.kind, document.version, solo.ground_id, solo.removed_at IS NOT NULL AS removed
FROM document LEFT JOIN solo USING (studio_id, id)
WHERE document.studio_id = %(studio_id)s AND (document.id = ANY(%(ids)s::uuid[]) OR document.id = (
    SELECT ground_id FROM solo WHERE studio_id = %(studio_id)s AND id = %(with_ground_of)s))
ORDER BY document.id
"""
LOCK_HEADS = f"{HEADS} FOR UPDATE OF document"
NEW_SNAPSHOT = """
INSERT INTO snapshot (studio_id, document_id, version, schema, content)
VALUES (%(studio_id)s, %(document_id)s, %(version)s, %(schema)s, %(content)s)
"""
LAST_SNAPSHOT = """
SELECT version, schema, content FROM snapshot
WHERE studio_id = %(studio_id)s AND document_id = %(document_id)s AND version <= %(version)s
ORDER BY version DESC LIMIT 1
"""
EDITS_SINCE = """
SELECT id, act, document_id AS document, made_in, undoes, person_id AS person, at, schema, label, changes, follows
FROM edit
WHERE studio_id = %(studio_id)s AND document_id = %(document_id)s
    AND version > %(after)s AND version <= %(upto)s
ORDER BY version
"""
EDITS_OF_ACT = """
SELECT id, act, document_id AS document, made_in, undoes, person_id AS person, at, schema, label, changes, follows
FROM edit WHERE studio_id = %(studio_id)s AND act = %(act)s ORDER BY seq
"""
EDITS_OF_THING = """
SELECT id, act, document_id AS document, made_in, undoes, person_id AS person, at, schema, label, changes, follows
FROM edit
WHERE studio_id = %(studio_id)s AND document_id = %(document_id)s
    AND (changes @> %(element)s OR follows @> %(element)s)
ORDER BY version DESC
"""
KNOWN_EDITS = """
SELECT id, act, document_id AS document, made_in, undoes, person_id AS person, at, schema, label, changes, follows
FROM edit
WHERE studio_id = %(studio_id)s AND document_id = ANY(%(documents)s::uuid[]) AND id = ANY(%(ids)s::text[])
"""
NEW_EDIT = """
INSERT INTO edit
    (studio_id, document_id, id, version, act, made_in, undoes, person_id, at, schema, label, changes, follows)
VALUES
    (%(studio_id)s, %(document_id)s, %(id)s, %(version)s, %(act)s, %(made_in)s, %(undoes)s, %(person_id)s, %(at)s,
     %(schema)s, %(label)s, %(changes)s, %(follows)s)
"""
SET_VERSION = "UPDATE document SET version = %(version)s WHERE studio_id = %(studio_id)s AND id = %(id)s"
SET_SOLO = """
UPDATE solo SET title = %(title)s, summary = %(summary)s, touched_at = now()
WHERE studio_id = %(studio_id)s AND id = %(id)s
"""
SET_PLAYER = "UPDATE solo SET player_id = %(player_id)s WHERE studio_id = %(studio_id)s AND id = %(id)s"
# The newest edits only: the log of a long solo is not read each time. Who needs more of it asks for more.
ACTS = """
WITH newest AS (
    SELECT act, undoes, label, seq FROM edit
    WHERE studio_id = %(studio_id)s AND made_in = %(solo_id)s AND person_id = %(person_id)s
    ORDER BY seq DESC LIMIT %(most)s
)
SELECT act, undoes, label FROM (SELECT DISTINCT ON (act) act, undoes, label, seq FROM newest ORDER BY act, seq) AS first
ORDER BY seq
"""
TELL = """
SELECT pg_notify(%(channel)s, concat_ws(' ', %(studio_id)s::text, %(id)s::text, %(version)s::text))
"""
CHANNEL = "usagi_edits"
SOLOS_OF_GROUND = "SELECT id FROM solo WHERE studio_id = %(studio_id)s AND ground_id = %(ground_id)s ORDER BY id"


def add_document(db: Db, scope: Scope, document_id: UUID, kind: str, content: Any, schema: int) -> None:
    """A new document at version 0 with its first snapshot."""
    values = {"studio_id": scope.studio, "id": document_id, "kind": kind}
    db.execute(NEW_DOCUMENT, values)
    add_snapshot(db, scope, document_id, 0, content, schema)


def made_before(db: Db, scope: Scope, document_id: UUID | None) -> bool:
    """Whether a document was made under an id that its sender chose; whoever sends it twice at once waits here."""
    if document_id is None:
        return False
    values = {"studio_id": scope.studio, "id": document_id}
    db.execute(ONE_AT_A_TIME, values)
    return db.execute(IS_THERE, values).fetchone() is not None


def add_ground(db: Db, scope: Scope, ground_id: UUID, tune_id: UUID, recording_id: UUID | None) -> None:
    db.execute(
        NEW_GROUND,
        {"studio_id": scope.studio, "id": ground_id, "tune_id": tune_id, "recording_id": recording_id},
    )


def add_solo(
    db: Db, scope: Scope, solo_id: UUID, *, ground_id: UUID, player_id: UUID | None, title: str, summary: Any
) -> None:
    db.execute(
        NEW_SOLO,
        {
            "studio_id": scope.studio,
            "id": solo_id,
            "ground_id": ground_id,
            "player_id": player_id,
            "title": title,
            "summary": Jsonb(summary),
        },
    )


def heads(
    db: Db, scope: Scope, ids: Iterable[UUID], *, with_ground_of: UUID | None = None, lock: bool = False
) -> dict[UUID, Head]:
    """The documents that are there, and the ground of a solo; `lock` holds them until the end of the transaction."""
    values = {"studio_id": scope.studio, "ids": list(ids), "with_ground_of": with_ground_of}
    with db.cursor(row_factory=class_row(Head)) as cur:
        return {found.id: found for found in cur.execute(LOCK_HEADS if lock else HEADS, values)}


def last_snapshot(db: Db, scope: Scope, document_id: UUID, version: int) -> StoredSnapshot | None:
    values = {"studio_id": scope.studio, "document_id": document_id, "version": version}
    with db.cursor(row_factory=class_row(StoredSnapshot)) as cur:
        return cur.execute(LAST_SNAPSHOT, values).fetchone()


def add_snapshot(db: Db, scope: Scope, document_id: UUID, version: int, content: Any, schema: int) -> None:
    values = {"studio_id": scope.studio, "document_id": document_id, "version": version}
    db.execute(NEW_SNAPSHOT, values | {"schema": schema, "content": Jsonb(content)})


def edits_since(db: Db, scope: Scope, document_id: UUID, after: int, upto: int) -> list[Edit]:
    """The edits that made versions `after + 1` to `upto`."""
    values = {"studio_id": scope.studio, "document_id": document_id, "after": after, "upto": upto}
    return [_edit(row) for row in db.execute(EDITS_SINCE, values)]


def edits_of_element(db: Db, scope: Scope, document_id: UUID, kind: Kind, element_id: str) -> list[Edit]:
    """All edits of a document that changed one element of it, the newest first."""
    element = Jsonb([{"kind": kind, "id": element_id}])
    values = {"studio_id": scope.studio, "document_id": document_id, "element": element}
    return [_edit(row) for row in db.execute(EDITS_OF_THING, values)]


def edits_of_act(db: Db, scope: Scope, act: str) -> list[Edit]:
    """All edits of an act, over all its documents, in the order in which they were made."""
    return [_edit(row) for row in db.execute(EDITS_OF_ACT, {"studio_id": scope.studio, "act": act})]


def _edit(row: tuple[Any, ...]) -> Edit:
    edit_id, act, document, made_in, undoes, person, at, schema, label, changes, follows = row
    return Edit(
        id=edit_id,
        act=act,
        document=str(document),
        made_in=str(made_in),
        undoes=undoes,
        person=str(person),
        at=at.isoformat(),
        edit_schema=schema,
        label=label,
        changes=changes,
        follows=follows,
    )


def known_edits(db: Db, scope: Scope, documents: list[UUID], ids: list[str]) -> dict[tuple[str, str], Edit]:
    """Those of some edits that are stored already, by document and edit id."""
    values = {"studio_id": scope.studio, "documents": documents, "ids": ids}
    found = map(_edit, db.execute(KNOWN_EDITS, values))
    return {(edit.document, edit.id): edit for edit in found}


def add_edit(db: Db, scope: Scope, edit: Edit, version: int) -> None:
    db.execute(
        NEW_EDIT,
        {
            "studio_id": scope.studio,
            "document_id": UUID(edit.document),
            "id": edit.id,
            "version": version,
            "act": edit.act,
            "made_in": UUID(edit.made_in),
            "undoes": edit.undoes,
            "person_id": scope.person,
            "at": datetime.fromisoformat(edit.at),
            "schema": edit.edit_schema,
            "label": edit.label,
            "changes": _changes(edit.changes),
            "follows": _changes(edit.follows),
        },
    )


def _changes(changes: Iterable[Change]) -> Jsonb:
    return Jsonb([change.model_dump(mode="json") for change in changes])


def set_version(db: Db, scope: Scope, document_id: UUID, version: int) -> None:
    db.execute(SET_VERSION, {"studio_id": scope.studio, "id": document_id, "version": version})


def set_solo(db: Db, scope: Scope, solo_id: UUID, *, title: str, summary: Any) -> None:
    """What the shelf shows of a solo."""
    values = {"studio_id": scope.studio, "id": solo_id, "title": title}
    db.execute(SET_SOLO, values | {"summary": Jsonb(summary)})


def set_player(db: Db, scope: Scope, solo_id: UUID, player_id: UUID | None) -> None:
    db.execute(SET_PLAYER, {"studio_id": scope.studio, "id": solo_id, "player_id": player_id})


def acts(db: Db, scope: Scope, solo_id: UUID, most: int) -> list[Act]:
    """This person's acts in a solo that the newest edits belong to, oldest first; `most` edits are looked at."""
    values = {"studio_id": scope.studio, "solo_id": solo_id, "person_id": scope.person, "most": most}
    with db.cursor(row_factory=class_row(Act)) as cur:
        return cur.execute(ACTS, values).fetchall()


@dataclass(frozen=True, slots=True)
class LogEntry:
    """One edit of a document as the history lists it: the version that it made."""

    version: int
    label: str
    at: datetime
    act: str
    undoes: str | None


LOG = """
SELECT version, label, at, act, undoes FROM edit WHERE studio_id = %(studio_id)s AND document_id = %(document_id)s
ORDER BY version DESC LIMIT %(most)s
"""
MOST_LOG = 1_000


def log_of(db: Db, scope: Scope, document_id: UUID) -> list[LogEntry]:
    """The newest edits of a document, the latest first."""
    values = {"studio_id": scope.studio, "document_id": document_id, "most": MOST_LOG}
    with db.cursor(row_factory=class_row(LogEntry)) as cur:
        return cur.execute(LOG, values).fetchall()


def tell(db: Db, scope: Scope, document_id: UUID, version: int) -> None:
    """Let every server know of a new version, once it is committed."""
    db.execute(TELL, {"channel": CHANNEL, "studio_id": scope.studio, "id": document_id, "version": version})


def solos_of_ground(db: Db, scope: Scope, ground_id: UUID) -> list[UUID]:
    rows = db.execute(SOLOS_OF_GROUND, {"studio_id": scope.studio, "ground_id": ground_id})
    return [row[0] for row in rows]
