"""The ladder: the speeds that a loop climbs, and how many passes it stays on each."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.audio import FASTEST, SLOWEST
from usagi.core.document.teaching import MOST_PASSES
from usagi.core.errors import UsagiError

MOST_RUNGS = 60


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
    return Ladder(stair(lowest, highest, step), passes)


def stair(start: int, goal: int, step: int) -> tuple[int, ...]:
    """The speeds from a start by steps to a goal, in per mille; the goal alone where the start is not below it.

    Parameters
    ----------
    start, goal, step : per mille of the recorded speed; the step above 0.

    >>> stair(500, 750, 100), stair(800, 800, 100)
    ((500, 600, 700, 750), (800,))
    """
    return (*range(start, goal, step), goal)


@dataclass(frozen=True, slots=True)
class Stand:
    """Where someone stands on a stair: the step, clean passes on it, and misses running."""

    step: int = 0
    clean: int = 0
    missed: int = 0


MISSES_DOWN = 2


def passed(stand: Stand, ladder: Ladder, *, clean: bool) -> Stand:
    """Where one pass leads: up after as many clean passes as a step asks, one step down after two misses running.

    Parameters
    ----------
    stand : before the pass.
    ladder : its steps, and the passes on each.
    clean : whether nobody said that it was missed.

    >>> passed(Stand(1, 3), Ladder((500, 600, 700), 4), clean=True)
    Stand(step=2, clean=0, missed=0)
    >>> passed(Stand(1, 3, 1), Ladder((500, 600, 700), 4), clean=False)
    Stand(step=0, clean=0, missed=0)

    At the goal a miss ends what was reached there:

    >>> passed(Stand(2, 4), Ladder((500, 600, 700), 4), clean=False)
    Stand(step=2, clean=0, missed=1)
    """
    top = len(ladder.rungs) - 1
    if clean:
        done = stand.clean + 1
        up = done >= ladder.passes and stand.step < top
        return Stand(stand.step + 1) if up else Stand(stand.step, min(done, ladder.passes))
    missed = stand.missed + 1
    if missed >= MISSES_DOWN:
        return Stand(max(0, stand.step - 1))
    reached = stand.clean >= ladder.passes
    return Stand(stand.step, 0 if reached else stand.clean, missed)
