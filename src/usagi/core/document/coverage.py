"""How far a solo is written, bar by bar: the miniature of its strip."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.elements import Note, ReadingChoice, Rest
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import OnBar, OnePhrase, OnNote, OnPhrase
from usagi.core.document.techniques import Sure

_Pairs = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class BarCoverage:
    """One bar: the share of its ticks that is a note or a rest, and whether it holds a doubt."""

    bar: int
    filled: float
    doubtful: bool


def coverage(solo: Solo, ground: Ground) -> list[BarCoverage]:
    """The bars of the solo in order."""
    numbers = range(solo.settings.first_bar, solo.settings.last_bar + 1)
    bars = [bar for bar in map(ground.timeline.bars.number, numbers) if bar is not None]
    sounds: list[Note | Rest] = [*solo.notes, *solo.rests]
    spans = np.array([[element.tick for element in sounds], [element.ticks for element in sounds]], np.int64)
    edges = np.array([(bar.tick, bar.end) for bar in bars], np.int64).reshape(-1, 2)
    covered = _covered(spans, edges)
    unsure = sorted(note.tick for note in solo.notes if note.sure is not Sure.SURE)
    open_questions = [(q.start, q.end) for q in solo.questions if q.answer is None]
    return [
        BarCoverage(
            bar.number,
            ticks / bar.ticks,
            bisect_left(unsure, bar.tick) < bisect_left(unsure, bar.end)
            or any(start < bar.end and end > bar.tick for start, end in open_questions),
        )
        for bar, ticks in zip(bars, covered, strict=True)
    ]


def _covered(spans: _Pairs, edges: _Pairs) -> list[int]:
    """How many ticks between each pair of edges, shape (n, 2), lie in a span or more: starts and lengths, (2, m)."""
    if not spans.size:
        return [0] * len(edges)
    starts, ticks = spans[:, np.argsort(spans[0], kind="stable")]
    ends = np.maximum.accumulate(starts + ticks)
    begins = np.concatenate([starts[:1], np.maximum(starts[1:], ends[:-1])])  # without what an earlier one covers
    some = ends > begins
    begins, ends = begins[some], ends[some]
    before = np.concatenate([[0], np.cumsum(ends - begins)])

    def until(edge: NDArray[np.int64]) -> NDArray[np.int64]:
        begun = np.searchsorted(begins, edge, side="right")
        last = np.maximum(begun - 1, 0)
        return before[begun] - np.where(begun > 0, np.maximum(0, ends[last] - edge), 0)

    return [int(covered) for covered in until(edges[:, 1]) - until(edges[:, 0])]


@dataclass(frozen=True, slots=True)
class Progress:
    """How far each stage is, 0 to 1. Ground: bars of the solo that the chart reaches; notes: bars written whole;
    analysis: phrases of which a reading is picked; phrases: notes that stand in one; teach: phrases with a
    remark, or with a line of the plan that the teacher changed."""

    ground: float
    notes: float
    analysis: float
    phrases: float
    teach: float


def progress(bars: list[BarCoverage], solo: Solo, ground: Ground) -> Progress:
    """The stages' lines, from the fill of the solo's bars and what was picked."""
    picked = {choice.phrase for choice in solo.choices if isinstance(choice, ReadingChoice)}
    read = len(picked) / len(solo.phrases) if solo.phrases else 0.0
    cut, taught = _cut(solo), _taught(solo, ground)
    if not bars:
        return Progress(0.0, 0.0, read, cut, taught)
    reached = ground.timeline.played
    charted = sum(bar.bar in reached or bar.bar == 0 for bar in bars) if reached else 0
    return Progress(charted / len(bars), sum(bar.filled >= 1 for bar in bars) / len(bars), read, cut, taught)


def _cut(solo: Solo) -> float:
    """The share of notes that stand in a phrase."""
    onsets = [note.tick for note in solo.notes]
    inside = sum(bisect_left(onsets, phrase.end) - bisect_left(onsets, phrase.start) for phrase in solo.phrases)
    return inside / len(onsets) if onsets else 0.0


def _taught(solo: Solo, ground: Ground) -> float:
    """The share of phrases with a remark in them, or a line of the plan that the teacher changed."""
    if not solo.phrases:
        return 0.0
    ticks = {note.id: note.tick for note in solo.notes}
    done = {one.what.phrase for one in solo.plan if isinstance(one.what, OnePhrase)}
    for remark in solo.remarks:
        match remark.on:
            case OnPhrase(phrase=phrase):
                done.add(phrase)
                continue
            case OnNote(note=note):
                start = ticks.get(note)
                end = start
            case OnBar(bar=number):
                bar = ground.timeline.bars.number(number)
                start, end = (None, None) if bar is None else (bar.tick, bar.end - 1)
        if start is not None and end is not None:
            done |= {one.id for one in solo.phrases if one.start <= end and start < one.end}
    return sum(one.id in done for one in solo.phrases) / len(solo.phrases)


def next_step(coverages: list[BarCoverage], open_questions: int) -> str:
    """What to do next, in words."""
    full = sum(fill.filled >= 1 for fill in coverages)
    if not any(fill.filled for fill in coverages):
        return "nothing written"
    if open_questions:
        return f"{open_questions} question{'s' if open_questions > 1 else ''}"
    if full == len(coverages):
        return "all written"
    going_on = next(fill.bar for fill in coverages if fill.filled < 1)
    return f"go on at bar {going_on}"
