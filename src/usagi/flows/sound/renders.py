"""Renders under way: how far each is, and whether anybody still waits for it."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from usagi.core.audio.vocoder import Report
from usagi.core.errors import UsagiError

MOST_TICKETS = 256


class NobodyWaits(UsagiError):
    """Whoever asked has gone away or asked for something else; the work ends."""

    code = "nobody-waits"


@dataclass
class Renders:
    """The share, 0 to 1, of what was asked for under each ticket; a ticket is made up by the page that asks."""

    _shares: OrderedDict[str, float] = field(default_factory=OrderedDict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def watch(self, ticket: str | None, gone: Callable[[], bool]) -> Report:
        """What a render tells its share to. It raises NobodyWaits when nobody does."""

        def report(share: float) -> None:
            if gone():
                raise NobodyWaits("Nobody waits for this sound any more.")
            if ticket is not None:
                with self._lock:
                    self._shares[ticket] = share
                    self._shares.move_to_end(ticket)
                    while len(self._shares) > MOST_TICKETS:
                        self._shares.popitem(last=False)

        return report

    def share(self, ticket: str) -> float:
        """How far a render is; 0 where nothing is known of it yet."""
        with self._lock:
            return self._shares.get(ticket, 0.0)
