"""When each note is expected to sound: the grid and the feel."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Collection, Iterable, Sequence

from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.meter.feel import Feel, expected_ticks
from usagi.core.meter.ticks import QUARTER


def feels_of(solo: Solo, ground: Ground) -> dict[int, Feel]:
    """The feel of every bar: the solo's own where it holds one, else the band's."""
    feels = ground.timeline.feels
    return feels if solo.settings.feel is None else dict.fromkeys(feels, solo.settings.feel.value)


def expected_seconds(
    solo: Solo, ground: Ground, ticks: Iterable[int], onsets: Sequence[int] | None = None
) -> list[float]:
    """Seconds of the recording at which written positions are expected.

    `onsets` are those of the solo, rising, where the caller knows them.
    """
    ticks = list(ticks)
    onsets = sorted(note.tick for note in solo.notes) if onsets is None else onsets
    if len(ticks) * 8 < len(onsets):  # a few places: only what begins within their divided notes tells their grid
        near = {
            onset
            for tick in ticks
            for onset in onsets[bisect_right(onsets, tick - QUARTER) : bisect_left(onsets, tick + QUARTER)]
        }
        onsets = sorted(near)
    moved = expected_ticks(ticks, onsets, ground.timeline.bars, feels_of(solo, ground))
    return [ground.grid.second(tick) for tick in moved]


def onsets_of(notes: Iterable[Note]) -> frozenset[int]:
    """Where notes begin."""
    return frozenset([note.tick for note in notes])


def expected_anew(notes: Iterable[Note], changed: Collection[int]) -> list[Note]:
    """The notes whose time changed onsets may move: those that start or end within a quarter note of one."""
    if not changed:
        return []
    first, last = min(changed) - QUARTER, max(changed) + QUARTER
    around = [note for note in notes if note.tick < last and note.tick + note.ticks > first]
    return [
        note for note in around if any(abs(edge - at) < QUARTER for at in changed for edge in (note.tick, note.end))
    ]
