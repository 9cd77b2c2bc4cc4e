"""News of new versions: what any server stored, every server hears, through the database's own notices."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID

import psycopg

from usagi.store.documents import CHANNEL

log = logging.getLogger("usagi")
LOOK_S = 0.5  # how often the listener looks whether it is to stop
AGAIN_S = 1.0


@dataclass(frozen=True, slots=True)
class NewVersion:
    studio: UUID
    document: UUID
    version: int


Hearer = Callable[[NewVersion | None], None]


class News:
    """Listens in a thread of its own and tells all hearers; None when some may have been missed."""

    def __init__(self, dsn: str) -> None:
        self._dsn = dsn
        self._hearers: set[Hearer] = set()
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="news", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        self._thread.join(10)

    def add(self, hearer: Hearer) -> None:
        with self._lock:
            self._hearers.add(hearer)

    def remove(self, hearer: Hearer) -> None:
        with self._lock:
            self._hearers.discard(hearer)

    def _tell(self, news: NewVersion | None) -> None:
        with self._lock:
            hearers = list(self._hearers)
        for hearer in hearers:
            hearer(news)

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                with psycopg.connect(self._dsn, autocommit=True) as db:
                    db.execute(psycopg.sql.SQL("LISTEN {}").format(psycopg.sql.Identifier(CHANNEL)))
                    self._tell(None)
                    while not self._stop.is_set():
                        for notice in db.notifies(timeout=LOOK_S, stop_after=1):
                            studio, document, version = notice.payload.split()
                            self._tell(NewVersion(UUID(studio), UUID(document), int(version)))
            except psycopg.OperationalError:
                self._stop.wait(AGAIN_S)  # the database is away; whoever listens asks anew when it is back
