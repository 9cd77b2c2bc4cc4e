"""What stands on the pulses of a phrase: the strong-beat score, and the tension of each (docs/music.md, Roles)."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Final, NamedTuple

from usagi.core.degrees.alone import alone
from usagi.core.degrees.lines import Role
from usagi.core.document.elements import Note
from usagi.core.document.pitches import stages
from usagi.core.document.solo import Ground, SoloSettings
from usagi.core.meter.bars import Bars
from usagi.core.readings.line import Sound

PULLS: Final = {Role.CHORD_TONE: 0.0, Role.TENSION: 1.0, Role.SCALE: 1.0, Role.OUTSIDE: 3.0}
OTHER_PULL: Final = 2.0
RELEASE: Final = 1.0  # a fall from pulse to pulse of so much and more


class Score(NamedTuple):
    """How many of how many; `notes` are the ids of those that hit."""

    hit: int
    of: int
    notes: tuple[str, ...] = ()


class Pulse(NamedTuple):
    """The tension of a pulse that sounds, 0 (core tones) to 3 (outside); whether it falls to this pulse."""

    tick: int
    pull: float
    release: bool


def strong_beats(sounds: Sequence[Sound], start: int, end: int, ground: Ground, settings: SoloSettings) -> Score:
    """Of the pulses in `[start, end)` where a note starts or is held, those that carry a core tone."""
    hit, of, notes = 0, 0, []
    for tick, _, here in _on_pulses(sounds, start, end, ground.timeline.bars):
        core = [s.note.id for s in here if s.note.tick <= tick and _is_core_at(s, tick, ground, settings)]
        of += any(sound.note.tick <= tick for sound in here)
        hit += bool(core)
        notes += core
    return Score(hit, of, tuple(dict.fromkeys(notes)))


def weak_approaches(sounds: Sequence[Sound], bars: Bars) -> Score:
    """Of the approach notes, those that start off the pulse."""
    found = [sound for sound in sounds if sound.role is Role.APPROACH]
    off = [sound.note.id for sound in found if bars.at(sound.note.tick).pulse_at(sound.note.tick)[1] != sound.note.tick]
    return Score(len(off), len(found), tuple(off))


def pulls(sounds: Sequence[Sound], start: int, end: int, ground: Ground) -> list[Pulse]:
    """The tension of each pulse in `[start, end)` that sounds over a chord: the mean over its sounding ticks."""
    found: list[Pulse] = []
    last = None
    for tick, until, here in _on_pulses(sounds, start, end, ground.timeline.bars):
        ticks, sum_ = 0, 0.0
        for sound in here:
            begin, stop = max(sound.note.tick, tick), min(sound.note.end, until)
            if sound.role is not None:
                for a, b, pull in _parts(sound, begin, stop, ground):
                    ticks += b - a
                    sum_ += pull * (b - a)
        if ticks:
            pull = sum_ / ticks
            found.append(Pulse(tick, pull, last is not None and last - pull >= RELEASE))
            last = pull
        else:
            last = None
    return found


def pulses(start: int, end: int, bars: Bars) -> Iterator[tuple[int, int]]:
    """First tick and end of each pulse that begins in `[start, end)`.

    >>> from usagi.core.meter.bars import lay_bars
    >>> from usagi.core.meter.meters import parse_meter
    >>> list(pulses(0, 30_240, lay_bars([parse_meter("6/8")])))
    [(0, 15120), (15120, 30240)]
    """
    tick = bars.at(start).pulse_at(start)[1]
    while tick < end:
        length = bars.at(tick).pulse_at(tick)[2]
        if tick >= start:
            yield tick, tick + length
        tick += length


def _on_pulses(sounds: Sequence[Sound], start: int, end: int, bars: Bars) -> Iterator[tuple[int, int, list[Sound]]]:
    """First tick and end of each pulse that begins in `[start, end)`, and the notes that sound in it."""
    spans = list(pulses(start, end, bars))
    ends = [until for _, until in spans]
    inside: list[list[Sound]] = [[] for _ in spans]
    for sound in sounds:
        for i in range(bisect_right(ends, sound.note.tick), len(spans)):
            if spans[i][0] >= sound.note.end:
                break
            inside[i].append(sound)
    for (tick, until), here in zip(spans, inside, strict=True):
        yield tick, until, here


def _is_core_at(sound: Sound, tick: int, ground: Ground, settings: SoloSettings) -> bool:
    """A note by its main pitch, while the chord that it began on sounds; then by what it sounds at over the new one."""
    change = ground.timeline.chord_at(tick)
    heard = None if change is None else change.heard
    if sound.early is not None or not sound.reading.lines[0].shown:
        return sound.core
    if heard is None or sound.heard is None:
        return sound.core and heard is sound.heard
    if heard.same_harmony(sound.heard):
        return sound.core
    midi = _sounding(sound.note, tick, settings)
    return midi % 1 == 0 and int(midi) % 12 in heard.core_pitch_classes


def _sounding(note: Note, tick: int, settings: SoloSettings) -> float:
    return [stage for stage in stages(note, settings) if stage.tick <= tick][-1].midi


def _parts(sound: Sound, begin: int, end: int, ground: Ground) -> Iterator[tuple[int, int, float]]:
    """Stretches of a note with one pull each: its role's, and behind a change what its pitch is over the new chord."""
    assert sound.role is not None
    own = PULLS.get(sound.role, OTHER_PULL)
    changes = [held.tick for held in sound.reading.held]
    if sound.early is not None:
        changes = [sound.early.tick, *changes]
    edges = [sound.note.tick, *changes, sound.note.end]
    for i, (a, b) in enumerate(pairwise(edges)):
        a, b = max(a, begin), min(b, end)
        if a >= b:
            continue
        change = ground.timeline.chord_at(a) if i else None
        if change is None or change.heard is None:
            yield a, b, own
            continue
        facts = ground.timeline.facts_at(a)
        role = alone(sound.midi, "", change.heard, facts.key, facts.blues, None, False, False).role
        yield a, b, PULLS.get(role, OTHER_PULL)
