"""One figure of a table: what was measured, in what unit, against which goal, over which baseline."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Figure:
    """`goal` is the most that is allowed, or the least where `at_least` says so; None where nothing is promised."""

    name: str
    value: float
    unit: str
    goal: float | None = None
    at_least: bool = False
    baseline: str = ""

    @property
    def met(self) -> bool | None:
        if self.goal is None:
            return None
        return self.value >= self.goal if self.at_least else self.value <= self.goal

    def as_json(self) -> dict[str, object]:
        return {
            "name": self.name,
            "value": round(self.value, 4),
            "unit": self.unit,
            "goal": self.goal,
            "met": self.met,
            "baseline": self.baseline,
        }
