"""Whose solos are counted, and which of them; what was read of them."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.portrait.portrait import Portrait, Sums, portrait
from usagi.core.portrait.tallies import Tally
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import players as stored
from usagi.store.database import Db, transaction
from usagi.store.players import ReadSolo


@dataclass(frozen=True, slots=True)
class Side:
    """Whose solos are counted, and which of them: a tune's, those of some years, in a studio or live."""

    player: UUID
    tune: UUID | None = None
    since: int | None = None
    until: int | None = None
    setting: str | None = None


@dataclass(frozen=True)
class Counted:
    """One side: its solos as they were read, and what is counted over them."""

    name: str
    solos: list[ReadSolo]
    picture: Portrait


def counted(workspace: Workspace, side: Side) -> Counted:
    with transaction(workspace.pool) as db:
        name = stored.player_name(db, workspace.scope, side.player)
        if name is None:
            raise NotThere("This player is not here any more.", player=str(side.player))
        solos = solos_of(db, workspace, side, stored.SUMS)
    return Counted(name, solos, portrait([Sums.model_validate(solo.read) for solo in solos]))


def tallies(workspace: Workspace, side: Side) -> list[tuple[ReadSolo, Tally]]:
    """Every note that a side counts; of a player with many solos that is much to read."""
    with transaction(workspace.pool) as db:
        solos = solos_of(db, workspace, side, stored.FACTS)
    return [(solo, Tally.model_validate(solo.read)) for solo in solos]


def solos_of(db: Db, workspace: Workspace, side: Side, query: str) -> list[ReadSolo]:
    return stored.read_solos(
        db, workspace.scope, side.player, query, tune_id=side.tune, since=side.since, until=side.until,
        setting=side.setting,
    )  # fmt: skip
