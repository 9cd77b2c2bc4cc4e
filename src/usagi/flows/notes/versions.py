"""Named versions of a solo, what differs between two states, and every earlier state of one."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import Kind, difference, put_together, take_apart, what_applies
from usagi.core.document.following import tidied
from usagi.core.document.solo import Parent, Solo
from usagi.core.phrases.comparison import Difference, DifferenceKind, compare
from usagi.core.phrases.simplified import Rule, simplify
from usagi.core.values import one_line
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.studio.families import PartNote, part_notes
from usagi.flows.studio.new_solo import store_solo
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import documents as stored
from usagi.store.database import transaction
from usagi.store.documents import LogEntry, log_of


@dataclass(frozen=True)
class Comparison:
    """What the solo in hand has otherwise, and the other's notes that differ, to be drawn under it."""

    title: str
    differences: list[Difference]
    under: list[PartNote]
    sentence: str


@dataclass(frozen=True, slots=True)
class State:
    """A state of a solo: the version, what the edit that made it did, and when."""

    version: int
    label: str
    at: datetime


@dataclass(frozen=True, slots=True)
class NewVersion:
    """The solo that was made, and what the rules did."""

    solo_id: UUID
    messages: list[str]


def make_version(
    workspace: Workspace, solo_id: UUID, name: str, rules: tuple[Rule, ...], version_id: UUID | None = None
) -> NewVersion:
    """A version under a name: it starts as its parent is now, ids kept; the rules are its first edit.

    Sent again under its id, nothing is made twice.

    Raises : NotThere.
    """
    with transaction(workspace.pool) as db:
        if version_id is not None and stored.made_before(db, workspace.scope, version_id):
            return NewVersion(version_id, [])
        parent, version, ground_id = workspace.solo(db, solo_id)
        ground, _ = workspace.ground(db, ground_id)
        own = parent.settings.model_copy(
            update={"title": one_line(name), "parent": Parent(document=str(solo_id), version=version)}
        )
        start = parent.model_copy(update={"settings": own})
        made = store_solo(db, workspace, version_id or uuid4(), start, ground, ground_id)
    simpler = simplify(start, ground, rules, new_id)
    if simpler.solo != start:
        commit(workspace, load(workspace, made), f"simplify: {', '.join(rules)}", solo=simpler.solo)
    return NewVersion(made, list(simpler.messages))


def bring_across(workspace: Workspace, solo_id: UUID, reader: Reader = Reader()) -> Answer:
    """Apply the parent's later changes to a version, where it still has what they changed.

    Raises : NotThere, when it has no parent, or the parent is gone.
    """
    loaded = load(workspace, solo_id)
    child = loaded.solo
    parent = child.settings.parent
    if parent is None:
        raise NotThere("This solo is no version of another: there is nothing to bring across.")
    with transaction(workspace.pool) as db:
        then = workspace.solo(db, UUID(parent.document), parent.version)[0]
        now, now_version, _ = workspace.solo(db, UUID(parent.document))
    kept = ("title", "parent", "first_bar", "last_bar")
    changes = [one for one in difference(then, now) if not (one.kind is Kind.SETTING and one.id in kept)]
    content, done, left = what_applies(take_apart(child), changes)
    after = put_together(content)
    assert isinstance(after, Solo)
    settings = after.settings.model_copy(update={"parent": Parent(document=parent.document, version=now_version)})
    after = tidied(after.model_copy(update={"settings": settings}))
    words = f"{len(done)} change{'' if len(done) == 1 else 's'} brought across"
    sentence = f"{words}; {len(left)} left, because they are otherwise here." if left else f"{words}."
    return commit(workspace, loaded, "bring across", reader, solo=after, messages=[sentence])


def compare_with(workspace: Workspace, solo_id: UUID, other_id: UUID | None, version: int | None) -> Comparison:
    """A solo beside another, or beside an earlier state of its own. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        here, _, ground_id = workspace.solo(db, solo_id)
        ground, _ = workspace.ground(db, ground_id)
        there = workspace.solo(db, other_id or solo_id, version)[0]
    found = compare(here, there, ground.timeline.bars)
    differing = {one.there for one in found}
    under = part_notes(there, ground, [note for note in there.notes if note.id in differing])
    title = there.settings.title or "untitled"
    return Comparison(title if version is None else f"state {version}", found, under, _counts(found))


def _counts(found: list[Difference]) -> str:
    if not found:
        return "Nothing differs."
    counts = {kind: sum(one.kind is kind for one in found) for kind in DifferenceKind}
    return ", ".join(f"{count} {kind}" for kind, count in counts.items() if count) + "."


def states(workspace: Workspace, solo_id: UUID) -> list[State]:
    """Every state that can be opened again, the latest first. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        workspace.solo(db, solo_id)
        log: list[LogEntry] = log_of(db, workspace.scope, solo_id)
    return [State(entry.version, entry.label, entry.at) for entry in log]


def restore(workspace: Workspace, solo_id: UUID, version: int, reader: Reader = Reader()) -> Answer:
    """Put an earlier state back, as a new edit that can be undone. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    with transaction(workspace.pool) as db:
        then = workspace.solo(db, solo_id, version)[0]
    return commit(workspace, loaded, f"restore state {version}", reader, solo=then, exact=True)
