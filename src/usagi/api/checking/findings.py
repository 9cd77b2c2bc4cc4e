"""What does not agree in a solo: listed, drawn close, mended, waived."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.fingering.hand import HandSize
from usagi.core.listening.hints import Hints
from usagi.core.view.findings import CheckView, CloserView
from usagi.flows.checking.findings import check, closer, mend, take_up_again, waive
from usagi.flows.editing.accepting import Answer
from usagi.flows.setup.estimates import Estimate, ask_solo

router = APIRouter(prefix="/api")

FindingId = Annotated[str, Field(min_length=1, max_length=400)]


class ListenRequest(BaseModel):
    """What the teacher says of the recording, before the whole solo is listened to."""

    hints: Hints = Hints()


class FindingRequest(BaseModel):
    finding: FindingId
    hand: HandSize = HandSize.USUAL


class WaiveRequest(FindingRequest):
    reason: Annotated[str, Field(max_length=200)] = ""


class AgainRequest(BaseModel):
    waiver: Id


@router.get("/solos/{solo_id}/check")
def get_check(workspace: TheWorkspace, solo_id: UUID, hand: HandSize = HandSize.USUAL) -> CheckView:
    return check(workspace, solo_id, hand)


@router.post("/solos/{solo_id}/check/listen")
def post_check_listen(workspace: TheWorkspace, solo_id: UUID, body: ListenRequest) -> Estimate:
    return ask_solo(workspace, solo_id, body.hints)


@router.post("/solos/{solo_id}/check/closer")
def post_closer(workspace: TheWorkspace, solo_id: UUID, body: FindingRequest) -> CloserView:
    return closer(workspace, solo_id, body.finding, body.hand)


@router.post("/solos/{solo_id}/check/mended")
def post_mended(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: FindingRequest) -> Answer:
    return mend(workspace, solo_id, body.finding, body.hand, reader)


@router.post("/solos/{solo_id}/check/waived")
def post_waived(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: WaiveRequest) -> Answer:
    return waive(workspace, solo_id, body.finding, body.reason, body.hand, reader)


@router.post("/solos/{solo_id}/check/taken-up")
def post_taken_up(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: AgainRequest) -> Answer:
    return take_up_again(workspace, solo_id, body.waiver, reader)
