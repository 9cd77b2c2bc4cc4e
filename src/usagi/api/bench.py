"""A solo on the bench: opening it, and edits of it and its ground."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.desk import TheDesk, TheReader
from usagi.core.document.edits import Edit
from usagi.flows.bench import Bench, open_bench
from usagi.flows.edits import Answer, accept, redo, undo
from usagi.flows.grounds import Basics, change_basics, change_chart, change_chord, read_draft

MOST_VERSIONS = 2**31 - 1

router = APIRouter(prefix="/api/solos/{solo_id}")


class Versions(BaseModel):
    """The version of each document that the page knows."""

    versions: dict[UUID, Annotated[int, Field(ge=0, le=MOST_VERSIONS)]]

    @property
    def known(self) -> dict[str, int]:
        return {str(document): version for document, version in self.versions.items()}


class UndoRequest(Versions):
    """`rest` takes back what nobody changed since."""

    rest: bool = False


class EditRequest(Versions):
    edits: list[Edit] = Field(max_length=1_000)


class ChartRequest(BaseModel):
    text: str = Field(max_length=100_000)


class ChordRequest(BaseModel):
    """Another symbol: in one bar of the recording (`bar`), or wherever its bar is played (none)."""

    symbol: str = Field(max_length=40)
    bar: int | None = None


class ChartDraft(BaseModel):
    """The chart in force as text, and the writer's own text while that has faults."""

    text: str
    draft: str | None


@router.get("")
def get_bench(desk: TheDesk, reader: TheReader, solo_id: UUID) -> Bench:
    return open_bench(desk, solo_id, reader)


@router.post("/edits")
def post_edits(desk: TheDesk, reader: TheReader, solo_id: UUID, body: EditRequest) -> Answer:
    return accept(desk, solo_id, body.known, body.edits, reader)


@router.post("/undo")
def post_undo(desk: TheDesk, reader: TheReader, solo_id: UUID, body: UndoRequest) -> Answer:
    return undo(desk, solo_id, body.known, reader, rest=body.rest)


@router.post("/redo")
def post_redo(desk: TheDesk, reader: TheReader, solo_id: UUID, body: Versions) -> Answer:
    return redo(desk, solo_id, body.known, reader)


@router.put("/basics")
def put_basics(desk: TheDesk, reader: TheReader, solo_id: UUID, body: Basics) -> Answer:
    return change_basics(desk, solo_id, body, reader)


@router.get("/chart")
def get_chart(desk: TheDesk, solo_id: UUID) -> ChartDraft:
    text, draft = read_draft(desk, solo_id)
    return ChartDraft(text=text, draft=draft)


@router.put("/chart")
def put_chart(desk: TheDesk, reader: TheReader, solo_id: UUID, body: ChartRequest) -> Answer:
    return change_chart(desk, solo_id, body.text, reader)


@router.put("/chords/{chord_id}")
def put_chord(desk: TheDesk, reader: TheReader, solo_id: UUID, chord_id: str, body: ChordRequest) -> Answer:
    return change_chord(desk, solo_id, chord_id, body.symbol, body.bar, reader)
