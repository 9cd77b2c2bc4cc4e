"""When each note is expected to sound: the grid and the feel."""

from __future__ import annotations

from collections.abc import Iterable

from usagi.core.document.solo import Ground, Solo
from usagi.core.meter.feel import Feel, expected_ticks


def feels_of(solo: Solo, ground: Ground) -> dict[int, Feel]:
    """The feel of every bar: the solo's own where it holds one, else the band's."""
    feels = ground.timeline.feels
    return feels if solo.settings.feel is None else dict.fromkeys(feels, solo.settings.feel.value)


def expected_seconds(solo: Solo, ground: Ground, ticks: Iterable[int]) -> list[float]:
    """Seconds of the recording at which written positions are expected."""
    onsets = [note.tick for note in solo.notes]
    moved = expected_ticks(ticks, onsets, ground.timeline.bars, feels_of(solo, ground))
    return [ground.grid.second(tick) for tick in moved]
