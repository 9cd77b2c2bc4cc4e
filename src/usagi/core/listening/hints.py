"""What a teacher may tell the listener beforehand. Kept with the span, so that asking again gives the same."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field, model_validator

from usagi.core.errors import UsagiError
from usagi.core.values import Value


class HintsImpossible(UsagiError):
    """Hints that leave no note to hear."""

    code = "hints-impossible"


class Texture(StrEnum):
    """How many notes may sound together."""

    AUTO = "not said"
    LINE = "one line"
    RING = "let ring"
    TWO = "two notes"
    STRUM = "strum"


class Company(StrEnum):
    """Whether others play along."""

    UNKNOWN = "not said"
    ALONE = "alone"
    BAND = "with a band"


class Side(StrEnum):
    """Where in a stereo sound the soloist stands."""

    BOTH = "both"
    LEFT = "left"
    RIGHT = "right"
    CENTRE = "centre"
    SIDES = "sides"


Pitch = Annotated[int, Field(ge=20, le=110)]


class Hints(Value):
    """Nothing needs to be said. `more` is in steps: above 0 for more notes, below for fewer."""

    texture: Texture = Texture.AUTO
    company: Company = Company.UNKNOWN
    side: Side = Side.BOTH
    lowest: Pitch | None = None
    highest: Pitch | None = None
    more: Annotated[int, Field(ge=-3, le=3)] = 0
    half_step_down: bool = False  # the guitar sounds half a step lower than it is written
    quick: bool = False  # by the smaller net

    @model_validator(mode="after")
    def _some_room(self) -> Hints:
        if self.lowest is not None and self.highest is not None and self.highest < self.lowest:
            raise HintsImpossible("The highest note lies below the lowest: no note could be heard.")
        return self

    @property
    def cents(self) -> float:
        """How far what is written sounds above its pitch."""
        return -100.0 if self.half_step_down else 0.0
