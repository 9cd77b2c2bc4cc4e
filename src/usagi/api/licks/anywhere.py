"""Licks carried elsewhere and heard; licks set over a form."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.formats.files import Going, kind_named
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.licks.anywhere import Anywhere, LickFeel, Order
from usagi.core.phrases.elsewhere import Elsewhere, Quality
from usagi.core.phrases.transforming import Direction
from usagi.core.pitch.keys import parse_key
from usagi.flows.licks import carrying, quotes
from usagi.flows.licks.carrying import CarriedView, OptionsView, Part, Sounding, Twelve
from usagi.flows.licks.exchange import export_elsewhere
from usagi.flows.licks.pieces import Which
from usagi.flows.licks.quotes import Item, QuoteRequest, QuoteView

router = APIRouter(prefix="/api/licks")
String = Annotated[int, Field(ge=1, le=8)]


class LickMeant(BaseModel):
    """A lick that is kept, or the notes of a solo from one to another."""

    lick: UUID | None = None
    solo: UUID | None = None
    first: Annotated[str, Field(max_length=64)] = ""
    last: Annotated[str, Field(max_length=64)] = ""

    def which(self) -> Which:
        return Which(self.lick, self.solo, self.first, self.last)


class LickThere(BaseModel):
    """Where a lick is to go; what is left out stays."""

    key: Annotated[str, Field(max_length=40)] | None = None
    direction: Direction = Direction.NEAREST
    quality: Quality | None = None
    tuning: Annotated[str, Field(max_length=80)] | None = None
    strings: tuple[String, String] | None = None
    position: Annotated[int, Field(ge=0, le=36)] | None = None
    family: Annotated[str, Field(pattern="^[CAGED]$")] | None = None
    feel: LickFeel | None = None

    def anywhere(self) -> Anywhere:
        return Anywhere(
            Elsewhere(
                quality=self.quality,
                key=None if self.key is None else parse_key(self.key),
                direction=self.direction,
                tuning=None if self.tuning is None else parse_tuning(self.tuning).midi,
                strings=self.strings,
                position=self.position,
                family=self.family,
            ),
            self.feel,
        )


class CarryRequest(BaseModel):
    which: LickMeant
    there: LickThere = LickThere()


class FileRequest(CarryRequest):
    """`format` is the name of a kind of file; the document is a lick document."""

    format: Annotated[str, Field(max_length=20)] = "document"


class TwelveRequest(CarryRequest):
    order: Order = Order.FOURTHS


class SoundRequest(CarryRequest):
    """`recorded` is the lick's own sound, as it is; else the program's guitar plays it there, or in all keys."""

    recorded: bool = False
    twelve: Order | None = None
    speed: Annotated[int, Field(ge=250, le=1_250)] = 1_000
    clicks: bool = False
    chords: bool = False
    part: Part = Part.ALL
    vamp: bool = False
    over: Annotated[str, Field(max_length=40)] = ""

    def how(self) -> Sounding:
        return Sounding(self.speed, self.clicks, self.chords, self.part, self.vamp, self.over.strip())


class QuoteItem(BaseModel):
    which: LickMeant
    bar: Annotated[int, Field(ge=1, le=10_000)] | None = None


class QuoteBody(BaseModel):
    """Licks in a row over a chart, at a tempo; the feel as chart text says it, empty for the chart's own."""

    items: Annotated[tuple[QuoteItem, ...], Field(min_length=1, max_length=24)]
    chart: Annotated[str, Field(min_length=1, max_length=20_000)]
    tempo: Annotated[float, Field(ge=20, le=400)] = 120
    feel: Annotated[str, Field(max_length=40)] = ""
    title: Annotated[str, Field(max_length=120)] = ""

    def request(self) -> QuoteRequest:
        items = tuple(Item(one.which.which(), one.bar) for one in self.items)
        return QuoteRequest(items, self.chart, self.tempo, self.feel, self.title)


class HeardQuote(QuoteBody):
    speed: Annotated[int, Field(ge=250, le=1_250)] = 1_000
    clicks: bool = True
    chords: bool = False
    vamp: bool = False
    over: Annotated[str, Field(max_length=40)] = ""


class QuoteToSave(QuoteBody):
    """A quote that becomes a solo, under an id that the sender makes."""

    id: UUID


class SavedQuote(BaseModel):
    solo_id: UUID


def wav(data: bytes) -> Response:
    return Response(data, media_type="audio/wav", headers={"cache-control": "no-store"})


@router.post("/anywhere")
def post_anywhere(workspace: TheWorkspace, reader: TheReader, body: CarryRequest) -> CarriedView:
    return carrying.carried(workspace, body.which.which(), body.there.anywhere(), reader)


@router.post("/options")
def post_lick_options(workspace: TheWorkspace, body: CarryRequest) -> OptionsView:
    return carrying.asked_of(workspace, body.which.which(), body.there.anywhere())


@router.post("/twelve")
def post_twelve(workspace: TheWorkspace, reader: TheReader, body: TwelveRequest) -> Twelve:
    return carrying.twelve(workspace, body.which.which(), body.there.anywhere(), body.order, reader)


@router.post("/sound", response_class=Response)
def post_lick_sound(workspace: TheWorkspace, body: SoundRequest) -> Response:
    which, there, how = body.which.which(), body.there.anywhere(), body.how()
    if body.recorded:
        return wav(carrying.recorded(workspace, which, how))
    if body.twelve is not None:
        return wav(carrying.twelve_voiced(workspace, which, there, body.twelve, how))
    return wav(carrying.voiced(workspace, which, there, how))


@router.post("/document/elsewhere", response_class=Response)
def post_document_elsewhere(workspace: TheWorkspace, reader: TheReader, body: FileRequest) -> Response:
    """The lick as a file, where it goes."""
    kind = kind_named(body.format)
    how = Going(reader=reader, school=reader.school)
    data = export_elsewhere(workspace, body.which.which(), body.there.anywhere(), kind, how)
    headers = {"content-disposition": f'attachment; filename="lick{kind.endings[0]}"'}
    return Response(data, media_type=kind.media_type, headers=headers)


@router.post("/quote")
def post_quote(workspace: TheWorkspace, reader: TheReader, body: QuoteBody) -> QuoteView:
    return quotes.quoted(workspace, body.request(), reader)


@router.post("/quote/sound", response_class=Response)
def post_quote_sound(workspace: TheWorkspace, body: HeardQuote) -> Response:
    how = Sounding(body.speed, body.clicks, body.chords, vamp=body.vamp, over=body.over.strip())
    return wav(quotes.hear_quote(workspace, body.request(), how))


@router.post("/quote/solo")
def post_quote_solo(workspace: TheWorkspace, body: QuoteToSave) -> SavedQuote:
    return SavedQuote(solo_id=quotes.save_quote(workspace, body.request(), body.id))
