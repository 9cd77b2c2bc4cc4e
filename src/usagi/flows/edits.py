"""Taking in edits: each act whole or not at all, with what follows and the labels that changed (model.md, Edits)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from uuid import UUID

from pydantic import JsonValue

from usagi.core.degrees.spoken import Reader
from usagi.core.document.belief import Belief
from usagi.core.document.credits import disputes
from usagi.core.document.edits import (
    EDIT_SCHEMA,
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
from usagi.core.document.fill import BarFill, Progress, fill, next_step, progress
from usagi.core.document.following import NewThingId, what_follows
from usagi.core.document.rules import Misfit, RuleBroken, check_solo, misfits
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import Note
from usagi.core.errors import UsagiError, Where
from usagi.core.playing.marks import NoteMark, Strip, Tables, mark_strip, mark_tables
from usagi.flows.desk import Desk, NotThere, new_id
from usagi.flows.history import History, history
from usagi.store import documents as stored
from usagi.store.database import Db, transaction
from usagi.store.studios import player_named

SNAPSHOT_EVERY = 200


class PlaceTaken(EditConflict):
    """Two people wrote to one place: what this edit writes there, and what stands there already."""

    code = "place-taken"


class SoloRemoved(UsagiError):
    """Edits of a solo that lies in the drawer."""

    code = "solo-removed"


class PageAhead(UsagiError):
    """A page that knows a later version than is stored: a backup was brought back meanwhile."""

    code = "page-ahead"


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


@dataclass(frozen=True)
class Answer:
    """What brings a page up to date, from the versions `since` to `versions`: every edit between, completed, in order.

    `marks` holds None for notes that are gone; `whole` says they are all here.
    """

    since: dict[str, int]
    versions: dict[str, int]
    edits: list[Edit]
    refused: list[Refused]
    marks: dict[str, NoteMark | None]
    whole: bool
    strip: Strip | None
    tables: Tables | None
    misfits: list[Misfit]
    progress: Progress
    history: History
    said: list[str] = field(default_factory=list)  # what was found on the way, in sentences


@dataclass
class _Work:
    """One document while edits are applied to it."""

    id: UUID
    kind: DocumentKind
    version: int
    before: Solo | Ground
    content: Content
    ground_id: UUID | None
    done: list[Edit] = field(default_factory=list)
    now: Solo | Ground | None = None
    said: list[str] = field(default_factory=list)
    believed: Belief = field(default_factory=Belief)  # what the page that sends the edits sees otherwise

    @property
    def document(self) -> Solo | Ground:
        return self.now if self.now is not None else self.before


def accept(
    desk: Desk,
    solo_id: UUID,
    versions: dict[str, int],
    edits: Sequence[Edit],
    reader: Reader = Reader(),
    *,
    exact: bool = False,
) -> Answer:
    """Store edits made in a solo, all or nothing, and answer what changed.

    `versions` are those that the page knows. `exact` edits lead to a state that was there before: nothing gives way.

    Raises : EditConflict and the rules' errors with the first edit that failed; NotThere, SoloRemoved, PageAhead.
    """
    return _take(desk, solo_id, versions, edits, reader, exact=exact, each=False)


def accept_each(
    desk: Desk, solo_id: UUID, versions: dict[str, int], edits: Sequence[Edit], reader: Reader = Reader()
) -> Answer:
    """As `accept`, each act by itself: one that fails is left out and answered with its reason, the others are stored.

    Raises : NotThere, SoloRemoved, PageAhead.
    """
    return _take(desk, solo_id, versions, edits, reader, exact=False, each=True)


def _take(
    desk: Desk,
    solo_id: UUID,
    versions: dict[str, int],
    edits: Sequence[Edit],
    reader: Reader,
    *,
    exact: bool,
    each: bool,
) -> Answer:
    """Edits that are stored already are passed over, so that sending twice is harmless."""
    with transaction(desk.pool) as db:
        solo_before, _, ground_id = desk.solo(db, solo_id)
        ground_before, _ = desk.ground(db, ground_id)
        works = _locked(db, desk, {UUID(edit.document) for edit in edits})
        if edits and stored.is_removed(db, desk.scope, solo_id):
            raise SoloRemoved(
                "This solo was removed: put it back from the shelf to write on. What you wrote since is kept here."
            )
        known = stored.known_edits(db, desk.scope, list(works), [edit.id for edit in edits])
        since, missed = _missed(db, desk, versions, works, (solo_id, ground_id))
        new = []
        for edit in edits:
            there = known.get((edit.document, edit.id))
            if there is None:
                new.append(edit)
            else:  # its answer was lost: the page does not know what followed from it
                works[UUID(edit.document)].believed.learn(written_out(edit).changes, edit.follows, there.whole)
        refused = _judge(db, desk, works, new, exact=exact, each=each)
        for work in works.values():
            _save(db, desk, work)
        fills = _refresh_rows(db, desk, works)
        solo, solo_version, _ = _solo_now(db, desk, works, solo_id)
        ground, ground_version = _ground_now(db, desk, works, ground_id)
        past = history(db, desk, solo_id)
    for work in works.values():  # not before it is stored: a state that was rolled back must never be read
        if work.done:
            desk.remember(work.id, work.version, work.document)
    before = desk.marks.of(solo_before, ground_before, reader)
    now = desk.marks.of(solo, ground, reader, before)
    marks, whole = _changed_marks(before.notes, now.notes, whole=bool(missed))
    return Answer(
        since=since,
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        edits=[*missed, *(edit for work in works.values() for edit in work.done)],
        refused=refused,
        marks=marks,
        whole=whole,
        strip=mark_strip(ground, reader) if ground is not ground_before or missed else None,
        tables=mark_tables(solo) if solo.settings != solo_before.settings or missed else None,
        misfits=misfits(solo, ground),
        progress=progress(fills[solo_id] if solo_id in fills else fill(solo, ground), ground),
        history=past,
        said=[sentence for work in works.values() for sentence in work.said],
    )


def _locked(db: Db, desk: Desk, ids: set[UUID]) -> dict[UUID, _Work]:
    works = {}
    for found in stored.lock_heads(db, desk.scope, sorted(ids)):
        kind = DocumentKind(found.kind)
        document = desk.solo(db, found.id)[0] if kind is DocumentKind.SOLO else desk.ground(db, found.id)[0]
        works[found.id] = _Work(found.id, kind, found.version, document, take_apart(document), found.ground_id)
    return works


def _missed(
    db: Db, desk: Desk, versions: dict[str, int], works: dict[UUID, _Work], own: tuple[UUID, UUID]
) -> tuple[dict[str, int], list[Edit]]:
    """From which versions the answer leads on, and the edits that the page lacks up to now.

    Raises : PageAhead.
    """
    since, missed = {}, []
    for document in dict.fromkeys([*own, *map(UUID, versions)]):
        head = works.get(document) or stored.head(db, desk.scope, document)
        if head is None:
            continue
        version = since[str(document)] = versions.get(str(document), head.version)
        if version > head.version:
            raise PageAhead(
                "An earlier state than this page shows is stored: a backup was brought back. It is loaded now.",
                version=head.version,
            )
        if version < head.version:
            missed += stored.edits_since(db, desk.scope, document, version, head.version)
    return since, missed


def _judge(
    db: Db, desk: Desk, works: dict[UUID, _Work], edits: Sequence[Edit], *, exact: bool, each: bool
) -> list[Refused]:
    """Apply edits act by act, in their order. Acts that fail are answered, or (not `each`) the first is raised."""
    acts: dict[str, list[Edit]] = {}
    for edit in edits:
        acts.setdefault(edit.act, []).append(edit)
    refused: list[Refused] = []
    left: dict[str, set[str]] = {}  # act left out -> the ids of what it would have changed
    labels = {act: group[0].label for act, group in acts.items()}
    for act, group in acts.items():
        kept = {work.id: (work.content, work.now, len(work.done), len(work.said)) for work in works.values()}
        try:
            for edit in group:
                _apply(db, desk, works, edit, exact=exact)
        except UsagiError as fault:
            if not each:
                raise
            for work in works.values():
                work.content, work.now, done, said = kept[work.id]
                del work.done[done:], work.said[said:]
            rests_on = next((other for other, ids in left.items() if ids & _ids(group)), None)
            left[act] = _ids(group)
            refused.append(_refusal(act, group, fault, rests_on, labels))
    return refused


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


def _apply(db: Db, desk: Desk, works: dict[UUID, _Work], edit: Edit, *, exact: bool) -> None:
    """Apply an edit to its document, complete it with what follows, and check the hard rules."""
    work = works.get(UUID(edit.document))
    if work is None:
        raise NotThere("The document that you changed is not here any more.", edit=edit.id)
    try:
        sent = edit = written_out(edit)
        edit = edit.model_copy(update={"changes": work.believed.rebased(edit.changes, work.content)})
        content = apply(work.content, edit.changes)
        if work.kind is DocumentKind.SOLO:
            ground = _ground_of(db, desk, works, work)
            ids = _new_ids(edit, content)
            exact = exact or edit.undoes is not None
            following = what_follows(work.content, content, edit.changes, ground, ids, exact=exact)
            content = apply(content, following.changes)
            edit = edit.model_copy(update={"follows": following.changes})
            document = put_together(content)
            assert isinstance(document, Solo)
            check_solo(document, ground, _written(edit, document), work.content.things[Kind.NOTE])
            work.said.extend(following.said)
        else:
            edit = edit.model_copy(update={"follows": ()})
            document = put_together(content)
    except UsagiError as fault:
        if isinstance(fault, RuleBroken):
            _say_both(fault, edit, work)
        fault.where["edit"] = edit.id
        if "place" not in fault.where and work.kind is DocumentKind.SOLO:
            _say_where(fault, edit, _ground_of(db, desk, works, work))
        raise
    work.believed.learn(sent.changes, sent.follows, edit.whole)
    work.content, work.now = content, document
    work.done.append(edit)


def _new_ids(edit: Edit, content: Content) -> NewThingId:
    """Ids for stacks and rests that come into being: those that the page drew them with, as long as there are any."""
    drawn = [
        change
        for change in edit.follows
        if change.before is None and change.after is not None and change.id not in content.things.get(change.kind, {})
    ]

    def give(kind: Kind) -> str:
        mine = next((change for change in drawn if change.kind is kind), None)
        if mine is None:
            return new_id()
        drawn.remove(mine)
        return mine.id

    return give


def _say_both(fault: RuleBroken, edit: Edit, work: _Work) -> None:
    """Raise `PlaceTaken` when one of the two things in each other's way is written by this edit and one was there."""
    two = {str(fault.where.get("id")), str(fault.where.get("other"))}
    written = {change.id: change for change in edit.changes if change.after is not None}
    for kind, by_id in work.content.things.items():
        for thing_id in two & by_id.keys() - written.keys():
            mine = two & written.keys()
            if len(two) == 2 and mine:
                own = written[mine.pop()]
                taken = PlaceTaken(fault.sentence, kind=kind, id=own.id, now=to_json(by_id[thing_id]), before=own.after)
                taken.where |= {k: v for k, v in fault.where.items() if k == "place"} | {
                    "edit": edit.id,
                    "other": thing_id,
                }
                raise taken from fault


