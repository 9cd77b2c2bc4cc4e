"""A small band: bass, keys and drums, each sound made from sines and noise. No sound bank.

Every sound starts on its first frame, so that what is placed on a frame is heard there.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.audio.voice import filtered

RISE_S: Final = 0.0008
LENGTHS_S: Final = 0.005  # lengths are told apart in steps of it, so that few sounds are made
DAMPED_S: Final = 0.03  # how a note dies when it is let go
DRUM_LEVEL: Final = {"kick": 0.5, "snare": 0.32, "hat": 0.13, "ride": 0.11}
BASS_LEVEL, KEYS_LEVEL = 0.27, 0.12
RIDE_HZ: Final = (3_127.0, 4_219.0, 5_347.0, 6_761.0, 8_293.0)


class Instrument(StrEnum):
    BASS = "bass"
    KEYS = "keys"
    KICK = "kick"
    SNARE = "snare"
    HAT = "hat"
    RIDE = "ride"


@dataclass(frozen=True, slots=True)
class BandEvent:
    """One stroke: seconds from the start, MIDI pitch (of a drum none), how long it is held, how loud from 0 to 1."""

    second: float
    instrument: Instrument
    midi: float = 0.0
    held_s: float = 0.0
    loud: float = 0.8


def band(events: Iterable[BandEvent], start_s: float, frames: int, *, loop: bool = False) -> Sound:
    """The strokes of a band from a second on, mono.

    Parameters
    ----------
    events : in any order.
    start_s : the second of the first frame.
    frames : how many.
    loop : what rings beyond the end goes on at the beginning, so that the sound joins itself; only strokes that start
        inside are heard. Otherwise what was struck before is heard ringing.

    Returns : float32, shape (frames, 1), at 48 kHz.
    """
    out = np.zeros(frames, np.float32)
    if not frames:
        return out[:, None]
    for event in events:
        at = round((event.second - start_s) * RATE_HZ)
        if at >= frames or (loop and at < 0):
            continue
        sound = stroke(event.instrument, event.midi, _step(event.held_s))
        if at + len(sound) <= 0:
            continue
        if loop:
            _laid_round(out, sound, at, event.loud)
        else:
            skip = max(0, -at)
            end = min(frames, at + len(sound))
            out[at + skip : end] += event.loud * sound[skip : end - at]
    return out[:, None]


def _laid_round(out: NDArray[np.float32], sound: NDArray[np.float32], at: int, loud: float) -> None:
    done = 0
    while done < len(sound):
        count = min(len(out) - at, len(sound) - done)
        out[at : at + count] += loud * sound[done : done + count]
        done, at = done + count, 0


def _step(held_s: float) -> int:
    return max(1, round(held_s / LENGTHS_S))


@lru_cache(maxsize=2_048)
def stroke(instrument: Instrument, midi: float, held: int) -> NDArray[np.float32]:
    """One stroke at full loudness.

    Parameters
    ----------
    instrument : what is struck.
    midi : its pitch; of no matter for drums.
    held : in steps of 5 ms.

    Returns : float32, shape (n,).
    """
    held_s = held * LENGTHS_S
    match instrument:
        case Instrument.BASS:
            sound = BASS_LEVEL * _plucked(midi, held_s, partials=(1.0, 0.5, 0.28, 0.12, 0.06), ring_s=1.1)
        case Instrument.KEYS:
            sound = KEYS_LEVEL * _plucked(midi, held_s, partials=(1.0, 0.16, 0.1, 0.03), ring_s=1.6)
        case _:
            sound = DRUM_LEVEL[instrument.value] * _DRUMS[instrument]()
    return sound.astype(np.float32)


def _time(length_s: float) -> NDArray[np.float64]:
    return np.arange(round(length_s * RATE_HZ)) / RATE_HZ


def _plucked(midi: float, held_s: float, *, partials: Sequence[float], ring_s: float) -> NDArray[np.float64]:
    """A string or a tine: higher partials die faster; let go, it is damped."""
    t = _time(held_s + 3 * DAMPED_S)
    hz = 440.0 * 2.0 ** ((midi - 69) / 12)
    out = np.zeros_like(t)
    for k, strength in enumerate(partials, start=1):
        out += strength * np.sin(2 * np.pi * hz * k * t) * np.exp(-t * k**0.7 / ring_s)
    out *= np.minimum(1.0, t / RISE_S)
    return np.asarray(out * np.where(t < held_s, 1.0, np.exp(-np.maximum(0.0, t - held_s) / (DAMPED_S / 2.5))))


def _noise(length_s: float, seed: int) -> NDArray[np.float64]:
    return np.random.default_rng(seed).standard_normal(round(length_s * RATE_HZ))


def _kick() -> NDArray[np.float64]:
    t = _time(0.28)
    phase = 2 * np.pi * (48 * t + 95 * 0.022 * (1 - np.exp(-t / 0.022)))
    return np.asarray(np.cos(phase) * np.exp(-t / 0.085))


def _snare() -> NDArray[np.float64]:
    t = _time(0.2)
    noise = filtered(_noise(0.2, 11), low_hz=1_200.0, high_hz=9_000.0, order=1)
    return np.asarray(0.55 * noise * np.exp(-t / 0.05) + 0.6 * np.cos(2 * np.pi * 185 * t) * np.exp(-t / 0.04))


def _hat() -> NDArray[np.float64]:
    t = _time(0.09)
    noise = filtered(_noise(0.09, 17), low_hz=6_000.0, order=2)
    return np.asarray(noise * np.exp(-t / 0.018))


def _ride() -> NDArray[np.float64]:
    t = _time(0.7)
    ring = sum(np.cos(2 * np.pi * hz * t) / (1 + i) for i, hz in enumerate(RIDE_HZ))
    noise = filtered(_noise(0.7, 19), low_hz=5_000.0, order=1)
    return np.asarray(0.5 * ring * np.exp(-t / 0.22) + 0.7 * noise * np.exp(-t / 0.02))


_DRUMS = {
    Instrument.KICK: _kick,
    Instrument.SNARE: _snare,
    Instrument.HAT: _hat,
    Instrument.RIDE: _ride,
}
