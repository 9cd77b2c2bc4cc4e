"""A standard MIDI file by any program read into a score: one track, quantised, its bends read back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction
from itertools import pairwise
from typing import Final

from usagi.core.document.solo import Ground
from usagi.core.document.techniques import LONGEST, Vibrato
from usagi.core.errors import UsagiError
from usagi.core.formats.curves import read_curve
from usagi.core.formats.laid.listing import count_of
from usagi.core.formats.midi.bars import bars_of
from usagi.core.formats.midi.tracks import FITTING, Line, Sound, Tracks, string_like, tracks_of
from usagi.core.formats.midi.writing import AS_PLAYED
from usagi.core.formats.onsets import laid_on_steps, silences
from usagi.core.formats.score import (
    Part,
    Score,
    ScoreNote,
    anchors_of,
    chosen_part,
    feels_of,
)
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.harmony.symbols import is_chord
from usagi.core.meter.bars import Bars, lay_bars
from usagi.core.meter.grid import Grid
from usagi.core.meter.ticks import QUARTER

STANDARD: Final[tuple[int, ...]] = (64, 59, 55, 50, 45, 40)
LAST_FRET: Final = 24
REACH: Final = 256  # quarter notes after the last one that are still read as bars


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file, for a person to choose from. Raises : FileUnreadable."""
    return [_part(line) for line in tracks_of(data).lines]


def _part(line: Line) -> Part:
    channels = {sound.channel for sound in line.sounds}
    return Part(line.id, line.name, len(line.sounds), 1 < len(channels) <= 8)


def read_midi(data: bytes, *, part: str | None = None, ground: Ground | None = None) -> Score:
    """One part of a file, laid on the bars of its tempo map, or beat by beat on those of a ground that is here.

    Parameters
    ----------
    data : the file's bytes.
    part : a track by its id, its name or its number; None takes the likeliest for a guitar.
    ground : whose bars and feel a performance is quantised to, instead of its own.

    Raises : FileUnreadable, PartUnknown.
    """
    file = tracks_of(data)
    line = file.lines[chosen_part([_part(one) for one in file.lines], part)]
    to_ticks = Fraction(QUARTER, file.per_quarter)
    last = max(sound.end for sound in line.sounds)
    end = min(file.end, last + REACH * file.per_quarter)
    bars, pickup = bars_of(file, float(last * to_ticks), float(end * to_ticks), to_ticks)
    laid = lay_bars([bar.meter for bar in bars], pickup_ticks=pickup)
    anchors = anchors_of([(round(tick * to_ticks) - pickup, bpm) for tick, bpm in file.tempos], -pickup)
    tuning, capo = _instrument(file)
    steps = laid if ground is None else ground.timeline.bars
    feels = feels_of(bars) if ground is None else ground.timeline.feels
    sounds, doubled = _once(line.sounds)
    spans = [(float(s.start * to_ticks) - pickup, float(s.end * to_ticks) - pickup) for s in sounds]
    played = any(AS_PLAYED in text for _, text in file.texts)
    places = laid_on_steps(spans, steps, feels, played=played)
    strings = _strings(line, tuning, capo, named=any(text.startswith("tuning ") for _, text in file.texts))
    notes = tuple(_notes(sounds, spans, places, strings, _grid(anchors), laid, tuning, capo))
    said = [f"The part “{line.name}” of {len(file.lines)}."] if len(file.lines) > 1 else []
    if strings:
        said.append("Its channels are read as strings.")
    if doubled:
        said.append(f"{count_of(doubled, 'note')} stood twice on one place, with one pitch: written once.")
    return Score(
        bars=tuple(bars),
        notes=notes,
        pickup_ticks=pickup,
        rests=tuple(silences(((note.tick, note.end) for note in notes), laid)),
        chords=tuple((round(tick * to_ticks) - pickup, text) for tick, text in file.texts if is_chord(text)),
        anchors=anchors,
        tuning=tuning if tuning != STANDARD else None,
        capo=capo,
        title=file.title if file.title != line.name else "",
        messages=tuple(said),
    )


def _grid(anchors: Sequence[tuple[int, float]]) -> Grid:
    return Grid(tuple(tick for tick, _ in anchors), tuple(second for _, second in anchors))


def _once(sounds: Sequence[Sound]) -> tuple[list[Sound], int]:
    """The sounds in order without doubles, of which the longest stays; and how many doubles were left out."""
    found: dict[tuple[int, int, int], Sound] = {}
    for one in sorted(sounds, key=lambda sound: (sound.start, sound.pitch, -sound.end)):
        found.setdefault((one.start, one.pitch, one.channel), one)
    return list(found.values()), len(sounds) - len(found)


def _instrument(file: Tracks) -> tuple[tuple[int, ...], int]:
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


def _strings(line: Line, tuning: Sequence[int], capo: int, *, named: bool) -> dict[int, int]:
    """The string of each channel; empty when channels are no strings. `named`: the file counts strings as we do."""
    channels = sorted({sound.channel for sound in line.sounds})
    if named and channels[-1] < len(tuning):
        return {channel: channel + 1 for channel in channels}
    if not string_like(line.sounds, channels):
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
    sounds: Sequence[Sound],
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
    sound: Sound, start: float, end: float, ticks: int, grid: Grid
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
