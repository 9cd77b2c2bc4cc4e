"""The phrases of a solo: shared with other solos, held against the melody."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.document.elements import FARTHEST, Tick
from usagi.flows.editing.accepting import Answer
from usagi.flows.licks.phrases import KinView, MelodyView, kin, lift_melody, mark_melody, read_melody

router = APIRouter(prefix="/api/solos/{solo_id}")
At = Annotated[int, Query(ge=-FARTHEST, le=FARTHEST)]


class MelodyRequest(BaseModel):
    """Whether the solo is the tune's melody."""

    on: bool


class LiftRequest(BaseModel):
    start: Tick
    end: Tick


class Lifted(BaseModel):
    solo_id: UUID


@router.get("/kin")
def get_kin(workspace: TheWorkspace, solo_id: UUID, start: At, end: At) -> list[KinView]:
    return kin(workspace, solo_id, start, end)


@router.get("/melody")
def get_melody(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> MelodyView:
    return read_melody(workspace, solo_id, reader)


@router.post("/melody")
def post_melody(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: MelodyRequest) -> Answer:
    return mark_melody(workspace, solo_id, on=body.on, reader=reader)


@router.post("/melody/lifted")
def post_lifted_melody(workspace: TheWorkspace, solo_id: UUID, body: LiftRequest) -> Lifted:
    return Lifted(solo_id=lift_melody(workspace, solo_id, body.start, body.end))
