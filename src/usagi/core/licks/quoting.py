"""Licks set over a form: where each goes, how they join, which order joins better, and the chorus that it makes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, permutations
from typing import Final

from usagi.core.document.elements import Note, Phrase, Rest
from usagi.core.document.lengths import with_length
from usagi.core.document.pitches import main_stage, stages
from usagi.core.document.solo import Ground, Solo, SoloSettings, Source
from usagi.core.document.writing import written
from usagi.core.errors import UsagiError
from usagi.core.harmony.heard import Heard
from usagi.core.harmony.tensions import available_tensions
from usagi.core.licks.alone import alone
from usagi.core.licks.joins import End, Join, hand_cost, judge
from usagi.core.phrases.elsewhere import Elsewhere, elsewhere
from usagi.core.phrases.piece import Piece
from usagi.core.phrases.transforming import FigureImpossible
from usagi.core.playing.timing import expected_seconds

MOST_ORDERED: Final = 7  # licks of which all orders are tried
MOST_LICKS: Final = 24
OFFERED: Final = 3
BETTER: Final = 0.02  # of the mean cost of a join, for an order that is worth offering


class QuoteImpossible(UsagiError):
    """Licks that cannot be set over a form."""

    code = "quote-impossible"


@dataclass(frozen=True)
class Wanted:
    """A lick that is to be set, where it comes from, and the bar where it begins; None: as soon as there is room."""

    piece: Piece
    source: Source
    bar: int | None = None


@dataclass(frozen=True)
class Set:
    """A lick as it is set: its notes on the form, and whether it left its place in the bar."""

    notes: tuple[Note, ...]
    source: Source
    bar: int
    moved: bool
    outside: int  # notes that neither the chord nor its tensions hold

    @property
    def start(self) -> int:
        return self.notes[0].tick

    @property
    def end(self) -> int:
        return max(note.end for note in self.notes)


@dataclass(frozen=True)
class Quote:
    """The licks as they are set, their joins (None where a gap of more than a bar is between), their mean cost."""

    sets: tuple[Set, ...]
    joins: tuple[Join | None, ...]
    cost: float
    solo: Solo
    ground: Ground
    says: tuple[str, ...]


@dataclass(frozen=True)
class Order:
    """A better order: the licks by their present places."""

    places: tuple[int, ...]
    cost: float


def quote(wanted: Sequence[Wanted], ground: Ground, new_id: Callable[[], str], title: str = "") -> Quote:
    """Set licks over a form one after the other, each in the form's key and at its own place in the bar.

    A lick begins in its bar, or in the first in which the one before has ended; what would overlap moves by whole
    pulses. Bars that are left out are rests.

    Raises : QuoteImpossible, FigureImpossible.
    """
    if not wanted:
        raise QuoteImpossible("There is no lick to set: add one.")
    if len(wanted) > MOST_LICKS:
        raise QuoteImpossible(f"A quote has {MOST_LICKS} licks at most; this one has {len(wanted)}.")
    setter = _Setter(ground)
    carried = [setter.carried(one) for one in wanted]
    laid = setter.lay(carried)
    joins = setter.joins(laid)
    sets = [setter.set(one) for one in laid]
    if sets[-1].end > ground.timeline.bars.end_tick:
        last = ground.timeline.bars.bars[-1].number
        raise QuoteImpossible(
            f"“{sets[-1].source.name or 'The last lick'}” would end after the last bar, {last}: take a longer form, "
            "or fewer licks."
        )
    solo = _assembled(sets, setter.settings, ground, new_id, title)
    return Quote(tuple(sets), tuple(joins), _mean(joins), solo, ground, tuple(setter.says))


def better_orders(wanted: Sequence[Wanted], ground: Ground) -> list[Order]:
    """Orders that join better, the best first; all of them are tried, up to seven licks.

    Bars that were asked for stay with their place in the row.
    """
    if not 2 <= len(wanted) <= MOST_ORDERED:
        return []
    setter = _Setter(ground)
    carried = [setter.carried(one) for one in wanted]
    bars = [one.bar for one in wanted]
    now = _mean(setter.joins(setter.lay(carried)))
    found = []
    for places in permutations(range(len(wanted))):
        row = [replace(carried[at], bar=bars[i]) if bars[i] != carried[at].bar else carried[at]
               for i, at in enumerate(places)]  # fmt: skip
        laid = setter.lay(row)
        if laid[-1].end <= ground.timeline.bars.end_tick:
            found.append(Order(places, _mean(setter.joins(laid))))
    best = sorted(found, key=lambda order: (order.cost, order.places))
    return [order for order in best if order.cost < now - BETTER][:OFFERED]


def _mean(joins: Sequence[Join | None]) -> float:
    costs = [join.cost for join in joins if join is not None]
    return round(sum(costs) / len(costs), 3) if costs else 0.0


@dataclass(frozen=True)
class _Carried:
    """A lick in the form's key, counted from the bar line before its first note."""

    number: int
    notes: tuple[Note, ...]
    source: Source
    bar: int | None
    first: float | None  # main pitches of the ends
    last: float | None
    last_tick: int
    end: int

    @property
    def offset(self) -> int:
        return self.notes[0].tick


