"""The hand map: the positions that a span uses on the neck, the grips that they belong to, how often the hand moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.fingering.search import Way
from usagi.core.fingering.words import ordinal
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import parse_tuning

# Where the root of an open-chord family lies when its shape is moved up: (string, frets above the position). It is the
# lowest string of the shape, so that a family is at home wherever the strings from there on lie as in the usual tuning.
FAMILIES = {"E": (6, (0, 1)), "A": (5, (0, 1)), "D": (4, (0, 1)), "G": (6, (2, 3, 4)), "C": (5, (2, 3, 4))}
_STANDARD = parse_tuning("standard").midi


@dataclass(frozen=True, slots=True)
class Stay:
    """A stretch that the hand plays from one position; frets are whole, and None where only open strings sound."""

    start: int
    end: int
    position: int
    lowest: int | None
    highest: int | None
    notes: int
    grip: str  # "E grip of Am7", empty where none is known


@dataclass(frozen=True)
class HandMap:
    stays: tuple[Stay, ...]
    moves: int
    sentence: str


def hand_map(notes: Sequence[Note], way: Way, settings: SoloSettings, timeline: Timeline) -> HandMap:
    """The stays of a way in time order; a stay ends where the hand moves or the chord under it changes its grip."""
    by_id = {note.id: note for note in notes}
    groups: list[list[tuple[Note, int, int]]] = []
    before: tuple[int, str] | None = None
    for place in way.places:
        note = by_id[place.note]
        here = place.position, grip(place.position, timeline.chord_at(note.tick), settings)
        if here != before:
            groups.append([])
            before = here
        groups[-1].append((note, place.fret // HUNDREDTHS, place.position))
    stays = []
    for group in groups:
        frets = [fret for _, fret, _ in group if fret > 0]
        first = group[0]
        stays.append(
            Stay(
                start=first[0].tick,
                end=max(note.end for note, _, _ in group),
                position=first[2],
                lowest=min(frets, default=None),
                highest=max(frets, default=None),
                notes=len(group),
                grip=grip(first[2], timeline.chord_at(first[0].tick), settings),
            )
        )
    moves = sum(one.position != other.position for one, other in pairwise(stays))
    return HandMap(tuple(stays), moves, _sentence(stays, moves))


def grip(position: int, chord: Change | None, settings: SoloSettings) -> str:
    """The movable shape of a chord under a position; empty where the tuning has none there.

    Where two families reach the root, the one whose root lies nearer to the index is named. In an open tuning a finger
    laid across the strings is a grip too, of chords with the same third.
    """
    if chord is None or chord.heard is None:
        return ""
    root, open_strings = chord.heard.root.pitch_class, [midi + settings.capo for midi in settings.tuning]
    reached = [
        (root_fret - position, family)
        for family, (string, above) in FAMILIES.items()
        if _lies_as_usual(settings.tuning, string)
        for root_fret in _frets(root, open_strings[string - 1])
        if root_fret - position in above
    ]
    for open_root, third in _open_chord(open_strings):
        if third in chord.heard.core and position in _frets(root, open_root):
            reached.append((0, "barre"))
    return f"{min(reached)[1]} grip of {chord.shown}" if reached else ""


def _frets(pitch_class: int, open_pitch: int) -> tuple[int, int, int]:
    """The frets of a string on which a pitch class lies."""
    fret = (pitch_class - open_pitch) % 12
    return fret, fret + 12, fret + 24


def _lies_as_usual(tuning: Sequence[int], strings: int) -> bool:
    """Whether so many thin strings are as far from one another as in the usual tuning."""
    apart = {mine - usual for mine, usual in zip(tuning[:strings], _STANDARD, strict=False)}
    return len(tuning) >= strings and len(apart) == 1


def _open_chord(open_strings: Sequence[int]) -> list[tuple[int, int]]:
    """The root and the third of the triad that all open strings sound together; none where they sound another chord."""
    classes = {midi % 12 for midi in open_strings}
    return [
        (root, third) for root in classes for third in (3, 4) if classes == {root, (root + third) % 12, (root + 7) % 12}
    ]


def _sentence(stays: Sequence[Stay], moves: int) -> str:
    if not stays:
        return "Nothing is written here that a hand could hold."
    positions = sorted({stay.position for stay in stays})
    where = f"the {ordinal(positions[0])} position" if len(positions) == 1 else (
        f"{len(positions)} positions, {ordinal(positions[0])} to {ordinal(positions[-1])}"
    )  # fmt: skip
    often = "never moves" if moves == 0 else "moves once" if moves == 1 else f"moves {moves} times"
    return f"It lies in {where}; the hand {often}."
