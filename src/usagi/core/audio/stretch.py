"""Pitch-kept slowing and fine tuning, of exact length, behind one function.

Two resolutions are stretched and put together: the whole sound in windows of 75 ms, which keep bends and attacks
sharp, and what lies below 130 Hz in windows of 200 ms, which tell the partials of a bass apart. They meet in one
linear-phase crossover after the stretching, because a glide that is split before it can cancel at the border.
Cents are made by stretching a little more or less and resampling.

What sounds before a piece decides how its partials stand to one another. Give `LEAD_S` of it, so that a piece agrees
with the same place of a longer render wherever its partials began within that time; there only phases are followed,
which costs less than half. Behind a piece `CONTEXT_S` is enough.
"""

from __future__ import annotations

from functools import cache
from typing import Final

import numpy as np
import scipy.signal
import soxr
from numpy.typing import NDArray

from usagi.core.audio import FASTEST, RATE_HZ, SLOWEST, Sound
from usagi.core.audio.levels import LOOK_S, fade_gain, limited
from usagi.core.audio.onsets import Frames, onsets
from usagi.core.audio.vocoder import Band, Report, stretched, unreported
from usagi.core.errors import UsagiError

CONTEXT_S: Final = 0.5
LEAD_S: Final = 4.0
SHORTEST_LEAD_S, LONGEST_PIECE_LEAD_S = 0.6, 2.4
SEAM_S: Final = 0.005
LIMIT: Final = 2 * round(LOOK_S * RATE_HZ)  # frames either side that decide how far a place is limited
MOST_CENTS: Final = 200
ENGINE: Final = "anchored vocoder, rev 4"  # part of the key of every cached piece: raise it when the sound changes

FULL: Final = Band(window=3_600, ahead=144, copied=1_440, gate=480, entry=288)
DECIMATION: Final = 16
LOW: Final = Band(window=600, ahead=12, copied=90, gate=36, entry=18)
LOW_RATE_HZ: Final = RATE_HZ // DECIMATION
CROSSOVER_HZ: Final = 130.0
STRUCK_BELOW_HZ: Final = 170.0
STEADY_BELOW_HZ: Final = 190.0
STRUCK: Final = 2.0  # the bass is struck when its power grows so much over 60 ms
STRUCK_S: Final = 0.060


class SpeedImpossible(UsagiError):
    """A speed or a trim out of reach."""

    code = "speed-impossible"


def check_speed(speed_permille: int, cents: float) -> None:
    """Refuse a speed or a shift that is not rendered.

    Parameters
    ----------
    speed_permille : playback speed in thousandths of the recorded one.
    cents : shift of pitch.

    Raises : SpeedImpossible.
    """
    if not SLOWEST <= speed_permille <= FASTEST:
        raise SpeedImpossible(
            f"A speed of {speed_permille / 10:g} % is out of reach: from {SLOWEST // 10} to {FASTEST // 10} %."
        )
    if not -MOST_CENTS <= cents <= MOST_CENTS:
        raise SpeedImpossible(f"A trim of {cents:g} cents is out of reach: {MOST_CENTS} either way.")


def lead_s(length_s: float, *, loop: bool) -> float:
    """Seconds of context before a piece of a length.

    The short pieces that open a playing must be there at once: they are led into by no more than their own length.
    """
    return LEAD_S if loop else min(LONGEST_PIECE_LEAD_S, max(SHORTEST_LEAD_S, length_s))


def piece_frames(frames: int, speed_permille: int) -> int:
    """How many frames a piece of `frames` frames has at a speed, to the nearest frame.

    >>> piece_frames(48_000, 500), piece_frames(48_000, 1_000)
    (96000, 48000)
    """
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
    at: int = 0,
    report: Report = unreported,
) -> Sound:
    """A piece of sound at another speed with its pitch kept, moved by some cents.

    Parameters
    ----------
    pcm : float32, shape (before + frames + after, channels), the piece with the sound around it.
    before, after : frames of context.
    speed_permille : 250 to 1250; 1000 with no cents copies the sound.
    tail : output frames wanted beyond the end, to fade into the next piece.
    loop : fade the last 5 ms into what comes before the start, so that the piece joins itself, at an even level.
    at : where the piece starts in its recording, in frames; pieces of one recording fit together when it is given.

    Returns : float32, shape (round(frames * 1000 / speed) + tail, channels).
    Raises : SpeedImpossible.

    >>> render(np.zeros((480, 1), np.float32), before=0, after=0, speed_permille=600).shape
    (800, 1)
    """
    check_speed(speed_permille, cents)
    frames = len(pcm) - before - after
    speed = speed_permille / 1_000
    wanted = piece_frames(frames, speed_permille) + tail
    lead = round(SEAM_S * RATE_HZ)
    if (speed_permille == 1_000 and cents == 0) or len(pcm) == 0:
        whole, start = pcm, before
    else:
        whole, start = _stretched(pcm, speed, cents, before=before, at=at, lead=lead, wanted=wanted, report=report)
        near = max(0, start - lead - LIMIT), start + wanted + LIMIT
        whole, start = limited(whole[slice(*near)]), start - near[0]
    out = whole[start : start + wanted]
    if len(out) < wanted:
        out = np.pad(out, ((0, wanted - len(out)), (0, 0)))
    if loop:
        out = limited(joined(out, whole[max(0, start - lead) : start]))  # an even level may lift the seam
    return np.ascontiguousarray(out, dtype=np.float32)


