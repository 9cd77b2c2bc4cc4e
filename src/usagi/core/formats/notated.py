"""Written rhythm: bars as voices, voices as note values with dots and tuplets, tied where one value does not do.

What sounds is cut at bar lines and, where it starts off a pulse, at the end of that pulse; the ticks of every piece are
kept exactly, also where no value names them.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from usagi.core.document.elements import Note, Rest
from usagi.core.document.solo import Solo
from usagi.core.meter.bars import Bar, Bars
from usagi.core.meter.ticks import QUARTER, WHOLE

# Names as MusicXML has them, the longest first.
NAMES: Final = ("whole", "half", "quarter", "eighth", "16th", "32nd", "64th", "128th")
STRAIGHT: Final = (1, 1)
SIMPLE_TUPLETS: Final = ((3, 2), (5, 4), (7, 4), (9, 8))
COMPOUND_TUPLETS: Final = ((5, 3), (7, 6))
FINEST: Final = 8  # parts of a tuplet's note that still belong to it
GRID: Final = QUARTER // 32
_MOST_DOTS: Final = 2


@dataclass(frozen=True, slots=True)
class Written:
    """One value: `[tick, tick + ticks)`, its name and dots, its tuplet `(so many, in the time of so many)`."""

    tick: int
    ticks: int
    name: str
    dots: int
    ratio: tuple[int, int] = STRAIGHT
    opens: bool = False  # the first of its tuplet, the last of it
    closes: bool = False


@dataclass(frozen=True, slots=True)
class Struck:
    """Notes of one tick and one length."""

    tick: int
    end: int
    notes: tuple[Note, ...]


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a bar in one voice: notes, a rest, or (neither) nothing written."""

    written: Written
    struck: Struck | None
    rest: bool = False

    @property
    def first(self) -> bool:
        return self.struck is None or self.struck.tick == self.written.tick

    @property
    def last(self) -> bool:
        return self.struck is None or self.struck.end == self.written.tick + self.written.ticks


def bars_of_solo(solo: Solo, bars: Bars) -> tuple[int, int]:
    """The first and the last bar of a solo, with those in which it has notes outside its own."""
    numbers = [bars.at(tick).number for note in solo.notes for tick in (note.tick, note.end - 1)]
    return min([solo.settings.first_bar, *numbers]), max([solo.settings.last_bar, *numbers])


def voices_of(notes: Iterable[Note]) -> list[list[Struck]]:
    """What is struck, laid in as few voices as keep it from overlapping; the first holds as much as it can."""
    groups: dict[tuple[int, int], list[Note]] = {}
    for note in notes:
        groups.setdefault((note.tick, note.end), []).append(note)
    voices: list[list[Struck]] = []
    for (tick, end), together in sorted(groups.items()):
        struck = Struck(tick, end, tuple(sorted(together, key=lambda note: -note.string)))
        free = next((voice for voice in voices if voice[-1].end <= tick), None)
        if free is None:
            voices.append([struck])
        else:
            free.append(struck)
    return voices or [[]]


def bar_pieces(bar: Bar, voice: Sequence[Struck], rests: Sequence[Rest]) -> list[Piece]:
    """A bar of one voice, gapless: what sounds in it, its rests, and what is not written."""
    spans: list[tuple[int, int, Struck | None, bool]] = []
    at = bar.tick
    for struck in voice:
        if struck.end <= bar.tick or struck.tick >= bar.end:
            continue
        start = max(struck.tick, bar.tick)
        spans += _silence(at, start, rests)
        at = min(struck.end, bar.end)
        spans.append((start, at, struck, False))
    spans += _silence(at, bar.end, rests)
    edges = sorted({start for start, *_ in spans} | {bar.end})
    found: list[Piece] = []
    for start, end, of, rest in spans:
        found += [Piece(value, of, rest) for value in values_of(start, end, bar, edges)]
    return _tupleted(found, bar)


def _silence(start: int, end: int, rests: Sequence[Rest]) -> Iterator[tuple[int, int, Struck | None, bool]]:
    at = start
    for rest in rests:
        if rest.end <= at or rest.tick >= end:
            continue
        begin, stop = max(rest.tick, at), min(rest.end, end)
        if begin > at:
            yield at, begin, None, False
        yield begin, stop, None, True
        at = stop
    if at < end:
        yield at, end, None, False


