"""What two phrases share, wherever they come from: a run of notes in one rhythm with the same steps or degrees.

The kinds are those of a motif (docs/music.md, Motif), as far as they can be told between solos.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from usagi.core.licks.line import KeyFree
from usagi.core.phrases.motifs import Change
from usagi.core.pitch.intervals import interval_words

FEWEST: Final = 4  # notes
LONGEST: Final = 12


@dataclass(frozen=True, slots=True)
class Place:
    """A line with what its letters do not say: the pitch of its first event, and its place in the bar."""

    line: KeyFree
    pitch: int
    beat: int


@dataclass(frozen=True, slots=True)
class Shared:
    """A shared run: where it starts in each line, its length, and what changed."""

    one: int
    other: int
    length: int
    change: Change
    says: str


def shared(one: Place, other: Place) -> Shared | None:
    """The longest run that two lines share; None when it is shorter than four notes."""
    best: Shared | None = None
    for i in range(len(one.line.slots) - FEWEST + 1):
        for j in range(len(other.line.slots) - FEWEST + 1):
            for factor in (1.0, 2.0, 0.5):
                length, degrees = _run(one.line, other.line, i, j, factor)
                if length >= FEWEST and (best is None or length > best.length):
                    best = _named(one, other, i, j, min(length, LONGEST), factor, by_degrees=degrees)
    return best


def _run(one: KeyFree, other: KeyFree, i: int, j: int, factor: float) -> tuple[int, bool]:
    """How many events agree from two places on, and whether only their degrees do."""
    lengths = []
    for by_degrees in (False, True):
        k = 0
        while i + k < len(one.slots) and j + k < len(other.slots):
            if k:
                if one.gaps[i + k - 1] * factor != other.gaps[j + k - 1]:
                    break
                a, b = one.steps[i + k - 1], other.steps[j + k - 1]
                alike = a == b if not by_degrees else ((a > 0) - (a < 0)) == ((b > 0) - (b < 0))
                if not alike:
                    break
            slot = one.slots[i + k][0]
            if by_degrees and (slot is None or slot != other.slots[j + k][0]):
                break
            k += 1
        lengths.append(k)
    # A pitch that is only repeated is no figure.
    k = max(lengths)
    if len(set(one.pitches[i : i + k])) < 2:
        return 0, False
    return k, lengths[1] > lengths[0]


def _named(one: Place, other: Place, i: int, j: int, length: int, factor: float, *, by_degrees: bool) -> Shared:
    apart = (other.pitch + other.line.pitches[j] - other.line.pitches[0]) - (
        one.pitch + one.line.pitches[i] - one.line.pitches[0]
    )
    same_slots = all(
        one.line.slots[i + k][0] is not None and one.line.slots[i + k][0] == other.line.slots[j + k][0]
        for k in range(length)
    )
    if factor != 1.0:
        change = Change.STRETCHED if factor > 1 else Change.SHORTENED
        return Shared(i, j, length, change, "twice as slow" if factor > 1 else "twice as fast")
    if not apart and not by_degrees:
        same_place = i == j == 0 and one.beat == other.beat
        change = Change.REPEATED if same_place or i or j else Change.DISPLACED
        return Shared(i, j, length, change, "the same" if change is Change.REPEATED else "at another place in the bar")
    if same_slots:
        return Shared(i, j, length, Change.MOVED, "the same degrees, moved with its chord")
    way = "higher" if apart > 0 else "lower"
    return Shared(i, j, length, Change.TRANSPOSED, f"{interval_words(apart)} {way}")
