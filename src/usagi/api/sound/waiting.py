"""Slow answers: the work ends when the page that asked has gone away."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from typing import TypeVar

from fastapi import Request

LOOK_S = 0.3
T = TypeVar("T")


async def while_awaited(request: Request, work: Callable[[Callable[[], bool]], T]) -> T:
    """The result of `work`, done in a thread; what it is given says whether the request has been given up."""
    gone = threading.Event()
    task = asyncio.create_task(asyncio.to_thread(work, gone.is_set))
    while not (await asyncio.wait({task}, timeout=LOOK_S))[0]:
        if await request.is_disconnected():
            gone.set()
    return task.result()
