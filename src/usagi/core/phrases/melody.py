"""A solo held against the tune's own line: where it states it, decorates it, answers it or leaves it (docs/music.md).

The melody is written once; what it has in a bar of a section stands under that bar whenever the section is played.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import main_stage, stages
from usagi.core.document.solo import Ground, Solo
from usagi.core.meter.ticks import length_words

STATED: Final = 0.75  # of the melody's notes
MORE: Final = 0.25  # as many notes more, at most, for a statement
DECORATED: Final = 0.5  # of the melody's notes on pulses
ANSWERED: Final = 0.5  # of the phrase's onsets, in rests of the melody
OCTAVE: Final = 12


class Treatment(StrEnum):
    """What a phrase does with the melody; the first that applies."""

    STATES = "states"
    DECORATES = "decorates"
    ANSWERS = "answers"
    LEAVES = "leaves"


@dataclass(frozen=True)
class Treated:
    """A phrase and the melody under it: pairs of note ids (of the melody, of the solo), and what was changed."""

    phrase: str
    name: str
    start: int
    end: int
    treatment: Treatment
    pairs: tuple[tuple[str, str], ...]
    of: int  # notes of the melody there
    says: str


@dataclass(frozen=True, slots=True)
class _Laid:
    """A note of the melody where it stands under the solo."""

    note: Note
    tick: int
    end: int
    midi: float


def treated(solo: Solo, melody: Solo, ground: Ground) -> list[Treated]:
    """Every phrase of a solo against the melody on the same ground.

    Parameters
    ----------
    solo : its phrases are judged; notes that stand in none are not.
    melody : the tune's line, in one chorus at least.
    """
    laid = _laid(melody, ground)
    found = []
    for phrase in solo.phrases:
        notes = [note for note in solo.notes if phrase.start <= note.tick < phrase.end]
        under = [one for one in laid if one.tick < phrase.end and one.end > phrase.start]
        if notes:
            found.append(_treated(phrase.id, phrase.name, phrase.start, phrase.end, notes, under, solo, ground))
    return found


def _laid(melody: Solo, ground: Ground) -> list[_Laid]:
    """The melody under every chorus: a bar of a section has what the melody plays where it comes first."""
    timeline = ground.timeline
    own: dict[tuple[str, int], list[Note]] = {}
    begins: dict[tuple[str, int], int] = {}
    for note in melody.notes:
        bar = timeline.bars.at(note.tick)
        played = timeline.played.get(bar.number)
        if played is not None:
            place = (played.section, played.index)
            if begins.setdefault(place, bar.tick) == bar.tick:
                own.setdefault(place, []).append(note)
    found = []
    for bar in timeline.bars.bars:
        played = timeline.played.get(bar.number)
        if played is None:
            continue
        here = (played.section, played.index)
        for note in own.get(here, ()):
            main = main_stage(stages(note, melody.settings))
            if main is not None:
                by = bar.tick - begins[here]
                found.append(_Laid(note, note.tick + by, note.end + by, main.midi))
    return sorted(found, key=lambda one: one.tick)


def _treated(
    phrase: str, name: str, start: int, end: int, notes: Sequence[Note], under: Sequence[_Laid], solo: Solo,
    ground: Ground,
) -> Treated:  # fmt: skip
    bars = ground.timeline.bars
    pitches = {note.id: main.midi for note in notes if (main := main_stage(stages(note, solo.settings))) is not None}
    there = [one for one in under if start <= one.tick < end]
    pairs: list[tuple[_Laid, Note]] = []
    free = [note for note in notes if note.id in pitches]
    for one in there:
        reach = bars.at(one.tick).pulse_at(one.tick)[2] // 2
        near = [
            note for note in free
            if abs(note.tick - one.tick) <= reach and (pitches[note.id] - one.midi) % OCTAVE == 0
        ]  # fmt: skip
        if near:
            best = min(near, key=lambda note: (abs(note.tick - one.tick), note.tick))
            pairs.append((one, best))
            free.remove(best)
    on_pulses = [one for one in there if bars.at(one.tick).pulse_at(one.tick)[1] == one.tick]
    met = {id(one) for one, _ in pairs}
    treatment = Treatment.LEAVES
    if there and len(pairs) >= STATED * len(there) and len(pitches) - len(pairs) <= MORE * len(there):
        treatment = Treatment.STATES
    elif on_pulses and sum(id(one) in met for one in on_pulses) >= DECORATED * len(on_pulses):
        treatment = Treatment.DECORATES
    elif under and sum(_in_rest(note, under, ground) for note in notes) >= ANSWERED * len(notes):
        treatment = Treatment.ANSWERS
    return Treated(
        phrase,
        name,
        start,
        end,
        treatment,
        tuple((one.note.id, note.id) for one, note in pairs),
        len(there),
        _words(treatment, pairs, there, len(pitches), pitches),
    )


def _in_rest(note: Note, under: Sequence[_Laid], ground: Ground) -> bool:
    """Whether the melody rests for a pulse or more around a note's onset."""
    if any(one.tick <= note.tick < one.end for one in under):
        return False
    pulse = ground.timeline.bars.at(note.tick).pulse_at(note.tick)[2]
    before = max((one.end for one in under if one.end <= note.tick), default=note.tick - pulse)
    after = min((one.tick for one in under if one.tick > note.tick), default=note.tick + pulse)
    return after - before >= pulse


def _words(
    treatment: Treatment,
    pairs: Sequence[tuple[_Laid, Note]],
    there: Sequence[_Laid],
    count: int,
    pitches: dict[str, float],
) -> str:
    match treatment:
        case Treatment.LEAVES:
            return (
                f"leaves the melody: it meets {len(pairs)} of {len(there)} notes" if there else "has no melody under it"
            )
        case Treatment.ANSWERS:
            return "answers the melody, in its rests"
        case _:
            said = [f"{len(pairs)} of its {len(there)} notes"]
    more = count - len(pairs)
    if more:
        said.append(f"{more} more between")
    late = [note.tick - one.tick for one, note in pairs if note.tick != one.tick]
    if late:
        ways = {"late" if by > 0 else "early" for by in late}
        way = ways.pop() if len(ways) == 1 else "moved"
        said.append(f"{len(late)} {way}, by {length_words(max(map(abs, late)))} at most")
    octaves = {round((pitches[note.id] - one.midi) / OCTAVE) for one, note in pairs}
    if len(octaves) == 1 and (by := octaves.pop()):
        said.append(f"{'an octave' if abs(by) == 1 else f'{abs(by)} octaves'} {'higher' if by > 0 else 'lower'}")
    return f"{treatment} the melody: {', '.join(said)}"
