"""The grid: taps, and bars put by hand."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.bounds import BarNumber, Second
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.document.elements import Tick
from usagi.core.view.tempo import TempoView
from usagi.flows.editing.accepting import Answer
from usagi.flows.setup.grid import lay_taps, put_bar
from usagi.flows.setup.tempo import read_tempo

router = APIRouter(prefix="/api/solos/{solo_id}")


class TapsRequest(BaseModel):
    """Seconds of the recording at which somebody tapped, once on every beat, the first at a tick."""

    taps: list[Second] = Field(max_length=10_000)
    tick: Tick = 0
    keep_seconds: bool = False


class BarRequest(BaseModel):
    """Where a bar starts; the bars after it move along."""

    second: Second
    keep_seconds: bool = False


@router.get("/tempo")
def get_tempo(workspace: TheWorkspace, solo_id: UUID) -> TempoView:
    return read_tempo(workspace, solo_id)


@router.put("/taps")
def put_taps(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: TapsRequest) -> Answer:
    return lay_taps(workspace, solo_id, body.taps, body.tick, keep_seconds=body.keep_seconds, reader=reader)


@router.put("/bars/{bar}")
def put_bar_line(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, bar: BarNumber, body: BarRequest) -> Answer:
    return put_bar(workspace, solo_id, bar, body.second, keep_seconds=body.keep_seconds, reader=reader)
