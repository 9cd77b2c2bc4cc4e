"""The demo's studio: its recordings and documents, brought in the way a teacher brings them."""

from __future__ import annotations

from pathlib import Path

from usagi.core.phrases.simplified import Rule
from usagi.flows.notes.versions import make_version
from usagi.flows.studio.exchange import import_json
from usagi.flows.studio.recordings import bring_recording
from usagi.flows.studio.shelf import read_shelf
from usagi.flows.workspace import Workspace
from usagi.settings import project_root

FOLDER = project_root() / "demo"
WHOLE = "second chorus, reel 14"  # has a version for a first term beside it


def seed(workspace: Workspace, folder: Path = FOLDER) -> None:
    """Fill a new studio: the documents first, which name their sounds by hash, then the sounds that they wait for."""
    for document in sorted(folder.glob("*.json")):
        import_json(workspace, document.read_bytes())
    for sound in sorted(folder.glob("*.ogg")):
        with sound.open("rb") as file:
            bring_recording(workspace, sound.name, file)
    for row in [row for row in read_shelf(workspace) if row.title == WHOLE]:
        make_version(workspace, row.id, f"{WHOLE}, first term", (Rule.NO_ORNAMENTS, Rule.NO_BENDS))
