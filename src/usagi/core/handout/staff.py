"""Staff notation of a line: what is written where, for whoever draws it. Written an octave above what sounds.

A bent note stands at its main pitch; how it gets there is told by the tablature under it. Values that lie on no grid
are rounded to thirty-second notes. A note over a bar line or a beat is split and tied.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.degrees.naming import name_pitch
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.licks.entries import sounds_by_id
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import parts_of
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import LETTERS, Name
from usagi.core.values import Value

LEAST: Final = QUARTER // 8  # what is finer is rounded to it
# Written values in ticks, the longest first: the number that names it, and its dots.
VALUES: Final = (
    (QUARTER * 4, "1", 0), (QUARTER * 3, "2", 1), (QUARTER * 2, "2", 0), (QUARTER * 3 // 2, "4", 1), (QUARTER, "4", 0),
    (QUARTER * 3 // 4, "8", 1), (QUARTER // 2, "8", 0), (QUARTER * 3 // 8, "16", 1), (QUARTER // 4, "16", 0),
    (QUARTER // 8, "32", 0),
)  # fmt: skip
TUPLETS: Final = {3: 2, 5: 4, 6: 4, 7: 4}  # so many in the time of so many, in a simple pulse
SHARPS: Final = ("C", "G", "D", "A", "E", "B", "F#", "C#")
FLATS: Final = ("C", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb")
SIGNS: Final = {-2: "bb", -1: "b", 0: "n", 1: "#", 2: "##"}
OCTAVE: Final = 12


class StaffHead(Value):
    """One head of a note: letter and octave as written, and the sign before it where one is needed."""

    letter: str
    octave: int
    sign: str


class StaffNote(Value):
    """A note, a chord or (without heads) a rest: its value, its dots, whether it is tied to the next, its tuplet."""

    tick: int
    value: str
    dots: int
    heads: tuple[StaffHead, ...]
    tied: bool
    tuplet: int | None  # notes of a line with the same number are a tuplet
    count: int  # so many …
    space: int  # … in the time of so many
    bar: int


class StaffLine(Value):
    """A line of staff notation; `signature` is the major key with as many sharps or flats."""

    signature: str
    meter: str  # where it is written at the start of the line; else empty
    notes: tuple[StaffNote, ...]


@dataclass(frozen=True, slots=True)
class _Piece:
    """Something that sounds or rests between two ticks."""

    start: int
    end: int
    notes: tuple[Note, ...]
    goes_on: bool  # tied to the piece after it


def staff_line(
    solo: Solo, ground: Ground, start: int, end: int, *, meter: bool, notes: Sequence[Note] | None = None
) -> StaffLine:
    """What stands on the staff between two ticks.

    Parameters
    ----------
    solo, ground : what is written.
    start, end : ticks, whole pulses.
    meter : whether the meter is written at the start.
    notes : those of the solo that belong to the line; all of them when None.
    """
    timeline = ground.timeline
    key = timeline.facts_at(start).key
    names = _names(solo, ground, start, end)
    written: list[StaffNote] = []
    tuplets = 0
    bar = timeline.bars.at(start)
    pieces = _pieces(solo.notes if notes is None else notes, start, end)
    while bar.tick < end:
        state = _signature(key)
        for pulse in _pulses(bar, start, end, pieces):
            tuplets += 1
            written += _written(pulse, bar, names, state, tuplets)
        bar = timeline.bars.at(bar.end)
    facts = timeline.facts_at(start)
    return StaffLine(signature=_major(key), meter=str(facts.meter) if meter else "", notes=tuple(written))


@dataclass(frozen=True, slots=True)
class _Span:
    """A pulse with a tuplet (`parts` above 0), or a stretch of whole pulses without one."""

    start: int
    end: int
    parts: int
    pieces: tuple[_Piece, ...]


def _pieces(notes: Sequence[Note], start: int, end: int) -> list[_Piece]:
    """What sounds and rests, each onset until the next; two strings that overlap are one chord only at one tick."""
    onsets = sorted({note.tick for note in notes if start <= note.tick < end and not note.dead})
    found: list[_Piece] = []
    at = start
    for i, tick in enumerate(onsets):
        group = tuple(note for note in notes if note.tick == tick and not note.dead)
        until = onsets[i + 1] if i + 1 < len(onsets) else end
        stop = min(until, max(note.end for note in group), end)
        if until - stop < LEAST:
            stop = until
        if tick > at:
            found.append(_Piece(at, tick, (), False))
        found.append(_Piece(tick, stop, group, False))
        at = stop
    if at < end:
        found.append(_Piece(at, end, (), False))
    return found


def _pulses(bar: Bar, start: int, end: int, pieces: Sequence[_Piece]) -> Iterator[_Span]:
    """The bar in pulses with tuplets and stretches without, within the line."""
    onsets = {piece.start for piece in pieces}
    compound = bar.meter.compound
    stretch: int | None = None
    for _, tick in bar.pulse_ticks():
        length = bar.pulse_at(tick)[2]
        if tick + length <= start or tick >= end:
            continue
        inside = [one - tick for one in onsets if tick < one < tick + length]
        parts = parts_of(inside, length, compound=compound) if inside else 2
        tuplet = not compound and parts in TUPLETS
        if tuplet:
            if stretch is not None:
                yield _cut(stretch, tick, 0, pieces)
                stretch = None
            yield _cut(tick, tick + length, parts, pieces)
        elif stretch is None:
            stretch = tick
    if stretch is not None:
        last = min(end, bar.end)
        yield _cut(stretch, last, 0, pieces)


def _cut(start: int, end: int, parts: int, pieces: Sequence[_Piece]) -> _Span:
    inside = [
        _Piece(max(start, one.start), min(end, one.end), one.notes, one.end > end and bool(one.notes))
        for one in pieces
        if one.start < end and start < one.end
    ]
    return _Span(start, end, parts, tuple(inside))


def _written(
    span: _Span, bar: Bar, names: Mapping[str, tuple[Name, int]], state: dict[tuple[int, int], int], tuplet: int
) -> Iterator[StaffNote]:
    """A span's pieces as values; a piece of several values is tied."""
    unit = (span.end - span.start) // span.parts if span.parts else LEAST
    shown = (span.end - span.start) // TUPLETS[span.parts] if span.parts else LEAST  # what a unit is written as
    for piece in span.pieces:
        first = round((piece.start - span.start) / unit)
        count = max(1, round((piece.end - span.start) / unit) - first)
        tick = span.start + first * unit
        values = list(_values(first * shown, count * shown, bar, span))
        for i, (value, dots, ticks) in enumerate(values):
            last = i + 1 == len(values)
            goes_on = i > 0 or any(piece.start > note.tick for note in piece.notes)
            heads = _heads(piece.notes, names, state, tied=goes_on)
            yield StaffNote(
                tick=piece.start if i == 0 else tick,
                value=value,
                dots=dots,
                heads=heads,
                tied=bool(heads) and (not last or piece.goes_on),
                tuplet=tuplet if span.parts else None,
                count=span.parts,
                space=TUPLETS.get(span.parts, 0),
                bar=bar.number,
            )
            tick += ticks * unit // shown


