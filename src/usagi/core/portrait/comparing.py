"""Two players, periods, tunes or settings side by side: what differs, and how sure that is.

Phrases are drawn again with replacement inside each solo, so that what one solo does all through does not pass for a
habit; what differs is ordered by the end of the 90 % interval that lies nearer zero.

Source: Bradley Efron and Robert Tibshirani, An Introduction to the Bootstrap, Chapman and Hall 1993, chapter 13.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.portrait.portrait import FEWEST, PER_NOTE, Portrait, portrait, summed, times_counted
from usagi.core.portrait.tallies import Group, Tally

DRAWS: Final = 1_000
SEED: Final = 20_261_129
LOW, HIGH = 5.0, 95.0  # per cent
MOST: Final = 12
# Of these, shares are set side by side; places, frets and openings are too many and too few.
COMPARED: Final = frozenset(
    {Group.ROLES, Group.INTERVALS, Group.CONTOURS, Group.STARTS, Group.ENDS, Group.START_DEGREES, Group.END_DEGREES,
     Group.LENGTHS, Group.RESTS, Group.STRINGS, Group.TECHNIQUES, Group.BENDS, Group.SLIDES, Group.PICKING,
     Group.LAST_NOTES, Group.GRIPS, Group.PATHS}
)  # fmt: skip
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Difference:
    """An answer that one side gives more often: both shares, and the 90 % interval of their difference."""

    group: str
    answer: str
    one: float
    other: float
    low: float
    high: float

    @property
    def nearer_zero(self) -> float:
        """The distance of the interval from zero; 0 when zero lies in it."""
        return max(0.0, self.low, -self.high)


def compared(one: Sequence[Tally], other: Sequence[Tally], *, draws: int = DRAWS, seed: int = SEED) -> list[Difference]:
    """What differs between two sets of solos, the surest difference first; nothing whose interval holds zero.

    Parameters
    ----------
    one, other : the solos of each side; only those that count.
    draws : how often phrases are drawn again.
    seed : of the drawing; the same solos and seed give the same answer.
    """
    sides = [[solo for solo in side if solo.counts and solo.phrases] for side in (one, other)]
    if not all(sides):
        return []
    pictures = [portrait([sums for solo in side if (sums := summed(solo)) is not None]) for side in sides]
    names = _names(pictures)
    if not names:
        return []
    drawn = [_shares(side, names, draws, np.random.default_rng([seed, i])) for i, side in enumerate(sides)]
    apart = drawn[0] - drawn[1]
    low, high = np.percentile(apart, (LOW, HIGH), axis=0)
    found = []
    for i, (group, answer) in enumerate(names):
        shares = [_share(picture, group, answer) for picture in pictures]
        found.append(Difference(group, answer, shares[0], shares[1], float(low[i]), float(high[i])))
    sure = [one for one in found if one.nearer_zero > 0]
    return sorted(sure, key=lambda one: (-one.nearer_zero, one.group, one.answer))[:MOST]


def _is_compared(group: str) -> bool:
    return group in COMPARED or group.startswith((f"{Group.DEGREES} ", f"{Group.MOVES} "))


def _names(pictures: Sequence[Portrait]) -> list[tuple[str, str]]:
    """The answers of groups in which both sides have enough to compare."""
    found: dict[tuple[str, str], None] = {}
    for picture in pictures:
        for group, figures in picture.groups.items():
            enough = all(other.groups.get(group) and other.groups[group][0].of >= FEWEST for other in pictures)
            if _is_compared(group) and enough:
                found |= dict.fromkeys((group, figure.answer) for figure in figures)
    return sorted(found)


def _share(picture: Portrait, group: str, answer: str) -> float:
    return next((one.share for one in picture.groups.get(group, ()) if one.answer == answer), 0.0)


def _shares(solos: Sequence[Tally], names: Sequence[tuple[str, str]], draws: int, rng: np.random.Generator) -> Floats:
    """The share of every answer in each draw. Returns : (draws, names)."""
    column = {name: i for i, name in enumerate(names)}
    groups = sorted({group for group, _ in names})
    row_of = {group: i for i, group in enumerate(groups)}
    hits = np.zeros((draws, len(names)))
    of = np.zeros((draws, len(groups)))
    for solo in solos:
        counts = np.zeros((len(solo.phrases), len(names)))
        totals = np.zeros((len(solo.phrases), len(groups)))
        for i, phrase in enumerate(solo.phrases):
            for group in groups:
                if group in PER_NOTE:
                    totals[i, row_of[group]] = len(phrase.notes)
            for name, notes in phrase.bins.items():
                group, _, answer = name.partition(":")
                times = times_counted(group, notes)
                if (group, answer) in column:
                    counts[i, column[group, answer]] += times
                if group in row_of and group not in PER_NOTE:
                    totals[i, row_of[group]] += times
        chosen = rng.integers(len(solo.phrases), size=(draws, len(solo.phrases)))
        weights = np.zeros((draws, len(solo.phrases)))
        np.add.at(weights, (np.arange(draws)[:, None], chosen), 1.0)
        hits += weights @ counts
        of += weights @ totals
    per = of[:, [row_of[group] for group, _ in names]]
    return np.asarray(np.divide(hits, per, out=np.zeros_like(hits), where=per > 0), np.float64)
