"""Server-sent events: that a document of an open solo has a new version. The page then asks for what it lacks."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Request
from fastapi.responses import StreamingResponse

from usagi.api.workspace import TheWorkspace
from usagi.flows.editing.opening import documents_of
from usagi.store.news import News, NewVersion

router = APIRouter(prefix="/api/solos/{solo_id}")
STILL_HERE_S = 10.0
MOST_WAITING = 1_000


Waiting = asyncio.Queue[NewVersion | None]


async def listening(request: Request, workspace: TheWorkspace, solo_id: UUID) -> AsyncIterator[Waiting]:
    """Hear of the solo and its ground before the answer begins: who sees it begin misses nothing.

    Raises : NotThere.
    """
    documents = await asyncio.to_thread(documents_of, workspace, solo_id)
    news: News = request.app.state.news
    loop = asyncio.get_running_loop()
    waiting: Waiting = asyncio.Queue(MOST_WAITING)

    def hear(found: NewVersion | None) -> None:
        if found is None or (found.studio == workspace.scope.studio and found.document in documents):
            loop.call_soon_threadsafe(put, found)

    def put(found: NewVersion | None) -> None:
        if not waiting.full():  # whoever reads the first of a thousand asks for all that it lacks
            waiting.put_nowait(found)

    news.add(hear)
    try:
        yield waiting
    finally:
        news.remove(hear)


@router.get(
    "/news",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}},
)
async def get_news(waiting: Annotated[Waiting, Depends(listening)]) -> StreamingResponse:
    """Every new version of the solo or its ground, as it is stored; `null` when some may have been missed."""

    async def events() -> AsyncIterator[str]:
        yield ": here\n\n"
        while True:
            try:
                found = await asyncio.wait_for(waiting.get(), STILL_HERE_S)
            except TimeoutError:
                yield ": still here\n\n"
                continue
            body = None if found is None else {"document": str(found.document), "version": found.version}
            yield f"data: {json.dumps(body)}\n\n"

    return StreamingResponse(events(), media_type="text/event-stream", headers={"cache-control": "no-store"})
