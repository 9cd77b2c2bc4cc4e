"""The tracks of a standard MIDI file: notes with the pitch bend under them; tempo, meters, keys and texts of all."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Final

import mido
from mido.midifiles.meta import KeySignatureError

from usagi.core.formats.score import (
    MOST_NOTES,
    FileUnreadable,
)

DRUMS: Final = 9
USUAL_RANGE: Final = 2.0  # semitones, where a file does not say
MOST_BYTES: Final = 1_000_000
MOST_MESSAGES: Final = 400_000
FITTING: Final = 0.98  # of the notes: as many have to have a fret when a channel is a string
_FAULTS: Final = (
    EOFError, OSError, ValueError, IndexError, KeyError, TypeError, AttributeError, OverflowError, KeySignatureError,
)  # fmt: skip


@dataclass
class Sound:
    """A note in ticks of the file, with what its channel's pitch bend did while it sounded."""

    start: int
    end: int
    channel: int
    pitch: int
    bends: list[tuple[int, float]]  # tick, semitones


@dataclass
class Line:
    """One part: a track, or a channel of a file that has one track."""

    id: str
    name: str
    sounds: list[Sound] = field(default_factory=list)


@dataclass
class Tracks:
    """What a file holds, its tracks laid together."""

    per_quarter: int
    lines: list[Line]
    tempos: list[tuple[int, float]]
    meters: list[tuple[int, tuple[int, int]]]
    keys: list[tuple[int, str]]
    markers: list[tuple[int, str]]
    texts: list[tuple[int, str]]
    title: str
    end: int = 0  # of the longest track


def is_midi(data: bytes) -> bool:
    return data[:4] == b"MThd" or (data[:4] == b"RIFF" and data[8:12] == b"RMID")


def tracks_of(data: bytes) -> Tracks:
    if not is_midi(data):
        raise FileUnreadable("This is not a MIDI file: it does not begin as one.")
    if len(data) > MOST_BYTES:
        raise FileUnreadable("This MIDI file is too long: 1 MB at most.")
    try:
        midi = mido.MidiFile(file=io.BytesIO(_standard(data)), clip=True, charset="latin1")
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
    found = Tracks(midi.ticks_per_beat, [], [], [], [], [], [], "")
    for number, track in enumerate(midi.tracks, start=1):
        _take_track(track, number, found, single=len(midi.tracks) == 1)
    if sum(len(line.sounds) for line in found.lines) > 10 * MOST_NOTES:
        raise FileUnreadable("This MIDI file holds too many notes to be one solo.")
    if not any(line.sounds for line in found.lines):
        raise FileUnreadable("This MIDI file has no notes.")
    return found


def _standard(data: bytes) -> bytes:
    """The header and its tracks, out of a RIFF wrapper and without chunks of other kinds, which are to be skipped."""
    if data[:4] == b"RIFF":
        data = data[20 : 20 + int.from_bytes(data[16:20], "little")]
    chunks, at = [], 0
    while at + 8 <= len(data):
        end = at + 8 + int.from_bytes(data[at + 4 : at + 8], "big")
        if data[at : at + 4] in (b"MThd", b"MTrk"):
            chunks.append(data[at:end])
        at = end
    return b"".join(chunks)


def _take_track(track: Any, number: int, found: Tracks, *, single: bool) -> None:
    name, at = "", 0
    open_notes: dict[tuple[int, int], list[Sound]] = {}
    bends: dict[int, float] = {}
    ranges: dict[int, float] = {}
    chosen: dict[int, dict[int, int]] = {}  # registered parameters by channel
    sounds: list[Sound] = []
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
                one = Sound(at, at, message.channel, message.note, [(at, bends.get(message.channel, 0.0))])
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


def _take_meta(message: Any, at: int, found: Tracks) -> None:
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


def _lines(sounds: Sequence[Sound], number: int, name: str, *, single: bool) -> list[Line]:
    """A track is a part; of a file of one track each channel is, unless the channels are strings."""
    channels = sorted({sound.channel for sound in sounds})
    if not single or len(channels) == 1 or string_like(sounds, channels):
        return [Line(str(number), name or f"track {number}", list(sounds))]
    return [
        Line(f"channel {c + 1}", f"{name or 'track'}, channel {c + 1}", [s for s in sounds if s.channel == c])
        for c in channels
    ]


def string_like(sounds: Sequence[Sound], channels: Sequence[int]) -> bool:
    """Whether channels could be the strings of one guitar: up to eight, neighbours, each with one note at a time."""
    if not 1 < len(channels) <= 8 or channels[-1] - channels[0] > 7:
        return False
    overlapping = 0
    ends: dict[int, int] = {}
    for sound in sorted(sounds, key=lambda one: one.start):
        overlapping += sound.start < ends.get(sound.channel, -1)
        ends[sound.channel] = sound.end
    return overlapping <= (1 - FITTING) * len(sounds)
