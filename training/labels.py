"""What a net should say of a take: for every key and frame whether a note begins, sounds, is bent, shaken, slid."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from training.played import How, Piece

FRAMES_PER_S: Final = 22_050 / 256
LOWEST_KEY, KEYS, PER_KEY = 35, 57, 3
HEADS: Final = ("onset", "legato", "frame", "vibrato", "bend", "glide")
Maps = NDArray[np.float16]


@dataclass(frozen=True)
class Labels:
    """float16: heads of shape (6, keys, frames), contour of (3 * keys, frames), dead of (frames,)."""

    heads: Maps
    contour: Maps
    dead: Maps


def labels(piece: Piece, frames: int) -> Labels:
    heads = np.zeros((len(HEADS), KEYS, frames), np.float16)
    contour = np.zeros((KEYS * PER_KEY, frames), np.float16)
    dead = np.zeros(frames, np.float16)
    before: dict[int, float] = {}
    for note in piece.notes:
        first = note.onset_s * FRAMES_PER_S
        if note.dead:
            _peak(dead, first)
            continue
        key = round(note.starts_at) - LOWEST_KEY
        if not 0 <= key < KEYS:
            continue
        _peak(heads[0, key], first)
        if note.how in (How.HAMMERED, How.PULLED, How.SLID):
            _peak(heads[1, key], first)
        at = np.arange(max(0, round(first)), min(frames, round(note.end_s * FRAMES_PER_S) + 1))
        seconds = at / FRAMES_PER_S - note.onset_s
        midi = note.midi + note.cents(seconds) / 100
        _trace(heads, contour, at, midi)
        pulled = np.zeros(len(at))
        if note.course:
            pulled = np.interp(seconds, [p for p, _ in note.course], [c for _, c in note.course])
        line = np.clip(np.round(note.midi + (pulled if note.course else 0) / 100 - LOWEST_KEY), 0, KEYS - 1).astype(int)
        line = np.broadcast_to(line, at.shape)
        if note.vibrato is not None:
            shaken = seconds >= note.vibrato[0]
            heads[3, line[shaken], at[shaken]] = 1
        if note.course:
            heads[4, line, at] = 1
        if note.slide_in is not None:
            moving = seconds < note.slide_in[1]
            heads[5, key, at[moving]] = 1
        if note.how is How.SLID and note.string in before:
            under = np.arange(
                max(0, round((note.onset_s - note.glide_s) * FRAMES_PER_S)), min(frames, round(first) + 1)
            )
            heads[5, key, under] = 1
        before[note.string] = note.midi
    return Labels(heads, contour, dead)


def _peak(line: Maps, at: float) -> None:
    """One where a note begins, less beside it."""
    near = np.arange(max(0, int(at) - 2), min(len(line), int(at) + 4))
    line[near] = np.maximum(line[near], np.clip(1.25 - 0.5 * np.abs(near - at), 0, 1).astype(np.float16))


def _trace(heads: Maps, contour: Maps, at: NDArray[np.int64], midi: NDArray[np.float64]) -> None:
    keys = np.round(midi - LOWEST_KEY).astype(int)
    fits = (keys >= 0) & (keys < KEYS)
    heads[2, keys[fits], at[fits]] = 1
    place = (midi[fits] - LOWEST_KEY) * PER_KEY + 1
    for off in (-1, 0, 1):
        bins = np.round(place).astype(int) + off
        inside = (bins >= 0) & (bins < len(contour))
        height = np.clip(1 - 0.55 * np.abs(bins - place), 0, 1).astype(np.float16)
        contour[bins[inside], at[fits][inside]] = np.maximum(contour[bins[inside], at[fits][inside]], height[inside])
