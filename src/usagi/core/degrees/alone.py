"""The role that a note has by itself, over its chord and in its key (docs/music.md, Roles)."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from usagi.core.degrees.degree import degree
from usagi.core.degrees.lines import Role
from usagi.core.degrees.naming import spell_degree
from usagi.core.harmony.heard import Heard
from usagi.core.harmony.tensions import available_tensions
from usagi.core.pitch.keys import Key


class Alone(NamedTuple):
    """A role without the notes around it, in words, and the blue mark."""

    role: Role
    says: str
    blue: bool


@lru_cache(maxsize=16_384)
def alone(
    midi: float,
    called: str,
    heard: Heard,
    key: Key | None,
    blues: bool,
    scale: frozenset[int] | None,
    curled: bool,
    early: bool,
) -> Alone:
    """The first role that applies to a pitch over a chord, leaving out those that rest on its line.

    Parameters
    ----------
    midi : the main pitch.
    called : its degree as the reader calls it.
    heard, key, blues : what it is heard on, and what holds there.
    scale : pitch classes of the scale reading that the teacher picked, in place of the key's mode.
    curled : bent by about a quarter.
    early : heard before its chord.
    """
    slot = (int(midi // 1) - heard.root.pitch_class) % 12
    blue = curled or midi % 1 != 0 or _is_blue(degree(heard, slot, blues=blues), slot, heard)
    if early:
        return Alone(Role.ANTICIPATION, f"the {called} of the next chord, early", blue)
    if curled or midi % 1:
        return Alone(Role.BLUE, f"curled above the {called.rstrip('+')}", True)
    if slot in heard.core:
        return Alone(Role.CHORD_TONE, f"the {called} of the chord", blue)
    if blue:
        return Alone(Role.BLUE, f"the blue {called}", True)
    if slot in heard.extensions:
        return Alone(Role.TENSION, f"the {called}, which the chord names", blue)
    if slot in available_tensions(heard, key):
        return Alone(Role.TENSION, f"the {called}, available over this chord", blue)
    pitch_class = int(midi) % 12
    if scale is not None:
        if pitch_class in scale:
            return Alone(Role.SCALE, f"the {called}, in the scale", blue)
        return Alone(Role.OUTSIDE, f"the {called}, outside the scale", blue)
    if key is not None and pitch_class in scale_over(heard, key):
        return Alone(Role.SCALE, f"the {called}, in the key", blue)
    return Alone(Role.OUTSIDE, f"the {called}, outside" + ("" if key is None else " the key"), blue)


def _is_blue(name: str, slot: int, heard: Heard) -> bool:
    """b3 or b7 over a major triad or 6; b3 or b5 over a dominant; b5 over minor: as the degree is called by default."""
    if slot in heard.names:
        return False
    if heard.dominant:
        return name in ("b3", "b5")
    if heard.minor:
        return name == "b5"
    return heard.third == 4 and heard.seventh is None and name in ("b3", "b7")


@lru_cache(maxsize=4_096)
def scale_over(heard: Heard, key: Key) -> frozenset[int]:
    """The key's mode as pitch classes, with each core tone of a chord in place of the scale note of its letter.

    The chord is spelled from the key, however it is written.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> from usagi.core.pitch.keys import parse_key
    >>> sorted(scale_over(hear(parse_chord("E7")), parse_key("C major")))
    [0, 2, 4, 5, 8, 9, 11]
    """
    by_letter = {}
    for pitch_class in key.pitch_classes:
        own = key.diatonic_name(pitch_class)
        assert own is not None
        by_letter[own.letter] = pitch_class
    root = key.name(heard.root.pitch_class)
    for slot, label in heard.core.items():
        tone = spell_degree(root, label, slot)
        by_letter[tone.letter] = tone.pitch_class
    return frozenset(by_letter.values())
