"""The queue of jobs: what is put into it goes with the transaction that it belongs to."""

from __future__ import annotations

from enum import StrEnum
from typing import Final
from uuid import UUID

from procrastinate import App, SyncPsycopgConnector

from usagi.store.database import Db

ESTIMATE: Final = "estimate"
_app = App(connector=SyncPsycopgConnector())


class Lane(StrEnum):
    """Kinds of jobs, by how long a person can wait for them; a worker runs one job of each lane at a time."""

    FRONT = "estimates"  # somebody sits before the screen and waits for some seconds of sound
    WHOLE = "whole"  # a whole recording, or a whole solo
    MADE = "made"  # files, which may take minutes


def line_up(db: Db, studio: UUID, estimate: UUID, lane: Lane = Lane.FRONT, *, first: bool = False) -> None:
    """Queue a job within this transaction, so that a rollback removes it. `first` : ahead of the others in its lane."""
    job = _app.configure_task(ESTIMATE, queue=lane, connection=db, priority=1 if first else 0)
    job.defer(studio=str(studio), estimate=str(estimate))