def joined(out: Sound, lead: Sound) -> Sound:
    """A loop whose last 5 ms fade into `lead`, so that its end runs into its start without a click.

    Parameters
    ----------
    out : shape (frames, channels), the loop as it is rendered.
    lead : shape (frames of 5 ms or more, channels), what sounds before the loop's start.

    Returns : as many frames as `out`.
    """
    seam = min(round(SEAM_S * RATE_HZ), len(out) // 2)
    if seam == 0:
        return out
    lead = np.pad(lead, ((max(0, seam - len(lead)), 0), (0, 0)))
    lead = lead[len(lead) - seam :]
    share = np.sin(np.linspace(0, np.pi / 2, seam, dtype=np.float32)) ** 2
    gain = fade_gain(out[-seam:], lead, share)
    joined = out.copy()
    joined[-seam:] = (out[-seam:] * (1 - share)[:, None] + lead * share[:, None]) * gain[:, None]
    return joined


def _stretched(
    pcm: Sound, speed: float, cents: float, *, before: int, at: int, lead: int, wanted: int, report: Report
) -> tuple[Sound, int]:
    """The stretched sound and where the piece starts in it; `lead` frames before that are whole, too."""
    ratio = 2.0 ** (cents / 1_200.0)
    inner = speed / ratio
    first = at - before  # of pcm, in frames of the recording
    spare = first % DECIMATION  # both resolutions count from the start of the recording
    if spare:
        pcm, first = np.pad(pcm, ((spare, 0), (0, 0))), first - spare
    start_q = round(first / inner)
    from_q = round(at / inner) - round(lead * ratio) - RATE_HZ // 50
    until_q = round(at / inner) + round(wanted * ratio) + RATE_HZ // 10
    sound = _two_bands(pcm, inner, first, (from_q, until_q), report)
    if not cents:
        return sound, round(at / speed) - start_q
    skip = max(0, from_q - start_q)
    moved = np.asarray(soxr.resample(sound[skip:], RATE_HZ * ratio, RATE_HZ, quality="HQ"), dtype=np.float32)
    return moved, round(at / speed - (start_q + skip) / ratio)


def _two_bands(pcm: Sound, speed: float, first: int, span: tuple[int, int], report: Report) -> Sound:
    from_q, until_q = span
    struck_at = onsets(pcm)
    low = _decimated(pcm)
    low_at = np.round(struck_at / DECIMATION).astype(np.int64)
    struck = _bass_struck(low, low_at)
    full = stretched(
        pcm,
        speed=speed,
        at=first,
        onsets=struck_at,
        band=FULL,
        steady_below=(round(STEADY_BELOW_HZ * FULL.window / RATE_HZ), struck),
        wanted=span,
        report=report,
    )
    deep = stretched(
        low,
        speed=speed,
        at=first // DECIMATION,
        onsets=low_at[struck],
        band=LOW,
        wanted=(from_q // DECIMATION - LOW.window, until_q // DECIMATION + LOW.window),
    )
    return _crossed(full, round(first / speed), deep, round(first // DECIMATION / speed), from_q)


def _crossed(full: Sound, full_q: int, deep: Sound, deep_q: int, from_q: int) -> Sound:
    """The full band with what lies below the crossover taken from the other."""
    begin = max(-(-full_q // DECIMATION), deep_q, from_q // DECIMATION - LOW_RATE_HZ // 10)
    own = _decimated(full[begin * DECIMATION - full_q :])
    count = min(len(own), len(deep) - (begin - deep_q))
    if count <= 0:
        return full
    wrong = deep[begin - deep_q :][:count] - own[:count]
    mend = scipy.signal.oaconvolve(wrong, _below(CROSSOVER_HZ, 0.050)[:, None], mode="same", axes=0)
    mend = soxr.resample(mend.astype(np.float32), LOW_RATE_HZ, RATE_HZ, quality="MQ")
    out = full.copy()
    place = begin * DECIMATION - full_q
    mend = mend[: len(out) - place]
    out[place : place + len(mend)] += mend
    return out


def _decimated(pcm: Sound) -> Sound:
    return np.asarray(soxr.resample(pcm, RATE_HZ, LOW_RATE_HZ, quality="MQ"), dtype=np.float32)


@cache
def _below(hz: float, half_s: float) -> NDArray[np.float32]:
    """A linear-phase low pass of `half_s` either side, at the decimated rate."""
    taps = 2 * round(half_s * LOW_RATE_HZ) + 1
    return np.asarray(scipy.signal.firwin(taps, hz, window=("kaiser", 6.0), fs=LOW_RATE_HZ), dtype=np.float32)


def _bass_struck(low: Sound, at: Frames) -> NDArray[np.bool_]:
    """For every onset whether the bass itself begins there: its power doubles."""
    if len(at) == 0:
        return np.zeros(0, dtype=bool)
    line = low.sum(axis=1)
    bass = scipy.signal.oaconvolve(line, _below(STRUCK_BELOW_HZ, 0.030), mode="same")
    power = np.concatenate([[0.0], np.cumsum(bass.astype(np.float64) ** 2)])
    span = round(STRUCK_S * LOW_RATE_HZ)
    last = len(power) - 1
    after = power[np.minimum(at + span, last)] - power[np.minimum(at, last)]
    before = power[np.minimum(at, last)] - power[np.maximum(at - span, 0)]
    found: NDArray[np.bool_] = after > STRUCK * before + 1e-7
    return found
