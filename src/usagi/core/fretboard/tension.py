"""How hard a string pulls, and what a retuning does to it (docs/music.md, Pitch, strings, frets).

T = μ (2 L f)², with the mass per metre μ from the gauge. Plain steel has 7850 kg/m³; a wound string is given an
effective density over its outer diameter, a setting that is an estimate and said to be one. Against the tuning that a
set is strung for, n semitones change the pull by 2^(n/6) - 1.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from math import pi

from usagi.core.errors import UsagiError

PLAIN_KG_M3 = 7_850.0
WOUND_KG_M3 = 6_300.0  # an estimate: steel core, wrap of nickel-plated steel, air between the turns
NEWTON_PER_POUND = 4.448222
INCH_M = 0.0254
SLACK_SEMITONES = -3  # from here on down a string flaps
STEP_INCH = 0.0005


@dataclass(frozen=True, slots=True)
class Gauge:
    inch: float
    wound: bool = False
    wound_kg_m3: float = WOUND_KG_M3

    @property
    def kg_per_m(self) -> float:
        density = self.wound_kg_m3 if self.wound else PLAIN_KG_M3
        return density * pi * (self.inch * INCH_M / 2) ** 2


# What a set for the standard tuning is, string 1 first; more strings go on below.
USUAL = (
    Gauge(0.010), Gauge(0.013), Gauge(0.017), Gauge(0.026, True), Gauge(0.036, True), Gauge(0.046, True),
    Gauge(0.059, True), Gauge(0.074, True),
)  # fmt: skip


class GaugesUnreadable(UsagiError):
    """String gauges that cannot be read."""

    code = "gauges-unreadable"


def parse_gauges(text: str, strings: int) -> tuple[Gauge, ...]:
    """Gauges in thousandths of an inch from the thinnest on, `w` behind the wound ones; none for the usual set.

    Raises : GaugesUnreadable.

    >>> [(gauge.inch, gauge.wound) for gauge in parse_gauges("10 13 17 26w", 4)][2:]
    [(0.017, False), (0.026, True)]
    """
    words = text.replace(",", " ").split()
    if words and len(words) != strings:
        raise GaugesUnreadable(
            f"{len(words)} gauges are given for {strings} strings: write one for each, thinnest first."
        )
    found = []
    for word in words:
        match = re.fullmatch(r"(?:0?\.0*)?(\d{1,3}(?:\.5)?)(w?)", word.lower())
        inch = float(match[1]) / 1_000 if match is not None else 0.0
        if match is None or not 0.005 <= inch <= 0.2:
            raise GaugesUnreadable(f"“{word}” is no gauge: write thousandths of an inch, 10 13 17 26w 36w 46w.")
        found.append(Gauge(inch, match[2] == "w"))
    return tuple(found)


def print_gauges(gauges: Iterable[Gauge]) -> str:
    """As `parse_gauges` reads them.

    >>> print_gauges((Gauge(0.0095), Gauge(0.026, True)))
    '9.5 26w'
    """
    return " ".join(f"{gauge.inch * 1_000:g}{'w' if gauge.wound else ''}" for gauge in gauges)


def tension_n(gauge: Gauge, scale_m: float, midi: float) -> float:
    """Newtons of a string at a pitch.

    Parameters
    ----------
    gauge : of the string; a wound one is taken as lighter than plain steel of its gauge.
    scale_m : the sounding length, in metres.
    midi : the pitch.

    >>> round(tension_n(Gauge(0.010), 0.648, 64))
    73
    """
    hz = 440.0 * 2.0 ** ((midi - 69) / 12)
    return float(gauge.kg_per_m * (2 * scale_m * hz) ** 2)


def pounds(newtons: float) -> float:
    """Newtons as pounds-force.

    >>> round(pounds(73.0), 1)
    16.4
    """
    return newtons / NEWTON_PER_POUND


@dataclass(frozen=True, slots=True)
class StringTurn:
    """One string of a retuning: semitones up (+) or down (-), newtons before and after, and what to do about it.

    `strung_for_midi` is the pitch that the string is made for: what is safe is judged against that.
    """

    string: int
    before_midi: int
    after_midi: int
    before_n: float
    after_n: float
    estimated: bool
    restoring_inch: float | None  # the plain gauge that pulls as in the tuning that the set is strung for
    strung_for_midi: int

    @property
    def against_set(self) -> int:
        """Semitones above (+) or below (-) the pitch that the string is made for."""
        return self.after_midi - self.strung_for_midi

    @property
    def semitones(self) -> int:
        return self.after_midi - self.before_midi

    @property
    def way(self) -> str:
        if not self.semitones:
            return "leave it"
        count = abs(self.semitones)
        word = "semitone" if count == 1 else "semitones"
        return f"{'raise' if self.semitones > 0 else 'lower'} by {count} {word}"


def turn(
    string: int, before_midi: int, after_midi: int, gauge: Gauge, scale_m: float, strung_for_midi: int | None = None
) -> StringTurn:
    """The change of one string when it is tuned anew.

    Parameters
    ----------
    string : its number, 1 first.
    before_midi, after_midi : open pitches without the capo.
    gauge : a plain string also gets the gauge that restores its pull.
    scale_m : length of the open string, in metres.
    strung_for_midi : the pitch that its set is made for; `before_midi` when it is None.

    Source : T = μ(2Lf)²; the restoring gauge is old × 2^(-n/12) for n semitones.
    """
    strung_for = before_midi if strung_for_midi is None else strung_for_midi
    n = after_midi - strung_for
    restoring = None
    if n and not gauge.wound:
        restoring = round(gauge.inch * 2 ** (-n / 12) / STEP_INCH) * STEP_INCH
    return StringTurn(
        string=string,
        before_midi=before_midi,
        after_midi=after_midi,
        before_n=tension_n(gauge, scale_m, before_midi),
        after_n=tension_n(gauge, scale_m, after_midi),
        estimated=gauge.wound,
        restoring_inch=restoring,
        strung_for_midi=strung_for,
    )


def cautions(turns: list[StringTurn]) -> list[str]:
    """What to heed before anything is turned."""
    found = []
    raised = [turn for turn in turns if turn.semitones > 0 or turn.against_set > 0]
    if raised:
        found.append(
            "A string that is raised can break and hit an eye, and it loads the neck: turn your face away, go slowly, "
            "or reach the pitch from below with lighter strings. When in doubt ask a guitar maker."
        )
    slack = [turn for turn in turns if turn.against_set <= SLACK_SEMITONES]
    if slack:
        which = ", ".join(str(turn.string) for turn in slack)
        found.append(f"String {which} will flap: a heavier string restores its pull.")
    before, after = sum(turn.before_n for turn in turns), sum(turn.after_n for turn in turns)
    if abs(after - before) > 0.1 * before:
        found.append("The whole pull on the neck changes by more than a tenth: it may need a new set-up by a maker.")
    return found
