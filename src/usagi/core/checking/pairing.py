"""Written notes and heard ones paired in time: the cheapest alignment of the two lines.

An alignment by dynamic programming (Needleman and Wunsch, J. Mol. Biol. 48, 1970): a pair costs by how far apart its
moments and pitches are, what stays alone costs by how sure it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.elements import Note
from usagi.core.document.pitches import stages, written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.laying import together

FARTHEST_S: Final = 0.28  # between a written moment and a heard one that may still be meant
FARTHEST_OTHER_S: Final = 0.09  # when the pitch is another
SAME_SEMITONES: Final = 0.6
SECONDS: Final = 6.0  # what a second apart costs
OTHER_PITCH, OCTAVE_APART = 0.85, 0.7
NOT_HEARD: Final = 1.0
NOT_WRITTEN, NOT_WRITTEN_SURE = 0.35, 0.65
BESIDE_S: Final = 0.15
FEWEST: Final = 3  # pairs that tell by how much a line lies beside its grid


@dataclass(frozen=True, slots=True)
class Written:
    """A written note that sounds: the second at which it is expected, when it ends, and the pitches of its course."""

    note: Note
    second: float
    end_s: float
    pitch: float  # fretted
    course: tuple[float, ...]  # every pitch that it reaches, MIDI

    @property
    def starts_at(self) -> float:
        return self.course[0] if self.course else self.pitch


def written_at(note: Note, settings: SoloSettings, second: float, end_s: float) -> Written | None:
    """None for what has no pitch: dead notes, and those without a fret."""
    pitch = written_pitch(note, settings)
    if pitch is None:
        return None
    return Written(note, second, end_s, pitch, tuple(stage.midi for stage in stages(note, settings)))


@dataclass(frozen=True)
class Pairing:
    """Pairs of written and heard, by index, in order; and by how many seconds the line lies behind its grid."""

    pairs: tuple[tuple[int, int], ...]
    behind_s: float


def paired(written: Sequence[Written], heard: Sequence[HeardNote]) -> Pairing:
    """Pair a line with what is heard.

    Parameters
    ----------
    written : in order of time.
    heard : in order of onset, no dead notes; what lies around the line may be among it.
    """
    if not written or not heard:
        return Pairing((), 0.0)
    order = [i for group in together(heard) for i in sorted(group, key=lambda i: heard[i].midi)]
    lines = sorted(range(len(written)), key=lambda i: (written[i].note.tick, written[i].starts_at))
    line, sounds = [written[i] for i in lines], [heard[i] for i in order]
    behind = _behind(line, sounds)
    cost = costs(line, sounds, behind)
    pairs = [(lines[i], order[j]) for i, j in _uncrossed(dict(_aligned(cost, sounds)), cost).items()]
    return Pairing(tuple(sorted(pairs)), behind)


def _behind(line: Sequence[Written], heard: Sequence[HeardNote]) -> float:
    """The median of what each note lies away from the nearest sound of its pitch."""
    onsets = np.array([one.onset_s for one in heard])
    midi = np.array([one.midi for one in heard])
    near = []
    for one in line:
        apart = onsets - one.second
        off = apart[(np.abs(midi - one.starts_at) < SAME_SEMITONES) & (np.abs(apart) < BESIDE_S)]
        if len(off):
            near.append(float(off[np.argmin(np.abs(off))]))
    return float(np.median(near)) if len(near) >= FEWEST else 0.0


def costs(line: Sequence[Written], heard: Sequence[HeardNote], behind_s: float) -> NDArray[np.float64]:
    """What pairing each written note (rows) with each heard one costs; infinite where they cannot be one."""
    seconds = np.array([one.second + behind_s for one in line])[:, None]
    apart = np.abs(np.array([one.onset_s for one in heard])[None, :] - seconds)
    fretted = np.array([one.midi for one in heard], np.float64)[None, :]
    starts = np.array([one.starts_at for one in line])[:, None]
    plain = np.array([one.pitch for one in line])[:, None]
    off = np.minimum(np.abs(fretted - starts), np.abs(fretted - plain))
    same = off < SAME_SEMITONES
    octave = np.abs(off - 12) < SAME_SEMITONES
    cost = SECONDS * apart + np.where(same, 0.0, np.where(octave, OCTAVE_APART, OTHER_PITCH))
    allowed = np.where(same, apart < FARTHEST_S, apart < FARTHEST_OTHER_S)
    return np.where(allowed, cost, np.inf)


def _aligned(cost: NDArray[np.float64], heard: Sequence[HeardNote]) -> list[tuple[int, int]]:
    """The cheapest pairs that cross nowhere."""
    alone = np.array([0.0, *(NOT_WRITTEN + NOT_WRITTEN_SURE * one.confidence for one in heard)])
    left = np.cumsum(alone)  # what leaving the first j sounds alone costs
    rows = [np.zeros(len(heard) + 1)]  # less `left`: the best with i written and j heard used
    for own in cost:
        before = rows[-1]
        best = np.minimum.accumulate(before)[:-1]
        row = before + NOT_HEARD
        row[1:] = np.minimum(row[1:], best + left[:-1] - left[1:] + own)
        rows.append(row)
    pairs: list[tuple[int, int]] = []
    j = int(np.argmin(rows[-1]))
    for i in range(len(cost) - 1, -1, -1):
        if rows[i + 1][j] >= rows[i][j] + NOT_HEARD - 1e-12:
            continue
        pairs.append((i, j - 1))
        j = int(np.argmin(rows[i][:j]))
    return pairs[::-1]


def _uncrossed(pairs: dict[int, int], cost: NDArray[np.float64]) -> dict[int, int]:
    """The pairs with what only the order of nearly simultaneous sounds kept apart: neighbours that fit better the other
    way round, and what is alone on both sides of one moment."""
    found = dict(pairs)
    for i in pairs:
        if i + 1 in pairs:
            as_is = cost[i, found[i]] + cost[i + 1, found[i + 1]]
            if cost[i, found[i + 1]] + cost[i + 1, found[i]] < as_is:
                found[i], found[i + 1] = found[i + 1], found[i]
    taken = set(found.values())
    alone = np.array([i for i in range(len(cost)) if i not in found], np.intp)
    free = np.array([j for j in range(cost.shape[1]) if j not in taken], np.intp)
    left = cost[np.ix_(alone, free)]
    while left.size and np.isfinite(left.min()):
        i, j = divmod(int(np.argmin(left)), left.shape[1])
        found[int(alone[i])] = int(free[j])
        left[i, :] = left[:, j] = np.inf
    return found
