"""What does not agree in a solo: told, drawn close, mended, waived."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from uuid import UUID

from cachetools import LRUCache

from usagi.core.checking.check import Checked, Checker, Sound
from usagi.core.checking.finding import Finding, FindingKind
from usagi.core.checking.mending import mended
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import WaiverChoice
from usagi.core.fingering.hand import HandSize
from usagi.core.view.findings import CheckView, CloserView, view_check, view_closer
from usagi.flows.checking.sound import kept_of, kept_sound
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit, load
from usagi.flows.setup.chart import change_chord
from usagi.flows.sound.pieces import source_of
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import checks as stored
from usagi.store.database import transaction

OPEN_CHECKS = 8
GONE = "This finding is not there any more: look at the list again."
_K = FindingKind


@dataclass
class _Open:
    """A solo that is being checked: what was heard of it, under which keys, and what was made of it."""

    keys: tuple[str, ...]
    sound: Sound
    checker: Checker
    lock: threading.Lock


_open: LRUCache[tuple[UUID, UUID], _Open] = LRUCache(OPEN_CHECKS)
_guard = threading.Lock()


def check(workspace: Workspace, solo_id: UUID, hand: HandSize = HandSize.USUAL) -> CheckView:
    """Everything that does not agree. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    sound, checked = _checked(workspace, loaded, hand)
    with transaction(workspace.pool) as db:
        solo_version, ground_version = (loaded.versions[str(one)] for one in (solo_id, loaded.ground_id))
        stored.keep_check(
            db, workspace.scope.studio, solo_id, solo_version, ground_version, len(checked.findings), checked.done
        )
    return view_check(checked, sound, loaded.solo, loaded.ground, loaded.versions)


def closer(workspace: Workspace, solo_id: UUID, finding_id: str, hand: HandSize = HandSize.USUAL) -> CloserView:
    """A finding drawn close: what is written and what is heard, in semitones over seconds. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    sound, checked = _checked(workspace, loaded, hand)
    return view_closer(_finding(checked, finding_id), sound, loaded.solo, loaded.ground)


def mend(
    workspace: Workspace,
    solo_id: UUID,
    finding_id: str,
    hand: HandSize = HandSize.USUAL,
    reader: Reader = Reader(),
) -> Answer:
    """Do what a finding's key does, as one edit. Raises : NotThere; NotMended."""
    loaded = load(workspace, solo_id)
    _, checked = _checked(workspace, loaded, hand)
    finding = _finding(checked, finding_id)
    if finding.kind is _K.CHORD:
        change = loaded.ground.timeline.chord_at(finding.tick)
        assert change is not None
        return change_chord(workspace, solo_id, change.id, finding.symbol, change.bar, reader)
    after = mended(loaded.solo, loaded.ground, finding, new_id, hand)
    return commit(workspace, loaded, finding.mend[:1].lower() + finding.mend[1:], reader, solo=after)


def waive(
    workspace: Workspace,
    solo_id: UUID,
    finding_id: str,
    reason: str,
    hand: HandSize = HandSize.USUAL,
    reader: Reader = Reader(),
) -> Answer:
    """Let a finding stand, as one edit. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    _, checked = _checked(workspace, loaded, hand)
    finding = _finding(checked, finding_id)
    waiver = WaiverChoice(
        id=new_id(), finding=str(finding.kind), notes=finding.notes, judged=finding.judged, reason=reason.strip()
    )
    after = loaded.solo.model_copy(update={"choices": (*loaded.solo.choices, waiver)})
    return commit(workspace, loaded, "waive a finding", reader, solo=after)


def take_up_again(workspace: Workspace, solo_id: UUID, waiver_id: str, reader: Reader = Reader()) -> Answer:
    """End a waiver, as one edit. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    left = tuple(one for one in loaded.solo.choices if one.id != waiver_id or not isinstance(one, WaiverChoice))
    if len(left) == len(loaded.solo.choices):
        raise NotThere("This is not waived any more.")
    return commit(workspace, loaded, "end a waiver", reader, solo=loaded.solo.model_copy(update={"choices": left}))


def _finding(checked: Checked, finding_id: str) -> Finding:
    found = next((one for one in (*checked.findings, *checked.waived) if one.id == finding_id), None)
    if found is None:
        raise NotThere(GONE)
    return found


def sound_of(workspace: Workspace, loaded: Loaded) -> Sound:
    """What was heard of a solo so far; empty without a recording."""
    return _opened(workspace, loaded).sound


def _checked(workspace: Workspace, loaded: Loaded, hand: HandSize) -> tuple[Sound, Checked]:
    """What is heard of a solo, and what does not agree."""
    now = _opened(workspace, loaded)
    with now.lock:
        return now.sound, now.checker.check(loaded.solo, loaded.ground, now.sound, hand)


def _opened(workspace: Workspace, loaded: Loaded) -> _Open:
    """A solo that is checked again and again, with what is heard of it now."""
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, loaded.solo_id, sounds=False)
        keys, hints = kept_of(db, workspace, source, loaded.solo_id)
        with _guard:
            now = _open.get((studio, loaded.solo_id))
        if now is None or now.keys != keys:
            sound = kept_sound(db, workspace, source, hints, keys) if keys else Sound()
            checker, lock = (Checker(), threading.Lock()) if now is None else (now.checker, now.lock)
            now = _Open(keys, sound, checker, lock)
            with _guard:
                _open[studio, loaded.solo_id] = now
    return now
