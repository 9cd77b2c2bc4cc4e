"""A line of the plan as it is practised: what is seen, and what is heard."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from usagi.core.audio.cuts import piece_end
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.degrees.spoken import Reader
from usagi.core.fingering.hand import HandSize
from usagi.core.view.practice import PracticeView, view_practice
from usagi.flows.editing.changing import load
from usagi.flows.sound.mixing import RECORDED_KEY, Mix, count_in_sound, mixed
from usagi.flows.sound.pieces import Piece, bounded, joint, source_of
from usagi.flows.workspace import Workspace
from usagi.store.database import transaction
from usagi.store.recordings import recording
from usagi.store.titles import ground_place


def read_practice(
    workspace: Workspace,
    solo_id: UUID,
    key: str,
    *,
    around: bool = False,
    hand: HandSize = HandSize.USUAL,
    reader: Reader = Reader(),
) -> PracticeView:
    """A line to play from. Raises : NotThere, PlanImpossible."""
    loaded = load(workspace, solo_id)
    with transaction(workspace.pool) as db:
        place = ground_place(db, workspace.scope, loaded.ground_id)
        sound = None if place.recording_id is None else recording(db, workspace.scope, place.recording_id)
    return view_practice(
        loaded.solo,
        loaded.ground,
        key,
        tune=place.tune,
        recorded=sound is not None and sound.frames is not None,
        recorded_key=RECORDED_KEY,
        around=around,
        hand=hand,
        reader=reader,
    )


def practice_piece(
    workspace: Workspace, solo_id: UUID, wanted: Piece, mix: Mix, report: Report = unreported
) -> tuple[bytes, int]:
    """A piece of what is practised with, a WAV file, and the frame at which it ends.

    Raises : NotThere, PieceImpossible, SpeedImpossible.
    """
    until = wanted.end
    if wanted.number is not None and wanted.end > wanted.start:
        wanted = replace(wanted, end=piece_end(wanted.start, wanted.number, wanted.end))
    bounded(wanted)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id, sounds=mix.recording_sounds)
    if wanted.number is not None and wanted.end < until and mix.recording_sounds:
        wanted = replace(wanted, end=min(until, joint(workspace, source, wanted)))
    return mixed(workspace, source, wanted, mix, report), wanted.end


def practice_count_in(workspace: Workspace, solo_id: UUID, tick: int, speed_permille: int, mix: Mix) -> bytes:
    """One bar counted before a tick, a WAV file. Raises : NotThere, SpeedImpossible."""
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id, sounds=False)
    return count_in_sound(source, tick, speed_permille, mix)
