"""Taking in edits: all or nothing, with the labels that they changed (model.md, Edits)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID

from usagi.core.degrees.spoken import Reader
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
    what_applies,
    written_out,
)
from usagi.core.document.fill import BarFill, Progress, fill, next_step, progress
from usagi.core.document.rules import Misfit, RuleBroken, check_solo, misfits
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import Note
from usagi.core.errors import UsagiError
from usagi.core.playing.marks import NoteMark, Strip, Tables, mark_strip, mark_tables
from usagi.flows.desk import Desk, NotThere, new_id, now_text
from usagi.store import documents as stored
from usagi.store.database import Db, transaction
from usagi.store.studios import player_named

SNAPSHOT_EVERY = 200


class PlaceTaken(EditConflict):
    """Two people wrote to one place: what this edit writes there, and what stands there already."""

    code = "place-taken"


class NothingToUndo(UsagiError):
    """There is no act of this person here to take back or to bring again."""

    code = "nothing-to-undo"


@dataclass(frozen=True, slots=True)
class History:
    """The labels of the acts that undo and redo would take next."""

    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Answer:
    """What brings a page up to date. `marks` holds None for notes that are gone; `whole` says they are all here."""

    versions: dict[str, int]
    edits: list[Edit]
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

    @property
    def document(self) -> Solo | Ground:
        return self.now if self.now is not None else self.before


def accept(
    desk: Desk,
    solo_id: UUID,
    versions: dict[str, int],
    edits: Sequence[Edit],
    reader: Reader = Reader(),
) -> Answer:
    """Store edits made in a solo, and answer what changed.

    Edits that are stored already are passed over, so that sending twice is harmless.

    Raises : EditConflict and the rules' errors with the first edit that failed; NotThere.
    """
    with transaction(desk.pool) as db:
        solo_before, _, ground_id = desk.solo(db, solo_id)
        ground_before, _ = desk.ground(db, ground_id)
        works = _locked(db, desk, {UUID(edit.document) for edit in edits})
        known = stored.known_edits(db, desk.scope, list(works), [edit.id for edit in edits])
        lacking = _lacking(db, desk, versions, {edit.id for edit in edits})
        for edit in edits:
            if (edit.document, edit.id) not in known:
                _apply(db, desk, works, edit)
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
    marks, whole = _changed_marks(before.notes, now.notes, whole=bool(lacking))
    return Answer(
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        edits=lacking,
        marks=marks,
        whole=whole,
        strip=mark_strip(ground, reader) if ground is not ground_before or lacking else None,
        tables=mark_tables(solo) if solo.settings != solo_before.settings or lacking else None,
        misfits=misfits(solo, ground),
        progress=progress(fills[solo_id] if solo_id in fills else fill(solo, ground), ground),
        history=past,
    )


def _locked(db: Db, desk: Desk, ids: set[UUID]) -> dict[UUID, _Work]:
    works = {}
    for found in stored.lock_heads(db, desk.scope, sorted(ids)):
        kind = DocumentKind(found.kind)
        document = desk.solo(db, found.id)[0] if kind is DocumentKind.SOLO else desk.ground(db, found.id)[0]
        works[found.id] = _Work(found.id, kind, found.version, document, take_apart(document), found.ground_id)
    if len(works) < len(ids):
        raise NotThere("The document that you changed is not here any more.")
    return works


def _lacking(db: Db, desk: Desk, versions: dict[str, int], sent: set[str]) -> list[Edit]:
    """The edits of others since the versions that the page knows."""
    found: list[Edit] = []
    for document, version in versions.items():
        now = stored.head(db, desk.scope, UUID(document))
        if now is not None and now.version > version:
            found += [e for e in stored.edits_since(db, desk.scope, now.id, version, now.version) if e.id not in sent]
    return found


def _apply(db: Db, desk: Desk, works: dict[UUID, _Work], edit: Edit) -> None:
    work = works[UUID(edit.document)]
    try:
        edit = written_out(edit)
        content = apply(work.content, edit.changes)
        document = put_together(content)
        if isinstance(document, Solo):
            ground = _ground_of(db, desk, works, work)
            check_solo(document, ground, _written(edit, document))
    except UsagiError as fault:
        if isinstance(fault, RuleBroken):
            _say_both(fault, edit, work)
        fault.where["edit"] = edit.id
        if "place" not in fault.where and work.kind is DocumentKind.SOLO:
            _say_where(fault, edit, _ground_of(db, desk, works, work))
        raise
    work.content, work.now = content, document
    work.done.append(edit)


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


def _stacks(acts: Sequence[stored.Act]) -> tuple[list[stored.Act], list[stored.Act]]:
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


def history(db: Db, desk: Desk, solo_id: UUID) -> History:
    done, back = _stacks(stored.acts(db, desk.scope, solo_id))
    return History(done[-1].label if done else None, back[-1].label if back else None)


def undo(
    desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader = Reader(), *, rest: bool = False
) -> Answer:
    """Take back this person's newest act made in a solo, by appending its inverse.

    `rest` leaves out what somebody changed since; that is possible within one document only.

    Raises : NothingToUndo; EditConflict, when something was changed since.
    """
    return _take_back(desk, solo_id, versions, reader, redo=False, rest=rest)


def redo(desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader = Reader()) -> Answer:
    """Bring back what the last undo took. Raises : as `undo`."""
    return _take_back(desk, solo_id, versions, reader, redo=True, rest=False)


def _take_back(
    desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader, *, redo: bool, rest: bool
) -> Answer:
    with transaction(desk.pool) as db:
        desk.solo(db, solo_id)  # that it is there
        done, back = _stacks(stored.acts(db, desk.scope, solo_id))
        pile = back if redo else done
        if not pile:
            raise NothingToUndo(
                "There is nothing to bring back." if redo else "There is nothing of yours to take back."
            )
        target = pile[-1]
        edits = stored.edits_of_act(db, desk.scope, target.act)
        one_document = len({edit.document for edit in edits}) == 1
        content = take_apart(desk.solo(db, solo_id)[0]) if one_document and edits[0].document == str(solo_id) else None
    act, at = new_id(), now_text()
    inverse = [
        Edit(
            id=new_id(),
            act=act,
            document=edit.document,
            made_in=str(solo_id),
            undoes=target.act,
            person=str(desk.scope.person),
            at=at,
            label=f"{'redo' if redo else 'undo'}: {target.label}"[:120],
            changes=tuple(change.inverse() for change in reversed(edit.changes)),
        )
        for edit in reversed(edits)
    ]
    if rest and content is not None:
        inverse = _what_is_left(inverse, content)
        if not inverse:
            raise NothingToUndo(f"Everything in “{target.label}” was changed since; nothing of it is left to undo.")
    try:
        answer = accept(desk, solo_id, versions, inverse, reader)
    except EditConflict as fault:
        fault.args = (f"“{target.label}” cannot be taken back: {fault.sentence}",)
        fault.sentence = str(fault.args[0])
        fault.where["rest"] = "possible" if content is not None and not redo else None
        raise
    return replace(answer, edits=[*answer.edits, *inverse])


def _what_is_left(edits: list[Edit], content: Content) -> list[Edit]:
    """The edits without the changes of things that are not as these expect them."""
    found = []
    for edit in edits:
        content, changes, _ = what_applies(content, edit.changes)
        if changes:
            found.append(edit.model_copy(update={"changes": tuple(changes)}))
    return found
