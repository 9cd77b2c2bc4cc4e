"""Scales by name: the tones of each above its root (docs/music.md, Readings)."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from usagi.core.errors import UsagiError
from usagi.core.pitch.keys import SCALES, Mode
from usagi.core.pitch.names import Name, NameUnreadable, parse_name

# Eight-note (bebop) scales add a passing tone: dominant 7, major #5, dorian 3, minor (melodic) b6.
SCALE_TYPES: Final[dict[str, tuple[int, ...]]] = {
    "major pentatonic": (0, 2, 4, 7, 9),
    "minor pentatonic": (0, 3, 5, 7, 10),
    "major blues": (0, 2, 3, 4, 7, 9),
    "minor blues": (0, 3, 5, 6, 7, 10),
    "major-blues mix": (0, 2, 3, 4, 5, 6, 7, 9, 10),
    "ionian": SCALES[Mode.MAJOR],
    "dorian": SCALES[Mode.DORIAN],
    "phrygian": SCALES[Mode.PHRYGIAN],
    "lydian": SCALES[Mode.LYDIAN],
    "mixolydian": SCALES[Mode.MIXOLYDIAN],
    "aeolian": SCALES[Mode.MINOR],
    "locrian": SCALES[Mode.LOCRIAN],
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
    "lydian dominant": (0, 2, 4, 6, 7, 9, 10),
    "altered": (0, 1, 3, 4, 6, 8, 10),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "phrygian dominant": (0, 1, 4, 5, 7, 8, 10),
    "bebop dominant": (0, 2, 4, 5, 7, 9, 10, 11),
    "bebop major": (0, 2, 4, 5, 7, 8, 9, 11),
    "bebop dorian": (0, 2, 3, 4, 5, 7, 9, 10),
    "bebop minor": (0, 2, 3, 5, 7, 8, 9, 11),
    "whole tone": (0, 2, 4, 6, 8, 10),
    "half-whole diminished": (0, 1, 3, 4, 6, 7, 9, 10),
    "whole-half diminished": (0, 2, 3, 5, 6, 8, 9, 11),
}
RELATIVES: Final = {  # the same notes from another root: the other type, and how far its root lies above
    "major pentatonic": ("minor pentatonic", 9),
    "minor pentatonic": ("major pentatonic", 3),
    "major blues": ("minor blues", 9),
    "minor blues": ("major blues", 3),
}


class ScaleUnreadable(UsagiError):
    """Text that was to be a scale is none."""

    code = "scale-unreadable"


def semitones_of(kind: str) -> tuple[int, ...]:
    """The tones of a type, or of two joined by ` + `, above the root, rising.

    >>> semitones_of("major pentatonic + minor pentatonic")
    (0, 2, 3, 4, 5, 7, 9, 10)
    """
    try:
        return tuple(sorted({step for one in kind.split(" + ") for step in SCALE_TYPES[one]}))
    except KeyError as fault:
        known = ", ".join(SCALE_TYPES)
        raise ScaleUnreadable(f"“{kind}” is not a scale: write one of {known}.") from fault


@lru_cache(maxsize=1_024)
def read_scale(text: str) -> tuple[Name, str, frozenset[int]]:
    """The root, the type and the pitch classes of a scale as it is named.

    Raises : ScaleUnreadable.

    >>> root, kind, pitch_classes = read_scale("E dorian")
    >>> str(root), kind, sorted(pitch_classes)
    ('E', 'dorian', [1, 2, 4, 6, 7, 9, 11])
    """
    word, _, kind = text.partition(" ")
    try:
        root = parse_name(word)
    except NameUnreadable as fault:
        raise ScaleUnreadable(f"“{text}” is not a scale: write a root and its type, as in E dorian.") from fault
    return root, kind, frozenset((root.pitch_class + step) % 12 for step in semitones_of(kind))
