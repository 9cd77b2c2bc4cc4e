"""What a flow works with: the pool, the studio, the cache, and the documents that are open."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from cachetools import LRUCache

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import DocumentKind, apply, put_together, take_apart
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.view.notes import NoteViews, view_notes
from usagi.flows.sound.renders import Renders
from usagi.media.cache import Cache
from usagi.store.database import Db, Pool
from usagi.store.documents import Head, edits_since, heads, last_snapshot
from usagi.store.studios import Scope

OPEN_DOCUMENTS = 64
OPEN_VIEWS = 16


class NotThere(UsagiError):
    """Something that was asked for does not exist (any more)."""

    code = "not-there"


DocumentState = tuple[UUID, UUID, int]  # studio, document, version


class OpenDocuments:
    """The latest documents and what the page is told of their notes; both are immutable, so sharing them is safe."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._documents: LRUCache[DocumentState, Solo | Ground] = LRUCache(OPEN_DOCUMENTS)
        self._views: LRUCache[tuple[DocumentState, DocumentState, Reader], NoteViews] = LRUCache(OPEN_VIEWS)

    def get(self, state: DocumentState) -> Solo | Ground | None:
        with self._lock:
            return self._documents.get(state)

    def put(self, state: DocumentState, document: Solo | Ground) -> None:
        with self._lock:
            self._documents[state] = document

    def views(
        self,
        states: tuple[DocumentState, DocumentState],
        solo: Solo,
        ground: Ground,
        reader: Reader,
        before: NoteViews | None,
    ) -> NoteViews:
        """The views of a solo on a ground, whose states these are; made of those `before`, where not all is new."""
        with self._lock:
            kept = self._views.get((*states, reader))
        if kept is None:
            kept = view_notes(solo, ground, reader, before)
            with self._lock:
                self._views[*states, reader] = kept
        return kept


@dataclass(frozen=True)
class Workspace:
    pool: Pool
    scope: Scope
    cache: Cache
    open: OpenDocuments = field(default_factory=OpenDocuments)
    renders: Renders = field(default_factory=Renders)

    def solo(self, db: Db, solo_id: UUID, version: int | None = None) -> tuple[Solo, int, UUID]:
        """A solo, as it is or in an earlier state, its version and its ground's id. Raises : NotThere."""
        found = heads(db, self.scope, [solo_id]).get(solo_id)
        if found is None or found.kind != DocumentKind.SOLO or found.ground_id is None:
            raise NotThere("This solo is not here any more.", solo=str(solo_id))
        wanted = found.version if version is None else version
        if not 0 <= wanted <= found.version:
            raise NotThere(f"There is no state {wanted} of this solo: the newest is {found.version}.", version=wanted)
        return self.solo_at(db, replace(found, version=wanted)), wanted, found.ground_id

    def ground(self, db: Db, ground_id: UUID) -> tuple[Ground, int]:
        """A ground and its version. Raises : NotThere."""
        found = heads(db, self.scope, [ground_id]).get(ground_id)
        if found is None or found.kind != DocumentKind.GROUND:
            raise NotThere("This ground is not here any more.", ground=str(ground_id))
        return self.ground_at(db, found), found.version

    def solo_at(self, db: Db, head: Head) -> Solo:
        document = self.document(db, head)
        assert isinstance(document, Solo)
        return document

    def ground_at(self, db: Db, head: Head) -> Ground:
        document = self.document(db, head)
        assert isinstance(document, Ground)
        return document

    def views(
        self,
        solo: tuple[UUID, int, Solo],
        ground: tuple[UUID, int, Ground],
        reader: Reader,
        before: NoteViews | None = None,
    ) -> NoteViews:
        """What the page is told of the notes of a solo on a ground, each with its id and version."""
        states = (self.scope.studio, *solo[:2]), (self.scope.studio, *ground[:2])
        return self.open.views(states, solo[2], ground[2], reader, before)

    def remember(self, document_id: UUID, version: int, document: Solo | Ground) -> None:
        self.open.put((self.scope.studio, document_id, version), document)

    def document(self, db: Db, head: Head) -> Solo | Ground:
        """A document at a version. Raises : NotThere."""
        kept = self.open.get((self.scope.studio, head.id, head.version))
        if kept is not None:
            return kept
        snapshot = last_snapshot(db, self.scope, head.id, head.version)
        if snapshot is None:
            raise NotThere("This document has no stored state.", document=str(head.id))
        document = document_from_json(DocumentKind(head.kind), snapshot.content)
        later = edits_since(db, self.scope, head.id, snapshot.version, head.version)
        if later:
            content = take_apart(document)
            for edit in later:
                content = apply(content, edit.whole)
            document = put_together(content)
        self.remember(head.id, head.version, document)
        return document


def document_from_json(kind: DocumentKind, content: Any) -> Solo | Ground:
    return (Solo if kind is DocumentKind.SOLO else Ground).model_validate(content)


def now_text() -> str:
    return datetime.now(UTC).isoformat()


def new_id() -> str:
    return str(uuid4())