def _say_where(fault: UsagiError, edit: Edit, ground: Ground) -> None:
    """Put the place of an edit's first note before a sentence that has none."""
    for change in edit.changes:
        tick = change.after.get("tick") if isinstance(change.after, dict) else None
        if isinstance(tick, int):
            place = ground.timeline.bars.place(tick)
            fault.where["place"] = place
            fault.sentence = f"At {place}: {fault.sentence}"
            return


def _ground_of(db: Db, desk: Desk, works: dict[UUID, _Work], work: _Work) -> Ground:
    assert work.ground_id is not None
    return _ground_now(db, desk, works, work.ground_id)[0]


def _written(edit: Edit, solo: Solo) -> Iterable[Note]:
    """The notes that an edit writes or moves; one that it only puts back where it was is taken as it is."""
    if edit.undoes is not None:
        return []
    touched = {change.id for change in edit.changes if change.kind is Kind.NOTE and change.after is not None}
    return [note for note in solo.notes if note.id in touched]


def _save(db: Db, desk: Desk, work: _Work) -> None:
    if not work.done:
        return
    before = work.version
    for edit in work.done:
        work.version += 1
        stored.add_edit(db, desk.scope, edit, work.version)
    stored.set_version(db, desk.scope, work.id, work.version)
    if work.version // SNAPSHOT_EVERY > before // SNAPSHOT_EVERY:
        stored.add_snapshot(db, desk.scope, work.id, work.version, to_json(work.document), EDIT_SCHEMA)
    stored.tell(db, desk.scope, work.id, work.version)


