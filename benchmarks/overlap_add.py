"""Plain waveform overlap-add in numpy: the yardstick for the cost of stretching, and nothing else.

46 ms frames, half overlapping; each is taken within 11.6 ms of its place, where it correlates best with what should
follow the frame before (W. Verhelst and M. Roelands, ICASSP 1993). Correlation by FFT on the sum of the channels.
"""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray

FRAME = 2_208
HOP = FRAME // 2
REACH = 557
SIZE = 4_096


def overlap_add(pcm: NDArray[np.float32], speed: float) -> NDArray[np.float32]:
    """float32 (frames, channels) at another speed."""
    length = round(len(pcm) / speed)
    pad = FRAME + REACH
    source = np.pad(pcm, ((pad, 2 * pad), (0, 0)))
    line = source.sum(axis=1, dtype=np.float32)
    window = np.hanning(FRAME + 1)[:-1].astype(np.float32)[:, None]
    out = np.zeros((length + 2 * FRAME, pcm.shape[1]), dtype=np.float32)
    last = pad
    for q in range(0, length + HOP, HOP):
        wanted = round(q * speed) + pad - HOP
        wanted = max(REACH, min(wanted, len(source) - FRAME - REACH))
        if q:
            follows = min(last + HOP, len(line) - FRAME)
            model = scipy.fft.rfft(line[follows : follows + FRAME], SIZE)
            around = scipy.fft.rfft(line[wanted - REACH : wanted + REACH + FRAME], SIZE)
            alike = scipy.fft.irfft(around * model.conj(), SIZE)[: 2 * REACH + 1]
            wanted += int(np.argmax(alike)) - REACH
        out[q : q + FRAME] += source[wanted : wanted + FRAME] * window
        last = wanted
    return out[HOP : HOP + length]
