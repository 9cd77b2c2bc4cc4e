"""The lick book: searched, licks kept, named, removed and restored, in and out as documents."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Query, Response, UploadFile
from pydantic import BaseModel, Field

from usagi.api.bounds import read_document_file
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.licks.searching import slot_of_word
from usagi.flows.licks import book
from usagi.flows.licks.book import Choices, FoundLick, FoundLicks, LickWords
from usagi.flows.licks.exchange import export_lick, import_lick
from usagi.store.found import Narrowed

router = APIRouter(prefix="/api/licks")
Name = Annotated[str, Field(max_length=120)]
Tags = Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=20)]
Place = Annotated[int | None, Query(ge=2, le=65)]
Word = Annotated[str | None, Query(max_length=200)]
Count = Annotated[int | None, Query(ge=1, le=1_000)]
Fret = Annotated[int | None, Query(ge=0, le=36)]
String = Annotated[int | None, Query(ge=1, le=8)]
Tempo = Annotated[float | None, Query(ge=1, le=1_000)]


class Narrowing(BaseModel):
    """What a search is narrowed to, as query parameters."""

    text: Annotated[str, Query(max_length=200)] = ""
    kept: bool = False
    motion: Word = None
    starts_at: Place = None
    ends_at: Place = None
    start_degree: Annotated[str | None, Query(max_length=4)] = None
    end_degree: Annotated[str | None, Query(max_length=4)] = None
    key: Annotated[int | None, Query(ge=0, le=11)] = None
    fewest: Count = None
    most: Count = None
    slowest: Tempo = None
    fastest: Tempo = None
    feel: Annotated[str | None, Query(max_length=20)] = None
    technique: Annotated[str | None, Query(max_length=40)] = None
    low_fret: Fret = None
    high_fret: Fret = None
    thin: String = None
    thick: String = None
    player: UUID | None = None
    tune: UUID | None = None
    tag: Annotated[str | None, Query(max_length=40)] = None
    words: Word = None
    skip: Annotated[int, Query(ge=0, le=100_000)] = 0

    def narrowed(self) -> Narrowed:
        own = self.model_dump(exclude={"text", "skip", "start_degree", "end_degree"})
        return Narrowed(
            **own,
            start_slot=None if not self.start_degree else slot_of_word(self.start_degree),
            end_slot=None if not self.end_degree else slot_of_word(self.end_degree),
        )


class KeepRequest(BaseModel):
    """The notes from one to another of a solo, kept under an id that the sender makes."""

    id: UUID
    solo: UUID
    first: Id
    last: Id
    name: Name = ""
    tags: Tags = ()
    words: Annotated[str, Field(max_length=2_000)] = ""


class WordsOfLick(BaseModel):
    version: Annotated[int, Field(ge=1, le=1_000_000)]
    name: Name = ""
    tags: Tags = ()
    words: Annotated[str, Field(max_length=2_000)] = ""


class VersionOfLick(BaseModel):
    version: Annotated[int, Field(ge=1, le=1_000_000)]


class RemovedLick(BaseModel):
    id: UUID
    version: int
    name: str


@router.get("")
def get_licks(workspace: TheWorkspace, reader: TheReader, asked: Annotated[Narrowing, Query()]) -> FoundLicks:
    return book.search(workspace, asked.text, asked.narrowed(), skip=asked.skip, reader=reader)


@router.get("/table.csv", response_class=Response)
def get_licks_table(workspace: TheWorkspace, reader: TheReader, asked: Annotated[Narrowing, Query()]) -> Response:
    data = book.found_table(workspace, asked.text, asked.narrowed(), reader=reader)
    headers = {"content-disposition": 'attachment; filename="licks.csv"'}
    return Response(data, media_type="text/csv", headers=headers)


@router.get("/choices")
def get_lick_choices(workspace: TheWorkspace) -> Choices:
    return book.choices(workspace)


@router.get("/removed")
def get_removed_licks(workspace: TheWorkspace) -> list[RemovedLick]:
    return [RemovedLick(id=one.id, version=one.version, name=one.name) for one in book.removed_licks(workspace)]


@router.get("/near/{span}")
def get_near_licks(workspace: TheWorkspace, reader: TheReader, span: int) -> FoundLicks:
    return book.nearest_to(workspace, span, reader)


@router.get("/spans/{span}")
def get_span(workspace: TheWorkspace, reader: TheReader, span: int) -> FoundLick:
    return book.span_of(workspace, span, reader)


@router.post("")
def post_lick(workspace: TheWorkspace, reader: TheReader, body: KeepRequest) -> FoundLick:
    said = LickWords(body.name, body.tags, body.words)
    return book.keep(workspace, body.id, body.solo, body.first, body.last, said, reader)


@router.post("/document")
def post_lick_document(
    workspace: TheWorkspace,
    reader: TheReader,
    file: Annotated[UploadFile, File()],
    id: UUID | None = None,
    again: bool = False,
) -> FoundLick:
    return import_lick(workspace, read_document_file(file), reader, lick_id=id, again=again)


@router.get("/{lick_id}")
def get_lick(workspace: TheWorkspace, reader: TheReader, lick_id: UUID) -> FoundLick:
    return book.lick_of(workspace, lick_id, reader)


@router.put("/{lick_id}")
def put_lick(workspace: TheWorkspace, reader: TheReader, lick_id: UUID, body: WordsOfLick) -> FoundLick:
    return book.say_of(workspace, lick_id, body.version, LickWords(body.name, body.tags, body.words), reader)


@router.post("/{lick_id}/remove", status_code=204)
def remove_lick(workspace: TheWorkspace, lick_id: UUID, body: VersionOfLick) -> None:
    book.remove(workspace, lick_id, body.version, removed=True)


@router.post("/{lick_id}/restore", status_code=204)
def restore_lick(workspace: TheWorkspace, lick_id: UUID, body: VersionOfLick) -> None:
    book.remove(workspace, lick_id, body.version, removed=False)


@router.get("/{lick_id}/document.json", response_class=Response)
def get_lick_document(workspace: TheWorkspace, lick_id: UUID) -> Response:
    return Response(
        export_lick(workspace, lick_id),
        media_type="application/json",
        headers={"content-disposition": 'attachment; filename="lick.json"'},
    )
