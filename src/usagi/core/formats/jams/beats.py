"""The grid of a file: its beats as anchors and bars, with the keys, sections and feel that begin in them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from usagi.core.errors import UsagiError
from usagi.core.formats.jams.annotations import Annotation, Lines, number_of
from usagi.core.formats.score import (
    MOST_BARS,
    USUAL_BPM,
    FileUnreadable,
    ScoreBar,
)
from usagi.core.meter.bars import Bars
from usagi.core.meter.feel import Feel, parse_feel
from usagi.core.meter.grid import Grid
from usagi.core.meter.meters import COMMON_TIME, Meter, MeterImpossible
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Key, parse_key

MOST_BEFORE: Final = 64  # beats that may be wanting before the first


def grid_of(annotations: Sequence[Annotation], first: float) -> tuple[Grid, list[ScoreBar], int, list[str]]:
    """The grid that beats or a tempo give, the bars that they count, and a pick-up; `first` is when notes begin."""
    for one in annotations:
        beats = _positions(one)
        if len(beats) > 1:
            return (*_by_beats(_from_before(beats, first)), [])
    bpm = next((n for a in annotations if a.namespace == "tempo" for t in a.data if (n := number_of(t.value))), None)
    counted = "from its tempo" if bpm else "at 120, as it has no tempo"
    said = f"The file has no beats: its bars are counted {counted}."
    tempo = min(max(bpm or USUAL_BPM, 20.0), 400.0)
    grid = Grid((0, 60 * QUARTER), (0.0, 3_600.0 / tempo))
    return grid, [ScoreBar()], 0, [said]


@dataclass(frozen=True, slots=True)
class _Beat:
    """A beat at a second: its place in its bar from 1, and the bar's meter as numerator and denominator."""

    second: float
    position: int
    numerator: int
    denominator: int


def _positions(annotation: Annotation) -> list[_Beat]:
    if annotation.namespace == "beat_position":
        found = []
        for told in annotation.data:
            value = told.value if isinstance(told.value, dict) else {}
            numbers = [number_of(value.get(name)) for name in ("position", "num_beats", "beat_units")]
            if all(number is not None and 1 <= number <= 32 for number in numbers):
                position, count, unit = (int(number or 0) for number in numbers)
                if position <= count:
                    found.append(_Beat(told.time, position, count, unit))
        return _rising(found)
    if annotation.namespace != "beat":
        return []
    marked = [(told.time, number_of(told.value)) for told in annotation.data]
    counted = [(time, int(n)) for time, n in marked if n is not None and 1 <= n <= 32]
    if len(counted) < len(marked) or not counted:
        return _rising(
            [_Beat(time, i % 4 + 1, 4, 4) for i, (time, _) in enumerate(sorted(marked, key=lambda one: one[0]))]
        )
    count = max(n for _, n in counted)
    return _rising([_Beat(time, n, count, 4) for time, n in counted])


def _rising(beats: Sequence[_Beat]) -> list[_Beat]:
    found: list[_Beat] = []
    for beat in sorted(beats, key=lambda one: one.second):
        if not found or beat.second - found[-1].second > 0.02:
            found.append(beat)
    return found


def _from_before(beats: Sequence[_Beat], first: float) -> list[_Beat]:
    """The beats, counted back at their first tempo when notes come before them."""
    pace = beats[1].second - beats[0].second
    found = list(beats)
    while found[0].second - first > pace / 8 and len(found) < len(beats) + MOST_BEFORE:
        after = found[0]
        position = after.position - 1 or after.numerator
        found.insert(0, replace(after, second=after.second - pace, position=position))
    return found


