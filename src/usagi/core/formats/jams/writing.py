"""A solo written as JAMS: notes and pitch contours a string, beats, chords, key, tempo and sections, in seconds."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.formats.curves import sounding_curve
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.jams.chords import colon_form
from usagi.core.meter.feel import Feel
from usagi.core.meter.ticks import QUARTER
from usagi.core.playing.timing import expected_seconds, feels_of

VERSION: Final = "0.3.4"  # of the format
DIGITS: Final = 6  # of a second
WITHIN_S: Final = 1e-4
CONTOUR_S: Final = 0.01  # between two points of a contour
A4_HZ, A4_MIDI = 440.0, 69


def write_jams(document: SoloDocument) -> bytes:
    """The solo of a document, as it is expected to sound in its recording.

    One `note_midi` and one `pitch_contour` annotation a string, whose data source is the string's number from 0, the
    lowest, as usual for guitars; tuning and capo stand in the sandbox.
    """
    solo, ground = document.solo, document.ground
    settings = solo.settings
    bars = ground.timeline.bars
    end_s = ground.grid.second(bars.end_tick)
    seconds = document.recording.seconds if document.recording is not None else round(max(end_s, 0.001), DIGITS)
    title = " · ".join(filter(None, (document.tune, settings.title)))
    tree = {
        "annotations": list(_annotations(document)),
        "file_metadata": {
            "title": title,
            "artist": settings.player,
            "release": "",
            "duration": seconds,
            "identifiers": {"sha256": document.recording.sha256} if document.recording is not None else {},
            "jams_version": VERSION,
        },
        "sandbox": {
            "tuning": list(settings.tuning),
            "capo": settings.capo,
            "last_fret": settings.last_fret,
            "feel": _feels(document),
        },
    }
    return (json.dumps(tree, ensure_ascii=False, indent=1) + "\n").encode()


def _feels(document: SoloDocument) -> list[list[int | str]]:
    """The bars at which the feel changes, with its words: seconds are as it is played."""
    found: list[list[int | str]] = []
    now = Feel()
    for number, feel in sorted(feels_of(document.solo, document.ground).items()):
        if feel != now:
            found.append([number, str(feel)])
            now = feel
    return found


def _annotation(namespace: str, data: Iterable[Mapping[str, Any]], source: str = "") -> dict[str, Any]:
    return {
        "annotation_metadata": {
            "annotation_tools": "Usagi",
            "curator": {"name": "", "email": ""},
            "annotator": {},
            "version": "",
            "corpus": "",
            "annotation_rules": "",
            "validation": "",
            "data_source": source,
        },
        "namespace": namespace,
        "data": list(data),
        "sandbox": {},
        "time": None,
        "duration": None,
    }


def _told(time: float, duration: float, value: Any, confidence: float | None = None) -> dict[str, Any]:
    return {
        "time": round(time, DIGITS),
        "duration": round(max(duration, 0.0), DIGITS),
        "value": value,
        "confidence": confidence,
    }


def _annotations(document: SoloDocument) -> Iterator[dict[str, Any]]:
    solo, ground = document.solo, document.ground
    edges = [edge for note in solo.notes for edge in (note.tick, note.end)]
    moved = expected_seconds(solo, ground, edges)
    spans = {note.id: (moved[2 * i], moved[2 * i + 1]) for i, note in enumerate(solo.notes)}
    strings = len(solo.settings.tuning)
    for string in range(strings, 0, -1):
        on_string = [note for note in solo.notes if note.string == string]
        pitched = [(note, pitch) for note in on_string if (pitch := written_pitch(note, solo.settings)) is not None]
        source = str(strings - string)
        yield _annotation("note_midi", _notes(pitched, spans), source)
        yield _annotation("pitch_contour", _contours(pitched, spans), source)
    yield _annotation("beat_position", _beats(document))
    yield _annotation("chord", _chords(document))
    yield _annotation("key_mode", _keys(document))
    yield _annotation("tempo", _tempos(document))
    yield _annotation("segment_open", _sections(document))


Pitched = Iterable[tuple[Note, float]]
Spans = Mapping[str, tuple[float, float]]


def _notes(notes: Pitched, spans: Spans) -> Iterator[dict[str, Any]]:
    for note, pitch in notes:
        start, end = spans[note.id]
        yield _told(start, end - start, pitch)


def _contours(notes: Pitched, spans: Spans) -> Iterator[dict[str, Any]]:
    for index, (note, pitch) in enumerate(notes):
        start, end = spans[note.id]
        for at, cents in sounding_curve(note, start, end, CONTOUR_S):
            hertz = A4_HZ * 2 ** ((pitch + cents / 100 - A4_MIDI) / 12)
            at = min(at, end - start - WITHIN_S)  # so that it is not taken for the next note's
            yield _told(start + at, 0.0, {"index": index, "frequency": round(hertz, 4), "voiced": True})


def _beats(document: SoloDocument) -> Iterator[dict[str, Any]]:
    """Every beat of the meter; a pick-up is counted as the end of a full bar."""
    grid = document.ground.grid
    for bar in document.ground.timeline.bars.bars:
        meter = bar.meter
        for beat in range(meter.numerator):
            tick = bar.counted_from + beat * meter.beat_ticks
            if tick >= bar.tick:
                value = {
                    "position": beat + 1,
                    "measure": bar.number,
                    "num_beats": meter.numerator,
                    "beat_units": meter.denominator,
                }
                yield _told(grid.second(tick), 0.0, value)


def _chords(document: SoloDocument) -> Iterator[dict[str, Any]]:
    timeline, grid = document.ground.timeline, document.ground.grid
    for i, change in enumerate(timeline.changes):
        if change.tick < timeline.written_end:
            start = grid.second(change.tick)
            yield _told(start, grid.second(timeline.end_of(i)) - start, colon_form(change.chord))


def _keys(document: SoloDocument) -> Iterator[dict[str, Any]]:
    timeline, grid = document.ground.timeline, document.ground.grid
    found: list[tuple[float, str]] = []
    for bar in timeline.bars.bars:
        key = timeline.facts[bar.number].key
        word = f"{key.tonic}:{key.mode}" if key is not None and abs(key.tonic.alter) < 2 else None
        if word is not None and (not found or found[-1][1] != word):
            found.append((grid.second(bar.tick), word))
    for i, (start, word) in enumerate(found):
        end = found[i + 1][0] if i + 1 < len(found) else grid.second(timeline.bars.end_tick)
        yield _told(start, end - start, word)


def _tempos(document: SoloDocument) -> Iterator[dict[str, Any]]:
    """The tempo of each stretch between two anchors, in quarter notes a minute."""
    ground = document.ground
    grid, bars = ground.grid, ground.timeline.bars
    starts = [bars.first_tick, *(tick for tick in grid.ticks[1:-1] if bars.first_tick < tick < bars.end_tick)]
    for start, end in zip(starts, [*starts[1:], bars.end_tick], strict=True):
        begin, stop = grid.second(start), grid.second(end)
        quarters = (end - start) / QUARTER
        yield _told(begin, stop - begin, round(60.0 * quarters / (stop - begin), 4), 1.0)


def _sections(document: SoloDocument) -> Iterator[dict[str, Any]]:
    timeline, grid = document.ground.timeline, document.ground.grid
    starts = [(n, p.section) for n, p in sorted(timeline.played.items()) if p.index == 1 and p.section]
    bars = timeline.bars
    for i, (number, name) in enumerate(starts):
        end = starts[i + 1][0] - 1 if i + 1 < len(starts) else max(timeline.played)
        first, last = bars.number(number), bars.number(end)
        if first is not None and last is not None:
            start = grid.second(first.tick)
            yield _told(start, grid.second(last.end) - start, name)
