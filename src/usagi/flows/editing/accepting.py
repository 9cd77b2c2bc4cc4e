"""Taking in edits: each act whole or not at all, with what follows and the labels that changed (docs/model.md)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TypeVar
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.coverage import BarCoverage, Progress, coverage, next_step, progress
from usagi.core.document.credits import disputes
from usagi.core.document.edits import EDIT_SCHEMA, DocumentKind, Edit, to_json, written_out
from usagi.core.document.rules import Violation, violations
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.view.notes import NoteView
from usagi.core.view.strip import Strip, view_strip
from usagi.core.view.tables import Tables, view_tables
from usagi.flows.editing.history import History, history
from usagi.flows.editing.judging import Refused, Work, ground_now, judge, solo_now, work_on
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import documents as stored
from usagi.store.database import Db, read_consistently, transaction
from usagi.store.studios import player_named

SNAPSHOT_EVERY = 200
Document = TypeVar("Document", Solo, Ground)


class SoloRemoved(UsagiError):
    """Edits of a solo that has been removed."""

    code = "solo-removed"


class PageAhead(UsagiError):
    """A page that knows a later version than is stored: a backup was restored meanwhile."""

    code = "page-ahead"


@dataclass(frozen=True)
class Answer:
    """What brings a page up to date, from the versions `since` to `versions`: every edit between, completed, in order.

    `views` holds None for notes that are gone; `whole` says they are all here.
    """

    since: dict[str, int]
    versions: dict[str, int]
    edits: list[Edit]
    refused: list[Refused]
    views: dict[str, NoteView | None]
    whole: bool
    strip: Strip | None
    tables: Tables | None
    violations: list[Violation]
    progress: Progress
    history: History
    messages: list[str] = field(default_factory=list)  # what was found on the way, in sentences


def accept(
    workspace: Workspace,
    solo_id: UUID,
    versions: dict[str, int],
    edits: Sequence[Edit],
    reader: Reader = Reader(),
    *,
    exact: bool = False,
    messages: Sequence[str] = (),
) -> Answer:
    """Store edits made in a solo, all or nothing, and answer what changed.

    `versions` are those that the page knows. `exact` edits lead to a state that was there before: nothing gives way.
    `messages` go into the answer.

    Raises : EditConflict and the rules' errors with the first edit that failed; NotThere, SoloRemoved, PageAhead.
    """
    return _take(workspace, solo_id, versions, edits, reader, exact=exact, each=False, messages=messages)


def accept_each(
    workspace: Workspace, solo_id: UUID, versions: dict[str, int], edits: Sequence[Edit], reader: Reader = Reader()
) -> Answer:
    """As `accept`, each act by itself: one that fails is left out and answered with its reason, the others are stored.

    Raises : NotThere, SoloRemoved, PageAhead.
    """
    return _take(workspace, solo_id, versions, edits, reader, exact=False, each=True)


def _take(
    workspace: Workspace,
    solo_id: UUID,
    versions: dict[str, int],
    edits: Sequence[Edit],
    reader: Reader,
    *,
    exact: bool,
    each: bool,
    messages: Sequence[str] = (),
) -> Answer:
    """Edits that are stored already are passed over, so that sending twice is harmless.

    Versions and edits of the answer are of one moment: writers lock the solo and its ground, readers read one snapshot.
    """
    with transaction(workspace.pool) as db:
        if not edits:
            read_consistently(db)
        wanted = {solo_id, *(UUID(edit.document) for edit in edits), *map(UUID, versions)}
        heads = stored.heads(db, workspace.scope, wanted, with_ground_of=solo_id, lock=bool(edits))
        solo_head = heads.get(solo_id)
        if solo_head is None or solo_head.ground_id is None:
            raise NotThere("This solo is not here any more.", solo=str(solo_id))
        if edits and solo_head.removed:
            raise SoloRemoved(
                "This solo was removed. Restore it on the shelf to go on; what you wrote since is kept here."
            )
        ground_id = solo_head.ground_id
        ground_head = heads[ground_id]
        solo_before, ground_before = workspace.solo_at(db, solo_head), workspace.ground_at(db, ground_head)
        touched = {UUID(edit.document) for edit in edits} | ({solo_id, ground_id} if edits else set())
        works = {head.id: work_on(db, workspace, head) for head in heads.values() if head.id in touched}
        known = stored.known_edits(db, workspace.scope, list(works), [edit.id for edit in edits])
        since, missed = _missed(db, workspace, versions, heads, (solo_id, ground_id))
        _tell_beliefs(works, edits, known)
        new = [edit for edit in edits if (edit.document, edit.id) not in known]
        refused = judge(db, workspace, works, new, exact=exact, each=each)
        for work in works.values():
            _save(db, workspace, work)
        coverages = _refresh_rows(db, workspace, works)
        past = history(db, workspace, solo_id)
    for work in works.values():  # not before it is stored: a state that was rolled back must never be read
        if work.done:
            workspace.remember(work.id, work.version, work.document)
    solo, solo_version = _now(works, solo_head, solo_before)
    ground, ground_version = _now(works, ground_head, ground_before)
    before = workspace.views(
        (solo_id, solo_head.version, solo_before), (ground_id, ground_head.version, ground_before), reader
    )
    now = workspace.views((solo_id, solo_version, solo), (ground_id, ground_version, ground), reader, before)
    views, whole = _changed_views(before.notes, now.notes, whole=bool(missed))
    return Answer(
        since=since,
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        edits=[*missed, *(edit for work in works.values() for edit in work.done)],
        refused=refused,
        views=views,
        whole=whole,
        strip=view_strip(ground, reader) if ground is not ground_before or missed else None,
        tables=view_tables(solo) if solo.settings != solo_before.settings or missed else None,
        violations=violations(solo, ground),
        progress=progress(coverages[solo_id] if solo_id in coverages else coverage(solo, ground), solo, ground),
        history=past,
        messages=[*(sentence for work in works.values() for sentence in work.messages), *messages],
    )


def _now(works: dict[UUID, Work], head: stored.Head, before: Document) -> tuple[Document, int]:
    """A document after the edits, and its version."""
    work = works.get(head.id)
    if work is None:
        return before, head.version
    document = work.document
    assert isinstance(document, type(before))
    return document, work.version


def _tell_beliefs(works: dict[UUID, Work], sent: Sequence[Edit], known: dict[tuple[str, str], Edit]) -> None:
    """For edits that were stored but whose answer was lost: what followed from them, which the page does not know."""
    for edit in sent:
        work = works.get(UUID(edit.document))
        there = known.get((edit.document, edit.id))
        if work is not None:
            work.believed.own.add(edit.id)
        if work is not None and there is not None:
            work.believed.learn(written_out(edit).changes, edit.follows, there.whole)


def _missed(
    db: Db, workspace: Workspace, versions: dict[str, int], heads: dict[UUID, stored.Head], own: tuple[UUID, UUID]
) -> tuple[dict[str, int], list[Edit]]:
    """From which versions the answer leads on, and the edits that the page lacks up to now.

    Raises : PageAhead.
    """
    since, missed = {}, []
    for document in dict.fromkeys([*own, *map(UUID, versions)]):
        head = heads.get(document)
        if head is None:
            continue
        version = since[str(document)] = versions.get(str(document), head.version)
        if version > head.version:
            raise PageAhead(
                "A backup was restored, and it is older than this page. The page shows what is saved now.",
                version=head.version,
            )
        if version < head.version:
            missed += stored.edits_since(db, workspace.scope, document, version, head.version)
    return since, missed


def _save(db: Db, workspace: Workspace, work: Work) -> None:
    if not work.done:
        return
    before = work.version
    for edit in work.done:
        work.version += 1
        stored.add_edit(db, workspace.scope, edit, work.version)
    stored.set_version(db, workspace.scope, work.id, work.version)
    if work.version // SNAPSHOT_EVERY > before // SNAPSHOT_EVERY:
        stored.add_snapshot(db, workspace.scope, work.id, work.version, to_json(work.document), EDIT_SCHEMA)
    stored.tell(db, workspace.scope, work.id, work.version)


def _refresh_rows(db: Db, workspace: Workspace, works: dict[UUID, Work]) -> dict[UUID, list[BarCoverage]]:
    """Bring what the shelf shows up to date, for the solos changed and all that stand on a changed ground.

    Returns how their bars are filled.
    """
    touched = {work.id for work in works.values() if work.done and work.kind is DocumentKind.SOLO}
    for work in works.values():
        if work.done and work.kind is DocumentKind.GROUND:
            touched |= set(stored.solos_of_ground(db, workspace.scope, work.id))
    coverages = {}
    for solo_id in sorted(touched):
        solo, _, ground_id = solo_now(db, workspace, works, solo_id)
        ground, _ = ground_now(db, workspace, works, ground_id)
        coverages[solo_id] = coverage(solo, ground)
        summary = summary_of(solo, coverages[solo_id])
        stored.set_solo(db, workspace.scope, solo_id, title=solo.settings.title, summary=summary)
        before = works[solo_id].before if solo_id in works else solo
        if isinstance(before, Solo) and before.settings.player != solo.settings.player:
            stored.set_player(db, workspace.scope, solo_id, player_named(db, workspace.scope, solo.settings.player))
    return coverages


def _thousandths(share: float) -> float:
    return share if share in (0.0, 1.0) else round(share, 3)  # nearly all are full or empty, and rounding is slow


def summary_of(solo: Solo, bars: list[BarCoverage]) -> dict[str, object]:
    """The miniature of a solo's strip, and what to do next."""
    questions = sum(question.answer is None for question in solo.questions)
    return {
        "bars": [[bar.bar, _thousandths(bar.filled), bar.doubtful] for bar in bars],
        "full": sum(bar.filled >= 1 for bar in bars),
        "next": next_step(bars, questions),
        "doubtful": questions > 0,
        "questions": questions,
        "disputed": bool(disputes(solo.settings.credits)),
    }


def _changed_views(
    before: dict[str, NoteView], now: dict[str, NoteView], *, whole: bool
) -> tuple[dict[str, NoteView | None], bool]:
    if whole:
        return dict(now), True
    changed: dict[str, NoteView | None] = {
        i: view for i, view in now.items() if before.get(i) is not view and before.get(i) != view
    }
    return changed | dict.fromkeys(before.keys() - now.keys()), False
