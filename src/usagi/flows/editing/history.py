"""Whose act may be undone and redone: this person's own in a solo, across reloads and tabs (docs/model.md, Edits)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from usagi.flows.workspace import Workspace
from usagi.store import documents as stored
from usagi.store.database import Db


@dataclass(frozen=True, slots=True)
class History:
    """The labels of the acts that undo and redo would take next."""

    undo: str | None
    redo: str | None


def acts_to_take(acts: Sequence[stored.Act]) -> tuple[list[stored.Act], list[stored.Act]]:
    """Replay a person's acts into what can be undone and what redone (the acts that took them back), oldest first."""
    done: list[stored.Act] = []
    taken_back: list[tuple[stored.Act, stored.Act]] = []  # the undoing act, and the act that it took back
    for act in acts:
        back = next((pair for pair in taken_back if pair[0].act == act.undoes), None)
        if act.undoes is None:
            done.append(act)
            taken_back.clear()
        elif back is not None:
            taken_back.remove(back)
            done.append(back[1])
        else:
            original = next((a for a in done if a.act == act.undoes), None)
            if original is not None:
                done.remove(original)
                taken_back.append((act, original))
    return done, [replace(undo, label=original.label) for undo, original in taken_back]


def history(db: Db, workspace: Workspace, solo_id: UUID) -> History:
    done, back = acts_to_take(stored.acts(db, workspace.scope, solo_id))
    return History(done[-1].label if done else None, back[-1].label if back else None)
