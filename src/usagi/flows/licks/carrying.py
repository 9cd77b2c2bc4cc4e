"""Licks carried elsewhere, drawn and heard: one place, all twelve keys, the skeleton alone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from usagi.core.audio import RATE_HZ
from usagi.core.audio.stretch import check_speed
from usagi.core.degrees.spoken import Reader
from usagi.core.licks.anywhere import Anywhere, Carried, Options, Order, all_twelve, carry, options, twelve_in_a_row
from usagi.core.licks.entries import Span, entry_of
from usagi.core.phrases.piece import Piece
from usagi.core.phrases.simplified import Rule, simplify, targets, without_targets
from usagi.core.values import Value
from usagi.core.view.licks import LickDrawing, view_drawn
from usagi.flows.licks.pieces import Taken, Which, take
from usagi.flows.sound.mixing import Count, Mix, mixed
from usagi.flows.sound.pieces import Hear, PieceImpossible, Source, pcm_of, sounded, wav_bytes
from usagi.flows.sound.pieces import Piece as SoundPiece
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store.database import transaction
from usagi.store.recordings import recording

BEFORE_S, AFTER_S = 0.05, 0.35  # what sounds around a lick
LONGEST_S = 300.0
VAMP_LEVEL = 0.8
AT_ONCE = 50 * RATE_HZ  # frames of one piece


class Part(StrEnum):
    """What of a lick is heard: all of it, its skeleton or its ornament alone."""

    ALL = "all"
    SKELETON = "skeleton"
    ORNAMENT = "ornament"


class CarriedView(Value):
    """A lick where it was wanted: its key there, drawn on bars of its own, and what was changed."""

    key: str
    drawing: LickDrawing
    says: tuple[str, ...]


class OptionsView(Value):
    """What can be asked of a lick."""

    key: str
    positions: tuple[int, ...]
    string_sets: tuple[tuple[int, int], ...]
    families: tuple[str, ...]
    qualities: tuple[str, ...]


class Twelve(Value):
    """A lick in all keys, and what cannot be done."""

    keys: tuple[CarriedView, ...]
    faults: tuple[str, ...]


def carried(workspace: Workspace, which: Which, wanted: Anywhere, reader: Reader = Reader()) -> CarriedView:
    """A lick somewhere else. Raises : NotThere; LickImpossible, with the nearest that goes."""
    return _view(carry(take(workspace, which).piece, wanted), reader)


def asked_of(workspace: Workspace, which: Which, wanted: Anywhere) -> OptionsView:
    """What can be asked of a lick where it goes. Raises : NotThere."""
    found: Options = options(take(workspace, which).piece, wanted.there)
    return OptionsView(
        key="" if found.key is None else str(found.key.tonic),
        positions=found.positions,
        string_sets=found.string_sets,
        families=found.families,
        qualities=tuple(str(one) for one in found.qualities),
    )


def twelve(workspace: Workspace, which: Which, wanted: Anywhere, order: Order, reader: Reader = Reader()) -> Twelve:
    """A lick in all keys, one after the other. Raises : NotThere; FigureImpossible, without a key."""
    done, faults = all_twelve(take(workspace, which).piece, wanted, order)
    return Twelve(keys=tuple(_view(one, reader) for one in done), faults=tuple(faults))


def _view(one: Carried, reader: Reader) -> CarriedView:
    key = one.piece.ground.timeline.facts_at(one.piece.start).key
    return CarriedView(key="" if key is None else str(key), drawing=drawing_of(one.piece, reader), says=one.says)


def drawing_of(piece: Piece, reader: Reader) -> LickDrawing:
    """A piece as it is drawn, its skeleton marked. Raises : NotThere, when it holds no pitch."""
    entry = entry_of(Span(piece.solo.notes), piece.solo, piece.ground)
    if entry is None:
        raise NotThere("There is no note with a pitch in it.")
    skeleton = {note.id for note in targets(piece.solo, piece.ground)}
    return view_drawn(entry.drawn, reader, targets=skeleton)


@dataclass(frozen=True, slots=True)
class Sounding:
    """How a lick is heard: by the recording it comes from, or by the program's own guitar; then with a vamp when asked,
    over its chords or over one chord."""

    speed_permille: int = 1_000
    clicks: bool = False
    chords: bool = False
    part: Part = Part.ALL
    vamp: bool = False
    over: str = ""


def recorded(workspace: Workspace, which: Which, how: Sounding) -> bytes:
    """A lick's own sound, as a WAV file. Raises : NotThere, without a recording or its sound."""
    found = take(workspace, which)
    source = _source(workspace, found)
    if source.recording is None or source.recording.frames is None:
        raise NotThere("The sound of this lick is not here: hear it by the program's own guitar.")
    grid = found.piece.ground.grid
    start, end = grid.second(found.piece.start) - BEFORE_S, grid.second(found.piece.end) + AFTER_S
    return _wav(workspace, source, start, end, how, Hear.RECORDING)


