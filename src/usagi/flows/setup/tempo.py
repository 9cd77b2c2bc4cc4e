"""The tempo of a solo's ground beside what is heard in its recording."""

from __future__ import annotations

from uuid import UUID

import numpy as np

from usagi.core.audio import RATE_HZ
from usagi.core.audio.onsets import onsets_of
from usagi.core.view.tempo import TempoView, view_tempo
from usagi.flows.editing.changing import load
from usagi.flows.listening.first_look import key_of_first
from usagi.flows.listening.found import EstimateKind, Found, all_frames
from usagi.flows.sound.pieces import Source, mono_parts, source_of
from usagi.flows.workspace import Workspace
from usagi.store import hearing as kept
from usagi.store.database import transaction

ONSETS = 1  # number of this way to find them; raised when it would find others


def read_tempo(workspace: Workspace, solo_id: UUID) -> TempoView:
    """The tempo of every bar, how far beats lie from the onsets, and the beats that were heard. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id, sounds=False)
        sound = source.recording
        known = (
            None
            if sound is None
            else kept.heard(db, workspace.scope.studio, sound.id, key_of_first(EstimateKind.BEATS))
        )
    if sound is None or sound.frames is None:
        return view_tempo(loaded.ground, first_bar=loaded.solo.settings.first_bar)
    beats = () if known is None else Found.model_validate(known).paces[0].beats
    return view_tempo(loaded.ground, _onsets(workspace, source), beats, loaded.solo.settings.first_bar)


def _onsets(workspace: Workspace, source: Source) -> list[float]:
    """The onsets of a recording in seconds; cached by the recording's digest."""
    assert source.recording is not None

    def make() -> bytes:
        return onsets_of(mono_parts(workspace, source, 0, all_frames(source))).astype("<i8").tobytes()

    data = workspace.cache.get(("onsets", ONSETS, source.recording.sha256), make)
    return [float(one) for one in np.frombuffer(data, "<i8") / RATE_HZ]
