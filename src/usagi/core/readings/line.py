"""A solo as a line over its chords: each note with its main pitch, the chord that it is heard on, and its role."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from types import MappingProxyType
from typing import NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.labels import NoteReading
from usagi.core.degrees.lines import Line, Role
from usagi.core.document.elements import Note
from usagi.core.document.pitches import main_stage, stages, written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord


class Sound(NamedTuple):
    """A pitched note over its chord, on the line of changes that is shown."""

    note: Note
    midi: float  # the main pitch: of a bend its target
    fretted: float
    heard: Heard | None
    symbol: str  # of the chord that it is heard on; empty without one
    degree: str
    core: bool
    role: Role | None
    early: Change | None
    reading: NoteReading

    @property
    def pitch_class(self) -> int:
        """A curl counts by its fretted pitch."""
        return int(self.fretted if self.midi % 1 else self.midi) % 12


def sounds_of(
    notes: Sequence[Note],
    settings: SoloSettings,
    timeline: Timeline,
    readings: Mapping[str, NoteReading],
    early: Mapping[str, Change],
    before: Mapping[str, Sound] = MappingProxyType({}),
) -> list[Sound]:
    """The pitched notes, in time order; those of `before` by id, where they are read as they were."""
    found = []
    for note in notes:
        reading = readings[note.id]
        known = before.get(note.id)
        if known is not None and known.reading is reading and known.note is note:
            found.append(known)
            continue
        fretted = written_pitch(note, settings)
        main = main_stage(stages(note, settings))
        if fretted is None or main is None:
            continue
        line = next(line for line in reading.lines if line.shown)
        change = early.get(note.id) if line is reading.lines[0] else None
        heard = _heard(line, note, change, timeline, is_chart=line is reading.lines[0])
        core = heard is not None and main.midi % 1 == 0 and _slot(main.midi, heard) in heard.core
        found.append(
            Sound(
                note,
                main.midi,
                fretted,
                heard,
                line.heard_on or "",
                line.degree or "",
                core,
                line.role,
                change,
                reading,
            )
        )
    return found


def _heard(line: Line, note: Note, early: Change | None, timeline: Timeline, *, is_chart: bool) -> Heard | None:
    if line.degree is None:
        return None
    if is_chart:
        change = early or timeline.chord_at(note.tick)
        return None if change is None else change.heard
    return None if line.heard_on is None else hear(parse_chord(line.heard_on))


def _slot(midi: float, heard: Heard) -> int:
    return (int(midi // 1) - heard.root.pitch_class) % 12


def slot_of(sound: Sound) -> int | None:
    """Semitones above the root that a sound is heard on; None without a chord."""
    return None if sound.heard is None else _slot(sound.midi, sound.heard)


def contour(sounds: Sequence[Sound]) -> tuple[int, ...]:
    """The direction from note to note: 1 up, -1 down, 0 the same."""
    return tuple((b.midi > a.midi) - (b.midi < a.midi) for a, b in pairwise(sounds))
