"""A player's favourite cells: counted in the background, kept with what they were counted over."""

from __future__ import annotations

from collections.abc import Sequence

from usagi.core.degrees.spoken import Reader
from usagi.core.portrait.cells import Cell, favourite_cells
from usagi.core.portrait.tallies import Tally
from usagi.core.portrait.words import degree_name
from usagi.core.values import Value
from usagi.flows.players.sides import Counted, Side, tallies
from usagi.flows.workspace import Workspace
from usagi.store import players as stored
from usagi.store.database import transaction
from usagi.store.players import ReadSolo


class CellView(Value):
    """A favourite cell: its degrees, in how many phrases it comes, in how many it would by chance."""

    answer: str
    label: str
    phrases: int
    expected: float


def cells_of(workspace: Workspace, side: Side, counted: Counted, reader: Reader) -> tuple[CellView, ...] | None:
    """The cells of all a player's solos, as they were counted in the background; of some of them alone, none."""
    if side != Side(side.player):
        return ()
    with transaction(workspace.pool) as db:
        of = stored.made_of(db, workspace.scope.studio).get(side.player)
        kept = stored.cells(db, workspace.scope, side.player)
    if kept is None or kept[0] != of:
        return None if counted.solos else ()
    return tuple(
        CellView(
            answer=str(number),
            label=cell_label(one["slots"], reader),
            phrases=one["phrases"],
            expected=one["expected"],
        )
        for number, one in enumerate(kept[1])
    )


def count_cells(workspace: Workspace) -> int:
    """Count the favourite cells of every player whose solos changed. Returns the number of players."""
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        wanted, there = stored.made_of(db, studio), stored.cells_made_of(db, studio)
    stale = [(player, of) for player, of in wanted.items() if there.get(player) != of]
    for player, of in stale:
        counted = tallies(workspace, Side(player))
        found = [_told(cell, counted) for cell in favourite_cells([one for _, one in counted])]
        with transaction(workspace.pool) as db:
            stored.keep_cells(db, studio, player, of, found)
    return len(stale)


def _told(cell: Cell, counted: Sequence[tuple[ReadSolo, Tally]]) -> dict[str, object]:
    return {
        "slots": [slot for slot, _, _ in cell.tokens],
        "phrases": cell.phrases,
        "expected": cell.expected,
        "places": [
            [str(solo.id), one.ids[first], one.ids[last]]
            for (solo, one), first, last in ((counted[number], first, last) for number, first, last in cell.places)
        ],
    }


def cell_label(slots: Sequence[int | None], reader: Reader) -> str:
    """The degrees of a cell as a reader says them; a point where there is none."""
    return " ".join("·" if slot is None else degree_name(str(slot), reader.style) for slot in slots)
