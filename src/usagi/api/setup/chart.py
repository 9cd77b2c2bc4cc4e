"""The chart as text, and single chords."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.bounds import BarNumber
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.view.sheet import Sheet
from usagi.flows.editing.accepting import Answer
from usagi.flows.setup.chart import change_chart, change_chord, read_draft, read_sheet, write_bar

router = APIRouter(prefix="/api/solos/{solo_id}")


class ChartRequest(BaseModel):
    text: str = Field(max_length=100_000)


class ChordRequest(BaseModel):
    """Another symbol: in one bar of the recording (`bar`), or wherever its bar is played (none)."""

    symbol: str = Field(max_length=40)
    bar: int | None = None


class SheetBarRequest(BaseModel):
    """The chords of one bar, without bar lines: in this bar alone, or `everywhere` that the form plays it."""

    text: str = Field(max_length=400)
    everywhere: bool = False


class ChartDraft(BaseModel):
    """The chart in force as text, and the writer's own text while that has faults."""

    text: str
    draft: str | None


@router.get("/chart")
def get_chart(workspace: TheWorkspace, solo_id: UUID) -> ChartDraft:
    text, draft = read_draft(workspace, solo_id)
    return ChartDraft(text=text, draft=draft)


@router.put("/chart")
def put_chart(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: ChartRequest) -> Answer:
    return change_chart(workspace, solo_id, body.text, reader)


@router.get("/sheet")
def get_sheet(workspace: TheWorkspace, solo_id: UUID) -> Sheet:
    return read_sheet(workspace, solo_id)


@router.put("/sheet/{bar}")
def put_sheet_bar(
    workspace: TheWorkspace, reader: TheReader, solo_id: UUID, bar: BarNumber, body: SheetBarRequest
) -> Answer:
    return write_bar(workspace, solo_id, bar, body.text, everywhere=body.everywhere, reader=reader)


@router.put("/chords/{chord_id}")
def put_chord(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, chord_id: str, body: ChordRequest) -> Answer:
    return change_chord(workspace, solo_id, chord_id, body.symbol, body.bar, reader)
