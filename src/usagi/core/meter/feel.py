"""Feel: where a written position is expected to sound.

Swing moves what is expected and never rewrites ticks. It divides the quarter note (unit sixteenth: the eighth) in
simple meters; where that note's grid is 2 or 4, every position moves on straight lines 0→0, ½→r/(1+r), 1→1.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache

from usagi.core.errors import UsagiError
from usagi.core.meter.bars import Bars
from usagi.core.meter.counting import parts_of
from usagi.core.meter.ticks import EIGHTH, QUARTER


class FeelImpossible(UsagiError):
    """A swing ratio out of reach."""

    code = "feel-impossible"


class FeelKind(StrEnum):
    STRAIGHT = "straight"
    SWING = "swing"
    TRIPLET = "triplet"


class SwingUnit(StrEnum):
    EIGHTH = "eighth"
    SIXTEENTH = "sixteenth"


@dataclass(frozen=True, slots=True)
class Feel:
    """Kind, unit and ratio long:short. A triplet feel swings as 2.0 and is counted in triplets."""

    kind: FeelKind = FeelKind.STRAIGHT
    unit: SwingUnit = SwingUnit.EIGHTH
    ratio: float = 2.0

    def __post_init__(self) -> None:
        if not 1.0 <= self.ratio <= 3.0:
            raise FeelImpossible(f"A swing ratio of {self.ratio:g} is out of reach: from 1 (straight) to 3.")

    @property
    def divided(self) -> int:
        """The note that swing divides, in ticks."""
        return QUARTER if self.unit is SwingUnit.EIGHTH else EIGHTH

    def moved(self, part: float) -> float:
        """Where a place in the divided note (0 to 1) is expected.

        >>> Feel(FeelKind.SWING, ratio=2.0).moved(0.5)
        0.6666666666666666
        """
        if self.kind is FeelKind.STRAIGHT:
            return part
        ratio = 2.0 if self.kind is FeelKind.TRIPLET else self.ratio
        long = ratio / (1.0 + ratio)
        return part * 2 * long if part <= 0.5 else long + (part - 0.5) * 2 * (1.0 - long)

    def __str__(self) -> str:
        if self.kind is not FeelKind.SWING:
            return str(self.kind)
        return f"swing {self.ratio:g}" + (" sixteenths" if self.unit is SwingUnit.SIXTEENTH else "")


STRAIGHT = Feel()
_WORDS = re.compile(r"(straight|triplet|swing)(?: (\d(?:\.\d+)?))?( sixteenths)?")


def parse_feel(text: str) -> Feel:
    """The feel that its words say.

    Raises : FeelImpossible.

    >>> str(parse_feel("swing 1.8")), str(parse_feel("triplet"))
    ('swing 1.8', 'triplet')
    """
    found = _WORDS.fullmatch(text.strip())
    if found is None:
        raise FeelImpossible(f"“{text}” is not a feel: write straight, triplet, or swing with its ratio.")
    kind, ratio, sixteenths = found.groups()
    if kind != FeelKind.SWING:
        return Feel(FeelKind(kind))
    return Feel(FeelKind.SWING, SwingUnit.SIXTEENTH if sixteenths else SwingUnit.EIGHTH, float(ratio or 2.0))


def expected_ticks(
    positions: Iterable[int], onsets: Iterable[int], bars: Bars, feels: Mapping[int, Feel]
) -> list[float]:
    """Where each of `positions` (ticks) is expected, in fractional ticks of the straight grid.

    `onsets` are the starts of the solo's notes, which tell the grid of each divided note; `feels` is the feel of each
    bar by number. Compound meters do not move.

    Parameters
    ----------
    positions : ticks that are asked about.
    onsets : ticks at which notes of the solo start.
    bars : of the ground.
    feels : by bar number.
    """
    by_note: dict[tuple[int, int], list[int]] = {}

    @cache
    def cell(tick: int) -> tuple[int, int, Feel] | None:
        bar = bars.at(tick)
        feel = feels.get(bar.number)
        if feel is None or feel.kind is FeelKind.STRAIGHT or bar.meter.compound:
            return None
        start = bar.counted_from + (tick - bar.counted_from) // feel.divided * feel.divided
        return start, feel.divided, feel

    for onset in onsets:
        found = cell(onset)
        if found is not None:
            by_note.setdefault(found[:2], []).append(onset - found[0])
    grids = {key: parts_of(inside, key[1], compound=False) for key, inside in by_note.items()}

    def expected(tick: int) -> float:
        found = cell(tick)
        if found is None:
            return float(tick)
        start, length, feel = found
        if grids.get((start, length), 2) not in (2, 4):
            return float(tick)
        return start + feel.moved((tick - start) / length) * length

    return [expected(tick) for tick in positions]
