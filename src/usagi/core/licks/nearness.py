"""How near two licks are: the least cost of turning one into the other, normed so that it is a metric.

Replacing a token costs ½ for another slot, ¼ for another direction, ¼ of the difference in log2 of the gaps, up to 1;
inserting or deleting costs 1. With G the least cost and m, n the lengths, d = 2G / (m + n + G).

Source: Yujian Li and Bo Liu, A Normalized Levenshtein Distance Metric, IEEE Transactions on Pattern Analysis and
Machine Intelligence 29 (2007), 1091.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.licks.line import KeyFree

SLOT, DIRECTION, GAP = 0.5, 0.25, 0.25
NO_SLOT: Final = 12
SLOTS: Final = 13
LEAST_GAP: Final = 1  # ticks
TOKEN_BYTES: Final = 3
STEPS_OF_GAP: Final = 2_048  # in which a doubling of the gap is kept
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Tokens:
    """Many lines as arrays, one column a line, filled up behind its length with what is never looked at.

    `slots` (uint8, 12 without a chord), `ways` (int8), `gaps` (float32, log2 of ticks), all (longest, lines);
    `lengths` (lines,).
    """

    slots: NDArray[np.uint8]
    ways: NDArray[np.int8]
    gaps: NDArray[np.float32]
    lengths: NDArray[np.int64]

    def of(self, lines: NDArray[np.intp]) -> Tokens:
        """A part of the lines, by their numbers."""
        longest = int(self.lengths[lines].max(initial=0))
        return Tokens(
            self.slots[:longest, lines], self.ways[:longest, lines], self.gaps[:longest, lines], self.lengths[lines]
        )


def packed(line: KeyFree) -> bytes:
    """The tokens of a line, three bytes each: slot and direction in one, the gap in two (2,048 a doubling)."""
    found = bytearray()
    for token in line.tokens:
        slot = NO_SLOT if token.slot is None else token.slot
        gap = round(STEPS_OF_GAP * log2(max(LEAST_GAP, token.gap)))
        found += bytes((slot + SLOTS * (token.direction + 1),)) + gap.to_bytes(2, "little")
    return bytes(found)


def unpacked(data: bytes, lengths: NDArray[np.int64]) -> Tokens:
    """The tokens of many lines, from what `packed` made of each, one behind the other."""
    rows = np.frombuffer(data, np.uint8).reshape(-1, TOKEN_BYTES)
    longest, count = int(lengths.max(initial=0)), len(lengths)
    column = np.repeat(np.arange(count), lengths)
    row = np.arange(len(rows)) - np.repeat(np.cumsum(lengths) - lengths, lengths)
    slots = np.full((longest, count), NO_SLOT, np.uint8)
    ways = np.zeros((longest, count), np.int8)
    gaps = np.zeros((longest, count), np.float32)
    slots[row, column] = rows[:, 0] % SLOTS
    ways[row, column] = (rows[:, 0] // SLOTS).astype(np.int8) - 1
    gaps[row, column] = (rows[:, 1].astype(np.float32) + 256.0 * rows[:, 2]) / STEPS_OF_GAP
    return Tokens(slots, ways, gaps, lengths)


def tokens_of(lines: Sequence[KeyFree]) -> Tokens:
    """Lines side by side."""
    return unpacked(b"".join(map(packed, lines)), np.array([len(line.slots) for line in lines], np.int64))


def distances(one: KeyFree, many: Tokens) -> Floats:
    """Distances of one line to many: 0 for alike, near 1 for nothing in common; two empty lines are alike.

    Returns : float64, shape (lines,), exact to a thousandth.

    >>> scale = KeyFree(((0,), (2,), (4,)), (60, 62, 64), (5_040, 5_040, 5_040))
    >>> slower = KeyFree(scale.slots, scale.pitches, (10_080, 10_080, 10_080))
    >>> distances(scale, tokens_of([scale, slower])).round(3).tolist()
    [0.0, 0.222]
    """
    own = tokens_of([one])
    m, (longest, count) = len(one.slots), many.slots.shape
    before = np.repeat(np.arange(longest + 1, dtype=np.float32)[:, None], count, axis=1)
    for i in range(m):
        replaced = np.abs(many.gaps - own.gaps[i, 0])
        np.minimum(replaced, 1.0, out=replaced)
        replaced *= GAP
        replaced += np.float32(SLOT) * (many.slots != own.slots[i, 0])
        replaced += np.float32(DIRECTION) * (many.ways != own.ways[i, 0])
        replaced += before[:-1]
        now = before + np.float32(1.0)
        np.minimum(now[1:], replaced, out=now[1:])
        for j in range(longest):
            np.minimum(now[j + 1], now[j] + np.float32(1.0), out=now[j + 1])
        before = now
    least = before[many.lengths, np.arange(count)].astype(np.float64)
    return np.asarray(2.0 * least / np.maximum(m + many.lengths + least, 1e-9), np.float64)


def distance(one: KeyFree, other: KeyFree) -> float:
    """The distance of two lines."""
    return float(distances(one, tokens_of([other]))[0])


MARKS: Final = SLOTS + 3 + 8 + 1  # how often each slot, direction and doubling of the gap comes, and the length
WEIGHTS: Final = np.array([2] * SLOTS + [1] * 11 + [4], np.int16)
FIRST_DOUBLING: Final = 9  # of a gap in ticks: shorter ones count with it
SIEVED: Final = 18_000  # lines that are compared token by token


def marks(line: KeyFree) -> bytes:
    """What a line holds, whatever its order: lines that differ much in it are far from each other."""
    found = [0] * MARKS
    for token in line.tokens:
        found[NO_SLOT if token.slot is None else token.slot] += 1
        found[SLOTS + token.direction + 1] += 1
        doubling = round(log2(max(LEAST_GAP, token.gap))) - FIRST_DOUBLING
        found[SLOTS + 3 + min(7, max(0, doubling))] += 1
    found[-1] = len(line.slots)
    return bytes(min(255, count) for count in found)


def nearest(one: KeyFree, all_marks: bytes, all_tokens: bytes, most: int) -> list[tuple[int, float]]:
    """The nearest of many lines, with their distances, the nearest first.

    Parameters
    ----------
    all_marks, all_tokens : what `marks` and `packed` made of each, one behind the other.
    most : how many are wanted.

    Of very many only those are compared token by token whose marks are nearest; what is missed so is rare.
    """
    table = np.frombuffer(all_marks, np.uint8).reshape(-1, MARKS)
    lengths = table[:, -1].astype(np.int64)
    rows = np.arange(len(table))
    data = np.frombuffer(all_tokens, np.uint8).reshape(-1, TOKEN_BYTES)
    if len(table) > SIEVED:
        own = np.frombuffer(marks(one), np.uint8)
        apart = (np.maximum(table, own) - np.minimum(table, own)) @ WEIGHTS
        rows = np.sort(np.argpartition(apart, SIEVED)[:SIEVED])
        starts = (np.cumsum(lengths) - lengths)[rows]
        inside = np.arange(lengths[rows].sum()) - np.repeat(np.cumsum(lengths[rows]) - lengths[rows], lengths[rows])
        data = data[np.repeat(starts, lengths[rows]) + inside]
    found = distances(one, unpacked(data.tobytes(), lengths[rows]))
    best = np.argsort(found, kind="stable")[:most]
    return [(int(rows[i]), float(found[i])) for i in best]