def voiced(workspace: Workspace, which: Which, wanted: Anywhere, how: Sounding) -> bytes:
    """A lick elsewhere, by the program's own guitar. Raises : NotThere, LickImpossible."""
    found = take(workspace, which)
    piece = carry(found.piece, wanted).piece
    return voice_of(workspace, piece, f"{found.key} {wanted}", how)


def twelve_voiced(workspace: Workspace, which: Which, wanted: Anywhere, order: Order, how: Sounding) -> bytes:
    """A lick in all keys in a row. Raises : NotThere, FigureImpossible."""
    found = take(workspace, which)
    done, faults = all_twelve(found.piece, wanted, order)
    if not done:
        raise NotThere(faults[0])
    return voice_of(workspace, twelve_in_a_row(done), f"{found.key} {wanted} {order}", how)


def voice_of(workspace: Workspace, piece: Piece, key: str, how: Sounding) -> bytes:
    """A piece that stands alone, whole bars of it, by the program's own guitar.

    `key` changes with what the piece holds.
    """
    if how.part is Part.SKELETON:
        piece = Piece(simplify(piece.solo, piece.ground, (Rule.TARGETS,), new_id).solo, piece.ground)
    elif how.part is Part.ORNAMENT:
        piece = Piece(without_targets(piece.solo, piece.ground), piece.ground)
    source = Source(None, piece.solo, piece.ground, key, f"{key} {how.part}")
    end = piece.ground.grid.second(piece.ground.timeline.bars.end_tick) + AFTER_S
    if not how.vamp:
        return _wav(workspace, source, 0.0, end, how, Hear.CHORDS if how.chords else Hear.WRITING)
    count = Count.CLICKS if how.clicks else Count.NONE
    mix = Mix(recording=0.0, voice=1.0, vamp=VAMP_LEVEL, count=count, over=how.over)
    return _joined(0.0, end, how, lambda wanted: mixed(workspace, source, wanted, mix))


def _wav(workspace: Workspace, source: Source, start_s: float, end_s: float, how: Sounding, hear: Hear) -> bytes:
    def play(wanted: SoundPiece) -> bytes:
        return sounded(workspace, source, replace(wanted, clicks=how.clicks, hear=hear))

    return _joined(start_s, end_s, how, play)


def _joined(start_s: float, end_s: float, how: Sounding, play: Callable[[SoundPiece], bytes]) -> bytes:
    """Pieces that are played one after the other, as one WAV file."""
    check_speed(how.speed_permille, 0.0)
    if (end_s - start_s) * 1_000 / how.speed_permille > LONGEST_S:
        raise PieceImpossible(f"That is longer than {LONGEST_S / 60:.0f} minutes: take fewer bars, or a higher speed.")
    first, last = round(start_s * RATE_HZ), round(end_s * RATE_HZ)
    parts = []
    for at in range(first, last, AT_ONCE):
        parts.append(pcm_of(play(SoundPiece(at, min(last, at + AT_ONCE), how.speed_permille))))
    return wav_bytes(np.concatenate(parts))


def _source(workspace: Workspace, found: Taken) -> Source:
    with transaction(workspace.pool) as db:
        sound = None if found.recording_id is None else recording(db, workspace.scope, found.recording_id)
    piece = found.piece
    return Source(sound, piece.solo, piece.ground, found.key if sound is None else sound.sha256, found.key)
