"""JAMS by any program read into a score: its beats are the grid, notes are quantised to them, contours are bends."""

from __future__ import annotations

import json
from bisect import bisect_right
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import isfinite, log2
from typing import Any, Final

from usagi.core.document.techniques import LONGEST
from usagi.core.errors import UsagiError
from usagi.core.formats.curves import read_curve
from usagi.core.formats.jams.chords import read_colon
from usagi.core.formats.onsets import laid_on_steps, silences
from usagi.core.formats.score import (
    MOST_BARS,
    MOST_NOTES,
    USUAL_BPM,
    FileUnreadable,
    Part,
    Score,
    ScoreBar,
    ScoreNote,
    chosen_part,
    feels_of,
)
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import FEWEST, HIGHEST_MIDI, LOWEST_MIDI, MOST, REFERENCES
from usagi.core.meter.bars import Bars, lay_bars
from usagi.core.meter.feel import Feel, parse_feel
from usagi.core.meter.grid import Grid
from usagi.core.meter.meters import COMMON_TIME, Meter, MeterImpossible
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Key, parse_key

MOST_BYTES: Final = 24_000_000
MOST_POINTS: Final = 400_000
LONGEST_S: Final = 3_600.0
NOTES: Final = ("note_midi", "note_hz", "pitch_midi", "pitch_hz")
INTONATION: Final = 0.35  # semitones beside a pitch that are no quarter tone
EDGE_S: Final = 1e-5
STRINGS: Final = "strings"


@dataclass(frozen=True, slots=True)
class _Told:
    """One observation."""

    time: float
    duration: float
    value: Any


@dataclass(frozen=True, slots=True)
class _Heard:
    """A note: when, how long, its pitch, and the source of its annotation."""

    time: float
    duration: float
    midi: int
    source: str
    curled: bool = False  # it lies about a quarter tone above its pitch


