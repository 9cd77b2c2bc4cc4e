"""What a teacher adds to a solo for whoever learns it: remarks, and changes to the plan that the phrases give."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from usagi.core.audio import FASTEST, SLOWEST
from usagi.core.chart.model import Id
from usagi.core.document.elements import ElementImpossible, Note, Tick
from usagi.core.values import Value

MOST_PASSES = 50
LEVELS = 5
Speed = Annotated[int, Field(ge=SLOWEST, le=FASTEST)]
SpeedStep = Annotated[int, Field(ge=10, le=500)]
Passes = Annotated[int, Field(ge=1, le=MOST_PASSES)]


class OnNote(Value):
    kind: Literal["note"] = "note"
    note: Id


class OnPhrase(Value):
    kind: Literal["phrase"] = "phrase"
    phrase: Id


class OnBar(Value):
    kind: Literal["bar"] = "bar"
    bar: Annotated[int, Field(ge=0, le=10_000)]


class Remark(Value):
    """The teacher's words at a note, a phrase or a bar; `second` is a second way to play it, in notes of its own."""

    id: Id
    on: Annotated[OnNote | OnPhrase | OnBar, Field(discriminator="kind")]
    words: Annotated[str, Field(min_length=1, max_length=600)]
    second: Annotated[tuple[Note, ...], Field(max_length=200)] = ()


class Whole(Value):
    kind: Literal["whole"] = "whole"


class OnePhrase(Value):
    kind: Literal["phrase"] = "phrase"
    phrase: Id


class Joined(Value):
    """The end of a phrase and the start of the next."""

    kind: Literal["joined"] = "joined"
    phrase: Id


class Group(Value):
    """Notes that the teacher put together, smaller or larger than a phrase: `[start, end)` in ticks."""

    kind: Literal["group"] = "group"
    start: Tick
    end: Tick

    @model_validator(mode="after")
    def _forwards(self) -> Group:
        if self.end <= self.start:
            raise ElementImpossible("A group ends after it starts.", start=self.start, end=self.end)
        return self


Practised = Annotated[Whole | OnePhrase | Joined | Group, Field(discriminator="kind")]


class PlanEntry(Value):
    """A line of the plan as the teacher has it; what is None goes by the plan.

    `behind` is the key of the line that it stands behind (`core/practice/plan.py`), empty for the first place, and None
    where the phrases put it. `level` overrules the difficulty.
    """

    id: Id
    what: Practised
    name: Annotated[str, Field(max_length=120)] = ""
    behind: Annotated[str, Field(max_length=140)] | None = None
    start: Speed | None = None
    goal: Speed | None = None
    step: SpeedStep | None = None
    passes: Passes | None = None
    level: Annotated[int, Field(ge=1, le=LEVELS)] | None = None
    left_out: bool = False


class PlanSettings(Value):
    """What holds for every line of the plan that says nothing else; speeds in per mille of the recorded speed."""

    start: Speed = 500
    goal: Speed = 1_000
    step: SpeedStep = 100
    passes: Passes = 4

    @model_validator(mode="after")
    def _upwards(self) -> PlanSettings:
        if self.start > self.goal:
            raise ElementImpossible("A plan starts at its goal or below it.", start=self.start, goal=self.goal)
        return self
