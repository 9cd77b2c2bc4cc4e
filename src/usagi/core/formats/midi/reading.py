"""A standard MIDI file by any program read into a score: one track, quantised, its bends read back."""

from __future__ import annotations

import io
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise
from typing import Any, Final

import mido
from mido.midifiles.meta import KeySignatureError

from usagi.core.document.techniques import LONGEST, Vibrato
from usagi.core.errors import UsagiError
from usagi.core.formats.curves import read_curve
from usagi.core.formats.midi.writing import AS_PLAYED
from usagi.core.formats.onsets import laid_on_steps, silences
from usagi.core.formats.score import (
    MOST_BARS,
    MOST_NOTES,
    FileUnreadable,
    Part,
    Score,
    ScoreBar,
    ScoreNote,
    anchors_of,
    chosen_part,
    feels_of,
)
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.harmony.symbols import ChordUnreadable, parse_chord
from usagi.core.meter.bars import Bars, lay_bars
from usagi.core.meter.feel import Feel, parse_feel
from usagi.core.meter.grid import Grid
from usagi.core.meter.meters import COMMON_TIME, DENOMINATORS, MOST_BEATS, Meter
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Key, parse_key

DRUMS: Final = 9
USUAL_RANGE: Final = 2.0  # semitones, where a file does not say
MOST_BYTES: Final = 1_000_000
MOST_MESSAGES: Final = 400_000
STANDARD: Final[tuple[int, ...]] = (64, 59, 55, 50, 45, 40)
LAST_FRET: Final = 24
FITTING: Final = 0.98  # of the notes: as many have to have a fret when a channel is a string
REACH: Final = 256  # quarter notes after the last one that are still read as bars
_FAULTS: Final = (
    EOFError, OSError, ValueError, IndexError, KeyError, TypeError, AttributeError, OverflowError, KeySignatureError,
)  # fmt: skip


@dataclass
class _Sound:
    """A note in ticks of the file, with what its channel's pitch bend did while it sounded."""

    start: int
    end: int
    channel: int
    pitch: int
    bends: list[tuple[int, float]]  # tick, semitones


@dataclass
class _Line:
    """One part: a track, or a channel of a file that has one track."""

    id: str
    name: str
    sounds: list[_Sound] = field(default_factory=list)


