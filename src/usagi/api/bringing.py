"""Bringing recordings and starting solos; documents in and out."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel, Field

from usagi.api.desk import TheDesk, TheReader
from usagi.api.waiting import while_awaited
from usagi.core.fretboard.tunings import KNOWN
from usagi.core.pitch.keys import Mode
from usagi.flows.bring import Brought, NewSolo, bring_recording, check_tuning, start_solo
from usagi.flows.exchange import Imported, export_json, export_tab, import_json
from usagi.flows.grounds import Basics

router = APIRouter(prefix="/api")
MOST_DOCUMENT_BYTES = 50_000_000


class NewSoloRequest(BaseModel):
    tune: str = Field(min_length=1, max_length=200)
    title: str = Field(default="", max_length=200)
    player: str = Field(default="", max_length=200)
    recording_id: UUID | None = None
    chart: str = Field(default="", max_length=100_000)
    basics: Basics = Basics()


class Started(BaseModel):
    solo_id: UUID


class Offers(BaseModel):
    """What the forms offer to choose from."""

    tunings: list[str]
    modes: list[str]
    meters: list[str]


class TuningText(BaseModel):
    text: str = Field(max_length=100)


@router.get("/offers")
def get_offers() -> Offers:
    return Offers(
        tunings=list(KNOWN),
        modes=list(Mode),
        meters=["4/4", "3/4", "2/4", "5/4", "6/8", "9/8", "12/8", "7/8 2+2+3", "2/2"],
    )


@router.post("/check/tuning")
def post_check_tuning(body: TuningText) -> TuningText:
    return TuningText(text=check_tuning(body.text))


@router.post("/recordings")
async def post_recording(request: Request, desk: TheDesk, file: Annotated[UploadFile, File()]) -> Brought:
    """Take in a recording; when the page goes away meanwhile, the work ends and nothing is kept."""
    name = file.filename or "the file"
    return await while_awaited(request, lambda gone: bring_recording(desk, name, file.file, gone))


@router.post("/solos")
def post_solo(desk: TheDesk, body: NewSoloRequest) -> Started:
    new = NewSolo(
        tune=body.tune,
        title=body.title,
        player=body.player,
        basics=body.basics,
        chart=body.chart,
        recording_id=body.recording_id,
    )
    return Started(solo_id=start_solo(desk, new))


@router.get("/solos/{solo_id}/document.json", response_class=Response)
def get_document(desk: TheDesk, solo_id: UUID) -> Response:
    headers = {"content-disposition": 'attachment; filename="solo.json"'}
    return Response(export_json(desk, solo_id), media_type="application/json", headers=headers)


@router.get("/solos/{solo_id}/tab.txt", response_class=PlainTextResponse)
def get_tab(desk: TheDesk, reader: TheReader, solo_id: UUID) -> PlainTextResponse:
    headers = {"content-disposition": 'attachment; filename="solo.txt"'}
    return PlainTextResponse(export_tab(desk, solo_id, school=reader.school, reader=reader), headers=headers)


@router.post("/documents")
def post_document(desk: TheDesk, file: Annotated[UploadFile, File()], replace_ground: bool = False) -> Imported:
    return import_json(desk, file.file.read(MOST_DOCUMENT_BYTES), replace_ground=replace_ground)
