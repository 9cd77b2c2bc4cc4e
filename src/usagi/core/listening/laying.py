"""Heard notes laid on the written grid: what starts together takes one step, and lasts as long as it is heard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.document.solo import Ground
from usagi.core.document.techniques import LONGEST
from usagi.core.listening.heard import HeardNote
from usagi.core.meter.feel import Feel
from usagi.core.meter.quantise import quantise

TOGETHER_S: Final = 0.035  # between two strings of one stroke
STROKE_S: Final = 0.13  # a whole stroke at most
SOUNDS_ON_S: Final = 0.12  # into the next note: it rings
ENOUGH: Final = 0.55  # of the way to the next note: what is heard as long lasts until it


@dataclass(frozen=True)
class Laid:
    """Where a heard note is written; ticks."""

    tick: int
    ticks: int


def together(notes: Sequence[HeardNote]) -> list[list[int]]:
    """Indices of notes that are struck together, in order of onset."""
    groups: list[list[int]] = []
    for i in sorted(range(len(notes)), key=lambda i: notes[i].onset_s):
        last = groups[-1] if groups else []
        if (
            last
            and notes[i].onset_s - notes[last[-1]].onset_s < TOGETHER_S
            and notes[i].onset_s - notes[last[0]].onset_s < STROKE_S
            and all(notes[i].midi != notes[j].midi for j in last)
        ):
            last.append(i)
        else:
            groups.append([i])
    return groups


def laid(notes: Sequence[HeardNote], ground: Ground, feels: Mapping[int, Feel]) -> list[Laid]:
    """A place on the grid for each note, in their order.

    A note lasts until the next begins when it is heard for more than half of the way, else to the nearest step of
    its pulse; one that sounds on under the next keeps its own end.

    Parameters
    ----------
    notes : seconds of the recording.
    ground : its grid and bars.
    feels : by bar number.
    """
    groups = together(notes)
    bars, grid = ground.timeline.bars, ground.grid
    starts = quantise([grid.tick(notes[group[0]].onset_s) for group in groups], bars, feels)
    found = [Laid(0, 1)] * len(notes)
    for i, (group, tick) in enumerate(zip(groups, starts, strict=True)):
        following = starts[i + 1] if i + 1 < len(starts) else None
        next_s = notes[groups[i + 1][0]].onset_s if i + 1 < len(groups) else None
        for index in group:
            found[index] = Laid(tick, min(LONGEST, _length(notes[index], tick, following, next_s, ground)))
    return found


def _length(note: HeardNote, tick: int, following: int | None, next_s: float | None, ground: Ground) -> int:
    bar = ground.timeline.bars.at(tick)
    pulse = bar.pulse_at(tick)[2]
    step = pulse // (3 if bar.meter.compound else 4)
    heard = ground.grid.tick(note.end_s) - ground.grid.tick(note.onset_s)
    own = max(1, round(heard / step)) * step
    if following is None or next_s is None:
        return own
    if note.end_s - next_s > SOUNDS_ON_S:
        return max(own, following - tick)
    if note.end_s - note.onset_s > ENOUGH * (next_s - note.onset_s) and following - tick <= 2 * pulse:
        return following - tick
    return min(own, following - tick)
