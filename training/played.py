"""What is played on a string, in seconds: the truth of every take."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Line = NDArray[np.float32]


class How(StrEnum):
    """How a note begins."""

    PICKED = "picked"
    HAMMERED = "hammer-on"
    PULLED = "pull-off"
    SLID = "slide"
    SLID_IN = "slide-in"


@dataclass(frozen=True, slots=True)
class Played:
    """One note. `midi` is the fretted pitch; the course says where the string is pulled, in cents, by seconds."""

    onset_s: float
    end_s: float
    midi: int
    string: int
    fret: int
    tick: int
    ticks: int
    how: How = How.PICKED
    course: tuple[tuple[float, float], ...] = ()
    course_ticks: tuple[tuple[int, int], ...] = ()  # ticks and quarter tones, as it is written
    vibrato: tuple[float, float, float] | None = None  # starts after s, cents from lowest to highest, Hz
    slide_in: tuple[float, float] | None = None  # semitones below (above: negative), and seconds
    slide_off: tuple[float, float] | None = None  # semitones, and seconds
    glide_s: float = 0.0  # of a slide, before the onset
    loud: float = 0.8
    dead: bool = False
    palm_mute: bool = False
    ring: bool = False
    chord: int = 0  # notes that are struck together have the same number, above 0
    raked: int = 0  # muted strings that are brushed on the way to it; they are dead notes of their own

    @property
    def bent(self) -> bool:
        return bool(self.course)

    @property
    def starts_at(self) -> float:
        """The pitch at which it begins to sound."""
        return self.midi + (self.course[0][1] / 100 if self.course else 0.0)

    def cents(self, s: NDArray[np.float64]) -> NDArray[np.float64]:
        """The pull of the finger at seconds after the onset, vibrato and slides with it."""
        out = np.zeros_like(s)
        if self.course:
            out = np.interp(s, [at for at, _ in self.course], [cents for _, cents in self.course])
        if self.vibrato is not None:
            start, width, hz = self.vibrato
            into = np.clip((s - start) / 0.15, 0.0, 1.0)
            swing = np.sin(2 * np.pi * hz * (s - start))
            out = out + into * width / 2 * (swing if not self.course else swing - 1)
        if self.slide_in is not None:
            below, over = self.slide_in
            out = out - 100 * below * np.clip(1 - s / over, 0.0, 1.0)
        if self.slide_off is not None:
            away, over = self.slide_off
            out = out + 100 * away * np.clip((s - (self.end_s - self.onset_s - over)) / over, 0.0, 1.0)
        return out


@dataclass(frozen=True)
class Piece:
    """A solo: its notes in order of onset, the tempo that they were written in, and the chords under them."""

    seed: int
    style: str
    tempo_bpm: float
    bars: int
    swing: float
    notes: tuple[Played, ...]
    chords: tuple[tuple[int, str], ...]  # by half bar: pitch class of the root, quality
    kind: str  # line, let ring, double stops, strums, mixed
    start_s: float = 0.6
    tuning: tuple[int, ...] = (64, 59, 55, 50, 45, 40)

    @property
    def length_s(self) -> float:
        return self.start_s + self.bars * 240 / self.tempo_bpm + 1.0

    def second(self, tick: float) -> float:
        """Swung eighths; ticks are 10,080 a quarter."""
        beat, into = divmod(tick / 10_080, 1.0)
        long = self.swing / (1 + self.swing)
        laid = into * 2 * long if into < 0.5 else long + (into - 0.5) * 2 * (1 - long)
        return self.start_s + (beat + laid) * 60 / self.tempo_bpm
