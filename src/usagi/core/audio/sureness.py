"""How sure a pulse and its beat 1 are: numbers of what was followed, weighed as takes of known truth taught.

The weights are logistic regressions that training/beats.py prints; takes that they are reported on taught nothing.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

Line = NDArray[np.float64]

USUAL_BPM: Final = 112.0
# Of `pace_facts`, and a constant: log-odds that this is the pulse, up to a factor of two.
PACE_WEIGHTS: Final = (1.029, 5.093, 0.153, -0.278, -4.046, -5.461, 0.261, -0.732)
# Of `first_facts`, and a constant: log-odds that the first of the bar is right.
FIRST_WEIGHTS: Final = (0.877, 1.175, -0.421, -0.885, 0.107, 0.338, -0.31, 0.347)


def pace_facts(beats: NDArray[np.int64], strength: Line, struck: float, bpm: float) -> Line:
    """Numbers of a followed pulse: how strong its beats are beside all else, between them, and how even they lie.

    Parameters
    ----------
    beats : frames, rising.
    strength : how strongly something begins, by frame.
    struck : the share of beats on which something begins.
    bpm : beats a minute.
    """
    wide = np.convolve(strength, np.ones(3) / 3, mode="same")
    gaps = np.diff(beats)

    def at(part: float) -> float:
        places = np.clip(np.round(beats[:-1] + part * gaps).astype(int), 0, len(wide) - 1)
        return float(np.mean(wide[places]))

    on, middle, thirds = at(0.0), at(0.5), (at(1 / 3) + at(2 / 3)) / 2
    usual = float(np.mean(wide)) + 1e-9
    uneven = float(np.std(gaps) / (np.mean(gaps) + 1e-9))
    return np.array([
        np.log(on / usual + 0.1),
        struck,
        middle / (on + 1e-9),
        thirds / (on + 1e-9),
        abs(np.log2(bpm / USUAL_BPM)),
        min(uneven, 0.3) * 10,
        np.log(len(beats)) / 3,
    ])  # fmt: skip


def first_facts(evidence: Line, pulses: int, pace: Line, pace_sure: float) -> Line:
    """Numbers of the likeliest beat 1: by how much it leads, whether both halves agree, how many bars there are.

    Parameters
    ----------
    evidence : for every beat how much it sounds like the first of a bar.
    pulses : in a bar.
    pace : facts of the pulse; beat 1 is wrong where the pulse is twice or half as fast.
    pace_sure : how sure the pulse is.
    """
    scores = np.array([evidence[phase::pulses].mean() for phase in range(pulses)])
    order = np.argsort(scores)[::-1]
    spread = float(np.std(evidence)) / np.sqrt(len(evidence) / pulses) + 1e-9
    lead = float(scores[order[0]] - scores[order[1]])
    half = len(evidence) // 2 // pulses * pulses
    same = [
        int(np.argmax([part[phase::pulses].mean() for phase in range(pulses)])) == order[0]
        for part in (evidence[:half], evidence[half:])
        if len(part) >= 2 * pulses
    ]
    return np.array([
        min(6.0, lead / spread) / 2,
        min(2.0, lead),
        float(np.mean(same)) if same else 0.5,
        np.log(len(evidence) / pulses) / 3,
        pace_sure,
        pace[2],
        pace[4],
    ])  # fmt: skip


def chance(facts: Line, weights: tuple[float, ...]) -> float:
    """The probability that weighed facts stand for.

    >>> round(chance(np.array([1.0]), (2.0, -1.0)), 2)
    0.73
    """
    odds = float(np.dot(facts, weights[:-1]) + weights[-1])
    return float(1 / (1 + np.exp(-np.clip(odds, -30, 30))))