def _solo_now(db: Db, desk: Desk, works: dict[UUID, _Work], solo_id: UUID) -> tuple[Solo, int, UUID]:
    """A solo as the edits of this transaction leave it."""
    work = works.get(solo_id)
    if work is None or not isinstance(work.document, Solo) or work.ground_id is None:
        return desk.solo(db, solo_id)
    return work.document, work.version, work.ground_id


def _ground_now(db: Db, desk: Desk, works: dict[UUID, _Work], ground_id: UUID) -> tuple[Ground, int]:
    work = works.get(ground_id)
    if work is None or not isinstance(work.document, Ground):
        return desk.ground(db, ground_id)
    return work.document, work.version


def _refresh_rows(db: Db, desk: Desk, works: dict[UUID, _Work]) -> dict[UUID, list[BarFill]]:
    """Bring what the shelf shows up to date, for the solos changed and all that stand on a changed ground.

    Returns how their bars are filled.
    """
    touched = {work.id for work in works.values() if work.done and work.kind is DocumentKind.SOLO}
    for work in works.values():
        if work.done and work.kind is DocumentKind.GROUND:
            touched |= set(stored.solos_of_ground(db, desk.scope, work.id))
    fills = {}
    for solo_id in sorted(touched):
        solo, _, ground_id = _solo_now(db, desk, works, solo_id)
        ground, _ = _ground_now(db, desk, works, ground_id)
        player = player_named(db, desk.scope, solo.settings.player)
        fills[solo_id] = fill(solo, ground)
        summary = summary_of(solo, fills[solo_id])
        stored.set_solo(db, desk.scope, solo_id, title=solo.settings.title, player_id=player, summary=summary)
    return fills


def summary_of(solo: Solo, bars: list[BarFill]) -> dict[str, object]:
    """The miniature of a solo's strip, and what to do next."""
    questions = sum(question.answer is None for question in solo.questions)
    return {
        "bars": [[bar.bar, round(bar.filled, 3), bar.doubtful] for bar in bars],
        "full": sum(bar.filled >= 1 for bar in bars),
        "next": next_step(bars, questions),
        "doubtful": questions > 0,
        "disputed": bool(disputes(solo.settings.credits)),
    }


def _changed_marks(
    before: dict[str, NoteMark], now: dict[str, NoteMark], *, whole: bool
) -> tuple[dict[str, NoteMark | None], bool]:
    if whole:
        return dict(now), True
    changed: dict[str, NoteMark | None] = {
        i: mark for i, mark in now.items() if before.get(i) is not mark and before.get(i) != mark
    }
    return changed | dict.fromkeys(before.keys() - now.keys()), False
