"""The index of phrases kept up to date: solos that changed are read anew, licks follow them or freeze.

Derived all of it: `reindex` makes it again from nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from uuid import UUID

from usagi.core.degrees.solo_readings import readings
from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import SoloDocument, document_from_tree
from usagi.core.licks.drawn import short
from usagi.core.licks.entries import INDEX, Entry, Kept, Span, entries_of, entry_of, notes_between
from usagi.core.licks.letters import line_letters, stack_letters, step_letters
from usagi.core.licks.nearness import marks, packed
from usagi.core.licks.searching import motion_marks
from usagi.core.phrases.piece import cut
from usagi.core.portrait.portrait import summed
from usagi.core.portrait.tallies import tally
from usagi.flows.checking.sounded import heard_notes
from usagi.flows.studio.exchange import recording_reference
from usagi.flows.workspace import Workspace
from usagi.store import found as stored
from usagi.store import licks as kept_licks
from usagi.store.database import Db, transaction
from usagi.store.documents import heads
from usagi.store.licks import Lick
from usagi.store.titles import ground_place

MOST_BACK = 200  # versions that are looked through for the last state with a lick's notes
GONE, REMOVED = "its notes are gone from the solo", "its solo was removed"
Report = Callable[[int, int], None]


def index_stale(workspace: Workspace) -> int:
    """Read every solo of the studio anew that changed since it was read. Returns how many."""
    with transaction(workspace.pool) as db:
        stale = stored.stale_solos(db, workspace.scope.studio, INDEX)
    for solo_id in stale:
        index_solo(workspace, solo_id)
    return len(stale)


def reindex(workspace: Workspace, report: Report = lambda done, of: None) -> int:
    """The whole index of the studio made anew. Returns how many solos were read."""
    with transaction(workspace.pool) as db:
        stored.forget_all(db, workspace.scope.studio)
        for lick in kept_licks.frozen_licks(db, workspace.scope):
            _put_frozen(db, workspace, lick, lick.frozen)
        stale = stored.stale_solos(db, workspace.scope.studio, INDEX)
    for number, solo_id in enumerate(stale, start=1):
        index_solo(workspace, solo_id)
        report(number, len(stale))
    return len(stale)


def index_solo(workspace: Workspace, solo_id: UUID) -> None:
    """Read a solo anew; a removed one holds nothing. Its licks follow it, or freeze with their last notes."""
    studio = workspace.scope.studio
    sounded = heard_notes(workspace, solo_id)
    with transaction(workspace.pool) as db:
        stored.lock_solo(db, studio, solo_id)
        head = heads(db, workspace.scope, [solo_id]).get(solo_id)
        if head is None or head.ground_id is None:
            return
        licks = kept_licks.licks_of_solo(db, workspace.scope, solo_id)
        solo, version, ground_id = workspace.solo(db, solo_id)
        ground, ground_version = workspace.ground(db, ground_id)
        if head.removed:
            stored.put_spans(db, studio, solo_id, ())
            stored.forget_read(db, studio, solo_id)
            for lick in licks:
                _freeze(db, workspace, lick, solo, ground, ground_id, REMOVED)
            return
        there = [lick for lick in licks if notes_between(solo, lick.first_note, lick.last_note)]
        for lick in there:
            if lick.frozen is not None:
                kept_licks.set_frozen(db, studio, lick.id, None, "")
                stored.forget_lick(db, studio, lick.id)
        read = readings(solo, ground)
        own = [Kept(str(lick.id), lick.first_note, lick.last_note) for lick in there]
        entries = entries_of(solo, ground, own, read)
        if solo.settings.parent is not None or solo.settings.sources or solo.settings.melody:
            entries = [entry for entry in entries if entry.span.lick is not None]
        stored.put_spans(db, studio, solo_id, map(_row, entries))
        for lick in licks:
            if lick not in there:
                before = _last_with(db, workspace, solo_id, version, lick)
                if before is not None:
                    _freeze(db, workspace, lick, before, ground, ground_id, GONE)
        counted = tally(solo, ground, sounded, read)
        sums = summed(counted)
        stored.keep_read(
            db, studio, solo_id, version, ground_version, INDEX, counted.model_dump(mode="json"),
            None if sums is None else sums.notes, None if sums is None else sums.model_dump(mode="json"),
        )  # fmt: skip


def put_lick(db: Db, workspace: Workspace, lick_id: UUID, document: SoloDocument) -> None:
    """A lick that stands by itself, put into the index."""
    entry = entry_of(Span(document.solo.notes, lick=str(lick_id)), document.solo, document.ground)
    if entry is not None:
        stored.put_spans(db, workspace.scope.studio, None, [_row(entry)])


def _put_frozen(db: Db, workspace: Workspace, lick: Lick, tree: Any) -> None:
    stored.forget_lick(db, workspace.scope.studio, lick.id)
    put_lick(db, workspace, lick.id, document_from_tree(tree))


def _freeze(db: Db, workspace: Workspace, lick: Lick, solo: Solo, ground: Ground, ground_id: UUID, why: str) -> None:
    """Keep a lick's notes as a document of its own; one that is frozen already keeps those that it has."""
    tree = lick.frozen
    if tree is None:
        notes = notes_between(solo, lick.first_note, lick.last_note)
        if not notes:
            return
        place = ground_place(db, workspace.scope, ground_id)
        piece = cut(solo, ground, notes)
        document = SoloDocument(
            tune=place.tune,
            recording=recording_reference(db, workspace.scope, place.recording_id),
            ground=piece.ground,
            solo=piece.solo,
        )
        tree = document.model_dump(mode="json", by_alias=True)
    kept_licks.set_frozen(db, workspace.scope.studio, lick.id, tree, why)
    _put_frozen(db, workspace, lick, tree)


def _last_with(db: Db, workspace: Workspace, solo_id: UUID, version: int, lick: Lick) -> Solo | None:
    """The last state of a solo that has both ends of a lick."""
    for earlier in range(version - 1, max(-1, version - 1 - MOST_BACK), -1):
        solo, _, _ = workspace.solo(db, solo_id, earlier)
        if notes_between(solo, lick.first_note, lick.last_note):
            return solo
    return None


def _row(entry: Entry) -> stored.NewSpan:
    span, line = entry.span, entry.line
    return stored.NewSpan(
        lick_id=None if span.lick is None else UUID(span.lick),
        phrase=span.phrase,
        name=span.name,
        first_note=span.notes[0].id,
        last_note=span.notes[-1].id,
        tick=span.notes[0].tick,
        bar=entry.bar,
        line=line_letters(line),
        stacks=stack_letters(line),
        steps=step_letters(line),
        notes=len(line.slots),
        pulses=entry.pulses,
        tempo=entry.tempo_bpm,
        key=entry.key,
        starts_at=entry.starts_at,
        ends_at=entry.ends_at,
        start_slot=entry.start_slot,
        end_slot=entry.end_slot,
        low_fret=entry.low_fret,
        high_fret=entry.high_fret,
        thin=entry.thin,
        thick=entry.thick,
        feel=entry.feel,
        motion=motion_marks(entry.drawn.motion),
        techniques=[str(one) for one in entry.techniques],
        marks=marks(line),
        tokens=packed(line),
        drawn=short(entry.drawn),
    )
