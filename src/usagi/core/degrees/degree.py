"""Degree names of slots over a chord as it is heard, in the three styles."""

from __future__ import annotations

from enum import StrEnum

from usagi.core.harmony.heard import Heard
from usagi.core.pitch.keys import PLAIN


class Style(StrEnum):
    """Extended where the chord has a seventh or a sixth and plain elsewhere, or one of them everywhere."""

    DEFAULT = "default"
    PLAIN = "plain"
    EXTENDED = "extended"


def degree(heard: Heard, slot: int, *, style: Style = Style.DEFAULT, blues: bool = False) -> str:
    """The degree of a slot (semitones above the heard root, 0 to 11).

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> [degree(hear(parse_chord(s)), 2) for s in ("C", "C7", "Cadd9", "Csus2")]
    ['2', '9', '9', '2']
    """
    if style is Style.PLAIN:
        return _plain(heard, slot)
    named = heard.names.get(slot)
    if named is not None:
        return named
    if style is Style.EXTENDED or heard.seventh is not None or heard.sixth:
        return _extended(heard, slot, held=style is Style.EXTENDED, blues=blues)
    return _plain(heard, slot)


def _plain(heard: Heard, slot: int) -> str:
    return "#5" if slot == 8 and heard.augmented else PLAIN[slot]


def _extended(heard: Heard, slot: int, *, held: bool, blues: bool) -> str:
    names = heard.names
    match slot:
        case 1:
            return "b9"
        case 2:
            return "9"
        case 3 if heard.third == 4:
            return "#9" if heard.altered or held else "b3"
        case 3:
            return "#9" if heard.on_bass and heard.altered else "b3"
        case 5:
            return "4" if heard.suspended else "11"
        case 6:
            flat = names.get(6) == "b5" or heard.minor or (heard.dominant and blues)
            return "b5" if flat else "#11"
        case 8 if heard.augmented:
            return "#5"
        case 8:
            return "b6" if heard.minor and heard.seventh is None else "b13"
        case 9:
            return "6" if heard.seventh is None else "13"
        case _:
            return PLAIN[slot]
