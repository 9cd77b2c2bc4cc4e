"""What is settled about a tune before its notes: sections, cues, recordings, strings, a tone to tune by."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel, Field

from usagi.api.bench import BarNumber
from usagi.api.desk import TheDesk, TheReader
from usagi.core.document.solo import Cue
from usagi.core.document.strings import SixString
from usagi.flows.edits import Answer
from usagi.flows.families import (
    FamilyRecording,
    PartNote,
    RecordingFacts,
    describe_recording,
    family,
    other_part,
)
from usagi.flows.retuning import six_string_for, sounds_low_here
from usagi.flows.sections import WrittenForm, mark_bar, name_sections, order_form, pin_cues, read_form
from usagi.flows.sound import reference_tone
from usagi.store.recordings import Recording

router = APIRouter(prefix="/api")
Words = Annotated[str, Field(max_length=200)]


class SectionsRequest(BaseModel):
    """One section a line: a time and a name, or start second, end second and name in tab-separated columns."""

    text: str = Field(max_length=50_000)


class OrderRequest(BaseModel):
    """`verse 2, riff 4, verse`, or counts alone: `2-2-4-2`."""

    text: str = Field(max_length=5_000)


class CuesRequest(BaseModel):
    cues: list[Cue] = Field(max_length=1_000)


class MarkRequest(BaseModel):
    """A key from a bar on (`E minor`), or whether the section of that bar is blues; none leaves a thing."""

    key: Annotated[str, Field(min_length=1, max_length=40)] | None = None
    blues: bool | None = None


class SoundsLow(BaseModel):
    """A tuning that the written notes speak for, and why; none without evidence."""

    tuning: str | None
    sentence: str


class RecordingRequest(BaseModel):
    title: Words
    source: Words = ""
    year: Annotated[int, Field(ge=1860, le=2200)] | None = None
    take: Words = ""
    link: Annotated[str, Field(max_length=1_000)] = ""
    notes: Annotated[str, Field(max_length=5_000)] = ""


@router.get("/solos/{solo_id}/form")
def get_form_of_solo(desk: TheDesk, solo_id: UUID) -> WrittenForm:
    return read_form(desk, solo_id)


@router.get("/solos/{solo_id}/sections.tsv", response_class=PlainTextResponse)
def get_sections(desk: TheDesk, solo_id: UUID) -> PlainTextResponse:
    return _file(read_form(desk, solo_id).sections, "sections.tsv")


@router.get("/solos/{solo_id}/chart.txt", response_class=PlainTextResponse)
def get_chart_text(desk: TheDesk, solo_id: UUID) -> PlainTextResponse:
    return _file(read_form(desk, solo_id).chart, "chart.txt")


def _file(text: str, name: str) -> PlainTextResponse:
    return PlainTextResponse(text, headers={"content-disposition": f'attachment; filename="{name}"'})


@router.put("/solos/{solo_id}/sections")
def put_sections(desk: TheDesk, reader: TheReader, solo_id: UUID, body: SectionsRequest) -> Answer:
    return name_sections(desk, solo_id, body.text, reader)


@router.put("/solos/{solo_id}/order")
def put_order(desk: TheDesk, reader: TheReader, solo_id: UUID, body: OrderRequest) -> Answer:
    return order_form(desk, solo_id, body.text, reader)


@router.put("/solos/{solo_id}/cues")
def put_cues(desk: TheDesk, reader: TheReader, solo_id: UUID, body: CuesRequest) -> Answer:
    return pin_cues(desk, solo_id, body.cues, reader)


@router.put("/solos/{solo_id}/bars/{bar}/facts")
def put_bar_facts(desk: TheDesk, reader: TheReader, solo_id: UUID, bar: BarNumber, body: MarkRequest) -> Answer:
    return mark_bar(desk, solo_id, bar, key=body.key, blues=body.blues, reader=reader)


@router.get("/solos/{solo_id}/family")
def get_family(desk: TheDesk, solo_id: UUID) -> list[FamilyRecording]:
    return family(desk, solo_id)


@router.get("/solos/{solo_id}/parts/{other_id}")
def get_part(desk: TheDesk, solo_id: UUID, other_id: UUID) -> list[PartNote]:
    return other_part(desk, solo_id, other_id)


@router.put("/recordings/{recording_id}")
def put_recording(desk: TheDesk, recording_id: UUID, body: RecordingRequest) -> Recording:
    return describe_recording(desk, recording_id, RecordingFacts(**body.model_dump()))


@router.get("/solos/{solo_id}/tone", response_class=Response)
def get_tone(desk: TheDesk, solo_id: UUID, name: Annotated[str, Query(max_length=10)]) -> Response:
    """Three seconds of a plucked note at the pitch of the recording."""
    return Response(reference_tone(desk, solo_id, name), media_type="audio/wav", headers={"cache-control": "no-cache"})


@router.get("/solos/{solo_id}/sounds-low")
def get_sounds_low(desk: TheDesk, solo_id: UUID) -> SoundsLow:
    found = sounds_low_here(desk, solo_id)
    return SoundsLow(tuning=None, sentence="") if found is None else SoundsLow(**asdict(found))


@router.get("/solos/{solo_id}/six-string")
def get_six_string(desk: TheDesk, solo_id: UUID) -> SixString:
    return six_string_for(desk, solo_id)
