"""The program's own guitar: a plucked string whose bends, slides and vibrato really sound.

Additive: every partial follows the pitch curve exactly, is as strong as the place of the pick lets it be, and dies
away faster the higher it is; wound and low strings ring longer. Then a soft drive and a loudspeaker's curve.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ, Sound

PICK_PLACE = 0.13  # of the string, from the bridge
INHARMONICITY = 6e-5
TOP_HZ = 9_000.0
CUT_S = 0.025  # how fast a stopped string falls silent
PALM_RING, PALM_BRIGHT = 0.12, 0.8
PURE = 0.12  # of what an overtone of a harmonic would have on a plain note
GAIN = 0.75
PICK_NOISE = 0.05


@dataclass(frozen=True)
class StringEvent:
    """One sounding of one string. The curve is `(seconds from onset, MIDI pitch)`, linear between its points."""

    onset_s: float
    sounding_s: float
    curve: tuple[tuple[float, float], ...]
    loud: float = 0.8  # 0 to 1
    picked: bool = True  # False: hammered, pulled or slid, without the pick's noise
    place: float = PICK_PLACE  # where it is struck, of the string from the bridge: the nearer, the sharper
    muted: bool = False  # a dead note: a thump without pitch
    vibrato: tuple[float, float, float] | None = None  # starts after s, width cents from lowest to highest, Hz
    ring_s: float = 0.0  # goes on sounding after its end
    cut_s: float = CUT_S
    damped: bool = False  # by the palm: short and dark
    pure: bool = False  # a harmonic: hardly any overtones
    stop: float = 0.0  # semitones of fret: the shorter the sounding part of a thick string, the darker
    swell: tuple[float, float] = (1.0, 1.0)  # loudness at the start and at the end
    seed: int = 0  # of the noise, so that an event sounds the same in every piece


def pitch_curve(event: StringEvent, t: NDArray[np.float64]) -> NDArray[np.float64]:
    """MIDI pitch at times from the onset; vibrato swings around the written curve and starts upwards.

    Parameters
    ----------
    event : what one string plays; its curve is in seconds and MIDI numbers.
    t : float64, shape (n,), rising seconds from the onset.

    Returns : float64, shape (n,).
    """
    times = np.array([point[0] for point in event.curve])
    midi = np.interp(t, times, [point[1] for point in event.curve])
    if event.vibrato is not None:
        start, width_cents, rate_hz = event.vibrato
        into = np.clip((t - start) / 0.12, 0, 1)
        midi = midi + np.where(t > start, into * width_cents / 200 * np.sin(2 * np.pi * rate_hz * (t - start)), 0)
    return np.asarray(midi)


def string_sound(event: StringEvent) -> NDArray[np.float64]:
    """One event, mono, as long as it sounds and rings."""
    length = event.sounding_s + event.ring_s + 4 * event.cut_s
    t = np.arange(round(length * RATE_HZ)) / RATE_HZ
    noise = np.random.default_rng(event.seed).standard_normal(len(t))
    if event.muted:
        return np.asarray(2.2 * event.loud * filtered(noise, high_hz=480.0, order=1) * np.exp(-t / 0.018))
    midi = pitch_curve(event, t)
    hz = 440.0 * 2.0 ** ((midi - 69.0) / 12.0)
    phase = 2 * np.pi * np.cumsum(hz) / RATE_HZ
    phase -= phase[0]
    mean_hz = float(np.mean(hz))
    out = np.zeros_like(t)
    ring = 2.6 * (110.0 / mean_hz) ** 0.45 * (PALM_RING if event.damped else 1.0)
    bright = (0.55 + 0.45 * event.loud) * (PALM_BRIGHT if event.damped else 1.0) * 0.994**event.stop
    for k in range(1, min(40, int(TOP_HZ / mean_hz)) + 1):
        strength = abs(np.sin(np.pi * k * event.place)) / k**1.1 * bright ** (k - 1) ** 0.5
        if not event.picked:
            strength *= 0.75 ** (k - 1) ** 0.5
        if event.pure and k > 1:
            strength *= PURE
        dies = ring / (1 + 0.16 * (k - 1))
        out += strength * np.exp(-t / dies) * np.sin(phase * k * np.sqrt(1 + INHARMONICITY * k * k))
    rise = 0.0025 if event.picked else 0.008
    out *= np.minimum(1.0, t / rise)
    if event.picked:
        out += PICK_NOISE * event.loud * filtered(noise, low_hz=3_900.0, order=1) * np.exp(-t / 0.004)
    end = event.sounding_s + event.ring_s
    out *= np.where(t < end, 1.0, np.exp(-np.maximum(0.0, t - end) / event.cut_s))
    if event.swell != (1.0, 1.0):
        out *= np.interp(t, (0.0, event.sounding_s), event.swell)
    return np.asarray(out * (0.35 + 0.65 * event.loud))


def filtered(
    sound: NDArray[np.float64], *, low_hz: float = 0.0, high_hz: float = np.inf, order: int = 2
) -> NDArray[np.float64]:
    """A sound with what lies outside a band taken away, by a Butterworth response without delay.

    Parameters
    ----------
    sound : float64, one channel at 48 kHz.
    low_hz, high_hz : the band that stays.
    order : how steep; the response is applied to the spectrum, so nothing is delayed.
    """
    padded = len(sound) + RATE_HZ // 10  # so that the end does not ring into the start
    hz = np.fft.rfftfreq(padded, 1 / RATE_HZ)
    response = 1 / np.sqrt(1 + (hz / high_hz) ** (2 * order))
    if low_hz:
        response /= np.sqrt(1 + (low_hz / np.maximum(hz, 1e-9)) ** (2 * order))
    return np.asarray(np.fft.irfft(np.fft.rfft(sound, padded) * response, padded)[: len(sound)])


def guitar(events: Sequence[StringEvent], length_s: float) -> Sound:
    """A line of events through drive and loudspeaker. Its gain never changes, so equal notes sound equally loud.

    Parameters
    ----------
    events : in any order; they may overlap.
    length_s : how long the sound is to be, in seconds; what rings longer is cut.

    Returns : float32, shape (frames, 1), at 48 kHz.
    """
    out = np.zeros(round(length_s * RATE_HZ))
    for event in events:
        sound = string_sound(event)
        start = round(event.onset_s * RATE_HZ)
        if start < 0:
            sound, start = sound[-start:], 0
        sound = sound[: max(0, len(out) - start)]
        out[start : start + len(sound)] += sound
    driven = np.tanh(1.6 * out)
    body = filtered(driven, low_hz=85.0, high_hz=5_200.0)
    return np.clip(GAIN * body, -1.0, 1.0).astype(np.float32)[:, None]
