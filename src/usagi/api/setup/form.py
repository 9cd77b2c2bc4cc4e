"""Sections and their order, cues, keys and blues by bar."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from usagi.api.bounds import BarNumber
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.document.solo import Cue
from usagi.flows.editing.accepting import Answer
from usagi.flows.setup.sections import WrittenForm, mark_bar, name_sections, order_form, pin_cues, read_form

router = APIRouter(prefix="/api")


class SectionsRequest(BaseModel):
    """One section a line: a time and a name, or start second, end second and name in tab-separated columns."""

    text: str = Field(max_length=50_000)


class OrderRequest(BaseModel):
    """`verse 2, riff 4, verse`, or counts alone: `1-3-2`."""

    text: str = Field(max_length=5_000)


class CuesRequest(BaseModel):
    cues: list[Cue] = Field(max_length=1_000)


class MarkRequest(BaseModel):
    """A key from a bar on (`E minor`), or whether the section of that bar is blues; what is none stays."""

    key: Annotated[str, Field(min_length=1, max_length=40)] | None = None
    blues: bool | None = None


@router.get("/solos/{solo_id}/form")
def get_form_of_solo(workspace: TheWorkspace, solo_id: UUID) -> WrittenForm:
    return read_form(workspace, solo_id)


@router.get("/solos/{solo_id}/sections.tsv", response_class=PlainTextResponse)
def get_sections(workspace: TheWorkspace, solo_id: UUID) -> PlainTextResponse:
    return _file(read_form(workspace, solo_id).sections, "sections.tsv")


@router.get("/solos/{solo_id}/chart.txt", response_class=PlainTextResponse)
def get_chart_text(workspace: TheWorkspace, solo_id: UUID) -> PlainTextResponse:
    return _file(read_form(workspace, solo_id).chart, "chart.txt")


def _file(text: str, name: str) -> PlainTextResponse:
    return PlainTextResponse(text, headers={"content-disposition": f'attachment; filename="{name}"'})


@router.put("/solos/{solo_id}/sections")
def put_sections(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: SectionsRequest) -> Answer:
    return name_sections(workspace, solo_id, body.text, reader)


@router.put("/solos/{solo_id}/order")
def put_order(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: OrderRequest) -> Answer:
    return order_form(workspace, solo_id, body.text, reader)


@router.put("/solos/{solo_id}/cues")
def put_cues(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: CuesRequest) -> Answer:
    return pin_cues(workspace, solo_id, body.cues, reader)


@router.put("/solos/{solo_id}/bars/{bar}/facts")
def put_bar_facts(
    workspace: TheWorkspace, reader: TheReader, solo_id: UUID, bar: BarNumber, body: MarkRequest
) -> Answer:
    return mark_bar(workspace, solo_id, bar, key=body.key, blues=body.blues, reader=reader)
