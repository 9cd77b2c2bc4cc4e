"""Teach how sure a heard pulse and its beat 1 are: facts of takes of a band, and logistic regressions of them.

python -m training.beats FIRST COUNT    prints the weights for core/audio/sureness.py
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from typing import Final

import numpy as np
import soxr
from numpy.typing import NDArray

from training.solos import STYLES, invented
from training.sources import RATE_HZ
from training.takes import take
from usagi.core.audio import beats as heard
from usagi.core.audio.pulse import follow, onset_strength
from usagi.core.audio.sureness import PACE_WEIGHTS, chance, first_facts, pace_facts

Line = NDArray[np.float64]
FACTORS: Final = (1.0, *heard.MISTAKEN)
FPS: Final = heard.HEARD_HZ / heard.HOP


def band(seed: int) -> tuple[NDArray[np.float32], Line, float]:
    """Half a minute of a band with a lead: sound at 48 kHz, the beats, the tempo."""
    rng = np.random.default_rng([seed, 41])
    style = str(rng.choice(list(STYLES)))
    tempo = STYLES[style].tempo
    bars = max(6, round(30 * np.mean(tempo) / 240))
    piece = invented(seed, bars=int(bars), style=style)
    made = take(piece, seed=seed, lead_db=float(rng.uniform(-3, 6)))
    sound = soxr.resample(made.sound, RATE_HZ, 48_000).astype(np.float32)
    return sound[:, None], np.array([piece.second(10_080 * k) for k in range(4 * piece.bars)]), piece.tempo_bpm


def one(seed: int) -> tuple[list[tuple[Line, bool]], list[tuple[Line, bool]]]:
    """Facts of every pace that may be meant, with whether it is right; and of beat 1 where the pace is."""
    sound, beats, tempo = band(seed)
    line, struck_at = heard._line_and_onsets([sound])
    spectrum = heard._spectrum(line)
    strength = onset_strength(spectrum.bands, hop=heard.HOP)
    first = follow(strength, frames_per_s=FPS)
    paces, firsts, tracked = [], [], []
    if len(first) < heard.FEWEST:
        return [], []
    usual = 60 / float(np.median(np.diff(first))) * FPS
    for factor in FACTORS:
        bpm = usual * factor
        if not heard.SLOWEST_BPM <= bpm <= heard.FASTEST_BPM:
            continue
        frames = first if factor == 1.0 else follow(strength, frames_per_s=FPS, bpm=bpm)
        if len(frames) < heard.FEWEST:
            continue
        drawn, struck = heard._drawn(frames * heard.HOP / heard.HEARD_HZ, struck_at)
        own = 60 / float(np.median(np.diff(drawn)))
        right = min(abs(own / (tempo * m) - 1) for m in (0.5, 1.0, 2.0)) < 0.04
        facts = pace_facts(np.round(drawn * FPS).astype(np.int64), strength, struck, own)
        paces.append((facts, right))
        tracked.append((chance(facts, PACE_WEIGHTS), drawn, facts, own))
    sure, drawn, facts, own = max(tracked, key=lambda one: one[0])
    evidence = heard._evidence(drawn, strength, spectrum)
    phase = int(np.argmax([evidence[p::4].mean() for p in range(4)]))
    number = int(np.argmin(np.abs(beats - drawn[phase])))
    good = abs(own / tempo - 1) < 0.04 and number % 4 == 0 and abs(beats[number] - drawn[phase]) < 0.09
    firsts.append((first_facts(evidence, 4, facts, sure), good))
    return paces, firsts


def regression(facts: NDArray[np.float64], so: NDArray[np.float64]) -> tuple[float, ...]:
    """Weights of a logistic regression with a small ridge, by Newton's steps; the constant last."""
    x = np.hstack([facts, np.ones((len(facts), 1))])
    w = np.zeros(x.shape[1])
    for _ in range(60):
        p = 1 / (1 + np.exp(-x @ w))
        gradient = x.T @ (so - p) - 0.5 * w
        hessian = (x * (p * (1 - p))[:, None]).T @ x + 0.5 * np.eye(len(w))
        w += np.linalg.solve(hessian, gradient)
    return tuple(round(float(v), 3) for v in w)


def main() -> None:
    seeds = range(int(sys.argv[1]), int(sys.argv[1]) + int(sys.argv[2]))
    with ProcessPoolExecutor(2) as pool:
        parts = list(pool.map(one, seeds, chunksize=2))
    for name, which in (("PACE_WEIGHTS", 0), ("FIRST_WEIGHTS", 1)):
        rows = [row for part in parts for row in part[which]]
        facts, so = np.array([f for f, _ in rows]), np.array([float(s) for _, s in rows])
        weights = regression(facts, so)
        p = 1 / (1 + np.exp(-(facts @ np.array(weights[:-1]) + weights[-1])))
        print(f"{name}: Final = {weights}")
        for low, high in ((0, 0.3), (0.3, 0.6), (0.6, 0.85), (0.85, 1.01)):
            inside = (p >= low) & (p < high)
            if inside.any():
                print(f"  said {p[inside].mean():.2f}, right {so[inside].mean():.2f} of {inside.sum()}")


if __name__ == "__main__":
    main()
