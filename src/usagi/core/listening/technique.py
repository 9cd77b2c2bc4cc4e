"""How a heard note is played: what joins it to the note before, how far it is bent and when, how it is shaken.

Whether it is bent, shaken or slid is what the second net judges; how far, how fast and when is measured on its pitch.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter, uniform_filter1d

from usagi.core.listening.net import Said
from usagi.core.listening.notes import Track
from usagi.core.listening.spectrum import FRAMES_PER_S

Cents = NDArray[np.float64]

BENT, SHAKEN, JOINED, SLID_IN = 0.6, 0.3, 0.55, 0.5  # how likely it must be
WHERE_SHAKEN: Final = 0.4  # of the first net, where it hears the shaking
LEAST_BEND: Final = 30.0  # cents
NEAR_TOP: Final = 0.15  # of a bend's size: within it the bend has arrived
SLOWEST_HZ, FASTEST_HZ = 3.0, 9.0
LEAST_WIDTH: Final = 10.0


class Joined(StrEnum):
    """How a note begins."""

    PICKED = "picked"
    HAMMERED = "hammer-on"
    PULLED = "pull-off"
    SLID = "slide"
    SLID_IN = "slide-in"


@dataclass(frozen=True)
class BendHeard:
    """Points of `(seconds from the onset, cents above the fretted pitch)`: where the pitch stays or turns."""

    points: tuple[tuple[float, float], ...]

    @property
    def size_cents(self) -> float:
        return max(cents for _, cents in self.points)


@dataclass(frozen=True)
class VibratoHeard:
    start_s: float
    width_cents: float
    rate_hz: float


@dataclass(frozen=True)
class Judged:
    """How likely a track is a note, and, if it is one, played in these ways; 0 to 1 each."""

    right: float
    bend: float
    vibrato: float
    slide: float
    legato: float
    slid_in: float


@dataclass(frozen=True)
class Played:
    """How a note is played, measured where it is likely."""

    joined: Joined
    slid_from: int  # semitones below the pitch at which a slide into it begins; 0 without one
    slid_s: float
    bend: BendHeard | None
    fretted_off: int  # semitones from the pitch at the onset down to the fretted one: of a string bent before it sounds
    vibrato: VibratoHeard | None


def played(track: Track, judged: Judged, before: Track | None, said: Said) -> Played:
    """How a track is played; `before` is the note that it may be joined to."""
    bend, off = measured_bend(track.cents) if judged.bend >= BENT else (None, 0)
    vibrato = None
    if judged.vibrato >= SHAKEN:
        vibrato = measured_vibrato(track, said.vibrato[track.keys(said), np.arange(track.first, track.last)])
    joined = Joined.PICKED
    if before is not None and max(judged.slide, judged.legato) >= JOINED:
        hammered = Joined.HAMMERED if track.key > before.key else Joined.PULLED
        joined = Joined.SLID if judged.slide >= judged.legato else hammered
    elif judged.slid_in >= SLID_IN:
        joined = Joined.SLID_IN
    below, over = _slid_in(track.cents) if joined is Joined.SLID_IN else (0, 0.0)
    return Played(joined, below, over, bend, off, vibrato)


def _slid_in(cents: Cents) -> tuple[int, float]:
    """How many semitones below its pitch a note begins (above: negative), and the seconds until it is there."""
    early = cents[:20]
    start = float(np.median(early[:2])) if len(early) else 0.0
    below = round(-start / 100) or (1 if start <= 0 else -1)
    there = np.flatnonzero(np.abs(early) < 35)
    return below, float(there[0] if len(there) else len(early)) / FRAMES_PER_S


def measured_bend(cents: Cents) -> tuple[BendHeard | None, int]:
    """A bend's points, read off its pitch, and how many semitones the onset lies above the fretted pitch.

    The top is what a twentieth of it lies above; a bend has arrived where a seventh of its size is missing no more.
    """
    line = median_filter(cents, size=min(5, len(cents)), mode="nearest")
    size = len(line)
    start = float(np.median(line[: max(1, min(4, size))]))
    end = float(np.median(line[max(0, size - 4) :]))
    low, high = float(np.percentile(line, 3)), float(np.percentile(line, 95))
    second = 1 / FRAMES_PER_S
    if start - end > LEAST_BEND and start > high - 0.35 * (high - low):  # bent before it sounds, then let down
        off = round((start - end) / 100) if start - end > 60 else 0
        fretted = -100.0 * off if off else end
        top = start - fretted
        falls = np.flatnonzero(line < start - NEAR_TOP * top)
        lands = np.flatnonzero(line < end + NEAR_TOP * top)
        a, b = int(falls[0]) if len(falls) else size // 2, int(lands[0]) if len(lands) else size - 1
        return BendHeard(((0.0, top), (a * second, top), (max(a + 1, b) * second, 0.0))), off
    base = min(start, 0.0) if abs(start) < 40 else start
    top = high - base
    if top < LEAST_BEND:
        return None, 0
    arrived = np.flatnonzero(line > base + (1 - NEAR_TOP) * top)
    left = np.flatnonzero(line[: arrived[0] + 1] < base + NEAR_TOP * top)
    a, b = (int(left[-1]) if len(left) else 0), int(arrived[0])
    points = [(0.0, 0.0)] if a == 0 else [(0.0, 0.0), (a * second, 0.0)]
    points.append((max(a + 1, b) * second, top))
    if end < base + 0.5 * top:  # let down again
        last = int(arrived[-1])
        lands = np.flatnonzero(line[last:] < base + NEAR_TOP * top)
        c = last + (int(lands[0]) if len(lands) else size - 1 - last)
        points += [(last * second, top), (max(last + 1, c) * second, 0.0)]
    return BendHeard(tuple(_rising(points))), 0


def _rising(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    out: list[tuple[float, float]] = []
    for at, cents in points:
        if not out or at > out[-1][0]:
            out.append((at, cents))
    return out


def measured_vibrato(track: Track, shaken: NDArray[np.float32]) -> VibratoHeard | None:
    """Where it starts, how wide from lowest to highest, how fast: the sine that fits best where the net hears it."""
    on = np.flatnonzero(shaken > WHERE_SHAKEN)
    if len(on) < 12:
        return None
    first, last = int(on[0]), int(on[-1]) + 1
    line = track.cents[first:last]
    line = line - uniform_filter1d(line, min(len(line), 25), mode="nearest")
    t = np.arange(len(line)) / FRAMES_PER_S
    best, found = 0.0, None
    for hz in np.arange(SLOWEST_HZ, FASTEST_HZ, 0.25):
        basis = np.stack([np.sin(2 * np.pi * hz * t), np.cos(2 * np.pi * hz * t)], axis=1)
        weights, *_ = np.linalg.lstsq(basis, line, rcond=None)
        share = float(np.sum((basis @ weights) ** 2))
        if share > best:
            best, found = share, (hz, float(np.hypot(*weights)))
    if found is None:
        return None
    width = float(np.percentile(line, 92) - np.percentile(line, 8)) * 1.06
    if width < LEAST_WIDTH:
        return None
    return VibratoHeard(first / FRAMES_PER_S, width, found[0])
