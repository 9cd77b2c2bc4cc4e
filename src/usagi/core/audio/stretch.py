"""Pitch-kept slowing and fine tuning, of exact length, behind one function.

The engine is python-stretch for now (lab figures: block 120 ms; hop a quarter at 60 % and above, an eighth down to
40 %, below that two passes). Cents are made by stretching a little more or less and resampling, which stays within a
tenth of a cent, where the engine's own transposition is off by several. Source sound around the piece is needed so
that its edges ring like the middle: give at least `CONTEXT_S` on both sides.
"""

from __future__ import annotations

import numpy as np
import python_stretch
import soxr

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.errors import UsagiError

CONTEXT_S = 0.25
SEAM_S = 0.005
SLOWEST, FASTEST = 250, 1_250  # per mille of the recorded speed
MOST_CENTS = 200
BLOCK_S = 0.12
ENGINE = "python-stretch 0.3.1, block 120 ms, seed 1, rev 1"


class SpeedImpossible(UsagiError):
    """A speed or a trim out of reach."""

    code = "speed-impossible"


def check_speed(speed_permille: int, cents: float) -> None:
    """Raises : SpeedImpossible."""
    if not SLOWEST <= speed_permille <= FASTEST:
        raise SpeedImpossible(
            f"A speed of {speed_permille / 10:g} % is out of reach: from {SLOWEST // 10} to {FASTEST // 10} %."
        )
    if not -MOST_CENTS <= cents <= MOST_CENTS:
        raise SpeedImpossible(f"A trim of {cents:g} cents is out of reach: {MOST_CENTS} either way.")


def piece_frames(frames: int, speed_permille: int) -> int:
    """How many frames a piece of `frames` has at a speed."""
    return round(frames * 1_000 / speed_permille)


def render(
    pcm: Sound,
    *,
    before: int,
    after: int,
    speed_permille: int,
    cents: float = 0.0,
    tail: int = 0,
    loop: bool = False,
) -> Sound:
    """A piece of sound at another speed with its pitch kept, moved by some cents.

    Parameters
    ----------
    pcm : float32, shape (before + frames + after, channels), the piece with the sound around it.
    before, after : frames of context.
    speed_permille : 250 to 1250; 1000 with no cents copies the sound.
    tail : output frames wanted beyond the end, to fade into the next piece.
    loop : fade the last 5 ms into what comes before the start, so that the piece joins itself.

    Returns : float32, shape (round(frames * 1000 / speed) + tail, channels).
    Raises : SpeedImpossible.

    >>> render(np.zeros((480, 1), np.float32), before=0, after=0, speed_permille=600).shape
    (800, 1)
    """
    check_speed(speed_permille, cents)
    frames = len(pcm) - before - after
    speed = speed_permille / 1_000
    wanted = piece_frames(frames, speed_permille)
    whole = pcm if speed_permille == 1_000 and cents == 0 else _stretched(pcm, speed, cents)
    start = round(before / speed)
    out = whole[start : start + wanted + tail]
    if len(out) < wanted + tail:
        out = np.pad(out, ((0, wanted + tail - len(out)), (0, 0)))
    if loop:
        out = _joined(out, whole[:start])
    return np.ascontiguousarray(out, dtype=np.float32)


def _joined(out: Sound, lead: Sound) -> Sound:
    seam = min(round(SEAM_S * RATE_HZ), len(out) // 2)
    if seam == 0:
        return out
    lead = np.pad(lead, ((max(0, seam - len(lead)), 0), (0, 0)))[len(lead) - seam if len(lead) > seam else 0 :]
    weight = (np.sin(np.linspace(0, np.pi / 2, seam, dtype=np.float32)) ** 2)[:, None]
    joined = out.copy()
    joined[-seam:] = out[-seam:] * (1 - weight) + lead[-seam:] * weight
    return joined


def _stretched(pcm: Sound, speed: float, cents: float) -> Sound:
    ratio = 2.0 ** (cents / 1_200.0)
    inner = speed / ratio
    block = round(BLOCK_S * RATE_HZ)
    if inner >= 0.6:
        sound = _pass(pcm, inner, block, block // 4)
    elif inner >= 0.4:
        sound = _pass(pcm, inner, block, block // 8)
    else:
        sound = _pass(_pass(pcm, 0.5, block, block // 8), inner / 0.5, block, block // 8)
    if cents:
        sound = np.asarray(soxr.resample(sound, RATE_HZ * ratio, RATE_HZ, quality="HQ"), dtype=np.float32)
    return sound


def _pass(pcm: Sound, speed: float, block: int, hop: int) -> Sound:
    engine = python_stretch.Signalsmith.Stretch(1)
    engine.configure(pcm.shape[1], block, hop)
    engine.setTimeFactor(speed)
    return np.asarray(engine.process(np.ascontiguousarray(pcm.T)), dtype=np.float32).T
