"""Notes heard in a span of a recording, by whoever takes the job; kept, so that they are heard once."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from functools import cache
from typing import Any
from uuid import UUID

import numpy as np
import soxr

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.listening import spectrum
from usagi.core.listening.heard import HeardNote, Hearing
from usagi.core.listening.hints import Hints, Side
from usagi.core.listening.listen import LISTENER, Nets, listen, offset_of, span_line
from usagi.core.listening.net import AROUND_S, load_judge, load_net
from usagi.core.listening.stored import from_stored, to_stored
from usagi.flows.sound.pieces import Channels, Source, frames_of, of_channels
from usagi.flows.workspace import NotThere, Workspace
from usagi.media.models import model
from usagi.store import hearing as stored
from usagi.store.database import transaction

MOST_BYTES = 64_000_000  # kept of what was heard, in a studio
OF_FREE = 100  # and no more than a hundredth of what is free on the disk: it is what goes first when room is short
NEAR_S = 0.05  # between what is heard and what was said to be no note
AROUND = round((AROUND_S + 0.1) * RATE_HZ)
SIDES = {
    Side.BOTH: Channels.BOTH,
    Side.LEFT: Channels.LEFT,
    Side.RIGHT: Channels.RIGHT,
    Side.CENTRE: Channels.MIDDLE,
    Side.SIDES: Channels.SIDE,
}


@cache
def nets(*, quick: bool = False) -> Nets:
    """The nets, loaded once in a process."""
    name = "quick" if quick else "listener"
    return Nets(load_net(model(name)), load_judge(model(f"{name}-judge")))


def warm() -> None:
    """Load what listens before it is asked for."""
    nets()
    nets(quick=True)


def key_of(source: Source, start: int, end: int, hints: Hints) -> str:
    """Of a span in frames of the recording, the hints, the recording's offset and the listener's number."""
    parts = [LISTENER, start, end, hints.model_dump(mode="json"), round(source.ground.settings.offset_cents, 1)]
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()[:32]


def heard_before(workspace: Workspace, source: Source, key: str) -> Hearing | None:
    """What is kept under a key; None when it was not heard, or was thrown away since."""
    assert source.recording is not None
    with transaction(workspace.pool) as db:
        found = stored.heard(db, workspace.scope.studio, source.recording.id, key)
    return None if found is None else from_stored(found)


def hear(
    workspace: Workspace, source: Source, start: int, end: int, hints: Hints, report: Report = unreported
) -> Hearing:
    """The notes between two frames, in seconds of the recording; kept under their key."""
    assert source.recording is not None
    pcm = frames_of(workspace, source, start - AROUND, end + AROUND)
    found = heard_in(of_channels(pcm, SIDES[hints.side]), hints, source.ground.settings.offset_cents, report)
    stored_as = to_stored(found.moved(start / RATE_HZ))
    keep(workspace, source.recording.id, key_of(source, start, end, hints), stored_as)
    return from_stored(stored_as)


def keep(workspace: Workspace, recording_id: UUID, key: str, found: Any) -> None:
    """Keep what was heard as long as there is room for it."""
    most = min(MOST_BYTES, workspace.cache.free_bytes // OF_FREE)
    with transaction(workspace.pool) as db:
        stored.keep_heard(db, workspace.scope.studio, recording_id, key, found, most=most)


def is_refused(note: HeardNote, none: Sequence[stored.NoNote]) -> bool:
    """Whether somebody said that a heard note is none."""
    midi = None if note.dead else note.midi
    return any(abs(one.second - note.onset_s) < NEAR_S and one.midi == midi for one in none)


def heard_in(sound: Sound, hints: Hints, stated_cents: float, report: Report = unreported) -> Hearing:
    """The notes of a sound at 48 kHz that has `AROUND` frames on both sides; seconds count from behind those."""
    mixed = sound.mean(axis=1, dtype=np.float32)
    line = soxr.resample(mixed, RATE_HZ, spectrum.RATE_HZ).astype(np.float32)
    first = round(AROUND / RATE_HZ * spectrum.RATE_HZ)
    length = round((len(mixed) - 2 * AROUND) / RATE_HZ * spectrum.RATE_HZ)
    cents = offset_of(mixed[AROUND : len(mixed) - AROUND, None], stated_cents)
    span = span_line(line, first, first + length)
    return listen(span, nets(quick=hints.quick), hints, cents=cents, report=report)


def frames_between(source: Source, start: int, end: int) -> tuple[int, int]:
    """The frames of a span of ticks, inside the recording. Raises : NotThere."""
    if source.recording is None or source.recording.frames is None:
        raise NotThere("There is no recording here in which notes could be heard.")
    grid = source.ground.grid
    begin = max(0, round(grid.second(start) * RATE_HZ))
    last = min(source.recording.frames, round(grid.second(end) * RATE_HZ))
    if last - begin < RATE_HZ // 10:
        raise NotThere("This span lies outside the recording, or is shorter than a tenth of a second.")
    return begin, last


def hints_before(workspace: Workspace, solo_id: UUID, start: int, end: int) -> Hints | None:
    """The hints with which this span was listened to, or one that lies over most of it; None when it was not."""
    with transaction(workspace.pool) as db:
        workspace.solo(db, solo_id)
        found: dict[str, Any] | None = stored.hints(db, workspace.scope.studio, solo_id, start, end)
    return None if found is None else Hints.model_validate(found)
