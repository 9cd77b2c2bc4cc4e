"""The two documents: a solo, and the ground that solos of one recording share (docs/model.md, Elements)."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated

from pydantic import Field, model_validator

from usagi.core.chart.model import Chart, ChartException, FormEntry, Id, Section
from usagi.core.chart.timeline import Timeline, unroll
from usagi.core.document.elements import (
    Choice,
    Dynamic,
    Note,
    Phrase,
    Question,
    Rest,
    Stack,
    Swell,
    Tick,
)
from usagi.core.document.teaching import PlanEntry, PlanSettings, Remark
from usagi.core.document.techniques import MOST_FRET
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tension import WOUND_KG_M3
from usagi.core.fretboard.tunings import FEWEST, HIGHEST_MIDI, LOWEST_MIDI, MOST, parse_tuning
from usagi.core.meter.feel import Feel, FeelKind, SwingUnit
from usagi.core.meter.grid import Grid
from usagi.core.meter.ticks import EIGHTH
from usagi.core.values import Value

STANDARD = parse_tuning("standard").midi
Words = Annotated[str, Field(max_length=200)]
OpenString = Annotated[int, Field(ge=LOWEST_MIDI, le=HIGHEST_MIDI)]


class SettingImpossible(UsagiError):
    """A setting of a solo or a ground that cannot be."""

    code = "setting-impossible"


class Credit(Value):
    """A claim: who plays what, according to whom, how sure; `picked` settles it over the others of its part."""

    who: Words
    part: Words = ""
    according_to: Words = ""
    sure: Annotated[float, Field(ge=0, le=1)] = 1.0
    picked: bool = False


class StringGauge(Value):
    gauge_inch: Annotated[float, Field(gt=0, le=0.2)]
    wound: bool = False


class RigRow(Value):
    name: Words
    value: Words


class OwnFeel(Value):
    """A solo's feel over the band's."""

    feel: FeelKind
    unit: SwingUnit = SwingUnit.EIGHTH
    ratio: Annotated[float, Field(ge=1.0, le=3.0)] = 2.0

    @property
    def value(self) -> Feel:
        return Feel(self.feel, self.unit, self.ratio)


class Parent(Value):
    """The document and version that a version of a solo was made from."""

    document: Id
    version: Annotated[int, Field(ge=0)]


class Source(Value):
    """A lick that a quote was put together from: its id where it was kept, its name, and whose it is."""

    lick: Id
    name: Words = ""
    player: Words = ""
    tune: Words = ""
    bar: Annotated[int, Field(ge=0, le=10_000)] = 1


class SoloSettings(Value):
    title: Words = ""
    player: Words = ""
    credits: Annotated[tuple[Credit, ...], Field(max_length=100)] = ()
    tuning: Annotated[tuple[OpenString, ...], Field(min_length=FEWEST, max_length=MOST)] = STANDARD
    capo: Annotated[int, Field(ge=0, le=12)] = 0
    gauges: Annotated[tuple[StringGauge, ...], Field(max_length=MOST)] = ()
    scale_length_mm: Annotated[float, Field(ge=300, le=1_000)] = 648.0
    wound_kg_m3: Annotated[float, Field(ge=4_000, le=9_000)] = WOUND_KG_M3  # an estimate of the wound strings' density
    strung_for: tuple[OpenString, ...] | None = None  # the tuning that the set is made for; none: the one in use
    last_fret: Annotated[int, Field(ge=12, le=36)] = 22
    rig: Annotated[tuple[RigRow, ...], Field(max_length=100)] = ()
    bottleneck: bool = False
    muted_behind: bool = True  # a finger lies on the strings behind the bottleneck
    first_bar: Annotated[int, Field(ge=0, le=10_000)] = 1
    last_bar: Annotated[int, Field(ge=0, le=10_000)] = 16
    window: Annotated[int, Field(ge=0, le=40_320)] = EIGHTH  # how early a note may anticipate, in ticks
    feel: OwnFeel | None = None
    continues: Id | None = None
    parent: Parent | None = None
    melody: bool = False  # the tune's own line, which solos on this ground are held against
    sources: Annotated[tuple[Source, ...], Field(max_length=100)] = ()  # the licks of a quote, in the order played
    practice: PlanSettings = PlanSettings()

    @property
    def highest_fret(self) -> int:
        """The last fret that is there, in hundredths from the capo; a bottleneck reaches beyond the neck."""
        return MOST_FRET if self.bottleneck else (self.last_fret - self.capo) * HUNDREDTHS

    @model_validator(mode="after")
    def _bars_in_order(self) -> SoloSettings:
        if self.last_bar < max(1, self.first_bar):
            raise SettingImpossible(
                f"The solo cannot end in bar {self.last_bar} when it starts in bar {self.first_bar}.",
                first_bar=self.first_bar,
                last_bar=self.last_bar,
            )
        return self


class Solo(Value):
    settings: SoloSettings = SoloSettings()
    notes: tuple[Note, ...] = ()
    rests: tuple[Rest, ...] = ()
    stacks: tuple[Stack, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    questions: tuple[Question, ...] = ()
    dynamics: tuple[Dynamic, ...] = ()
    swells: tuple[Swell, ...] = ()
    choices: tuple[Choice, ...] = ()
    remarks: tuple[Remark, ...] = ()
    plan: tuple[PlanEntry, ...] = ()


class Anchor(Value):
    id: Id
    tick: Tick
    second: Annotated[float, Field(ge=-3_600, le=36_000)]


class Cue(Value):
    """Words or another player's entry, pinned to a place."""

    id: Id
    tick: Tick
    words: Words


class GroundSettings(Value):
    offset_cents: Annotated[float, Field(ge=-1_200, le=1_200)] = 0.0  # heard minus nominal
    pickup_ticks: Annotated[int, Field(ge=0, le=322_560)] = 0
    bars: Annotated[int, Field(ge=1, le=10_000)] = 16
    form: Annotated[tuple[FormEntry, ...], Field(max_length=500)] = ()
    choruses: Annotated[int, Field(ge=1, le=64)] = 1


class Ground(Value):
    settings: GroundSettings = GroundSettings()
    anchors: Annotated[tuple[Anchor, ...], Field(min_length=2)]
    sections: tuple[Section, ...] = ()
    exceptions: tuple[ChartException, ...] = ()
    cues: tuple[Cue, ...] = ()

    @model_validator(mode="after")
    def _hangs_together(self) -> Ground:
        self.grid  # noqa: B018 - building it refuses anchors that do not rise
        known = {section.id for section in self.sections}
        for entry in self.settings.form:
            if entry.section not in known:
                raise SettingImpossible(f"The form names a section “{entry.section}” that the chart does not have.")
        if self.settings.pickup_ticks >= self.timeline.bars.bars[-1].meter.bar_ticks * 4:
            raise SettingImpossible("The pick-up is longer than four bars.")
        return self

    @cached_property
    def chart(self) -> Chart:
        return Chart(
            sections=self.sections,
            form=self.settings.form,
            choruses=self.settings.choruses,
            exceptions=self.exceptions,
        )

    @cached_property
    def grid(self) -> Grid:
        anchors = sorted(self.anchors, key=lambda anchor: anchor.tick)
        return Grid(tuple(a.tick for a in anchors), tuple(a.second for a in anchors))

    @cached_property
    def timeline(self) -> Timeline:
        return unroll(self.chart, bars=self.settings.bars, pickup_ticks=self.settings.pickup_ticks)
