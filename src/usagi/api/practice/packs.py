"""Loop packs: asked for, looked at like anything that a worker makes, fetched."""

from __future__ import annotations

from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import Response

from usagi.api.workspace import TheWorkspace
from usagi.flows.practice.packs import PackWanted, ask_pack, pack_file
from usagi.flows.setup.estimates import Estimate, look

router = APIRouter(prefix="/api")


@router.post("/solos/{solo_id}/loop-packs")
def post_loop_pack(workspace: TheWorkspace, solo_id: UUID, body: PackWanted) -> Estimate:
    return look(workspace, ask_pack(workspace, solo_id, body))


@router.get("/loop-packs/{pack_id}/file", response_class=Response)
def get_loop_pack(workspace: TheWorkspace, pack_id: UUID) -> Response:
    name, data = pack_file(workspace, pack_id)
    headers = {"content-disposition": f"attachment; filename=\"loop-pack.zip\"; filename*=UTF-8''{quote(name)}"}
    return Response(data, media_type="application/zip", headers=headers)
