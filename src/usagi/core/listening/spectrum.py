"""What the net looks at: a long spectrum that tells pitches apart, and a short one that tells moments apart.

Frames are 256 samples apart at 22,050 Hz; frame k is centred on sample 256 k. Bins are a third of a semitone apart.
"""

from __future__ import annotations

from functools import cache
from typing import Final

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.sparse import csr_array

Line = NDArray[np.float32]
Spectra = NDArray[np.float32]

RATE_HZ: Final = 22_050
HOP: Final = 256
FRAMES_PER_S: Final = RATE_HZ / HOP
LONG, SHORT = 4_096, 1_024
LOWEST_KEY, KEYS = 35, 57  # MIDI; a net answers for these
PER_KEY: Final = 3
BELOW, BINS = 36, 315  # bins below the lowest key's own, and all
LOUD: Final = 0.1  # what a take's loud frames are brought to
CONTRAST: Final = 2_000.0
AT_ONCE: Final = 512


def spectra(line: Line, *, cents: float = 0.0, loud: float | None = None) -> Spectra:
    """Both spectra of a sound, louder parts pressed together as the ear does.

    Parameters
    ----------
    line : float32, one channel at 22,050 Hz.
    cents : how far the sound lies above A = 440; bins lie as far above.
    loud : the loudness of the take that the line is a part of; its own when left out.

    Returns : float32, shape (2, BINS, frames), long and short; 0 is silence, about 1 is loud.

    >>> tone = np.sin(2 * np.pi * 440 * np.arange(22_050) / 22_050).astype(np.float32)
    >>> int(spectra(tone)[0, :, 40].argmax()), spectra(tone).shape
    (139, (2, 315, 87))
    """
    frames = 1 + len(line) // HOP
    loud = loudness(line) if loud is None else loud
    found = np.zeros((2, BINS, frames), np.float32)
    for which, size in enumerate((LONG, SHORT)):
        window = (np.hanning(size + 1)[:-1] * (2 / size)).astype(np.float32)
        padded = np.pad(line * np.float32(LOUD / loud), (size // 2, size // 2 + HOP))
        blocks = np.lib.stride_tricks.sliding_window_view(padded, size)[::HOP][:frames]
        lay = _bins(size, round(cents, 1))
        for first in range(0, frames, AT_ONCE):
            part = np.abs(scipy.fft.rfft(blocks[first : first + AT_ONCE] * window, 2 * size, axis=1))
            found[which, :, first : first + AT_ONCE] = lay @ part.T
    pressed: Spectra = np.log1p(CONTRAST * found) / np.float32(np.log1p(CONTRAST * LOUD))
    return pressed


def loudness(line: Line) -> float:
    """How loud the loud frames of a take are: what nineteen in twenty are below, root of the mean square."""
    whole = line[: len(line) // HOP * HOP].reshape(-1, HOP)
    if not len(whole):
        return 1.0
    return max(1e-4, float(np.percentile(np.sqrt(np.mean(whole**2, axis=1)), 95)))


@cache
def _bins(size: int, cents: float) -> csr_array:
    """From the places of a spectrum of twice its size to bins: a triangle as wide as the bin, two places at least."""
    midi = LOWEST_KEY + (np.arange(BINS) - BELOW - 1) / PER_KEY + cents / 100
    centre = 440 * 2 ** ((midi - 69) / 12) * (2 * size) / RATE_HZ
    wide = np.maximum(1.0, centre * (2 ** (1 / (12 * PER_KEY)) - 1))
    rows, columns, weights = [], [], []
    for row, (at, width) in enumerate(zip(centre, wide, strict=True)):
        places = np.arange(int(np.ceil(at - width)), int(np.floor(at + width)) + 1)
        places = places[(places >= 0) & (places <= size)]
        weight = 1 - np.abs(places - at) / width
        if len(places) == 0 or weight.sum() <= 0:
            continue
        rows += [row] * len(places)
        columns += list(places)
        weights += list(weight / weight.sum())
    return csr_array((np.array(weights, np.float32), (rows, columns)), shape=(BINS, size + 1))
