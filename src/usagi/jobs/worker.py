"""A worker: it takes jobs from the queue until it is told to stop, and keeps the index of phrases up to date.

A worker that dies in the middle of a job leaves it marked as being done; the others see that its heart no longer beats
and put the job back. Work may be done twice, its result is written once.
"""

from __future__ import annotations

import asyncio
import logging
import os
import signal
import sys
import threading
from typing import Final
from uuid import UUID

import psycopg
from procrastinate import App, JobContext, PsycopgConnector, RetryStrategy
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Job, Status
from procrastinate.utils import utcnow

from usagi.flows.listening.hearing import warm
from usagi.flows.setup.estimates import end_abandoned, work
from usagi.flows.workspace import Workspace
from usagi.jobs.indexing import Indexer
from usagi.media.cache import Cache
from usagi.media.scratch import scratch_folder
from usagi.store.database import Pool, StoreAway, open_pool, transaction
from usagi.store.estimates import end
from usagi.store.queue import ESTIMATE, Lane
from usagi.store.studios import Scope

log = logging.getLogger("usagi")
HEARTBEAT_S: Final = 2.0
DEAD_S: Final = 8.0  # without a heartbeat
RESCUE_S: Final = 3.0
AGAIN_S: Final = 1.0
POLL_S: Final = 1.0  # the queue is looked at, too: what was announced while the database was away is not heard of
MOST_ATTEMPTS: Final = 3
GIVEN_UP: Final = f"{MOST_ATTEMPTS} workers ended on it, so it was given up."
NOBODY: Final = UUID(int=0)


def run_worker(dsn: str, *, with_parent: bool = False) -> None:
    """Work until SIGTERM, or until standard input ends, when that is a pipe from the process that started it."""
    if with_parent:
        threading.Thread(target=_end_with_parent, daemon=True).start()
    leaving = threading.Event()
    with scratch_folder() as folder:
        pool = open_pool(dsn, size=2 + len(Lane))
        cache = Cache(folder, 0)
        indexer = Indexer(dsn, pool, cache, Scope(NOBODY, NOBODY))
        indexer.start()
        try:
            asyncio.run(_keep_working(dsn, pool, cache, leaving))
        finally:
            indexer.stop()
            pool.close()


async def _keep_working(dsn: str, pool: Pool, cache: Cache, leaving: threading.Event) -> None:
    """Work, and begin again when the database was gone: the queue is listened to anew."""
    work_here = asyncio.current_task()
    assert work_here is not None

    def leave() -> None:
        leaving.set()
        work_here.cancel()

    for number in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(number, leave)
    try:
        while True:
            try:
                await _work(dsn, pool, cache, leaving)
            except (psycopg.Error, ConnectorException):
                log.warning("The database does not answer; the worker listens again when it is back.")
                await asyncio.sleep(AGAIN_S)
    except asyncio.CancelledError:
        if not leaving.is_set():
            raise


async def _work(dsn: str, pool: Pool, cache: Cache, leaving: threading.Event) -> None:
    app = App(connector=PsycopgConnector(conninfo=dsn, min_size=1, max_size=4 + len(Lane)))

    # A job that the database fell away from is tried again, as often as a job whose worker died.
    again = RetryStrategy(max_attempts=MOST_ATTEMPTS, wait=2, retry_exceptions=[StoreAway])

    @app.task(name=ESTIMATE, pass_context=True, retry=again)
    def estimate(context: JobContext, studio: str, estimate: str) -> None:
        work(Workspace(pool, Scope(UUID(studio), NOBODY), cache), UUID(estimate), leaving.is_set)

    async with app.open_async():
        threading.Thread(target=warm, daemon=True).start()  # what listens is loaded before it is asked for
        rescuing = asyncio.create_task(_rescue(app, pool))
        lanes = [asyncio.create_task(_lane(app, lane)) for lane in Lane]
        try:
            await asyncio.gather(*lanes)
        finally:
            rescuing.cancel()
            for lane in lanes:
                lane.cancel()
            await asyncio.gather(*lanes, return_exceptions=True)


async def _lane(app: App, lane: Lane) -> None:
    """Runs one job of each lane at a time, so a long job does not hold up other lanes."""
    await app.run_worker_async(
        queues=[lane],
        name=lane,
        concurrency=1,
        fetch_job_polling_interval=POLL_S,
        update_heartbeat_interval=HEARTBEAT_S,
        stalled_worker_timeout=DEAD_S,
        shutdown_graceful_timeout=1.0,
        delete_jobs="successful",
        install_signal_handlers=False,
    )


async def _rescue(app: App, pool: Pool) -> None:
    """Put back the jobs of workers that are gone; one that has killed three is given up."""
    while True:
        try:
            await rescue_once(app, pool)
        except Exception:
            log.warning("The queue could not be looked through; it is tried again.", exc_info=True)
        await asyncio.sleep(RESCUE_S)


async def rescue_once(app: App, pool: Pool) -> None:
    """Put back, or give up, every job whose worker's heart has stopped; end what has no job any more."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_S):
        await _put_back(app, job, pool)
    end_abandoned(pool)


async def _put_back(app: App, job: Job, pool: Pool) -> None:
    assert job.id is not None
    if job.attempts + 1 >= MOST_ATTEMPTS:
        await app.job_manager.finish_job(job, Status.FAILED, delete_job=False)
        with transaction(pool) as db:  # whoever waits for it is told
            end(
                db,
                UUID(str(job.task_kwargs["studio"])),
                UUID(str(job.task_kwargs["estimate"])),
                "failed",
                trouble=GIVEN_UP,
            )
    else:
        await app.job_manager.retry_job(job, retry_at=utcnow())


def _end_with_parent() -> None:
    """Wait for the end of standard input, past Python's buffer: who holds that breaks the end of the process."""
    while os.read(sys.stdin.fileno(), 1_024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)
