"""Where something is struck or plucked in a sound: the places that stretching must leave as they are.

A rise of many bands at once within three frames of a short spectrum finds the neighbourhood; the largest jump of
the energy of the first difference, which a pick or a stick makes at once, finds the frame.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final, TypeAlias

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter

from usagi.core.audio import RATE_HZ, Sound

Frames: TypeAlias = NDArray[np.int64]

BLOCK: Final = 1_024
HOP: Final = 256
BANDS: Final = 41
LOWEST_HZ, HIGHEST_HZ = 94.0, 15_000.0
FLOOR: Final = 1e-7  # band power below which a rise is not heard: some -70 dB below full scale
RISE_FRAMES: Final = 3
MEDIAN_FRAMES: Final = 39
LEAST_RISE_DB: Final = 0.7
LEAST_JUMP_DB: Final = 1.5
APART_S: Final = 0.030
BORDER: Final = RATE_HZ  # frames either side that tell whether something is struck

_WINDOW: Final = np.hanning(BLOCK + 1)[:-1].astype(np.float32)
_EDGES: Final = np.unique(np.round(np.geomspace(LOWEST_HZ, HIGHEST_HZ, BANDS + 1) * BLOCK / RATE_HZ).astype(np.int64))


def onsets(pcm: Sound) -> Frames:
    """The frames at which notes and hits begin, at least 30 ms apart.

    Parameters
    ----------
    pcm : float32, shape (frames, channels), 48 kHz.

    Returns : int64, rising. Silence and steady sound have none; a slow swell has none either.
    Source : spectral flux with a maximum filter over neighbouring bands (S. Böck and G. Widmer, "Maximum filter
    vibrato suppression for onset detection", DAFx 2013).

    >>> hit = np.zeros((48_000, 1), np.float32)
    >>> hit[24_000:, 0] = np.sin(np.arange(24_000)) * np.exp(-np.arange(24_000) / 2_000)
    >>> [bool(abs(frame - 24_000) < 48) for frame in onsets(hit)]
    [True]
    """
    line = pcm.sum(axis=1, dtype=np.float32)
    if len(line) < 2 * BLOCK:
        return np.zeros(0, dtype=np.int64)
    novelty = _novelty(line)
    around = median_filter(novelty, MEDIAN_FRAMES, mode="nearest")
    peak = (novelty == maximum_filter1d(novelty, 5, mode="nearest")) & (novelty > 2 * around + LEAST_RISE_DB)
    found: list[tuple[float, int]] = []
    difference = np.diff(line, prepend=line[:1]).astype(np.float64) ** 2
    energy = np.concatenate([[0.0], np.cumsum(difference)])
    for frame in np.flatnonzero(peak):
        at = _refined(energy, int(frame) * HOP)
        if at is not None:
            found.append((float(novelty[frame]), at))
    kept: list[int] = []
    for _, at in sorted(found, reverse=True):  # the stronger of two neighbours stays
        if all(abs(at - other) >= APART_S * RATE_HZ for other in kept):
            kept.append(at)
    return np.array(sorted(kept), dtype=np.int64)


class OnsetStream:
    """Onsets of a sound that comes in parts, so that a long one is never held whole.

    What is struck near the end of a part is judged with the next, when there is sound on both sides of it.
    """

    def __init__(self) -> None:
        self._heard = np.zeros((0, 1), np.float32)
        self._begin = self._settled = 0

    def feed(self, part: Sound) -> Frames:
        """The onsets that are certain by now, in frames from the first part's first."""
        self._heard = np.concatenate([self._heard, part.mean(axis=1, keepdims=True, dtype=np.float32)])
        at, until = onsets(self._heard) + self._begin, self._begin + len(self._heard) - BORDER
        found = at[(at >= self._settled) & (at < until)]
        self._settled = max(self._settled, until)
        self._begin += max(0, len(self._heard) - 2 * BORDER)
        self._heard = self._heard[-2 * BORDER :]
        return found

    def end(self) -> Frames:
        """The onsets that only the end of the sound makes certain."""
        at = onsets(self._heard) + self._begin
        return at[at >= self._settled]


def onsets_of(parts: Iterable[Sound]) -> Frames:
    """As `onsets`, of a sound in parts.

    >>> hit = np.zeros((96_000, 1), np.float32)
    >>> hit[50_000:, 0] = np.sin(np.arange(46_000)) * np.exp(-np.arange(46_000) / 2_000)
    >>> bool(onsets_of([hit[:49_990], hit[49_990:]]) == onsets(hit))
    True
    """
    stream = OnsetStream()
    found = [stream.feed(part) for part in parts]
    return np.concatenate([*found, stream.end()])


def _novelty(line: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mean rise in dB of each short spectrum over the one three frames before; frame k is centred on k * HOP."""
    padded = np.pad(line, (BLOCK // 2, BLOCK // 2))
    blocks = np.lib.stride_tricks.sliding_window_view(padded, BLOCK)[::HOP]
    bands = np.empty((len(blocks), len(_EDGES) - 1), dtype=np.float32)
    for first in range(0, len(blocks), 256):
        spectrum = scipy.fft.rfft(blocks[first : first + 256] * _WINDOW, axis=1)
        power = spectrum.real**2 + spectrum.imag**2
        bands[first : first + 256] = np.add.reduceat(power[:, : _EDGES[-1]], _EDGES[:-1], axis=1)
    level = 10 * np.log10(bands * (4 / BLOCK**2) + FLOOR)
    before = np.empty_like(level)
    before[RISE_FRAMES:] = maximum_filter1d(level, 3, axis=1, mode="nearest")[:-RISE_FRAMES]
    before[:RISE_FRAMES] = 10 * np.log10(FLOOR)
    rise: NDArray[np.float32] = np.maximum(level - before, 0).mean(axis=1)
    return rise


def _refined(energy: NDArray[np.float64], near: int) -> int | None:
    """The frame near `near` with the largest jump of energy; none when nothing jumps by 1.5 dB."""
    at, jump = near, 0.0
    for half_s, reach_s in ((0.004, 0.016), (0.002, 0.004)):
        half, reach = round(half_s * RATE_HZ), round(reach_s * RATE_HZ)
        places = np.arange(max(half, at - reach), min(len(energy) - 1 - half, at + reach + 1), 6)
        if len(places) == 0:
            return None
        after = energy[places + half] - energy[places]
        before = energy[places] - energy[places - half]
        ratio = np.log10((after + 1e-9) / (before + 1e-9))
        best = int(np.argmax(ratio))
        at, jump = int(places[best]), float(10 * ratio[best])
    return at if jump >= LEAST_JUMP_DB else None
