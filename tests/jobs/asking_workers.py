"""Workers for tests, each a process of its own that knows the database's address only, and what is asked of them."""

from __future__ import annotations

import io
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeAlias
from uuid import uuid4

import soundfile
from benchmarks.bands import Band
from fastapi.testclient import TestClient

from asking import bring, started
from usagi.flows.workspace import Workspace
from usagi.main import make_app
from usagi.media.cache import Cache
from usagi.store.database import open_pool, transaction
from usagi.store.studios import enter_studio

Begin: TypeAlias = Callable[[], subprocess.Popen[bytes]]
Working: TypeAlias = tuple[TestClient, Begin]


@contextmanager
def workers(dsn: str) -> Iterator[Begin]:
    """Starts workers, and ends them with the block."""
    begun: list[subprocess.Popen[bytes]] = []

    def begin() -> subprocess.Popen[bytes]:
        env = {"PATH": os.environ["PATH"], "HOME": os.environ.get("HOME", "/tmp"), "USAGI_DATABASE": dsn}
        begun.append(subprocess.Popen([sys.executable, "-m", "usagi.cli", "worker"], env=env))
        return begun[-1]

    try:
        yield begin
    finally:
        for process in begun:
            process.terminate()
            try:
                process.wait(15)
            except subprocess.TimeoutExpired:
                process.kill()


@contextmanager
def working_client(dsn: str, folder: Path) -> Iterator[Working]:
    """An api on a database, and what starts workers beside it."""
    pool = open_pool(dsn, size=4)
    with transaction(pool) as db:
        scope, _ = enter_studio(db, demo=False)
    app = make_app()
    app.state.workspace = Workspace(pool, scope, Cache(folder, 10**9))
    try:
        with workers(dsn) as begin:
            yield TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False), begin
    finally:
        pool.close()


def played(client: TestClient, known: Band) -> str:
    """A solo on a recording of a band, whose grid is right."""
    out = io.BytesIO()
    soundfile.write(out, known.sound, 48_000, format="WAV")
    recording = bring(client, f"{uuid4().hex}.wav", out.getvalue()).json()["recording"]["id"]
    solo = started(client, recording_id=recording, basics={"bars": len(known.firsts) - 2})
    taps = {"taps": [float(s) for s in known.beats], "tick": 0}
    assert client.put(f"/api/solos/{solo}/taps", json=taps).status_code == 200
    return solo


def ask(client: TestClient, solo: str, kind: str) -> str:
    answer = client.post(f"/api/solos/{solo}/estimates", json={"kind": kind, "first_bar": 1, "last_bar": 30})
    assert answer.status_code == 200, answer.text
    return str(answer.json()["id"])


def until(client: TestClient, estimate: str, *states: str, seconds: float = 120) -> dict[str, Any]:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found: dict[str, Any] = client.get(f"/api/estimates/{estimate}").json()
        if found.get("state") in states:
            return found
        time.sleep(0.05)
    raise AssertionError(found)
