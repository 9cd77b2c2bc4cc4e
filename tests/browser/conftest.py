"""The real page on a running server, driven in headless Chromium."""

from __future__ import annotations

import io
import json
import os
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
import soundfile
import uvicorn
from numpy.typing import NDArray
from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright

from browser.listening import LISTEN, serve_tape
from browser.opening import BAR, QUARTER
from usagi.cli.demo import seed
from usagi.main import make_app
from usagi.settings import Settings, project_root
from usagi.store.database import create_database, migrate

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required",
    "--force-color-profile=srgb", "--hide-scrollbars",
]  # fmt: skip


class Served:
    """The server's address, and short cuts to its api for looking at what was stored."""

    def __init__(self, base: str, dsn: str) -> None:
        self.base, self.dsn = base, dsn

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.base + path) as answer:
            return json.load(answer)

    def solo(self, tune: str) -> str:
        return next(str(row["id"]) for row in self.get("/api/shelf")["solos"] if row["tune"] == tune)

    def stored(self, solo_id: str) -> Any:
        return self.get(f"/api/solos/{solo_id}/document.json")["solo"]

    def put(self, path: str, body: object) -> Any:
        return self.post(path, body, "PUT")

    def post(self, path: str, body: object, method: str = "POST") -> Any:
        request = urllib.request.Request(
            self.base + path, json.dumps(body).encode(), {"content-type": "application/json"}, method=method
        )
        with urllib.request.urlopen(request) as answer:
            return json.loads(answer.read() or b"null")

    def edit(self, solo_id: str, changes: list[dict[str, Any]]) -> None:
        """Changes of a solo as one edit, through the api."""
        bench = self.get(f"/api/solos/{solo_id}")
        edit = {
            "id": str(uuid4()), "act": str(uuid4()), "document": solo_id, "made_in": solo_id, "undoes": None,
            "person": bench["person"], "at": "2026-11-25T10:00:00+00:00", "schema": 1, "label": "write",
            "changes": changes,
        }  # fmt: skip
        self.post(f"/api/solos/{solo_id}/edits", {"versions": bench["versions"], "edits": [edit]})

    def bring(self, name: str, sound: NDArray[np.float64], **solo: Any) -> str:
        """A mono recording and a solo on it, through the api; the solo's id."""
        out = io.BytesIO()
        soundfile.write(out, sound, 48_000, format="WAV")
        border = uuid4().hex
        head = f'--{border}\r\ncontent-disposition: form-data; name="file"; filename="{name}.wav"\r\n\r\n'
        request = urllib.request.Request(
            self.base + "/api/recordings",
            head.encode() + out.getvalue() + f"\r\n--{border}--\r\n".encode(),
            {"content-type": f"multipart/form-data; boundary={border}"},
        )
        with urllib.request.urlopen(request) as answer:
            recording = json.load(answer)["recording"]["id"]
        return str(
            self.post("/api/solos", {"tune": name, "player": "Ada Moor", "recording_id": recording} | solo)["solo_id"]
        )


@pytest.fixture(scope="session")
def served(server_dsn: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    dsn = create_database(server_dsn, "usagi_browser")
    migrate(dsn)
    settings = Settings(
        home=tmp_path_factory.mktemp("home"), dsn=dsn, studio="demo", web=project_root() / "web" / "dist"
    )
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.bind(("127.0.0.1", 0))
    app = make_app(settings, seed=seed)
    serve_tape(app)
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=2))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    for _ in range(600):
        if server.started:
            break
        time.sleep(0.1)
    yield Served(f"http://127.0.0.1:{listener.getsockname()[1]}", dsn)
    server.should_exit = True
    thread.join(20)
    listener.close()


