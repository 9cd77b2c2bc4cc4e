"""Named versions of a solo, what differs between two states, and its earlier states."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.bounds import MOST_VERSIONS, StateNumber
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.phrases.simplified import Rule
from usagi.flows.editing.accepting import Answer
from usagi.flows.notes.versions import (
    Comparison,
    NewVersion,
    State,
    bring_across,
    compare_with,
    make_version,
    restore,
    states,
)

router = APIRouter(prefix="/api/solos/{solo_id}")


class VersionRequest(BaseModel):
    id: UUID | None = None
    name: Annotated[str, Field(min_length=1, max_length=200)]
    rules: Annotated[list[Rule], Field(max_length=len(Rule))] = []


class RestoreRequest(BaseModel):
    version: Annotated[int, Field(ge=0, le=MOST_VERSIONS)]


@router.post("/versions")
def post_version(workspace: TheWorkspace, solo_id: UUID, body: VersionRequest) -> NewVersion:
    return make_version(workspace, solo_id, body.name, tuple(body.rules), body.id)


@router.post("/bring-across")
def post_bring_across(workspace: TheWorkspace, reader: TheReader, solo_id: UUID) -> Answer:
    return bring_across(workspace, solo_id, reader)


@router.get("/compare")
def get_comparison(
    workspace: TheWorkspace, solo_id: UUID, other: UUID | None = None, version: StateNumber | None = None
) -> Comparison:
    """Beside another solo, or beside an earlier state of this one."""
    return compare_with(workspace, solo_id, other, version)


@router.get("/states")
def get_states(workspace: TheWorkspace, solo_id: UUID) -> list[State]:
    return states(workspace, solo_id)


@router.post("/restore")
def post_restore(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: RestoreRequest) -> Answer:
    return restore(workspace, solo_id, body.version, reader)
