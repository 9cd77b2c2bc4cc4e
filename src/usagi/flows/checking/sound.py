"""A whole solo heard for its check, in pieces that lie fixed in the recording: no edit makes one of them old."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from uuid import UUID

from usagi.core.audio import RATE_HZ
from usagi.core.audio.chords import ChordHeard, hear_chords
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.checking.check import Sound
from usagi.core.checking.chords import ChordSpan
from usagi.core.document.solo import Ground, Solo
from usagi.core.listening.heard import Hearing
from usagi.core.listening.hints import Company, Hints
from usagi.core.listening.stored import from_stored
from usagi.flows.listening.hearing import hear, heard_before, is_refused, keep, key_of
from usagi.flows.sound.pieces import Source, frames_of
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import hearing as stored
from usagi.store.database import Db, transaction

PIECE = 12 * RATE_HZ  # frames
AROUND = RATE_HZ  # frames that are heard before and after the solo's bars
CHORDS = 1  # number of this way to hear chords; rises when it finds otherwise
LEAST_CHORD_S = 0.4
AT_ONCE = 32  # chords, so that a long solo is never held whole
LAST_S = 1e6  # of any recording


def ticks_of(solo: Solo, ground: Ground) -> tuple[int, int]:
    """From the solo's first bar to the end of its last that is there."""
    bars = ground.timeline.bars
    first, last = bars.number(solo.settings.first_bar), bars.number(solo.settings.last_bar)
    return (bars.first_tick if first is None else first.tick, bars.end_tick if last is None else last.end)