@dataclass(frozen=True)
class _Laid:
    """Where a lick is laid: the bar that its bar line fell on, by how many ticks it went, and whether it was moved."""

    one: _Carried
    bar: int
    shift: int
    moved: bool

    @property
    def start(self) -> int:
        return self.one.offset + self.shift

    @property
    def end(self) -> int:
        return self.one.end + self.shift


class _Setter:
    """Sets licks over one form; what two licks ask of the hand is worked out once."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        self.settings = SoloSettings()
        self.says: list[str] = []
        self._count = 0
        self._hands: dict[tuple[int, int], float] = {}
        self._joins: dict[tuple[int, int, int, int, bool], Join] = {}

    def carried(self, one: Wanted) -> _Carried:
        """The lick alone, in the form's key where both are known, on the strings of the first one."""
        piece = alone(one.piece)
        if not self._count:
            self.settings = piece.solo.settings.model_copy(update={"title": "", "player": "", "credits": ()})
        key = self.ground.timeline.facts_at(0).key
        own = piece.ground.timeline.facts_at(0).key
        there = Elsewhere(
            key=key if own is not None else None,
            tuning=None if piece.solo.settings.tuning == self.settings.tuning else self.settings.tuning,
            capo=None if piece.solo.settings.capo == self.settings.capo else self.settings.capo,
        )
        name = one.source.name or f"lick {self._count + 1}"
        try:
            moved = elsewhere(piece.solo.notes, (), there, piece.solo.settings, piece.ground.timeline)
        except FigureImpossible as fault:
            raise QuoteImpossible(f"“{name}” cannot go into {key}: {fault.sentence}") from fault
        self.says += [f"“{name}”: {sentence}" for sentence in moved.says]
        self._count += 1
        last = _last(moved.notes)
        return _Carried(
            self._count,
            tuple(moved.notes),
            one.source,
            one.bar,
            self._pitch(moved.notes[0]),
            self._pitch(last),
            last.tick,
            max(note.end for note in moved.notes),
        )

    def _pitch(self, note: Note) -> float | None:
        main = main_stage(stages(note, self.settings))
        return None if main is None else main.midi

    def lay(self, carried: Sequence[_Carried]) -> list[_Laid]:
        found: list[_Laid] = []
        for one in carried:
            found.append(self._lay(one, found[-1].end if found else None))
        return found

    def _lay(self, one: _Carried, after: int | None) -> _Laid:
        bars = self.ground.timeline.bars
        number = one.bar or 1
        if one.bar is None and after is not None:
            number = max(1, bars.at(after - one.offset).number)
            while self._line(number) + one.offset < after:
                number += 1
        shift, moved = self._line(number), False
        while after is not None and shift + one.offset < after:
            shift += bars.at(shift + one.offset).pulse_at(shift + one.offset)[2]
            moved = True
        return _Laid(one, number, shift, moved)

    def _line(self, number: int) -> int:
        """The tick of a bar line; behind the last bar its meter goes on."""
        bars = self.ground.timeline.bars
        bar = bars.number(number)
        if bar is not None:
            return bar.counted_from
        last = bars.bars[-1]
        return last.end + (number - last.number - 1) * last.meter.bar_ticks

    def set(self, laid: _Laid) -> Set:
        notes = tuple(note.model_copy(update={"tick": note.tick + laid.shift}) for note in laid.one.notes)
        return Set(notes, laid.one.source, laid.bar, laid.moved, self._outside(notes))

    def _heard(self, tick: int) -> Heard | None:
        change = self.ground.timeline.chord_at(tick)
        return None if change is None else change.heard

    def _outside(self, notes: Sequence[Note]) -> int:
        count = 0
        for note in notes:
            pitch, heard = self._pitch(note), self._heard(note.tick)
            if pitch is not None and heard is not None:
                slot = (int(pitch // 1) - heard.root.pitch_class) % 12
                key = self.ground.timeline.facts_at(note.tick).key
                count += slot not in heard.names and slot not in available_tensions(heard, key)
        return count

    def joins(self, laid: Sequence[_Laid]) -> list[Join | None]:
        return [self._join(one, other) for one, other in pairwise(laid)]

    def _join(self, one: _Laid, other: _Laid) -> Join | None:
        bar = self.ground.timeline.bars.at(one.end).meter.bar_ticks
        if other.start - one.end > bar or one.one.last is None or other.one.first is None:
            return None
        before, after = self._heard(one.one.last_tick + one.shift), self._heard(other.start)
        known = (one.one.number, other.one.number, id(before), id(after), other.moved)
        if known not in self._joins:
            last, first = End(one.one.last, before), End(other.one.first, after)
            self._joins[known] = judge(last, first, self._hand(one, other), moved=other.moved)
        return self._joins[known]

    def _hand(self, one: _Laid, other: _Laid) -> float:
        known = (one.one.number, other.one.number)
        if known not in self._hands:
            notes = [*self.set(one).notes, *self.set(other).notes]
            solo = Solo(settings=self.settings, notes=tuple(notes))
            ticks = [note.tick for note in notes]
            seconds = dict(zip(ticks, expected_seconds(solo, self.ground, ticks), strict=True))
            before = len(one.one.notes)
            self._hands[known] = hand_cost(notes[:before], notes[before:], self.settings, seconds)
        return self._hands[known]


def _last(notes: Sequence[Note]) -> Note:
    """The last note to start, the highest of a stack."""
    tick = max(note.tick for note in notes)
    return min((note for note in notes if note.tick == tick), key=lambda note: note.string)


def _assembled(
    sets: Sequence[Set], settings: SoloSettings, ground: Ground, new_id: Callable[[], str], title: str
) -> Solo:
    """One chorus: the licks as phrases, rests where nothing sounds; what sounds into the next lick ends before it."""
    bars = ground.timeline.bars
    own = settings.model_copy(
        update={"title": title, "first_bar": 1, "last_bar": bars.bars[-1].number, "feel": None,
                "sources": tuple(one.source for one in sets)}
    )  # fmt: skip
    silent = tuple(Rest(id=new_id(), tick=bar.tick, ticks=bar.ticks) for bar in bars.bars)
    notes, phrases = [], []
    for i, one in enumerate(sets):
        until = sets[i + 1].start if i + 1 < len(sets) else one.end
        for note in one.notes:
            short = note if note.end <= until or note.tick >= until else with_length(note, until - note.tick)
            notes.append(short.model_copy(update={"id": new_id(), "stack": None, "heard": None}))
        phrases.append(
            Phrase(id=new_id(), start=one.start, end=min(one.end, max(until, one.start + 1)), name=one.source.name)
        )
    solo = written(Solo(settings=own, rests=silent), notes, new_id)
    return solo.model_copy(update={"phrases": tuple(phrases)})
