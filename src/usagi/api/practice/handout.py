"""Handouts: the marks of each page, and PDF files."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query
from fastapi.responses import Response

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.fingering.hand import HandSize
from usagi.core.handout.marks import Handout, Paper
from usagi.core.handout.pages import Wanted
from usagi.flows.licks.pieces import Which
from usagi.flows.practice.handout import as_pdf, lick_sheet, solo_sheet

router = APIRouter(prefix="/api")
PDF = "application/pdf"


def the_wanted(
    paper: Paper = Paper.A4,
    large: bool = False,
    staff: bool = False,
    plan: bool = True,
    hand: HandSize = HandSize.USUAL,
) -> Wanted:
    """The settings of a handout: paper, type size, staff, plan, and the hand size that difficulty is rated for."""
    return Wanted(paper, large, staff, plan, hand)


def the_lick(
    lick: UUID | None = None,
    solo: UUID | None = None,
    first: Annotated[str, Query(max_length=64)] = "",
    last: Annotated[str, Query(max_length=64)] = "",
) -> Which:
    """A lick that is kept, or the notes of a solo from one to another."""
    return Which(lick, solo, first, last)


TheWanted = Annotated[Wanted, Depends(the_wanted)]
TheLick = Annotated[Which, Depends(the_lick)]


@router.get("/solos/{solo_id}/handout")
def get_handout(workspace: TheWorkspace, reader: TheReader, wanted: TheWanted, solo_id: UUID) -> Handout:
    return solo_sheet(workspace, solo_id, wanted, reader)


@router.get("/solos/{solo_id}/handout.pdf", response_class=Response)
def get_handout_pdf(workspace: TheWorkspace, reader: TheReader, wanted: TheWanted, solo_id: UUID) -> Response:
    return _file(as_pdf(solo_sheet(workspace, solo_id, wanted, reader)), "handout.pdf")


@router.get("/licks/handout")
def get_lick_sheet(workspace: TheWorkspace, reader: TheReader, wanted: TheWanted, which: TheLick) -> Handout:
    return lick_sheet(workspace, which, wanted, reader)


@router.get("/licks/handout.pdf", response_class=Response)
def get_lick_pdf(workspace: TheWorkspace, reader: TheReader, wanted: TheWanted, which: TheLick) -> Response:
    return _file(as_pdf(lick_sheet(workspace, which, wanted, reader)), "lick.pdf")


def _file(data: bytes, name: str) -> Response:
    return Response(data, media_type=PDF, headers={"content-disposition": f'attachment; filename="{name}"'})
