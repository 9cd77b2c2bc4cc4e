"""What the server takes under load: labels, edits, opening, the shelf, memory."""

from __future__ import annotations

import gc
import statistics
import time
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import numpy as np
import psycopg

from benchmarks.figures import Figure
from benchmarks.running import Server, running, wav_file
from benchmarks.solos import big_solo
from usagi.cli.serve import GARBAGE
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.view.notes import view_notes

SIZES = ((200, 48, 2.0), (1_000, 208, 5.0), (2_000, 400, 10.0), (5_000, 1_008, 25.0))
EDITS = 60
LATE = 120  # ticks by which an onset moves


def milliseconds(values: list[float], share: float = 95) -> float:
    return 1_000 * float(np.percentile(values, share))


def taken(work: Callable[[], object], times: int) -> list[float]:
    found = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        found.append(time.perf_counter() - begin)
    return found


def edits(server: Server, solo: str, times: int) -> list[float]:
    """Seconds of single edits of one note each, one after another: a ghost note, then an onset that moves, and so on."""
    bench, _ = server.ask(f"/api/solos/{solo}")
    versions: dict[str, int] = bench["versions"]
    notes: list[dict[str, Any]] = bench["solo"]["notes"]
    found = []
    for number in range(times):
        at = (number * 7919) % len(notes)
        before = notes[at]
        if number % 2:
            late = LATE if before["ticks"] > 2 * LATE else -LATE
            after = before | {"tick": before["tick"] + late, "ticks": before["ticks"] - late}
        else:
            after = before | {"ghost": not before["ghost"]}
        edit = {"id": str(uuid4()), "act": str(uuid4()), "document": solo, "made_in": solo, "person": bench["person"],
                "at": "2026-11-25T10:00:00+00:00", "schema": 1, "label": "ghost",
                "changes": [{"kind": "note", "id": before["id"], "before": before, "after": after}]}  # fmt: skip
        answer, seconds = server.ask(f"/api/solos/{solo}/edits", {"versions": versions, "edits": [edit]})
        assert before["id"] in answer["views"] and not answer["whole"]
        notes[at], versions = after, answer["versions"]
        found.append(seconds)
    return found[3:]


def ten_minutes_of_stereo() -> bytes:
    second = np.random.default_rng(7).normal(0, 0.1, (48_000, 2)).astype(np.float32)
    return wav_file(np.tile(second, (600, 1)))


def figures() -> Iterator[Figure]:
    gc.set_threshold(*GARBAGE)  # as the server
    for notes, bars, minutes in SIZES:
        document = big_solo(notes, bars, minutes)
        document.ground.timeline.chord_at(0)
        best = min(taken(lambda d=document: read_notes(d.solo, d.ground), 5))  # type: ignore[misc]
        goal = 50 if notes == 2_000 else None
        yield Figure(f"labels of {notes:,} notes, one core, best of 5", 1_000 * best, "ms", goal)
        best = min(taken(lambda d=document: view_notes(d.solo, d.ground), 5))  # type: ignore[misc]
        goal = 100 if notes == 2_000 else None
        yield Figure(f"what an opening tells of {notes:,} notes, one core, best of 5", 1_000 * best, "ms", goal)
    with running() as server:
        yield from _with(server)


def _with(server: Server) -> Iterator[Figure]:
    with psycopg.connect(server.dsn, autocommit=True) as db:
        trip = statistics.median(taken(lambda: db.execute("SELECT 1").fetchone(), 300))
    base = f"SELECT 1 in {1_000 * trip:.2f} ms, median"
    for notes, bars, minutes in SIZES:
        solo = server.big(notes, bars, minutes)
        first = server.ask(f"/api/solos/{solo}")[1]
        again = statistics.median(server.ask(f"/api/solos/{solo}")[1] for _ in range(3))
        yield Figure(
            f"opening a solo of {notes:,} notes over HTTP, first time", 1_000 * first, "ms", None, baseline=base
        )
        yield Figure(f"opening a solo of {notes:,} notes over HTTP, again", 1_000 * again, "ms", None, baseline=base)
        found = edits(server, solo, EDITS)
        goal = 30 if notes == 2_000 else None
        yield Figure(f"one edit over HTTP with {notes:,} notes, p95", milliseconds(found), "ms", goal, baseline=base)
        ratio = statistics.median(found) / trip
        yield Figure(f"one edit with {notes:,} notes, median, over SELECT 1", ratio, "times", None, baseline=base)
    solos = [server.big(200, 48, 2.0, seed) for seed in range(100)]
    for count in (1, 10, 100):
        for solo in solos[:count]:
            server.ask(f"/api/solos/{solo}")
        rounds = max(1, 40 // count)
        found = [seconds for solo in solos[:count] for seconds in edits(server, solo, rounds + 3)]
        yield Figure(f"one edit over HTTP with {count} open solos of 200 notes, p95", milliseconds(found), "ms")
    for number in range(900):
        server.ask("/api/solos", {"tune": f"Tune {number}", "player": f"Player {number % 40}", "chart": "| Am7 |"})
    rows, _ = server.ask("/api/shelf")
    found = [server.ask("/api/shelf")[1] for _ in range(20)]
    count = len(rows["solos"])
    yield Figure(f"shelf of {count:,} solos over HTTP, p95", milliseconds(found), "ms", 300, baseline=base)
    before = server.peak_mb()
    _, seconds = server.upload("/api/recordings", "long.wav", ten_minutes_of_stereo())
    yield Figure("bringing in 10 minutes of stereo", seconds, "s")
    name = "server's memory while 10 minutes of stereo come in, peak"
    yield Figure(name, server.peak_mb(), "MB", 400, baseline=f"{before:.0f} MB before")
