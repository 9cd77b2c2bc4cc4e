"""The pitch of a note as a sounding curve, bends and vibrato together, and read back from one.

MIDI writes such a curve as pitch bend, JAMS as a pitch contour.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from itertools import pairwise
from math import pi, sin
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.elements import Note
from usagi.core.document.techniques import DEEPEST_DIP, HIGHEST_BEND, Vibrato

STEP_S: Final = 0.01  # between two samples
CENTS: Final = 50.0  # of a quarter tone
TOLERANCE: Final = 14.0  # cents: how far a curve may lie beside the course that stands for it
SHAKES: Final = 1.5  # turns that make a vibrato
RATES: Final = (2.5, 11.0)  # turns a second
NARROWEST: Final = 12.0  # cents, from lowest to highest
WINDOW_S: Final = 0.4  # a vibrato is looked for against the mean of so long
MOST_POINTS: Final = 64
MOST_SAMPLES: Final = 6_000  # a minute of one note

Floats = NDArray[np.float64]


def sounding_curve(note: Note, onset_s: float, end_s: float, step_s: float = STEP_S) -> list[tuple[float, float]]:
    """`(seconds from the onset, cents from the fret)` of a note: its course with its vibrato on it.

    Parameters
    ----------
    note : with its course and vibrato in ticks.
    onset_s, end_s : when it sounds; ticks are spread evenly between.
    step_s : between two samples; where the course turns there is one, too.

    Returns : one point for a note that stays; else samples to its end.
    """
    length = max(end_s - onset_s, step_s)
    per_tick = length / note.ticks
    points = [(at * per_tick, quarters * CENTS) for at, quarters in note.course] or [(0.0, 0.0)]
    if len(points) == 1 and note.vibrato is None:
        return [(0.0, points[0][1])]
    times = {at for at, _ in points}
    moving = [(a[0], b[0]) for a, b in pairwise(points) if a[1] != b[1]]
    begin = length if note.vibrato is None else note.vibrato.start * per_tick
    count = min(int(length / step_s), MOST_SAMPLES)
    times |= {i * step_s for i in range(count) if i * step_s >= begin or any(a < i * step_s < b for a, b in moving)}
    return [(at, round(_level(points, at) + _shake(note.vibrato, at - begin), 3)) for at in sorted(times)]


def _level(points: Sequence[tuple[float, float]], at: float) -> float:
    i = bisect_right(points, (at, float("inf"))) - 1
    if i + 1 >= len(points):
        return points[-1][1]
    (start, low), (end, high) = points[max(i, 0)], points[max(i, 0) + 1]
    return low + (high - low) * (at - start) / (end - start)


def _shake(vibrato: Vibrato | None, at: float) -> float:
    if vibrato is None or at <= 0:
        return 0.0
    return vibrato.width_cents / 2 * sin(2 * pi * vibrato.rate_hz * at)


def read_curve(
    samples: Sequence[tuple[float, float]], length_s: float, to_ticks: Callable[[float], int], ticks: int
) -> tuple[tuple[tuple[int, int], ...], Vibrato | None]:
    """The pitch course and the vibrato that a curve means.

    Parameters
    ----------
    samples : `(seconds from the onset, cents from the note)`, rising; a level holds until the next.
    length_s : how long the note sounds.
    to_ticks : from seconds after the onset to ticks after it.
    ticks : the note's length.

    Returns : a course of quarter tones (empty when the note stays where it is), and the vibrato or None.
    """
    if not samples or (all(abs(cents) < CENTS / 2 for _, cents in samples) and len(samples) < 6):
        return (), None
    vibrato, plain = _unshaken(samples, length_s)
    turns = _simplified(plain)
    course: list[tuple[int, int]] = []
    for at, cents in turns:
        quarters = max(DEEPEST_DIP, min(HIGHEST_BEND, round(cents / CENTS)))
        tick = min(max(to_ticks(at), 0), ticks)
        if not course:
            course.append((0, quarters))
        elif tick > course[-1][0]:
            course.append((tick, quarters))
        else:
            course[-1] = (course[-1][0], quarters)
    course = _without_plateaus(course)[:MOST_POINTS]
    if vibrato is None:
        return (tuple(course) if any(q for _, q in course) else ()), None
    start, width, rate = vibrato
    found = Vibrato(
        start=min(max(to_ticks(start), 0), ticks),
        width_cents=min(max(round(width, 1), 5.0), 300.0),
        rate_hz=min(max(round(rate, 2), 1.0), 12.0),
    )
    return (tuple(course) if any(q for _, q in course) else ()), found


def _unshaken(
    samples: Sequence[tuple[float, float]], length_s: float
) -> tuple[tuple[float, float, float] | None, list[tuple[float, float]]]:
    """`(start, width in cents, rate in Hz)` of a vibrato and the curve without it; the curve as it is without one."""
    as_it_is = list(samples)
    count = min(int(length_s / STEP_S) + 1, MOST_SAMPLES)
    if count < 8 or len(samples) < 6:
        return None, as_it_is
    times = np.arange(count) * STEP_S
    held = np.array([cents for _, cents in samples])
    index = np.clip(np.searchsorted([at for at, _ in samples], times, side="right") - 1, 0, len(held) - 1)
    curve = held[index]
    away = curve - _mean(curve, round(WINDOW_S / STEP_S))
    turns = np.flatnonzero(np.sign(away[:-1]) * np.sign(away[1:]) < 0)
    runs = _steady(turns, away)
    if runs is None:
        return None, as_it_is
    first, last = runs
    shaken = away[first : last + 1]
    width = float(np.percentile(shaken, 97) - np.percentile(shaken, 3))
    crossings = turns[(turns >= first) & (turns <= last)]
    rate = (len(crossings) - 1) / 2 / max((crossings[-1] - crossings[0]) * STEP_S, STEP_S)
    start = max(0.0, times[first] - 0.5 / rate if times[first] > 0.5 / rate else 0.0)
    cut = start
    plain = [(at, cents) for at, cents in as_it_is if at < cut]
    level = float(np.median(curve[int(cut / STEP_S) :])) if int(cut / STEP_S) < len(curve) else float(curve[-1])
    after = curve - away
    later = [(float(times[i]), float(after[i])) for i in range(int(cut / STEP_S) + 1, count, 5)]
    steady = [(at, cents) for at, cents in later if abs(cents - level) > CENTS] or [(cut, level)]
    return (start, width, rate), [*plain, *steady] if plain else steady


def _mean(curve: Floats, window: int) -> Floats:
    padded = np.pad(curve, (window // 2, window - window // 2 - 1), mode="edge")
    return np.asarray(np.convolve(padded, np.ones(window) / window, mode="valid"), np.float64)


def _steady(turns: NDArray[np.intp], away: Floats) -> tuple[int, int] | None:
    """The longest run of crossings that come as regularly as a vibrato's, wide enough; None when there is none."""
    best: tuple[int, int] | None = None
    begin = 0
    gaps = np.diff(turns) * STEP_S

    def fits(i: int) -> bool:
        wide = float(np.ptp(away[turns[i] : turns[i + 1] + 1])) * 2 >= NARROWEST
        return 0.5 / RATES[1] <= gaps[i] <= 0.5 / RATES[0] and wide

    for i in range(len(gaps) + 1):
        if i < len(gaps) and fits(i):
            continue
        if i - begin >= 2 * SHAKES and (best is None or turns[i] - turns[begin] > best[1] - best[0]):
            best = int(turns[begin]), int(turns[i])
        begin = i + 1
    return best


