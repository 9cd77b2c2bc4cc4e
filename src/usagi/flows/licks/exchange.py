"""Licks out as documents and in again."""

from __future__ import annotations

from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.files import DOCUMENT, FileKind, Going, kind_named, written
from usagi.core.formats.lick_json import LickDocument, read_lick, write_lick
from usagi.core.licks.anywhere import Anywhere, carry
from usagi.core.values import one_line
from usagi.flows.licks.book import FoundLick, lick_of
from usagi.flows.licks.indexing import put_lick
from usagi.flows.licks.pieces import Which, taken
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import licks as stored
from usagi.store.database import transaction
from usagi.store.recordings import recording_by_hash

LICK = kind_named(DOCUMENT)
BROUGHT = "imported as a document"


def export_lick(workspace: Workspace, lick_id: UUID) -> bytes:
    """A lick with its notes on their ground. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        lick = stored.lick(db, workspace.scope, lick_id)
        if lick is None:
            raise NotThere("This lick is not here any more.", lick=str(lick_id))
        document = taken(db, workspace, Which(lick=lick_id)).document
    return write_lick(LickDocument(name=lick.name, tags=tuple(lick.tags), words=lick.words, document=document))


def export_elsewhere(
    workspace: Workspace, which: Which, wanted: Anywhere, kind: FileKind = LICK, how: Going = Going()
) -> bytes:
    """A lick, or notes of a solo, where it goes, on a ground of its own; it stands on no recording there.

    It is carried there first, then written as a file of some kind; the document is a lick document.
    Raises : NotThere; LickImpossible.
    """
    with transaction(workspace.pool) as db:
        lick = None if which.lick is None else stored.lick(db, workspace.scope, which.lick)
        found = taken(db, workspace, which)
    piece = carry(found.piece, wanted).piece
    document = SoloDocument(tune=found.tune, ground=piece.ground, solo=piece.solo)
    if kind is not LICK:
        return written(document, kind, how)
    if lick is None:
        return write_lick(LickDocument(name=found.name[:120], document=document))
    return write_lick(LickDocument(name=lick.name, tags=tuple(lick.tags), words=lick.words, document=document))


class LickKnown(UsagiError):
    """A lick document that is in the book already."""

    code = "lick-known"


def import_lick(
    workspace: Workspace, data: bytes, reader: Reader = Reader(), *, lick_id: UUID | None = None, again: bool = False
) -> FoundLick:
    """Keep a lick that came as a document; it stands by itself. `again` : though it is in the book already.

    Sent again under its id, nothing is made twice. Raises : the errors of reading; LickKnown.
    """
    lick = read_lick(data)
    lick_id, notes = lick_id or uuid4(), lick.document.solo.notes
    tree = lick.document.model_dump(mode="json", by_alias=True)
    with transaction(workspace.pool) as db:
        known = next((one for one in stored.frozen_licks(db, workspace.scope) if one.frozen == tree), None)
        if known is not None and known.id != lick_id and not again:
            name = f" as “{known.name}”" if known.name else ""
            raise LickKnown(f"This lick is in the book already{name}. Import it once more?", lick=str(known.id))
        reference = lick.document.recording
        sound = None if reference is None else recording_by_hash(db, workspace.scope, reference.sha256)
        stored.add_lick(
            db,
            workspace.scope,
            lick_id,
            name=one_line(lick.name),
            tags=list(lick.tags),
            words=lick.words,
            solo_id=None,
            first_note=notes[0].id,
            last_note=notes[-1].id,
            recording_id=None if sound is None else sound.id,
            frozen=tree,
            why_frozen=BROUGHT,
        )
        put_lick(db, workspace, lick_id, lick.document)
    return lick_of(workspace, lick_id, reader)
