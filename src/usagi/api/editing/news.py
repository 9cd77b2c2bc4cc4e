"""Server-sent events: that a document of an open solo has a new version. The page then asks for what it lacks."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Request
from fastapi.sse import EventSourceResponse
from pydantic import BaseModel

from usagi.api.workspace import TheWorkspace
from usagi.flows.editing.opening import documents_of
from usagi.store.news import News, NewVersion

router = APIRouter(prefix="/api/solos/{solo_id}")
MOST_WAITING = 1_000


class NewsOf(BaseModel):
    """A document that has a new version."""

    document: UUID
    version: int


def the_documents(workspace: TheWorkspace, solo_id: UUID) -> frozenset[UUID]:
    """The solo and its ground; asked for before the answer begins, so that a solo that is not there is a refusal."""
    return documents_of(workspace, solo_id)


@router.get("/news", response_class=EventSourceResponse)
async def get_news(
    request: Request, workspace: TheWorkspace, documents: Annotated[frozenset[UUID], Depends(the_documents)]
) -> AsyncIterator[NewsOf | None]:
    """Every new version of the solo or its ground, as it is stored; `null` when some may have been missed."""
    news: News = request.app.state.news
    loop = asyncio.get_running_loop()
    waiting: asyncio.Queue[NewVersion | None] = asyncio.Queue(MOST_WAITING)

    def hear(found: NewVersion | None) -> None:
        if found is None or (found.studio == workspace.scope.studio and found.document in documents):
            loop.call_soon_threadsafe(put, found)

    def put(found: NewVersion | None) -> None:
        if not waiting.full():  # whoever reads the first of a thousand asks for all that it lacks
            waiting.put_nowait(found)

    news.add(hear)
    try:
        while True:
            found = await waiting.get()
            yield None if found is None else NewsOf(document=found.document, version=found.version)
    finally:
        news.remove(hear)
