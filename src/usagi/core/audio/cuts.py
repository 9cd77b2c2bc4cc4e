"""Cutting a long playing into pieces that are rendered apart and fade into each other."""

from __future__ import annotations

from typing import Final

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.audio.onsets import onsets

LENGTHS_S: Final = (0.6, 1.8, 5.4, 16.2, 30.0)  # the first sounds at once; while one sounds the next is made
REACH_S: Final = 0.25  # from where a piece would end to the onset at which it does
BEHIND_S: Final = 0.005  # an onset: what is faded lies in the 10 ms that are copied, where both pieces are the source


def piece_end(start: int, number: int, until: int) -> int:
    """The frame at which a piece of a playing ends, before it is moved to an onset.

    Parameters
    ----------
    start : its first frame.
    number : 0 for the piece that opens the playing.
    until : the end of what is played.

    >>> piece_end(0, 0, 480_000), piece_end(48_000, 1, 60_000)
    (28800, 60000)
    """
    return min(until, start + round(LENGTHS_S[min(number, len(LENGTHS_S) - 1)] * RATE_HZ))


def joint_near(pcm: Sound, first: int, near: int) -> int:
    """The frame near a frame at which two pieces join best: just behind the nearest onset, or the frame itself.

    Parameters
    ----------
    pcm : float32, shape (frames, channels), the sound around `near`, from frame `first` on.

    >>> import numpy as np
    >>> joint_near(np.zeros((24_000, 1), np.float32), 0, 12_000)
    12000
    """
    found = onsets(pcm) + first
    close = found[abs(found - near) <= REACH_S * RATE_HZ]
    if len(close) == 0:
        return near
    return int(min(close, key=lambda onset: abs(onset - near))) + round(BEHIND_S * RATE_HZ)
