"""Notes read from what the net says: where one begins, along which pitches it goes, and where it ends."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter, median_filter

from usagi.core.listening.net import Map, Said
from usagi.core.listening.spectrum import FRAMES_PER_S, LOWEST_KEY, PER_KEY

Frames = NDArray[np.int64]
Cents = NDArray[np.float64]

LEAST_ONSET: Final = 0.08  # below it nothing is thought of
SOUNDS: Final = 0.35  # of the contour, for a note to go on
QUIET_FRAMES: Final = 4
STEP: Final = 2  # bins that a pitch moves in a frame at most
STAY: Final = 0.04  # what a bin of movement costs
BESIDE: Final = 3  # frames between which two onsets of a key are one
LONGEST: Final = 900  # frames
SAME: Final = 0.8  # semitones within which a pitch is another's


@dataclass(frozen=True)
class Track:
    """A note that may be there. Frames are whole, the onset is finer; `cents` are above the key, one a frame."""

    key: int  # MIDI
    onset: float  # frames
    first: int
    last: int  # the first frame without it
    strength: float  # of the onset, 0 to 1
    cents: Cents
    bins: Frames  # of the contour, one a frame
    strong: Map  # the contour along it

    @property
    def onset_s(self) -> float:
        return self.onset / FRAMES_PER_S

    @property
    def end_s(self) -> float:
        return self.last / FRAMES_PER_S

    def keys(self, said: Said) -> Frames:
        """The row of the maps on which it lies, a frame each."""
        return np.clip(self.bins // PER_KEY, 0, said.onset.shape[0] - 1)

    def until(self, last: int) -> Track:
        """The same, but not beyond a frame."""
        size = max(1, min(last, self.last) - self.first)
        return replace(
            self,
            last=self.first + size,
            cents=self.cents[:size],
            bins=self.bins[:size],
            strong=self.strong[:size],
        )


def tracks(said: Said, *, least: float = LEAST_ONSET) -> list[Track]:
    """All notes that may be there, in order of onset, each as if there were no other."""
    keys, frames, fine, strength = _onsets(said.onset, least)
    if not len(keys):
        return []
    bins, lasts = _followed(said.contour, keys, frames)
    found = []
    for i in range(len(keys)):
        first, last = int(frames[i]), max(int(frames[i]) + 2, int(lasts[i]))
        last = min(last, said.frames)
        line = bins[i, : last - first]
        at = np.arange(first, last)
        found.append(
            Track(
                key=int(keys[i]) + LOWEST_KEY,
                onset=float(fine[i]),
                first=first,
                last=last,
                strength=float(strength[i]),
                cents=_cents(said.contour, line, at, int(keys[i])),
                bins=line,
                strong=said.contour[line, at],
            )
        )
    return sorted(found, key=lambda track: (track.onset, track.key))


def _onsets(onset: Map, least: float) -> tuple[Frames, Frames, NDArray[np.float64], Map]:
    """Rows, frames, finer frames and strength of all peaks that no neighbouring key tops."""
    top = maximum_filter(onset, size=(3, 2 * BESIDE + 1), mode="constant")
    rows, frames = np.nonzero((onset >= top) & (onset > least))
    if not len(rows):
        return rows, frames, frames.astype(np.float64), onset[rows, frames]
    near = np.clip(frames[:, None] + np.arange(-2, 3), 0, onset.shape[1] - 1)
    weight = onset[rows[:, None], near].astype(np.float64) ** 2
    fine = (weight * (frames[:, None] + np.arange(-2, 3))).sum(axis=1) / weight.sum(axis=1)
    return rows, frames, fine, onset[rows, frames]


def _followed(contour: Map, rows: Frames, frames: Frames) -> tuple[Frames, Frames]:
    """For each onset the bins of the contour that it goes along, and the frame in which it has fallen silent."""
    top, total = contour.shape
    at = rows * PER_KEY + 1
    reach = np.arange(-STEP, STEP + 1)
    price = STAY * np.abs(reach)
    bins = np.zeros((len(rows), LONGEST), dtype=np.int64)
    lasts = np.minimum(frames + LONGEST, total)
    quiet = np.zeros(len(rows), dtype=np.int64)
    alive = np.ones(len(rows), dtype=bool)
    for step in range(LONGEST):
        now = np.minimum(frames + step, total - 1)
        around = np.clip(at[:, None] + reach, 0, top - 1)
        heights = contour[around, now[:, None]]
        best = np.argmax(heights - price, axis=1)
        height = heights[np.arange(len(rows)), best]
        at = np.where(height > SOUNDS / 2, around[np.arange(len(rows)), best], at)
        bins[:, step] = at
        quiet = np.where((height < SOUNDS) & (step > 3), quiet + 1, 0)
        ended = alive & ((quiet >= QUIET_FRAMES) | (frames + step >= total - 1))
        lasts[ended] = frames[ended] + step - np.where(quiet[ended] >= QUIET_FRAMES, QUIET_FRAMES - 1, 0)
        alive &= ~ended
        if not alive.any():
            break
    return bins, lasts


def _cents(contour: Map, line: Frames, at: Frames, row: int) -> Cents:
    """The pitch along a line of bins, finer than a bin: the centre of the contour's hill; steady where it is uneven."""
    around = np.clip(line[:, None] + np.arange(-2, 3), 0, contour.shape[0] - 1)
    weight = contour[around, at[:, None]].astype(np.float64) ** 2 + 1e-6
    place = (weight * around).sum(axis=1) / weight.sum(axis=1)
    cents = (place - (row * PER_KEY + 1)) * (100 / PER_KEY)
    return np.asarray(median_filter(cents, size=min(5, len(cents)), mode="nearest"))


def ended_by(track: Track, others: Sequence[Track]) -> Track:
    """A track until another begins on the pitch at which it then is: its string is struck or reached again.

    Parameters
    ----------
    track : the one that ends.
    others : in order of onset; the track itself may be among them.
    """
    first = bisect_right(others, track.first + BESIDE - 1, key=lambda other: other.first)
    for other in others[first:]:
        into = other.first - track.first
        if other.first >= track.last or into >= len(track.cents):
            break
        if abs(track.key + track.cents[into] / 100 - other.key) < SAME:
            return track.until(other.first)
    return track
