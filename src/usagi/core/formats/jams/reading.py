"""JAMS by any program read into a score: its beats are the grid, notes are quantised to them, contours are bends."""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Sequence
from math import log2
from typing import Any, Final

from usagi.core.document.solo import Ground
from usagi.core.document.techniques import LONGEST
from usagi.core.formats.curves import read_curve
from usagi.core.formats.jams.annotations import (
    Annotation,
    Heard,
    annotations_of,
    heard_of,
    number_of,
    object_of,
    parts_of,
    tree_of,
    unread_kinds,
)
from usagi.core.formats.jams.beats import feels_in, grid_of, long_enough, with_facts
from usagi.core.formats.jams.chords import read_colon
from usagi.core.formats.laid.listing import count_of
from usagi.core.formats.onsets import laid_on_steps, silences
from usagi.core.formats.score import (
    MOST_NOTES,
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
from usagi.core.meter.bars import lay_bars
from usagi.core.meter.feel import FeelKind
from usagi.core.meter.grid import Grid
from usagi.core.meter.ticks import QUARTER

EDGE_S: Final = 1e-5


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file: all annotated strings together, or each annotation of notes by itself."""
    return [part for part, _ in parts_of(annotations_of(tree_of(data)))]


def read_jams(data: bytes, *, part: str | None = None, ground: Ground | None = None) -> Score:
    """The notes of a file on the grid of its beats, or on that of a ground that is here, by the recording's seconds.

    Parameters
    ----------
    data : the file's bytes.
    part : which annotation of notes; None takes the strings together, else the fullest.
    ground : whose grid, bars and feel are taken instead of the file's own.

    Raises : FileUnreadable, PartUnknown.
    """
    tree = tree_of(data)
    annotations = annotations_of(tree)
    parts = parts_of(annotations)
    if not parts:
        raise FileUnreadable("This file annotates no notes.")
    chosen, lines = parts[chosen_part([one for one, _ in parts], part)]
    heard = sorted(heard_of(lines), key=lambda one: (one.time, one.midi))
    if len(heard) > MOST_NOTES:
        raise FileUnreadable(f"This file annotates more than {MOST_NOTES} notes. Take a part of it.")
    sandbox = object_of(tree.get("sandbox"))
    if ground is None:
        first = min((one.time for one in heard), default=0.0)
        grid, bars, pickup, said = grid_of(annotations, first)
        bars = long_enough(bars, lines, grid)
        laid = lay_bars([bar.meter for bar in bars], pickup_ticks=pickup)
        bars = with_facts(bars, annotations, grid, laid, feels_in(sandbox))
        feels = feels_of(bars)
    else:
        grid, laid, pickup, said = ground.grid, ground.timeline.bars, ground.settings.pickup_ticks, []
        bars = [ScoreBar(bar.meter) for bar in laid.bars if bar.number > 0]
        feels = ground.timeline.feels
    tuning, capo, last_fret = _instrument(sandbox, chosen)
    spans = [(grid.tick(one.time), grid.tick(one.time + one.duration)) for one in heard]
    swung = any(feel.kind is not FeelKind.STRAIGHT for feel in feels.values())
    places = laid_on_steps(spans, laid, feels, played=swung)
    contours = {source: _contour(annotations, source) for source, _ in lines}
    notes = []
    for one, (tick, ticks) in zip(heard, places, strict=True):
        string = _string(one.source, tuning, chosen)
        at = max(tick, laid.first_tick) if ground is None else tick
        notes.append(_note(one, string, at, ticks, contours[one.source], grid, tuning, capo))
    if lost := sum(line.written for _, line in lines) - len(heard):
        has = "has" if lost == 1 else "have"
        said.append(f"{count_of(lost, 'note')} {has} no time, length or pitch that can be read: left out.")
    if kinds := unread_kinds(annotations):
        said.append(f"These kinds of annotations are not read: {', '.join(kind[:40] for kind in kinds)}.")
    chords, unread = _chords(annotations, grid)
    if unread:
        said.append(f"These chord symbols were not read whole: {', '.join(dict.fromkeys(unread))}.")
    metadata = object_of(tree.get("file_metadata"))
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


def _chords(annotations: Sequence[Annotation], grid: Grid) -> tuple[list[tuple[int, str]], list[str]]:
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


def _instrument(sandbox: dict[str, Any], chosen: Part) -> tuple[tuple[int, ...] | None, int, int]:
    """Tuning, capo and last fret as our own files say them in their sandbox."""
    told = sandbox.get("tuning")
    tuning = told if isinstance(told, list) else []
    capo, last = number_of(sandbox.get("capo")) or 0, number_of(sandbox.get("last_fret")) or 22
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


def _contour(annotations: Sequence[Annotation], source: str) -> list[tuple[float, float, int]]:
    """Seconds, MIDI pitch and number of the contours of a string, rising."""
    found = []
    for one in annotations:
        if one.namespace != "pitch_contour" or one.source != source:
            continue
        for told in one.data:
            value = told.value if isinstance(told.value, dict) else {}
            hertz = number_of(value.get("frequency"))
            if hertz is not None and hertz > 0 and value.get("voiced", True):
                index = number_of(value.get("index"))
                found.append((told.time, 69 + 12 * log2(hertz / 440), int(index or 0)))
    return sorted(found)


def _samples(heard: Heard, contour: Sequence[tuple[float, float, int]]) -> list[tuple[float, float]]:
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
    heard: Heard,
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
