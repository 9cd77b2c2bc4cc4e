"""Sound as arrays: peaks, pitch-kept pieces, clicks, the program's own guitar voice. Arrays in, arrays out.

Sound is float32 of shape (frames, channels) in -1 to 1, or int16 of the same shape where it is stored. Canonical rate
is 48,000 frames a second; times are seconds, places are frames.
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 48_000
SLOWEST, FASTEST = 250, 1_250  # speeds that are played, per mille of the recorded one

Sound: TypeAlias = NDArray[np.float32]
Stored: TypeAlias = NDArray[np.int16]


def from_stored(pcm: Stored) -> Sound:
    """int16 to float32 in -1 to 1."""
    return (pcm.astype(np.float32) / 32_768.0).astype(np.float32)


def to_stored(sound: Sound) -> Stored:
    """float32 to int16, clipped."""
    return np.clip(np.round(sound * 32_768.0), -32_768, 32_767).astype(np.int16)
