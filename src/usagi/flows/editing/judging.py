"""Judging edits act by act: each is completed, checked, and taken whole or left out (docs/model.md, Edits)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from uuid import UUID

from pydantic import JsonValue

from usagi.core.document.belief import Belief
from usagi.core.document.edits import (
    Content,
    DocumentKind,
    Edit,
    EditConflict,
    Kind,
    apply,
    put_together,
    take_apart,
    to_json,
    written_out,
)
from usagi.core.document.elements import Note
from usagi.core.document.following import NewElementId, what_follows
from usagi.core.document.rules import RuleBroken, check_solo
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError, Where
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import documents as stored
from usagi.store.database import Db


class PlaceTaken(EditConflict):
    """Two people wrote to one place: what this edit writes there, and what stands there already."""

    code = "place-taken"


@dataclass(frozen=True, slots=True)
class Refused:
    """An act that was left out, and why. `now` is what stands there, `before` what the edit expected there.

    `rests_on` is an act left out before it, whose values it needs.
    """

    act: str
    edits: list[str]
    code: str
    sentence: str
    where: Where
    now: JsonValue = None
    before: JsonValue = None
    rests_on: str | None = None


@dataclass
class Work:
    """One document while edits are applied to it."""

    id: UUID
    kind: DocumentKind
    version: int
    before: Solo | Ground
    content: Content
    ground_id: UUID | None
    done: list[Edit] = field(default_factory=list)
    now: Solo | Ground | None = None
    messages: list[str] = field(default_factory=list)
    believed: Belief = field(default_factory=Belief)  # what the page that sends the edits sees otherwise

    @property
    def document(self) -> Solo | Ground:
        return self.now if self.now is not None else self.before


def work_on(db: Db, workspace: Workspace, head: stored.Head) -> Work:
    """A document as it is now, to be changed."""
    document = workspace.document(db, head)
    return Work(head.id, DocumentKind(head.kind), head.version, document, take_apart(document), head.ground_id)


def judge(
    db: Db, workspace: Workspace, works: dict[UUID, Work], edits: Sequence[Edit], *, exact: bool, each: bool
) -> list[Refused]:
    """Apply edits act by act, in their order. Acts that fail are answered, or (not `each`) the first is raised."""
    acts: dict[str, list[Edit]] = {}
    for edit in edits:
        acts.setdefault(edit.act, []).append(edit)
    refused: list[Refused] = []
    left: dict[str, set[str]] = {}  # act left out -> the ids of what it would have changed
    labels = {act: group[0].label for act, group in acts.items()}
    for act, group in acts.items():
        kept = {
            work.id: (work.content, work.now, len(work.done), len(work.messages), work.believed.copied())
            for work in works.values()
        }
        try:
            for edit in group:
                _apply(db, workspace, works, edit, exact=exact)
        except UsagiError as fault:
            if not each:
                raise
            for work in works.values():
                work.content, work.now, done, messages, work.believed = kept[work.id]
                del work.done[done:], work.messages[messages:]
            _draws_what_was_left_out(works, group)
            needed = _ids(group) | {str(fault.where.get("other"))}  # what stands in the way may have been to go
            rests_on = next((other for other, ids in left.items() if ids & needed), None)
            left[act] = _ids(group)
            refused.append(_refusal(act, group, fault, rests_on, labels))
    return refused


def _draws_what_was_left_out(works: dict[UUID, Work], edits: Iterable[Edit]) -> None:
    """The page drew what it expected to follow from an act that is left out; later edits may start from that."""
    for edit in edits:
        work = works.get(UUID(edit.document))
        if work is not None:
            changed = {(change.kind, change.id) for change in edit.changes}
            work.believed.learn([], [one for one in edit.follows if (one.kind, one.id) not in changed], [])


def _ids(edits: Iterable[Edit]) -> set[str]:
    """What edits change, and the stacks, notes and phrases that they name."""
    found: set[str] = set()
    for change in (change for edit in edits for change in edit.changes):
        found.add(change.id)
        if isinstance(change.after, dict):
            named = [change.after.get(name) for name in ("stack", "note", "phrase")]
            notes = change.after.get("notes")
            found |= {one for one in [*named, *(notes if isinstance(notes, list) else [])] if isinstance(one, str)}
    return found


def _refusal(act: str, edits: list[Edit], fault: UsagiError, rests_on: str | None, labels: dict[str, str]) -> Refused:
    sentence = fault.sentence if rests_on is None else f"It needs “{labels[rests_on]}”, which was left out before it."
    conflict = fault if isinstance(fault, EditConflict) else None
    return Refused(
        act=act,
        edits=[edit.id for edit in edits],
        code=fault.code,
        sentence=sentence,
        where=fault.where,
        now=conflict.now if conflict else None,
        before=conflict.before if conflict else None,
        rests_on=rests_on,
    )


def _apply(db: Db, workspace: Workspace, works: dict[UUID, Work], edit: Edit, *, exact: bool) -> None:
    """Apply an edit to its document, complete it with what follows, and check the hard rules."""
    work = works.get(UUID(edit.document))
    if work is None:
        raise NotThere("The document that you changed is not here any more.", edit=edit.id)
    try:
        sent = edit = written_out(edit)
        changes = work.believed.rebased(edit.changes, work.content, partial(_past, db, workspace, work))
        edit = edit.model_copy(update={"changes": changes})
        if not edit.changes:  # all of it has followed from another edit already
            work.believed.learn(sent.changes, sent.follows, ())
            return
        content = apply(work.content, edit.changes)
        if work.kind is DocumentKind.SOLO:
            ground = _ground_of(db, workspace, works, work)
            ids = _new_ids(edit, content)
            exact = exact or edit.undoes is not None
            following = what_follows(work.content, content, edit.changes, ground, ids, exact=exact)
            content = apply(content, following.changes)
            edit = edit.model_copy(update={"follows": following.changes})
            document = put_together(content)
            assert isinstance(document, Solo)
            check_solo(document, ground, _written(edit, document), work.content.elements[Kind.NOTE])
            work.messages.extend(following.messages)
        else:
            edit = edit.model_copy(update={"follows": ()})
            document = put_together(content)
    except UsagiError as fault:
        taken = _place_taken(fault, edit, work) if isinstance(fault, RuleBroken) else None
        if taken is not None:
            raise taken from fault
        place = _place(edit, _ground_of(db, workspace, works, work)) if work.kind is DocumentKind.SOLO else None
        if place is None or "place" in fault.where:
            raise fault.restated(edit=edit.id) from fault
        raise fault.restated(f"At {place}: {fault.sentence}", edit=edit.id, place=place) from fault
    work.believed.learn(sent.changes, sent.follows, edit.whole)
    work.content, work.now = content, document
    work.done.append(edit)


def _past(db: Db, workspace: Workspace, work: Work, kind: Kind, element_id: str) -> Iterator[Edit]:
    """The edits that may have changed an element, from this request and from the log, the newest first."""
    yield from reversed(work.done)
    yield from stored.edits_of_element(db, workspace.scope, work.id, kind, element_id)


def _new_ids(edit: Edit, content: Content) -> NewElementId:
    """Ids for stacks and rests that come into being: those that the page drew them with, as long as there are any."""
    drawn = [
        change
        for change in edit.follows
        if change.before is None and change.after is not None and change.id not in content.elements.get(change.kind, {})
    ]

    def give(kind: Kind) -> str:
        mine = next((change for change in drawn if change.kind is kind), None)
        if mine is None:
            return new_id()
        drawn.remove(mine)
        return mine.id

    return give


def _place_taken(fault: RuleBroken, edit: Edit, work: Work) -> PlaceTaken | None:
    """When one of the two elements in each other's way is written by this edit and the other was there."""
    two = {str(fault.where.get("id")), str(fault.where.get("other"))}
    written = {change.id: change for change in edit.changes if change.after is not None}
    mine = two & written.keys()
    if len(two) != 2 or not mine:
        return None
    own = written[mine.pop()]
    for kind, by_id in work.content.elements.items():
        for element_id in two & by_id.keys() - written.keys():
            there = to_json(by_id[element_id])
            taken = PlaceTaken(fault.sentence, kind=kind, id=own.id, now=there, before=own.after)
            if "place" in fault.where:
                taken = taken.restated(place=fault.where["place"])
            return taken.restated(edit=edit.id, other=element_id)
    return None


