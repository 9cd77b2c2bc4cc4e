"""Relations between notes across a change of chord (docs/music.md, Roles: relations)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from enum import StrEnum
from itertools import groupby, pairwise
from typing import Final, NamedTuple

from usagi.core.degrees.patterns import Events
from usagi.core.readings.line import Sound, contour, slot_of

THIRDS: Final = ("3", "b3")
SEVENTHS: Final = ("7", "b7", "6")
FEWEST: Final = 3  # notes of a figure that is shifted by a half step


class RelationKind(StrEnum):
    GUIDE_TONE = "guide-tone move"
    COMMON_TONE = "common tone"
    HALF_STEP = "half-step shift"
    MOTIF = "motif"


class Relation(NamedTuple):
    """Two places that belong together: note ids, the degrees that speak for it, and what changed, of a motif."""

    kind: RelationKind
    start: tuple[str, ...]
    end: tuple[str, ...]
    degrees: tuple[str, ...]
    says: str
    change: str = ""


def relations(sounds: Sequence[Sound], events: Events) -> list[Relation]:
    """Guide-tone moves, common tones and half-step shifts.

    Parameters
    ----------
    sounds : in time order.
    events : of the same notes.
    """
    by_id = {sound.note.id: sound for sound in sounds}
    return [*_across(by_id, events), *_held(sounds), *_shifts(sounds)]


def _across(sounds: Mapping[str, Sound], events: Events) -> Iterator[Relation]:
    """What goes from one note to the next over a change."""
    for i, event in enumerate(events.of):
        for rank, point in enumerate(event):
            at = events.after(i, rank)
            if at is None:
                continue
            one, other = sounds[point.id], sounds[events.of[at[0]][at[1]].id]
            if one.heard is other.heard or one.heard is None or other.heard is None:
                continue
            if one.heard.same_harmony(other.heard):
                continue
            if one.midi == other.midi and one.degree != other.degree:
                says = f"the {one.degree} becomes the {other.degree} of {other.symbol}"
                yield _relation(RelationKind.COMMON_TONE, one, other, says)
            elif _is_guide_move(one, other):
                size = "a half step" if abs(other.midi - one.midi) == 1 else "a whole step"
                way = "rises" if other.midi > one.midi else "falls"
                says = f"the {one.degree} of {one.symbol} {way} {size} to the {other.degree} of {other.symbol}"
                yield _relation(RelationKind.GUIDE_TONE, one, other, says)


def _relation(kind: RelationKind, one: Sound, other: Sound, says: str) -> Relation:
    return Relation(kind, (one.note.id,), (other.note.id,), (one.degree, other.degree), says)


def _guide(sound: Sound) -> str:
    """The name of a core tone that is a third or a seventh, else nothing."""
    slot = slot_of(sound)
    if slot is None or not sound.core or sound.heard is None:
        return ""
    name = sound.heard.core[slot]
    return name if name in (*THIRDS, *SEVENTHS) else ""


def _is_guide_move(one: Sound, other: Sound) -> bool:
    first, second = _guide(one), _guide(other)
    crosses = (first in THIRDS and second in SEVENTHS) or (first in SEVENTHS and second in THIRDS)
    return bool(first and second) and crosses and abs(other.midi - one.midi) in (1, 2)


def _held(sounds: Sequence[Sound]) -> Iterator[Relation]:
    """Notes that are held over a change and take a new degree."""
    for sound in sounds:
        degree = sound.degree
        if not sound.reading.lines[0].shown:
            continue
        for held in sound.reading.held:
            if degree and held.degree != degree:
                says = f"held: the {degree} becomes the {held.degree} of {held.chord}"
                yield Relation(
                    RelationKind.COMMON_TONE, (sound.note.id,), (sound.note.id,), (degree, held.degree), says
                )
            degree = held.degree


def _shifts(sounds: Sequence[Sound]) -> Iterator[Relation]:
    """Figures that come again over the next chord, one note moved by a half step because the chord did."""
    spans = [list(group) for _, group in groupby(sounds, key=lambda sound: (sound.symbol, id(sound.heard)))]
    for before, after in pairwise(spans):
        one_chord, other_chord = before[0].heard, after[0].heard
        if one_chord is None or other_chord is None or one_chord.same_harmony(other_chord):
            continue
        best: tuple[int, int, int, int] | None = None  # length, where in both, which note differs
        for i in range(len(before) - FEWEST + 1):
            for j in range(len(after) - FEWEST + 1):
                length, differs = _alike(before[i:], after[j:])
                if differs is not None and length >= FEWEST and (best is None or length > best[0]):
                    best = (length, i, j, differs)
        if best is not None:
            length, i, j, differs = best
            one, other = before[i + differs], after[j + differs]
            yield Relation(
                RelationKind.HALF_STEP,
                tuple(sound.note.id for sound in before[i : i + length]),
                tuple(sound.note.id for sound in after[j : j + length]),
                (one.degree, other.degree),
                f"the same figure: the {one.degree} becomes the {other.degree} with the chord",
            )


def _alike(one: Sequence[Sound], other: Sequence[Sound]) -> tuple[int, int | None]:
    """How many notes go alike in rhythm and pitch, but for one that follows its chord; and which that is."""
    differs = None
    length = 0
    start, begin = one[0].note.tick, other[0].note.tick
    for k, (a, b) in enumerate(zip(one, other, strict=False)):
        if a.note.tick - start != b.note.tick - begin:
            break
        if a.midi != b.midi:
            if differs is not None or abs(a.midi - b.midi) != 1 or not _follows(a, b):
                break
            differs = k
        length = k + 1
    if differs is not None and contour(one[:length]) != contour(other[:length]):
        return 0, None
    return length, differs


def _follows(one: Sound, other: Sound) -> bool:
    """Whether both are core tones and the first is none over the second's chord."""
    if not (one.core and other.core) or other.heard is None:
        return False
    return int(one.midi) % 12 not in other.heard.core_pitch_classes
