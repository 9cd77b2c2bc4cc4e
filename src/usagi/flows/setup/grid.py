"""Laying the grid: a bar put on a second, a beat tapped along."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Anchor, Ground
from usagi.core.meter.moved import Point, with_bar_at
from usagi.core.meter.taps import fit_taps
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import load
from usagi.flows.setup.basics import ground_with
from usagi.flows.setup.regrid import regrid
from usagi.flows.workspace import NotThere, Workspace, new_id


def with_anchors(ground: Ground, points: Iterable[Point]) -> Ground:
    """The ground on another grid. Raises : GridImpossible."""
    anchors = tuple(Anchor(id=i, tick=tick, second=second) for i, tick, second in points)
    return ground_with(ground, ground.chart, anchors=anchors)


def put_bar(
    workspace: Workspace,
    solo_id: UUID,
    bar: int,
    second: float,
    *,
    keep_seconds: bool = False,
    reader: Reader = Reader(),
) -> Answer:
    """Put a bar line on a second of the recording; later bars move along. Raises : NotThere, GridImpossible."""
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    found = ground.timeline.bars.number(bar)
    if found is None:
        raise NotThere(f"There is no bar {bar}.", bar=bar)
    points = with_bar_at([(a.id, a.tick, a.second) for a in ground.anchors], found.tick, second, new_id)
    label = f"put bar {bar} on {second:.3f} s"
    return regrid(workspace, loaded, with_anchors(ground, points), label, keep_seconds=keep_seconds, reader=reader)


def lay_taps(
    workspace: Workspace,
    solo_id: UUID,
    taps: Sequence[float],
    tick: int,
    *,
    keep_seconds: bool = False,
    reader: Reader = Reader(),
) -> Answer:
    """Lay the grid through taps, the first of them on a tick. Raises : TapsUnreadable."""
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    fit = fit_taps(taps, tick, ground.timeline.bars)
    after = with_anchors(ground, [(new_id(), at, second) for at, second in fit.anchors])
    label = "set the grid by taps"
    return regrid(workspace, loaded, after, label, keep_seconds=keep_seconds, reader=reader, messages=[fit.sentence])