def pieces_of(source: Source) -> list[tuple[int, int]]:
    """Frames of the recording in which the solo lies. Raises : NotThere, without a recording."""
    if source.recording is None or source.recording.frames is None:
        raise NotThere("There is no recording here that the writing could be held against.")
    start, end = (source.ground.grid.second(tick) for tick in ticks_of(source.solo, source.ground))
    first, last = max(0, round(start * RATE_HZ) - AROUND), min(source.recording.frames, round(end * RATE_HZ) + AROUND)
    return [
        (begin, min(begin + PIECE, source.recording.frames))
        for begin in range(first // PIECE * PIECE, last, PIECE)
        if min(begin + PIECE, source.recording.frames) - begin >= RATE_HZ // 10
    ]


def hear_solo(workspace: Workspace, source: Source, hints: Hints, report: Report = unreported) -> int:
    """Hear the pieces of a solo that are not kept yet, then its chords. Returns how many notes are heard in all."""
    assert source.recording is not None
    pieces = pieces_of(source)
    count = 0
    for i, (begin, last) in enumerate(pieces):
        kept = heard_before(workspace, source, key_of(source, begin, last, hints))
        found = hear(workspace, source, begin, last, hints) if kept is None else kept
        count += len(found.notes)
        report((i + 1) / (len(pieces) + 1))
    if hints.company is not Company.ALONE:
        spans = _chord_spans(source)
        key = _chord_key(source, spans)
        with transaction(workspace.pool) as db:
            there = stored.keys_there(db, workspace.scope.studio, source.recording.id, [key])
        if not there:
            keep(workspace, source.recording.id, key, _chords(workspace, source, spans))
    report(1.0)
    return count


def _chord_spans(source: Source) -> list[tuple[int, int]]:
    """Ticks of every chord of the chart in the solo's bars that lasts long enough to be heard."""
    timeline, grid = source.ground.timeline, source.ground.grid
    start, end = ticks_of(source.solo, source.ground)
    spans = [(change.tick, timeline.end_of(i)) for i, change in enumerate(timeline.changes)]
    return [
        (a, min(b, end))
        for a, b in spans
        if start <= a < end and grid.second(min(b, end)) - grid.second(a) >= LEAST_CHORD_S
    ]


def _chord_key(source: Source, spans: list[tuple[int, int]]) -> str:
    seconds = [[round(source.ground.grid.second(tick), 2) for tick in span] for span in spans]
    parts = [CHORDS, seconds, round(source.ground.settings.offset_cents, 1)]
    return "chords " + hashlib.sha256(json.dumps(parts).encode()).hexdigest()[:32]


def _chords(workspace: Workspace, source: Source, spans: list[tuple[int, int]]) -> list[list[list[object]]]:
    second = source.ground.grid.second
    found: list[list[list[object]]] = []
    for at in range(0, len(spans), AT_ONCE):
        some = spans[at : at + AT_ONCE]
        begin, end = round(second(some[0][0]) * RATE_HZ), round(second(some[-1][1]) * RATE_HZ)
        sound = frames_of(workspace, source, begin, end, mono=True)
        seconds = [(second(a) - begin / RATE_HZ, second(b) - begin / RATE_HZ) for a, b in some]
        heard = hear_chords(sound, seconds, cents=source.ground.settings.offset_cents)
        found += [[[chord.root, chord.quality, round(chord.belief, 3)] for chord in likely] for likely in heard]
    return found


def kept_of(db: Db, workspace: Workspace, source: Source, solo_id: UUID) -> tuple[tuple[str, ...], Hints]:
    """Keys of what is kept of a solo's sound, none without a recording, and the hints that it was heard with."""
    if source.recording is None or source.recording.frames is None:
        return (), Hints()
    told = stored.hints(db, workspace.scope.studio, solo_id, *ticks_of(source.solo, source.ground))
    hints = Hints() if told is None else Hints.model_validate(told)
    return kept_keys(db, workspace, source, hints), hints


def kept_keys(db: Db, workspace: Workspace, source: Source, hints: Hints) -> tuple[str, ...]:
    """Keys of what is kept of a solo's sound, and what was said to be no note; the same keys are the same sound."""
    assert source.recording is not None
    wanted = [key_of(source, begin, last, hints) for begin, last in pieces_of(source)]
    wanted.append(_chord_key(source, _chord_spans(source)))
    there = stored.keys_there(db, workspace.scope.studio, source.recording.id, wanted)
    refused = stored.no_notes(db, workspace.scope.studio, source.recording.id, 0.0, LAST_S)
    return (*(key for key in wanted if key in there), *(str(one.id) for one in refused))


def kept_sound(db: Db, workspace: Workspace, source: Source, hints: Hints, keys: tuple[str, ...]) -> Sound:
    """What is kept under keys, put together."""
    assert source.recording is not None
    studio, recording = workspace.scope.studio, source.recording.id
    refused = stored.no_notes(db, studio, recording, 0.0, LAST_S)
    listened, hearings = [], []
    for begin, last in pieces_of(source):
        key = key_of(source, begin, last, hints)
        value = stored.heard(db, studio, recording, key) if key in keys else None
        if value is not None:
            ends = last == source.recording.frames  # behind the recording there is nothing to listen to
            listened.append((begin / RATE_HZ, LAST_S if ends else last / RATE_HZ))
            hearings.append(from_stored(value))
    return Sound(
        listened=tuple(listened),
        hearing=_joined(hearings, refused),
        chords=_kept_chords(db, studio, recording, source, keys),
        banded=hints.company is not Company.ALONE,
    )


def _joined(hearings: list[Hearing], refused: Sequence[stored.NoNote]) -> Hearing:
    """Pieces in order; what two of them heard where they meet is there once, and what is no note not at all."""
    notes = sorted((note for one in hearings for note in one.notes), key=lambda note: (note.onset_s, note.midi))
    single = [
        note
        for i, note in enumerate(notes)
        if not is_refused(note, refused)
        and not any(b.midi == note.midi and note.onset_s - b.onset_s < 0.05 for b in notes[max(0, i - 4) : i])
    ]
    faint = sorted((faint for one in hearings for faint in one.faint), key=lambda faint: faint.onset_s)
    return Hearing(tuple(single), tuple(faint))


def _kept_chords(db: Db, studio: UUID, recording: UUID, source: Source, keys: tuple[str, ...]) -> tuple[ChordSpan, ...]:
    spans = _chord_spans(source)
    key = _chord_key(source, spans)
    value = stored.heard(db, studio, recording, key) if key in keys else None
    return tuple(
        ChordSpan(a, b, tuple(ChordHeard(int(root), str(quality), float(belief)) for root, quality, belief in likely))
        for (a, b), likely in zip(spans, value or [], strict=False)
    )
