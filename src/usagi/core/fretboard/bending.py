"""What a bend asks of the finger: how far the string is pushed aside, and with what force.

A string that is raised by n semitones pulls 2^(n/6) times as hard; it gets there by being longer, by ΔT/(E A) of its
whole length, which the finger gives it sideways: h² = 2 ΔL / (1/a + 1/b) with the string's parts a and b on either
side of the finger, and the finger holds T h (1/a + 1/b) (elementary statics; small angles). The core of a wound
string is taken as 40 % of its gauge, an estimate.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import pi, sqrt

from usagi.core.fretboard.tension import INCH_M, Gauge, tension_n

STEEL_PA = 2.0e11
CORE = 0.4  # of a wound string's gauge
GRIP = 1.4  # a wound string holds on to the frets that it is pushed along: an estimate of ours


@dataclass(frozen=True, slots=True)
class Push:
    """Millimetres sideways, newtons held, and the string's name for whoever is told."""

    aside_mm: float
    force_n: float


def push(gauge: Gauge, scale_m: float, open_midi: float, fret: float, semitones: float) -> Push:
    """What bending a fretted string by semitones takes; `fret` from the nut, above 0.

    Parameters
    ----------
    gauge : of the string, in inches.
    scale_m : from nut to bridge, in metres.
    open_midi : pitch of the open string.
    fret : from the nut, above 0.
    semitones : how far it is bent.

    >>> push(Gauge(0.010), 0.648, 64, 12, 2).aside_mm < push(Gauge(0.010), 0.648, 64, 12, 4).aside_mm
    True
    >>> push(Gauge(0.010), 0.648, 64, 1, 2).force_n > push(Gauge(0.010), 0.648, 64, 7, 2).force_n
    True
    """
    tension = tension_n(gauge, scale_m, open_midi)
    raised = tension * 2 ** (semitones / 6)
    core_m = gauge.inch * INCH_M * (CORE if gauge.wound else 1.0)
    longer_m = scale_m * (raised - tension) / (STEEL_PA * pi * (core_m / 2) ** 2)
    behind = scale_m * (1 - 2 ** (-fret / 12))
    ahead = scale_m - behind
    slope = 1 / behind + 1 / ahead
    aside = sqrt(2 * longer_m / slope)
    return Push(aside * 1_000, raised * aside * slope * (GRIP if gauge.wound else 1.0))
