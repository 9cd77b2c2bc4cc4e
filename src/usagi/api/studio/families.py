"""What is known of a recording, the other solos of its tune, and another part beside the one in hand."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.workspace import TheWorkspace
from usagi.flows.studio.families import (
    FamilyRecording,
    PartNote,
    RecordingFacts,
    describe_recording,
    family,
    other_part,
)
from usagi.store.recordings import Recording

router = APIRouter(prefix="/api")
Words = Annotated[str, Field(max_length=200)]


class RecordingRequest(BaseModel):
    title: Words
    source: Words = ""
    year: Annotated[int, Field(ge=1860, le=2200)] | None = None
    take: Words = ""
    link: Annotated[str, Field(max_length=1_000)] = ""
    notes: Annotated[str, Field(max_length=5_000)] = ""
    setting: Literal["", "studio", "live"] = ""


@router.get("/solos/{solo_id}/family")
def get_family(workspace: TheWorkspace, solo_id: UUID) -> list[FamilyRecording]:
    return family(workspace, solo_id)


@router.get("/solos/{solo_id}/parts/{other_id}")
def get_part(workspace: TheWorkspace, solo_id: UUID, other_id: UUID) -> list[PartNote]:
    return other_part(workspace, solo_id, other_id)


@router.put("/recordings/{recording_id}")
def put_recording(workspace: TheWorkspace, recording_id: UUID, body: RecordingRequest) -> Recording:
    return describe_recording(workspace, recording_id, RecordingFacts(**body.model_dump()))
