"""Sounds of known truth for measuring the stretcher, made by plain additive synthesis and filtered noise.

Nothing here comes from `usagi`: the truth and the method must not share code. Every maker takes a seed; figures are
reported on seeds above 1,000, which tuned nothing.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, sosfilt

RATE = 48_000
Line = NDArray[np.float64]


@dataclass(frozen=True)
class Struck:
    """A sound and the frames at which something begins in it."""

    sound: Line
    at: NDArray[np.int64]


@dataclass(frozen=True)
class Curve:
    """A sound and the frequency of its fundamental at every frame."""

    sound: Line
    hz: Line


def times(seconds: float) -> Line:
    return np.arange(round(seconds * RATE)) / RATE


def tone(hz: float, seconds: float) -> Line:
    return np.asarray(0.4 * np.sin(2 * np.pi * hz * times(seconds)))


def harmonic(hz: Line, partials: int, rng: np.random.Generator) -> Line:
    turns = np.cumsum(hz) / RATE
    rows = [np.sin(2 * np.pi * (k * turns + rng.random())) / k * (k * hz < 18_000) for k in range(1, partials + 1)]
    return np.asarray(np.sum(rows, axis=0) / np.sqrt(partials))


def bend(base_hz: float, seed: int, seconds: float = 10.0) -> Curve:
    """A held note that is bent by one, two and three half steps, let down again, and shaken."""
    rng = np.random.default_rng(seed)
    t = times(seconds)
    knots_t, knots_c, now = [0.0], [0.0], 0.3
    while now < seconds:
        size = rng.choice([100.0, 200.0, 300.0])
        up, hold, down = rng.uniform(0.12, 0.4), rng.uniform(0.3, 0.8), rng.uniform(0.12, 0.4)
        for length, cents in ((0.0, 0.0), (up, size), (hold, size), (down, 0.0), (rng.uniform(0.2, 0.5), 0.0)):
            now += length
            knots_t.append(now)
            knots_c.append(cents)
    cents = np.interp(t, knots_t, knots_c)
    smooth = np.hanning(round(0.04 * RATE))
    cents = np.convolve(np.pad(cents, len(smooth), mode="edge"), smooth / smooth.sum(), "same")[
        len(smooth) : -len(smooth)
    ]
    shake = (np.sin(2 * np.pi * 0.21 * t + rng.uniform(0, 6)) > 0) * 1.0
    shake = np.convolve(shake, smooth / smooth.sum(), "same")
    cents = cents + 30 * shake * np.sin(2 * np.pi * rng.uniform(4.8, 6.2) * t)
    hz = base_hz * 2 ** (cents / 1_200)
    return Curve(0.3 * harmonic(hz, 8, rng), hz)


def strike(seconds: float, rng: np.random.Generator) -> Line:
    """One hit: noise with a rise of two milliseconds and a quick decay, over a damped drum tone."""
    t = times(seconds)
    low, high = sorted(rng.uniform(200, 9_000, 2))
    noise = sosfilt(butter(2, [low, max(high, low * 2)], "band", fs=RATE, output="sos"), rng.normal(0, 1, len(t)))
    body = np.sin(2 * np.pi * rng.uniform(120, 260) * t) * np.exp(-t / 0.06)
    shape = np.minimum(1, t / 0.002) * np.exp(-t / rng.uniform(0.02, 0.08))
    line = noise / np.abs(noise).max() * shape + 0.5 * body * np.minimum(1, t / 0.002)
    return np.asarray(line / np.abs(line).max())


def hits(seed: int, seconds: float = 10.0, level: float = 0.5) -> Struck:
    rng = np.random.default_rng(seed)
    out = np.zeros(round(seconds * RATE))
    at = []
    now = 0.25
    while now < seconds - 0.4:
        start = round(now * RATE)
        piece = level * rng.uniform(0.5, 1) * strike(0.3, rng)
        out[start : start + len(piece)] += piece[: len(out) - start]
        at.append(start)
        now += rng.uniform(0.2, 0.4)
    return Struck(out, np.array(at))


def ringing(hz: float, decay: float, turns: float, count: int) -> Line:
    """A sine that begins at a phase and dies away, made from a short stretch turned on: far quicker than sine by sine."""
    rate = (2j * np.pi * hz - decay) / RATE
    stretch = np.exp(rate * np.arange(512) + 2j * np.pi * turns)
    onward = np.exp(rate * 512 * np.arange(-(-count // 512)))
    return np.asarray((onward[:, None] * stretch).imag.ravel()[:count])


def pluck(hz: float, seconds: float, rng: np.random.Generator, *, rise_s: float = 0.0015) -> Line:
    t = times(seconds)
    out = np.zeros(len(t))
    place = rng.uniform(0.1, 0.3)
    for k in range(1, 25):
        own = k * hz * np.sqrt(1 + 5e-5 * k * k)
        if own > 15_000:
            break
        size = np.sin(np.pi * k * place) / k
        out += size * ringing(own, 1.2 + 0.5 * k, rng.random(), len(t))
    scrape = rng.normal(0, 1, len(t)) * np.exp(-t / 0.003)
    ends = np.minimum(1, np.minimum(t / rise_s, (seconds - t) / 0.008))
    return (out + 0.25 * scrape) * ends


def notes(seed: int, seconds: float = 10.0, *, driven: bool = False) -> Struck:
    """A line of single notes, each stopping the one before; overdriven through a soft clipper when asked."""
    rng = np.random.default_rng(seed)
    out = np.zeros(round(seconds * RATE))
    at = []
    now = 0.25
    while now < seconds - 0.4:
        length = float(rng.choice([0.125, 0.167, 0.25, 0.25, 0.4]))
        start = round(now * RATE)
        hz = 110 * 2 ** (int(rng.integers(7, 34)) / 12)
        piece = pluck(hz, length, rng)
        out[start : start + len(piece)] += piece[: len(out) - start]
        at.append(start)
        now += length
    if driven:
        out = np.tanh(6 * out) * 0.35
        out = sosfilt(butter(2, [80, 5_500], "band", fs=RATE, output="sos"), out)
    return Struck(0.5 * out / np.abs(out).max(), np.array(at))


def chords(seed: int, seconds: float = 10.0, *, every_s: tuple[float, float] = (0.8, 2.4)) -> Struck:
    """Strummed chords that ring into each other."""
    rng = np.random.default_rng(seed)
    out = np.zeros(round(seconds * RATE) + 4 * RATE)
    at = []
    now = 0.25
    while now < seconds - 0.5:
        start = round(now * RATE)
        root = 82.4 * 2 ** (int(rng.integers(0, 10)) / 12)
        third = int(rng.choice([3, 4]))
        for i, step in enumerate((0, 7, 12, 12 + third, 19)):
            begin = start + round(0.004 * i * RATE)
            piece = pluck(root * 2 ** (step / 12), 3.5, rng) * 0.3
            out[begin : begin + len(piece)] += piece
        at.append(start)
        now += rng.uniform(*every_s)
    out = out[: round(seconds * RATE)]
    return Struck(0.5 * out / np.abs(out).max(), np.array(at))


def held_chord(seed: int, seconds: float = 10.0) -> Line:
    """A chord that begins before the recording and never ends: partials of steady level."""
    rng = np.random.default_rng(seed)
    t = times(seconds)
    root = 110 * 2 ** (int(rng.integers(0, 10)) / 12)
    out = np.zeros(len(t))
    for step in (0, 4, 7, 12):
        for k in range(1, 7):
            out += np.sin(2 * np.pi * (k * root * 2 ** (step / 12) * t + rng.random())) / k
    return np.asarray(0.4 * out / np.abs(out).max())


def bass(seed: int, seconds: float = 10.0, hz: float = 41.2) -> Line:
    rng = np.random.default_rng(seed)
    return np.asarray(0.35 * harmonic(np.full(round(seconds * RATE), hz), 4, rng))


def mix(seed: int, seconds: float = 10.0) -> tuple[Line, Line]:
    """Left and right of a small band: drums, bass, chords and an overdriven lead, none of them in the middle alone."""
    lead = notes(seed + 1, seconds, driven=True).sound
    beat = hits(seed + 2, seconds).sound
    ring = chords(seed + 3, seconds).sound
    rng = np.random.default_rng(seed + 4)
    low = np.zeros(round(seconds * RATE))
    now = 0.25
    while now < seconds - 0.6:
        start = round(now * RATE)
        piece = pluck(41.2 * 2 ** (int(rng.integers(0, 12)) / 12), 0.5, rng, rise_s=0.004)
        low[start : start + len(piece)] += piece[: len(low) - start]
        now += 0.5
    low = 0.5 * low / np.abs(low).max()
    left = 0.5 * lead + 0.35 * beat + 0.5 * ring + 0.5 * low
    right = 0.35 * lead + 0.5 * beat + 0.3 * ring + 0.5 * low
    most = max(np.abs(left).max(), np.abs(right).max())
    return 0.7 * left / most, 0.7 * right / most


def string_pick(hz: float, seconds: float, rng: np.random.Generator) -> Line:
    """A picked string as a loop of delay and loss: noise is let in once and goes round, darker every time.

    Made by other means than the sums of partials above (K. Karplus and A. Strong, 1983, tuned by a fractional delay).
    """
    period = RATE / hz - 0.5
    whole = int(period)
    part = period - whole
    count = round(seconds * RATE)
    burst = rng.uniform(-1, 1, whole + 1) - np.roll(rng.uniform(-1, 1, whole + 1), round(0.2 * whole)) * 0.3
    loss = 10 ** (-3 / (hz * rng.uniform(2.5, 5.0)))
    feed = np.zeros(count)
    feed[: len(burst)] = burst
    back = np.zeros(whole + 3)
    back[0] = 1.0
    back[whole : whole + 3] -= loss * np.convolve([0.5, 0.5], [1 - part, part])
    out = lfilter([1.0], back, feed)
    ends = np.minimum(1, (seconds - times(seconds))[:count] / 0.008)
    return np.asarray(out * ends)


def picks(seed: int, seconds: float = 10.0) -> Struck:
    """Single picked notes over a soft floor of noise, each stopping the one before, some after a short rest."""
    rng = np.random.default_rng(seed)
    out = 0.0005 * rng.normal(0, 1, round(seconds * RATE))
    at = []
    now = 0.25
    while now < seconds - 0.5:
        length = float(rng.choice([0.15, 0.2, 0.3, 0.45]))
        start = round(now * RATE)
        piece = 0.35 * string_pick(110 * 2 ** (int(rng.integers(5, 32)) / 12), length, rng)
        out[start : start + len(piece)] += piece
        at.append(start)
        now += length + float(rng.choice([0.0, 0.0, 0.06, 0.12]))
    return Struck(0.5 * out / np.abs(out).max(), np.array(at))


@dataclass(frozen=True)
class Partials:
    """A sound and the steady partials in it that stand far enough from all others to be followed."""

    sound: Line
    hz: tuple[float, ...]


def sustained(seed: int, seconds: float = 8.0) -> Partials:
    """A chord that is held, as with a bow: a triad and its octave, six partials each; the triad's own tones stand
    from 36 Hz apart."""
    rng = np.random.default_rng(seed)
    t = times(seconds)
    root = rng.uniform(147, 185)
    tones = [root * 2 ** (step / 12) for step in (0, 4, 7, 12)]
    partials = [(k * hz, 1 / k) for hz in tones for k in range(1, 7)]
    out = sum(size * np.sin(2 * np.pi * (hz * t + rng.random())) for hz, size in partials)
    return Partials(np.asarray(0.1 * out), tuple(tones[:3]))


def loud(seed: int, seconds: float = 6.0, *, squashed: bool = False) -> NDArray[np.float64]:
    """A band mixed up to full scale, stereo; `squashed` as loud masters are, through a soft limiter."""
    both = np.stack(mix(seed, seconds), axis=1)
    if squashed:
        both = np.tanh(4 * both / np.abs(both).max())
    return np.asarray(0.9999 * both / np.abs(both).max())
