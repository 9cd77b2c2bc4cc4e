"""The real command as a process of its own, for tests that kill it."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any
from uuid import uuid4

ROOT = Path(__file__).parents[2]
QUARTER = 10_080


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Running:
    """`./usagi start` on a home of its own."""

    def __init__(self, home: Path, **environment: str) -> None:
        self.home, self.port = home, free_port()
        self.environment = os.environ | {"USAGI_HOME": str(home)} | environment
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "usagi.cli", "start", "--port", str(self.port)]
        self.process = subprocess.Popen(
            command, cwd=ROOT, env=self.environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self.wait_until_it_answers()

    def wait_until_it_answers(self, seconds: float = 60.0) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            try:
                self.ask("/api/shelf")
                return
            except (OSError, urllib.error.URLError):
                assert self.process is None or self.process.poll() is None, "the server ended by itself"
                time.sleep(0.1)
        raise AssertionError("the server does not answer")

    def kill_server(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def kill_database(self) -> None:
        """The postmaster; its children see it die."""
        note = json.loads((self.home / "pg.json").read_text())
        pid = int((Path(note["folder"]) / "data" / "postmaster.pid").read_text().splitlines()[0])
        os.kill(pid, signal.SIGKILL)

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            self.process.wait(60)

    def ask(self, path: str, body: object = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.base + path, data, {"content-type": "application/json"})
        with urllib.request.urlopen(request, timeout=15) as answer:
            return json.load(answer)

    def new_solo(self, tune: str) -> str:
        body = {"tune": tune, "chart": "| Am7 | D7 |", "basics": {"tempo_bpm": 120, "last_bar": 400}}
        return str(self.ask("/api/solos", body)["solo_id"])


def an_edit(bench: dict[str, Any], *changes: dict[str, Any]) -> dict[str, Any]:
    return {"id": str(uuid4()), "act": str(uuid4()), "document": bench["solo_id"], "made_in": bench["solo_id"],
            "person": bench["person"], "at": "2026-11-25T10:00:00+00:00", "schema": 1, "label": "write",
            "changes": list(changes)}  # fmt: skip


def a_note(note_id: str, tick: int, string: int, fret: int) -> dict[str, Any]:
    return {"id": note_id, "tick": tick, "ticks": QUARTER, "string": string, "fret": fret * 100}
