"""A reading of a phrase: one true explanation of its notes, what it covers and what it leaves out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.degree import Style, degree
from usagi.core.harmony.heard import Heard
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, single_name
from usagi.core.readings.line import Sound

UNUSED: Final = 0.02  # of the phrase's sounding ticks, for each note of a scale or chord that it does not use


class ReadingKind(StrEnum):
    SCALE = "scale"
    ARPEGGIO = "arpeggio"
    GRIP = "grip"
    PATTERN = "pattern"


@dataclass(frozen=True, slots=True)
class Reading:
    """One explanation. `key` is what a pick stores; `left_out` are note ids; `degrees` are those of its tones.

    `pair` is another name for the same notes (the relative pentatonic), or the second of two triads; `roots` are all of
    a symmetric scale. Grips have a family, a fret and `(string, frets above it)`, patterns a figure's length and by
    what it is shifted.
    """

    kind: ReadingKind
    key: str
    root: str
    type: str
    covers: int
    of: int
    left_out: tuple[str, ...]
    degrees: tuple[str, ...]
    score: float
    pair: str = ""
    roots: tuple[str, ...] = ()
    family: str = ""
    fret: int | None = None
    offsets: tuple[tuple[int, int], ...] = ()
    figure_length: int | None = None
    interval: int | None = None
    scale_steps: int | None = None
    cell: tuple[int, ...] = ()


@dataclass(frozen=True)
class Figure:
    """The notes of a phrase (or a selection), and what they stand on."""

    sounds: tuple[Sound, ...]
    key: Key | None
    chords: tuple[Heard, ...]  # those that its notes are heard on, each once, in order
    main_chord: Heard | None  # the one under most of its ticks

    @property
    def ticks(self) -> int:
        return sum(sound.note.ticks for sound in self.sounds)

    @property
    def homes(self) -> list[Name]:
        """Roots that a reading is named from, first choice first: of its only chord and the tonic, or the other way."""
        tonic = [] if self.key is None else [self.key.tonic]
        roots = [chord.root for chord in self.chords[:1]]
        return [*roots, *tonic] if len(self.chords) == 1 else [*tonic, *roots]

    def name(self, pitch_class: int) -> Name:
        """A root spelled by what the phrase stands on."""
        for home in self.homes:
            if home.pitch_class == pitch_class:
                return home
        if self.key is not None:
            return self.key.name(pitch_class)
        return single_name(pitch_class, upwards=False)

    def over_chord(self, pitch_class: int) -> str:
        """The degree of a pitch class over the main chord; empty without one."""
        if self.main_chord is None:
            return ""
        slot = (pitch_class - self.main_chord.root.pitch_class) % 12
        return degree(self.main_chord, slot, style=Style.DEFAULT)


def figure_of(sounds: Sequence[Sound], timeline: Timeline) -> Figure:
    """What the readings of some notes rest on."""
    chords: dict[int, Heard] = {}
    ticks: dict[int, int] = {}
    for sound in sounds:
        if sound.heard is not None:
            known = hash((sound.heard.root.pitch_class, sound.heard.core_pitch_classes))
            chords.setdefault(known, sound.heard)
            ticks[known] = ticks.get(known, 0) + sound.note.ticks
    main = max(ticks, key=lambda known: ticks[known]) if ticks else None
    key = timeline.facts_at(sounds[0].note.tick).key if sounds else None
    return Figure(tuple(sounds), key, tuple(chords.values()), None if main is None else chords[main])


def changes_under(sounds: Sequence[Sound], start: int, end: int, timeline: Timeline) -> list[Change]:
    """The chords that sound in `[start, end)`, and the one that an anticipation at its end is heard on."""
    found = [change for i, change in enumerate(timeline.changes) if change.tick < end and timeline.end_of(i) > start]
    early = [sound.early for sound in sounds if sound.early is not None and sound.early not in found]
    return sorted([*found, *dict.fromkeys(early)], key=lambda change: change.tick)
