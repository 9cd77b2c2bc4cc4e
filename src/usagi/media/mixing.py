"""More than two channels mixed down to two, by the weights of ITU-R BS.775: centre and surrounds at -3 dB, no LFE.

The sum is scaled so that full scale in every channel stays full scale.
"""

from __future__ import annotations

from typing import Any, Final

import numpy as np

HALF: Final = 0.5**0.5  # -3 dB
# What a channel gives to the left and to the right.
WEIGHTS: Final = {
    "FL": (1.0, 0.0),
    "FR": (0.0, 1.0),
    "FC": (HALF, HALF),
    "LFE": (0.0, 0.0),
    "BL": (HALF, 0.0),
    "BR": (0.0, HALF),
    "SL": (HALF, 0.0),
    "SR": (0.0, HALF),
    "BC": (0.5, 0.5),
}
# The order of channels by their number: as WAV, FLAC and the containers have it, and as Vorbis and Opus in Ogg have it.
USUAL: Final = {
    3: ("FL", "FR", "FC"),
    4: ("FL", "FR", "BL", "BR"),
    5: ("FL", "FR", "FC", "BL", "BR"),
    6: ("FL", "FR", "FC", "LFE", "BL", "BR"),
    7: ("FL", "FR", "FC", "LFE", "BC", "SL", "SR"),
    8: ("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR"),
}
OGG: Final = {
    3: ("FL", "FC", "FR"),
    4: ("FL", "FR", "BL", "BR"),
    5: ("FL", "FC", "FR", "BL", "BR"),
    6: ("FL", "FC", "FR", "BL", "BR", "LFE"),
    7: ("FL", "FC", "FR", "SL", "SR", "BC", "LFE"),
    8: ("FL", "FC", "FR", "SL", "SR", "BL", "BR", "LFE"),
}


def weights(channels: int, *, ogg: bool = False) -> Any:
    """What each of 3 to 8 channels gives to left and right: float32, shape (channels, 2)."""
    found = np.array([WEIGHTS[name] for name in (OGG if ogg else USUAL)[channels]], dtype=np.float32)
    return found / found.sum(axis=0).max()
