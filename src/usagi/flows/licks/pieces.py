"""A lick, a phrase or some notes of a solo taken out of it, with the ground and the recording that they stand on."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.formats.document_json import RecordingReference, SoloDocument, document_from_tree
from usagi.core.licks.entries import notes_between
from usagi.core.phrases.piece import Piece, cut
from usagi.flows.studio.exchange import recording_reference
from usagi.flows.workspace import NotThere, Workspace
from usagi.store.database import Db, transaction
from usagi.store.licks import lick
from usagi.store.titles import ground_place


@dataclass(frozen=True, slots=True)
class Which:
    """A lick that is kept, or the notes of a solo from one to another."""

    lick: UUID | None = None
    solo: UUID | None = None
    first: str = ""
    last: str = ""


@dataclass(frozen=True)
class Taken:
    """A piece with its tune, its recording, and a key that changes with what it holds."""

    piece: Piece
    tune: str
    name: str
    recording_id: UUID | None
    reference: RecordingReference | None
    key: str

    @property
    def document(self) -> SoloDocument:
        return SoloDocument(tune=self.tune, recording=self.reference, ground=self.piece.ground, solo=self.piece.solo)


def take(workspace: Workspace, which: Which) -> Taken:
    """The notes that are meant, as they are now; of a frozen lick as they were last. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        return taken(db, workspace, which)


def taken(db: Db, workspace: Workspace, which: Which) -> Taken:
    """`take`, inside a transaction."""
    name = ""
    if which.lick is not None:
        kept = lick(db, workspace.scope, which.lick)
        if kept is None or (kept.solo_id is None and kept.frozen is None):
            raise NotThere("This lick is not here any more.", lick=str(which.lick))
        name = kept.name
        if kept.frozen is not None:
            document = document_from_tree(kept.frozen)
            reference, recording_id = document.recording, kept.recording_id
            piece = Piece(document.solo, document.ground)
            return Taken(piece, document.tune, name, recording_id, reference, f"frozen {kept.id} {kept.version}")
        which = Which(None, kept.solo_id, kept.first_note, kept.last_note)
    if which.solo is None:
        raise NotThere("Say which lick, or which notes of a solo.")
    solo, version, ground_id = workspace.solo(db, which.solo)
    ground, ground_version = workspace.ground(db, ground_id)
    notes = notes_between(solo, which.first, which.last)
    if not notes:
        raise NotThere("These notes are not in the solo any more.")
    place = ground_place(db, workspace.scope, ground_id)
    reference = recording_reference(db, workspace.scope, place.recording_id)
    key = f"span {which.solo} {version} {ground_version} {which.first} {which.last}"
    return Taken(cut(solo, ground, notes), place.tune, name, place.recording_id, reference, key)
