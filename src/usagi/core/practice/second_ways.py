"""Second ways to play some notes, for whom the first is too hard: by a rule, or in another place of the neck."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.writing import NewId
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.search import Search, Way
from usagi.core.fingering.words import ordinal
from usagi.core.phrases.piece import cut
from usagi.core.phrases.simplified import Rule, simplify
from usagi.core.playing.timing import expected_seconds

RULES = {
    Rule.NO_BENDS: "slide instead of the bend",
    Rule.NO_ORNAMENTS: "plain, without ornaments",
    Rule.SINGLE_NOTES: "single notes",
    Rule.TARGETS: "the target notes only",
}


@dataclass(frozen=True)
class SecondWay:
    """Notes that stand for those that are written, and what is different, in words."""

    words: str
    notes: tuple[Note, ...]


def second_ways(
    solo: Solo, ground: Ground, start: int, end: int, new_id: NewId, hand: HandSize = HandSize.USUAL
) -> list[SecondWay]:
    """What else the notes that start in `[start, end)` can become; only what differs from them, each once.

    Parameters
    ----------
    solo, ground : what is written.
    start, end : ticks.
    new_id : of the notes, which are never those of the solo.
    hand : how far it reaches.
    """
    notes = [note for note in solo.notes if start <= note.tick < end]
    if not notes:
        return []
    piece = cut(solo, ground, notes)
    found = []
    for rule, words in RULES.items():
        simpler = simplify(piece.solo, ground, (rule,), new_id).solo.notes
        if simpler and _look(simpler) != _look(notes):
            found.append(SecondWay(words, _own(simpler, new_id)))
    ticks = sorted({note.tick for note in notes})
    seconds = dict(zip(ticks, expected_seconds(solo, ground, ticks), strict=True))
    for way in Search(notes, solo.settings, seconds, hand=hand).ways():
        moved = _laid(notes, way)
        if _look(moved) != _look(notes):
            found.append(SecondWay(f"around the {ordinal(way.position)} fret", _own(moved, new_id)))
    kept: list[SecondWay] = []
    for one in found:
        if all(_look(one.notes) != _look(other.notes) for other in kept):
            kept.append(one)
    return kept


def _laid(notes: list[Note], way: Way) -> list[Note]:
    places = {place.note: place for place in way.places}
    return [
        note.model_copy(update={"string": places[note.id].string, "fret": places[note.id].fret})
        if note.id in places
        else note
        for note in notes
    ]


def _look(notes: list[Note] | tuple[Note, ...]) -> list[dict[str, object]]:
    return [note.model_dump(mode="json", exclude={"id", "stack", "heard"}) for note in notes]


def _own(notes: list[Note] | tuple[Note, ...], new_id: NewId) -> tuple[Note, ...]:
    return tuple(note.model_copy(update={"id": new_id(), "stack": None, "heard": None}) for note in notes)
