"""Regions of a spectrum: bins that belong to one partial and turn together, with the frequency of its peak."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, TypeAlias, TypeVar

import numpy as np
from numpy.typing import NDArray

from usagi.core.audio.onsets import Frames

Floats: TypeAlias = NDArray[np.float32]
Bins: TypeAlias = NDArray[np.complex64]
Mask: TypeAlias = NDArray[np.bool_]
Number = TypeVar("Number", np.float32, np.complex64, np.int64)

LEFT_AND_RIGHT: Final = 0.7  # weight of the right channel in the mix whose phases are followed


def mixed(channels: NDArray[Number]) -> NDArray[Number]:
    """Of sounds or spectra, channels first, the mix whose phases all channels follow."""
    mix: NDArray[Number] = channels[0]
    return mix if len(channels) == 1 else (mix + np.float32(LEFT_AND_RIGHT) * channels[1]).astype(mix.dtype)


def windowed(plain: Bins) -> Bins:
    """Spectra under a Hann window from those without one: it is three bins wide."""
    out: Bins = np.float32(0.5) * plain
    sides = plain[..., :-2].view(np.float32) + plain[..., 2:].view(np.float32)  # as pairs of numbers: half the time
    sides *= np.float32(0.25)
    out[..., 1:-1].view(np.float32)[...] -= sides
    out[..., 0] -= np.float32(0.5) * plain[..., 1].real
    out[..., -1] -= np.float32(0.5) * plain[..., -2].real
    return out


@dataclass(frozen=True, slots=True)
class Regions:
    """Bins of a batch of frames that turn together: for every region the bin of its peak, how many bins it has, and its
    frequency in radians a sample. `of_frame` says which regions are those of each frame."""

    peaks: Frames
    widths: Frames
    frequency: Floats
    of_frame: list[slice]

    def spread(self, values: NDArray[Number]) -> NDArray[Number]:
        """Values of the regions for every bin, shape (frames, bins)."""
        return values.repeat(self.widths).reshape(len(self.of_frame), -1)

    def going_on(self, rows: Frames, whole: Regions, goes_on: Mask) -> Regions:
        """The same, but in some frames, `rows`, every bin is a region of its own: those that go on through an onset are
        measured in the `whole` frame, which was not cut at it."""
        peaks = [self.peaks[part] for part in self.of_frame]
        widths = [self.widths[part] for part in self.of_frame]
        frequency = [self.frequency[part] for part in self.of_frame]
        for row, part, kept in zip(rows.tolist(), whole.of_frame, goes_on, strict=True):
            own, theirs = widths[row], whole.widths[part]
            peaks[row] = np.where(kept, whole.peaks[part].repeat(theirs), peaks[row].repeat(own))
            frequency[row] = np.where(kept, whole.frequency[part].repeat(theirs), frequency[row].repeat(own))
            widths[row] = np.ones(len(kept), dtype=np.int64)
        ends = np.cumsum([len(own) for own in peaks])
        parts = [slice(int(end) - len(own), int(end)) for end, own in zip(ends, peaks, strict=True)]
        return Regions(np.concatenate(peaks), np.concatenate(widths), np.concatenate(frequency), parts)


def regions_of(plain: Bins, spectra: Bins) -> Regions:
    """The regions of each frame, from its spectrum without a window and under one.

    A peak is a local maximum: of two partials 36 Hz apart, three bins, either keeps its own. Each bin belongs to the
    nearest. With w the Hann window and d its derivative, both read from neighbouring bins, the frequency of bin k is
    w_k - Im(X_d / X_w).
    """
    rows, bins = plain.shape
    size = 2 * (bins - 1)
    power = spectra.real**2 + spectra.imag**2
    flat = power.reshape(-1)
    peak = np.zeros(len(flat), dtype=bool)
    peak[1:-1] = (flat[1:-1] > flat[:-2]) & (flat[1:-1] >= flat[2:])
    of_row = peak.reshape(rows, bins)
    of_row[:, 1] = of_row[:, -2:] = False
    of_row[:, 0] = True  # bin 0 stands for all below the first peak
    top = np.flatnonzero(peak)
    at = top % bins
    lowest = np.arange(rows) * bins
    starts = np.searchsorted(top, lowest)
    flat_plain, flat_spectra = plain.reshape(-1), spectra.reshape(-1)
    below = flat_plain[top - 1]
    below[starts] = plain[:, 1].conj()
    # dw/dn = (pi / N) sin(2 pi n / N): its spectrum is (pi / 2jN)(X[k-1] - X[k+1]).
    difference = below - flat_plain[top + 1]
    at_peak = flat_spectra[top]
    correction = (difference.real * at_peak.real + difference.imag * at_peak.imag) * np.float32(np.pi / (2 * size))
    correction /= flat[top] + np.float32(1e-20)
    limit = np.float32(4 * np.pi / size)
    frequency = ((2 * np.pi / size) * at + np.clip(correction, -limit, limit)).astype(np.float32)
    border = np.empty(len(top) + 1, dtype=np.int64)  # the first bin of each region, counted through all rows
    border[1:-1] = (top[:-1] + top[1:]) // 2 + 1
    border[starts], border[-1] = lowest, rows * bins
    parts = [slice(int(first), int(last)) for first, last in zip(starts, [*starts[1:], len(top)], strict=True)]
    return Regions(at, np.diff(border), frequency, parts)
