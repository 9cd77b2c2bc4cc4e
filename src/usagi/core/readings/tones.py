"""Readings by tones: scales, and arpeggios with superimposed chords and triad pairs (docs/music.md, Readings).

Score = covered ticks − uncovered ticks − 2 % of the sounding ticks for each tone that is not used.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from usagi.core.harmony.scales import RELATIVES, SCALE_TYPES, semitones_of
from usagi.core.pitch.keys import PLAIN
from usagi.core.pitch.names import Name
from usagi.core.readings.line import Sound
from usagi.core.readings.reading import UNUSED, Figure, Reading, ReadingKind

MIXTURES: Final = ("major pentatonic + minor pentatonic",)
CHORD_TYPES: Final = {
    "major": (0, 4, 7), "minor": (0, 3, 7), "augmented": (0, 4, 8), "dim": (0, 3, 6), "sus4": (0, 5, 7),
    "7": (0, 4, 7, 10), "maj7": (0, 4, 7, 11), "m7": (0, 3, 7, 10), "m7b5": (0, 3, 6, 10), "dim7": (0, 3, 6, 9),
    "mMaj7": (0, 3, 7, 11), "6": (0, 4, 7, 9), "m6": (0, 3, 7, 9), "7sus4": (0, 5, 7, 10),
    "9": (0, 2, 4, 7, 10), "maj9": (0, 2, 4, 7, 11), "m9": (0, 2, 3, 7, 10), "6/9": (0, 2, 4, 7, 9),
}  # fmt: skip
MOST: Final = 6  # readings of a kind
NEAR: Final = 0.3  # of the sounding ticks: how far behind the best a reading may lie
PAIR_TONES: Final = 3  # of a triad that stand together, in a pair


class _Sets(NamedTuple):
    """Every type on every root: names, tones, and a row of twelve for each."""

    types: list[tuple[str, int]]  # type, root
    rows: NDArray[np.float64]


@cache
def _sets(kind: ReadingKind) -> _Sets:
    known = {name: SCALE_TYPES[name] for name in SCALE_TYPES} | {name: semitones_of(name) for name in MIXTURES}
    tones = known if kind is ReadingKind.SCALE else CHORD_TYPES
    types = [(name, root) for name in tones for root in range(12)]
    rows = np.zeros((len(types), 12))
    for i, (name, root) in enumerate(types):
        rows[i, [(root + step) % 12 for step in tones[name]]] = 1
    return _Sets(types, rows)


def scale_readings(figure: Figure) -> list[Reading]:
    """The scales that explain a phrase, best first."""
    return _by_tones(figure, ReadingKind.SCALE)


def arpeggio_readings(figure: Figure) -> list[Reading]:
    """The chords whose tones a phrase plays, superimposed ones and triad pairs among them, best first."""
    found = [*_by_tones(figure, ReadingKind.ARPEGGIO), *_triad_pairs(figure)]
    return sorted(found, key=lambda reading: -reading.score)[:MOST]


def _by_tones(figure: Figure, kind: ReadingKind) -> list[Reading]:
    total = figure.ticks
    if not total:
        return []
    sounding = np.zeros(12)
    for sound in figure.sounds:
        sounding[sound.pitch_class] += sound.note.ticks
    sets = _sets(kind)
    covered = sets.rows @ sounding
    unused = sets.rows @ (sounding == 0)
    scores = 2 * covered - total - UNUSED * total * unused
    sizes = sets.rows.sum(axis=1)
    homes = [home.pitch_class for home in figure.homes]
    floor = scores.max() - NEAR * total
    by_tones: dict[bytes, list[int]] = {}
    for i in np.flatnonzero((scores >= floor) & (covered * 2 > total)):
        by_tones.setdefault(sets.rows[i].tobytes(), []).append(int(i))
    outside = np.array([figure.key is not None and pc not in figure.key.pitch_classes for pc in range(12)], float)
    base = homes[0] if homes else figure.sounds[0].pitch_class
    chosen = [i for same in by_tones.values() for i in _named(same, sets, homes, sounding, base)]
    chosen.sort(
        key=lambda i: (
            -scores[i],
            homes.index(sets.types[i][1]) if sets.types[i][1] in homes else len(homes),
            sizes[i],
            float(sets.rows[i] @ outside),
            _unlike(sets.types[i][0], figure),
            i // 12,  # the order of the types, then up from the root that the phrase stands on
            (sets.types[i][1] - base) % 12,
        )
    )
    if kind is ReadingKind.ARPEGGIO:  # a chord is heard when three of its tones are
        chosen = [i for i in chosen if np.count_nonzero(sets.rows[i] * sounding) >= min(3, int(sizes[i]))]
    at_home = [i for i in chosen if sets.types[i][1] in homes]
    if at_home:  # from other roots only what explains more
        chosen = [i for i in chosen if i in at_home or scores[i] > scores[at_home[0]]]
    return [_reading(figure, kind, *sets.types[i], float(scores[i])) for i in chosen[:MOST]]


def _unlike(name: str, figure: Figure) -> bool:
    """Both pentatonics together are the tones of bebop dorian: the one over a major third, the other over a minor."""
    minor = figure.main_chord is not None and figure.main_chord.minor
    return name == (MIXTURES[0] if minor else "bebop dorian")


def _named(same: list[int], sets: _Sets, homes: list[int], sounding: NDArray[np.float64], base: int) -> list[int]:
    """Of names for the same tones those from a root that the phrase stands on, else the one most sounded."""
    at_home = [i for i in same if sets.types[i][1] in homes]
    if at_home:
        return at_home
    return [max(same, key=lambda i: (sounding[sets.types[i][1]], -(i // 12), -((sets.types[i][1] - base) % 12)))]


def _reading(figure: Figure, kind: ReadingKind, name: str, root: int, score: float) -> Reading:
    steps = semitones_of(name) if kind is ReadingKind.SCALE else CHORD_TYPES[name]
    tones = {(root + step) % 12 for step in steps}
    left = tuple(sound.note.id for sound in figure.sounds if sound.pitch_class not in tones)
    spelled = figure.name(root)
    pair = ""
    roots: tuple[str, ...] = ()
    if kind is ReadingKind.SCALE:
        degrees = tuple(PLAIN[step] for step in steps)
        if name in RELATIVES:
            other, above = RELATIVES[name]
            pair = f"{_relative(spelled, above)} {other}"
        roots = tuple(str(figure.name((root + step) % 12)) for step in _turns(steps))
    else:
        degrees = tuple(figure.over_chord((root + step) % 12) for step in steps)
        pair = _other_name(figure, name, root)
    of = len(figure.sounds)
    return Reading(
        kind, f"{kind} {spelled} {name}", str(spelled), name, of - len(left), of, left, degrees, score, pair=pair,
        roots=roots,
    )  # fmt: skip


def _relative(root: Name, above: int) -> Name:
    return root.above(2 if above == 3 else 5, above)


def _turns(steps: tuple[int, ...]) -> list[int]:
    """Every root from which a symmetric scale has the same steps; none of others."""
    turns = [turn for turn in range(1, 12) if {(step + turn) % 12 for step in steps} == set(steps)]
    return [0, *turns] if turns else []


def _other_name(figure: Figure, name: str, root: int) -> str:
    """6 and m7, m6 and m7b5 are the same tones."""
    for one, other, above in (("6", "m7", 9), ("m6", "m7b5", 9), ("m7", "6", 3), ("m7b5", "m6", 3)):
        if name == one:
            return f"{figure.name((root + above) % 12)} {other}"
    return ""


def _triad_pairs(figure: Figure) -> Iterator[Reading]:
    """Two triads in alternation that share no tone: stretches of one after stretches of the other."""
    sounds = figure.sounds
    triads = [(kind, root) for kind in ("major", "minor") for root in range(12)]
    tones = {triad: frozenset((triad[1] + step) % 12 for step in CHORD_TYPES[triad[0]]) for triad in triads}
    here = {sound.pitch_class for sound in sounds}
    inside = [triad for triad in triads if tones[triad] <= here]
    total = figure.ticks
    for i, one in enumerate(inside):
        for other in inside[i + 1 :]:
            both = tones[one] | tones[other]
            if len(both) < 6 or not _alternate(sounds, tones[one], tones[other]):
                continue
            first = next(sound for sound in sounds if sound.pitch_class in both)
            a, b = (one, other) if first.pitch_class in tones[one] else (other, one)
            left = tuple(sound.note.id for sound in sounds if sound.pitch_class not in both)
            uncovered = sum(sound.note.ticks for sound in sounds if sound.pitch_class not in both)
            names = [f"{figure.name(root)} {kind}" for kind, root in (a, b)]
            degrees = tuple(figure.over_chord((root + s) % 12) for kind, root in (a, b) for s in CHORD_TYPES[kind])
            yield Reading(
                ReadingKind.ARPEGGIO, f"arpeggio {names[0]} + {names[1]}", names[0].split()[0], "triad pair",
                len(sounds) - len(left), len(sounds), left, degrees, float(total - 2 * uncovered), pair=names[1],
            )  # fmt: skip


def _alternate(sounds: tuple[Sound, ...], one: frozenset[int], other: frozenset[int]) -> bool:
    """Whether two stretches or more follow each other, every tone of a triad in each."""
    stretches: list[tuple[bool, set[int]]] = []
    for sound in sounds:
        if sound.pitch_class not in one | other:
            continue
        side = sound.pitch_class in one
        if not stretches or stretches[-1][0] != side:
            stretches.append((side, set()))
        stretches[-1][1].add(sound.pitch_class)
    whole = [len(tones) >= PAIR_TONES for _, tones in stretches]
    return len(stretches) >= 2 and all(whole)
