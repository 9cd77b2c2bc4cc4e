"""A grid that moves under notes which are there already."""

from __future__ import annotations

from collections.abc import Sequence

from usagi.core.degrees.spoken import Reader
from usagi.core.document.regrid import hold_seconds
from usagi.core.document.solo import Ground, Solo
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit
from usagi.flows.workspace import Workspace
from usagi.store.database import transaction
from usagi.store.documents import solos_of_ground


def regrid(
    workspace: Workspace,
    loaded: Loaded,
    after: Ground,
    label: str,
    *,
    keep_seconds: bool,
    reader: Reader,
    solo: Solo | None = None,
    messages: Sequence[str] = (),
) -> Answer:
    """Put a moved grid in force; notes hold their ticks, or every solo on this ground holds its seconds.

    `solo` is the loaded solo as it is changed in the same act besides.
    """
    if not keep_seconds:
        return commit(workspace, loaded, label, reader, solo=solo, ground=after, messages=messages)
    with transaction(workspace.pool) as db:
        ids = solos_of_ground(db, workspace.scope, loaded.ground_id)
        solos = {other: workspace.solo(db, other)[0] for other in ids if other != loaded.solo_id}
    own, sentences = _held(solo or loaded.solo, loaded.ground, after)
    others = {}
    for other, before in solos.items():
        held, found = _held(before, loaded.ground, after)
        others[other] = before, held
        sentences += found
    messages = [*messages, *sentences]
    return commit(workspace, loaded, label, reader, solo=own, ground=after, others=others, messages=messages)


def _held(solo: Solo, before: Ground, after: Ground) -> tuple[Solo, list[str]]:
    held, outliers = hold_seconds(solo, before, after)
    return held, [outlier.sentence for outlier in outliers]
