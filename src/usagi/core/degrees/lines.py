"""A note on one line of changes: what its degree counts from, its role, the pitches that it reaches."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class Role(StrEnum):
    ANTICIPATION = "anticipation"
    CHORD_TONE = "chord tone"
    TENSION = "tension"


class StageLabel(NamedTuple):
    """A pitch that a note reaches, the chord that its degree counts from, and the degree (`b3+` a quarter above)."""

    tick: int
    midi: float
    chord: str | None
    degree: str | None


class Line(NamedTuple):
    """A note on one line. `heard_on` is what its degree counts from (a chord, or the key), `chord` what sounds."""

    line: str  # "chart", "key", or the name of a layer of other changes
    shown: bool
    heard_on: str | None
    chord: str | None
    degree: str | None
    role: Role | None
    goal: str | None
    blue: bool
    stages: tuple[StageLabel, ...]
