"""All that can be heard in a recording before a solo is begun, asked for at once."""

from __future__ import annotations

from uuid import UUID, uuid4

from usagi.flows.listening.first_look import KINDS, key_of_first
from usagi.flows.listening.found import EstimateKind
from usagi.flows.setup.estimates import Estimate, look
from usagi.flows.sound.pieces import the_recording
from usagi.flows.workspace import Workspace
from usagi.store import estimates as stored
from usagi.store import hearing as kept
from usagi.store.database import transaction
from usagi.store.queue import Lane, line_up


def look_first(workspace: Workspace, recording_id: UUID) -> list[Estimate]:
    """Ask for all that can be heard before a solo is begun; what was found or is under way is not asked again.

    Raises : NotThere, when the recording has no sound.
    """
    the_recording(workspace, recording_id)
    return [_one(workspace, recording_id, kind) for kind in KINDS]


def _one(workspace: Workspace, recording_id: UUID, kind: EstimateKind) -> Estimate:
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        known = stored.of_recording(db, studio, recording_id, kind)
        if known is None:
            known = uuid4()
            stored.add(db, studio, known, kind, {}, recording=recording_id)
            found = kept.heard(db, studio, recording_id, key_of_first(kind))
            if found is None:
                line_up(db, studio, known, Lane.WHOLE, first=True)
            else:
                stored.end(db, studio, known, "done", found)
    return look(workspace, known)
