"""Notes heard in a span: asked for, offered, taken, put right."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field, model_validator

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.chart.model import Id
from usagi.core.document.elements import Tick
from usagi.core.fingering.hand import HandSize
from usagi.core.listening.hints import Hints
from usagi.core.listening.mending import Mend
from usagi.core.view.offers import OffersView
from usagi.flows.editing.accepting import Answer
from usagi.flows.listening.corrections import Consent, consent, set_consent
from usagi.flows.listening.hearing import hints_before
from usagi.flows.listening.offers import (
    Asked,
    bend_as_heard,
    offer_all_again,
    say_no_note,
    see_offers,
    take_offers,
)
from usagi.flows.setup.estimates import Estimate, ask_notes

router = APIRouter(prefix="/api")


class Span(BaseModel):
    """A span of ticks, and what the teacher says of it."""

    start: Tick
    end: Tick
    hints: Hints = Hints()

    @model_validator(mode="after")
    def _rises(self) -> Span:
        if self.end <= self.start:
            raise ValueError("A span ends after it starts.")
        return self


class OffersRequest(Span):
    """A span that was listened to, with what was put right since."""

    mends: Annotated[list[Mend], Field(max_length=5_000)] = []
    hand: HandSize = HandSize.USUAL

    @property
    def asked(self) -> Asked:
        return Asked(self.start, self.end, self.hints, tuple(self.mends), self.hand)


class TakeRequest(OffersRequest):
    numbers: Annotated[list[int], Field(min_length=1, max_length=5_000)]


class NoNoteRequest(OffersRequest):
    """An offer that is no note; `id` is made by whoever says so, so that saying it twice is harmless."""

    number: Annotated[int, Field(ge=0, le=100_000)]
    id: UUID


class BendRequest(Span):
    note: Id


@router.get("/solos/{solo_id}/hints")
def get_hints(workspace: TheWorkspace, solo_id: UUID, start: Tick, end: Tick) -> Hints | None:
    return hints_before(workspace, solo_id, start, end)


@router.post("/solos/{solo_id}/listen")
def post_listen(workspace: TheWorkspace, solo_id: UUID, body: Span) -> Estimate:
    return ask_notes(workspace, solo_id, body.start, body.end, body.hints)


@router.post("/solos/{solo_id}/offers")
def post_offers(workspace: TheWorkspace, solo_id: UUID, body: OffersRequest) -> OffersView:
    return see_offers(workspace, solo_id, body.asked)


@router.post("/solos/{solo_id}/offers/taken")
def post_taken(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: TakeRequest) -> Answer:
    return take_offers(workspace, solo_id, body.asked, body.numbers, reader)


@router.post("/solos/{solo_id}/offers/no-note")
def post_no_note(workspace: TheWorkspace, solo_id: UUID, body: NoNoteRequest) -> OffersView:
    return say_no_note(workspace, solo_id, body.asked, body.number, body.id)


@router.post("/solos/{solo_id}/offers/all-again")
def post_all_again(workspace: TheWorkspace, solo_id: UUID, body: OffersRequest) -> OffersView:
    return offer_all_again(workspace, solo_id, body.asked)


@router.post("/solos/{solo_id}/bend-as-heard")
def post_bend_as_heard(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: BendRequest) -> Answer:
    return bend_as_heard(workspace, solo_id, Asked(body.start, body.end, body.hints), body.note, reader)


@router.get("/corrections")
def get_corrections(workspace: TheWorkspace) -> Consent:
    return consent(workspace)


@router.put("/corrections")
def put_corrections(workspace: TheWorkspace, body: Consent) -> Consent:
    return set_consent(workspace, body)