def _values(at: int, ticks: int, bar: Bar, span: _Span) -> Iterator[tuple[str, int, int]]:
    """A length as values; what starts off a pulse ends with it, so that the beats can be seen."""
    while ticks >= LEAST:
        room = ticks
        if not span.parts:
            place = span.start + at
            _, pulse, length = bar.pulse_at(place)
            if place != pulse:
                room = min(ticks, pulse + length - place)
        found = next(((value, dots, long) for long, value, dots in VALUES if long <= room), None)
        if found is None:
            return
        yield found
        at, ticks = at + found[2], ticks - found[2]


def _names(solo: Solo, ground: Ground, start: int, end: int) -> dict[str, tuple[Name, int]]:
    """The name and the written octave of every pitched note of a line."""
    found = {}
    for note_id, sound in sounds_by_id(solo, ground).items():
        if not start <= sound.note.tick < end:
            continue
        midi = int(sound.fretted if sound.midi % 1 else sound.midi)
        facts = ground.timeline.facts_at(sound.note.tick)
        name = name_pitch(midi % 12, sound.heard, facts.key, blues=facts.blues)
        found[note_id] = name, name.octave_of(midi + OCTAVE)
    return found


def _heads(
    notes: Sequence[Note],
    names: Mapping[str, tuple[Name, int]],
    state: dict[tuple[int, int], int],
    *,
    tied: bool = False,
) -> tuple[StaffHead, ...]:
    """Heads from the lowest up; a sign where the bar has another for that line of the staff so far."""
    found = []
    for name, octave in sorted(
        (names[note.id] for note in notes if note.id in names), key=lambda one: (one[1], one[0])
    ):
        place = (name.letter, octave)
        holds = state.get(place, state.get((name.letter, 0), 0))
        sign = "" if tied or holds == name.alter else SIGNS[name.alter]
        state[place] = name.alter
        found.append(StaffHead(letter=LETTERS[name.letter].lower(), octave=octave, sign=sign))
    return tuple(found)


def _signature(key: Key | None) -> dict[tuple[int, int], int]:
    """What the key signature alters, by letter; octave 0 stands for all of them."""
    return {(name.letter, 0): name.alter for name in _scale(key) if name.alter}


def _scale(key: Key | None) -> list[Name]:
    if key is None:
        return []
    return [name for name in (key.diatonic_name(pitch) for pitch in key.pitch_classes) if name is not None]


def _major(key: Key | None) -> str:
    alters = [name.alter for name in _scale(key)]
    sharps, flats = sum(a for a in alters if a > 0), -sum(a for a in alters if a < 0)
    return FLATS[min(flats, 7)] if flats else SHARPS[min(sharps, 7)]
