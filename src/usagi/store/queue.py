"""The queue of jobs: what is put into it goes with the transaction that it belongs to."""

from __future__ import annotations

from typing import Final
from uuid import UUID

from procrastinate import App, SyncPsycopgConnector

from usagi.store.database import Db

ESTIMATE: Final = "estimate"
QUEUE: Final = "estimates"
_app = App(connector=SyncPsycopgConnector())


def line_up(db: Db, studio: UUID, estimate: UUID, *, soon: bool = True) -> None:
    """Let a worker hear something; a rollback takes the job back, too.

    Jobs that are not wanted `soon` let others go first.
    """
    job = _app.configure_task(ESTIMATE, queue=QUEUE, connection=db, priority=0 if soon else -1)
    job.defer(studio=str(studio), estimate=str(estimate))
