"""Import: our solo documents and files of other programs, as a new solo or into one that is open."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal
from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import difference
from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import RecordingReference, read_document
from usagi.core.formats.files import DOCUMENT, Coming, FileKind, kind_of_bytes, parts_in, score_in
from usagi.core.formats.laid.laying import Laid, brought_into, lay, lay_notes, way_words
from usagi.core.formats.laid.listing import part_words, size_words
from usagi.core.formats.other_tabs.reading import says_lengths
from usagi.core.formats.other_tabs.times import Lengths
from usagi.core.formats.score import FileUnreadable, Score, chosen_part
from usagi.core.values import one_line
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit, load
from usagi.flows.studio.new_solo import store_ground, store_solo
from usagi.flows.workspace import Workspace, new_id
from usagi.store import documents as stored
from usagi.store.database import transaction
from usagi.store.recordings import Recording, add_recording, recording_by_hash
from usagi.store.studios import tune_titled
from usagi.store.titles import ground_of_recording

Asked = Literal["lengths"]


@dataclass(frozen=True, slots=True)
class Imported:
    """The new solo, and what differs between the document's ground and the one that its recording has here."""

    solo_id: UUID
    differences: tuple[str, ...]
    has_sound: bool
    messages: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PartView:
    id: str  # its number in the list, from 1
    name: str
    says: str  # how many notes, and whether it has strings


@dataclass(frozen=True, slots=True)
class ImportView:
    """What a file holds, before anything is stored: its parts, what has to be asked, what it would become."""

    format: str
    says: str
    parts: tuple[PartView, ...]
    part: str  # the one that is read
    asks_lengths: bool
    lengths: tuple[str, ...]
    title: str
    holds: str  # how many notes and bars
    ways: tuple[str, ...]
    messages: tuple[str, ...]
    listed: tuple[str, ...]


def look_into(workspace: Workspace, data: bytes, name: str, how: Coming, into: UUID | None = None) -> ImportView:
    """What a file would become, on a ground of its own or in a solo that is here; nothing is stored.

    A tablature that says no lengths is shown by its spacing, and asks. Raises : the errors of reading; NotThere.
    """
    kind = kind_of_bytes(data, name)
    parts = parts_in(data, kind)
    chosen = chosen_part(parts, how.part)
    asks = kind.name == "tab" and not says_lengths(data)
    if asks and how.lengths is None:
        how = replace(how, lengths=Lengths.SPACING)
    if kind.name == DOCUMENT:
        document = read_document(data)
        laid = Laid(document, (), (), ())
    elif into is None:
        laid = lay(score_in(data, kind, how), new_id, way=how.way)
    else:
        laid = _laid_on(load(workspace, into), data, kind, how)
    solo = laid.document.solo
    return ImportView(
        format=kind.name,
        says=kind.says,
        parts=tuple(PartView(str(i), one.name, part_words(one)) for i, one in enumerate(parts, start=1)),
        part=str(chosen + 1),
        asks_lengths=asks,
        lengths=tuple(Lengths) if asks else (),
        title=" · ".join(filter(None, (laid.document.tune, solo.settings.title, solo.settings.player))),
        holds=size_words(laid.document),
        ways=tuple(way_words(way) for way in laid.ways) if len(laid.ways) > 1 else (),
        messages=laid.messages,
        listed=laid.listed,
    )


def import_file(workspace: Workspace, data: bytes, name: str, how: Coming, solo_id: UUID | None = None) -> Imported:
    """A new solo of a file of another program. Its notes are one edit, so that undo takes them back.

    Sent again under its id, nothing is made twice.

    Raises : the errors of reading; nothing is stored then.
    """
    kind = kind_of_bytes(data, name)
    if kind.name == DOCUMENT:
        return import_json(workspace, data, solo_id=solo_id)
    laid = lay(score_in(data, kind, how), new_id, way=how.way)
    document = laid.document
    written = _named_plainly(document.solo)
    empty = Solo(settings=written.settings)
    ground_id = uuid4()
    with transaction(workspace.pool) as db:
        if solo_id is not None and stored.made_before(db, workspace.scope, solo_id):
            return Imported(solo_id, (), has_sound=True)
        solo_id = solo_id or uuid4()
        tune_id = tune_titled(db, workspace.scope, document.tune or _stem(name))
        store_ground(db, workspace, ground_id, document.ground, tune_id, None)
        store_solo(db, workspace, solo_id, empty, document.ground, ground_id)
    commit(workspace, load(workspace, solo_id), f"import {name}", solo=written, exact=True)
    return Imported(solo_id, (), has_sound=True, messages=(*laid.messages, *laid.listed))


def import_into(
    workspace: Workspace, solo_id: UUID, data: bytes, name: str, how: Coming, reader: Reader = Reader()
) -> Answer:
    """The notes of a file in place of what its bars hold in a solo that is here, on its grid and its strings, as one
    edit. Raises : the errors of reading, NotThere."""
    kind = kind_of_bytes(data, name)
    loaded = load(workspace, solo_id)
    laid = _laid_on(loaded, data, kind, how)
    if not laid.document.solo.notes:
        raise FileUnreadable("This file has no notes in the bars of this solo.")
    after = brought_into(loaded.solo, laid.document.solo, loaded.ground, new_id)
    messages = (*laid.messages, *laid.listed)
    return commit(workspace, loaded, f"import {name}", reader, solo=after, messages=messages, exact=True)


def _laid_on(loaded: Loaded, data: bytes, kind: FileKind, how: Coming) -> Laid:
    if kind.name == DOCUMENT:
        raise FileUnreadable("A solo document makes a solo of its own: import it on the shelf.")
    score = score_in(data, kind, replace(how, ground=loaded.ground))
    laid = lay_notes(score, loaded.ground, new_id, way=how.way, on=loaded.solo.settings)
    return replace(laid, messages=(*score.messages, *_other_meter(score, loaded.ground), *laid.messages))


def _other_meter(score: Score, ground: Ground) -> list[str]:
    """What is said when the file counts other bars than those that its notes come into."""
    for own, bar in zip(score.bars, (bar for bar in ground.timeline.bars.bars if bar.number > 0), strict=False):
        if own.meter.bar_ticks != bar.meter.bar_ticks:
            return [f"Bar {bar.number} has {own.meter} in the file and {bar.meter} here: its notes go by their beats."]
    return []


def _stem(name: str) -> str:
    return name.rpartition("/")[2].rpartition(".")[0][:200] or name[:200] or "Imported"


def import_json(
    workspace: Workspace, data: bytes, *, replace_ground: bool = False, solo_id: UUID | None = None
) -> Imported:
    """Make a new solo of a document, with the same ids inside.

    If its recording has another ground here, the differences are listed and the solo goes on the ground here, or
    replaces it for all its solos when asked. Raises : the errors of reading; nothing is stored then.
    """
    document = read_document(data)
    solo = _named_plainly(document.solo)
    with transaction(workspace.pool) as db:
        if solo_id is not None and stored.made_before(db, workspace.scope, solo_id):
            return Imported(solo_id, (), has_sound=True)
        solo_id = solo_id or uuid4()
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
        store_solo(db, workspace, solo_id, solo, ground, ground_id)
    if differences and replace_ground:
        commit(workspace, load(workspace, solo_id), "the ground of a document", ground=document.ground)
        differences = ()
    return Imported(solo_id, differences, has_sound=sound is None or sound.frames is not None)


def _named_plainly(solo: Solo) -> Solo:
    settings = solo.settings
    plain = {"title": one_line(settings.title), "player": one_line(settings.player)}
    return solo.model_copy(update={"settings": settings.model_copy(update=plain)})


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
