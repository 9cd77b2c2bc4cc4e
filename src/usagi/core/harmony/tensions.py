"""Which tones may be added to a chord that its symbol does not name (docs/music.md, Chords: available tensions)."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from usagi.core.harmony.heard import Heard
from usagi.core.pitch.keys import Key

ALTERED: Final = frozenset({1, 3, 6, 8})  # b9 #9 #11 b13


@lru_cache(maxsize=4096)
def available_tensions(heard: Heard, key: Key | None) -> frozenset[int]:
    """The slots above the heard root that are available tensions: the first rule that applies.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> from usagi.core.pitch.keys import parse_key
    >>> g7 = hear(parse_chord("G7"))
    >>> sorted(available_tensions(g7, None)), sorted(available_tensions(g7, parse_key("C minor")))
    ([2, 6, 9], [1, 3, 6, 8])
    """
    return frozenset(_allowed(heard, key)) - heard.names.keys()


def is_fifth_of_minor(heard: Heard, key: Key | None) -> bool:
    """Whether a chord stands on the fifth of a minor key."""
    return key is not None and key.is_minor and (heard.root.pitch_class - key.tonic.pitch_class) % 12 == 7


def _allowed(heard: Heard, key: Key | None) -> set[int]:
    core = set(heard.core)
    if heard.dominant and (heard.altered or is_fifth_of_minor(heard, key)):
        return set(ALTERED)
    if heard.suspended:
        return {2, 9}
    if heard.dominant:
        if 8 in core:
            return {2, 6}
        return {2, 9} if 6 in heard.names else {2, 6, 9}
    if 6 in core and heard.third == 3:
        if heard.seventh == 9:
            return {(slot + 2) % 12 for slot in core}
        return {5, 8} | _in_key({2}, heard, key)
    if heard.third == 3:
        if heard.seventh == 11:
            return {2, 5, 9}
        if heard.seventh is not None or heard.sixth:
            return {2, 5} | _in_key({9}, heard, key)
        return {2, 5}
    if heard.third == 4:
        if heard.seventh == 11 or heard.sixth:
            return {2, 6, 9}
        return {2, 6} if 8 in core else {2, 9}
    return set()


def _in_key(slots: set[int], heard: Heard, key: Key | None) -> set[int]:
    return set() if key is None else {s for s in slots if (heard.root.pitch_class + s) % 12 in key.pitch_classes}
