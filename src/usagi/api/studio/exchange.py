"""Solos out as documents and tablature, and documents in."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import PlainTextResponse, Response

from usagi.api.bounds import read_document_file
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.flows.studio.exchange import Imported, export_json, export_tab, import_json

router = APIRouter(prefix="/api")


@router.get("/solos/{solo_id}/document.json", response_class=Response)
def get_document(workspace: TheWorkspace, solo_id: UUID) -> Response:
    headers = {"content-disposition": 'attachment; filename="solo.json"'}
    return Response(export_json(workspace, solo_id), media_type="application/json", headers=headers)


@router.get("/solos/{solo_id}/tab.txt", response_class=PlainTextResponse)
def get_tab(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> PlainTextResponse:
    headers = {"content-disposition": 'attachment; filename="solo.txt"'}
    return PlainTextResponse(export_tab(workspace, solo_id, school=reader.school, reader=reader), headers=headers)


@router.post("/documents")
def post_document(
    workspace: TheWorkspace, file: Annotated[UploadFile, File()], replace_ground: bool = False
) -> Imported:
    return import_json(workspace, read_document_file(file), replace_ground=replace_ground)