def values_of(start: int, end: int, bar: Bar, edges: Sequence[int]) -> list[Written]:
    """A stretch of a bar as values.

    Parameters
    ----------
    start, end : ticks of the stretch, within the bar.
    bar : its bar.
    edges : every tick of the bar's voice at which something starts, and its end.
    """
    found: list[Written] = []
    at = start
    while at < end:
        _, pulse, length = bar.pulse_at(at)
        ratio = _ratio(pulse, length, edges, bar)
        if ratio == STRAIGHT and at == pulse and end >= pulse + length:
            stop = _whole_pulses(at, end, edges, bar)
        else:
            stop = min(end, pulse + length)
        found += _greedy(at, stop, ratio)
        at = stop
    return found


def _whole_pulses(start: int, end: int, edges: Sequence[int], bar: Bar) -> int:
    """The end of the straight pulses from here; a part of a pulse at the end counts when it is straight."""
    at = start
    while at < end:
        _, pulse, length = bar.pulse_at(at)
        if _ratio(pulse, length, edges, bar) != STRAIGHT or pulse + length > end:
            break
        at = pulse + length
    return at


def _ratio(pulse: int, length: int, edges: Sequence[int], bar: Bar) -> tuple[int, int]:
    inside = tuple([edge - pulse for edge in edges if pulse < edge < pulse + length])
    return _ratio_of(inside, length, bar.meter.compound) if inside else STRAIGHT


@lru_cache(maxsize=4_096)
def _ratio_of(inside: tuple[int, ...], length: int, compound: bool) -> tuple[int, int]:
    if all(edge % GRID == 0 for edge in inside):
        return STRAIGHT
    for count, space in COMPOUND_TUPLETS if compound else SIMPLE_TUPLETS:
        unit = length // (count * FINEST)
        if length % (count * FINEST) == 0 and all(edge % unit == 0 for edge in inside):
            return count, space
    return STRAIGHT


@lru_cache(maxsize=64)
def _table(ratio: tuple[int, int]) -> dict[int, tuple[str, int]]:
    """Ticks of every value in a tuplet, the fewest dots first."""
    found: dict[int, tuple[str, int]] = {}
    for dots in range(_MOST_DOTS + 1):
        for i, name in enumerate(NAMES):
            plain = WHOLE // 2**i
            whole = plain * (2 ** (dots + 1) - 1) * ratio[1]
            if whole % (2**dots * ratio[0]) == 0:
                found.setdefault(whole // (2**dots * ratio[0]), (name, dots))
    return found


@lru_cache(maxsize=8_192)
def _cut(ticks: int, ratio: tuple[int, int]) -> tuple[tuple[int, str, int], ...]:
    """A length as `(ticks, name, dots)`, the longest first; what no value names takes the nearest shorter name."""
    table = _table(ratio)
    found: list[tuple[int, str, int]] = []
    left = ticks
    while left:
        if left in table:
            found.append((left, *table[left]))
            break
        plain = [long for long, (_, dots) in table.items() if long < left and dots < _MOST_DOTS]
        if not plain or left < GRID * 2:
            shortest = min(table, key=lambda long: abs(long - left))
            if found:  # a remainder that nobody writes goes with the value before
                long, name, dots = found.pop()
                found.append((long + left, name, dots))
            else:
                found.append((left, table[shortest][0], 0))
            break
        long = max(plain)
        found.append((long, *table[long]))
        left -= long
    return tuple(found)


def _greedy(start: int, end: int, ratio: tuple[int, int]) -> Iterator[Written]:
    at = start
    for ticks, name, dots in _cut(end - start, ratio):
        yield Written(at, ticks, name, dots, ratio)
        at += ticks


def _tupleted(pieces: list[Piece], bar: Bar) -> list[Piece]:
    """The first and the last value of every pulse with a tuplet are marked as such."""
    found = list(pieces)
    for i, piece in enumerate(pieces):
        value = piece.written
        if value.ratio == STRAIGHT:
            continue
        _, pulse, length = bar.pulse_at(value.tick)
        opens = value.tick == pulse
        closes = value.tick + value.ticks == pulse + length
        own = Written(value.tick, value.ticks, value.name, value.dots, value.ratio, opens, closes)
        found[i] = Piece(own, piece.struck, piece.rest)
    return found
