"""How far a solo is written, bar by bar: the miniature of its strip."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass

from usagi.core.document.solo import Ground, Solo
from usagi.core.document.techniques import Sure


@dataclass(frozen=True, slots=True)
class BarFill:
    """One bar: the share of its ticks that is a note or a rest, and whether it holds a doubt."""

    bar: int
    filled: float
    doubtful: bool


def fill(solo: Solo, ground: Ground) -> list[BarFill]:
    """The bars of the solo in order."""
    bars = ground.timeline.bars
    spans = _apart(
        sorted([(note.tick, note.end) for note in solo.notes] + [(rest.tick, rest.end) for rest in solo.rests])
    )
    starts = [start for start, _ in spans]
    unsure = sorted(note.tick for note in solo.notes if note.sure is not Sure.SURE)
    open_questions = [(q.start, q.end) for q in solo.questions if q.answer is None]
    found = []
    for number in range(solo.settings.first_bar, solo.settings.last_bar + 1):
        bar = bars.number(number)
        if bar is None:
            continue
        first = max(0, bisect_right(starts, bar.tick) - 1)
        last = bisect_left(starts, bar.end)
        covered, begins, ends = 0, bar.tick, bar.end
        for start, end in spans[first:last]:
            here = (end if end < ends else ends) - (start if start > begins else begins)
            covered += here if here > 0 else 0
        doubtful = bisect_left(unsure, bar.tick) < bisect_left(unsure, bar.end) or any(
            start < bar.end and end > bar.tick for start, end in open_questions
        )
        found.append(BarFill(number, covered / bar.ticks, doubtful))
    return found


def _apart(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Sorted spans without what an earlier one covers already."""
    found: list[tuple[int, int]] = []
    reached = None
    for start, end in spans:
        start = start if reached is None else max(start, reached)
        if end > start:
            found.append((start, end))
            reached = end
    return found


@dataclass(frozen=True, slots=True)
class Progress:
    """How far each stage is, 0 to 1. Ground: bars of the solo that the chart reaches; notes: bars written whole."""

    ground: float
    notes: float


def progress(bars: list[BarFill], ground: Ground) -> Progress:
    """The stages' lines, from the fill of the solo's bars."""
    if not bars:
        return Progress(0.0, 0.0)
    reached = ground.timeline.played
    charted = sum(bar.bar in reached or bar.bar == 0 for bar in bars) if reached else 0
    return Progress(charted / len(bars), sum(bar.filled >= 1 for bar in bars) / len(bars))


def next_step(fills: list[BarFill], open_questions: int) -> str:
    """What to do next, in words."""
    full = sum(fill.filled >= 1 for fill in fills)
    if not any(fill.filled for fill in fills):
        return "nothing written"
    if open_questions:
        return f"{open_questions} question{'s' if open_questions > 1 else ''}"
    if full == len(fills):
        return "all written"
    going_on = next(fill.bar for fill in fills if fill.filled < 1)
    return f"go on at bar {going_on}"
