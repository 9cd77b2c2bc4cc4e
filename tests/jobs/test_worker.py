"""Real workers on a real database: what they hear, one that is killed, two that share, one that is told to stop."""

from __future__ import annotations

import asyncio
import io
import signal
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import numpy as np
import psycopg
import pytest
import soundfile
from benchmarks.bands import band
from fastapi.testclient import TestClient
from procrastinate import App, PsycopgConnector

from asking import bring, started
from jobs.asking_workers import Begin, Working, ask, played, until, workers, working_client
from usagi.jobs.worker import GIVEN_UP, rescue_once
from usagi.store.database import create_database, migrate, open_pool

DOING = "SELECT count(*) FROM procrastinate_jobs WHERE status = 'doing'"
# Workers whose heart beats and who are at another job than the one whose worker was killed.
BEATING = """
SELECT count(DISTINCT worker.id) FROM procrastinate_jobs AS job JOIN procrastinate_workers AS worker
    ON worker.id = job.worker_id
WHERE job.status = 'doing' AND worker.last_heartbeat > now() - interval '4 seconds'
    AND job.args->>'estimate' <> %(killed)s
"""
ITS_JOB = "SELECT status::text FROM procrastinate_jobs WHERE args->>'estimate' = %(estimate)s"
# A worker took the job some minutes ago and was never heard of again.
KILLED = """
WITH dead AS (
    INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '5 minutes') RETURNING id
)
UPDATE procrastinate_jobs SET status = 'doing', attempts = %(attempts)s, worker_id = (SELECT id FROM dead)
WHERE args->>'estimate' = %(estimate)s
"""


@pytest.fixture(scope="module")
def dsn_of_jobs(server_dsn: str) -> str:
    dsn = create_database(server_dsn, f"usagi_jobs_{uuid4().hex[:8]}")
    migrate(dsn)
    return dsn


@pytest.fixture(scope="module")
def at_work(dsn_of_jobs: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Working]:
    with working_client(dsn_of_jobs, tmp_path_factory.mktemp("cache")) as found:
        yield found


@pytest.fixture
def client(at_work: Working) -> TestClient:
    return at_work[0]


@pytest.fixture
def worker(dsn_of_jobs: str) -> Iterator[Begin]:
    with workers(dsn_of_jobs) as begin:
        yield begin


def test_a_worker_hears_beats_swing_chords_and_offset_and_says_where_nothing_is(client: TestClient, worker) -> None:
    known = band(5_100, 30.0, cents=20.0)
    solo = played(client, known)
    worker()
    found = {
        kind: until(client, ask(client, solo, kind), "done", "failed")
        for kind in ("beats", "swing", "chords", "offset")
    }
    assert {one["state"] for one in found.values()} == {"done"}, found
    heard = found["beats"]["found"]["paces"]
    names = [pace["name"] for pace in heard]
    assert (names[0], names[3]) == ("as heard", "twice as fast")
    assert set(names[1:3]) == {"half as fast", "half as fast, the other beats"}  # the fuller first
    assert heard[0]["bpm"] == pytest.approx(60 / np.median(np.diff(known.beats)), rel=0.02)
    assert found["swing"]["found"]["ratio"] == pytest.approx(known.swing, abs=0.15)
    assert abs(found["offset"]["found"]["cents"] - 20) < 3
    bars = found["chords"]["found"]["bars"]
    assert bars[0]["bar"] == 1 and bars[0]["now"] and len(bars[0]["offers"]) == 3
    assert all(bar["suggested"] == (bar["offers"][0] if bar["offers"][0]["belief"] >= 0.25 else None) for bar in bars)
    assert all(one["share"] == 1 for one in found.values())
    out = io.BytesIO()
    soundfile.write(out, np.zeros(48_000 * 9), 48_000, format="WAV")
    recording = bring(client, "silence.wav", out.getvalue()).json()["recording"]["id"]
    silent = started(client, recording_id=recording)
    troubles = [until(client, ask(client, silent, kind), "failed")["trouble"] for kind in ("beats", "offset")]
    assert troubles == [
        "No beat is to be heard in this recording: tap it.",
        "Nothing in this recording has a pitch that could be measured.",
    ]


