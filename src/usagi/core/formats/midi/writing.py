"""A solo written as a standard MIDI file: a channel a string, bends as pitch bend, the grid as its tempo map."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from typing import Any, Final

import mido

from usagi.core.document.elements import Note
from usagi.core.document.loudness import level_at
from usagi.core.document.pitches import written_pitch
from usagi.core.document.techniques import Loudness
from usagi.core.formats.curves import sounding_curve
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.feel import Feel, expected_ticks
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import SCALES, Key, Mode
from usagi.core.playing.timing import feels_of

RANGE: Final = 12  # semitones of full pitch bend either way
FULL: Final = 8_191
VELOCITIES: Final = {
    Loudness.PP: 40, Loudness.P: 54, Loudness.MP: 66, Loudness.MF: 78, Loudness.F: 92, Loudness.FF: 106,
}  # fmt: skip
ACCENT, GHOST = 18, -26
GUITAR: Final = 27  # the electric guitar of General MIDI, from 0
AS_PLAYED: Final = ", as played"  # notes lie where the feel puts them
SHARPEST: Final = 100  # cents of a semitone
_ORDER: Final = {"note_off": 0, "pitchwheel": 1, "note_on": 2}


def write_midi(document: SoloDocument, *, as_played: bool = True) -> bytes:
    """The solo of a document.

    Parameters
    ----------
    document : the solo on its ground.
    as_played : whether swing sounds; else notes stand where they are written.

    Returns : a file of type 1 with 10,080 ticks to the quarter note: the map of the music, then the notes.
    """
    file = mido.MidiFile(type=1, ticks_per_beat=QUARTER, charset="utf-8")
    end = document.ground.timeline.bars.end_tick - document.ground.timeline.bars.first_tick
    file.tracks.append(_track([*_map(document, as_played)], end=end))
    file.tracks.append(_track(_line(document, as_played), name="Guitar"))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


Timed = tuple[int, Any]


def _track(events: Iterable[Timed], *, name: str = "", end: int = 0) -> Any:
    track = mido.MidiTrack()
    if name:
        track.append(mido.MetaMessage("track_name", name=name, time=0))
    at = 0
    for tick, message in sorted(events, key=lambda one: (one[0], _ORDER.get(one[1].type, -1))):
        track.append(message.copy(time=tick - at))
        at = tick
    track.append(mido.MetaMessage("end_of_track", time=max(0, end - at)))
    return track


def _map(document: SoloDocument, as_played: bool) -> Iterator[Timed]:
    """Title, meters, keys, tempo, sections, feel and chords, counted from the first bar."""
    solo, ground = document.solo, document.ground
    timeline = ground.timeline
    start = timeline.bars.first_tick
    title = " · ".join(filter(None, (document.tune, solo.settings.title, solo.settings.player)))
    yield 0, mido.MetaMessage("track_name", name=title or "Solo")
    feels, before = feels_of(solo, ground), None
    for bar in timeline.bars.bars:
        facts = timeline.facts[bar.number]
        whole = bar.ticks == facts.meter.bar_ticks
        counted = (facts.meter.numerator, facts.meter.denominator)
        if not whole and bar.ticks % facts.meter.beat_ticks == 0:
            counted = (bar.ticks // facts.meter.beat_ticks, facts.meter.denominator)
        if before is None or before[0] != counted:
            yield bar.tick - start, mido.MetaMessage("time_signature", numerator=counted[0], denominator=counted[1])
        if facts.key is not None and (before is None or before[1] != facts.key):
            yield bar.tick - start, mido.MetaMessage("key_signature", key=_signature(facts.key))
        feel = feels[bar.number]
        if feel != (Feel() if before is None else before[2]):
            yield bar.tick - start, mido.MetaMessage("text", text=f"feel {feel}{AS_PLAYED if as_played else ''}")
        before = counted, facts.key, feel
        played = timeline.played.get(bar.number)
        if played is not None and played.index == 1 and played.section:
            yield bar.tick - start, mido.MetaMessage("marker", text=played.section)
    yield from _tempo(document, start)
    yield 0, mido.MetaMessage("text", text=f"tuning {tuning_of(solo.settings.tuning).text()}")
    if solo.settings.capo:
        yield 0, mido.MetaMessage("text", text=f"capo {solo.settings.capo}")
    for change in timeline.changes:
        if start <= change.tick < timeline.written_end:
            yield change.tick - start, mido.MetaMessage("text", text=change.shown)
    for cue in ground.cues:
        if cue.tick >= start:
            yield cue.tick - start, mido.MetaMessage("cue_marker", text=cue.words)


def _tempo(document: SoloDocument, start: int) -> Iterator[Timed]:
    grid = document.ground.grid
    end = document.ground.timeline.bars.end_tick
    for tick in (start, *(tick for tick in grid.ticks[1:-1] if start < tick < end)):
        quarter_us = (grid.second(tick + 1) - grid.second(tick)) * QUARTER * 1_000_000
        yield tick - start, mido.MetaMessage("set_tempo", tempo=min(max(round(quarter_us), 1), 0xFFFFFF))


def _signature(key: Key) -> str:
    """The key as MIDI names it: major or minor, other modes by the major scale of their notes."""
    if key.mode is Mode.MINOR:
        return f"{key.tonic}m"
    name = key.tonic
    if key.mode is not Mode.MAJOR:
        place = list(Mode).index(key.mode)
        name = key.tonic.above(-place % 7, -SCALES[Mode.MAJOR][place] % 12)
    usable = str(name)
    return usable if usable in _MAJOR else "C"


_MAJOR: Final = ("C", "G", "D", "A", "E", "B", "F#", "C#", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb")


def _line(document: SoloDocument, as_played: bool) -> Iterator[Timed]:
    solo, ground = document.solo, document.ground
    start = ground.timeline.bars.first_tick
    strings = sorted({note.string for note in solo.notes})
    for string in strings:
        yield from _ready(string - 1)
    edges = [edge for note in solo.notes for edge in (note.tick, note.end)]
    onsets = [note.tick for note in solo.notes]
    moved = expected_ticks(edges, onsets, ground.timeline.bars, feels_of(solo, ground)) if as_played else edges
    bent = dict.fromkeys(strings, 0)
    for i, note in enumerate(solo.notes):
        begin, end = round(moved[2 * i]) - start, round(moved[2 * i + 1]) - start
        yield from _note(note, begin, max(end, begin + 1), document, start, bent)


def _ready(channel: int) -> Iterator[Timed]:
    """A guitar, and the range of its pitch bend (registered parameter 0)."""
    yield 0, mido.Message("program_change", channel=channel, program=GUITAR)
    for control, value in ((101, 0), (100, 0), (6, RANGE), (38, 0), (101, 127), (100, 127)):
        yield 0, mido.Message("control_change", channel=channel, control=control, value=value)


def _note(
    note: Note, begin: int, end: int, document: SoloDocument, start: int, bent: dict[int, int]
) -> Iterator[Timed]:
    """One note; a dead one and one that is not known do not sound."""
    solo, grid = document.solo, document.ground.grid
    pitch = written_pitch(note, solo.settings)
    if pitch is None or not 0 <= pitch < 128:
        return
    whole = int(pitch)
    channel = note.string - 1
    onset_s = grid.second(begin + start)
    for at_s, cents in sounding_curve(note, onset_s, grid.second(end + start)):
        value = _bend(cents + (pitch - whole) * SHARPEST)
        tick = begin if at_s == 0 else min(round(grid.tick(onset_s + at_s)) - start, end - 1)
        if value != bent[note.string]:
            bent[note.string] = value
            yield tick, mido.Message("pitchwheel", channel=channel, pitch=value)
    velocity = VELOCITIES[level_at(solo, note.tick)] + ACCENT * note.accent + GHOST * note.ghost
    yield begin, mido.Message("note_on", channel=channel, note=whole, velocity=min(max(velocity, 1), 127))
    yield end, mido.Message("note_off", channel=channel, note=whole, velocity=64)


def _bend(cents: float) -> int:
    value = round(cents / SHARPEST / RANGE * (FULL + 1))
    return min(max(value, -FULL - 1), FULL)
