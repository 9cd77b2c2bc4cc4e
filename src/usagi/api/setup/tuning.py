"""Strings and tunings: the retuning card, a tone to tune by, what low notes speak for."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import BaseModel

from usagi.api.workspace import TheWorkspace
from usagi.core.document.strings import SixString
from usagi.flows.setup.tuning import RetuningCard, retuning, six_string_for, sounds_low_here
from usagi.flows.sound.pieces import reference_tone

router = APIRouter(prefix="/api/solos/{solo_id}")


class SoundsLow(BaseModel):
    """A tuning that the written notes speak for, and why; none without evidence."""

    tuning: str | None
    sentence: str


@router.get("/retuning")
def get_retuning(
    workspace: TheWorkspace,
    solo_id: UUID,
    tuning: Annotated[str | None, Query(max_length=100)] = None,
    capo: Annotated[int | None, Query(ge=0, le=12)] = None,
) -> RetuningCard:
    return retuning(workspace, solo_id, tuning, capo)


@router.get("/tone", response_class=Response)
def get_tone(workspace: TheWorkspace, solo_id: UUID, name: Annotated[str, Query(max_length=10)]) -> Response:
    """Three seconds of a plucked note at the pitch of the recording."""
    return Response(
        reference_tone(workspace, solo_id, name), media_type="audio/wav", headers={"cache-control": "no-cache"}
    )


@router.get("/sounds-low")
def get_sounds_low(workspace: TheWorkspace, solo_id: UUID) -> SoundsLow:
    found = sounds_low_here(workspace, solo_id)
    return SoundsLow(tuning=None, sentence="") if found is None else SoundsLow(**asdict(found))


@router.get("/six-string")
def get_six_string(workspace: TheWorkspace, solo_id: UUID) -> SixString:
    return six_string_for(workspace, solo_id)
