"""The plan of a solo, and the teacher's remarks."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.document.elements import FARTHEST, Note
from usagi.core.document.teaching import (
    LEVELS,
    OnBar,
    OnNote,
    OnPhrase,
    Passes,
    PlanSettings,
    Practised,
    Speed,
    SpeedStep,
)
from usagi.core.fingering.hand import HandSize
from usagi.core.view.plan import PlanView
from usagi.flows.editing.accepting import Answer
from usagi.flows.practice.plan import (
    SecondWayView,
    add_group,
    change_line,
    drop_remark,
    move_line,
    offer_second_ways,
    put_remark,
    read_plan,
    set_plan,
    take_out,
)

router = APIRouter(prefix="/api/solos/{solo_id}")
Tick = Annotated[int, Query(ge=-FARTHEST, le=FARTHEST)]


class LineChange(BaseModel):
    """What of a line becomes otherwise; null leaves it to the plan, what is not named stays."""

    what: Practised
    name: Annotated[str, Field(max_length=120)] = ""
    start: Speed | None = None
    goal: Speed | None = None
    step: SpeedStep | None = None
    passes: Passes | None = None
    level: Annotated[int, Field(ge=1, le=LEVELS)] | None = None
    left_out: bool = False


class GroupRequest(BaseModel):
    """Notes to be practised by themselves: `[start, end)` in ticks."""

    start: Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]
    end: Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]
    name: Annotated[str, Field(max_length=120)] = ""


class LineRequest(BaseModel):
    what: Practised


class MoveRequest(BaseModel):
    what: Practised
    by: Annotated[int, Field(ge=-1_000, le=1_000)]


class RemarkRequest(BaseModel):
    """A new remark, or the one of an id in other words."""

    id: Id | None = None
    on: Annotated[OnNote | OnPhrase | OnBar, Field(discriminator="kind")]
    words: Annotated[str, Field(min_length=1, max_length=600)]
    second: Annotated[tuple[Note, ...], Field(max_length=200)] = ()


class RemarkGone(BaseModel):
    id: Id


@router.get("/plan")
def get_plan(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, hand: HandSize = HandSize.USUAL) -> PlanView:
    return read_plan(workspace, solo_id, hand, reader)


@router.post("/plan/line")
def post_line(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: LineChange) -> Answer:
    values = body.model_dump(exclude_unset=True, exclude={"what"})
    return change_line(workspace, solo_id, body.what, values, reader)


@router.post("/plan/groups")
def post_group(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: GroupRequest) -> Answer:
    return add_group(workspace, solo_id, body.start, body.end, body.name, reader)


@router.post("/plan/moved")
def post_moved(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: MoveRequest) -> Answer:
    return move_line(workspace, solo_id, body.what, body.by, reader)


@router.post("/plan/left-out")
def post_left_out(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: LineRequest) -> Answer:
    return take_out(workspace, solo_id, body.what, reader)


@router.post("/plan/settings")
def post_settings(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: PlanSettings) -> Answer:
    return set_plan(workspace, solo_id, body, reader)


@router.post("/remarks")
def post_remark(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: RemarkRequest) -> Answer:
    return put_remark(workspace, solo_id, body.id, body.on, body.words, body.second, reader)


@router.post("/remarks/deleted")
def post_remark_gone(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: RemarkGone) -> Answer:
    return drop_remark(workspace, solo_id, body.id, reader)


@router.get("/second-ways")
def get_second_ways(
    workspace: TheWorkspace,
    reader: TheReader,
    solo_id: UUID,
    start: Tick,
    end: Tick,
    hand: HandSize = HandSize.USUAL,
) -> list[SecondWayView]:
    return offer_second_ways(workspace, solo_id, start, end, hand, reader)
