"""Every end of a job is written: by a fault, without memory, under a database that stops, and by whoever finds it."""

from __future__ import annotations

import resource
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import pytest
from benchmarks.bands import band
from fastapi.testclient import TestClient

from conftest import reachable
from jobs.asking_workers import Working, ask, played, until, working_client
from usagi.cli.cluster import THROWAWAY, Cluster
from usagi.flows.listening import found as found_here
from usagi.flows.setup import estimates
from usagi.flows.workspace import Workspace
from usagi.store.database import create_database, migrate, transaction

SPARE_BYTES = 24_000_000
KINDS = {
    "beats": (found_here, "hear_beats"),
    "swing": (estimates, "hear_swing"),
    "chords": (estimates, "hear_chords"),
    "offset": (found_here, "measure_offset"),
}


@pytest.fixture
def working(dsn: str, tmp_path: Path) -> Iterator[Working]:
    with working_client(dsn, tmp_path / "cache") as found:
        yield found


def raised(fault: BaseException) -> Callable[..., Any]:
    def fails(*_: Any, **__: Any) -> Any:
        raise fault

    return fails


@pytest.mark.parametrize(
    ("fault", "words"), [(RuntimeError("no"), "That was our fault"), (MemoryError(), "not enough memory")]
)
def test_a_fault_in_any_kind_of_job_is_its_end(
    client: TestClient, workspace: Workspace, monkeypatch: pytest.MonkeyPatch, fault: Exception, words: str
) -> None:
    solo = played(client, band(5_200, 8.0))
    for kind, (module, function) in KINDS.items():
        estimate = ask(client, solo, kind)
        monkeypatch.setattr(module, function, raised(fault))
        estimates.work(workspace, UUID(estimate))
        found = client.get(f"/api/estimates/{estimate}").json()
        assert (found["state"], words in found["trouble"]) == ("failed", True), kind
    monkeypatch.undo()
    again = ask(client, solo, "offset")  # and it can be asked again
    estimates.work(workspace, UUID(again))
    assert client.get(f"/api/estimates/{again}").json()["state"] == "done"


def test_a_moment_of_sound_is_too_little_and_says_so(client: TestClient, workspace: Workspace) -> None:
    known = band(5_201, 8.0)
    solo = played(client, replace(known, sound=known.sound[:1]))
    for kind in KINDS:
        estimate = ask(client, solo, kind)
        estimates.work(workspace, UUID(estimate))
        found = client.get(f"/api/estimates/{estimate}").json()
        assert found["state"] == "failed" and "our fault" not in found["trouble"], found


def test_a_job_that_is_not_in_the_queue_any_more_is_ended_by_who_looks(
    client: TestClient, workspace: Workspace
) -> None:
    estimate = ask(client, played(client, band(5_202, 8.0)), "beats")
    with transaction(workspace.pool) as db:
        db.execute("DELETE FROM procrastinate_jobs WHERE args->>'estimate' = %s", (estimate,))
        db.execute("UPDATE estimate SET made_at = now() - interval '1 minute' WHERE id = %s", (estimate,))
    found = client.get(f"/api/estimates/{estimate}").json()
    assert (found["state"], found["trouble"]) == ("failed", estimates.ABANDONED)


def test_a_worker_without_memory_says_so(working: Working) -> None:
    """The worker may take little more than it has; the onsets of a long recording need more."""
    client, begin = working
    short, long = (played(client, band(5_203, seconds)) for seconds in (8.0, 90.0))
    process = begin()
    until(client, ask(client, short, "swing"), "done")  # everything that it needs is loaded
    size = int(Path(f"/proc/{process.pid}/statm").read_text().split()[0]) * resource.getpagesize()
    resource.prlimit(process.pid, resource.RLIMIT_AS, (size + SPARE_BYTES, size + SPARE_BYTES))
    assert until(client, ask(client, long, "swing"), "done", "failed")["trouble"] == estimates.NO_MEMORY
    assert until(client, ask(client, short, "swing"), "done", "failed")["state"] == "done"  # it works on


def test_after_the_database_was_stopped_five_times_every_job_still_ends(
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    cluster = Cluster(reachable(tmp_path_factory.mktemp("stopped")), THROWAWAY)
    try:
        dsn = create_database(cluster.start(), f"usagi_{uuid4().hex[:8]}")
        migrate(dsn)
        with working_client(dsn, tmp_path_factory.mktemp("cache")) as (client, begin):
            solo = played(client, band(5_204, 8.0))
            begin()
            until(client, ask(client, solo, "offset"), "done")
            for _ in range(5):
                cluster.stop()
                time.sleep(0.5)
                cluster.start()
                found = until(client, ask(client, solo, "offset"), "done", "failed", seconds=40)
                assert found["state"] == "done", found
    finally:
        cluster.destroy()
