"""Spans that a teacher listened to and put right, kept as documents that `./usagi score` reads; only when wanted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import write_document
from usagi.core.values import Value
from usagi.flows.studio.exchange import take_document
from usagi.flows.workspace import Workspace
from usagi.store import hearing as stored
from usagi.store.database import transaction
from usagi.store.recordings import Recording, recording_by_hash


class Consent(Value):
    """Whether corrections are kept for scoring; none: not asked yet."""

    keeps: bool | None


@dataclass(frozen=True, slots=True)
class Corrected:
    """A document with the notes of what was listened to, under a name for its file, and the recording that it names."""

    name: str
    document: bytes
    sound: Recording | None  # none: its sound is not here


def consent(workspace: Workspace) -> Consent:
    with transaction(workspace.pool) as db:
        return Consent(keeps=stored.keeps_corrections(db, workspace.scope.studio))


def set_consent(workspace: Workspace, wanted: Consent) -> Consent:
    with transaction(workspace.pool) as db:
        stored.set_keeps_corrections(db, workspace.scope.studio, keeps=bool(wanted.keeps))
    return consent(workspace)


def corrected(workspace: Workspace) -> Iterator[Corrected]:
    """Every span that is kept, as it stands now: later corrections are in it."""
    with transaction(workspace.pool) as db:
        spans = stored.corrected_spans(db, workspace.scope.studio)
    for solo_id, start, end in spans:
        document = take_document(workspace, solo_id)
        if document.recording is None:
            continue
        with transaction(workspace.pool) as db:
            sound = recording_by_hash(db, workspace.scope, document.recording.sha256)
        part = document.model_copy(update={"solo": only(document.solo, document.ground, start, end)})
        name = f"{solo_id}-{start}.json"
        yield Corrected(name, write_document(part), None if sound is None or sound.frames is None else sound)


def only(solo: Solo, ground: Ground, start: int, end: int) -> Solo:
    """The solo with what begins in a span alone, its bars those of the span."""
    bars = ground.timeline.bars
    notes = tuple(note for note in solo.notes if start <= note.tick < end)
    stacks = {note.stack for note in notes}
    settings = solo.settings.model_copy(
        update={"first_bar": bars.at(start).number, "last_bar": max(1, bars.at(end - 1).number)}
    )
    return Solo(
        settings=settings,
        notes=notes,
        rests=tuple(rest for rest in solo.rests if start <= rest.tick < end),
        stacks=tuple(stack for stack in solo.stacks if stack.id in stacks),
    )
