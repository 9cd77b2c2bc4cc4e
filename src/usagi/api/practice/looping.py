"""The page that one plays from, and its sound."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import Response

from usagi.api.sound.pieces import Ticket
from usagi.api.sound.waiting import while_awaited
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.fingering.hand import HandSize
from usagi.core.meter.counting import School
from usagi.core.playing.vamp import VampStyle
from usagi.core.view.practice import PracticeView
from usagi.flows.practice.looping import practice_count_in, practice_piece, read_practice
from usagi.flows.sound.mixing import FARTHEST_KEY, Count, Mix
from usagi.flows.sound.pieces import Piece

router = APIRouter(prefix="/api/solos/{solo_id}/practice")
Level = Annotated[float, Query(ge=0, le=1)]


def the_mix(
    recording: Level = 1.0,
    voice: Level = 0.0,
    vamp: Level = 0.0,
    count: Count = Count.NONE,
    key: Annotated[int, Query(ge=-FARTHEST_KEY, le=FARTHEST_KEY, description="half steps")] = 0,
    vamp_style: VampStyle | None = None,
    over: Annotated[str, Query(max_length=40, description="a chord for the vamp instead of the chart")] = "",
    school: School = School.A,
) -> Mix:
    """What is heard together, and how loud each of it is."""
    return Mix(recording, voice, vamp, count, key, vamp_style, over.strip(), school)


TheMix = Annotated[Mix, Depends(the_mix)]


@router.get("")
def get_practice(
    workspace: TheWorkspace,
    reader: TheReader,
    solo_id: UUID,
    line: Annotated[str, Query(max_length=140)] = "whole",
    around: bool = False,
    hand: HandSize = HandSize.USUAL,
) -> PracticeView:
    return read_practice(workspace, solo_id, line, around=around, hand=hand, reader=reader)


@router.get("/piece", response_class=Response)
async def get_practice_piece(
    request: Request,
    workspace: TheWorkspace,
    mix: TheMix,
    solo_id: UUID,
    start: int,
    end: int,
    speed: Annotated[int, Query(description="per mille")] = 1_000,
    cents: float = 0.0,
    loop: bool = False,
    tail: int = 0,
    number: Annotated[int | None, Query(ge=0, description="of a piece in a longer playing")] = None,
    ticket: Ticket | None = None,
) -> Response:
    """A piece of the mixture; in a longer playing it is as long as it is asked for."""
    wanted = Piece(start, end, speed, cents, loop=loop, tail=tail, number=number)
    wav, last = await while_awaited(
        request, lambda gone: practice_piece(workspace, solo_id, wanted, mix, workspace.renders.watch(ticket, gone))
    )
    headers = {"cache-control": "no-cache", "usagi-end": str(last)}
    return Response(wav, media_type="audio/wav", headers=headers)


@router.get("/count-in", response_class=Response)
def get_practice_count_in(
    workspace: TheWorkspace, mix: TheMix, solo_id: UUID, tick: int, speed: int = 1_000
) -> Response:
    return Response(practice_count_in(workspace, solo_id, tick, speed, mix), media_type="audio/wav")
