"""A solo out as a file of any format, and as pictures of its phrases and bars."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.formats.document_json import RecordingReference, SoloDocument, write_document
from usagi.core.formats.files import KINDS, FileKind, Going, kind_named, left_behind, written
from usagi.core.formats.text_tab import write_tab
from usagi.core.meter.counting import School
from usagi.flows.workspace import Workspace
from usagi.media.pictures import What, picture_file
from usagi.store.database import Db, transaction
from usagi.store.recordings import recording
from usagi.store.studios import Scope
from usagi.store.titles import ground_place


@dataclass(frozen=True, slots=True)
class ExportView:
    """A format that a solo goes out as: its name, what it is called, its file's ending, what it will not hold."""

    name: str
    says: str
    ending: str
    not_held: tuple[str, ...]
    degrees: bool  # whether degrees can stand under its notes
    swings: bool  # whether it can be as it sounds, or as it is written


def take_document(workspace: Workspace, solo_id: UUID) -> SoloDocument:
    """A solo with its ground as a document, without what names other documents of this place. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        return document_of(db, workspace, solo_id)


def document_of(db: Db, workspace: Workspace, solo_id: UUID) -> SoloDocument:
    """`take_document`, inside a transaction."""
    solo, _, ground_id = workspace.solo(db, solo_id)
    ground, _ = workspace.ground(db, ground_id)
    place = ground_place(db, workspace.scope, ground_id)
    reference = recording_reference(db, workspace.scope, place.recording_id)
    settings = solo.settings.model_copy(update={"parent": None, "continues": None})
    alone = solo.model_copy(update={"settings": settings})
    return SoloDocument(tune=place.tune, recording=reference, ground=ground, solo=alone)


def recording_reference(db: Db, scope: Scope, recording_id: UUID | None) -> RecordingReference | None:
    """The recording as a document names it."""
    sound = None if recording_id is None else recording(db, scope, recording_id)
    if sound is None:
        return None
    return RecordingReference(sha256=sound.sha256, seconds=sound.seconds, title=sound.title)


def export_json(workspace: Workspace, solo_id: UUID) -> bytes:
    return write_document(take_document(workspace, solo_id))


def export_tab(workspace: Workspace, solo_id: UUID, *, school: School = School.A, reader: Reader = Reader()) -> str:
    return write_tab(take_document(workspace, solo_id), school=school, reader=reader)


def exports(workspace: Workspace, solo_id: UUID) -> list[ExportView]:
    """The export formats, and what of this solo each leaves out. Raises : NotThere."""
    document = take_document(workspace, solo_id)
    return [exported_as(document, kind) for kind in KINDS]


def exported_as(document: SoloDocument, kind: FileKind) -> ExportView:
    """One format, as a person is asked about it."""
    return ExportView(
        name=kind.name,
        says=kind.says,
        ending=kind.endings[0],
        not_held=tuple(left_behind(document, kind)),
        degrees=kind.name in ("musicxml", "mxl"),
        swings=kind.name == "midi",
    )


def export_file(workspace: Workspace, solo_id: UUID, name: str, how: Going) -> tuple[bytes, FileKind]:
    """A solo as a file. Raises : NotThere, FormatUnknown."""
    kind = kind_named(name)
    return written(take_document(workspace, solo_id), kind, how), kind


def export_picture(
    workspace: Workspace,
    solo_id: UUID,
    kind: str,
    *,
    what: What = "tab",
    span: tuple[int, int] | None = None,
    title: str = "",
    reader: Reader = Reader(),
) -> bytes:
    """A phrase or bars as a picture, as tablature or on the neck. Raises : NotThere, PictureImpossible."""
    document = take_document(workspace, solo_id)
    return picture_file(document, kind, what=what, span=span, title=title, reader=reader)