@dataclass(frozen=True, slots=True)
class _Annotation:
    namespace: str
    source: str
    data: tuple[_Told, ...]


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file: all annotated strings together, or each annotation of notes by itself."""
    return [part for part, _ in _parts(_annotations(_tree(data)))]


def read_jams(data: bytes, *, part: str | None = None) -> Score:
    """The notes of a file on the grid of its beats.

    Parameters
    ----------
    data : the file's bytes.
    part : which annotation of notes; None takes the strings together, else the fullest.

    Raises : FileUnreadable, PartUnknown.
    """
    tree = _tree(data)
    annotations = _annotations(tree)
    parts = _parts(annotations)
    if not parts:
        raise FileUnreadable("This file annotates no notes.")
    chosen = chosen_part([one for one, _ in parts], part)
    lines = next(lines for one, lines in parts if one.id == chosen.id)
    grid, bars, pickup, said = _grid(annotations)
    bars = _long_enough(bars, lines, grid)
    laid = lay_bars([bar.meter for bar in bars], pickup_ticks=pickup)
    sandbox = _object(tree.get("sandbox"))
    bars = _with_facts(bars, annotations, grid, laid, _feels(sandbox))
    tuning, capo, last_fret = _instrument(sandbox, chosen)
    heard = sorted(_heard(lines), key=lambda one: (one.time, one.midi))
    if len(heard) > MOST_NOTES:
        raise FileUnreadable(f"This file annotates more than {MOST_NOTES} notes. Take a part of it.")
    spans = [(grid.tick(one.time), grid.tick(one.time + one.duration)) for one in heard]
    feels = feels_of(bars) if any(bar.feel is not None for bar in bars) else {}
    places = laid_on_steps(spans, laid, feels)
    contours = {source: _contour(annotations, source) for source, _ in lines}
    notes = []
    for one, (tick, ticks) in zip(heard, places, strict=True):
        string = _string(one.source, tuning, chosen)
        notes.append(_note(one, string, max(tick, laid.first_tick), ticks, contours[one.source], grid, tuning, capo))
    chords, unread = _chords(annotations, grid)
    if unread:
        said.append(f"These chord symbols were not read whole: {', '.join(dict.fromkeys(unread))}.")
    metadata = _object(tree.get("file_metadata"))
    anchors = zip(grid.ticks, grid.seconds, strict=True)
    return Score(
        bars=tuple(bars),
        notes=tuple(notes),
        pickup_ticks=pickup,
        rests=tuple(silences(((note.tick, note.end) for note in notes), laid)),
        chords=tuple(chords),
        anchors=tuple((tick, round(second, 6)) for tick, second in anchors),
        tuning=tuning,
        capo=capo,
        last_fret=last_fret,
        tune=str(metadata.get("title") or "")[:200],
        player=str(metadata.get("artist") or "")[:200],
        messages=tuple(said),
    )


# -- the file ----------------------------------------------------------------------------------------------------


def _tree(data: bytes) -> dict[str, Any]:
    if len(data) > MOST_BYTES:
        raise FileUnreadable(f"This file is too long: {MOST_BYTES // 1_000_000} MB at most.")
    try:
        tree = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError) as fault:
        raise FileUnreadable("This file is no JSON that can be read.") from fault
    if not isinstance(tree, dict) or not isinstance(tree.get("annotations"), list):
        raise FileUnreadable("This is not a JAMS file: it has no annotations.")
    return tree


def _object(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _annotations(tree: dict[str, Any]) -> list[_Annotation]:
    found = []
    points = 0
    for one in tree["annotations"]:
        if not isinstance(one, dict) or not isinstance(one.get("namespace"), str):
            continue
        data = tuple(_data(one.get("data")))
        points += len(data)
        if points > MOST_POINTS:
            raise FileUnreadable("This file annotates too many things to be one solo.")
        metadata = one.get("annotation_metadata")
        source = metadata.get("data_source", "") if isinstance(metadata, dict) else ""
        found.append(_Annotation(one["namespace"], str(source), data))
    return found


def _data(data: Any) -> Iterator[_Told]:
    """Observations as a list of objects, or (as dense annotations were written) as an object of lists."""
    if isinstance(data, dict):
        lists = [data.get(name) for name in ("time", "duration", "value")]
        if not all(isinstance(one, list) for one in lists):
            return
        data = [{"time": t, "duration": d, "value": v} for t, d, v in zip(*lists, strict=False)]
    if not isinstance(data, list):
        return
    for one in data:
        if not isinstance(one, dict):
            continue
        time, duration = _number(one.get("time")), _number(one.get("duration")) or 0.0
        if time is not None and abs(time) <= LONGEST_S and 0 <= duration <= LONGEST_S:
            yield _Told(time, duration, one.get("value"))


def _number(value: Any) -> float | None:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    try:
        number = float(value)
    except OverflowError:
        return None
    return number if isfinite(number) and abs(number) < 1e9 else None


Lines = list[tuple[str, _Annotation]]


def _parts(annotations: Sequence[_Annotation]) -> list[tuple[Part, Lines]]:
    """The strings of one guitar together, when each has its own number as its source; else every annotation."""
    notes = [one for one in annotations if one.namespace in NOTES]
    for namespace in NOTES:
        of_strings = [one for one in notes if one.namespace == namespace and one.source.isdecimal()]
        numbers = {one.source for one in of_strings}
        if len(of_strings) > 1 and len(numbers) == len(of_strings) and all(int(n) < MOST for n in numbers):
            lines = [(one.source, one) for one in of_strings]
            return [(Part(STRINGS, "all strings", sum(map(_count, of_strings)), True), lines)]
    return [
        (Part(str(i), f"{one.namespace} {one.source}".strip(), _count(one)), [(one.source, one)])
        for i, one in enumerate(notes, start=1)
    ]


def _count(annotation: _Annotation) -> int:
    return sum(_midi(annotation.namespace, told.value) is not None and told.duration > 0 for told in annotation.data)


def _heard(lines: Lines) -> Iterator[_Heard]:
    for source, line in lines:
        for told in line.data:
            midi = _midi(line.namespace, told.value)
            if midi is not None and told.duration > 0:
                near = round(midi)
                whole = near if abs(midi - near) <= INTONATION else int(midi)
                yield _Heard(told.time, told.duration, whole, source, curled=whole < near or midi - whole > INTONATION)


def _midi(namespace: str, value: Any) -> float | None:
    number = _number(value)
    if number is None or number <= 0:
        return None
    midi = 69 + 12 * log2(number / 440) if namespace.endswith("_hz") else number
    return midi if 0 < midi < 128 else None


# -- the grid ----------------------------------------------------------------------------------------------------


def _grid(annotations: Sequence[_Annotation]) -> tuple[Grid, list[ScoreBar], int, list[str]]:
    """The grid that beats or a tempo give, the bars that they count, and a pick-up."""
    for one in annotations:
        beats = _positions(one)
        if len(beats) > 1:
            return (*_by_beats(beats), [])
    bpm = next((n for a in annotations if a.namespace == "tempo" for t in a.data if (n := _number(t.value))), None)
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


def _positions(annotation: _Annotation) -> list[_Beat]:
    if annotation.namespace == "beat_position":
        found = []
        for told in annotation.data:
            value = told.value if isinstance(told.value, dict) else {}
            numbers = [_number(value.get(name)) for name in ("position", "num_beats", "beat_units")]
            if all(number is not None and 1 <= number <= 32 for number in numbers):
                position, count, unit = (int(number or 0) for number in numbers)
                if position <= count:
                    found.append(_Beat(told.time, position, count, unit))
        return _rising(found)
    if annotation.namespace != "beat":
        return []
    marked = [(told.time, _number(told.value)) for told in annotation.data]
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


def _by_beats(beats: Sequence[_Beat]) -> tuple[Grid, list[ScoreBar], int]:
    """An anchor a bar line (and at both ends), the meter of each bar, and what comes before the first."""
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


def _long_enough(bars: list[ScoreBar], lines: Lines, grid: Grid) -> list[ScoreBar]:
    last = max((told.time + told.duration for _, line in lines for told in line.data), default=0.0)
    end = sum(bar.meter.bar_ticks for bar in bars)
    found = list(bars)
    while end < grid.tick(last) - QUARTER // 8:
        found.append(ScoreBar(found[-1].meter))
        end += found[-1].meter.bar_ticks
        if len(found) > MOST_BARS:
            raise FileUnreadable(f"Its notes reach beyond {MOST_BARS} bars of its beats.")
    return found


def _with_facts(
    bars: Sequence[ScoreBar], annotations: Sequence[_Annotation], grid: Grid, laid: Bars, feels: Mapping[int, Feel]
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


def _chords(annotations: Sequence[_Annotation], grid: Grid) -> tuple[list[tuple[int, str]], list[str]]:
    found: dict[int, str] = {}
    unread: list[str] = []
    line = next((one for one in annotations if one.namespace in ("chord", "chord_harte") and one.data), None)
    for told in line.data if line is not None else ():
        if not isinstance(told.value, str):
            continue
        symbol, whole = read_colon(told.value)
        if not whole:
            unread.append(told.value[:30])
        if symbol is not None:
            tick = grid.tick(told.time)
            step = QUARTER // 4
            near = round(tick / step) * step
            found[near if abs(near - tick) < step / 3 else round(tick)] = symbol
    ordered = sorted(found.items())
    return [one for i, one in enumerate(ordered) if i == 0 or ordered[i - 1][1] != one[1]], unread


# -- notes -------------------------------------------------------------------------------------------------------


def _feels(sandbox: dict[str, Any]) -> dict[int, Feel]:
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


def _instrument(sandbox: dict[str, Any], chosen: Part) -> tuple[tuple[int, ...] | None, int, int]:
    """Tuning, capo and last fret as our own files say them in their sandbox."""
    told = sandbox.get("tuning")
    tuning = told if isinstance(told, list) else []
    capo, last = _number(sandbox.get("capo")) or 0, _number(sandbox.get("last_fret")) or 22
    good = FEWEST <= len(tuning) <= MOST
    if good and all(type(midi) is int and LOWEST_MIDI <= midi <= HIGHEST_MIDI for midi in tuning):
        return tuple(tuning), int(min(max(capo, 0), 12)), int(min(max(last, 12), 36))
    return (tuple(reversed(REFERENCES[6])) if chosen.strings else None), 0, 22


def _string(source: str, tuning: Sequence[int] | None, chosen: Part) -> int | None:
    """The string of a data source that counts them from the lowest, from 0."""
    if not chosen.strings or tuning is None or not source.isdecimal():
        return None
    string = len(tuning) - int(source)
    return string if 1 <= string <= len(tuning) else None


def _contour(annotations: Sequence[_Annotation], source: str) -> list[tuple[float, float, int]]:
    """Seconds, MIDI pitch and number of the contours of a string, rising."""
    found = []
    for one in annotations:
        if one.namespace != "pitch_contour" or one.source != source:
            continue
        for told in one.data:
            value = told.value if isinstance(told.value, dict) else {}
            hertz = _number(value.get("frequency"))
            if hertz is not None and hertz > 0 and value.get("voiced", True):
                index = _number(value.get("index"))
                found.append((told.time, 69 + 12 * log2(hertz / 440), int(index or 0)))
    return sorted(found)


def _samples(heard: _Heard, contour: Sequence[tuple[float, float, int]]) -> list[tuple[float, float]]:
    """Seconds from the onset and cents from the note of the contour under it, the next note's left out."""
    first = bisect_right(contour, (heard.time - EDGE_S, 0.0, 0))
    last = bisect_right(contour, (heard.time + heard.duration + EDGE_S, 0.0, 0))
    under = contour[first:last]
    if len({index for _, _, index in contour}) > 1 and under:
        own = Counter(index for _, _, index in under).most_common(1)[0][0]
        under = [one for one in under if one[2] == own]
    else:
        under = [one for one in under if one[0] < heard.time + heard.duration - EDGE_S]
    found: list[tuple[float, float]] = []
    for time, pitch, _ in under:
        at = max(0.0, time - heard.time)
        if not found or at > found[-1][0]:
            found.append((at, (pitch - heard.midi) * 100))
    return found


def _note(
    heard: _Heard,
    string: int | None,
    tick: int,
    ticks: int,
    contour: Sequence[tuple[float, float, int]],
    grid: Grid,
    tuning: Sequence[int] | None,
    capo: int,
) -> ScoreNote:
    midi = heard.midi
    samples = _samples(heard, contour)
    start = grid.tick(heard.time)

    def to_ticks(second: float) -> int:
        return round(grid.tick(heard.time + second) - start)

    course, vibrato = read_curve(samples, heard.duration, to_ticks, min(ticks, LONGEST))
    fret = None
    if string is not None and tuning is not None:
        fret = (midi - tuning[string - 1] - capo) * HUNDREDTHS
    return ScoreNote(
        tick=tick,
        ticks=ticks,
        midi=midi,
        string=string,
        fret=fret if fret is not None and fret >= 0 else None,
        levels=(1,) if heard.curled and not course else (),
        course=course,
        fields={} if vibrato is None else {"vibrato": vibrato},
    )
