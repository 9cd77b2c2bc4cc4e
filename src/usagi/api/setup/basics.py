"""Tempo, meter, key, feel, bars and instrument; credits and rig."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.flows.editing.accepting import Answer
from usagi.flows.setup.basics import Basics, change_basics
from usagi.flows.setup.credits import Sleeve, change_sleeve

router = APIRouter(prefix="/api/solos/{solo_id}")


@router.put("/basics")
def put_basics(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: Basics) -> Answer:
    return change_basics(workspace, solo_id, body, reader)


@router.put("/sleeve")
def put_sleeve(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: Sleeve) -> Answer:
    return change_sleeve(workspace, solo_id, body, reader)
