"""Studios for tests: each test has one of its own, so that none sees another's solos."""

from __future__ import annotations

from uuid import uuid4

from usagi.store.database import Db
from usagi.store.studios import NEW_PERSON, NEW_STUDIO, Scope


def new_studio(db: Db) -> Scope:
    scope = Scope(uuid4(), uuid4())
    db.execute(NEW_STUDIO, {"studio_id": scope.studio, "name": "test", "demo": False})
    db.execute(NEW_PERSON, {"studio_id": scope.studio, "id": scope.person, "name": "somebody"})
    return scope