class Worker:
    """A worker of the server's database, as `./usagi demo` has one."""

    def __init__(self, dsn: str) -> None:
        self.dsn = dsn
        self.begin()

    def begin(self) -> None:
        command = [sys.executable, "-m", "usagi.cli", "worker"]
        self.process = subprocess.Popen(command, env=os.environ | {"USAGI_DATABASE": self.dsn})

    def kill(self) -> None:
        self.process.kill()
        self.process.wait(15)

    def pause(self, signal: int) -> None:
        self.process.send_signal(signal)


@pytest.fixture(scope="session")
def worker(served: Served) -> Iterator[Worker]:
    found = Worker(served.dsn)
    yield found
    found.process.terminate()
    found.process.wait(15)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        path = os.environ.get("USAGI_CHROMIUM", "/usr/bin/chromium-headless-shell")
        found = playwright.chromium.launch(executable_path=path, args=FLAGS)
        yield found
        found.close()


@pytest.fixture
def context(browser: Browser, served: Served) -> Iterator[BrowserContext]:
    found = browser.new_context(
        base_url=served.base, viewport={"width": 1280, "height": 800}, color_scheme="light", reduced_motion="reduce",
        locale="en-GB", timezone_id="UTC", accept_downloads=True,
    )  # fmt: skip
    found.set_default_timeout(15_000)
    found.add_init_script(LISTEN)
    yield found
    found.close()


@pytest.fixture
def page(context: BrowserContext, served: Served) -> Iterator[Page]:
    """A page that must not fail in silence, nor ask anything of another machine."""
    found = context.new_page()
    faults: list[str] = []
    found.on("pageerror", lambda error: faults.append(str(error)))
    found.on(
        "console",
        lambda message: (
            faults.append(message.text) if message.type == "error" and "status of 4" not in message.text else None
        ),
    )
    found.on(
        "request",
        lambda request: None if request.url.startswith((served.base, "data:", "blob:")) else faults.append(request.url),
    )
    yield found
    found.unroute_all(behavior="ignoreErrors")
    assert [fault for fault in faults if "ERR_FAILED" not in fault] == []


@pytest.fixture
def new_solo(served: Served) -> Callable[..., str]:
    """A solo without a recording, made through the api."""

    def make(tune: str, chart: str = "| Am7 | D7 | Gmaj7 | E7(b9) |", **basics: object) -> str:
        body = {
            "tune": tune,
            "title": "break",
            "player": "Ada Moor",
            "chart": chart,
            "basics": {"tempo_bpm": 120, "last_bar": 8} | basics,
        }
        return str(served.post("/api/solos", body)["solo_id"])

    return make


@pytest.fixture
def phrased(served, new_solo: Callable[..., str]) -> Callable[..., str]:
    """Two bars of quarter notes, a phrase over each."""

    def make(tune: str, chart: str = "| {key E major} E7 | A7 |", **basics: object) -> str:
        solo = new_solo(tune, chart=chart, **basics)
        changes: list[dict[str, Any]] = [
            {"kind": "note", "id": f"n{i}", "before": None,
             "after": {"id": f"n{i}", "tick": i * QUARTER, "ticks": QUARTER, "string": 2, "fret": (5 + i % 3) * 100}}
            for i in range(8)
        ]  # fmt: skip
        for i, name in enumerate(("up", "down")):
            after = {"id": f"p{i}", "start": i * BAR, "end": (i + 1) * BAR, "name": name}
            changes.append({"kind": "phrase", "id": f"p{i}", "before": None, "after": after})
        served.edit(solo, changes)
        return solo

    return make


@pytest.fixture
def sound_file(tmp_path: Path) -> Path:
    """Six seconds of plucks at 120 a minute, the first at 0.5 s."""
    t = np.arange(6 * 48_000) / 48_000
    out = np.zeros_like(t)
    for beat in range(11):
        since = t - 0.5 - beat * 0.5
        out += np.where(since >= 0, 0.5 * np.sin(2 * np.pi * 330 * since) * np.exp(-np.maximum(since, 0) * 8), 0)
    path = tmp_path / "tin roof.flac"
    soundfile.write(path, np.stack([out, out], axis=1), 48_000)
    return path
