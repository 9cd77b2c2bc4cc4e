"""The demo's studio: its recordings and documents, brought in the way a teacher brings them."""

from __future__ import annotations

from pathlib import Path
from uuid import UUID

from usagi.core.document.elements import Rest
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.ticks import EIGHTH
from usagi.core.phrases.simplified import Rule
from usagi.flows.editing.changing import commit, load
from usagi.flows.notes.versions import make_version
from usagi.flows.studio.exchange import import_json
from usagi.flows.studio.recordings import bring_recording
from usagi.flows.studio.shelf import read_shelf
from usagi.flows.workspace import Workspace, new_id
from usagi.settings import project_root

FOLDER = project_root() / "demo"
WHOLE = "second chorus, reel 14"  # has a version for a first term beside it
PUPIL, SLIPS = "verse, reel 31", "as a pupil wrote it"  # a version with three slips for the check to find
SHORT_BEND, WRONG_FRET, LEFT_OUT = 15_120, 131_040, 297_360  # ticks


def seed(workspace: Workspace, folder: Path = FOLDER) -> None:
    """Fill a new studio: the documents first, which name their sounds by hash, then the sounds that they wait for."""
    for document in sorted(folder.glob("*.json")):
        import_json(workspace, document.read_bytes())
    for sound in sorted(folder.glob("*.ogg")):
        with sound.open("rb") as file:
            bring_recording(workspace, sound.name, file)
    for row in [row for row in read_shelf(workspace) if row.title == WHOLE]:
        make_version(workspace, row.id, f"{WHOLE}, first term", (Rule.NO_ORNAMENTS, Rule.NO_BENDS))
    for row in [row for row in read_shelf(workspace) if row.title == PUPIL]:
        _slip(workspace, make_version(workspace, row.id, f"{PUPIL}, {SLIPS}", ()).solo_id)


def _slip(workspace: Workspace, solo_id: UUID) -> None:
    """A bend written half a step short, a note a fret too low, one left out."""
    loaded = load(workspace, solo_id)
    notes = []
    for note in loaded.solo.notes:
        if note.tick == SHORT_BEND:
            note = note.model_copy(update={"course": tuple((at, min(q, 2)) for at, q in note.course)})
        elif note.tick == WRONG_FRET and note.fret is not None:
            note = note.model_copy(update={"fret": note.fret - HUNDREDTHS})
        if note.tick != LEFT_OUT:
            notes.append(note)
    rest = Rest(id=new_id(), tick=LEFT_OUT, ticks=EIGHTH)
    rests = tuple(sorted((*loaded.solo.rests, rest), key=lambda one: one.tick))
    slipped = loaded.solo.model_copy(update={"notes": tuple(notes), "rests": rests})
    commit(workspace, loaded, "write it down", solo=slipped)
