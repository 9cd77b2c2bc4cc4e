"""A note on one line of changes: what its degree counts from, its role, the pitches that it reaches."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class Role(StrEnum):
    """What a note is in its line; the first that applies (docs/music.md, Roles)."""

    ANTICIPATION = "anticipation"
    CHORD_TONE = "chord tone"
    ENCLOSURE = "enclosure"
    PASSING = "passing"
    APPROACH = "approach"
    PEDAL = "pedal"
    BLUE = "blue"
    TENSION = "tension"
    SCALE = "scale"
    OUTSIDE = "outside"


class Mark(StrEnum):
    """What stands beside a role."""

    ORNAMENT = "ornament"
    FILLER = "filler"


class StageLabel(NamedTuple):
    """A pitch that a note reaches, the chord that its degree counts from, and the degree (`b3+` a quarter above)."""

    tick: int
    midi: float
    chord: str | None
    degree: str | None


class Line(NamedTuple):
    """A note on one line. `heard_on` is what its degree counts from (a chord, or the key), `chord` what sounds.

    `goal` is the degree that the note it leads to has on its own chord; `says` tells the role in words.
    """

    line: str  # "chart", "key", or the name of a layer of other changes
    shown: bool
    heard_on: str | None
    chord: str | None
    degree: str | None
    role: Role | None
    goal: str | None
    says: str
    marks: tuple[Mark, ...]
    blue: bool
    stages: tuple[StageLabel, ...]
