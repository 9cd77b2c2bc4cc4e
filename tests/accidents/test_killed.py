"""The server and the database are killed in the middle of edits: what was acknowledged is there, once."""

from __future__ import annotations

import http.client
import random
import threading
import time
import urllib.error
from pathlib import Path
from typing import Any

import pytest

from accidents.running import QUARTER, Running, a_note, an_edit
from usagi.cli.cluster import Cluster


class Writer(threading.Thread):
    """Adds a note and moves a counter in every edit, and sends each until it is acknowledged.

    The counter is a note whose fret goes up by one: an edit that is applied twice or lost would show in it.
    """

    def __init__(self, running: Running, solo: str, string: int) -> None:
        super().__init__(daemon=True)
        self.running, self.solo, self.string = running, solo, string
        self.bench = running.ask(f"/api/solos/{solo}")
        self.acknowledged: list[str] = []
        self.refusals: list[str] = []
        self.resent = 0
        self.enough = threading.Event()

    def run(self) -> None:
        counter = f"counter{self.string}"
        # The two of a solo start apart, or they would become a stack, and each one's counter change by the other's.
        start = self.string % 2 * QUARTER // 2
        self.send([{"kind": "note", "id": counter, "after": self.counter(start, 0)}])
        count = 0
        while not self.enough.is_set():
            count += 1
            before, after = ((count - 1) % 20, count % 20)
            note = f"s{self.string}n{count}"
            self.send(
                [
                    {"kind": "note", "id": counter, "before": self.counter(start, before),
                     "after": self.counter(start, after)},
                    {"kind": "note", "id": note, "after": a_note(note, count * QUARTER, self.string, 5)},
                ]
            )  # fmt: skip
            self.acknowledged.append(note)
            if count >= 1_500:
                return

    def counter(self, start: int, fret: int) -> dict[str, Any]:
        """The note whose fret is how many edits were acknowledged."""
        return a_note(f"counter{self.string}", start, self.string, fret) | {"ticks": QUARTER // 2}

    def send(self, changes: list[dict[str, Any]]) -> None:
        edit = an_edit(self.bench, *changes)
        while True:
            try:
                answer = self.running.ask(f"/api/solos/{self.solo}/edits", {"versions": {}, "edits": [edit]})
                self.refusals += [one["sentence"] for one in answer["refused"]]
                return
            except urllib.error.HTTPError as fault:
                if fault.code != 503:
                    self.refusals.append(fault.read().decode())
                    return
            except (OSError, http.client.HTTPException):  # the answer breaks off where the server is killed
                pass
            self.resent += 1
            time.sleep(0.05)


def killed_in_rounds(home: Path, rounds: int, seed: int) -> tuple[list[Writer], Running]:
    chance = random.Random(seed)
    running = Running(home)
    running.start()
    solos = [running.new_solo("One"), running.new_solo("Two")]
    writers = [Writer(running, solos[i // 2], 1 + i) for i in range(4)]
    for writer in writers:
        writer.start()
    for number in range(rounds):
        time.sleep(chance.uniform(0.3, 1.2))
        if number % 2:
            running.kill_database()
            running.wait_until_it_answers()
        else:
            running.kill_server()
            running.start()
    time.sleep(1.0)
    for writer in writers:
        writer.enough.set()
    for writer in writers:
        writer.join(60)
        assert not writer.is_alive()
    return writers, running


@pytest.mark.parametrize("rounds", [2, pytest.param(20, marks=pytest.mark.long)])
def test_no_acknowledged_edit_is_lost_and_none_is_applied_twice(open_home: Path, rounds: int) -> None:
    try:
        writers, running = killed_in_rounds(open_home, rounds, seed=rounds)
        assert all(writer.refusals == [] for writer in writers)
        assert sum(len(writer.acknowledged) for writer in writers) > 5 * rounds
        assert sum(writer.resent for writer in writers) > 0
        for solo in {writer.solo for writer in writers}:
            stored = running.ask(f"/api/solos/{solo}")
            notes = {note["id"]: note for note in stored["solo"]["notes"]}
            of_here = [writer for writer in writers if writer.solo == solo]
            for writer in of_here:
                own = [i for i in notes if i.startswith(f"s{writer.string}n")]
                assert sorted(own) == sorted(writer.acknowledged)
                assert notes[f"counter{writer.string}"]["fret"] == len(writer.acknowledged) % 20 * 100
            edits = sum(len(writer.acknowledged) + 1 for writer in of_here)
            assert stored["versions"][solo] == edits
            assert running.ask(f"/api/solos/{solo}/document.json")["solo"]["notes"] == stored["solo"]["notes"]
        running.stop()
    finally:
        Cluster(open_home).destroy()
