"""What is read of a solo: told, asked why, picked, put into words."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.document.elements import FARTHEST, RoleName
from usagi.core.view.analysis import AnalysisView, PhraseAnalysis, WhyView
from usagi.flows.analysis.reading import (
    cut_suggested,
    give_role,
    pick_reading,
    read_analysis,
    read_span,
    read_why,
    tell_phrase,
)
from usagi.flows.editing.accepting import Answer

router = APIRouter(prefix="/api")


class PickRequest(BaseModel):
    phrase: Id
    reading: Annotated[str, Field(min_length=1, max_length=120)]
    on: bool = True


class WordsRequest(BaseModel):
    """The teacher's words for a phrase; none of them leave it to the program."""

    phrase: Id
    words: Annotated[str, Field(max_length=2_000)] = ""


class RoleRequest(BaseModel):
    """The role that the teacher gives a note, and the degree of its goal; none leaves it to the program."""

    note: Id
    role: RoleName | None = None
    goal: Annotated[str, Field(max_length=8)] | None = None


@router.get("/solos/{solo_id}/analysis")
def get_analysis(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> AnalysisView:
    return read_analysis(workspace, solo_id, reader)


@router.get("/solos/{solo_id}/analysis/why")
def get_why(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, note: Annotated[Id, Query()]) -> WhyView:
    return read_why(workspace, solo_id, note, reader)


@router.get("/solos/{solo_id}/analysis/span")
def get_analysis_span(
    workspace: TheWorkspace,
    reader: TheReader,
    solo_id: UUID,
    start: Annotated[int, Query(ge=-FARTHEST, le=FARTHEST)],
    end: Annotated[int, Query(ge=-FARTHEST, le=FARTHEST)],
) -> PhraseAnalysis:
    return read_span(workspace, solo_id, start, end, reader)


@router.post("/solos/{solo_id}/analysis/phrases")
def post_phrases(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> Answer:
    return cut_suggested(workspace, solo_id, reader)


@router.post("/solos/{solo_id}/analysis/picked")
def post_picked(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: PickRequest) -> Answer:
    return pick_reading(workspace, solo_id, body.phrase, body.reading, on=body.on, reader=reader)


@router.post("/solos/{solo_id}/analysis/words")
def post_words(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: WordsRequest) -> Answer:
    return tell_phrase(workspace, solo_id, body.phrase, body.words, reader)


@router.post("/solos/{solo_id}/analysis/role")
def post_role(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: RoleRequest) -> Answer:
    return give_role(workspace, solo_id, body.note, body.role, body.goal, reader)
