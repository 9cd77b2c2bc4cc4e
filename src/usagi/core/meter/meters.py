"""Meters and their pulses."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate

from usagi.core.errors import UsagiError
from usagi.core.meter.ticks import LENGTHS, WHOLE

DENOMINATORS = (1, 2, 4, 8, 16, 32)
MOST_BEATS = 32


class MeterImpossible(UsagiError):
    """A meter that cannot be counted."""

    code = "meter-impossible"


@dataclass(frozen=True)
class Meter:
    """Numerator, denominator and the groups of an uneven meter (7/8 as 2+2+3), or none."""

    numerator: int
    denominator: int
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= self.numerator <= MOST_BEATS or self.denominator not in DENOMINATORS:
            raise MeterImpossible(
                f"{self.numerator}/{self.denominator} is not a meter that can be counted: "
                f"1 to {MOST_BEATS} over 1, 2, 4, 8, 16 or 32."
            )
        if self.groups and (sum(self.groups) != self.numerator or min(self.groups) < 1):
            plus = "+".join(map(str, self.groups))
            raise MeterImpossible(f"The groups {plus} of {self.numerator}/{self.denominator} do not add up.")

    @property
    def beat_ticks(self) -> int:
        """One denominator."""
        return WHOLE // self.denominator

    @cached_property
    def bar_ticks(self) -> int:
        return self.numerator * self.beat_ticks

    @cached_property
    def compound(self) -> bool:
        return not self.groups and self.denominator == 8 and self.numerator in (6, 9, 12)

    @cached_property
    def pulses(self) -> tuple[int, ...]:
        """The length of every pulse (foot tap) of the bar, in ticks.

        >>> Meter(6, 8).pulses, Meter(7, 8, (2, 2, 3)).pulses
        ((15120, 15120), (10080, 10080, 15120))
        """
        if self.groups:
            return tuple(group * self.beat_ticks for group in self.groups)
        if self.compound:
            return (3 * self.beat_ticks,) * (self.numerator // 3)
        return (self.beat_ticks,) * self.numerator

    @cached_property
    def pulse_starts(self) -> tuple[int, ...]:
        return tuple(accumulate(self.pulses[:-1], initial=0))

    @property
    def tempo_unit(self) -> str:
        """The note value that tempo counts: that of the first pulse."""
        first = self.pulses[0]
        for length in LENGTHS:
            if first in (length.ticks, length.dotted):
                return ("dotted " if first == length.dotted else "") + length.name.removesuffix(" note")
        return f"{self.groups[0]} {LENGTHS[3].name}s"

    def __str__(self) -> str:
        groups = " " + "+".join(map(str, self.groups)) if self.groups else ""
        return f"{self.numerator}/{self.denominator}{groups}"


COMMON_TIME = Meter(4, 4)


def parse_meter(text: str) -> Meter:
    """Read `4/4` or `7/8 2+2+3`.

    Raises : MeterImpossible.
    """
    found = re.fullmatch(r"\s*(\d{1,2})/(\d{1,2})(?:\s+(\d+(?:\+\d+)+))?\s*", text)
    if found is None:
        raise MeterImpossible(f"“{text}” is not a meter: write it like 4/4 or 7/8 2+2+3.")
    groups = tuple(int(part) for part in found.group(3).split("+")) if found.group(3) else ()
    return Meter(int(found.group(1)), int(found.group(2)), groups)
