"""Pages without a screen for the walk: the page's store in a Node process each, and a server a person."""

from __future__ import annotations

import json
import os
import shutil
import socket
import subprocess
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any
from uuid import uuid4

import uvicorn

from usagi.flows.workspace import OpenDocuments, Workspace
from usagi.main import make_app
from usagi.settings import Settings, project_root
from usagi.store.database import transaction
from usagi.store.studios import NEW_PERSON, Scope

WEB = project_root() / "web"
BUILT = WEB / "dist-walk" / "page.js"


def node() -> str:
    """The machine's Node, or the one that the launcher installed."""
    own = project_root() / ".usagi" / "node" / "bin"
    found = shutil.which("node", path=f"{own}:{os.environ['PATH']}")
    assert found is not None, "Node is missing: run ./usagi test"
    return found


def build() -> None:
    """The store as one file for Node."""
    vite: list[str | Path] = [
        node(),
        WEB / "node_modules" / "vite" / "bin" / "vite.js",
        "build",
        "-c",
        "walk/vite.config.ts",
    ]
    done = subprocess.run(vite, cwd=WEB, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


class Page:
    """One person's page; `tell` waits until the page has begun what it is told, not until the server knows of it."""

    def __init__(self, base: str, seed: int) -> None:
        self.base = base
        command = [node(), str(BUILT), base, str(seed)]
        self.process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)

    def tell(self, do: str, **arguments: Any) -> Any:
        assert self.process.stdin is not None and self.process.stdout is not None
        self.process.stdin.write(json.dumps({"do": do} | arguments) + "\n")
        self.process.stdin.flush()
        line = self.process.stdout.readline()
        assert line, f"the page has ended while it did {do}"
        answer = json.loads(line)
        assert "failed" not in answer, f"{do} {arguments}: {answer['failed']}"
        return answer["done"]

    def close(self) -> None:
        self.process.kill()
        self.process.wait()

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.base + path) as answer:
            return json.load(answer)

    def post(self, path: str, body: object) -> Any:
        request = urllib.request.Request(
            self.base + path, json.dumps(body).encode(), {"content-type": "application/json"}, method="POST"
        )
        with urllib.request.urlopen(request) as answer:
            return json.loads(answer.read() or b"null")


@contextmanager
def two_servers(dsn: str, home: Path) -> Iterator[tuple[str, str]]:
    """The same studio served for two people."""
    with serving(dsn, home, None) as (first, workspace), serving(dsn, home, workspace) as (second, _):
        yield first, second


@contextmanager
def serving(dsn: str, home: Path, beside: Workspace | None) -> Iterator[tuple[str, Workspace]]:
    """A server on loopback; `beside` another's workspace it serves a second person of the same studio."""
    app = make_app(Settings(home=home, dsn=dsn, studio="own"))
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.bind(("127.0.0.1", 0))
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    if beside is not None:
        person = uuid4()
        with transaction(beside.pool) as db:
            db.execute(NEW_PERSON, {"studio_id": beside.scope.studio, "id": person, "name": "Another"})
        scope = Scope(beside.scope.studio, person)
        app.state.workspace = replace(app.state.workspace, scope=scope, open=OpenDocuments())
    try:
        yield f"http://127.0.0.1:{listener.getsockname()[1]}", app.state.workspace
    finally:
        server.should_exit = True
        thread.join(20)
        listener.close()
