"""The tablets that tell what a note is, and sizes of bends."""

from __future__ import annotations

from typing import Literal

from usagi.core.values import Value

Shape = Literal[
    "anticipation", "chord tone", "enclosure", "passing", "approach", "pedal", "blue", "tension", "scale", "outside",
    "plain", "key", "none",
]  # fmt: skip


class BendView(Value):
    """The size of a bend where it is reached, `at` ticks into the note."""

    at: int
    quarters: int
    size: str
