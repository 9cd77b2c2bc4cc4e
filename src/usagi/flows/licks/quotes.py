"""Licks set over a form: judged, heard, saved as a solo that names them."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID, uuid4

from usagi.core.chart.text import read_chart
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground, Source
from usagi.core.licks.joins import Join
from usagi.core.licks.quoting import Quote, Wanted, better_orders, quote
from usagi.core.meter.feel import Feel
from usagi.core.phrases.piece import Piece
from usagi.core.values import Value, one_line
from usagi.core.view.licks import LickDrawing
from usagi.flows.licks.carrying import Sounding, drawing_of, voice_of
from usagi.flows.licks.indexing import index_solo
from usagi.flows.licks.pieces import Which, take
from usagi.flows.setup.basics import Basics
from usagi.flows.studio.new_solo import NewSolo, new_ground, store_ground, store_solo
from usagi.flows.workspace import Workspace, new_id
from usagi.store import documents
from usagi.store.database import transaction
from usagi.store.studios import tune_titled


@dataclass(frozen=True, slots=True)
class Item:
    """A lick of a quote; `bar` is where it begins, None as soon as there is room."""

    which: Which
    bar: int | None = None


@dataclass(frozen=True, slots=True)
class QuoteRequest:
    """Licks in a row, a chart to set them over, a tempo and a feel as the chart's facts name it."""

    items: tuple[Item, ...]
    chart: str
    tempo_bpm: float
    feel: str = ""
    title: str = ""


class SetView(Value):
    """A lick where it is set, whether it left its place in the bar, how many notes lie outside the chords there."""

    name: str
    player: str
    bar: int
    tick: int
    moved: bool
    outside: int


class JoinView(Value):
    """What a join costs in per cent, and why; none is said of a gap of more than a bar."""

    cost: int
    says: str


class OrderView(Value):
    places: tuple[int, ...]
    cost: int


class QuoteView(Value):
    """A chorus: drawn whole, its licks and joins, its cost in per cent, better orders, and what was changed."""

    drawing: LickDrawing
    sets: tuple[SetView, ...]
    joins: tuple[JoinView | None, ...]
    cost: int
    orders: tuple[OrderView, ...]
    says: tuple[str, ...]


def quoted(workspace: Workspace, request: QuoteRequest, reader: Reader = Reader()) -> QuoteView:
    """Set licks over a form and judge their joins. Raises : ChartUnreadable, QuoteImpossible, NotThere."""
    wanted, ground = _wanted(workspace, request)
    made = quote(wanted, ground, new_id)
    return QuoteView(
        drawing=drawing_of(Piece(made.solo, made.ground), reader),
        sets=tuple(
            SetView(name=one.source.name, player=one.source.player, bar=one.bar, tick=one.start, moved=one.moved,
                    outside=one.outside)
            for one in made.sets
        ),
        joins=tuple(_join(one) for one in made.joins),
        cost=round(100 * made.cost),
        orders=tuple(OrderView(places=one.places, cost=round(100 * one.cost)) for one in better_orders(wanted, ground)),
        says=made.says,
    )  # fmt: skip


def _join(join: Join | None) -> JoinView | None:
    return None if join is None else JoinView(cost=round(100 * join.cost), says=join.says)


def hear_quote(workspace: Workspace, request: QuoteRequest, how: Sounding) -> bytes:
    """The chorus by the program's own guitar, as a WAV file. Raises : as `quoted`."""
    made = _made(workspace, request)
    return voice_of(workspace, Piece(made.solo, made.ground), f"quote {hash((made.solo.notes, request))}", how)


def save_quote(workspace: Workspace, request: QuoteRequest, solo_id: UUID) -> UUID:
    """The chorus as a solo of its own that names its licks; returns its id. Sent again, the same solo.

    Raises : as `quoted`.
    """
    made = _made(workspace, request)
    ground_id = uuid4()
    title = one_line(request.title) or "Quote"
    with transaction(workspace.pool) as db:
        if documents.made_before(db, workspace.scope, solo_id):
            return solo_id
        tune_id = tune_titled(db, workspace.scope, title)
        store_ground(db, workspace, ground_id, made.ground, tune_id, None)
        store_solo(db, workspace, solo_id, made.solo, made.ground, ground_id)
    index_solo(workspace, solo_id)
    return solo_id


def _made(workspace: Workspace, request: QuoteRequest) -> Quote:
    wanted, ground = _wanted(workspace, request)
    names = [one.source.name for one in wanted if one.source.name]
    return quote(wanted, ground, new_id, ", ".join(names)[:200])


def _wanted(workspace: Workspace, request: QuoteRequest) -> tuple[list[Wanted], Ground]:
    wanted = []
    for item in request.items:
        found = take(workspace, item.which)
        piece = found.piece
        name = found.name or _phrase_name(piece)
        own = "" if item.which.lick is None else str(item.which.lick)
        source = Source(
            lick=own or f"{item.which.first}"[:64], name=name[:200], player=piece.solo.settings.player,
            tune=found.tune[:200], bar=max(0, piece.ground.timeline.bars.at(piece.start).number),
        )  # fmt: skip
        wanted.append(Wanted(piece, source, item.bar))
    return wanted, form_ground(request.chart, request.tempo_bpm, request.feel)


def _phrase_name(piece: Piece) -> str:
    return next((phrase.name for phrase in piece.solo.phrases), "")


def form_ground(chart: str, tempo_bpm: float, feel: str) -> Ground:
    """A ground of a chart at a tempo, without a recording. Raises : ChartUnreadable, GridImpossible."""
    new = NewSolo("", "", "", Basics(tempo_bpm=tempo_bpm), chart)
    ground = new_ground(new, None)
    return ground if not feel else _felt(ground, feel)


def _felt(ground: Ground, feel: str) -> Ground:
    """The ground with one feel throughout, as chart text says it."""
    read = read_chart(f"| {{{feel}}} C |", new_id=new_id).chart
    fact = next(fact for bar in read.sections[0].bars for fact in bar.facts if fact.kind == "feel")
    assert isinstance(fact.value, Feel)
    sections = []
    for number, section in enumerate(ground.sections):
        bars = [
            bar.model_copy(update={"facts": tuple(one for one in bar.facts if one.kind != "feel")})
            for bar in section.bars
        ]
        if number == 0 and bars:
            bars[0] = bars[0].model_copy(update={"facts": (*bars[0].facts, fact)})
        sections.append(section.model_copy(update={"bars": tuple(bars)}))
    return ground.model_copy(update={"sections": tuple(sections)})
