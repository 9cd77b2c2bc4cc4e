"""Studios and their people, players and tunes."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID, uuid4

from usagi.core.values import one_line
from usagi.store.database import Db


@dataclass(frozen=True, slots=True)
class Scope:
    """The studio that a query is about, and the person who asks."""

    studio: UUID
    person: UUID


STUDIO = "SELECT id FROM studio WHERE demo = %(demo)s ORDER BY made_at LIMIT 1"
NEW_STUDIO = "INSERT INTO studio (id, name, demo) VALUES (%(studio_id)s, %(name)s, %(demo)s)"
NEW_PERSON = "INSERT INTO person (studio_id, id, name) VALUES (%(studio_id)s, %(id)s, %(name)s)"
FIRST_PERSON = "SELECT id FROM person WHERE studio_id = %(studio_id)s ORDER BY id LIMIT 1"
DROP_LICKS = "DELETE FROM lick WHERE studio_id = %(studio_id)s"
DROP_DOCUMENTS = "DELETE FROM document WHERE studio_id = %(studio_id)s"
DROP_STUDIO = "DELETE FROM studio WHERE id = %(studio_id)s"
LOCK = "SELECT pg_advisory_xact_lock(8221002)"  # two first starts at once make one studio

FIND_PLAYER = "SELECT id FROM player WHERE studio_id = %(studio_id)s AND name = %(name)s"
NEW_PLAYER = """
INSERT INTO player (studio_id, id, name) VALUES (%(studio_id)s, %(id)s, %(name)s)
ON CONFLICT (studio_id, name) DO NOTHING
"""
FIND_TUNE = "SELECT id FROM tune WHERE studio_id = %(studio_id)s AND title = %(title)s"
NEW_TUNE = """
INSERT INTO tune (studio_id, id, title) VALUES (%(studio_id)s, %(id)s, %(title)s)
ON CONFLICT (studio_id, title) DO NOTHING
"""


def enter_studio(db: Db, *, demo: bool) -> tuple[Scope, bool]:
    """The local or the demo studio with its person, made when missing; says whether it is new."""
    db.execute(LOCK)
    row = db.execute(STUDIO, {"demo": demo}).fetchone()
    if row is None:
        scope = Scope(uuid4(), uuid4())
        db.execute(NEW_STUDIO, {"studio_id": scope.studio, "name": "Demo" if demo else "Studio", "demo": demo})
        db.execute(NEW_PERSON, {"studio_id": scope.studio, "id": scope.person, "name": "Teacher"})
        return scope, True
    person = db.execute(FIRST_PERSON, {"studio_id": row[0]}).fetchone()
    assert person is not None
    return Scope(row[0], person[0]), False


def drop_studio(db: Db, scope: Scope) -> None:
    """Remove a studio with everything in it.

    Licks go first, which would have to freeze, then documents, because solos hold on to their players.
    """
    db.execute(DROP_LICKS, {"studio_id": scope.studio})
    db.execute(DROP_DOCUMENTS, {"studio_id": scope.studio})
    db.execute(DROP_STUDIO, {"studio_id": scope.studio})


def player_named(db: Db, scope: Scope, name: str) -> UUID | None:
    """The player of a name, made when missing; None for no name."""
    if not one_line(name):
        return None
    values = {"studio_id": scope.studio, "id": uuid4(), "name": one_line(name)}
    db.execute(NEW_PLAYER, values)
    row = db.execute(FIND_PLAYER, values).fetchone()
    assert row is not None
    return UUID(str(row[0]))


def tune_titled(db: Db, scope: Scope, title: str) -> UUID:
    """The tune of a title, made when missing."""
    values = {"studio_id": scope.studio, "id": uuid4(), "title": one_line(title) or "Untitled"}
    db.execute(NEW_TUNE, values)
    row = db.execute(FIND_TUNE, values).fetchone()
    assert row is not None
    return UUID(str(row[0]))
