"""An open solo: opening it, edits, undo and redo."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.bounds import MOST_VERSIONS, StateNumber
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.document.edits import Edit
from usagi.flows.editing.accepting import Answer, accept_each
from usagi.flows.editing.opening import Bench, open_bench
from usagi.flows.editing.undoing import redo, undo

router = APIRouter(prefix="/api/solos/{solo_id}")


class Versions(BaseModel):
    """The version of each document that the page knows."""

    versions: dict[UUID, Annotated[int, Field(ge=0, le=MOST_VERSIONS)]]

    @property
    def known(self) -> dict[str, int]:
        return {str(document): version for document, version in self.versions.items()}


class RedoRequest(Versions):
    """`act` is the id of the act that this makes: sent twice, it is done once."""

    act: Id | None = None


class UndoRequest(RedoRequest):
    """`rest` takes back what nobody changed since."""

    rest: bool = False


class EditRequest(Versions):
    edits: list[Edit] = Field(max_length=1_000)


@router.get("")
def get_bench(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, state: StateNumber | None = None) -> Bench:
    return open_bench(workspace, solo_id, reader, state)


@router.post("/edits")
def post_edits(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: EditRequest) -> Answer:
    return accept_each(workspace, solo_id, body.known, body.edits, reader)


@router.post("/undo")
def post_undo(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: UndoRequest) -> Answer:
    return undo(workspace, solo_id, body.known, reader, rest=body.rest, act=body.act)


@router.post("/redo")
def post_redo(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: RedoRequest) -> Answer:
    return redo(workspace, solo_id, body.known, reader, act=body.act)
