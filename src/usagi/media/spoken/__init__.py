"""The counting words that ship with the project, as sound."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Final

import numpy as np
import soundfile
import soxr

from usagi.core.audio import RATE_HZ, Sound

FOLDER: Final = Path(__file__).parent
_NAMES: Final = {"&": "and"}


@cache
def spoken(word: str) -> Sound | None:
    """A word of `core/meter/counting.py` at 48 kHz, mono; None for one that is not spoken (`~`, numbers above 16)."""
    path = FOLDER / f"{_NAMES.get(word, word)}.flac"
    if not path.is_file():
        return None
    sound, rate = soundfile.read(path, dtype="float32", always_2d=True)
    return np.asarray(soxr.resample(sound, rate, RATE_HZ), np.float32)
