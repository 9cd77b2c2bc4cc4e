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
    out[..., 1:] -= np.float32(0.25) * plain[..., :-1]
    out[..., :-1] -= np.float32(0.25) * plain[..., 1:]
    out[..., 0] -= np.float32(0.25) * plain[..., 1].conj()
    out[..., -1] -= np.float32(0.25) * plain[..., -2].conj()
    return out


@dataclass(frozen=True, slots=True)
class Regions:
    """Bins of one frame that turn together: a peak each, how many bins they have, and the peak's frequency in radians
    a sample. Where `bins` is None every bin stands for itself and `peaks` says for which it turns."""

    peaks: Frames
    bins: Frames | None
    frequency: Floats

    def spread(self, values: NDArray[Number]) -> NDArray[Number]:
        """Values of the peaks, for every bin."""
        return values if self.bins is None else np.repeat(values, self.bins)

    def with_continuing(self, whole: Regions, continuing: Mask) -> Regions:
        """The bins that go on through an onset, measured in the frame that was not cut at it."""
        return Regions(
            np.where(continuing, whole.spread(whole.peaks), self.spread(self.peaks)),
            None,
            np.where(continuing, whole.spread(whole.frequency), self.spread(self.frequency)),
        )


def regions_of(plain: Bins) -> list[Regions]:
    """The regions of each frame, from its spectrum without a window.

    A peak is a local maximum over two bins either side; each bin belongs to the nearest. With w the Hann window and d
    its derivative, both read from neighbouring bins, the frequency of bin k is w_k - Im(X_d / X_w).
    """
    rows, bins = plain.shape
    size = 2 * (bins - 1)
    spectra = windowed(plain)
    power = spectra.real**2 + spectra.imag**2
    flat = power.reshape(-1)
    rises = flat[1:] > flat[:-1]
    top = np.flatnonzero(rises[:-1] & ~rises[1:]) + 1
    within = top % bins
    top = top[(within >= 2) & (within < bins - 2)]
    top = top[(flat[top] > flat[top - 2]) & (flat[top] >= flat[top + 2])]
    lowest = np.arange(rows) * bins  # bin 0 stands for all below the first peak
    top = np.sort(np.concatenate([lowest, top]))
    row, at = np.divmod(top, bins)
    below = plain[row, np.abs(at - 1)]
    below = np.where(at == 0, below.conj(), below)
    # dw/dn = (pi / N) sin(2 pi n / N): its spectrum is (pi / 2jN)(X[k-1] - X[k+1]).
    difference = below - plain[row, at + 1]
    own = spectra[row, at]
    correction = (difference.real * own.real + difference.imag * own.imag) * np.float32(np.pi / (2 * size))
    correction /= power[row, at] + np.float32(1e-20)
    limit = np.float32(4 * np.pi / size)
    frequency = ((2 * np.pi / size) * at + np.clip(correction, -limit, limit)).astype(np.float32)
    border = np.empty(len(top) + 1, dtype=np.int64)  # the first bin of each region, counted through all rows
    border[1:-1] = (top[:-1] + top[1:]) // 2 + 1
    starts = np.searchsorted(top, lowest)
    border[starts], border[-1] = lowest, rows * bins
    widths = np.diff(border)
    parts = [slice(*ends) for ends in zip(starts, [*starts[1:], len(top)], strict=True)]
    return [Regions(at[part], widths[part], frequency[part]) for part in parts]
