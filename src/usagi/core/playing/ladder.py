"""The ladder: the speeds that a loop climbs, and how many passes it stays on each."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.audio.stretch import FASTEST, SLOWEST
from usagi.core.errors import UsagiError

MOST_RUNGS = 60
MOST_PASSES = 50


class LadderImpossible(UsagiError):
    """A ladder that leads nowhere."""

    code = "ladder-impossible"


@dataclass(frozen=True, slots=True)
class Ladder:
    """Rungs in per mille of the recorded speed, lowest first, and the passes on each."""

    rungs: tuple[int, ...]
    passes: int


def ladder(lowest: int, highest: int, step: int, passes: int) -> Ladder:
    """The rungs from `lowest` by `step` to `highest` (all per mille); the last rung is always `highest`.

    Parameters
    ----------
    lowest, highest, step : per mille of the recorded speed.
    passes : of the loop on each step.

    Raises : LadderImpossible.

    >>> ladder(500, 800, 100, 4).rungs, ladder(500, 750, 100, 4).rungs
    ((500, 600, 700, 800), (500, 600, 700, 750))
    """
    if not SLOWEST <= lowest < highest <= FASTEST:
        raise LadderImpossible(
            f"A ladder climbs: from {SLOWEST // 10} % or more to at most {FASTEST // 10} %, "
            "and its last rung is faster than its first."
        )
    if not 1 <= passes <= MOST_PASSES:
        raise LadderImpossible(f"Stay 1 to {MOST_PASSES} passes on a rung.")
    if step < 1 or (highest - lowest) / step >= MOST_RUNGS:
        raise LadderImpossible(f"A ladder has at most {MOST_RUNGS} rungs: take a larger step.")
    rungs = tuple(range(lowest, highest, step))
    return Ladder((*rungs, highest), passes)
