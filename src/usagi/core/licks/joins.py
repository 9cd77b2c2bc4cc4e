"""How well one lick leads into the next: leap, beat, harmony and hand, and the reasons in words (docs/music.md, Licks).

0 is best and 1 worst: .3 leap + .2 beat + .3 harmony + .2 hand.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.fingering.search import written_way
from usagi.core.harmony.heard import Heard
from usagi.core.pitch.intervals import interval_words
from usagi.core.readings.relations import SEVENTHS, THIRDS

LEAP, BEAT, HARMONY, HAND = 0.3, 0.2, 0.3, 0.2
LEAPS: Final = ((2, 4, 7, 12, 13), (0.0, 0.25, 0.5, 0.75, 1.0))  # semitones, and what they cost
CORE_TO_CORE: Final = 0.25
STEP: Final = 2  # semitones
AROUND: Final = 3  # notes on either side, for the hand


@dataclass(frozen=True)
class End:
    """The note that a lick ends or begins with: its main pitch and the chord that it stands on there."""

    midi: float
    heard: Heard | None

    @property
    def slot(self) -> int | None:
        return None if self.heard is None else (int(self.midi // 1) - self.heard.root.pitch_class) % 12

    @property
    def core(self) -> str:
        """The name of a core tone; empty for any other note."""
        if self.heard is None or self.slot is None or self.midi % 1:
            return ""
        return self.heard.core.get(self.slot, "")


@dataclass(frozen=True)
class Join:
    """What a join costs, from 0 to 1, in its four parts, and why."""

    cost: float
    leap: float
    beat: float
    harmony: float
    hand: float
    says: str


def judge(last: End, first: End, hand: float, *, moved: bool) -> Join:
    """The join of two licks.

    Parameters
    ----------
    last, first : the end of one lick and the start of the next, over the chords where they are set.
    hand : what the hand has to do, from 0 to 1 (`hand_cost`).
    moved : whether one of them had to leave its place in the bar.
    """
    apart = abs(first.midi - last.midi)
    leap = float(np.interp(apart, *LEAPS))
    harmony, harmony_words = _harmony(last, first)
    cost = LEAP * leap + BEAT * moved + HARMONY * harmony + HAND * hand
    says = [_leap_words(last, first), harmony_words]
    if moved:
        says.append("it leaves its place in the bar")
    if hand >= 0.5:
        says.append("the hand has to jump")
    elif hand < 0.1:
        says.append("the hand stays")
    return Join(round(cost, 3), leap, float(moved), harmony, round(hand, 3), ", ".join(one for one in says if one))


def _harmony(last: End, first: End) -> tuple[float, str]:
    one, other = last.core, first.core
    apart = abs(first.midi - last.midi)
    changes = last.heard is not None and first.heard is not None and not last.heard.same_harmony(first.heard)
    crosses = (one in THIRDS and other in SEVENTHS) or (one in SEVENTHS and other in THIRDS)
    if changes and crosses and 1 <= apart <= STEP:
        return 0.0, f"the {one} leads into the {other} of the next chord"
    if other and 1 <= apart <= STEP:
        return 0.0, f"a step into the {other}"
    if one and other:
        return CORE_TO_CORE, f"from the {one} to the {other}"
    return 1.0, "it does not start on a chord tone" if not other else "it comes from no chord tone"


def _leap_words(last: End, first: End) -> str:
    by = int(first.midi - last.midi)
    return "on the same pitch" if not by else f"{'up' if by > 0 else 'down'} {interval_words(by)}"


def hand_cost(before: list[Note], after: list[Note], settings: SoloSettings, seconds: dict[int, float]) -> float:
    """What the hand has to do from one lick's last notes to the next one's first, at most 1.

    The cost of both together over that of each by itself, as the position search counts it. `seconds` says when each
    tick sounds.
    """
    ends, begins = before[-AROUND:], after[:AROUND]
    both = written_way([*ends, *begins], settings, seconds).cost
    alone = sum(written_way(part, settings, seconds).cost for part in (ends, begins))
    return float(min(1.0, max(0.0, both - alone)))
