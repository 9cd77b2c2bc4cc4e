"""What was heard of each written note: in its check, else when it was written from an offer."""

from __future__ import annotations

from collections.abc import Mapping
from uuid import UUID

from usagi.core.checking.heard import HeardOf
from usagi.core.document.solo import Solo
from usagi.core.listening.heard import HeardNote
from usagi.core.readings.feel import Sounded
from usagi.flows.checking.sound import kept_of, kept_sound
from usagi.flows.sound.pieces import source_of
from usagi.flows.workspace import NotThere, Workspace
from usagi.store.database import transaction


def sounded(solo: Solo, heard: Mapping[str, HeardNote]) -> dict[str, Sounded]:
    """Heard notes by note id, from the pairs of the check."""
    found = {
        note_id: Sounded(one.onset_s, one.end_s, tuple(float(cents) for cents in one.cents))
        for note_id, one in heard.items()
    }
    for note in solo.notes:
        if note.heard is not None:
            found.setdefault(note.id, Sounded(note.heard.onset_s, note.heard.end_s, note.heard.cents))
    return found


def heard_notes(workspace: Workspace, solo_id: UUID) -> dict[str, Sounded]:
    """What was heard of a solo earlier; nothing is listened to, and a solo that is gone has nothing."""
    try:
        with transaction(workspace.pool) as db:
            source = source_of(db, workspace, solo_id, sounds=False)
            keys, hints = kept_of(db, workspace, source, solo_id)
            if not keys:
                return sounded(source.solo, {})
            sound = kept_sound(db, workspace, source, hints, keys)
    except NotThere:
        return {}
    return sounded(source.solo, HeardOf().notes(source.solo, source.ground, sound))
