"""What of a solo is searched: its phrases, the stretches that nobody has cut, its licks; and what narrows a search.

All notes of a solo stand in one of them: those that no phrase holds are cut as they would be suggested.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import count

from usagi.core.degrees.solo_readings import Readings, readings
from usagi.core.document.elements import Note, Phrase
from usagi.core.document.played import Technique, played
from usagi.core.document.solo import Ground, Solo
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.licks.drawn import Drawn, draw
from usagi.core.licks.line import KeyFree, key_free
from usagi.core.meter.bars import Bars
from usagi.core.phrases.suggesting import suggest_phrases
from usagi.core.playing.timing import feels_of
from usagi.core.readings.line import Sound, slot_of, sounds_of

INDEX = 1  # number of what is kept of a solo for searching; raised when it would be another


@dataclass(frozen=True, slots=True)
class Kept:
    """A lick that is kept: from one note to another of its solo."""

    id: str
    first: str
    last: str


@dataclass(frozen=True, slots=True)
class Span:
    """Notes that belong together; `phrase` and `lick` name what holds them, neither where nobody has cut them."""

    notes: tuple[Note, ...]
    name: str = ""
    phrase: str | None = None
    lick: str | None = None


@dataclass(frozen=True)
class Entry:
    """A span as it is searched.

    `starts_at` and `ends_at` are twice the beat, one more off the beat (5 is after beat 2); frets are stopped ones,
    none when all strings are open; `key` is the tonic's pitch class, `pulses` the length.
    """

    span: Span
    line: KeyFree
    drawn: Drawn
    bar: int
    starts_at: int
    ends_at: int
    start_slot: int | None
    end_slot: int | None
    pulses: float
    tempo_bpm: float
    feel: str
    key: int | None
    techniques: tuple[Technique, ...]
    low_fret: int | None
    high_fret: int | None
    thin: int
    thick: int


def spans_of(solo: Solo, ground: Ground, licks: Iterable[Kept] = ()) -> list[Span]:
    """The phrases and what nobody has cut, in time order; a lick takes the place of a phrase with the same notes."""
    numbers = count()
    cut = [*solo.phrases, *_uncut(solo, ground, numbers)]
    known = {phrase.id for phrase in solo.phrases}
    onsets = [note.tick for note in solo.notes]
    found: dict[tuple[str, str], Span] = {}
    for phrase in sorted(cut, key=lambda one: one.start):
        notes = solo.notes[bisect_left(onsets, phrase.start) : bisect_left(onsets, phrase.end)]
        if notes:
            own = phrase.id if phrase.id in known else None
            found[notes[0].id, notes[-1].id] = Span(notes, phrase.name if own else "", own)
    for lick in licks:
        notes = notes_between(solo, lick.first, lick.last)
        if notes:
            same = found.get((notes[0].id, notes[-1].id))
            found[notes[0].id, notes[-1].id] = Span(
                notes, "" if same is None else same.name, None if same is None else same.phrase, lick.id
            )
    return sorted(found.values(), key=lambda span: (span.notes[0].tick, len(span.notes)))


def _uncut(solo: Solo, ground: Ground, numbers: Iterator[int]) -> tuple[Phrase, ...]:
    return suggest_phrases(solo, ground, lambda: f"uncut-{next(numbers)}")


def notes_between(solo: Solo, first: str, last: str) -> tuple[Note, ...]:
    """The notes from the first to the last, with those that start at the same moment; empty when either is missing."""
    ticks = {note.id: note.tick for note in solo.notes}
    if first not in ticks or last not in ticks:
        return ()
    start, end = sorted((ticks[first], ticks[last]))
    return tuple(note for note in solo.notes if start <= note.tick <= end)


def entries_of(solo: Solo, ground: Ground, licks: Iterable[Kept] = (), read: Readings | None = None) -> list[Entry]:
    """The index entries of a solo. `read`: its readings, when they are there already."""
    return list(_entries(spans_of(solo, ground, licks), solo, ground, read))


def entry_of(span: Span, solo: Solo, ground: Ground) -> Entry | None:
    """One span alone; None when none of its notes has a pitch."""
    return next(iter(_entries([span], solo, ground, None)), None)


def sounds_by_id(solo: Solo, ground: Ground, read: Readings | None = None) -> dict[str, Sound]:
    """The pitched notes of a solo over their chords, by id."""
    now = readings(solo, ground) if read is None else read
    found = sounds_of(solo.notes, solo.settings, ground.timeline, now.notes, now.early)
    return {sound.note.id: sound for sound in found}


def _entries(spans: Sequence[Span], solo: Solo, ground: Ground, read: Readings | None) -> Iterator[Entry]:
    sounds = sounds_by_id(solo, ground, read)
    feels = feels_of(solo, ground)
    for span in spans:
        own = [sounds[note.id] for note in span.notes if note.id in sounds]
        if own:
            yield _entry(span, own, solo, ground, str(feels.get(ground.timeline.bars.at(own[0].note.tick).number, "")))


def _entry(span: Span, own: Sequence[Sound], solo: Solo, ground: Ground, feel: str) -> Entry:
    timeline, bars = ground.timeline, ground.timeline.bars
    first, last = own[0], own[-1]
    start, end = span.notes[0].tick, max(note.end for note in span.notes)
    bar = bars.at(first.note.tick)
    pulse = bar.pulse_at(first.note.tick)[2]
    facts = timeline.facts_at(first.note.tick)
    frets = [note.fret // HUNDREDTHS for note in span.notes if note.fret]
    strings = [note.string for note in span.notes]
    return Entry(
        span=span,
        line=key_free(own),
        drawn=draw(span.notes, own, solo, ground),
        bar=bars.at(span.notes[0].tick).number,
        starts_at=beat_place(first.note.tick, bars),
        ends_at=beat_place(last.note.tick, bars),
        start_slot=slot_of(first),
        end_slot=slot_of(last),
        pulses=round((end - start) / pulse, 3),
        tempo_bpm=round(ground.grid.tempo_bpm(first.note.tick, pulse), 2),
        feel=f"{bar.meter}" if bar.meter.compound else feel.partition(" ")[0],
        key=None if facts.key is None else facts.key.tonic.pitch_class,
        techniques=tuple(dict.fromkeys(one for note in span.notes for one in played(note))),
        low_fret=min(frets, default=None),
        high_fret=max(frets, default=None),
        thin=min(strings),
        thick=max(strings),
    )


def beat_place(tick: int, bars: Bars) -> int:
    """Twice the beat of a tick, one more where it lies off the beat.

    >>> from usagi.core.meter.bars import lay_bars
    >>> from usagi.core.meter.meters import Meter
    >>> [beat_place(tick, lay_bars([Meter(4, 4)])) for tick in (0, 5_040, 30_240)]
    [2, 3, 8]
    """
    index, start, _ = bars.at(tick).pulse_at(tick)
    return 2 * (index + 1) + (tick != start)
