"""How stretched sound is judged: pitch against a known curve, attacks, onsets, levels. Independent of `usagi`."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

from benchmarks.sounds import RATE, Line


def cents_off(sound: Line, hz: Line, *, smooth_s: float = 0.03) -> Line:
    """Cents between what is heard of a partial and its known curve, per frame, by heterodyne; NaN near the ends."""
    phase = np.unwrap(np.angle(_heterodyned(sound, hz, smooth_s)))
    step = round(0.01 * RATE)
    off_hz = np.full(len(sound), np.nan)
    off_hz[step:-step] = (phase[2 * step :] - phase[: -2 * step]) * RATE / (2 * step) / (2 * np.pi)
    off = 1_200 * np.log2(1 + off_hz / hz)
    edge = round(0.25 * RATE)
    off[:edge] = off[-edge:] = np.nan
    return off


def partial_db(sound: Line, hz: Line, *, smooth_s: float) -> Line:
    """Level of a partial along its known curve, per frame, in dB."""
    return np.asarray(20 * np.log10(np.abs(_heterodyned(sound, hz, smooth_s)) + 1e-9))


def _heterodyned(sound: Line, hz: Line, smooth_s: float) -> NDArray[np.complex128]:
    turns = np.cumsum(hz) / RATE
    kernel = np.hanning(round(smooth_s * RATE))
    return np.asarray(fftconvolve(sound * np.exp(-2j * np.pi * turns), kernel / kernel.sum(), "same"))


def envelope(sound: Line, width_s: float = 0.0015) -> Line:
    width = round(width_s * RATE)
    power = np.convolve(sound**2, np.ones(width) / width, "same")
    return np.sqrt(np.maximum(power, 0))


def attack_and_onset(sound: Line, near: int) -> tuple[float, float]:
    """Milliseconds of the rise from 10 to 90 %, and the frame at which 30 % is reached, of the hit near a frame.

    The rise starts from the lowest level between 10 ms before and 4 ms after the frame.
    """
    begin = max(0, near - round(0.010 * RATE))
    around = envelope(sound[begin : near + round(0.045 * RATE)])
    low = int(np.argmin(around[: near - begin + round(0.004 * RATE)]))
    floor, rise = around[low], around[low:]
    # The first peak that is nearly the highest: later ones belong to the body of the sound.
    top = int(np.argmax(rise >= 0.9 * rise.max()))
    height = rise[top] / 0.9 - floor
    tenth, third = (top - int(np.argmax(rise[: top + 1][::-1] <= floor + part * height)) for part in (0.1, 0.3))
    return (top - tenth) * 1_000 / RATE, float(begin + low + third)


def onset_errors_ms(source: Line, out: Line, at: NDArray[np.int64], speed: float) -> tuple[Line, Line]:
    """Of each hit: onset error in output milliseconds (what the source itself shows taken off), and attack in ms."""
    errors, attacks = [], []
    for frame in at:
        _, own = attack_and_onset(source, int(frame))
        attack, heard = attack_and_onset(out, round(frame / speed))
        errors.append((heard - round(frame / speed) - (own - frame)) * 1_000 / RATE)
        attacks.append(attack)
    return np.array(errors), np.array(attacks)


def shape_lags_ms(source: Line, out: Line, at: NDArray[np.int64], speed: float) -> Line:
    """Of each onset: by how many output milliseconds its attack is early or late, told by its shape.

    Levels in dB above 2 kHz, from 5 ms before to 12 ms after, are laid over those of the output where they differ
    least. For sounds that hardly rise, such as overdriven lines, where a threshold tells nothing.
    """
    high = butter(2, 2_000, "high", fs=RATE, output="sos")
    own, heard = (20 * np.log10(envelope(sosfilt(high, line)) + 1e-4) for line in (source, out))
    before, after, reach = (round(ms * RATE / 1_000) for ms in (5, 12, 20))
    lags = []
    for frame in at:
        place = round(frame / speed)
        if frame < before or place < before + reach or place + after + reach > len(out) or frame + after > len(source):
            continue
        shape = own[frame - before : frame + after]
        around = np.lib.stride_tricks.sliding_window_view(
            heard[place - before - reach : place + after + reach], before + after
        )
        unlike = ((around - around.mean(axis=1, keepdims=True) - (shape - shape.mean())) ** 2).sum(axis=1)
        lags.append((int(np.argmin(unlike)) - reach) * 1_000 / RATE)
    return np.array(lags)


def level_db(sound: NDArray[np.floating[Any]]) -> float:
    return float(10 * np.log10(np.mean(np.asarray(sound, dtype=np.float64) ** 2) + 1e-12))


def percentile(values: Line, share: float) -> float:
    return float(np.percentile(np.abs(values), share))
