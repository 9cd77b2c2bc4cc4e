"""What was heard of each written note: the pairs of the whole solo, stretch by stretch."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, field

from usagi.core.checking.check import AROUND_S, Sound, stretches
from usagi.core.checking.pairing import paired, written_at
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.listening.heard import HeardNote
from usagi.core.playing.timing import expected_seconds


@dataclass
class HeardOf:
    """Pairs one solo with its sound again and again; stretches in which no note changed are kept."""

    _under: tuple[object, ...] = ()
    _made: dict[tuple[int, int], tuple[Sequence[Note], dict[str, HeardNote]]] = field(default_factory=dict)

    def notes(self, solo: Solo, ground: Ground, sound: Sound) -> dict[str, HeardNote]:
        """The heard note of each written one that has one, by id; only where the sound was listened to."""
        under = (solo.settings, ground, sound)
        if len(self._under) != len(under) or any(a is not b for a, b in zip(self._under, under, strict=True)):
            self._under, self._made = under, {}
        before, self._made = self._made, {}
        onsets = [note.tick for note in solo.notes]
        found: dict[str, HeardNote] = {}
        for start, end in stretches(solo, ground):
            notes = solo.notes[bisect_left(onsets, start) : bisect_left(onsets, end)]
            was = before.get((start, end))
            if was is None or not _same(was[0], notes):
                was = (notes, _of_stretch(notes, start, end, solo, ground, sound, onsets))
            self._made[start, end] = was
            found |= was[1]
        return found


def _same(one: Sequence[Note], other: Sequence[Note]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))


def _of_stretch(
    notes: Sequence[Note], start: int, end: int, solo: Solo, ground: Ground, sound: Sound, onsets: Sequence[int]
) -> dict[str, HeardNote]:
    start_s, end_s = ground.grid.second(start), ground.grid.second(end)
    if not notes or not sound.covers(max(0.0, start_s), end_s):
        return {}
    edges = sorted({tick for note in notes for tick in (note.tick, note.end)})
    second = dict(zip(edges, expected_seconds(solo, ground, edges, onsets), strict=True))
    written = [written_at(note, solo.settings, second[note.tick], second[note.end]) for note in notes]
    known = [one for one in written if one is not None]
    hearing = sound.hearing.between(start_s - AROUND_S, end_s + AROUND_S)
    heard = [note for note in hearing.notes if not note.dead]
    return {known[i].note.id: heard[j] for i, j in paired(known, heard).pairs}