@dataclass
class _File:
    """What a file holds, its tracks laid together."""

    per_quarter: int
    lines: list[_Line]
    tempos: list[tuple[int, float]]
    meters: list[tuple[int, tuple[int, int]]]
    keys: list[tuple[int, str]]
    markers: list[tuple[int, str]]
    texts: list[tuple[int, str]]
    title: str
    end: int = 0  # of the longest track


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file, for a person to choose from. Raises : FileUnreadable."""
    return [_part(line) for line in _read(data).lines]


def _part(line: _Line) -> Part:
    channels = {sound.channel for sound in line.sounds}
    return Part(line.id, line.name, len(line.sounds), 1 < len(channels) <= 8)


def read_midi(data: bytes, *, part: str | None = None) -> Score:
    """One part of a file, laid on the grid that its tempo map gives.

    Parameters
    ----------
    data : the file's bytes.
    part : a track by its id, its name or its number; None takes the likeliest for a guitar.

    Raises : FileUnreadable, PartUnknown.
    """
    file = _read(data)
    chosen = chosen_part([_part(line) for line in file.lines], part)
    line = next(one for one in file.lines if one.id == chosen.id)
    to_ticks = Fraction(QUARTER, file.per_quarter)
    last = max(sound.end for sound in line.sounds)
    end = min(file.end, last + REACH * file.per_quarter)
    bars, pickup = _bars(file, float(last * to_ticks), float(end * to_ticks), to_ticks)
    laid = lay_bars([bar.meter for bar in bars], pickup_ticks=pickup)
    anchors = anchors_of([(round(tick * to_ticks) - pickup, bpm) for tick, bpm in file.tempos], -pickup)
    tuning, capo = _instrument(file)
    feels = feels_of(bars) if any(AS_PLAYED in text for _, text in file.texts) else {}
    sounds = sorted(line.sounds, key=lambda sound: (sound.start, sound.pitch))
    spans = [(float(s.start * to_ticks) - pickup, float(s.end * to_ticks) - pickup) for s in sounds]
    places = laid_on_steps(spans, laid, feels)
    strings = _strings(line, tuning, capo, named=any(text.startswith("tuning ") for _, text in file.texts))
    notes = tuple(_notes(sounds, spans, places, strings, _grid(anchors), laid, tuning, capo))
    said = [f"The part “{chosen.name}” of {len(file.lines)}."] if len(file.lines) > 1 else []
    if strings:
        said.append("Its channels are read as strings.")
    return Score(
        bars=tuple(bars),
        notes=notes,
        pickup_ticks=pickup,
        rests=tuple(silences(((note.tick, note.end) for note in notes), laid)),
        chords=tuple((round(tick * to_ticks) - pickup, text) for tick, text in file.texts if _is_chord(text)),
        anchors=anchors,
        tuning=tuning if tuning != STANDARD else None,
        capo=capo,
        title=file.title if file.title != chosen.name else "",
        messages=tuple(said),
    )


def _grid(anchors: Sequence[tuple[int, float]]) -> Grid:
    return Grid(tuple(tick for tick, _ in anchors), tuple(second for _, second in anchors))


# -- the file ----------------------------------------------------------------------------------------------------


def _read(data: bytes) -> _File:
    if data[:4] != b"MThd":
        raise FileUnreadable("This is not a MIDI file: it does not begin as one.")
    if len(data) > MOST_BYTES:
        raise FileUnreadable("This MIDI file is too long: 1 MB at most.")
    try:
        midi = mido.MidiFile(file=io.BytesIO(data), clip=True, charset="latin1")
    except _FAULTS as fault:
        raise FileUnreadable("This MIDI file is damaged and cannot be read.") from fault
    if midi.type == 2:
        raise FileUnreadable(
            "This MIDI file holds songs that are apart (type 2): save the one that you want as type 1."
        )
    if not 0 < midi.ticks_per_beat < 0x8000:
        raise FileUnreadable("This MIDI file counts frames of film, not beats: it has no bars to read.")
    if sum(len(track) for track in midi.tracks) > MOST_MESSAGES:
        raise FileUnreadable("This MIDI file holds too many events to be one solo.")
    found = _File(midi.ticks_per_beat, [], [], [], [], [], [], "")
    for number, track in enumerate(midi.tracks, start=1):
        _take_track(track, number, found, single=len(midi.tracks) == 1)
    if sum(len(line.sounds) for line in found.lines) > 10 * MOST_NOTES:
        raise FileUnreadable("This MIDI file holds too many notes to be one solo.")
    if not any(line.sounds for line in found.lines):
        raise FileUnreadable("This MIDI file has no notes.")
    return found


def _take_track(track: Any, number: int, found: _File, *, single: bool) -> None:
    name, at = "", 0
    open_notes: dict[tuple[int, int], list[_Sound]] = {}
    bends: dict[int, float] = {}
    ranges: dict[int, float] = {}
    chosen: dict[int, dict[int, int]] = {}  # registered parameters by channel
    sounds: list[_Sound] = []
    for message in track:
        at += message.time
        kind = message.type
        if kind == "track_name" and not name:
            name = _text(message.name)
        elif message.is_meta:
            _take_meta(message, at, found)
        elif kind == "control_change":
            _take_control(message, chosen.setdefault(message.channel, {}), ranges)
        elif kind == "pitchwheel":
            semitones = message.pitch / 8_192 * ranges.get(message.channel, USUAL_RANGE)
            bends[message.channel] = semitones
            for (channel, _), sounding in open_notes.items():
                if channel == message.channel:
                    for one in sounding:
                        one.bends.append((at, semitones))
        elif kind in ("note_on", "note_off") and message.channel != DRUMS:
            key = (message.channel, message.note)
            if kind == "note_on" and message.velocity:
                one = _Sound(at, at, message.channel, message.note, [(at, bends.get(message.channel, 0.0))])
                open_notes.setdefault(key, []).append(one)
                sounds.append(one)
            elif open_notes.get(key):
                open_notes[key].pop(0).end = at
    found.end = max(found.end, at)
    for left in open_notes.values():
        for one in left:
            one.end = at
    kept = [sound for sound in sounds if sound.end > sound.start]
    if number == 1 and not kept:
        found.title = name
    if kept:
        found.lines += _lines(kept, number, name, single=single)


def _take_meta(message: Any, at: int, found: _File) -> None:
    match message.type:
        case "set_tempo" if message.tempo > 0:
            found.tempos.append((at, 60_000_000 / message.tempo))
        case "time_signature":
            found.meters.append((at, (message.numerator, message.denominator)))
        case "key_signature":
            found.keys.append((at, message.key))
        case "marker":
            found.markers.append((at, _text(message.text)))
        case "text":
            found.texts.append((at, _text(message.text)))


def _take_control(message: Any, parameters: dict[int, int], ranges: dict[int, float]) -> None:
    """The range of pitch bend is registered parameter 0: semitones, then cents."""
    parameters[message.control] = message.value
    if parameters.get(101) == 0 and parameters.get(100) == 0 and message.control in (6, 38):
        semitones = parameters.get(6, 2) + (parameters.get(38, 0) / 100 if message.control == 38 else 0)
        ranges[message.channel] = min(max(semitones, 0.0), 48.0)


def _text(text: str) -> str:
    """A text of the file: UTF-8 where it is that."""
    raw = text.encode("latin1", errors="replace")
    try:
        plain = raw.decode("utf-8")
    except UnicodeDecodeError:
        plain = text
    return " ".join("".join(sign if sign.isprintable() else " " for sign in plain).split())[:200]


def _lines(sounds: Sequence[_Sound], number: int, name: str, *, single: bool) -> list[_Line]:
    """A track is a part; of a file of one track each channel is, unless the channels are strings."""
    channels = sorted({sound.channel for sound in sounds})
    if not single or len(channels) == 1 or _string_like(sounds, channels):
        return [_Line(str(number), name or f"track {number}", list(sounds))]
    return [
        _Line(f"channel {c + 1}", f"{name or 'track'}, channel {c + 1}", [s for s in sounds if s.channel == c])
        for c in channels
    ]


def _string_like(sounds: Sequence[_Sound], channels: Sequence[int]) -> bool:
    """Whether channels could be the strings of one guitar: up to eight, neighbours, each with one note at a time."""
    if not 1 < len(channels) <= 8 or channels[-1] - channels[0] > 7:
        return False
    overlapping = 0
    ends: dict[int, int] = {}
    for sound in sorted(sounds, key=lambda one: one.start):
        overlapping += sound.start < ends.get(sound.channel, -1)
        ends[sound.channel] = sound.end
    return overlapping <= (1 - FITTING) * len(sounds)


# -- bars --------------------------------------------------------------------------------------------------------


def _bars(file: _File, last: float, end: float, to_ticks: Fraction) -> tuple[list[ScoreBar], int]:
    """Bars to the end of the notes, whole ones to the end of the file, and a pick-up.

    A pick-up is one short bar under a meter of its own at the start.
    """
    meters = sorted((round(tick * to_ticks), meter) for tick, meter in file.meters if _counts(meter))
    if not meters or meters[0][0] > 0:
        meters.insert(0, (0, (4, 4)))
    pickup = 0
    if len(meters) > 1:
        first, second = Meter(*meters[0][1]), Meter(*meters[1][1])
        if meters[1][0] == first.bar_ticks < second.bar_ticks and first.denominator == second.denominator:
            pickup = first.bar_ticks
            meters = meters[1:]
    keys = sorted((round(tick * to_ticks), key) for tick, key in file.keys)
    markers = sorted((round(tick * to_ticks), text) for tick, text in file.markers if text)
    feels = [(round(tick * to_ticks), feel) for tick, text in file.texts if (feel := _feel(text)) is not None]
    bars: list[ScoreBar] = []
    at, index = pickup, 0
    meter = COMMON_TIME
    early = [text for tick, text in markers if tick < pickup]
    while at < last or not bars or at + meter.bar_ticks <= end:
        while index < len(meters) and meters[index][0] <= at:
            meter = Meter(*meters[index][1])
            index += 1
        stop = at + meter.bar_ticks
        if index < len(meters) and meters[index][0] < stop:
            short = meters[index][0] - at
            beat = meter.beat_ticks
            if short > 0 and short % beat == 0:
                meter = Meter(short // beat, meter.denominator)
                stop = at + short
        named = [text for tick, text in markers if at <= tick < stop - meter.beat_ticks // 2]
        section = next(iter(early or named), None)
        early = [text for tick, text in markers if stop - meter.beat_ticks // 2 <= tick < stop]
        bars.append(ScoreBar(meter, _key_at(keys, at), section, _feel_at(feels, at, pickup)))
        at = stop
        if len(bars) > MOST_BARS:
            raise FileUnreadable(f"This MIDI file is more than {MOST_BARS} bars long. Take a part of it.")
    return bars, pickup


def _counts(meter: tuple[int, int]) -> bool:
    return 1 <= meter[0] <= MOST_BEATS and meter[1] in DENOMINATORS


def _key_at(keys: Sequence[tuple[int, str]], tick: int) -> Key | None:
    index = bisect_right(keys, (tick, "~")) - 1
    if index < 0:
        return None
    try:
        return parse_key(keys[index][1])
    except UsagiError:
        return None


def _feel(text: str) -> Feel | None:
    """A feel as our own files say it in words."""
    word, _, rest = text.removesuffix(AS_PLAYED).partition(" ")
    try:
        return parse_feel(rest) if word == "feel" else None
    except UsagiError:
        return None


def _feel_at(feels: Sequence[tuple[int, Feel]], tick: int, pickup: int) -> Feel | None:
    """The feel that begins with a bar; what a pick-up begins with is that of bar 1."""
    return next((feel for at, feel in reversed(feels) if at == tick or (tick == pickup and at <= tick)), None)


def _is_chord(text: str) -> bool:
    if not text or len(text) > 40:
        return False
    try:
        parse_chord(text)
    except ChordUnreadable:
        return False
    return True


def _instrument(file: _File) -> tuple[tuple[int, ...], int]:
    """Tuning and capo as our own files say them in words."""
    tuning, capo = STANDARD, 0
    for _, text in file.texts:
        word, _, rest = text.partition(" ")
        if word == "tuning":
            try:
                tuning = parse_tuning(rest).midi
            except UsagiError:
                continue
        elif word == "capo" and rest.isdecimal() and int(rest) <= 12:
            capo = int(rest)
    return tuning, capo


# -- notes -------------------------------------------------------------------------------------------------------


def _strings(line: _Line, tuning: Sequence[int], capo: int, *, named: bool) -> dict[int, int]:
    """The string of each channel; empty when channels are no strings. `named`: the file counts strings as we do."""
    channels = sorted({sound.channel for sound in line.sounds})
    if named and channels[-1] < len(tuning):
        return {channel: channel + 1 for channel in channels}
    if not _string_like(line.sounds, channels):
        return {}
    best: tuple[float, dict[int, int]] | None = None
    for base in sorted({0, channels[0], 10}):
        for low_first in (False, True):
            strings = {c: len(tuning) - (c - base) if low_first else c - base + 1 for c in channels}
            if any(not 1 <= string <= len(tuning) for string in strings.values()):
                continue
            frets = [s.pitch - tuning[strings[s.channel] - 1] - capo for s in line.sounds]
            if sum(0 <= fret <= LAST_FRET for fret in frets) < FITTING * len(frets):
                continue
            moves = sum(abs(a - b) for a, b in pairwise(frets))
            if best is None or moves < best[0]:
                best = moves, strings
    return {} if best is None else best[1]


def _notes(
    sounds: Sequence[_Sound],
    spans: Sequence[tuple[float, float]],
    places: Sequence[tuple[int, int]],
    strings: Mapping[int, int],
    grid: Grid,
    bars: Bars,
    tuning: Sequence[int],
    capo: int,
) -> Iterator[ScoreNote]:
    for sound, (start, end), (tick, ticks) in zip(sounds, spans, places, strict=True):
        course, vibrato = _curve(sound, start, end, min(ticks, LONGEST), grid)
        string = strings.get(sound.channel)
        fret = None if string is None else (sound.pitch - tuning[string - 1] - capo) * HUNDREDTHS
        yield ScoreNote(
            tick=max(tick, bars.first_tick),
            ticks=ticks,
            midi=sound.pitch,
            string=string,
            fret=fret if fret is not None and fret >= 0 else None,
            course=course,
            fields={} if vibrato is None else {"vibrato": vibrato},
        )


def _curve(
    sound: _Sound, start: float, end: float, ticks: int, grid: Grid
) -> tuple[tuple[tuple[int, int], ...], Vibrato | None]:
    """What the pitch bend under a note means."""
    onset_s = grid.second(start)
    scale = (end - start) / max(sound.end - sound.start, 1)
    samples = [(grid.second(start + (at - sound.start) * scale) - onset_s, bend * 100) for at, bend in sound.bends]

    def to_ticks(second: float) -> int:
        return round(grid.tick(onset_s + second) - start)

    return read_curve(_merged(samples), grid.second(end) - onset_s, to_ticks, ticks)


def _merged(samples: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Samples that rise in time: of several at one moment the last."""
    found: list[tuple[float, float]] = []
    for at, cents in samples:
        if found and at <= found[-1][0]:
            found[-1] = (found[-1][0], cents)
        else:
            found.append((at, cents))
    return found