def test_a_job_whose_worker_is_killed_is_taken_up_and_two_share_the_work(
    client: TestClient, worker, dsn_of_jobs: str
) -> None:
    solo = played(client, band(5_101, 150.0))
    first = worker()
    estimate = ask(client, solo, "beats")
    until(client, estimate, "running")
    first.send_signal(signal.SIGKILL)
    first.wait()
    assert client.get(f"/api/estimates/{estimate}").json()["state"] == "running"
    worker(), worker()
    others = [ask(client, solo, "beats") for _ in range(6)]
    at_work = 0
    with psycopg.connect(dsn_of_jobs, autocommit=True) as db:
        end = time.monotonic() + 60
        while at_work < 2 and time.monotonic() < end:
            row = db.execute(BEATING, {"killed": estimate}).fetchone()
            at_work = 0 if row is None else row[0]
            time.sleep(0.02)
        found = [until(client, one, "done") for one in (estimate, *others)]
        assert at_work == 2
        end = time.monotonic() + 20  # a job is put aside a moment after its result is there
        while db.execute(DOING).fetchone() != (0,) and time.monotonic() < end:
            time.sleep(0.05)
        assert db.execute(DOING).fetchone() == (0,)
    assert len({str(one["found"]) for one in found}) == 1


def test_what_is_left_is_not_done(client: TestClient, worker) -> None:
    solo = played(client, band(5_103, 120.0))
    waiting = ask(client, solo, "beats")
    assert client.delete(f"/api/estimates/{waiting}").json()["state"] == "cancelled"
    running = ask(client, solo, "beats")
    worker()
    until(client, running, "running")
    assert client.delete(f"/api/estimates/{running}").json()["state"] == "cancelled"
    last = until(client, ask(client, solo, "swing"), "done")  # the queue goes on behind it
    assert last["found"]["count"] > 0
    for estimate in (waiting, running):
        assert client.get(f"/api/estimates/{estimate}").json() | {"share": 0} == {
            "id": estimate, "kind": "beats", "state": "cancelled", "share": 0, "found": None, "trouble": "",
        }  # fmt: skip


def test_who_waits_before_the_screen_is_served_while_a_long_pack_is_made(client: TestClient, worker) -> None:
    solo = played(client, band(5_106, 60.0))
    asked = {"span": [0, 20 * 40_320], "speeds": [600, 800, 1_000], "format": "mp3", "passes": 4, "voice": 0.5}
    answer = client.post(f"/api/solos/{solo}/loop-packs", json=asked)
    assert answer.status_code == 200, answer.text
    pack = answer.json()["id"]
    behind = client.post(f"/api/solos/{solo}/loop-packs", json=asked | {"speeds": [1_000]}).json()["id"]
    worker()
    until(client, pack, "running")
    notes = client.post(f"/api/solos/{solo}/listen", json={"start": 0, "end": 40_320}).json()["id"]
    beats = ask(client, solo, "beats")
    assert until(client, notes, "done")["share"] == 1
    going = client.get(f"/api/estimates/{pack}").json()
    assert going["state"] == "running", "the pack was made before the notes were heard: nothing waited"
    assert client.get(f"/api/estimates/{behind}").json()["state"] == "waiting"  # one of a lane at a time
    shares = set[float]()
    end = time.monotonic() + 60
    while len(shares) < 4 and time.monotonic() < end:
        shares.add(client.get(f"/api/estimates/{pack}").json()["share"])
        time.sleep(0.05)
    assert len(shares) >= 4  # it says more than which of its steps it is at
    assert client.delete(f"/api/estimates/{pack}").json()["state"] == "cancelled"
    until(client, behind, "running", seconds=20)
    for one in (behind, beats):
        client.delete(f"/api/estimates/{one}")


def test_without_a_recording_nothing_is_asked(client: TestClient) -> None:
    answer = client.post(f"/api/solos/{started(client)}/estimates", json={"kind": "beats"})
    assert answer.status_code == 404
    assert answer.json()["title"] == "There is no recording here in which anything could be heard."


def test_a_job_that_ends_three_workers_is_given_up_and_whoever_waits_is_told(
    client: TestClient, dsn_of_jobs: str
) -> None:
    """Its worker is one whose heart stopped long ago; its two rescues before this one are on record."""
    solo = played(client, band(5_104, 20.0))
    for attempts, state, status in ((1, "waiting", "todo"), (2, "failed", "failed")):
        estimate = ask(client, solo, "beats")
        with psycopg.connect(dsn_of_jobs, autocommit=True) as db:
            db.execute(KILLED, {"estimate": estimate, "attempts": attempts})
        with ThreadPoolExecutor() as apart:  # the browser tests leave a running loop in this thread
            apart.submit(asyncio.run, rescued(dsn_of_jobs)).result()
        found = client.get(f"/api/estimates/{estimate}").json()
        assert found["state"] == state
        assert found["trouble"] == (GIVEN_UP if state == "failed" else "")
        with psycopg.connect(dsn_of_jobs, autocommit=True) as db:
            assert db.execute(ITS_JOB, {"estimate": estimate}).fetchone() == (status,)
        client.delete(f"/api/estimates/{estimate}")


async def rescued(dsn: str) -> None:
    pool = open_pool(dsn, size=2)
    app = App(connector=PsycopgConnector(conninfo=dsn, min_size=1, max_size=2))
    async with app.open_async():
        await rescue_once(app, pool)
    pool.close()
