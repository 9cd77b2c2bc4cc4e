"""The chart as it is stored (docs/model.md, Elements)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Annotated, Literal

from pydantic import Field, field_validator

from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.feel import Feel, FeelKind, SwingUnit
from usagi.core.meter.meters import Meter
from usagi.core.meter.ticks import EIGHTH, SIXTEENTH
from usagi.core.pitch.keys import Key, parse_key
from usagi.core.values import Value

Id = Annotated[str, Field(min_length=1, max_length=64)]
Times = Annotated[int, Field(ge=1, le=64)]


class MeterFact(Value):
    kind: Literal["meter"] = "meter"
    numerator: int
    denominator: int
    groups: tuple[int, ...] = ()

    @property
    def meter(self) -> Meter:
        return Meter(self.numerator, self.denominator, self.groups)

    @field_validator("groups")
    @classmethod
    def _add_up(cls, groups: tuple[int, ...], info: object) -> tuple[int, ...]:
        data: dict[str, int] = getattr(info, "data", {})
        if {"numerator", "denominator"} <= data.keys():
            Meter(data["numerator"], data["denominator"], groups)
        return groups


class KeyFact(Value):
    kind: Literal["key"] = "key"
    key: str

    @field_validator("key")
    @classmethod
    def _readable(cls, text: str) -> str:
        return str(parse_key(text))

    @property
    def value(self) -> Key:
        return parse_key(self.key)


class FeelFact(Value):
    kind: Literal["feel"] = "feel"
    feel: FeelKind
    unit: SwingUnit = SwingUnit.EIGHTH
    ratio: Annotated[float, Field(ge=1.0, le=3.0)] = 2.0

    @property
    def value(self) -> Feel:
        return Feel(self.feel, self.unit, self.ratio)


class BluesFact(Value):
    kind: Literal["blues"] = "blues"
    on: bool


Fact = Annotated[MeterFact | KeyFact | FeelFact | BluesFact, Field(discriminator="kind")]


class PlacedChord(Value):
    """A chord symbol, `place` ticks after its bar line, sounding `push` ticks earlier."""

    id: Id
    symbol: Annotated[str, Field(min_length=1, max_length=40)]
    place: Annotated[int, Field(ge=0)]
    push: Literal[0, 2520, 5040] = 0
    from_root: bool = False

    @field_validator("symbol")
    @classmethod
    def _readable(cls, symbol: str) -> str:
        parse_chord(symbol)
        return symbol


PUSHES: dict[str, Literal[0, 2520, 5040]] = {"": 0, "<": 5040, "<<": 2520}
assert PUSHES["<"] == EIGHTH and PUSHES["<<"] == SIXTEENTH


class ChartBar(Value):
    """One written bar. Without chords it holds the chord before it."""

    id: Id
    chords: tuple[PlacedChord, ...] = ()
    facts: tuple[Fact, ...] = ()


class Section(Value):
    """Bars under a name; with endings, pass n plays `bars` and then ending n."""

    id: Id
    name: Annotated[str, Field(max_length=60)] = ""
    bars: tuple[ChartBar, ...] = ()
    endings: tuple[tuple[ChartBar, ...], ...] = ()

    def written_bars(self) -> Iterator[ChartBar]:
        """All bars in the order of the text."""
        yield from self.bars
        for ending in self.endings:
            yield from ending

    def played_bars(self, time: int) -> list[ChartBar]:
        """The bars of pass `time` (from 1)."""
        ending = self.endings[min(time, len(self.endings)) - 1] if self.endings else ()
        return [*self.bars, *ending]


class FormEntry(Value):
    section: Id
    times: Times = 1


class ChartException(Value):
    """One bar that goes otherwise: in one chorus (or all: None), at a place of the form, in one pass."""

    id: Id
    chorus: Annotated[int, Field(ge=1, le=64)] | None = None
    place: Annotated[int, Field(ge=0)]
    time: Times = 1
    bar: Annotated[int, Field(ge=1)]  # of the pass, from 1
    does: Literal["replace", "add", "drop"] = "replace"
    with_bars: tuple[ChartBar, ...] = ()


def in_form_order(sections: Iterable[Section], form: Iterable[FormEntry]) -> tuple[Section, ...]:
    """Sections as the form first plays them, the unplayed after them: the order that facts are carried on in."""
    first: dict[str, int] = {}
    for place, entry in enumerate(form):
        first.setdefault(entry.section, place)
    return tuple(sorted(sections, key=lambda section: (first.get(section.id, len(first)), section.id)))


def in_place_order(exceptions: Iterable[ChartException]) -> tuple[ChartException, ...]:
    """Exceptions by where they stand."""
    return tuple(sorted(exceptions, key=lambda e: (e.place, e.time, e.bar, e.chorus or 0, e.does, e.id)))


class Chart(Value):
    sections: tuple[Section, ...] = ()
    form: tuple[FormEntry, ...] = ()
    choruses: Annotated[int, Field(ge=1, le=64)] = 1
    exceptions: tuple[ChartException, ...] = ()

    def section(self, section_id: str) -> Section:
        """Raises : KeyError, when no section has this id."""
        found = next((section for section in self.sections if section.id == section_id), None)
        if found is None:
            raise KeyError(section_id)
        return found
