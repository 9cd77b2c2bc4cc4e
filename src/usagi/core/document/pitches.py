"""What a written note sounds: its fretted pitch, and the stages of its pitch course."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import PARTIAL_SEMITONES, Harmonic, HarmonicHow, SlideIn, SlideOff
from usagi.core.fretboard.places import NATURAL_HARMONICS, fretted_pitch, open_pitch


class Stage(NamedTuple):
    """A pitch that a note reaches: the tick, the MIDI pitch (quarter tones are .5), how long it stays there."""

    tick: int
    midi: float
    held: int


def written_pitch(note: Note, settings: SoloSettings) -> float | None:
    """MIDI pitch at the place of a note, harmonics as they sound; None for dead notes and those without a fret.

    A harmonic at a fret where none lies is taken at the nearest that has one.
    """
    if note.fret is None or note.dead or note.string > len(settings.tuning):
        return None
    if isinstance(note.attack, Harmonic):
        if note.attack.how is HarmonicHow.NATURAL:
            nearest = min(NATURAL_HARMONICS, key=lambda fret: abs(fret - (note.fret or 0)))
            return open_pitch(note.string, settings.tuning, settings.capo) + NATURAL_HARMONICS[nearest]
        above = PARTIAL_SEMITONES[note.attack.partial]
        return fretted_pitch(note.string, note.fret, settings.tuning, settings.capo) + above
    return _at_fret(note.string, note.fret, settings.tuning, settings.capo)


@lru_cache(maxsize=4_096)
def _at_fret(string: int, fret: int, tuning: tuple[int, ...], capo: int) -> float:
    """A fretted pitch to the nearest quarter tone; whole where it is whole."""
    pitch = fretted_pitch(string, fret, tuning, capo)
    return _plain(round(pitch * 2) / 2)


@lru_cache(maxsize=4_096)
def course_stages(course: tuple[tuple[int, int], ...], ticks: int) -> tuple[tuple[int, int, int], ...]:
    """`(ticks from the start, quarter tones, held ticks)` of each stage: the start, and every turn or plateau.

    >>> course_stages(((0, 0), (5040, 4), (13440, 4), (20160, 0)), 20160)
    ((0, 0, 0), (5040, 4, 8400), (20160, 0, 0))
    >>> course_stages((), 5040)
    ((0, 0, 5040),)
    """
    points = list(course) or [(0, 0)]
    merged: list[tuple[int, int, int]] = []  # first tick, quarters, last tick
    for at, quarters in points:
        if merged and merged[-1][1] == quarters:
            merged[-1] = (merged[-1][0], quarters, at)
        else:
            merged.append((at, quarters, at))
    first, quarters, _ = merged[-1]
    merged[-1] = (first, quarters, ticks)
    stages = []
    for i, (at, value, until) in enumerate(merged):
        passing = 0 < i < len(merged) - 1 and until == at and (
            (value - merged[i - 1][1]) * (merged[i + 1][1] - value) > 0
        )  # fmt: skip
        if not passing:
            stages.append((at, value, until - at))
    return tuple(stages)


def stages(note: Note, settings: SoloSettings) -> list[Stage]:
    """Every pitch that a note reaches, in order; none for dead notes and those without a fret."""
    pitch = written_pitch(note, settings)
    if pitch is None:
        return []
    if not note.course and type(note.attack) is not SlideIn and note.ending is None:
        return [Stage(note.tick, _plain(pitch), note.ticks)]

    def at_fret(fret: int) -> float:
        return _at_fret(note.string, fret, settings.tuning, settings.capo)

    found = [
        Stage(note.tick + at, _plain(pitch + q / 2), held) for at, q, held in course_stages(note.course, note.ticks)
    ]
    if note.course and note.course[0][1] > 0 and not any(stage.midi == pitch for stage in found):
        found.insert(0, Stage(note.tick, _plain(pitch), 0))  # a prebend starts from its fret, though nobody hears it
    if isinstance(note.attack, SlideIn) and isinstance(note.attack.start, int):
        reached = min(note.attack.ticks, note.ticks - 1)
        first = found[0]
        landing = Stage(note.tick + reached, first.midi, max(0, first.held - reached))
        found = [Stage(note.tick, at_fret(note.attack.start), 0), landing, *found[1:]]
    if isinstance(note.ending, SlideOff) and isinstance(note.ending.to, int):
        found.append(Stage(note.end, at_fret(note.ending.to), 0))
    return found


def _plain(midi: float) -> float:
    return int(midi) if midi == int(midi) else midi


def main_stage(of: list[Stage]) -> Stage | None:
    """The stage that a note is known by: its only one, its target, or of several the one it stays on longest."""
    if len(of) < 2:
        return of[0] if of else None
    return max(of[1:] or of, key=lambda stage: stage.held)
