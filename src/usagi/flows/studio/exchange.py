"""A solo exported as a document or as tablature, and a document imported."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import difference
from usagi.core.document.solo import Ground
from usagi.core.formats.document_json import RecordingReference, SoloDocument, read_document, write_document
from usagi.core.formats.text_tab import write_tab
from usagi.core.meter.counting import School
from usagi.flows.editing.changing import commit, load
from usagi.flows.studio.new_solo import store_ground, store_solo
from usagi.flows.workspace import Workspace
from usagi.store.database import Db, transaction
from usagi.store.recordings import Recording, add_recording, recording, recording_by_hash
from usagi.store.studios import Scope, tune_titled
from usagi.store.titles import ground_of_recording, ground_place


@dataclass(frozen=True, slots=True)
class Imported:
    """The new solo, and what differs between the document's ground and the one that its recording has here."""

    solo_id: UUID
    differences: tuple[str, ...]
    has_sound: bool


def take_document(workspace: Workspace, solo_id: UUID) -> SoloDocument:
    """A solo with its ground as a document, without what names other documents of this place. Raises : NotThere."""
    with transaction(workspace.pool) as db:
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


def import_json(workspace: Workspace, data: bytes, *, replace_ground: bool = False) -> Imported:
    """Make a new solo of a document, with the same ids inside.

    If its recording has another ground here, the differences are listed and the solo goes on the ground here, or
    replaces it for all its solos when asked. Raises : the errors of reading; nothing is stored then.
    """
    document = read_document(data)
    solo_id = uuid4()
    with transaction(workspace.pool) as db:
        tune_id = tune_titled(db, workspace.scope, document.tune)
        sound = None
        if document.recording is not None:
            sound = recording_by_hash(db, workspace.scope, document.recording.sha256)
            if sound is None:
                sound = _known_by_hash(document.recording, tune_id)
                add_recording(db, workspace.scope, sound, decoded_by=None)
        ground_id = None if sound is None else ground_of_recording(db, workspace.scope, sound.id)
        differences: tuple[str, ...] = ()
        if ground_id is None:
            ground, ground_id = document.ground, uuid4()
            store_ground(db, workspace, ground_id, ground, tune_id, None if sound is None else sound.id)
        else:
            ground, _ = workspace.ground(db, ground_id)
            differences = ground_differences(ground, document.ground)
        store_solo(db, workspace, solo_id, document.solo, ground, ground_id)
    if differences and replace_ground:
        commit(workspace, load(workspace, solo_id), "the ground of a document", ground=document.ground)
        differences = ()
    return Imported(solo_id, differences, has_sound=sound is None or sound.frames is not None)


def _known_by_hash(reference: RecordingReference, tune_id: UUID) -> Recording:
    return Recording(
        id=uuid4(),
        tune_id=tune_id,
        sha256=reference.sha256,
        title=reference.title,
        file_name="",
        bytes=None,
        frames=None,
        channels=None,
        seconds=reference.seconds,
    )


def ground_differences(here: Ground, there: Ground) -> tuple[str, ...]:
    """What differs between two grounds, in words."""
    changes = difference(here, there)
    words: dict[str, int] = {}
    for change in changes:
        kind = change.id.replace("_", " ") if change.kind == "setting" else str(change.kind)
        words[kind] = words.get(kind, 0) + 1
    return tuple(f"{kind} ({count})" if count > 1 else kind for kind, count in words.items())
