"""What tells whether a track is a note and how it is played: the numbers that the second net judges by."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from usagi.core.listening.net import Map, Said
from usagi.core.listening.notes import Track, ended_by
from usagi.core.listening.spectrum import FRAMES_PER_S, LOWEST_KEY

Facts = NDArray[np.float32]
Judge = Callable[[Facts], NDArray[np.float32]]

POINTS: Final = 16  # of the pitch along a note
EARLY: Final = 8  # of the pitch right behind its onset, two frames apart
NEAR: Final = 4  # frames within which notes start together
LIKELY: Final = 0.5  # an onset that ends a note on its pitch
TRULY: Final = 0.3  # an onset that counts as a neighbour
RIVALS: Final = (-24, -19, -12, -7, -2, -1, 1, 2, 7, 12, 19, 24)
ECHO: Final = (6, 75)  # frames behind a note in which an echo of it comes
FAINTEST: Final = 0.1  # an onset that counts when a delay is looked for
SPREAD: Final = 1  # frames by which the echoes of one delay differ
COUNT: Final = 47 + len(RIVALS) + POINTS + EARLY


def facts_of(found: Sequence[Track], said: Said) -> tuple[list[Track], Facts]:
    """The tracks, each until a likely one begins on its pitch, and a row of facts for each: shape (tracks, COUNT)."""
    likely = [track for track in found if track.strength > LIKELY]
    cut = [ended_by(track, likely) for track in found]
    rows = np.zeros((len(cut), COUNT), np.float32)
    onsets = np.array([track.onset for track in cut])
    strengths = np.array([track.strength for track in cut])
    delays = _delays(cut)
    for i, track in enumerate(cut):
        rows[i] = [*_row(i, track, cut, onsets, strengths, said), *delays[i]]
    return cut, rows


def _delays(cut: Sequence[Track]) -> Facts:
    """What speaks for an echo, a row for each track, shape (tracks, 4).

    The strongest track before it on its key, by strength and by frames; whether it follows one at the delay that is
    most common between tracks of one key; and which share of all tracks does.
    """
    out = np.zeros((len(cut), 4), np.float32)
    by_key: dict[int, list[int]] = {}
    for i, track in enumerate(cut):
        if track.strength > FAINTEST:
            by_key.setdefault(track.key, []).append(i)
    lags: list[tuple[int, int]] = []  # the later track, frames
    for own in by_key.values():
        for n, i in enumerate(own):
            before = [j for j in own[:n] if ECHO[0] <= cut[i].first - cut[j].first <= ECHO[1]]
            lags += [(i, cut[i].first - cut[j].first) for j in before]
            if before:
                strongest = max(before, key=lambda j: cut[j].strength)
                out[i, 0] = cut[strongest].strength
                out[i, 1] = (cut[i].first - cut[strongest].first) / ECHO[1]
    if not lags:
        return out
    counts = np.bincount([lag for _, lag in lags], minlength=ECHO[1] + SPREAD + 1)
    wide = np.convolve(counts, np.ones(2 * SPREAD + 1), mode="same")
    common = int(np.argmax(wide))
    for i, lag in lags:
        if abs(lag - common) <= SPREAD:
            out[i, 2] = 1.0
    out[:, 3] = wide[common] / max(1, sum(map(len, by_key.values())))
    return out


def before(i: int, tracks: Sequence[Track], onsets: NDArray[np.float64], strengths: Map) -> Track | None:
    """The track that sounds until about the onset of another, the nearest in pitch; what it may be joined to."""
    track = tracks[i]
    near = np.flatnonzero((onsets < track.onset - 3) & (onsets > track.onset - 400) & (strengths > TRULY))
    earlier = [tracks[int(j)] for j in near]
    fitting = [other for other in earlier if abs(other.last - track.first) <= 10 and other.key != track.key]
    return min(fitting, key=lambda t: (abs(t.key - track.key), -t.onset), default=None)


def _row(
    i: int, track: Track, tracks: Sequence[Track], onsets: NDArray[np.float64], strengths: Map, said: Said
) -> list[float]:
    row, first, size = track.key - LOWEST_KEY, track.first, len(track.cents)
    total, frames = said.onset.shape

    def top(of: Map, at: int, a: int, b: int) -> float:
        return float(of[at, max(0, a) : max(0, b)].max(initial=0.0)) if 0 <= at < total else 0.0

    def mean(of: Map, at: int, a: int, b: int) -> float:
        part = of[at, max(0, a) : max(0, b)]
        return float(part.mean()) if part.size else 0.0

    around = said.onset[:, max(0, first - 3) : first + 4].max(axis=1)
    others = around.copy()
    others[row] = 0.0
    together = np.abs(onsets - track.onset) <= NEAR
    together[i] = False
    rows = track.keys(said)
    at = np.arange(first, first + size)
    bend, shaken, glide = said.bend[rows, at], said.vibrato[rows, at], said.glide[rows, at]
    cents = np.clip(track.cents, -400, 400) / 100
    steady = cents - uniform_filter1d(cents, min(size, 25), mode="nearest")
    way, over = _glide(cents)
    previous = before(i, tracks, onsets, strengths)
    odds = float(np.clip(track.strength, 1e-3, 1 - 1e-3))
    earlier = onsets[(onsets < track.onset - NEAR) & (strengths > TRULY)]
    later = onsets[(onsets > track.onset + NEAR) & (strengths > TRULY)]
    return [
        float(np.log(odds / (1 - odds))),
        float(others.max(initial=0.0)),
        float(np.sum(together & (strengths > TRULY))) / 3,
        float(np.sum(together & (strengths > track.strength))) / 3,
        top(said.onset, row, first - 20, first - 4),
        top(said.onset, row, first + 5, first + 21),
        top(said.legato, row, first - 2, first + 3),
        top(said.glide, row, first - 8, first + 1),
        top(said.glide, row, first + 1, first + 10),
        mean(said.glide, row, first, first + 10),
        mean(said.frame, row, first - 6, first - 1),
        mean(said.frame, row, first, first + 4),
        mean(said.frame, row, first, first + 8),
        mean(said.frame, row, first, first + 16),
        float(track.strong[:6].mean()),
        float(track.strong[:16].mean()),
        float(track.strong.mean()),
        float(track.strong[:8].min()),
        float(bend.mean()),
        float(bend.max()),
        float(bend[:5].mean()),
        float(bend[-max(1, size // 3) :].mean()),
        float(uniform_filter1d(shaken, min(size, 17), mode="nearest").max()),
        float(shaken.mean()),
        float(glide.max()),
        float(glide.mean()),
        float(said.dead[max(0, first - 2) : first + 3].max(initial=0.0)),
        float(np.log(size / FRAMES_PER_S)),
        float(np.median(cents[:4])),
        float(np.median(cents[-4:])),
        float(np.percentile(cents, 3)),
        float(np.percentile(cents, 95)),
        way,
        over,
        float(steady.std()),
        4 * float(np.sum(np.diff(np.signbit(steady)))) / size,
        0.0 if previous is None else 1.0,
        0.0 if previous is None else float(np.clip((previous.last - first) / 10, -1, 1)),
        0.0 if previous is None else float(np.clip((previous.key - track.key) / 6, -2, 2)),
        0.0 if previous is None else float(np.clip(previous.key - track.key + previous.cents[-1] / 100, -3, 3)),
        float(np.log1p(min(100.0, track.onset - earlier.max(initial=-100.0)))) / 4,
        float(np.log1p(min(100.0, later.min(initial=frames + 100.0) - track.onset))) / 4,
        row / total,
        *(float(around[row + step]) if 0 <= row + step < total else 0.0 for step in RIVALS),
        *cents[np.linspace(0, size - 1, POINTS).round().astype(int)],
        *cents[np.minimum(np.arange(0, 2 * EARLY, 2), size - 1)],
    ]


def _glide(cents: NDArray[np.float64]) -> tuple[float, float]:
    """The largest way in one direction, in semitones, and the seconds that it takes."""
    if len(cents) < 3:
        return 0.0, 0.0
    smooth = uniform_filter1d(cents, 3, mode="nearest")
    turns = np.flatnonzero(np.diff(np.sign(np.diff(smooth)))) + 1
    edges = np.concatenate([[0], turns, [len(smooth) - 1]])
    ways = np.diff(smooth[edges])
    best = int(np.argmax(np.abs(ways)))
    return float(ways[best]), float((edges[best + 1] - edges[best]) / FRAMES_PER_S)
