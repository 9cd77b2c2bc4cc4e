"""A chord as one of the kinds that a format names, with what has to be added to it and left out of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from usagi.core.harmony.chord import Chord
from usagi.core.harmony.symbols import parse_chord


@dataclass(frozen=True, slots=True)
class Nearest:
    """The name of a kind, and degrees as `b9` or `5`: those that the chord has besides, and those that it lacks."""

    kind: str
    added: tuple[str, ...]
    gone: tuple[str, ...]


def nearest_kind(chord: Chord, kinds: Mapping[str, str]) -> Nearest:
    """The kind that leaves the least to be said.

    Parameters
    ----------
    chord : one with a root.
    kinds : by name, the words of a symbol after its root.

    >>> nearest_kind(parse_chord("C7(b9)"), {"major": "", "dominant": "7"})
    Nearest(kind='dominant', added=('b9',), gone=())
    """
    sounding = frozenset(chord.semitones)

    def left(name: str) -> tuple[int, int]:
        own = sounds(kinds[name])
        return len(own ^ sounding), len(own - sounding)

    kind = min(kinds, key=left)
    own, names = _names(parse_chord(f"C{kinds[kind]}")), _names(chord)
    return Nearest(
        kind,
        tuple(names[slot] for slot in sorted(sounding - own.keys())),
        tuple(own[slot] for slot in sorted(own.keys() - sounding)),
    )


@lru_cache(maxsize=256)
def sounds(words: str) -> frozenset[int]:
    """The semitones above the root of a symbol that has these words after its root."""
    return frozenset(parse_chord(f"C{words}").semitones)


def _names(chord: Chord) -> dict[int, str]:
    return chord.extension_names | chord.core_names


def number_of(label: str) -> tuple[int, int]:
    """A degree's number and its alteration against the major scale.

    >>> number_of("b7"), number_of("bb7"), number_of("#11")
    ((7, -1), (7, -2), (11, 1))
    """
    return int(label.lstrip("b#")), label.count("#") - label.count("b")
