"""The disk under the database is full: a sentence, nothing damaged, and writing goes on when there is room."""

from __future__ import annotations

import json
import os
import subprocess
import time
import urllib.error
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from accidents.running import QUARTER, Running, a_note, an_edit
from usagi.cli.cluster import Cluster

SIZE = "192m"


@pytest.fixture
def small_disk(open_home: Path) -> Iterator[Path]:
    """A home on a small file system of its own."""
    home = open_home / "small"
    home.mkdir()
    mounted = os.geteuid() == 0 and subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={SIZE},mode=755", "tmpfs", str(home)], check=False, capture_output=True
    )
    if not mounted or mounted.returncode:
        pytest.skip("a small file system can be mounted by root only, and not in every container")
    try:
        yield home
    finally:
        Cluster(home).destroy()
        subprocess.run(["umount", "-l", str(home)], check=False)


def refusal(running: Running, solo: str, edit: dict[str, Any]) -> dict[str, Any] | None:
    """The problem that an edit meets, none when it is stored."""
    try:
        running.ask(f"/api/solos/{solo}/edits", {"versions": {}, "edits": [edit]})
    except urllib.error.HTTPError as fault:
        found: dict[str, Any] = json.load(fault)
        return found
    return None


def test_a_full_disk_gets_a_sentence_and_writing_goes_on_when_there_is_room(small_disk: Path) -> None:
    running = Running(small_disk)
    running.start()
    solo = running.new_solo("Full")
    bench = running.ask(f"/api/solos/{solo}")
    stored, number, problem = [], 0, None
    ballast = small_disk / "ballast"
    with ballast.open("wb") as file:
        while True:
            try:
                file.write(b"\0" * 65_536)
                file.flush()
            except OSError:
                break
    # The log of the database has room in its segments; many long edits use it up.
    while problem is None and number < 26:
        notes = [a_note(f"n{number}-{i}", (number * 60 + i) * QUARTER, 2, 5) for i in range(60)]
        edit = an_edit(bench, *[{"kind": "note", "id": n["id"], "after": n} for n in notes])
        edit["label"] = "x" * 100
        problem = refusal(running, solo, edit)
        stored += [] if problem else [n["id"] for n in notes]
        number += 1
    assert problem is not None and problem["code"] in ("store-full", "store-away"), problem
    assert "nothing was stored" in problem["title"]
    ballast.unlink()
    until = time.monotonic() + 60
    while (problem := refusal(running, solo, edit)) is not None and time.monotonic() < until:
        assert problem["code"] in ("store-full", "store-away"), problem
        time.sleep(0.2)
    assert problem is None
    stored += [n["id"] for n in notes]
    assert sorted(n["id"] for n in running.ask(f"/api/solos/{solo}")["solo"]["notes"]) == sorted(stored)
    running.stop()
