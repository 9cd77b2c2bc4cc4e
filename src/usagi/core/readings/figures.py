"""Patterns: a figure that is shifted by one constant, three times running (docs/music.md, Readings)."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from typing import Final

from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.readings.line import Sound
from usagi.core.readings.reading import Figure, Reading, ReadingKind

SHORTEST, LONGEST = 2, 8
TIMES: Final = 3
MOST: Final = 3
INTERVALS: Final = {2: "thirds", 3: "fourths", 4: "fifths", 5: "sixths", 6: "sevenths", 7: "octaves"}

Shift = Callable[[Sound, Sound], int | None]


def pattern_readings(figure: Figure, scale: frozenset[int] | None) -> list[Reading]:
    """The patterns of a phrase, those that cover most first.

    Parameters
    ----------
    scale : pitch classes of the scale reading, in whose steps thirds and fourths are counted.
    """
    sounds = figure.sounds
    found: list[Reading] = []
    steps = None if scale is None else _steps_in(scale)
    for by, shift in (("cell", _next_string), ("interval", _interval), ("steps", steps)):
        if shift is None:
            continue
        for start, length, times, constant in _runs(sounds, shift, one_string=by == "cell"):
            found.append(_reading(figure, by, start, length, times, constant, steps))
    found.sort(
        key=lambda reading: (-reading.covers, reading.type not in INTERVALS.values(), reading.figure_length or 0)
    )
    single: dict[str, Reading] = {}
    for reading in found:
        single.setdefault(reading.key, reading)
    return list(single.values())[:MOST]


def _runs(sounds: Sequence[Sound], shift: Shift, *, one_string: bool) -> list[tuple[int, int, int, int]]:
    """Start, length, times and constant of every longest run; of lengths that tell the same the shortest."""
    found: list[tuple[int, int, int, int]] = []
    for length in range(SHORTEST, LONGEST + 1):
        i = 0
        while i + TIMES * length <= len(sounds):
            constant = shift(sounds[i], sounds[i + length])
            k = i
            while constant and k + length < len(sounds) and shift(sounds[k], sounds[k + length]) == constant:
                k += 1
            times = (k - i) // length + 1
            figure = sounds[i : i + length]
            right = times >= TIMES and bool(constant)
            if right and one_string:
                right = len({sound.note.string for sound in figure}) == 1
            if right and not one_string:
                right = not _is_plain_run(sounds[i : i + times * length], shift)
            known = any(a <= i and i + times * length <= a + n * t and length % n == 0 for a, n, t, _ in found)
            if right and constant is not None and not known:
                found.append((i, length, times, constant))
                i += times * length
            else:
                i += 1
    return found


def _is_plain_run(sounds: Sequence[Sound], shift: Shift) -> bool:
    """A scale or a chord played straight through: the same step from note to note."""
    return len({shift(a, b) for a, b in itertools.pairwise(sounds)}) == 1


def _interval(one: Sound, other: Sound) -> int | None:
    apart = other.midi - one.midi
    return int(apart) if apart == int(apart) else None


def _next_string(one: Sound, other: Sound) -> int | None:
    """The string of the same fret, one further; None where it is another fret."""
    apart = other.note.string - one.note.string
    return apart if abs(apart) == 1 and one.note.fret == other.note.fret and one.note.fret is not None else None


def _steps_in(scale: frozenset[int]) -> Shift:
    order = sorted(scale)

    def place(sound: Sound) -> int | None:
        if sound.midi % 1 or int(sound.midi) % 12 not in scale:
            return None
        return len(order) * (int(sound.midi) // 12) + order.index(int(sound.midi) % 12)

    def shift(one: Sound, other: Sound) -> int | None:
        a, b = place(one), place(other)
        return None if a is None or b is None else b - a

    return shift


def _reading(
    figure: Figure, by: str, start: int, length: int, times: int, constant: int, steps: Shift | None
) -> Reading:
    sounds = figure.sounds
    own = sounds[start : start + length * times]
    left = tuple(sound.note.id for sound in (*sounds[:start], *sounds[start + length * times :]))
    covered = sum(sound.note.ticks for sound in own)
    cell: tuple[int, ...] = ()
    kind, says = "shifted", f"{length} notes by {constant}"
    if by == "cell":
        cell = tuple((sound.note.fret or 0) // HUNDREDTHS for sound in own[:length])
        kind, says = "per-string cell", "-".join(map(str, cell))
    elif by == "steps":
        inner = steps(own[0], own[1]) if steps is not None and length == 2 else None
        if inner is not None and abs(inner) in INTERVALS:
            kind = INTERVALS[abs(inner)]
        says = f"{length} notes by {constant} scale steps" if kind == "shifted" else f"by {constant} scale steps"
    return Reading(
        ReadingKind.PATTERN, f"pattern {kind} {says}", "", kind, len(own), len(sounds), left,
        tuple(sound.degree for sound in own[:length]), float(2 * covered - figure.ticks), figure_length=length,
        interval=constant if by == "interval" else None, scale_steps=constant if by == "steps" else None, cell=cell,
    )  # fmt: skip
