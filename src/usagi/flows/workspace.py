"""What a flow works with: the pool, the studio, the cache, and the documents that are open."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import DocumentKind, apply, put_together, take_apart
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.view.notes import NoteViews, view_notes
from usagi.flows.sound.renders import Renders
from usagi.media.cache import Cache
from usagi.store.database import Db, Pool
from usagi.store.documents import edits_since, head, last_snapshot
from usagi.store.studios import Scope

OPEN_DOCUMENTS = 64
OPEN_MARKS = 16


class NotThere(UsagiError):
    """Something that was asked for does not exist (any more)."""

    code = "not-there"


@dataclass
class OpenDocuments:
    """The latest documents by id and version; a document is immutable, so sharing it is safe."""

    _kept: OrderedDict[tuple[UUID, UUID, int], Solo | Ground] = field(default_factory=OrderedDict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def get(self, key: tuple[UUID, UUID, int]) -> Solo | Ground | None:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: tuple[UUID, UUID, int], document: Solo | Ground) -> None:
        with self._lock:
            self._kept[key] = document
            while len(self._kept) > OPEN_DOCUMENTS:
                self._kept.popitem(last=False)


@dataclass
class OpenViews:
    """The views of the latest documents, by the documents themselves: an edit's *before* is the last edit's *after*.

    NoteViews hold the documents that they are of, so that a document's identity stays its own.
    """

    _kept: OrderedDict[tuple[int, int, Reader], NoteViews] = field(default_factory=OrderedDict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def of(self, solo: Solo, ground: Ground, reader: Reader, before: NoteViews | None = None) -> NoteViews:
        """The views of a solo on a ground; made of those `before`, where not all is new."""
        key = (id(solo), id(ground), reader)
        with self._lock:
            kept = self._kept.get(key)
            if kept is not None:
                self._kept.move_to_end(key)
                return kept
        views = view_notes(solo, ground, reader, before)
        with self._lock:
            self._kept[key] = views
            while len(self._kept) > OPEN_MARKS:
                self._kept.popitem(last=False)
        return views


@dataclass(frozen=True)
class Workspace:
    pool: Pool
    scope: Scope
    cache: Cache
    open: OpenDocuments = field(default_factory=OpenDocuments)
    views: OpenViews = field(default_factory=OpenViews)
    renders: Renders = field(default_factory=Renders)

    def solo(self, db: Db, solo_id: UUID, version: int | None = None) -> tuple[Solo, int, UUID]:
        """A solo, as it is or in an earlier state, its version and its ground's id. Raises : NotThere."""
        found = head(db, self.scope, solo_id)
        if found is None or found.kind != DocumentKind.SOLO or found.ground_id is None:
            raise NotThere("This solo is not here any more.", solo=str(solo_id))
        wanted = found.version if version is None else version
        if not 0 <= wanted <= found.version:
            raise NotThere(f"There is no state {wanted} of this solo: the newest is {found.version}.", version=wanted)
        document = self._load(db, solo_id, wanted, DocumentKind.SOLO)
        assert isinstance(document, Solo)
        return document, wanted, found.ground_id

    def ground(self, db: Db, ground_id: UUID) -> tuple[Ground, int]:
        """A ground and its version. Raises : NotThere."""
        found = head(db, self.scope, ground_id)
        if found is None or found.kind != DocumentKind.GROUND:
            raise NotThere("This ground is not here any more.", ground=str(ground_id))
        document = self._load(db, ground_id, found.version, DocumentKind.GROUND)
        assert isinstance(document, Ground)
        return document, found.version

    def remember(self, document_id: UUID, version: int, document: Solo | Ground) -> None:
        self.open.put((self.scope.studio, document_id, version), document)

    def _load(self, db: Db, document_id: UUID, version: int, kind: DocumentKind) -> Solo | Ground:
        kept = self.open.get((self.scope.studio, document_id, version))
        if kept is not None:
            return kept
        snapshot = last_snapshot(db, self.scope, document_id, version)
        if snapshot is None:
            raise NotThere("This document has no stored state.", document=str(document_id))
        document = document_from_json(kind, snapshot.content)
        later = edits_since(db, self.scope, document_id, snapshot.version, version)
        if later:
            content = take_apart(document)
            for edit in later:
                content = apply(content, edit.whole)
            document = put_together(content)
        self.remember(document_id, version, document)
        return document


def document_from_json(kind: DocumentKind, content: Any) -> Solo | Ground:
    return (Solo if kind is DocumentKind.SOLO else Ground).model_validate(content)


def now_text() -> str:
    return datetime.now(UTC).isoformat()


def new_id() -> str:
    return str(uuid4())
