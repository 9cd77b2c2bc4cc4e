"""When the notes of a bar come: by a line of counts, by a line of lengths, or as a person says."""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import StrEnum
from fractions import Fraction
from typing import Final

from usagi.core.formats.tab_reading import Placed, System, TabUnreadable, by_count
from usagi.core.formats.tab_signs import Cell, read_cells
from usagi.core.meter.meters import Meter
from usagi.core.meter.ticks import QUARTER

NEAR_COLUMNS: Final = 2  # a sign of the line of lengths may stand so far beside its note


class Lengths(StrEnum):
    """Note lengths for a tablature that gives none: by its spacing, or all alike."""

    SPACING = "spacing"
    QUARTERS = "quarters"
    EIGHTHS = "eighths"
    TRIPLETS = "triplets"
    SIXTEENTHS = "sixteenths"


STEPS: Final = {
    Lengths.QUARTERS: QUARTER,
    Lengths.EIGHTHS: QUARTER // 2,
    Lengths.TRIPLETS: QUARTER // 3,
    Lengths.SIXTEENTHS: QUARTER // 4,
}
LETTERS: Final = {
    "W": Fraction(4),
    "H": Fraction(2),
    "Q": Fraction(1),
    "E": Fraction(1, 2),
    "S": Fraction(1, 4),
    "T": Fraction(1, 8),
}


def on_slots(system: System, slots: list[tuple[int, int, bool]], end: int, notes: int) -> list[Placed] | None:
    """Notes at a full line of counts; None when a count stands within a note."""
    try:
        placed = by_count(system, slots, end)
    except TabUnreadable:
        return None
    return placed if len(placed) == notes else None


def onsets_in(lines: Sequence[str], start: int, end: int) -> list[tuple[int, int, Cell]]:
    found: list[tuple[int, int, Cell]] = []
    for string, line in enumerate(lines, start=1):
        found += [(start + at, string, cell) for at, cell in read_cells(line[start:end])]
    return sorted(found, key=lambda one: (one[0], one[1]))


def by_letters(
    onsets: Sequence[tuple[int, int, Cell]], letters: str, start: int, end: int
) -> tuple[list[Placed], int] | None:
    """Notes under a line of lengths, each letter at its note (or at a rest), and how long all are together."""
    signs = [(m.start(), m.group()) for m in re.finditer(r"[WHQEST]\.?3?", letters) if start - 1 <= m.start() < end]
    columns = sorted({column for column, _, _ in onsets})
    if not signs or len(signs) < len(columns):
        return None
    at: dict[int, int] = {}
    tick = 0
    for place, sign in signs:
        free = [column for column in columns if column not in at]
        near = min(free, key=lambda column: abs(column - place), default=None)
        if near is not None and abs(near - place) <= NEAR_COLUMNS:
            at[near] = tick
        length = LETTERS[sign[0]] * QUARTER
        if "." in sign:
            length = length * 3 / 2
        if sign.endswith("3"):
            length = length * 2 / 3
        tick += int(length)
    if len(at) < len(columns):
        return None
    return [Placed(at[column], string, cell, True) for column, string, cell in onsets], tick


def counted_meter(counts: str | None, start: int, end: int) -> Meter | None:
    """The meter that a line of counts tells: as many quarters as its highest number."""
    if counts is None:
        return None
    numbers = [int(n) for n in re.findall(r"\d+", counts[start:end])]
    top = max(numbers, default=0)
    return Meter(top, 8 if top in (6, 9, 12) else 4) if 2 <= top <= 12 else None


def loosely_counted(lines: Sequence[str], counts: str, start: int, end: int, meter: Meter) -> list[Placed]:
    """Notes at a line of counts with gaps, such as `1 & 2   3 & 4`; + means &."""
    words = [(m.start(), m.group()) for m in re.finditer(r"\d+|[&+ea]", counts) if start - 1 <= m.start() < end]
    beat, marks = 0, []
    for place, word in words:
        if word.isdecimal():
            beat = int(word)
            marks.append((place, (beat - 1) * meter.beat_ticks))
        elif beat:
            part = {"e": 1, "&": 2, "+": 2, "a": 3}[word]
            marks.append((place, (beat - 1) * meter.beat_ticks + meter.beat_ticks * part // 4))
    rising = [tick for _, tick in marks]
    if len(marks) < 2 or rising != sorted(set(rising)) or rising[-1] >= meter.bar_ticks:
        return []
    found = []
    for column, string, cell in onsets_in(lines, start, end):
        tick = _between_marks(marks, column)
        if tick >= meter.bar_ticks:
            return []
        found.append(Placed(tick, string, cell, True))
    return found


def _between_marks(marks: Sequence[tuple[int, int]], column: int) -> int:
    """The tick of a column: that of the mark it stands at, else in proportion between two."""
    near = min(marks, key=lambda mark: abs(mark[0] - column))
    if abs(near[0] - column) <= 1:
        return near[1]
    before = [mark for mark in marks if mark[0] < column]
    after = [mark for mark in marks if mark[0] > column]
    if not before:
        return after[0][1]
    if not after:
        return before[-1][1]
    (a, low), (b, high) = before[-1], after[0]
    return low + (high - low) * (column - a) // (b - a)
