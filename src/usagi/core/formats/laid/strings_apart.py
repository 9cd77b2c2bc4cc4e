"""Strings for notes that start together, where no hand was found for them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.fretboard.places import HUNDREDTHS, Place, places_of

STRETCH: Final = 4  # frets that a hand spans without moving


def own_strings(notes: Sequence[Note], pinned: set[str], settings: SoloSettings) -> list[Note]:
    """Notes that start together on strings of their own, as near to each other as can be, where no hand was found."""
    found: list[Note] = []
    for _, together in groupby(sorted(notes, key=lambda one: one.tick), key=lambda one: one.tick):
        group = list(together)
        if len({note.string for note in group}) == len(group):
            found += group
            continue
        taken = {note.string for note in group if note.id in pinned or note.fret is None}
        free = [note for note in group if note.id not in pinned and note.fret is not None]
        found += [note for note in group if note not in free]
        found += _spread(free, taken, settings)
    return found


def _spread(notes: Sequence[Note], taken: set[int], settings: SoloSettings) -> list[Note]:
    """Notes on different strings with the least distance between their frets; those without one stay where they are."""
    options = []
    for note in sorted(notes, key=lambda one: -(written_pitch(one, settings) or 0)):
        pitch = int(written_pitch(note, settings) or 0)
        places = places_of(pitch, settings.tuning, settings.capo, settings.last_fret)
        options.append((note, [place for place in places if place.string not in taken]))
    best: tuple[int, int, dict[str, Place]] | None = None

    def seek(at: int, used: dict[str, Place]) -> None:
        nonlocal best
        if at == len(options):
            frets = [place.fret for place in used.values() if place.fret]
            beyond = max(0, max(frets, default=0) - min(frets, default=0) - STRETCH)
            cost = (len(options) - len(used), 100 * beyond + sum(frets))
            if best is None or cost < best[:2]:
                best = (*cost, dict(used))
            return
        note, places = options[at]
        strings = {place.string for place in used.values()}
        for place in places:
            if place.string not in strings:
                used[note.id] = place
                seek(at + 1, used)
                del used[note.id]
        if best is None or at + 1 - len(used) <= best[0]:
            seek(at + 1, used)

    seek(0, {})
    chosen = best[2] if best is not None else {}
    return [
        note
        if note.id not in chosen
        else note.model_copy(update={"string": chosen[note.id].string, "fret": chosen[note.id].fret * HUNDREDTHS})
        for note in notes
    ]
