"""Solos out as files of every format and as pictures, and files in."""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Depends, File, Form, Query, UploadFile
from fastapi.responses import PlainTextResponse, Response

from usagi.api.bounds import read_document_file
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.document.elements import FARTHEST
from usagi.core.formats.files import Coming, Going
from usagi.core.formats.other_tabs.times import Lengths
from usagi.flows.editing.accepting import Answer
from usagi.flows.studio.exchange import ExportView, export_file, export_json, export_picture, export_tab, exports
from usagi.flows.studio.importing import Imported, ImportView, import_file, import_into, import_json, look_into
from usagi.media.pictures import What

router = APIRouter(prefix="/api")
Tick = Annotated[int, Query(ge=-FARTHEST, le=FARTHEST)]
MEDIA = {"svg": "image/svg+xml", "png": "image/png"}


def attached(data: bytes, name: str, media_type: str) -> Response:
    """A file to be kept, under a name in any letters."""
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(data, media_type=media_type, headers=headers)


def coming_in(
    part: Annotated[str | None, Form(max_length=200)] = None,
    lengths: Annotated[Lengths | None, Form()] = None,
    way: Annotated[int, Form(ge=0, le=9)] = 0,
) -> Coming:
    """The import options of the form."""
    return Coming(part=part or None, lengths=lengths, way=way)


MadeId = Annotated[UUID | None, Query(description="the id of the new solo, made by the sender")]
TheComing = Annotated[Coming, Depends(coming_in)]


@router.get("/solos/{solo_id}/document.json", response_class=Response)
def get_document(workspace: TheWorkspace, solo_id: UUID) -> Response:
    return attached(export_json(workspace, solo_id), "solo.json", "application/json")


@router.get("/solos/{solo_id}/tab.txt", response_class=PlainTextResponse)
def get_tab(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> PlainTextResponse:
    headers = {"content-disposition": 'attachment; filename="solo.txt"'}
    return PlainTextResponse(export_tab(workspace, solo_id, school=reader.school, reader=reader), headers=headers)


@router.get("/solos/{solo_id}/exports")
def get_exports(workspace: TheWorkspace, solo_id: UUID) -> list[ExportView]:
    return exports(workspace, solo_id)


@router.get("/solos/{solo_id}/exports/{name}", response_class=Response)
def get_export(
    workspace: TheWorkspace,
    reader: TheReader,
    solo_id: UUID,
    name: str,
    degrees: bool = False,
    as_played: bool = True,
) -> Response:
    how = Going(degrees=degrees, as_played=as_played, reader=reader, school=reader.school)
    data, kind = export_file(workspace, solo_id, name, how)
    return attached(data, f"solo{kind.endings[0]}", kind.media_type)


@router.get("/solos/{solo_id}/picture.{kind}", response_class=Response)
def get_picture(
    workspace: TheWorkspace,
    reader: TheReader,
    solo_id: UUID,
    kind: Literal["svg", "png"],
    start: Tick,
    end: Tick,
    what: What = "tab",
    title: Annotated[str, Query(max_length=120)] = "",
) -> Response:
    """What starts between two ticks as a picture, to be pasted into a document."""
    data = export_picture(workspace, solo_id, kind, what=what, span=(start, end), title=title, reader=reader)
    return attached(data, f"{'neck' if what == 'neck' else 'tablature'}.{kind}", MEDIA[kind])


@router.post("/documents")
def post_document(
    workspace: TheWorkspace,
    file: Annotated[UploadFile, File()],
    replace_ground: bool = False,
    solo: MadeId = None,
) -> Imported:
    return import_json(workspace, read_document_file(file), replace_ground=replace_ground, solo_id=solo)


@router.post("/imports/look")
def post_look(
    workspace: TheWorkspace,
    file: Annotated[UploadFile, File()],
    how: TheComing,
    into: Annotated[UUID | None, Form()] = None,
) -> ImportView:
    """What a file of another program would become; nothing is stored."""
    return look_into(workspace, read_document_file(file), file.filename or "", how, into)


@router.post("/imports")
def post_import(
    workspace: TheWorkspace, file: Annotated[UploadFile, File()], how: TheComing, solo: MadeId = None
) -> Imported:
    return import_file(workspace, read_document_file(file), file.filename or "", how, solo)


@router.post("/solos/{solo_id}/imports")
def post_import_into(
    workspace: TheWorkspace, reader: TheReader, solo_id: UUID, file: Annotated[UploadFile, File()], how: TheComing
) -> Answer:
    return import_into(workspace, solo_id, read_document_file(file), file.filename or "", how, reader)
