"""What a worker takes: memory over its start while it hears a quarter of an hour, and how soon it listens beside a pack."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.bands import band
from benchmarks.figures import Figure
from benchmarks.running import Server, running, wav_file

MINUTES = 14
MOST_MB = 400  # over its start
STARTED_S = 15.0  # after which its nets are loaded


class Worker:
    """The worker that a server has started beside it, with its memory."""

    def __init__(self, server: Server) -> None:
        children = Path(f"/proc/{server.process.pid}/task").glob("*/children")
        pids = [int(pid) for child in children for pid in child.read_text().split()]
        self.pid = next(pid for pid in pids if b"worker" in Path(f"/proc/{pid}/cmdline").read_bytes())

    def _mb(self, name: str) -> float:
        status = Path(f"/proc/{self.pid}/status").read_text()
        return float(next(line for line in status.splitlines() if line.startswith(name)).split()[1]) / 1_024

    def begin(self) -> float:
        """The memory now; the peak counts from here."""
        Path(f"/proc/{self.pid}/clear_refs").write_text("5")
        return self._mb("VmRSS")

    @property
    def peak(self) -> float:
        return self._mb("VmHWM")


def a_quarter_of_an_hour() -> bytes:
    """A band of three minutes, over and over, in stereo."""
    once = band(8_201, 180.0).sound.astype(np.float32)
    whole = np.tile(once, MINUTES // 3 + 1)[: MINUTES * 60 * 48_000]
    return wav_file(np.stack([whole, 0.7 * whole], axis=1))


def ended(server: Server, estimate: str, seconds: float = 600.0) -> dict[str, Any]:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        found: dict[str, Any] = server.ask(f"/api/estimates/{estimate}")[0]
        if found["state"] not in ("waiting", "running"):
            assert found["state"] == "done", found
            return found
        time.sleep(0.1)
    raise AssertionError("it does not end")


def figures() -> Iterator[Figure]:
    with running() as server:
        recording = server.upload("/api/recordings", "long.wav", a_quarter_of_an_hour())[0]["recording"]["id"]
        solo = str(server.ask("/api/solos", {"tune": "Long", "recording_id": recording, "chart": "| Am7 | D7 |",
                                             "basics": {"tempo_bpm": 120}})[0]["solo_id"])  # fmt: skip
        worker = Worker(server)
        time.sleep(STARTED_S)
        start = worker.begin()
        for kind in ("beats", "swing", "chords", "offset"):
            worker.begin()
            ended(server, server.ask(f"/api/solos/{solo}/estimates", {"kind": kind})[0]["id"])
            name = f"a worker's memory over its start, {MINUTES} minutes of {kind}"
            yield Figure(name, worker.peak - start, "MB", MOST_MB, baseline=f"{start:.0f} MB at its start")
        span = {"start": 0, "end": 4 * 40_320}
        alone = listened(server, solo, span | {"hints": {"more": 1}})
        pack = {"speeds": [500, 600, 700, 800], "span": [0, 40 * 40_320], "format": "wav", "passes": 2}
        estimate = server.ask(f"/api/solos/{solo}/loop-packs", pack)[0]["id"]
        while server.ask(f"/api/estimates/{estimate}")[0]["state"] == "waiting":
            time.sleep(0.05)
        beside = listened(server, solo, span | {"hints": {"more": 2}})
        assert server.ask(f"/api/estimates/{estimate}")[0]["state"] == "running"
        yield Figure("listening to 8 s while a pack is made, times as long as alone", beside / alone, "times", 4,
                     baseline=f"{alone:.2f} s alone")  # fmt: skip


def listened(server: Server, solo: str, body: dict[str, Any]) -> float:
    begin = time.perf_counter()
    ended(server, server.ask(f"/api/solos/{solo}/listen", body)[0]["id"])
    return time.perf_counter() - begin
