"""The peak pyramid behind the drawn sound: lowest, highest and rms of blocks, at five sizes.

A value is a signed byte, full scale 127. Blocks of level 0 hold 256 frames, each further level four times as many.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usagi.core.audio import Stored

BASE_FRAMES = 256
STEP = 4
LEVELS = 5

Level = NDArray[np.int8]


class PeakBuilder:
    """Gathers the finest level block by block, so that a recording never lies in memory whole."""

    def __init__(self) -> None:
        self._parts: list[tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]] = []
        self._rest = np.zeros(0, dtype=np.float32)

    def add(self, pcm: Stored) -> None:
        """Take the next frames, of shape (frames, channels); channels are averaged."""
        mono = np.concatenate([self._rest, pcm.astype(np.float32).mean(axis=1) / 32_768.0])
        whole = len(mono) // BASE_FRAMES * BASE_FRAMES
        self._take(mono[:whole])
        self._rest = mono[whole:]

    def _take(self, mono: NDArray[np.float32]) -> None:
        if len(mono):
            blocks = mono.reshape(-1, BASE_FRAMES)
            self._parts.append((blocks.min(axis=1), blocks.max(axis=1), np.mean(blocks**2, axis=1)))

    def levels(self) -> list[Level]:
        """Five levels, finest first, each of shape (blocks, 3): min, max, rms. The last block may be partly silence."""
        if len(self._rest):
            self._take(np.pad(self._rest, (0, BASE_FRAMES - len(self._rest))))
            self._rest = self._rest[:0]
        if not self._parts:
            return [np.zeros((0, 3), dtype=np.int8) for _ in range(LEVELS)]
        low, high, power = (np.concatenate([part[i] for part in self._parts]) for i in range(3))
        levels = []
        for level in range(LEVELS):
            if level:
                low, high, power = _coarser(low, np.min), _coarser(high, np.max), _coarser(power, np.mean)
            columns = np.stack([low, high, np.sqrt(power)], axis=1)
            levels.append(np.clip(np.round(columns * 127), -127, 127).astype(np.int8))
        return levels


def _coarser(values: NDArray[np.float32], fold: object) -> NDArray[np.float32]:
    short = -len(values) % STEP
    padded = np.concatenate([values, np.repeat(values[-1:], short)])
    folded: NDArray[np.float32] = fold(padded.reshape(-1, STEP), axis=1)  # type: ignore[operator]
    return folded
