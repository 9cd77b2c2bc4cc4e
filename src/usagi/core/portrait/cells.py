"""A player's favourite cells: three to eight tokens that come more often than chance, by the player's own steps.

Chance is a first-order chain of the player's own tokens: a thousand seeded sequences of the same lengths. A cell is
kept when it comes in three phrases or more, of two solos where there are two, and is among those of which at most five
in a hundred are false.

Source: Yoav Benjamini and Yosef Hochberg, Controlling the False Discovery Rate, Journal of the Royal Statistical
Society B 57 (1995), 289.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.portrait.tallies import PhraseTally, Tally

SHORTEST, LONGEST = 3, 8
FEWEST_PHRASES: Final = 3
SEQUENCES: Final = 1_000
FALSE: Final = 0.05
MOST: Final = 12
SEED: Final = 7
AT_ONCE: Final = 100  # sequences
Token = tuple[int | None, int, int]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Cell:
    """Slots with the ways into them and the gaps between; in how many phrases it comes, and where: solo and note."""

    tokens: tuple[Token, ...]
    phrases: int
    expected: float
    places: tuple[tuple[int, int, int], ...]  # number of the solo, numbers of the first and the last note


def favourite_cells(solos: Sequence[Tally], *, sequences: int = SEQUENCES, seed: int = SEED) -> list[Cell]:
    """The cells, those that stand out most first; one inside a longer one with as many phrases is left out.

    Of a cell's first token the way into it does not count, of its last the gap after it.
    """
    lines = [
        (i, phrase) for i, solo in enumerate(solos) if solo.counts for phrase in solo.phrases
        if len(phrase.tokens) >= SHORTEST
    ]  # fmt: skip
    if len(lines) < FEWEST_PHRASES:
        return []
    alphabet: dict[Token, int] = {}
    coded = [[alphabet.setdefault(token, len(alphabet)) for token in phrase.tokens] for _, phrase in lines]
    words = list(alphabet)
    firsts, lasts = _classes(words)
    seen: dict[tuple[int, ...], dict[int, int]] = {}
    for n, line in enumerate(coded):
        for length in range(SHORTEST, LONGEST + 1):
            for at in range(len(line) - length + 1):
                cell = (int(firsts[line[at]]), *line[at + 1 : at + length - 1], int(lasts[line[at + length - 1]]))
                seen.setdefault(cell, {}).setdefault(n, at)
    several = len({i for i, _ in lines}) > 1
    candidates = {
        cell: found for cell, found in seen.items()
        if len(found) >= FEWEST_PHRASES and (not several or len({lines[n][0] for n in found}) > 1)
        and len({token[0] for token in _tokens(cell, found, coded, words)}) > 1
    }  # fmt: skip
    if not candidates:
        return []
    chance = _chance(coded, list(candidates), firsts, lasts, sequences, seed)
    order = sorted(candidates, key=lambda cell: chance[cell][0])
    kept = 0
    for rank, cell in enumerate(order, start=1):
        if chance[cell][0] <= FALSE * rank / len(order):
            kept = rank
    found_cells = [_cell(cell, candidates[cell], chance[cell][1], lines, coded, words) for cell in order[:kept]]
    return _longest(found_cells)[:MOST]


def _tokens(
    cell: Sequence[int], places: dict[int, int], coded: Sequence[Sequence[int]], words: Sequence[Token]
) -> tuple[Token, ...]:
    """A cell as it comes first."""
    n, at = next(iter(places.items()))
    return tuple(words[word] for word in coded[n][at : at + len(cell)])


def _classes(words: Sequence[Token]) -> tuple[Ints, Ints]:
    """Two numbers a token: as the first of a cell, without its direction, and as the last, without its gap."""
    first: dict[tuple[int | None, int], int] = {}
    last: dict[tuple[int | None, int], int] = {}
    return (
        np.array([first.setdefault((slot, gap), len(first)) for slot, _, gap in words], np.int64),
        np.array([last.setdefault((slot, way), len(last)) for slot, way, _ in words], np.int64),
    )


def _chance(
    coded: Sequence[Sequence[int]],
    cells: Sequence[tuple[int, ...]],
    firsts: Ints,
    lasts: Ints,
    sequences: int,
    seed: int,
) -> dict[tuple[int, ...], tuple[float, float]]:
    """By cell: the chance that as many phrases hold it, and how many do on average."""
    rng = np.random.default_rng([seed, len(coded)])
    size = len(firsts)
    following: list[list[int]] = [[] for _ in range(size)]
    for line in coded:
        for a, b in pairwise(line):
            following[a].append(b)
    every = [word for line in coded for word in line]
    pools = [pool or every for pool in following]
    counts = np.array([len(pool) for pool in pools], np.int64)
    starts = np.cumsum(counts) - counts
    flat = np.array([word for pool in pools for word in pool], np.int64)
    opening = np.array([line[0] for line in coded], np.int64)
    lengths = np.array([len(line) for line in coded], np.int64)
    wanted: dict[int, dict[int, tuple[int, ...]]] = {}
    for cell in cells:
        wanted.setdefault(len(cell), {})[_hash(cell)] = cell
    observed = dict.fromkeys(cells, 0)
    for line in coded:
        for cell in _held(line, wanted, firsts, lasts):
            observed[cell] += 1
    above = dict.fromkeys(cells, 0)
    total = dict.fromkeys(cells, 0.0)
    for begin in range(0, sequences, AT_ONCE):
        times = min(AT_ONCE, sequences - begin)
        table = np.empty((times * len(coded), int(lengths.max())), np.int64)
        now = rng.choice(opening, size=times * len(coded))
        for column in range(table.shape[1]):
            table[:, column] = now
            now = flat[starts[now] + (rng.random(len(now)) * counts[now]).astype(np.int64)]
        rows = np.tile(lengths, times)
        for length, hashes in wanted.items():
            held = _rows_with(table, rows, length, np.array(sorted(hashes), np.int64), firsts, lasts)
            for code, hit in held.items():
                phrases = np.bincount(hit // len(coded), minlength=times)
                cell = hashes[code]
                above[cell] += int((phrases >= observed[cell]).sum())
                total[cell] += float(phrases.sum())
    return {cell: ((1 + above[cell]) / (1 + sequences), total[cell] / sequences) for cell in cells}


BASE: Final = 1_000_003


def _hash(cell: Sequence[int]) -> int:
    value = np.int64(len(cell))
    with np.errstate(over="ignore"):
        for word in cell:
            value = np.int64(value * BASE + word + 1)
    return int(value)


def _held(
    line: Sequence[int], wanted: dict[int, dict[int, tuple[int, ...]]], firsts: Ints, lasts: Ints
) -> set[tuple[int, ...]]:
    found = set()
    for length, hashes in wanted.items():
        for at in range(len(line) - length + 1):
            cell = (int(firsts[line[at]]), *line[at + 1 : at + length - 1], int(lasts[line[at + length - 1]]))
            if _hash(cell) in hashes:
                found.add(cell)
    return found


def _rows_with(table: Ints, rows: Ints, length: int, hashes: Ints, firsts: Ints, lasts: Ints) -> dict[int, Ints]:
    """The rows that hold a cell of this length, by the cell's hash; each row once."""
    width = table.shape[1] - length + 1
    if width <= 0:
        return {}
    with np.errstate(over="ignore"):
        code = np.full((len(table), width), length, np.int64)
        code = code * BASE + firsts[table[:, :width]] + 1
        for k in range(1, length - 1):
            code = code * BASE + table[:, k : k + width] + 1
        code = code * BASE + lasts[table[:, length - 1 : length - 1 + width]] + 1
    inside = np.arange(width)[None, :] <= (rows - length)[:, None]
    row, column = np.nonzero(np.isin(code, hashes) & inside)
    found: dict[int, Ints] = {}
    values = code[row, column]
    for value in np.unique(values):
        found[int(value)] = np.unique(row[values == value])
    return found


