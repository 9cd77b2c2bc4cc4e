"""How far a recording lies from A = 440, heard from its steady partials.

Every spectral peak has a distance to the nearest note of the equal-tempered scale; those distances lie on a circle of
100 cents, and their mean direction, weighted by strength, is the offset. How much they agree is the confidence. An
offset is known within half a semitone only: a recording 88 cents flat reads as 12 sharp, and the teacher's ear decides.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from usagi.core.audio import RATE_HZ, Sound

WINDOW = 16_384
HOP = 8_192
LOW_HZ, HIGH_HZ = 110.0, 1_760.0
STRONGEST = 12  # peaks of a window
SURE, PERHAPS = 0.6, 0.3


@dataclass(frozen=True, slots=True)
class Offset:
    """Cents heard minus nominal, from -50 to 50; agreement from 0 to 1."""

    cents: float
    agreement: float

    @property
    def sentence(self) -> str:
        """The measured value in words."""
        how = "" if self.agreement >= SURE else ", perhaps" if self.agreement >= PERHAPS else ", but faintly"
        size = round(abs(self.cents))
        if size == 0:
            return f"The recording is at pitch{how}."
        return f"The recording runs {size} cent{'s' if size != 1 else ''} {'sharp' if self.cents > 0 else 'flat'}{how}."


def measure_offset(sound: Sound) -> Offset | None:
    """The offset of a sound of shape (frames, channels); None when nothing in it has a pitch."""
    line = sound.mean(axis=1).astype(np.float64)
    if len(line) < WINDOW:
        line = np.pad(line, (0, WINDOW - len(line)))
    window = np.hanning(WINDOW)
    bins = np.fft.rfftfreq(WINDOW, 1 / RATE_HZ)
    low, high = int(np.searchsorted(bins, LOW_HZ)), int(np.searchsorted(bins, HIGH_HZ))
    total, weight = 0j, 0.0
    for start in range(0, len(line) - WINDOW + 1, HOP):
        size = np.abs(np.fft.rfft(line[start : start + WINDOW] * window))
        level = np.log(size + 1e-9)
        here = np.arange(low, high)
        peaks = here[(size[here] > size[here - 1]) & (size[here] >= size[here + 1])]
        peaks = peaks[size[peaks] > 0.02 * max(size[low:high].max(), 1e-3)]
        peaks = peaks[np.argsort(size[peaks])[-STRONGEST:]]
        # A parabola through the log of three bins gives the frequency of a Hann peak to some hundredths of a bin.
        a, b, c = level[peaks - 1], level[peaks], level[peaks + 1]
        hz = (peaks + 0.5 * (a - c) / (a - 2 * b + c)) * RATE_HZ / WINDOW
        cents = 1_200 * np.log2(hz / 440.0)
        strength = np.sqrt(size[peaks])
        total += complex(np.sum(strength * np.exp(2j * np.pi * cents / 100)))
        weight += float(strength.sum())
    if weight == 0:
        return None
    mean = total / weight
    return Offset(cents=round(float(np.angle(mean)) / (2 * np.pi) * 100, 1), agreement=round(abs(mean), 2))
