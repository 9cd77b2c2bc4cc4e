"""What was heard of each written note: the pairs of the whole solo, stretch by stretch."""

from __future__ import annotations

from usagi.core.checking.check import AROUND_S, Sound, stretches
from usagi.core.checking.pairing import paired, written_at
from usagi.core.document.solo import Ground, Solo
from usagi.core.listening.heard import HeardNote
from usagi.core.playing.timing import expected_seconds


def heard_of(solo: Solo, ground: Ground, sound: Sound) -> dict[str, HeardNote]:
    """The heard note of each written one that has one, by id; only where the sound was listened to."""
    found: dict[str, HeardNote] = {}
    onsets = [note.tick for note in solo.notes]
    for start, end in stretches(solo, ground):
        notes = [note for note in solo.notes if start <= note.tick < end]
        start_s, end_s = ground.grid.second(start), ground.grid.second(end)
        if not notes or not sound.covers(max(0.0, start_s), end_s):
            continue
        edges = sorted({tick for note in notes for tick in (note.tick, note.end)})
        second = dict(zip(edges, expected_seconds(solo, ground, edges, onsets), strict=True))
        written = [written_at(note, solo.settings, second[note.tick], second[note.end]) for note in notes]
        known = [one for one in written if one is not None]
        hearing = sound.hearing.between(start_s - AROUND_S, end_s + AROUND_S)
        heard = [note for note in hearing.notes if not note.dead]
        found |= {known[i].note.id: heard[j] for i, j in paired(known, heard).pairs}
    return found