def _place(edit: Edit, ground: Ground) -> str | None:
    """Bar and beat of an edit's first note."""
    ticks = (change.after.get("tick") for change in edit.changes if isinstance(change.after, dict))
    tick = next((tick for tick in ticks if isinstance(tick, int)), None)
    return None if tick is None else ground.timeline.bars.place(tick)


def _ground_of(db: Db, workspace: Workspace, works: dict[UUID, Work], work: Work) -> Ground:
    assert work.ground_id is not None
    return ground_now(db, workspace, works, work.ground_id)[0]


def _written(edit: Edit, solo: Solo) -> Iterable[Note]:
    """The notes that an edit writes or moves; one that it only puts back where it was is taken as it is."""
    if edit.undoes is not None:
        return []
    touched = {change.id for change in edit.changes if change.kind is Kind.NOTE and change.after is not None}
    return [note for note in solo.notes if note.id in touched]


def solo_now(db: Db, workspace: Workspace, works: dict[UUID, Work], solo_id: UUID) -> tuple[Solo, int, UUID]:
    """A solo as the edits of this transaction leave it."""
    work = works.get(solo_id)
    if work is None or not isinstance(work.document, Solo) or work.ground_id is None:
        return workspace.solo(db, solo_id)
    return work.document, work.version, work.ground_id


def ground_now(db: Db, workspace: Workspace, works: dict[UUID, Work], ground_id: UUID) -> tuple[Ground, int]:
    work = works.get(ground_id)
    if work is None or not isinstance(work.document, Ground):
        return workspace.ground(db, ground_id)
    return work.document, work.version
