"""Systems of a tablature as bars, with their repeats, chords and palm mutes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Final

from usagi.core.formats.other_tabs.head import Head
from usagi.core.formats.other_tabs.lines import MOST_TIMES, PALM, SIZE, SIZES, STRING, Block, bare, kind_of
from usagi.core.formats.other_tabs.signs import cleaned
from usagi.core.formats.other_tabs.times import (
    STEPS,
    Lengths,
    by_letters,
    counted_meter,
    loosely_counted,
    on_slots,
    onsets_in,
)
from usagi.core.formats.score import MOST_BARS, FileUnreadable
from usagi.core.formats.tab_reading import Placed, System, by_spacing, slots_of
from usagi.core.formats.tab_signs import Cell
from usagi.core.meter.bars import Bar, lay_bars
from usagi.core.meter.meters import COMMON_TIME, Meter
from usagi.core.meter.ticks import QUARTER

NARROWEST: Final = 3  # columns between two bar lines that make a bar without a note
FARTHEST: Final = 5  # columns between a bend and its size over the strings
LATE: Final = 0.4  # of a bar: so far a chord may stand behind the beat that it belongs to


@dataclass
class OneBar:
    """A bar: its notes within it, its chords, and whether repeats begin and end there."""

    placed: list[Placed]
    meter: Meter
    chords: list[tuple[int, str]]
    section: str | None = None
    forward: bool = False
    backward: int = 0
    pickup: int = 0  # ticks that it is short of a bar, at its start
    timed: bool = True  # whether the text says when its notes come


@dataclass
class Found:
    """What is gathered on the way."""

    unread: dict[int, str] = field(default_factory=dict)
    bars: list[OneBar] = field(default_factory=list)
    head: Head = field(default_factory=Head)
    said: list[str] = field(default_factory=list)

    @property
    def timed(self) -> bool:
        return all(bar.timed for bar in self.bars)

    def leave(self, number: int, why: str) -> None:
        self.unread.setdefault(number, why)


def take_system(block: Block, strings: int, lengths: Lengths, reading: Found) -> None:
    """The bars of one system."""
    lines, moved = _aligned(block.lines)
    for i in range(strings, len(lines)):
        reading.leave(block.first_line + i, block.lines[i].strip())
    lines = lines[:strings]
    columns = _bar_columns(lines)
    repeats = {column: _repeat(lines, column) for column in columns}
    clean = []
    nearest = [*reversed(block.above), *block.below]
    sizes = next((line[moved:] for _, line in block.above if kind_of(line) == "sizes"), "")
    for i, line in enumerate(_sized(lines, sizes)):
        text, unread = cleaned(line, columns)
        for column, piece in unread:
            reading.leave(block.first_line + i, f"“{piece}” at column {moved + column + 1} is no sign of a note.")
        clean.append(text)
    empty = "".join("|" if i in columns else "-" for i in range(len(lines[0])))
    clean = [empty] * (block.first_string - 1) + clean
    clean += [empty] * (strings - len(clean))
    end = len(clean[0])
    edges = columns if columns and columns[0] == 0 else [-1, *columns]
    if edges[-1] < end - 1:
        edges = [*edges, end]
    counts, letters, chords, palms = (
        next((line[moved:] for _, line in nearest if kind_of(line) == kind), None)
        for kind in ("counts", "lengths", "chords", "palms")
    )
    first = True
    for start, stop in pairwise(edges):
        if stop - start <= NARROWEST and not onsets_in(clean, start + 1, stop):
            continue
        bar = _one_bar(clean, start + 1, stop, counts, letters, lengths, reading)
        bar.placed = _palm_muted(bar.placed, onsets_in(clean, start + 1, stop), palms)
        bar.chords = list(_chords(chords, start + 1, stop, bar.meter, first=first))
        bar.forward = repeats.get(start, "") in (":", "::")
        bar.backward = 2 if repeats.get(stop, "") in ("-:", "::") else 0
        if first:
            bar.section = block.section
        first = False
        reading.bars.append(bar)
        if not bar.timed:
            for number, line in nearest:
                if kind_of(line) in ("counts", "lengths"):
                    reading.leave(number, f"it does not say when each note of bar {len(reading.bars)} comes.")
        if len(reading.bars) > MOST_BARS:
            raise FileUnreadable(f"This tablature has more than {MOST_BARS} bars.")
    if block.times > MOST_TIMES:
        many = str(block.times) if block.times < 10_000 else "very many"
        reading.said.append(f"It says to play bar {len(reading.bars)} {many} times; it is played {MOST_TIMES} times.")
        block.times = MOST_TIMES
    if block.times > 1 and not first:
        _play_again(block, reading)


def _play_again(block: Block, reading: Found) -> None:
    """A system that is to be played so many times: its own repeat if it has one, else all of it."""
    last = reading.bars[-1]
    if last.backward:
        last.backward = block.times
        return
    opening = next((bar for bar in reversed(reading.bars) if bar.forward), None)
    if opening is None:
        count = 0
        for bar in reversed(reading.bars):
            count += 1
            if bar.section is not None or count >= len(block.lines[0]):
                break
        opening = reading.bars[-min(count, len(reading.bars))]
        opening.forward = True
    last.backward = block.times


def _aligned(lines: Sequence[str]) -> tuple[list[str], int]:
    """The lines from their first bar line on, without names, padded to one length; and how many columns were cut."""
    bodies = []
    starts = []
    for line in lines:
        found = STRING.fullmatch(line)
        assert found is not None
        start = found.start("bar") if found["bar"] else found.start("rest")
        starts.append(start)
        bodies.append(line[start:])
    longest = max(len(body) for body in bodies)
    return [body.ljust(longest, "-") for body in bodies], min(starts)


def _sized(lines: Sequence[str], sizes: str) -> list[str]:
    """The strings with the sizes of bends that stand over them, each at the nearest bend without a size of its own."""
    found = list(lines)
    for word in SIZE.finditer(sizes):
        size = SIZES[word[0].casefold()]
        bends = [
            (abs(bend.start() - word.start()), i, bend.start() + 1)
            for i, line in enumerate(found)
            for bend in re.finditer(rf"(?<=\d)b(?=-{{{len(size)}}})", line)
        ]
        away, i, at = min(bends, default=(FARTHEST, 0, 0))
        if away < FARTHEST:
            found[i] = found[i][:at] + size + found[i][at + len(size) :]
    return found


def _bar_columns(lines: Sequence[str]) -> list[int]:
    """Columns where at least half of the strings have a bar line; the first column of a double bar line."""
    found: list[int] = []
    for column in range(len(lines[0])):
        bars = sum(line[column] in "|[" for line in lines)
        if 2 * bars >= len(lines) and (not found or column - found[-1] > 1 or _between(lines, found[-1], column)):
            found.append(column)
    return found


def _between(lines: Sequence[str], before: int, column: int) -> bool:
    return False if column - before == 1 else any(line[before + 1 : column].strip("|: -*o") for line in lines)


def _repeat(lines: Sequence[str], column: int) -> str:
    """The repeat signs beside a bar line: `:` behind it, `-:` before it, `::` both; else empty."""
    before = any(line[max(0, column - 1) : column] in tuple(":*o") for line in lines)
    after = any(line[column + 1 : column + 3].lstrip("|")[:1] in tuple(":*o") for line in lines)
    return "::" if before and after else "-:" if before else ":" if after else ""


def _one_bar(
    lines: Sequence[str],
    start: int,
    end: int,
    counts: str | None,
    letters: str | None,
    lengths: Lengths,
    reading: Found,
) -> OneBar:
    before = reading.bars[-1].meter if reading.bars else COMMON_TIME
    meter = reading.head.meter or counted_meter(counts, start, end) or before
    bar = Bar(1, 0, meter.bar_ticks, meter)
    bars = lay_bars([meter])
    system = System(1, 1, list(lines), [counts] if counts is not None else [])
    slots = slots_of(system, start, end, bar) if counts is not None else None
    onsets = onsets_in(lines, start, end)
    if slots is not None and (placed := on_slots(system, slots, end, len(onsets))) is not None:
        return OneBar(placed, meter, [])
    if counts is not None and (loose := loosely_counted(lines, counts, start, end, meter)):
        first = re.match(r"\s*(\d+)", counts[start:end])
        late = (int(first[1]) - 1) * meter.beat_ticks if first is not None and not reading.bars else 0
        return OneBar(loose, meter, [], pickup=late)
    if letters is not None and (timed := by_letters(onsets, letters, start, end)) is not None:
        placed, ticks = timed
        if 0 < ticks != meter.bar_ticks and ticks % (QUARTER // 4) == 0 and ticks // (QUARTER // 4) <= 32:
            quarters = ticks % QUARTER == 0
            meter = Meter(ticks // QUARTER, 4) if quarters else Meter(ticks // (QUARTER // 4), 16)
        return OneBar([one for one in placed if one.tick < meter.bar_ticks], meter, [])
    told = not onsets
    step = STEPS.get(lengths)
    columns = sorted({column for column, _, _ in onsets})
    if step is not None and len(columns) * step <= meter.bar_ticks:
        at = {column: i * step for i, column in enumerate(columns)}
        placed = [Placed(at[column], string, cell, True) for column, string, cell in onsets]
        return OneBar(placed, meter, [], timed=told)
    return OneBar(by_spacing(system, start, end, bar, bars), meter, [], timed=told)


def _palm_muted(placed: Sequence[Placed], onsets: Sequence[tuple[int, int, Cell]], palms: str | None) -> list[Placed]:
    """Notes with those muted that stand at a `PM---|`, the nth on a string being the nth at its columns."""
    spans = [(m.start() - 1, max(m.end(), m.start() + 3)) for m in re.finditer(PALM, palms or "")]
    seen: Counter[int] = Counter()
    muted = set()
    for column, string, _ in onsets:
        if any(start <= column < end for start, end in spans):
            muted.add((string, seen[string]))
        seen[string] += 1
    seen.clear()
    found = []
    for one in sorted(placed, key=lambda one: (one.string, one.tick)):
        if (one.string, seen[one.string]) in muted:
            one = replace(one, cell=replace(one.cell, fields=one.cell.fields | {"palm_mute": True}))
        found.append(one)
        seen[one.string] += 1
    return sorted(found, key=lambda one: (one.tick, one.string))


def _chords(line: str | None, start: int, end: int, meter: Meter, *, first: bool) -> Iterator[tuple[int, str]]:
    """The chords over a bar: the first on its first beat unless it stands well behind it, others on the nearest."""
    if line is None:
        return
    over = [
        (found.start(), bare(found.group()))
        for found in re.finditer(r"[^\s|]+", line)
        if start - 1 <= found.start() < end - 1 or (first and found.start() < start)
    ]
    for i, (place, symbol) in enumerate(over):
        share = max(0, place - start) / max(1, end - start)
        beat = 0 if i == 0 and share < LATE else round(share * meter.numerator)
        yield min(beat, meter.numerator - 1) * meter.beat_ticks, symbol
