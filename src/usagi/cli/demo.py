"""The demo's studio: its recordings and documents, brought in the way a teacher brings them."""

from __future__ import annotations

from pathlib import Path

from usagi.flows.bring import bring_recording
from usagi.flows.desk import Desk
from usagi.flows.exchange import import_json
from usagi.settings import project_root

FOLDER = project_root() / "demo"


def seed(desk: Desk, folder: Path = FOLDER) -> None:
    """Fill a new studio: the documents first, which name their sounds by hash, then the sounds that they wait for."""
    for document in sorted(folder.glob("*.json")):
        import_json(desk, document.read_bytes())
    for sound in sorted(folder.glob("*.ogg")):
        with sound.open("rb") as file:
            bring_recording(desk, sound.name, file)
