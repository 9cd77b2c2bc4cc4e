"""A solo on the bench: opening it, and edits of it and its ground."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from usagi.api.desk import TheDesk, TheReader
from usagi.core.chart.model import Id
from usagi.core.document.edits import Edit
from usagi.core.document.things import Tick
from usagi.flows.bench import Bench, open_bench
from usagi.flows.credits import Sleeve, change_sleeve
from usagi.flows.edits import Answer, accept_each
from usagi.flows.grid import lay_taps, put_bar
from usagi.flows.grounds import Basics, change_basics, change_chart, change_chord, read_draft
from usagi.flows.retuning import RetuningCard, retuning
from usagi.flows.undoing import redo, undo

MOST_VERSIONS = 2**31 - 1
StateNumber = Annotated[int, Query(ge=0, le=MOST_VERSIONS)]
BarNumber = Annotated[int, Path(ge=0, le=10_000)]

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


Second = Annotated[float, Field(ge=-3_600, le=36_000)]


class TapsRequest(BaseModel):
    """Seconds of the recording at which somebody tapped, once on every beat, the first at a tick."""

    taps: list[Second] = Field(max_length=10_000)
    tick: Tick = 0
    keep_seconds: bool = False


class BarRequest(BaseModel):
    """Where a bar starts; the bars after it move along."""

    second: Second
    keep_seconds: bool = False


class ChartRequest(BaseModel):
    text: str = Field(max_length=100_000)


class ChordRequest(BaseModel):
    """Another symbol: in one bar of the recording (`bar`), or wherever its bar is played (none)."""

    symbol: str = Field(max_length=40)
    bar: int | None = None


class ChartDraft(BaseModel):
    """The chart in force as text, and the writer's own text while that has faults."""

    text: str
    draft: str | None


@router.get("")
def get_bench(desk: TheDesk, reader: TheReader, solo_id: UUID, state: StateNumber | None = None) -> Bench:
    return open_bench(desk, solo_id, reader, state)


@router.post("/edits")
def post_edits(desk: TheDesk, reader: TheReader, solo_id: UUID, body: EditRequest) -> Answer:
    return accept_each(desk, solo_id, body.known, body.edits, reader)


@router.post("/undo")
def post_undo(desk: TheDesk, reader: TheReader, solo_id: UUID, body: UndoRequest) -> Answer:
    return undo(desk, solo_id, body.known, reader, rest=body.rest, act=body.act)


@router.post("/redo")
def post_redo(desk: TheDesk, reader: TheReader, solo_id: UUID, body: RedoRequest) -> Answer:
    return redo(desk, solo_id, body.known, reader, act=body.act)


@router.put("/basics")
def put_basics(desk: TheDesk, reader: TheReader, solo_id: UUID, body: Basics) -> Answer:
    return change_basics(desk, solo_id, body, reader)


@router.get("/retuning")
def get_retuning(
    desk: TheDesk,
    solo_id: UUID,
    tuning: Annotated[str | None, Query(max_length=100)] = None,
    capo: Annotated[int | None, Query(ge=0, le=12)] = None,
) -> RetuningCard:
    return retuning(desk, solo_id, tuning, capo)


@router.put("/taps")
def put_taps(desk: TheDesk, reader: TheReader, solo_id: UUID, body: TapsRequest) -> Answer:
    return lay_taps(desk, solo_id, body.taps, body.tick, keep_seconds=body.keep_seconds, reader=reader)


@router.put("/bars/{bar}")
def put_bar_line(desk: TheDesk, reader: TheReader, solo_id: UUID, bar: BarNumber, body: BarRequest) -> Answer:
    return put_bar(desk, solo_id, bar, body.second, keep_seconds=body.keep_seconds, reader=reader)


@router.put("/sleeve")
def put_sleeve(desk: TheDesk, reader: TheReader, solo_id: UUID, body: Sleeve) -> Answer:
    return change_sleeve(desk, solo_id, body, reader)


@router.get("/chart")
def get_chart(desk: TheDesk, solo_id: UUID) -> ChartDraft:
    text, draft = read_draft(desk, solo_id)
    return ChartDraft(text=text, draft=draft)


@router.put("/chart")
def put_chart(desk: TheDesk, reader: TheReader, solo_id: UUID, body: ChartRequest) -> Answer:
    return change_chart(desk, solo_id, body.text, reader)


@router.put("/chords/{chord_id}")
def put_chord(desk: TheDesk, reader: TheReader, solo_id: UUID, chord_id: str, body: ChordRequest) -> Answer:
    return change_chord(desk, solo_id, chord_id, body.symbol, body.bar, reader)
