"""Keeps the index of phrases up to date beside the jobs: what was changed is read anew, soon after the last key.

Favourite cells take longer to count; they have a thread of their own, so that no phrase waits for them.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Final

from usagi.core.errors import UsagiError
from usagi.flows.licks.indexing import index_stale
from usagi.flows.players.cells import count_cells
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.store.database import Pool, transaction
from usagi.store.found import studios_with_solos
from usagi.store.news import News, NewVersion
from usagi.store.studios import Scope

log = logging.getLogger("usagi")
SETTLE_S: Final = 0.15  # after an edit others may follow
LOOK_S: Final = 20.0  # without news it is looked all the same
QUIET_S: Final = 2.0  # without anything read, before cells are counted
REST: Final = 1.0  # times what the last round took, so that neither takes more than half a core


class Indexer:
    """Two threads of its own: one listens for new versions, the other counts when something was read."""

    def __init__(self, dsn: str, pool: Pool, cache: Cache, nobody: Scope) -> None:
        self._pool, self._cache, self._nobody = pool, cache, nobody
        self._news = News(dsn)
        self._awake, self._read, self._ended = threading.Event(), threading.Event(), threading.Event()
        self._threads = [
            threading.Thread(target=self._index, name="index", daemon=True),
            threading.Thread(target=self._count, name="cells", daemon=True),
        ]

    def start(self) -> None:
        self._news.add(self._heard)
        self._news.start()
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        self._ended.set()
        self._awake.set()
        self._read.set()
        self._news.stop()
        for thread in self._threads:
            thread.join(10)

    def _heard(self, _: NewVersion | None) -> None:
        self._awake.set()

    def _index(self) -> None:
        while not self._ended.is_set():
            self._awake.clear()
            self._round(self._index_studio)
            if self._awake.wait(LOOK_S):
                self._ended.wait(SETTLE_S)

    def _count(self) -> None:
        self._read.set()  # what was read before this worker came
        while not self._ended.is_set():
            self._read.wait()
            while self._read.is_set() and not self._ended.is_set():
                self._read.clear()
                self._ended.wait(QUIET_S)
            self._round(count_cells)

    def _index_studio(self, workspace: Workspace) -> None:
        if index_stale(workspace):
            self._read.set()

    def _round(self, act: Callable[[Workspace], object]) -> None:
        """Run `act` on every studio, then rest."""
        begin = time.monotonic()
        try:
            with transaction(self._pool) as db:
                studios = studios_with_solos(db)
            for studio in studios:
                if not self._ended.is_set():
                    act(Workspace(self._pool, Scope(studio, self._nobody.person), self._cache))
        except UsagiError:  # the database is away; it is looked again
            log.warning("The index could not be brought up to date; it is tried again.")
        except Exception:
            log.exception("A solo could not be read for the index.")
        self._ended.wait(min(LOOK_S, REST * (time.monotonic() - begin)))
