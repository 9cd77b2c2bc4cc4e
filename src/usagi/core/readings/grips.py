"""Chord grips under the hand: movable shapes named by the open chord that they come from (docs/music.md, Readings).

Standard tuning, at any pitch: what counts are the intervals between the strings.
"""

from __future__ import annotations

from functools import cache
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.solo import STANDARD, SoloSettings
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.pitch.names import Name
from usagi.core.readings.reading import Figure, Reading, ReadingKind
from usagi.core.readings.tones import CHORD_TYPES

MOST: Final = 4
LEAST_COVERED: Final = 0.5  # of the sounding ticks
FEWEST_PLACES: Final = 3
FRETS, HIGHEST_OFFSET = 36, 6
# Frets of each open chord from string 6 to string 1; x is not played.
OPEN_CHORDS: Final = {
    "C": {"major": "x32010", "7": "x32310", "maj7": "x32000", "minor": "x310 1x", "m7": "x313 1x", "9": "x32333"},
    "A": {"major": "x02220", "minor": "x02210", "7": "x02020", "maj7": "x02120", "m7": "x02010", "6": "x02222",
          "m6": "x02212", "m7b5": "x0101x", "sus4": "x02230", "7sus4": "x02030"},
    "G": {"major": "320003", "7": "320001", "maj7": "320002", "6": "320000"},
    "E": {"major": "022100", "minor": "022000", "7": "020100", "maj7": "021100", "m7": "020000", "6": "022120",
          "sus4": "022200", "7sus4": "020200", "9": "020102"},
    "D": {"major": "xx0232", "minor": "xx0231", "7": "xx0212", "maj7": "xx0222", "m7": "xx0211", "6": "xx0202",
          "m6": "xx0201", "m7b5": "xx0111", "dim7": "xx0101", "sus4": "xx0233"},
}  # fmt: skip
ROOT_STRING: Final = {"C": 5, "A": 5, "G": 6, "E": 6, "D": 4}
SHELLS: Final = {"7": (0, 10, 4), "maj7": (0, 11, 4), "m7": (0, 10, 3)}  # root, seventh, third
TRIADS: Final = ("major", "minor", "dim", "augmented")


class Grip(NamedTuple):
    """A movable shape: its chord type, family, `(string, frets above the lowest)` and where its roots lie in it."""

    type: str
    family: str
    offsets: tuple[tuple[int, int], ...]
    root_string: int
    root_offset: int


@cache
def grips() -> tuple[Grip, ...]:
    """Every shape: the five families, shells, and triads on three neighbouring strings."""
    found = []
    for family, kinds in OPEN_CHORDS.items():
        for kind, text in kinds.items():
            frets = [(6 - i, int(f)) for i, f in enumerate(text.replace(" ", "")) if f != "x"]
            lowest = min(fret for _, fret in frets)
            offsets = tuple(sorted((string, fret - lowest) for string, fret in frets))
            root = dict(frets)[ROOT_STRING[family]] - lowest
            found.append(Grip(kind, family, offsets, ROOT_STRING[family], root))
    for kind, tones in SHELLS.items():
        for strings in ((6, 4, 3), (5, 4, 3)):
            found += _on_strings(kind, "shell", strings, [tones])
    for kind in TRIADS:
        a, b, c = CHORD_TYPES[kind]
        for top in (1, 2, 3, 4):
            found += _on_strings(kind, "triad", (top + 2, top + 1, top), [(a, b, c), (b, c, a), (c, a, b)])
    return tuple(found)


def _on_strings(
    kind: str, family: str, strings: tuple[int, ...], orders: list[tuple[int, ...]], span: int = 4
) -> list[Grip]:
    """Closed shapes with the given tones on the given strings, low to high, that a hand spans."""
    found = []
    for tones in orders:
        frets = []
        for string, tone in zip(strings, tones, strict=True):
            frets.append((tone - STANDARD[string - 1]) % 12)
        low = frets[0]
        near = [low + ((fret - low + 6) % 12) - 6 for fret in frets]
        lowest = min(near)
        if max(near) - lowest > span:
            continue
        offsets = tuple(sorted((s, f - lowest) for s, f in zip(strings, near, strict=True)))
        root = strings[tones.index(0)]
        found.append(Grip(kind, family, offsets, root, dict(offsets)[root]))
    return found


def grip_readings(figure: Figure, settings: SoloSettings) -> list[Reading]:
    """The grips that lie under most of a phrase, best first; none on tunings of other intervals than standard."""
    tuning = settings.tuning
    if (
        not figure.sounds
        or len(tuning) != len(STANDARD)
        or len({a - b for a, b in zip(tuning, STANDARD, strict=True)}) > 1
    ):
        return []
    total = figure.ticks
    ticks = np.zeros((len(STANDARD) + 1, FRETS + HIGHEST_OFFSET + 1))  # by string and fret
    for sound in figure.sounds:
        fret = sound.note.fret
        if fret is not None and fret % HUNDREDTHS == 0 and fret <= FRETS * HUNDREDTHS:
            ticks[sound.note.string, fret // HUNDREDTHS] += sound.note.ticks
    places = int(np.count_nonzero(ticks))
    shapes = _shapes()
    here = ticks[shapes.strings[:, None, :], shapes.above[:, None, :] + np.arange(FRETS)[None, :, None]]
    covered, used = here.sum(axis=2), np.count_nonzero(here, axis=2)
    found: list[tuple[float, int, int, Reading]] = []
    for which, base in np.argwhere((covered >= LEAST_COVERED * total) & (used >= min(FEWEST_PLACES, places))):
        grip = grips()[which]
        score = 2.0 * float(covered[which, base]) - total
        reading = _reading(figure, settings, grip, int(base), score)
        found.append((-score, grip.root_offset, len(grip.offsets) - int(used[which, base]), reading))
    found.sort(key=lambda one: (*one[:3], one[3].key))
    return [reading for *_, reading in found[:MOST]]


class _Shapes(NamedTuple):
    """All grips as rows of strings and frets above the lowest; shorter grips are padded with string 0."""

    strings: NDArray[np.intp]
    above: NDArray[np.intp]


@cache
def _shapes() -> _Shapes:
    widest = max(len(grip.offsets) for grip in grips())
    rows = [[*grip.offsets, *[(0, 0)] * (widest - len(grip.offsets))] for grip in grips()]
    both = np.array(rows, np.intp)
    return _Shapes(both[:, :, 0], both[:, :, 1])


def _reading(figure: Figure, settings: SoloSettings, grip: Grip, base: int, score: float) -> Reading:
    own = {(string, (base + above) * HUNDREDTHS) for string, above in grip.offsets}
    left = tuple(sound.note.id for sound in figure.sounds if (sound.note.string, sound.note.fret) not in own)
    root_midi = settings.tuning[grip.root_string - 1] + settings.capo + base + grip.root_offset
    root: Name = figure.name(root_midi % 12)
    pitches = sorted({settings.tuning[string - 1] + settings.capo + base + above for string, above in grip.offsets})
    degrees = tuple(dict.fromkeys(figure.over_chord(pitch % 12) for pitch in pitches))
    of = len(figure.sounds)
    return Reading(
        ReadingKind.GRIP, f"grip {root} {grip.type} {grip.family} {base}", str(root), grip.type, of - len(left), of,
        left, degrees, score, family=grip.family, fret=base, offsets=grip.offsets,
    )  # fmt: skip
