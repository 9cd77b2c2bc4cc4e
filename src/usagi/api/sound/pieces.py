"""Sound: the file with range requests, peaks, pieces, loops and count-ins."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Header, Query, Request
from fastapi.responses import Response, StreamingResponse
from pydantic import BaseModel, StringConstraints

from usagi.api.bounds import StateNumber
from usagi.api.sound.waiting import while_awaited
from usagi.api.workspace import TheWorkspace
from usagi.core.playing.ladder import Ladder, ladder
from usagi.core.playing.loops import Loop
from usagi.flows.sound.pieces import (
    Channels,
    Hear,
    Piece,
    count_in_sound,
    file_parts,
    loop_over,
    loop_phrase,
    moment,
    peaks,
    piece,
    the_recording,
)
from usagi.flows.workspace import Workspace

router = APIRouter(prefix="/api")
_RANGE = re.compile(r"bytes=(\d{0,15})-(\d{0,15})$")
STEP = 1 << 20
Ticket = Annotated[str, StringConstraints(pattern=r"^[0-9a-z-]{1,64}$")]


@router.get("/recordings/{recording_id}/peaks/{level}", response_class=Response)
def get_peaks(workspace: TheWorkspace, recording_id: UUID, level: int) -> Response:
    headers = {"cache-control": "max-age=31536000, immutable"}
    return Response(peaks(workspace, recording_id, level), media_type="application/octet-stream", headers=headers)


@router.get("/recordings/{recording_id}/file", response_class=Response)
def get_file(workspace: TheWorkspace, recording_id: UUID, range: Annotated[str | None, Header()] = None) -> Response:
    sound = the_recording(workspace, recording_id)
    size = sound.bytes or 0
    headers = {"accept-ranges": "bytes", "etag": f'"{sound.sha256}"'}
    asked = _RANGE.match(range or "")
    if asked is None or not any(asked.groups()):
        return StreamingResponse(_stream(workspace, recording_id, 0, size), media_type="application/octet-stream",
                                 headers=headers | {"content-length": str(size)})  # fmt: skip
    first, last = asked.groups()
    start = int(first) if first else max(0, size - int(last))
    end = min(size, int(last) + 1) if first and last else size
    if start >= end:
        return Response(status_code=416, headers={"content-range": f"bytes */{size}"})
    headers |= {"content-range": f"bytes {start}-{end - 1}/{size}", "content-length": str(end - start)}
    return StreamingResponse(_stream(workspace, recording_id, start, end), status_code=206,
                             media_type="application/octet-stream", headers=headers)  # fmt: skip


@router.get("/recordings/{recording_id}/moment", response_class=Response)
def get_moment(
    workspace: TheWorkspace, recording_id: UUID, second: Annotated[float, Query(ge=0, le=36_000, allow_inf_nan=False)]
) -> Response:
    """A moment of the decoded sound, to prove a place by ear."""
    return Response(moment(workspace, recording_id, second), media_type="audio/wav")


def _stream(workspace: Workspace, recording_id: UUID, start: int, end: int) -> Iterator[bytes]:
    for at in range(start, end, STEP):  # a connection for each step: a slow listener holds none
        yield from file_parts(workspace, recording_id, at, min(end, at + STEP))


@router.get("/solos/{solo_id}/piece", response_class=Response)
async def get_piece(
    request: Request,
    workspace: TheWorkspace,
    solo_id: UUID,
    start: int,
    end: int,
    speed: Annotated[int, Query(description="per mille")] = 1_000,
    cents: float = 0.0,
    channels: Channels = Channels.BOTH,
    loop: bool = False,
    tail: int = 0,
    clicks: bool = False,
    hear: Hear = Hear.RECORDING,
    number: Annotated[int | None, Query(ge=0, description="of a piece in a longer playing")] = None,
    ticket: Ticket | None = None,
    state: StateNumber | None = None,
) -> Response:
    """A piece of sound. It is made no further when the page goes away; `ticket` lets it ask how far it is.

    With a `number` it may end before `end`, where the next joins best; the header `usagi-end` says at which frame.
    """
    wanted = Piece(start, end, speed, cents, channels, loop, tail, clicks, hear, number)
    sound = await while_awaited(
        request, lambda gone: piece(workspace, solo_id, wanted, workspace.renders.watch(ticket, gone), state=state)
    )
    headers = {"cache-control": "no-cache", "usagi-end": str(sound.end)}
    return Response(sound.wav, media_type="audio/wav", headers=headers)


class RenderShare(BaseModel):
    """How much of a piece of sound is made, 0 to 1."""

    share: float


@router.get("/renders")
def get_render(workspace: TheWorkspace, ticket: Ticket) -> RenderShare:
    return RenderShare(share=workspace.renders.share(ticket))


@router.get("/solos/{solo_id}/count-in", response_class=Response)
def get_count_in(workspace: TheWorkspace, solo_id: UUID, tick: int, speed: int = 1_000) -> Response:
    return Response(count_in_sound(workspace, solo_id, tick, speed), media_type="audio/wav")


@router.get("/ladder")
def get_ladder(lowest: int, highest: int, step: int, passes: int) -> Ladder:
    """The rungs of a ladder; speeds in per mille."""
    return ladder(lowest, highest, step, passes)


@router.get("/solos/{solo_id}/loop")
def get_loop(workspace: TheWorkspace, solo_id: UUID, tick: int, end: int) -> Loop:
    return loop_over(workspace, solo_id, tick, end)


@router.get("/solos/{solo_id}/phrases/{phrase_id}/loop")
def get_phrase_loop(
    workspace: TheWorkspace, solo_id: UUID, phrase_id: str, exact: bool = False, state: StateNumber | None = None
) -> Loop:
    return loop_phrase(workspace, solo_id, phrase_id, exact=exact, state=state)
