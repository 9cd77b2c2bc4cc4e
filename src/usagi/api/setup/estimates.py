"""What is heard in a recording: asked for, looked at, left."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.workspace import TheWorkspace
from usagi.flows.listening.found import EstimateKind
from usagi.flows.listening.recordings import look_first
from usagi.flows.setup.estimates import Estimate, OpenJob, ask, cancel, look, open_jobs

router = APIRouter(prefix="/api")
Bar = Annotated[int, Field(ge=0, le=10_000)]


class EstimateRequest(BaseModel):
    """What is to be heard, and between which bars; beats and offset are heard in the whole recording."""

    kind: Literal[EstimateKind.BEATS, EstimateKind.SWING, EstimateKind.CHORDS, EstimateKind.OFFSET]
    first_bar: Bar = 0
    last_bar: Bar = 10_000
    with_offset: bool = True  # reckon with how far the recording lies off


@router.post("/solos/{solo_id}/estimates")
def post_estimate(workspace: TheWorkspace, solo_id: UUID, body: EstimateRequest) -> Estimate:
    return ask(workspace, solo_id, body.kind, body.first_bar, body.last_bar, with_offset=body.with_offset)


@router.get("/solos/{solo_id}/estimates")
def get_open_jobs(workspace: TheWorkspace, solo_id: UUID) -> list[OpenJob]:
    """What is under way in a solo, for a page that is opened meanwhile."""
    return open_jobs(workspace, solo_id)


@router.post("/recordings/{recording_id}/first-look")
def post_first_look(workspace: TheWorkspace, recording_id: UUID) -> list[Estimate]:
    """Beat, offset, swing and chords of a recording, in this order; what is found or under way is not asked again."""
    return look_first(workspace, recording_id)


@router.get("/estimates/{estimate_id}")
def get_estimate(workspace: TheWorkspace, estimate_id: UUID) -> Estimate:
    return look(workspace, estimate_id)


@router.delete("/estimates/{estimate_id}")
def cancel_estimate(workspace: TheWorkspace, estimate_id: UUID) -> Estimate:
    return cancel(workspace, estimate_id)
