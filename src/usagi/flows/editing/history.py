"""Whose act may be undone and redone: this person's own in a solo, across reloads and tabs (docs/model.md, Edits)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from usagi.flows.workspace import Workspace
from usagi.store import documents as stored
from usagi.store.database import Db

LOOKED_AT = 500  # newest edits; more only where all of them were taken back


@dataclass(frozen=True, slots=True)
class History:
    """The labels of the acts that undo and redo would take next."""

    undo: str | None
    redo: str | None


def acts_to_take(acts: Sequence[stored.Act]) -> tuple[list[stored.Act], list[stored.Act]]:
    """Replay a person's acts into what can be undone and what redone (the acts that took them back), oldest first."""
    done: dict[str, stored.Act] = {}
    taken_back: dict[str, tuple[stored.Act, stored.Act]] = {}  # by the undoing act: that, and what it took back
    for act in acts:
        if act.undoes is None:
            done[act.act] = act
            taken_back.clear()
        elif act.undoes in taken_back:
            _, original = taken_back.pop(act.undoes)
            done[original.act] = original
        elif act.undoes in done:
            taken_back[act.act] = (act, done.pop(act.undoes))
    return list(done.values()), [replace(undo, label=original.label) for undo, original in taken_back.values()]


def own_acts(db: Db, workspace: Workspace, solo_id: UUID) -> tuple[list[stored.Act], list[stored.Act]]:
    """What this person can undo in a solo and redo, oldest first; back to the first act, however many were undone."""
    most, before = LOOKED_AT, None
    while True:
        acts = stored.acts(db, workspace.scope, solo_id, most)
        done, back = acts_to_take(acts)
        if done or acts == before:
            return done, back
        most, before = 4 * most, acts


def history(db: Db, workspace: Workspace, solo_id: UUID) -> History:
    done, back = own_acts(db, workspace, solo_id)
    return History(done[-1].label if done else None, back[-1].label if back else None)
