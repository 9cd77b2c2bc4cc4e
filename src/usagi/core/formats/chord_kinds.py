"""A chord as one of the kinds that a format names, with what has to be added to it and left out of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from usagi.core.harmony.chord import Chord
from usagi.core.harmony.symbols import ChordUnreadable, parse_chord


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

    def left(name: str) -> tuple[bool, bool, int, int]:
        own, of = sounds(kinds[name]), parse_chord(f"C{kinds[name]}")
        third = (of.third, of.suspension) != (chord.third, chord.suspension)
        return third, of.seventh != chord.seventh, len(own ^ sounding), len(own - sounding)

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


# Words of a symbol that others are laid on, the plainest first; then what each slot adds to them.
_BASES: Final = (
    "", "m", "7", "maj7", "m7", "6", "m6", "dim", "dim7", "m7b5", "+", "sus4", "sus2", "7sus4", "7sus2", "mMaj7", "5",
    "9", "maj9", "m9", "11", "m11", "13", "maj13", "m13", "6/9", "m6/9", "9sus4", "13sus4", "7(b5)", "7(#5)",
    "maj7(#5)", "maj7(b5)", "7alt",
)  # fmt: skip
_ADDED: Final = {1: "b9", 2: "9", 3: "#9", 5: "11", 6: "#11", 8: "b13", 9: "13"}


@lru_cache(maxsize=1_024)
def words_for(slots: frozenset[int]) -> str | None:
    """The words of a symbol that sounds just these semitones above its root; None when no symbol of ours does.

    >>> words_for(frozenset({0, 4, 7, 10, 13 % 12}))
    '7(b9)'
    """
    best: tuple[int, str] | None = None
    for base in _BASES:
        own = sounds(base)
        more = sorted(slots - own)
        if own - slots or not set(more) <= _ADDED.keys() or (best is not None and best[0] <= len(more)):
            continue
        seventh = parse_chord(f"C{base}").seventh is not None
        labels = [
            label if seventh or not label.isdecimal() else f"add{label}" for label in map(_ADDED.get, more) if label
        ]
        words = f"{base}({','.join(labels)})" if labels else base
        try:
            if sounds(words) == slots:
                best = len(more), words
        except ChordUnreadable:
            continue
    return None if best is None else best[1]


def _names(chord: Chord) -> dict[int, str]:
    return chord.extension_names | chord.core_names


def number_of(label: str) -> tuple[int, int]:
    """A degree's number and its alteration against the major scale.

    >>> number_of("b7"), number_of("bb7"), number_of("#11")
    ((7, -1), (7, -2), (11, 1))
    """
    return int(label.lstrip("b#")), label.count("#") - label.count("b")
