"""Anchors moved by hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from usagi.core.meter.grid import Grid, GridImpossible

Point = tuple[str, int, float]  # id, tick, second


def with_bar_at(anchors: Sequence[Point], tick: int, second: float, new_id: Callable[[], str]) -> list[Point]:
    """The anchors with a bar line put on a second; what comes after keeps its tempo and moves along.

    Before it the tempo gives way, as far back as the anchor before. The first bar line moves everything.

    Parameters
    ----------
    anchors : `(tick, second)` with ids, rising.
    tick, second : the bar line, and where it is put.
    new_id : gives the id of a new anchor.

    Raises : GridImpossible, when the second lies before the anchor that is kept before it.
    """
    ordered = sorted(anchors, key=lambda anchor: anchor[1])
    grid = Grid(tuple(a[1] for a in ordered), tuple(a[2] for a in ordered))
    shift = second - grid.second(tick)
    before = [a for a in ordered if a[1] < tick]
    if before and second <= before[-1][2]:
        raise GridImpossible(
            f"This bar cannot start at {second:.2f} s: the anchor before it stands at {before[-1][2]:.2f} s."
        )
    here = next((a[0] for a in ordered if a[1] == tick), None) or new_id()
    after = [(i, t, round(s + shift, 6)) for i, t, s in ordered if t > tick]
    moved = [*before, (here, tick, round(second, 6)), *after]
    if len(moved) == len(before) + 1:  # nothing came after: the tempo that was goes on
        step = moved[-1][1] - before[-1][1] if before else 1
        pace = grid.second(tick + step) - grid.second(tick)
        moved.append((new_id(), tick + step, round(second + pace, 6)))
    return moved
