"""Keeps the index of phrases up to date beside the jobs: what was changed is read anew, soon after the last key."""

from __future__ import annotations

import logging
import threading
import time
from typing import Final

from usagi.core.errors import UsagiError
from usagi.flows.licks.indexing import index_stale
from usagi.flows.players.portraits import count_cells
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.store.database import Pool, transaction
from usagi.store.found import studios_with_solos
from usagi.store.news import News, NewVersion
from usagi.store.studios import Scope

log = logging.getLogger("usagi")
SETTLE_S: Final = 0.25  # after an edit others may follow
LOOK_S: Final = 20.0  # without news it is looked all the same
REST: Final = 2.0  # times what the last round took, so that it never takes more than a third of a core


class Indexer:
    """A thread of its own that listens for new versions."""

    def __init__(self, dsn: str, pool: Pool, cache: Cache, nobody: Scope) -> None:
        self._pool, self._cache, self._nobody = pool, cache, nobody
        self._news = News(dsn)
        self._awake, self._ended = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._run, name="index", daemon=True)

    def start(self) -> None:
        self._news.add(self._heard)
        self._news.start()
        self._thread.start()

    def stop(self) -> None:
        self._ended.set()
        self._awake.set()
        self._news.stop()
        self._thread.join(10)

    def _heard(self, _: NewVersion | None) -> None:
        self._awake.set()

    def _run(self) -> None:
        while not self._ended.is_set():
            self._awake.clear()
            begin = time.monotonic()
            try:
                self._round()
            except UsagiError:  # the database is away; it is looked again
                log.warning("The index could not be brought up to date; it is tried again.")
            except Exception:
                log.exception("A solo could not be read for the index.")
            self._ended.wait(min(LOOK_S, REST * (time.monotonic() - begin)))
            if self._awake.wait(LOOK_S):
                self._ended.wait(SETTLE_S)

    def _round(self) -> None:
        with transaction(self._pool) as db:
            studios = studios_with_solos(db)
        for studio in studios:
            workspace = Workspace(self._pool, Scope(studio, self._nobody.person), self._cache)
            index_stale(workspace)
            count_cells(workspace)
