"""Text tablature read into notes: its own count line tells their times, else the spacing does."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.writing import NewId, written
from usagi.core.errors import UsagiError
from usagi.core.formats.tab_signs import Cell, SignUnreadable, read_cells
from usagi.core.formats.text_tab import pulse_words, signs_of, tab_pulses
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.bars import Bar, Bars
from usagi.core.meter.counting import COMPOUND_PARTS, SIMPLE_PARTS, School
from usagi.core.meter.quantise import quantise
from usagi.core.meter.ticks import QUARTER

FEWEST_LINES = 3  # of strings, one under another: fewer are a rule or a frame
OFF_GRID = "~"
NEAR = 2_520  # ticks, a sixteenth: how far a note may stand from its step in a text

_STRING_LINE = re.compile(r"\s*([A-Ga-g][#b♯♭]?\d?|[1-8])?\s*\|(?=.*-)")
_NUMBERS = re.compile(r"\s*\d+(\s+\d+)*\s*")


class TabUnreadable(UsagiError):
    """A text that is no tablature of this guitar, or that holds what is no sign."""

    code = "tab-unreadable"


@dataclass(frozen=True)
class TabRead:
    """Notes in order, the bars that they came from, and what the reader should look at."""

    notes: tuple[Note, ...]
    bars: tuple[Bar, ...]
    messages: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Placed:
    """A note where its text stands; `exact` unless the count line calls it off the grid."""

    tick: int
    string: int
    cell: Cell
    exact: bool


@dataclass(frozen=True)
class System:
    """Lines of strings from the highest on, and the lines above them down from a blank one."""

    number: int
    first_line: int  # of the text, from 1
    strings: list[str]
    above: list[str]

    def __str__(self) -> str:
        return f"System {self.number} (from line {self.first_line})"

    @property
    def bar_lines(self) -> list[int]:
        return [at for at, sign in enumerate(self.strings[0]) if sign == "|"]

    @property
    def stretches(self) -> list[tuple[int, int]]:
        """Columns of the bars: from after a bar line to before the next."""
        lines = [*self.bar_lines, len(self.strings[0])]
        return [(start + 1, end) for start, end in pairwise(lines) if end - start > 1]


def read_tab(text: str, settings: SoloSettings, bars: Bars, new_id: NewId, *, from_bar: int | None = None) -> TabRead:
    """The notes of a tablature, laid from `from_bar` on, else at the bars that it names, else from the solo's first.

    A note lasts until the next one, on whatever string, a bar at most; what rings until the next on its own.

    Parameters
    ----------
    text : lines of strings with | between the bars, systems apart by blank lines.
    settings : of the solo: how many strings, their tuning.
    bars : of the ground.
    new_id : gives the ids of the notes.
    from_bar : number of the first bar.

    Raises : TabUnreadable, with the line.
    """
    systems = _systems(text)
    if not systems:
        raise TabUnreadable("There is no tablature in this text: one line for each string, with | between the bars.")
    placed: list[Placed] = []
    found: list[tuple[Bar, bool]] = []  # whether it was counted
    number = from_bar
    for system in systems:
        _check_lines(system, len(settings.tuning))
        named = named_bars(system) if from_bar is None else []
        number = named[0] if named else settings.first_bar if number is None else number
        for start, end in system.stretches:
            bar = bars.number(number)
            if bar is None:
                first, last = bars.bars[0].number, bars.bars[-1].number
                raise TabUnreadable(f"{system} reaches bar {number}; the recording has bars {first} to {last}.")
            slots = slots_of(system, start, end, bar)
            notes = by_spacing(system, start, end, bar, bars) if slots is None else by_count(system, slots, end)
            if notes:
                found.append((bar, slots is not None))
            placed += notes
            number += 1
    if not placed:
        raise TabUnreadable("This tablature has no notes.")
    messages = _messages(systems[0], settings, placed, found)
    return TabRead(tuple(with_lengths(placed, bars, new_id)), tuple(bar for bar, _ in found), tuple(messages))


def with_tab(solo: Solo, read: TabRead, new_id: NewId) -> Solo:
    """The solo with the notes of a tablature in place of what its bars hold.

    What stands there already as the text says it stays as it is, with all that no text holds.
    """
    signs, found_signs = signs_of(solo.notes), signs_of(read.notes)
    there: dict[tuple[int, str], list[Note]] = {}
    outside = []
    for note in solo.notes:
        if any(bar.tick <= note.tick < bar.end for bar in read.bars):
            there.setdefault((note.string, signs[note.id]), []).append(note)
        else:
            outside.append(note)
    notes = []
    for note in read.notes:
        same = there.get((note.string, found_signs[note.id]), [])
        kept = min(same, key=lambda one: abs(one.tick - note.tick), default=None)
        if kept is not None and abs(kept.tick - note.tick) <= NEAR:
            same.remove(kept)
            notes.append(kept)
        else:
            notes.append(note)
    return written(solo.model_copy(update={"notes": tuple(outside)}), notes, new_id)


def _messages(
    first: System, settings: SoloSettings, placed: list[Placed], found: list[tuple[Bar, bool]]
) -> Iterator[str]:
    yield f"{len(placed)} note{'s' if len(placed) > 1 else ''} in {_bars_words([bar for bar, _ in found])}."
    spaced = [bar for bar, counted in found if not counted]
    if spaced:
        yield f"{_bars_words(spaced).capitalize()} had no count line: check their times, read from the spacing."
    loose = sum(not one.exact for one in placed)
    if loose:
        yield f"{loose} lay off the grid and stand{'s' if loose == 1 else ''} on the nearest step."
    names = [named.group(1) for line in first.strings if (named := _STRING_LINE.match(line)) and named.group(1)]
    own = [str(name) for name in tuning_of(settings.tuning).names]
    if len(names) == len(own) and not any(name.isdigit() for name in names):
        theirs = [name.rstrip("0123456789").replace("♯", "#").replace("♭", "b").capitalize() for name in names]
        if theirs != own:
            yield f"It is written for {' '.join(reversed(theirs))}; the frets stand as they are."


def _bars_words(bars: Sequence[Bar]) -> str:
    first, last = bars[0].number, bars[-1].number
    return f"bar {first}" if first == last else f"bars {first} to {last}"


def _systems(text: str) -> list[System]:
    lines = [line.expandtabs().rstrip() for line in text.splitlines()]
    found: list[System] = []
    at = 0
    while at < len(lines):
        end = at
        while end < len(lines) and _STRING_LINE.match(lines[end]):
            end += 1
        if end - at >= FEWEST_LINES:
            top = at
            while top > 0 and lines[top - 1] and not _STRING_LINE.match(lines[top - 1]):
                top -= 1
            found.append(System(len(found) + 1, at + 1, lines[at:end], lines[top:at]))
        at = max(end, at + 1)
    return found


def _check_lines(system: System, strings: int) -> None:
    if len(system.strings) != strings:
        raise TabUnreadable(f"{system} has {len(system.strings)} lines; this guitar has {strings} strings.")
    for i, line in enumerate(system.strings):
        if [at for at, sign in enumerate(line) if sign == "|"] != system.bar_lines:
            raise TabUnreadable(
                f"Line {system.first_line + i}: its bar lines do not stand under those of line {system.first_line}."
            )


def named_bars(system: System) -> list[int]:
    """The bar numbers above a system, when a line has just these."""
    bars = len(system.stretches)
    for line in system.above:
        if _NUMBERS.fullmatch(line):
            numbers = [int(word) for word in line.split()]
            if numbers == list(range(numbers[0], numbers[0] + bars)):
                return numbers
    return []


def slots_of(system: System, start: int, end: int, bar: Bar) -> list[tuple[int, int, bool]] | None:
    """`(column, tick, on the grid)` of each slot that the count line names in a bar, or None when it names none."""
    if not system.above:
        return None
    words = [(found.start(), found.group()) for found in re.finditer(r"\S+", system.above[-1])
             if start <= found.start() < end]  # fmt: skip
    for school in School:
        ticks = _ticks_of(tuple(word.rstrip(OFF_GRID) for _, word in words), bar, school)
        if ticks:
            exact = [word == OFF_GRID or not word.endswith(OFF_GRID) for _, word in words]
            columns = [start, *(at for at, _ in words[1:])]  # what stands before the first word belongs to it
            return list(zip(columns, ticks, exact, strict=True))
    return None


@lru_cache(maxsize=256)
def _ticks_of(words: tuple[str, ...], bar: Bar, school: School) -> tuple[int, ...]:
    """The tick of every counting word of a whole bar; empty when they do not count it."""
    pulses = tab_pulses(bar)
    grids = COMPOUND_PARTS if bar.meter.compound else SIMPLE_PARTS

    def counted(at: int, pulse: int) -> tuple[int, ...] | None:
        if pulse == len(pulses):
            return () if at == len(words) else None
        beat, tick, ticks = pulses[pulse]
        for parts in grids:
            expected = [word.rstrip(OFF_GRID) for word in pulse_words(bar.meter, beat, parts, school)]
            if list(words[at : at + parts]) == expected:
                rest = counted(at + parts, pulse + 1)
                if rest is not None:
                    return (*(tick + ticks * slot // parts for slot in range(parts)), *rest)
        return None

    return counted(0, 0) or ()


def _cells(system: System, string: int, start: int, end: int) -> list[tuple[int, Cell]]:
    """The notes of a string between two columns, each with its column of the line."""
    line = system.strings[string - 1]
    try:
        return [(start + at, one) for at, one in read_cells(line[start:end])]
    except SignUnreadable as fault:
        raise TabUnreadable(
            f"Line {system.first_line + string - 1}, column {start + fault.column + 1}: {fault}"
        ) from None


def by_count(system: System, slots: list[tuple[int, int, bool]], end: int) -> list[Placed]:
    placed = []
    ends = [column for column, _, _ in slots[1:]] + [end]
    after = [tick for _, tick, _ in slots[1:]] + [2 * slots[-1][1] - slots[-2][1]]
    for string in range(1, len(system.strings) + 1):
        for (column, tick, exact), until, next_tick in zip(slots, ends, after, strict=True):
            here = _cells(system, string, column, until)
            for i, (_, one) in enumerate(here):
                at = tick + (next_tick - tick) * i // len(here)
                placed.append(Placed(at, string, one, exact and i == 0))
    return placed


def by_spacing(system: System, start: int, end: int, bar: Bar, bars: Bars) -> list[Placed]:
    """Columns as shares of the bar, laid on the nearest grid within it; a bar may begin with one dash."""
    found = [(column, string, one) for string in range(1, len(system.strings) + 1)
             for column, one in _cells(system, string, start, end)]  # fmt: skip
    columns = sorted({column for column, _, _ in found})
    first = start if start in columns else start + 1
    ticks = quantise([bar.tick + bar.ticks * (column - first) / (end - first) for column in columns], bars, {})
    at = dict(zip(columns, _within(ticks, bar.tick + bar.ticks), strict=True))
    return [Placed(at[column], string, one, True) for column, string, one in found]


def _within(ticks: Sequence[int], end: int) -> list[int]:
    """Keeps ticks within their bar: one that was rounded to its end goes shortly before it."""
    found: list[int] = []
    for tick in ticks:
        before = found[-1] if found else end - QUARTER
        late = max(end - QUARTER // 4, before + (end - before) // 2)
        found.append(tick if tick < end else late)
    return found


def with_lengths(placed: list[Placed], bars: Bars, new_id: NewId) -> Iterator[Note]:
    placed = sorted(placed, key=lambda one: (one.tick, one.string))
    next_onset = dict(pairwise(sorted({one.tick for one in placed})))
    own: dict[int, list[int]] = {}
    for one in placed:
        own.setdefault(one.string, []).append(one.tick)
    for one in placed:
        bar = bars.at(one.tick)
        _, pulse, ticks = bar.pulse_at(one.tick)
        until = next_onset.get(one.tick, pulse + ticks)
        if one.cell.rings:
            again = bisect_right(own[one.string], one.tick)
            until = own[one.string][again] if again < len(own[one.string]) else one.tick + bar.ticks
        yield one.cell.note(new_id(), one.tick, min(until - one.tick, bar.ticks), one.string)
