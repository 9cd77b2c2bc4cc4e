"""The swing of a band, measured: where onsets fall between the beats.

Between two beats an off-beat divides the time long : short. Every onset in the middle of a divided note is one
witness; the ratio is that of the place where they crowd. A crowd in the middle is straight; one at two thirds is 2.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

Line = NDArray[np.float64]

EARLIEST, LATEST = 0.42, 0.80  # of a divided note: an off-beat lies between
ON_BEAT = 0.09  # of a divided note: this near to a beat an onset is on it
CROWD: Final = 0.045  # half the width of a crowd, in divided notes
FEWEST = 16
MOST_RATIO = 3.0
LEAST_SWING: Final = 1.12  # below it nobody hears a swing
SURE, PERHAPS = 0.6, 0.42  # of what sounds between the beats, that agrees: sixteenths on a wrong grid give a third each
_SAID: Final = {"": "", "perhaps": ", perhaps", "a guess": ", but that is a guess"}


@dataclass(frozen=True, slots=True)
class SwingHeard:
    """The ratio long : short, how many off-beats it rests on, and the share of all in the middle that crowd there."""

    ratio: float
    count: int
    agreement: float

    @property
    def straight(self) -> bool:
        return self.ratio < LEAST_SWING

    @property
    def doubt(self) -> str:
        """The word of doubt, by how much of what sounds between the beats agrees; empty when most of it does."""
        if self.count < FEWEST:
            return "a guess"
        return "" if self.agreement >= SURE else "perhaps" if self.agreement >= PERHAPS else "a guess"

    @property
    def sentence(self) -> str:
        """What was measured, in words."""
        return self.said(self.doubt)

    def said(self, doubt: str) -> str:
        """The same with another word of doubt: when the beats under it are doubtful."""
        rests = f"it rests on {self.count} off-beat{'' if self.count == 1 else 's'}"
        if self.count < FEWEST:
            return f"Too little to go by: {rests}, and {FEWEST} are wanted."
        kind = "Straight" if self.straight else f"Swung {self.ratio:.2f} : 1"
        return f"{kind}{_SAID[doubt]}; {rests}, {self.agreement:.0%} of what sounds there."


def hear_swing(onsets_s: Line, beats_s: Line) -> SwingHeard:
    """The ratio of a swing, from onsets between the edges of the notes that are divided.

    Parameters
    ----------
    onsets_s, beats_s : float64, shape (n,), in rising seconds.

    Returns : the ratio long to short with the number of off-beats that it rests on; ratio 1.0 and count 0 without any.
    """
    if len(beats_s) < 2:
        return SwingHeard(1.0, 0, 0.0)
    index = np.searchsorted(beats_s, onsets_s, side="right") - 1
    inside = (index >= 0) & (index < len(beats_s) - 1)
    index, at = index[inside], onsets_s[inside]
    place = (at - beats_s[index]) / (beats_s[index + 1] - beats_s[index])
    between = np.sort(place[(place > ON_BEAT) & (place < 1 - ON_BEAT)])
    middle = between[(between >= EARLIEST) & (between <= LATEST)]
    if len(middle) == 0:
        return SwingHeard(1.0, 0, 0.0)
    crowds = [(int(np.sum(np.abs(middle - centre) <= CROWD)), -abs(centre - 0.6), centre) for centre in middle]
    _, _, centre = max(crowds)
    crowd = middle[np.abs(middle - centre) <= CROWD]
    place_of = float(np.median(crowd))
    ratio = min(MOST_RATIO, max(1.0, place_of / (1 - place_of)))
    return SwingHeard(round(ratio, 2), len(crowd), round(len(crowd) / len(between), 2))
