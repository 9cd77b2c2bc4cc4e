"""The one way for changes that the server works out: load a solo and its ground, change them, commit, answer once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import Edit, difference
from usagi.core.document.solo import Ground, Solo
from usagi.flows.editing.accepting import Answer, accept
from usagi.flows.workspace import Workspace, new_id, now_text
from usagi.store.database import transaction


@dataclass(frozen=True, slots=True)
class Loaded:
    """A solo and its ground as they were loaded, with their versions by document."""

    solo_id: UUID
    ground_id: UUID
    solo: Solo
    ground: Ground
    versions: dict[str, int]


def load(workspace: Workspace, solo_id: UUID) -> Loaded:
    """Raises : NotThere."""
    with transaction(workspace.pool) as db:
        solo, solo_version, ground_id = workspace.solo(db, solo_id)
        ground, ground_version = workspace.ground(db, ground_id)
    versions = {str(solo_id): solo_version, str(ground_id): ground_version}
    return Loaded(solo_id, ground_id, solo, ground, versions)


def commit(
    workspace: Workspace,
    loaded: Loaded,
    label: str,
    reader: Reader = Reader(),
    *,
    solo: Solo | None = None,
    ground: Ground | None = None,
    others: Mapping[UUID, tuple[Solo, Solo]] = MappingProxyType({}),
    messages: Sequence[str] = (),
    exact: bool = False,
) -> Answer:
    """Store what differs from the loaded state as one act of one edit a document. What is None stays as it is.

    `others` are further solos of the ground, before and after. `messages` go into the answer behind those of the edits.
    `exact` : as in `accept`.

    Raises : EditConflict, when another was quicker; the rules' errors.
    """
    parts = {
        loaded.ground_id: difference(loaded.ground, loaded.ground if ground is None else ground),
        loaded.solo_id: difference(loaded.solo, loaded.solo if solo is None else solo),
    } | {other: difference(before, after) for other, (before, after) in others.items()}
    act, at = new_id(), now_text()
    edits = [
        Edit(
            id=new_id(),
            act=act,
            document=str(document),
            made_in=str(loaded.solo_id),
            person=str(workspace.scope.person),
            at=at,
            label=label[:120],
            changes=changes,
        )
        for document, changes in parts.items()
        if changes
    ]
    return accept(workspace, loaded.solo_id, loaded.versions, edits, reader, exact=exact, messages=messages)
