"""The hand: ways through a span, bends out of reach, the hand map, and how another place sounds."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import BaseModel, Field

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.document.elements import Tick
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.hand_map import HandMap
from usagi.flows.editing.accepting import Answer
from usagi.flows.notes.fingering import TryPlace, Ways, map_of, pin, try_out, ways_of

router = APIRouter(prefix="/api/solos/{solo_id}")


class TryRequest(BaseModel):
    """A span, a speed in per mille, and other places for some of its notes."""

    start: Tick
    end: Tick
    speed: int = 1_000
    places: Annotated[list[TryPlace], Field(max_length=2_000)] = []


class PinRequest(BaseModel):
    notes: Annotated[list[Id], Field(max_length=20_000)]
    pinned: bool = True


@router.put("/pins")
def put_pins(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: PinRequest) -> Answer:
    return pin(workspace, solo_id, body.notes, pinned=body.pinned, reader=reader)


@router.get("/ways")
def get_ways(workspace: TheWorkspace, solo_id: UUID, start: Tick, end: Tick, hand: HandSize = HandSize.USUAL) -> Ways:
    return ways_of(workspace, solo_id, start, end, hand)


@router.get("/hand-map")
def get_hand_map(
    workspace: TheWorkspace, solo_id: UUID, start: Tick, end: Tick, hand: HandSize = HandSize.USUAL
) -> HandMap:
    return map_of(workspace, solo_id, start, end, hand)


@router.post("/try-out", response_class=Response)
def post_try_out(workspace: TheWorkspace, solo_id: UUID, body: TryRequest) -> Response:
    sound = try_out(workspace, solo_id, body.start, body.end, body.speed, body.places)
    return Response(sound, media_type="audio/wav")
