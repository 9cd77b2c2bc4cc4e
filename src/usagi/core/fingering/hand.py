"""The hand: how far it reaches, what a finger can push, and what shapes, shifts and bends cost.

The costs are a table of ours, set so that what is comfortable costs nothing and one plain shift costs about one.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from math import inf

from usagi.core.document.solo import SoloSettings
from usagi.core.fretboard.bending import Push, push
from usagi.core.fretboard.places import open_pitch
from usagi.core.fretboard.tension import USUAL, Gauge

SPAN = 5  # frets of a position


class HandSize(StrEnum):
    SMALL = "small"
    USUAL = "usual"
    LARGE = "large"


@dataclass(frozen=True, slots=True)
class Hand:
    """Millimetres from index to little finger, at ease and at most; how far and how hard a finger pushes a string."""

    ease_mm: float
    most_mm: float
    push_mm: float
    push_n: float


HANDS = {
    HandSize.SMALL: Hand(82, 112, 26, 18),
    HandSize.USUAL: Hand(96, 130, 32, 22),
    HandSize.LARGE: Hand(110, 150, 38, 26),
}

SHIFT = 0.8  # of the hand to another position
SHIFT_FRET = 0.12  # each fret further
HURRY_S = 0.22  # a shift with less time than this costs more, in proportion
GUIDED = 0.25  # of a shift that a slide leads
CROSSING = 0.04  # each string between two notes
STRETCH = 0.08  # each millimetre beyond ease
OPEN_STRING = 0.25  # it rings on, and sounds unlike its neighbours
OPEN_FROM_AFAR = 0.06  # a fret of the hand's position, beyond the fifth: the open string is out of the way there
HIGH_FRET = 0.03  # each fret above the twelfth, where they lie close
THICK = 0.08  # each string below the third: a lead line is clearer on thin ones
APART = 0.3  # each string skipped within a stack
ROLLED = 0.25  # one finger on two strings in turn
THICK_BEND = 0.5  # a whole step or more, each string below the third
# Which finger bends how willingly; the others help the ring and the little one.
BEND_FINGER = {1: 0.7, 2: 0.25, 3: 0.0, 4: 0.2}


def reach_mm(scale_mm: float, capo: int, low: int, high: int) -> float:
    """From one fret to another along the neck.

    Parameters
    ----------
    scale_mm : from nut to bridge.
    capo : its fret, 0 for none.
    low, high : frets counted from the capo.

    >>> round(reach_mm(648, 0, 1, 5)), round(reach_mm(648, 0, 9, 13))
    (126, 79)
    """
    return float(scale_mm * (2.0 ** (-(capo + low) / 12) - 2.0 ** (-(capo + high) / 12)))


def stretch_cost(hand: Hand, settings: SoloSettings, low: int, high: int) -> float:
    """What holding two frets at once asks; infinite when the hand does not reach.

    Parameters
    ----------
    hand : how far it reaches.
    settings : scale length and capo.
    low, high : the two frets, counted from the capo.
    """
    if high - low >= SPAN:
        return inf
    span = reach_mm(settings.scale_length_mm, settings.capo, low, high)
    if span > hand.most_mm:
        return inf
    return STRETCH * max(0.0, span - hand.ease_mm)


def finger_at(position: int, fret: int) -> int:
    """Finger 1 to 4 at a fret of a position; 0 for the open string."""
    return 0 if fret == 0 else min(4, fret - position + 1)


def gauge_of(settings: SoloSettings, string: int) -> Gauge:
    """The gauge of a string: the solo's own, else of a usual set."""
    if string <= len(settings.gauges):
        own = settings.gauges[string - 1]
        return Gauge(own.gauge_inch, own.wound)
    return USUAL[string - 1]


def bend_trouble(hand: Hand, settings: SoloSettings, string: int, fret: int, quarters: int) -> str | None:
    """Why a bend from a fret is out of reach, in words; None when the finger does it. The forces are estimates.

    Parameters
    ----------
    hand : how far and how hard it pushes.
    settings : gauges, scale length, tuning, capo.
    string, fret : the place; the fret counts from the capo.
    quarters : how far it is bent, in quarter tones.
    """
    if fret == 0:
        return "an open string has no finger behind it to bend it"
    wanted = _push(settings, string, fret, quarters)
    if wanted.aside_mm > hand.push_mm:
        return f"the string would have to go about {wanted.aside_mm:.0f} mm aside, further than this hand pushes it"
    if wanted.force_n > hand.push_n:
        near = " so near the nut" if fret + settings.capo <= 3 else ""
        return f"the string resists with about {wanted.force_n:.0f} newtons{near}"
    return None


def bend_share(hand: Hand, settings: SoloSettings, string: int, fret: int, quarters: int) -> float:
    """What a bend takes of all that this hand can do, the greater of its distance and its force; an estimate.

    Parameters
    ----------
    hand, settings, string, fret, quarters : as in `bend_trouble`.

    >>> bend_share(HANDS[HandSize.USUAL], SoloSettings(), 2, 15, 4) < bend_share(
    ...     HANDS[HandSize.USUAL], SoloSettings(), 2, 2, 4)
    True
    """
    if quarters <= 0:
        return 0.0
    if fret == 0:
        return inf
    wanted = _push(settings, string, fret, quarters)
    return max(wanted.aside_mm / hand.push_mm, wanted.force_n / hand.push_n)


def _push(settings: SoloSettings, string: int, fret: int, quarters: int) -> Push:
    return push(
        gauge_of(settings, string),
        settings.scale_length_mm / 1_000,
        open_pitch(string, settings.tuning, 0),
        fret + settings.capo,
        quarters / 2,
    )