def _simplified(samples: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """The fewest samples between which the curve is straight enough (Douglas and Peucker, Cartographica 1973)."""
    if len(samples) < 3:
        return list(samples)
    times = np.array([at for at, _ in samples])
    cents = np.array([level for _, level in samples])
    kept = {0, len(samples) - 1}
    spans = [(0, len(samples) - 1)]
    while spans and len(kept) < 4 * MOST_POINTS:
        first, last = spans.pop()
        if last - first < 2:
            continue
        inner = np.arange(first + 1, last)
        share = (times[inner] - times[first]) / (times[last] - times[first])
        line = cents[first] + (cents[last] - cents[first]) * share
        off = np.abs(cents[inner] - line)
        worst = int(off.argmax())
        if off[worst] > TOLERANCE:
            middle = first + 1 + worst
            kept.add(middle)
            spans += [(first, middle), (middle, last)]
    return [samples[i] for i in sorted(kept)]


def _without_plateaus(course: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """A course without points that say nothing: in the middle of a level, and on it to the end."""
    found: list[tuple[int, int]] = []
    for i, (at, quarters) in enumerate(course):
        middle = 0 < i < len(course) - 1 and course[i - 1][1] == quarters == course[i + 1][1]
        if not middle:
            found.append((at, quarters))
    while len(found) > 1 and found[-1][1] == found[-2][1]:
        found.pop()
    return found
