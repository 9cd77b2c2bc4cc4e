"""Undo and redo: the inverse of an act is appended, and nothing is rewritten (docs/model.md, Edits)."""

from __future__ import annotations

from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import Content, Edit, EditConflict, take_apart, what_applies
from usagi.core.errors import UsagiError
from usagi.flows.editing.accepting import Answer, accept
from usagi.flows.editing.history import own_acts
from usagi.flows.workspace import Workspace, new_id, now_text
from usagi.store import documents as stored
from usagi.store.database import transaction


class NothingToUndo(UsagiError):
    """This person has nothing here to undo or to redo."""

    code = "nothing-to-undo"


def undo(
    workspace: Workspace,
    solo_id: UUID,
    versions: dict[str, int],
    reader: Reader = Reader(),
    *,
    rest: bool = False,
    act: str | None = None,
) -> Answer:
    """Take back this person's newest act made in a solo, by appending its inverse.

    `rest` leaves out what somebody changed since; that is possible within one document only. `act` is the id that the
    undo gets: asked for again under it, nothing more is taken back.

    Raises : NothingToUndo; EditConflict, when something was changed since.
    """
    return _take_back(workspace, solo_id, versions, reader, act, redo=False, rest=rest)


def redo(
    workspace: Workspace, solo_id: UUID, versions: dict[str, int], reader: Reader = Reader(), *, act: str | None = None
) -> Answer:
    """Bring back what the last undo took. Raises : as `undo`."""
    return _take_back(workspace, solo_id, versions, reader, act, redo=True, rest=False)


def _take_back(
    workspace: Workspace,
    solo_id: UUID,
    versions: dict[str, int],
    reader: Reader,
    act: str | None,
    *,
    redo: bool,
    rest: bool,
) -> Answer:
    with transaction(workspace.pool) as db:
        solo, _, _ = workspace.solo(db, solo_id)
        if act is not None and stored.edits_of_act(db, workspace.scope, act):
            return accept(workspace, solo_id, versions, [], reader)
        done, back = own_acts(db, workspace, solo_id)
        pile = back if redo else done
        if not pile:
            raise NothingToUndo("There is nothing to redo." if redo else "There is nothing of yours to undo.")
        target = pile[-1]
        edits = stored.edits_of_act(db, workspace.scope, target.act)
        one_document = len({edit.document for edit in edits}) == 1
        content = take_apart(solo) if one_document and edits[0].document == str(solo_id) else None
    act, at = act or new_id(), now_text()
    inverse = [
        Edit(
            id=new_id(),
            act=act,
            document=edit.document,
            made_in=str(solo_id),
            undoes=target.act,
            person=str(workspace.scope.person),
            at=at,
            label=f"{'redo' if redo else 'undo'}: {target.label}"[:120],
            changes=tuple(change.inverse() for change in reversed(edit.whole)),
        )
        for edit in reversed(edits)
    ]
    if rest and content is not None:
        inverse = _what_is_left(inverse, content)
        if not inverse:
            raise NothingToUndo(f"Everything in “{target.label}” was changed since; nothing of it is left to undo.")
    try:
        return accept(workspace, solo_id, versions, inverse, reader, exact=True)
    except EditConflict as fault:
        if _next_act(workspace, solo_id, redo=redo) != target.act:  # another page of this person was quicker
            return _take_back(workspace, solo_id, versions, reader, act, redo=redo, rest=rest)
        left = "possible" if content is not None and not redo else None
        raise fault.restated(f"“{target.label}” cannot be undone: {fault.sentence}", rest=left) from fault


def _next_act(workspace: Workspace, solo_id: UUID, *, redo: bool) -> str | None:
    """The act that an undo or a redo would take now."""
    with transaction(workspace.pool) as db:
        done, back = own_acts(db, workspace, solo_id)
    pile = back if redo else done
    return pile[-1].act if pile else None


def _what_is_left(edits: list[Edit], content: Content) -> list[Edit]:
    """The edits without the changes of elements that are not as these expect them."""
    found = []
    for edit in edits:
        content, changes, _ = what_applies(content, edit.changes)
        if changes:
            found.append(edit.model_copy(update={"changes": tuple(changes)}))
    return found
