"""Spectra for the hearing of beats and chords: short-time power, bands as the ear has them, and evenly spaced tones.

A line is one channel. Frames stand in the middle of what they look at: frame k is about sample k * hop, and beyond both
ends lies silence.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cache, lru_cache
from typing import Final

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.sparse import csr_array, vstack

Line = NDArray[np.floating]
Table = NDArray[np.float32]

BLOCK: Final = 2_048
AT_ONCE: Final = 256  # frames: what is transformed together
MOST_SAMPLES: Final = 1 << 21  # of the frames of long blocks, at once
ROWS: Final = 24  # of a kernel that are worked out at once
KEPT: Final = 1e-3  # of the largest part of a tone's spectrum; below it nothing is counted


def _frames(line: Line, length: int, hop: int) -> Iterator[Table]:
    """The frames of a line, some at once: shape (frames, length)."""
    padded = np.pad(np.asarray(line, dtype=np.float32), length // 2)
    all_of_them = np.lib.stride_tricks.sliding_window_view(padded, length)[::hop]
    some = min(AT_ONCE, max(1, MOST_SAMPLES // length))
    for first in range(0, len(all_of_them), some):
        yield all_of_them[first : first + some]


def power(line: Line, *, hop: int) -> Iterator[Table]:
    """Power of the short-time spectrum, blocks of 2,048 under a Hann window.

    It comes 256 frames at a time, because all frames of a long recording would take a gigabyte.

    Yields : float32, shape (1025, up to 256); together 1 + len(line) // hop frames.

    >>> tone = np.sin(2 * np.pi * 1_000 * np.arange(22_050) / 22_050)
    >>> int(next(power(tone, hop=512))[:, 20].argmax() * 22_050 / BLOCK)
    1001
    """
    window = _hann(BLOCK)
    for block in _frames(line, BLOCK, hop):
        yield (np.abs(scipy.fft.rfft(block * window, axis=1)) ** 2).T


def _hann(length: int) -> Table:
    return np.hanning(length + 1)[:-1].astype(np.float32)


def decibels(values: Table, loudest: float, *, floor: float = 1e-10, depth: float = 80.0) -> Table:
    """Power in decibels; nothing lies more than `depth` below the loudest power."""
    found = 10 * np.log10(np.maximum(floor, values))
    capped: Table = np.maximum(found, np.float32(10 * math.log10(max(floor, loudest)) - depth))
    return capped


@cache
def mel_bands(rate_hz: int, bands: int = 128) -> Table:
    """Triangles of equal area, evenly spaced to the ear, from 0 Hz to half the rate: shape (bands, 1025).

    Source : M. Slaney, "Auditory Toolbox", Interval Research 1998: linear to 1 kHz, then 27 steps to 6.4 times it.

    >>> bool(np.all(mel_bands(22_050).argmax(axis=1)[1:] >= mel_bands(22_050).argmax(axis=1)[:-1]))
    True
    """
    edges = _hz(np.linspace(0.0, _mel(rate_hz / 2), bands + 2))
    at = np.linspace(0.0, rate_hz / 2, BLOCK // 2 + 1)
    rise = (at - edges[:-2, None]) / (edges[1:-1] - edges[:-2])[:, None]
    fall = (edges[2:, None] - at) / (edges[2:] - edges[1:-1])[:, None]
    area = (2.0 / (edges[2:] - edges[:-2]))[:, None]
    triangles: Table = (np.maximum(0.0, np.minimum(rise, fall)) * area).astype(np.float32)
    return triangles


BREAK_HZ, PER_MEL_HZ, STEP = 1_000.0, 200.0 / 3, math.log(6.4) / 27


def _mel(hz: float) -> float:
    if hz < BREAK_HZ:
        return hz / PER_MEL_HZ
    return BREAK_HZ / PER_MEL_HZ + math.log(hz / BREAK_HZ) / STEP


def _hz(mel: NDArray[np.float64]) -> NDArray[np.float64]:
    bent = BREAK_HZ / PER_MEL_HZ
    return np.where(mel < bent, mel * PER_MEL_HZ, BREAK_HZ * np.exp(STEP * (mel - bent)))


@cache
def pitch_class_bands(rate_hz: int) -> Table:
    """How much each place of the spectrum counts for each pitch class, C first: shape (12, 1025).

    A bump a semitone wide about every octave of the class, weighted by a wider bump about 14 Hz * 2^5, so that neither
    rumble nor hiss decides; together they have length 1 at every place.

    Source : D. P. W. Ellis, "Chroma feature analysis and synthesis", Columbia University 2007.
    """
    hz = np.arange(1, BLOCK) * rate_hz / BLOCK
    place = 12 * np.log2(hz / (440.0 / 16))  # semitones above A0
    place = np.concatenate([[place[0] - 18], place])  # what stands at 0 Hz lies below all of them
    width = np.concatenate([np.maximum(np.diff(place), 1.0), [1.0]])
    off = place - np.arange(12)[:, None]
    off = (off + 6 + 120) % 12 - 6
    bumps = np.exp(-0.5 * (2 * off / width) ** 2)
    bumps /= np.linalg.norm(bumps, axis=0) + 1e-30
    middle, octaves = 5.0, 2.0
    bumps *= np.exp(-0.5 * ((place / 12 - middle) / octaves) ** 2)
    from_c: Table = np.roll(bumps, -3, axis=0)[:, : BLOCK // 2 + 1].astype(np.float32)
    return from_c


def pitch_classes(powers: Table, *, rate_hz: int) -> Table:
    """Power by pitch class, C first, the strongest of each frame 1: shape (12, frames). Silent frames are 0.

    >>> tone = np.sin(2 * np.pi * 440 * np.arange(22_050) / 22_050)
    >>> int(pitch_classes(next(power(tone, hop=512)), rate_hz=22_050)[:, 20].argmax())  # A
    9
    """
    raw = pitch_class_bands(rate_hz) @ powers
    top = raw.max(axis=0)
    loudest = np.where(top > np.finfo(np.float32).tiny, top, 1.0).astype(np.float32)
    return raw / loudest


def tones(line: Line, *, rate_hz: int, hop: int, lowest_hz: float, count: int, per_octave: int) -> Table:
    """How loud each of `count` tones is, evenly spaced in pitch from the lowest on: shape (count, frames).

    Every tone is looked at over the same number of its own waves, the high ones shortly; a steady tone of the same
    power reads louder in the low ones, as the square root of how long they are looked at.

    Parameters
    ----------
    line : one channel, shape (samples,).
    rate_hz, hop : samples a second, and between two frames.
    lowest_hz : the lowest tone.
    count, per_octave : how many tones, and how many make an octave.

    Source : J. C. Brown and M. S. Puckette, "An efficient algorithm for the calculation of a constant Q transform",
    JASA 92 (1992).
    """
    kernel, length = _kernel(rate_hz, lowest_hz, count, per_octave)
    parts = []
    for block in _frames(line, length, hop):
        spectrum = np.ascontiguousarray(scipy.fft.rfft(block, axis=1).T)
        sums = kernel @ spectrum.view(np.float32)  # the kernel is real: both parts at once
        parts.append(np.abs(sums.view(np.complex64)))
    return np.concatenate(parts, axis=1)


@lru_cache(maxsize=4)  # one for each tuning of a recording
def _kernel(rate_hz: int, lowest_hz: float, count: int, per_octave: int) -> tuple[csr_array, int]:
    """The spectra of the tones under their windows: shape (count, length // 2 + 1); and the length of a block.

    A tone's window is a Hann bell about the middle of the block, so its spectrum is real: a sum of three Dirichlet
    kernels about the tone. A block's own middle is sample length / 2, which turns every second place of its spectrum.
    """
    apart = 2.0 ** (2 / per_octave)
    waves = (apart + 1) / (apart - 1)
    hz = lowest_hz * 2.0 ** (np.arange(count) / per_octave)
    length = 2 ** int(np.ceil(np.log2(waves * rate_hz / hz[0])))
    rows = [_kernel_rows(hz[at : at + ROWS], waves, length, rate_hz) for at in range(0, count, ROWS)]
    return vstack(rows, format="csr"), length


def _kernel_rows(hz: NDArray[np.float64], waves: float, length: int, rate_hz: int) -> csr_array:
    """Some rows of a kernel: all of them at once would take ten times the memory."""
    long = waves * rate_hz / hz
    size = (2 * (long // 2) + 1)[:, None]
    off = 2 * np.pi * (np.arange(length // 2 + 1) / length - hz[:, None] / rate_hz)
    step = 2 * np.pi / size
    bell = _dirichlet(off, size) / 2 + (_dirichlet(off - step, size) + _dirichlet(off + step, size)) / 4
    bell *= np.sqrt(long)[:, None] / (size / 2 * length)
    bell[np.abs(bell) < KEPT * bell.max(axis=1, keepdims=True)] = 0.0
    return csr_array((bell * (-1.0) ** np.arange(length // 2 + 1)).astype(np.float32))


def _dirichlet(angle: NDArray[np.float64], size: NDArray[np.float64]) -> NDArray[np.float64]:
    half = np.sin(angle / 2)
    whole = np.abs(half) < 1e-12
    return np.where(whole, size, np.sin(size * angle / 2) / np.where(whole, 1.0, half))
