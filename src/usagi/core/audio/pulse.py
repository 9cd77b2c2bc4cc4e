"""The pulse in a sound: how strongly something begins at each moment, the pace of it, and beats that follow it.

Times are frames of `hop` samples. Where several paces fit, the one near 120 a minute is followed, as a listener taps.
"""

from __future__ import annotations

from typing import Final

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from usagi.core.audio.spectra import BLOCK, Table, decibels

Strength = NDArray[np.float64]

WINDOW_S: Final = 8.0  # in which the pace is looked for
USUAL_BPM: Final = 120.0
FASTEST_BPM: Final = 320.0
TIGHT: Final = 100.0  # how much an uneven step costs
AT_ONCE: Final = 1_024


def onset_strength(bands: Table, *, hop: int) -> Strength:
    """How much louder the bands get from frame to frame, in decibels, the middle one of them all.

    Parameters
    ----------
    bands : power in bands as the ear has them, shape (bands, frames).
    hop : samples between two frames.

    Returns : float64, shape (frames,), 0 where nothing begins. A frame is as late as what is heard, not as the window
    that hears it.

    >>> bands = np.full((128, 60), 1e-6, np.float32)
    >>> bands[:, 20] = 1
    >>> int(onset_strength(bands, hop=256).argmax())
    24
    """
    loudest = float(bands.max())
    rises = []
    for first in range(0, bands.shape[1] - 1, AT_ONCE):
        part = decibels(bands[:, first : first + AT_ONCE + 1], loudest)
        rises.append(np.median(np.maximum(0.0, np.diff(part, axis=1)), axis=0))
    late = 1 + BLOCK // (2 * hop)
    return np.pad(np.concatenate([*rises, []]), (late, 0))[: bands.shape[1]].astype(np.float64)


def pace_bpm(strength: Strength, *, frames_per_s: float) -> float:
    """The likeliest pace: how well the strength repeats itself after a beat, weighed by how usual that pace is.

    Source : D. P. W. Ellis, "Beat tracking by dynamic programming", Journal of New Music Research 36 (2007), part 3.3,
    with the autocorrelation of short windows averaged over the whole.
    """
    lags = int(WINDOW_S * frames_per_s)
    ramped = np.pad(strength, lags // 2, mode="linear_ramp")
    windows = np.lib.stride_tricks.sliding_window_view(ramped, lags)[: len(strength)]
    taper = np.hanning(lags + 1)[:-1]
    size = scipy.fft.next_fast_len(2 * lags - 1, real=True)
    likeness = np.zeros(lags)
    for first in range(0, len(windows), AT_ONCE):
        spectrum = scipy.fft.rfft(windows[first : first + AT_ONCE] * taper, size, axis=1)
        own = scipy.fft.irfft(np.abs(spectrum) ** 2, size, axis=1)[:, :lags]
        top = np.abs(own).max(axis=1, keepdims=True)
        likeness += (own / np.where(top > np.finfo(np.float64).tiny, top, 1.0)).sum(axis=0)
    bpm = 60 * frames_per_s / np.arange(1, lags)
    usual = -0.5 * np.log2(bpm / USUAL_BPM) ** 2
    usual[bpm >= FASTEST_BPM] = -np.inf
    return float(bpm[np.argmax(np.log1p(1e6 * likeness[1:] / len(strength)) + usual)])


def follow(strength: Strength, *, frames_per_s: float, bpm: float | None = None) -> NDArray[np.int64]:
    """The frames of beats at about a pace, in rising order: on what begins, and evenly apart.

    Parameters
    ----------
    strength : as of `onset_strength`.
    frames_per_s : frames a second.
    bpm : the pace to follow; the likeliest when it is left out.

    Returns : int64; empty where nothing begins.
    Source : D. P. W. Ellis as above, part 2: the best chain of beats, where each costs the square of the logarithm of
    how far its step is off.

    >>> strength = np.zeros(800)
    >>> strength[10::43] = 1
    >>> [int(step) for step in set(np.diff(follow(strength, frames_per_s=86.0)))]
    [43]
    """
    if not strength.any():
        return np.zeros(0, dtype=np.int64)
    period = round(60 * frames_per_s / (pace_bpm(strength, frames_per_s=frames_per_s) if bpm is None else bpm))
    even = strength / (strength.std(ddof=1) + np.finfo(np.float64).tiny)
    smooth = np.convolve(even, np.exp(-0.5 * (np.arange(-period, period + 1) * 32.0 / period) ** 2), mode="same")
    chain, score = _best_chain(smooth, period)
    beats = [_last(score)]
    while chain[beats[-1]] >= 0:
        beats.append(int(chain[beats[-1]]))
    sounding = np.flatnonzero(smooth > 0)
    found = np.array(beats[::-1], dtype=np.int64)
    inside: NDArray[np.int64] = found[(found >= sounding[0]) & (found <= sounding[-1])]
    return inside


def _best_chain(smooth: Strength, period: int) -> tuple[NDArray[np.int64], Strength]:
    """For every frame the beat before it in the best chain that ends there (-1: none), and its score."""
    steps = np.arange(2 * period, round(period / 2) - 1, -1)
    cost = TIGHT * np.log(steps / period) ** 2
    before = np.full(len(smooth), -1, dtype=np.int64)
    score = smooth.copy()
    begun, least = False, 0.01 * smooth.max()
    for frame in range(len(smooth)):
        reach = steps[steps <= frame] if frame < steps[0] else steps
        if len(reach):
            chains = score[frame - reach] - cost[len(steps) - len(reach) :]
            best = len(chains) - 1 - int(np.argmax(chains[::-1]))
            score[frame] += chains[best]
            if begun or smooth[frame] >= least:
                before[frame] = frame - reach[best]
        begun = begun or smooth[frame] >= least
    return before, score


def _last(score: Strength) -> int:
    """The last beat: the last peak of the score that is at least half as high as peaks are."""
    up = np.concatenate([[False], score[1:] > score[:-1]])
    down = np.concatenate([score[:-1] >= score[1:], [True]])
    peaks = np.flatnonzero(up & down)
    high = peaks[score[peaks] >= 0.5 * np.median(score[peaks])]
    return int(high[-1]) if len(high) else len(score) - 1
