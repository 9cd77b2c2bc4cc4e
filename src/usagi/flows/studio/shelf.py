"""The shelf: every solo, its names, what was removed."""

from __future__ import annotations

from uuid import UUID

from usagi.core.values import one_line
from usagi.flows.editing.changing import commit, load
from usagi.flows.licks.indexing import index_solo
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import shelf as stored
from usagi.store.database import transaction
from usagi.store.studios import tune_titled


def read_shelf(workspace: Workspace) -> list[stored.SoloRow]:
    """Every solo of the studio. What was removed more than 30 days ago is deleted first."""
    with transaction(workspace.pool) as db:
        stored.delete_removed(db, workspace.scope)
        return stored.shelf(db, workspace.scope)


def remove(workspace: Workspace, solo_id: UUID, *, removed: bool) -> None:
    """Remove a solo, or restore it. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        if not stored.set_removed(db, workspace.scope, solo_id, removed=removed):
            raise NotThere("This solo is not here any more.", solo=str(solo_id))
    index_solo(workspace, solo_id)  # its licks freeze before anybody looks for them


def rename(workspace: Workspace, solo_id: UUID, *, tune: str, title: str, player: str) -> None:
    """Rename a solo; its title and player are an edit of the document and can be undone."""
    loaded = load(workspace, solo_id)
    with transaction(workspace.pool) as db:
        stored.set_tune(db, workspace.scope, solo_id, tune_titled(db, workspace.scope, tune))
    named = {"title": one_line(title), "player": one_line(player)}
    settings = type(loaded.solo.settings).model_validate(loaded.solo.settings.model_dump() | named)
    commit(workspace, loaded, "rename", solo=loaded.solo.model_copy(update={"settings": settings}))
