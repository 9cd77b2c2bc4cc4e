"""A tune's recordings with the solos on them, what is known of a recording, and another part beside the one in hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.playing.timing import expected_seconds
from usagi.core.values import Value
from usagi.flows.workspace import NotThere, Workspace
from usagi.store.database import transaction
from usagi.store.families import set_recording, solos_of_tune
from usagi.store.recordings import Recording, recording


@dataclass(frozen=True, slots=True)
class Kin:
    """A solo of the same tune; `part` says that it stands on the same ground as the one in hand."""

    solo_id: UUID
    title: str
    player: str
    part: bool


@dataclass(frozen=True, slots=True)
class FamilyRecording:
    """A recording of the tune, none for solos on a form alone, and the solos on it."""

    recording: Recording | None
    solos: list[Kin]


@dataclass(frozen=True, slots=True)
class RecordingFacts:
    """What is known of a recording besides its sound."""

    title: str
    source: str
    year: int | None
    take: str
    link: str
    notes: str
    setting: Literal["", "studio", "live"] = ""


class PartNote(Value):
    """A note of another part, as far as it is drawn under the one in hand; seconds are of the recording in hand."""

    id: str
    second: float
    end_second: float
    string: int
    text: str


def family(workspace: Workspace, solo_id: UUID) -> list[FamilyRecording]:
    """Every recording of the tune that a solo belongs to, with its solos. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        _, _, own = workspace.solo(db, solo_id)
        found: dict[UUID | None, FamilyRecording] = {}
        for row in solos_of_tune(db, workspace.scope, own):
            if row.recording_id not in found:
                sound = None if row.recording_id is None else recording(db, workspace.scope, row.recording_id)
                found[row.recording_id] = FamilyRecording(sound, [])
            found[row.recording_id].solos.append(Kin(row.id, row.title, row.player or "", row.ground_id == own))
    return list(found.values())


def describe_recording(workspace: Workspace, recording_id: UUID, facts: RecordingFacts) -> Recording:
    """Write down what is known of a recording. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        if recording(db, workspace.scope, recording_id) is None:
            raise NotThere("This recording is not here any more.", recording=str(recording_id))
        set_recording(
            db, workspace.scope, recording_id, title=facts.title, source=facts.source, year=facts.year, take=facts.take,
            link=facts.link, notes=facts.notes, setting=facts.setting,
        )  # fmt: skip
        after = recording(db, workspace.scope, recording_id)
    assert after is not None
    return after


def other_part(workspace: Workspace, solo_id: UUID, other_id: UUID) -> list[PartNote]:
    """The notes of another part of the same recording. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        _, _, own = workspace.solo(db, solo_id)
        other, _, ground_id = workspace.solo(db, other_id)
        ground, _ = workspace.ground(db, own)
    if ground_id != own:
        raise NotThere("That solo stands on another recording, so it cannot be laid under this one.")
    return part_notes(other, ground, other.notes)


def part_notes(solo: Solo, ground: Ground, notes: Sequence[Note]) -> list[PartNote]:
    """Notes of a solo as they are drawn under others, where they are expected on a ground."""
    edges = sorted({edge for note in notes for edge in (note.tick, note.end)})
    seconds = dict(zip(edges, expected_seconds(solo, ground, edges), strict=True))
    return [
        PartNote(
            id=note.id,
            second=seconds[note.tick],
            end_second=seconds[note.end],
            string=note.string,
            text="×" if note.dead else "?" if note.fret is None else f"{note.fret / HUNDREDTHS:g}",
        )
        for note in notes
    ]
