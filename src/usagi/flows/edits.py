"""Taking in edits: all or nothing, with the labels that they changed (model.md, Edits)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID

from usagi.core.degrees.labels import Reader
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
)
from usagi.core.document.fill import Progress, fill, next_step, progress
from usagi.core.document.rules import Misfit, check_solo, misfits
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import Note
from usagi.core.errors import UsagiError
from usagi.core.playing.marks import NoteMark, Strip, Tables, mark_strip, mark_tables
from usagi.flows.desk import Desk, NotThere, new_id, now_text
from usagi.store import documents as stored
from usagi.store.database import Db, transaction
from usagi.store.studios import player_named

SNAPSHOT_EVERY = 200


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
        _refresh_rows(db, desk, works)
        solo, solo_version, _ = desk.solo(db, solo_id)
        ground, ground_version = desk.ground(db, ground_id)
        history = _history(db, desk, solo_id)
    before = desk.marks.of(solo_before, ground_before, reader)
    marks, whole = _changed_marks(before, desk.marks.of(solo, ground, reader), whole=bool(lacking))
    return Answer(
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        edits=lacking,
        marks=marks,
        whole=whole,
        strip=mark_strip(ground, style=reader.style) if ground is not ground_before or lacking else None,
        tables=mark_tables(solo) if solo.settings != solo_before.settings or lacking else None,
        misfits=misfits(solo, ground),
        progress=progress(solo, ground),
        history=history,
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
        content = apply(work.content, edit.changes)
        document = put_together(content)
        if isinstance(document, Solo):
            ground = _ground_of(db, desk, works, work)
            check_solo(document, ground, _written(edit, document))
    except UsagiError as fault:
        fault.where["edit"] = edit.id
        if "place" not in fault.where and work.kind is DocumentKind.SOLO:
            _say_where(fault, edit, _ground_of(db, desk, works, work))
        raise
    work.content, work.now = content, document
    work.done.append(edit)


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
    own = works.get(work.ground_id)
    ground = own.document if own is not None else desk.ground(db, work.ground_id)[0]
    assert isinstance(ground, Ground)
    return ground


def _written(edit: Edit, solo: Solo) -> Iterable[Note]:
    """The notes that an edit writes or moves; one that it only puts back where it was is taken as it is."""
    if edit.undoes is not None:
        return []
    touched = {change.id for change in edit.changes if change.kind is Kind.NOTE and change.after is not None}
    return [note for note in solo.notes if note.id in touched]


def _save(db: Db, desk: Desk, work: _Work) -> None:
    if not work.done:
        return
    version = work.version
    for edit in work.done:
        version += 1
        stored.add_edit(db, desk.scope, edit, version)
    stored.set_version(db, desk.scope, work.id, version)
    if version // SNAPSHOT_EVERY > work.version // SNAPSHOT_EVERY:
        stored.add_snapshot(db, desk.scope, work.id, version, to_json(work.document), EDIT_SCHEMA)
    desk.remember(work.id, version, work.document)


def _refresh_rows(db: Db, desk: Desk, works: dict[UUID, _Work]) -> None:
    """Bring what the shelf shows up to date, for the solos changed and all that stand on a changed ground."""
    touched = {work.id for work in works.values() if work.done and work.kind is DocumentKind.SOLO}
    for work in works.values():
        if work.done and work.kind is DocumentKind.GROUND:
            touched |= set(stored.solos_of_ground(db, desk.scope, work.id))
    for solo_id in sorted(touched):
        refresh_row(db, desk, solo_id)


def refresh_row(db: Db, desk: Desk, solo_id: UUID) -> None:
    """Write a solo's title, player and miniature to its row."""
    solo, _, ground_id = desk.solo(db, solo_id)
    ground, _ = desk.ground(db, ground_id)
    player = player_named(db, desk.scope, solo.settings.player)
    summary = summary_of(solo, ground)
    stored.set_solo(db, desk.scope, solo_id, title=solo.settings.title, player_id=player, summary=summary)


def summary_of(solo: Solo, ground: Ground) -> dict[str, object]:
    """The miniature of a solo's strip, and what to do next."""
    bars = fill(solo, ground)
    questions = sum(question.answer is None for question in solo.questions)
    return {
        "bars": [[bar.bar, round(bar.filled, 3), bar.doubtful] for bar in bars],
        "full": sum(bar.filled >= 1 for bar in bars),
        "next": next_step(bars, questions),
        "doubtful": questions > 0,
    }


def _changed_marks(
    before: dict[str, NoteMark], now: dict[str, NoteMark], *, whole: bool
) -> tuple[dict[str, NoteMark | None], bool]:
    if whole:
        return dict(now), True
    changed: dict[str, NoteMark | None] = {i: mark for i, mark in now.items() if before.get(i) != mark}
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


def _history(db: Db, desk: Desk, solo_id: UUID) -> History:
    done, back = _stacks(stored.acts(db, desk.scope, solo_id))
    return History(done[-1].label if done else None, back[-1].label if back else None)


def history(db: Db, desk: Desk, solo_id: UUID) -> History:
    return _history(db, desk, solo_id)


def undo(desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader = Reader()) -> Answer:
    """Take back this person's newest act made in a solo, by appending its inverse.

    Raises : NothingToUndo; EditConflict, when something was changed since.
    """
    return _take_back(desk, solo_id, versions, reader, redo=False)


def redo(desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader = Reader()) -> Answer:
    """Bring back what the last undo took. Raises : as `undo`."""
    return _take_back(desk, solo_id, versions, reader, redo=True)


def _take_back(desk: Desk, solo_id: UUID, versions: dict[str, int], reader: Reader, *, redo: bool) -> Answer:
    with transaction(desk.pool) as db:
        done, back = _stacks(stored.acts(db, desk.scope, solo_id))
        pile = back if redo else done
        if not pile:
            raise NothingToUndo(
                "There is nothing to bring back." if redo else "There is nothing of yours to take back."
            )
        target = pile[-1]
        edits = stored.edits_of_act(db, desk.scope, target.act)
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
    try:
        answer = accept(desk, solo_id, versions, inverse, reader)
    except EditConflict as fault:
        fault.args = (f"“{target.label}” cannot be taken back: {fault.sentence}",)
        fault.sentence = str(fault.args[0])
        raise
    return replace(answer, edits=[*answer.edits, *inverse])
