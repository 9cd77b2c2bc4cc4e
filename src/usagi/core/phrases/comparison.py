"""Two states of a line compared note by note: added, gone, moved, played otherwise.

A version keeps the ids of what it came from, so its notes are found by id. Lines of two recordings share none: their
notes are found by place, bar by bar, the nearest onset of the same pitch first.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from usagi.core.degrees.words import technique_words
from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.bars import Bars
from usagi.core.meter.ticks import EIGHTH, length_words


class DifferenceKind(StrEnum):
    ADDED = "added"
    GONE = "gone"
    MOVED = "moved"
    OTHERWISE = "otherwise"


@dataclass(frozen=True)
class Difference:
    """One note that differs. `here` and `there` are ids in the two lines, `tick` where it stands in this one."""

    kind: DifferenceKind
    here: str | None
    there: str | None
    tick: int
    where: str
    sentence: str


def compare(here: Solo, there: Solo, bars: Bars) -> list[Difference]:
    """What this line has otherwise than that one, in time order."""
    theirs = {note.id: note for note in there.notes}
    mine = {note.id: note for note in here.notes}
    pairs: Mapping[str, Note] = {note_id: theirs[note_id] for note_id in mine if note_id in theirs}
    if len(pairs) * 2 < min(len(mine), len(theirs)):
        pairs = _by_place(here, there)
    taken = {note.id for note in pairs.values()}
    found = []
    for note in here.notes:
        other = pairs.get(note.id)
        place = bars.place(note.tick)
        if other is None:
            said_new = f"{place}: {_short(note)} is added."
            found.append(Difference(DifferenceKind.ADDED, note.id, None, note.tick, place, said_new))
            continue
        differs = _otherwise(note, other, here.settings, there.settings, bars)
        if differs is not None:
            found.append(Difference(differs[0], note.id, other.id, note.tick, place, f"{place}: {differs[1]}"))
    for note in there.notes:
        if note.id not in taken:
            place = bars.place(note.tick)
            said_gone = f"{place}: {_short(note)} is gone."
            found.append(Difference(DifferenceKind.GONE, None, note.id, note.tick, place, said_gone))
    return sorted(found, key=lambda one: (one.tick, one.here or "", one.there or ""))


def _by_place(here: Solo, there: Solo) -> Mapping[str, Note]:
    """Notes of two lines that stand at most an eighth apart; the same pitch first, then the nearest."""
    pairs: dict[str, Note] = {}
    free = list(there.notes)
    for same_pitch in (True, False):
        for note in here.notes:
            if note.id in pairs:
                continue
            near = [
                o
                for o in free
                if abs(o.tick - note.tick) < EIGHTH and (not same_pitch or _sounds(note, here) == _sounds(o, there))
            ]
            if near:
                best = min(near, key=lambda other: (abs(other.tick - note.tick), other.string))
                pairs[note.id] = best
                free.remove(best)
    return pairs


def _sounds(note: Note, solo: Solo) -> float | None:
    return written_pitch(note, solo.settings)


def _otherwise(
    note: Note, other: Note, mine: SoloSettings, theirs: SoloSettings, bars: Bars
) -> tuple[DifferenceKind, str] | None:
    parts = []
    kind = DifferenceKind.OTHERWISE
    if note.tick != other.tick:
        kind = DifferenceKind.MOVED
        parts.append(f"from {bars.place(other.tick)}")
    if (note.string, note.fret) != (other.string, other.fret):
        same = written_pitch(note, mine) == written_pitch(other, theirs)
        if note.tick == other.tick and same:
            kind = DifferenceKind.MOVED
        parts.append(f"{_place(note)} for {_place(other)}" + (", the same pitch" if same else ""))
    words, before = technique_words(note), technique_words(other)
    if words != before or note.course != other.course or note.vibrato != other.vibrato:
        parts.append(f"{_said(words)}, was {_said(before)}")
    if note.ticks != other.ticks:
        parts.append(f"{length_words(note.ticks)} long, was {length_words(other.ticks)}")
    if note.finger != other.finger or note.pick != other.pick:
        parts.append("other fingers or strokes")
    return (kind, "; ".join(parts) + ".") if parts else None


def _said(words: Sequence[str]) -> str:
    return ", ".join(words) or "plain"


def _place(note: Note) -> str:
    return f"string {note.string}" + ("" if note.fret is None else f" fret {note.fret / HUNDREDTHS:g}")


def _short(note: Note) -> str:
    return ", ".join([_place(note), *technique_words(note)])