def _cell(
    cell: tuple[int, ...],
    places: dict[int, int],
    expected: float,
    lines: Sequence[tuple[int, PhraseTally]],
    coded: Sequence[Sequence[int]],
    words: Sequence[Token],
) -> Cell:
    return Cell(
        _tokens(cell, places, coded, words),
        len(places),
        round(expected, 2),
        tuple((lines[n][0], lines[n][1].voice[at], lines[n][1].voice[at + len(cell) - 1]) for n, at in places.items()),
    )


def _longest(cells: Sequence[Cell]) -> list[Cell]:
    """Those that no longer one of as many phrases holds, the most telling first."""
    order = sorted(cells, key=lambda cell: (-len(cell.tokens), -cell.phrases, cell.expected))
    kept: list[Cell] = []
    for cell in order:
        slots = [token[0] for token in cell.tokens]
        if not any(_inside(slots, [token[0] for token in other.tokens]) and other.phrases >= cell.phrases
                   for other in kept):  # fmt: skip
            kept.append(cell)
    return sorted(kept, key=lambda cell: (-(cell.phrases - cell.expected), -len(cell.tokens)))


def _inside(one: Sequence[object], other: Sequence[object]) -> bool:
    return any(list(other[i : i + len(one)]) == list(one) for i in range(len(other) - len(one) + 1))