def _by_beats(beats: Sequence[_Beat]) -> tuple[Grid, list[ScoreBar], int]:
    """An anchor at each bar line and at both ends, the meter of each bar, and the pick-up."""
    first = next((i for i, beat in enumerate(beats) if beat.position == 1), 0)
    bars: list[ScoreBar] = []
    anchors: list[tuple[int, float]] = []
    tick = 0
    pickup = sum(_meter(beat).beat_ticks for beat in beats[:first])
    at = -pickup
    for beat in beats[:first]:
        anchors.append((at, beat.second))
        at += _meter(beat).beat_ticks
    last = beats[-1]
    counted = 0
    meter = _meter(beats[first])
    for beat in beats[first:]:
        if beat.position == 1 and (counted or not bars):
            if bars:
                bars[-1] = ScoreBar(_counted(meter, counted))
                tick += bars[-1].meter.bar_ticks
            meter, counted = _meter(beat), 0
            bars.append(ScoreBar(meter))
            anchors.append((tick, beat.second))
        counted += 1
        last = beat
        if len(bars) > MOST_BARS:
            raise FileUnreadable(f"This file counts more than {MOST_BARS} bars. Take a part of it.")
    end = tick + (counted - 1) * meter.beat_ticks
    if end > anchors[-1][0]:
        anchors.append((end, last.second))
    if len(anchors) < 2:
        anchors.append((anchors[0][0] + meter.beat_ticks, anchors[0][1] + 60 / USUAL_BPM))
    return Grid(tuple(t for t, _ in anchors), tuple(s for _, s in anchors)), bars or [ScoreBar()], pickup


def _meter(beat: _Beat) -> Meter:
    try:
        return Meter(beat.numerator, beat.denominator)
    except MeterImpossible:
        return COMMON_TIME


def _counted(meter: Meter, beats: int) -> Meter:
    """The meter of a bar that had so many beats."""
    return meter if beats == meter.numerator or not 1 <= beats <= 32 else Meter(beats, meter.denominator)


def long_enough(bars: list[ScoreBar], lines: Lines, grid: Grid) -> list[ScoreBar]:
    last = max((told.time + told.duration for _, line in lines for told in line.data), default=0.0)
    end = sum(bar.meter.bar_ticks for bar in bars)
    found = list(bars)
    while end < grid.tick(last) - QUARTER // 8:
        found.append(ScoreBar(found[-1].meter))
        end += found[-1].meter.bar_ticks
        if len(found) > MOST_BARS:
            raise FileUnreadable(f"Its notes reach beyond {MOST_BARS} bars of its beats.")
    return found


def with_facts(
    bars: Sequence[ScoreBar], annotations: Sequence[Annotation], grid: Grid, laid: Bars, feels: Mapping[int, Feel]
) -> list[ScoreBar]:
    """Bars with the keys, the sections and the feel that begin in them."""
    keys = [
        (grid.tick(told.time), key)
        for one in annotations
        if one.namespace == "key_mode"
        for told in one.data
        if (key := _key(told.value)) is not None
    ]
    sections = [
        (grid.tick(told.time), told.value)
        for one in annotations
        if one.namespace.startswith("segment")
        for told in one.data
        if isinstance(told.value, str) and told.value.strip()
    ]
    lines = [bar.tick for bar in laid.bars if bar.number > 0]

    def nearest(tick: float) -> int:
        i = min(max(bisect_right(lines, tick) - 1, 0), len(lines) - 1)
        return i + 1 if i + 1 < len(lines) and lines[i + 1] - tick < tick - lines[i] else i

    by_key = {nearest(tick): key for tick, key in keys}
    by_section = {nearest(tick): name for tick, name in reversed(sections)}
    return [ScoreBar(bar.meter, by_key.get(i), by_section.get(i), feels.get(i + 1)) for i, bar in enumerate(bars)]


def _key(value: Any) -> Key | None:
    if not isinstance(value, str):
        return None
    try:
        return parse_key(value.replace(":", " "))
    except UsagiError:
        return None


def feels_in(sandbox: dict[str, Any]) -> dict[int, Feel]:
    """Where the feel changes, by bar number, as our own files say it in their sandbox."""
    found: dict[int, Feel] = {}
    told = sandbox.get("feel")
    for one in told if isinstance(told, list) else []:
        if isinstance(one, list) and len(one) == 2 and type(one[0]) is int and isinstance(one[1], str):
            try:
                found[max(one[0], 1)] = parse_feel(one[1])
            except UsagiError:
                continue
    return found
