"""Clicks: the count-in before a loop and the pulses of a silent ground."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from usagi.core.audio import RATE_HZ, Sound

CLICK_S = 0.03
HIGH_HZ, LOW_HZ = 1_760.0, 1_175.0


@lru_cache(maxsize=2)
def click(*, high: bool) -> Sound:
    """One click, mono, 30 ms, starting on its first frame at full height."""
    t = np.arange(round(CLICK_S * RATE_HZ)) / RATE_HZ
    wave = np.cos(2 * np.pi * (HIGH_HZ if high else LOW_HZ) * t) * np.exp(-t / 0.006)
    return (0.5 * wave).astype(np.float32)[:, None]


def clicks(at_s: Sequence[tuple[float, bool]], length_s: float) -> Sound:
    """Clicks at `(second, high)` in a sound of `length_s`, mono.

    >>> clicks([(0.0, True), (0.5, False)], 1.0).shape
    (48000, 1)
    """
    out = np.zeros((round(length_s * RATE_HZ), 1), dtype=np.float32)
    for second, high in at_s:
        start = round(second * RATE_HZ)
        sound = click(high=high)[: max(0, len(out) - start)]
        if start >= 0:
            out[start : start + len(sound)] += sound
    return out
