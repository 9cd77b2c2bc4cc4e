"""What tests ask of the api, and sound made for asking."""

from __future__ import annotations

import io
from uuid import UUID, uuid4

import numpy as np
import soundfile
from fastapi import FastAPI
from fastapi.testclient import TestClient

from usagi.core.listening.heard import HeardNote, Hearing
from usagi.core.listening.hints import Hints
from usagi.core.listening.stored import to_stored
from usagi.core.listening.technique import BendHeard, Joined
from usagi.flows.listening.hearing import frames_between, keep, key_of
from usagi.flows.sound.pieces import source_of
from usagi.flows.workspace import Workspace
from usagi.store.database import transaction

QUARTER = 10_080


def started(client: TestClient, **fields: object) -> str:
    body = {"tune": "Tin Roof", "title": "break", "player": "Ada Moor", "chart": "| Am7 | D7 |",
            "basics": {"tempo_bpm": 120, "last_bar": 8}}  # fmt: skip
    answer = client.post("/api/solos", json=body | fields)
    assert answer.status_code == 200, answer.text
    return str(answer.json()["solo_id"])


def note(note_id: str, tick: int, string: int = 2, fret: int = 10, **fields: object) -> dict[str, object]:
    return {"id": note_id, "tick": tick, "ticks": QUARTER, "string": string, "fret": fret * 100} | fields


def edit(
    bench: dict,
    *changes: dict[str, object],
    act: str | None = None,
    edit_id: str | None = None,
    document: str | None = None,
) -> dict:
    return {"id": edit_id or str(uuid4()), "act": act or str(uuid4()), "document": document or bench["solo_id"],
            "made_in": bench["solo_id"], "person": bench["person"], "at": "2026-11-25T10:00:00+00:00", "schema": 1,
            "label": "write a note", "changes": list(changes)}  # fmt: skip


def send(client: TestClient, bench: dict, *edits: dict, versions: dict | None = None):
    body = {"versions": versions or bench["versions"], "edits": list(edits)}
    return client.post(f"/api/solos/{bench['solo_id']}/edits", json=body)


def write(client: TestClient, bench: dict, *notes: dict) -> dict:
    answer = send(client, bench, edit(bench, *[{"kind": "note", "id": n["id"], "after": n} for n in notes]))
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    bench["versions"] = found["versions"]
    return found


def opened(client: TestClient, solo_id: str) -> dict:
    answer = client.get(f"/api/solos/{solo_id}")
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def wav(seconds: float, channels: int = 2, rate: int = 44_100) -> bytes:
    t = np.arange(round(seconds * rate)) / rate
    out = io.BytesIO()
    soundfile.write(out, np.stack([0.3 * np.sin(2 * np.pi * 220 * t)] * channels, axis=1), rate, format="WAV")
    return out.getvalue()


def encoded(seconds: float, kind: str, subtype: str | None = None) -> bytes:
    t = np.arange(round(seconds * 48_000)) / 48_000
    out = io.BytesIO()
    soundfile.write(out, 0.3 * np.sin(2 * np.pi * 220 * t), 48_000, format=kind, subtype=subtype)
    return out.getvalue()


def bring(client: TestClient, name: str, data: bytes):
    return client.post("/api/recordings", files={"file": (name, data)})


def workspace_of(client: TestClient) -> Workspace:
    """What the application works with: for what a worker would do."""
    app = client.app
    assert isinstance(app, FastAPI)
    found: Workspace = app.state.workspace
    return found


def keep_heard_notes(
    client: TestClient, solo: str, span: dict, notes: list[tuple[float, int, float | None]], confidence: float = 0.99
) -> None:
    """What a worker would have kept of a span: `(second, MIDI, cents of a bend)`, each a little under half a second."""
    workspace = workspace_of(client)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, UUID(solo))
    begin, end = frames_between(source, span["start"], span["end"])
    found = tuple(
            HeardNote(
                second, second + 0.4, midi, confidence, Joined.PICKED,
                None if cents is None else BendHeard(((0.0, 0.0), (0.05, 0.0), (0.2, cents))), None, np.zeros(34),
                others=(midi - 5, midi + 12, midi - 12),
            )
        for second, midi, cents in notes
    )  # fmt: skip
    key = key_of(source, begin, end, Hints.model_validate(span.get("hints") or {}))
    keep(workspace, source.recording.id, key, to_stored(Hearing(found)))
