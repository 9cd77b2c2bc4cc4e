"""How hard a stretch of a solo is at a tempo, and the two reasons (docs/music.md, Practice).

Four parts between 0 and 1: the fastest four onsets, what the hand has to do in the worst bar, the hardest bend, and the
number of notes. None of them ever falls when it is played faster, nor when a bend is added.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby
from math import floor, inf
from typing import Final

from usagi.core.degrees.words import steps_words
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.teaching import LEVELS
from usagi.core.fingering.hand import HANDS, HandSize, bend_share
from usagi.core.fingering.search import Way, written_way
from usagi.core.fingering.shapes import Shaper
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.bars import bar_name
from usagi.core.playing.timing import expected_seconds

# From where a part counts to where it is full: onsets a second, cost of a bar, share of the hand, notes.
RANGES: Final = {"speed": (3.0, 12.0), "hand": (0.0, 3.0), "bend": (0.0, 1.0), "length": (4.0, 32.0)}
ONSETS: Final = 4
LARGEST, MEAN_OF_THREE = 0.6, 0.4
MOST: Final = 0.999
FELT: Final = 0.05  # a part below it is no reason
REASONS: Final = 2


class Part(StrEnum):
    SPEED = "speed"
    HAND = "hand"
    BEND = "bend"
    LENGTH = "length"


@dataclass(frozen=True, slots=True)
class Difficulty:
    """`value` from 0 to 1, `level` from 1 to 5, each part from 0 to 1, and what makes it so, the hardest first."""

    value: float
    level: int
    parts: dict[Part, float]
    reasons: tuple[str, ...]


def difficulty(
    notes: Sequence[Note],
    solo: Solo,
    ground: Ground,
    speed_permille: int,
    hand: HandSize = HandSize.USUAL,
    shaper: Shaper | None = None,
) -> Difficulty:
    """How hard some notes of a solo are at a speed, as they are written.

    Parameters
    ----------
    notes : of the solo, in time order; none of them is the easiest there is.
    solo, ground : the instrument, and when each note is expected.
    speed_permille : of the recorded tempo; above 0.
    hand : how far and how hard it pushes.
    shaper : of the same settings and hand, to be used again.

    Source : docs/music.md, Practice: D = .6 × the largest part + .4 × the mean of the three largest;
    level = 1 + floor(5 × min(D, .999)).
    """
    ticks = sorted({note.tick for note in notes})
    expected = expected_seconds(solo, ground, ticks)
    seconds = {tick: second * 1_000 / speed_permille for tick, second in zip(ticks, expected, strict=True)}
    # Bends have a part of their own; with them the search could lead the hand elsewhere, and a bar become easier.
    unbent = [note.model_copy(update={"course": ()}) if note.course else note for note in notes]
    way = written_way(unbent, solo.settings, seconds, hand, shaper)
    rate, rate_at = _fastest([seconds[tick] for tick in ticks], ticks)
    cost, bar = _worst_bar(way, ground)
    share, bent = _hardest_bend(notes, solo.settings, hand)
    amounts = {Part.SPEED: rate, Part.HAND: cost, Part.BEND: share, Part.LENGTH: float(len(notes))}
    parts = {part: _cut(amount, *RANGES[part.value]) for part, amount in amounts.items()}
    value = combined(list(parts.values()))
    words = {
        Part.SPEED: f"{rate:.0f} notes a second{_in_bar(ground, rate_at)}",
        Part.HAND: _hand_words(way, bar, ground),
        Part.BEND: "" if bent is None else _bend_words(bent),
        Part.LENGTH: f"{len(notes)} notes",
    }
    order = sorted(parts, key=lambda part: -parts[part])
    reasons = tuple(words[part] for part in order[:REASONS] if parts[part] >= FELT and words[part])
    return Difficulty(value, level_of(value), parts, reasons)


def combined(parts: Sequence[float]) -> float:
    """One number from the parts: mostly the largest, a little of the two next.

    >>> round(combined([1.0, 0.5, 0.0, 0.3]), 3)
    0.84
    """
    largest = sorted(parts, reverse=True)
    return LARGEST * largest[0] + MEAN_OF_THREE * sum(largest[:3]) / 3


def level_of(value: float) -> int:
    """1 to 5.

    >>> level_of(0.0), level_of(0.5), level_of(1.0)
    (1, 3, 5)
    """
    return 1 + floor(LEVELS * min(value, MOST))


def _cut(amount: float, low: float, high: float) -> float:
    return min(1.0, max(0.0, (amount - low) / (high - low)))


def _fastest(seconds: Sequence[float], ticks: Sequence[int]) -> tuple[float, int | None]:
    """Onsets a second over four of them that follow one another, and where they start."""
    count = min(ONSETS, len(seconds))
    if count < 2:
        return 0.0, None
    rates = [
        ((count - 1) / max(1e-6, seconds[i + count - 1] - seconds[i]), ticks[i])
        for i in range(len(seconds) - count + 1)
    ]
    return max(rates, key=lambda one: (one[0], -one[1]))


def _worst_bar(way: Way, ground: Ground) -> tuple[float, int | None]:
    """What the hand is asked for in the bar that asks most of it, and its number."""
    bars = ground.timeline.bars
    by_bar = [
        (sum(cost for _, cost in costs), number)
        for number, costs in groupby(way.costs, key=lambda one: bars.at(one[0]).number)
    ]
    return max(by_bar, key=lambda one: (one[0], -one[1]), default=(0.0, None))


def _hardest_bend(notes: Sequence[Note], settings: SoloSettings, hand: HandSize) -> tuple[float, Note | None]:
    hardest, found = 0.0, None
    for note in notes:
        most = max((quarters for _, quarters in note.course), default=0)
        if most <= 0 or note.fret is None or settings.bottleneck or note.string > len(settings.tuning):
            continue
        share = bend_share(HANDS[hand], settings, note.string, note.fret // HUNDREDTHS, most)
        if share > hardest:
            hardest, found = min(share, inf), note
    return hardest, found


def _in_bar(ground: Ground, tick: int | None) -> str:
    return "" if tick is None else f" in {bar_name(ground.timeline.bars.at(tick).number)}"


def _hand_words(way: Way, bar: int | None, ground: Ground) -> str:
    """What the hand has to do in its worst bar: it moves, or it stretches."""
    if bar is None:
        return ""
    bars = ground.timeline.bars
    place = bar_name(bar)
    shifts = [shift for shift in way.shifts if bars.at(shift.tick).number == bar]
    if len(shifts) > 1:
        return f"the hand moves {len(shifts)} times in {place}"
    if shifts:
        frets = abs(shifts[0].after - shifts[0].before)
        return f"a shift of {frets} fret{'' if frets == 1 else 's'} in {place}"
    return f"strings crossed and stretches in {place}"


def _bend_words(note: Note) -> str:
    most = max(quarters for _, quarters in note.course)
    assert note.fret is not None
    return f"a bend of {steps_words(most)} at fret {note.fret / HUNDREDTHS:g}, string {note.string}"
