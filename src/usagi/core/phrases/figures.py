"""A figure written again: as it is, or changed by one operation on the way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from usagi.core.chart.timeline import Change
from usagi.core.document.elements import Note, Rest
from usagi.core.document.frets import at_place
from usagi.core.document.lengths import with_length
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import Harmonic
from usagi.core.document.writing import NewId, cleared, written
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch, places_of
from usagi.core.harmony.heard import Heard
from usagi.core.phrases.elsewhere import Elsewhere, bent_after, elsewhere, follows
from usagi.core.phrases.transforming import Direction, FigureImpossible, Pulse, each, on_strings
from usagi.core.pitch.keys import parse_key
from usagi.core.pitch.names import pitch_text, sharp_name


@dataclass(frozen=True, slots=True)
class Copy:
    """What to copy, `[start, end)` in ticks, and where its start goes to.

    One operation at a time: `frets` moves every note along its string, `strings` to the set so many strings further
    with its pitches kept, `string_set` to the strings from one to another, `to_chord` keeps the degrees over the chords
    there, `key` transposes from the key here in a `direction`, `pulse` turns straight into triplets or back. `ticks`
    strikes it again in another rhythm: all that begins in the span, at once and as long as that.
    """

    start: int
    end: int
    to: int
    frets: int = 0
    strings: int = 0
    to_chord: bool = False
    key: str | None = None
    direction: Direction = Direction.NEAREST
    string_set: tuple[int, int] | None = None
    pulse: Pulse | None = None
    ticks: int | None = None

    @property
    def operations(self) -> int:
        named = (self.frets, self.strings, self.to_chord, self.key, self.string_set, self.pulse)
        return sum(bool(one) for one in named)

    @property
    def length(self) -> int:
        return self.ticks or self.end - self.start


def copied(solo: Solo, ground: Ground, wanted: Copy, new_id: NewId) -> Solo:
    """The solo with the figure written again; what stood in its place is gone. Raises : FigureImpossible."""
    notes = [note for note in solo.notes if wanted.start <= note.tick < wanted.end]
    rests = [rest for rest in solo.rests if wanted.start <= rest.tick < wanted.end]
    if not notes and not rests:
        raise FigureImpossible("There is no figure in this span: mark the notes that are to be written again.")
    if wanted.operations > 1:
        raise FigureImpossible("A figure is changed in one way at a time: its frets, strings, chord, key or pulse.")
    bars = ground.timeline.bars
    length = wanted.length
    if not bars.first_tick <= wanted.to < wanted.to + length <= bars.end_tick:
        raise FigureImpossible(f"The figure would end after the last bar, {bars.bars[-1].number}. Add bars first.")
    notes, rests = _changed(notes, rests, wanted, solo.settings, ground)
    moved = [_moved(note, wanted, new_id) for note in notes]
    silent = _silent(rests, wanted, new_id) if wanted.ticks is None or not notes else []
    place = cleared(solo, wanted.to, wanted.to + length, new_id)
    kept = {note.stack for note in notes if note.stack is not None}
    renamed = {stack: new_id() for stack in kept}
    stacks = place.stacks + tuple(
        stack.model_copy(update={"id": renamed[stack.id]}) for stack in solo.stacks if stack.id in kept
    )
    moved = [note if note.stack is None else note.model_copy(update={"stack": renamed[note.stack]}) for note in moved]
    place = place.model_copy(update={"stacks": stacks, "rests": tuple(sorted((*place.rests, *silent), key=_tick))})
    return written(place, moved, new_id)


def _tick(rest: Rest) -> int:
    return rest.tick


def _silent(rests: Sequence[Rest], wanted: Copy, new_id: NewId) -> list[Rest]:
    """The rests of the figure at its new place; one that lasts beyond the span ends with it."""
    if wanted.ticks is not None:
        return [Rest(id=new_id(), tick=wanted.to, ticks=wanted.ticks)]
    by = wanted.to - wanted.start
    return [Rest(id=new_id(), tick=rest.tick + by, ticks=min(rest.ticks, wanted.end - rest.tick)) for rest in rests]


def _moved(note: Note, wanted: Copy, new_id: NewId) -> Note:
    tick = note.tick + wanted.to - wanted.start
    if wanted.ticks is not None:
        note, tick = with_length(note, wanted.ticks), wanted.to
    return note.model_copy(update={"id": new_id(), "tick": tick, "heard": None})


def _changed(
    notes: list[Note], rests: list[Rest], wanted: Copy, settings: SoloSettings, ground: Ground
) -> tuple[list[Note], list[Rest]]:
    """The figure after its operation, still where it stood. Raises : FigureImpossible, naming every note in the way."""
    by = wanted.to - wanted.start
    if wanted.frets:
        return each(notes, lambda note: _along(note, wanted.frets, settings)), rests
    if wanted.strings:
        return each(notes, lambda note: _across(note, wanted.strings, settings)), rests
    if wanted.to_chord:
        return each(notes, lambda note: _to_chord(note, note.tick + by, settings, ground)), rests
    if wanted.string_set is not None:
        return on_strings(notes, *wanted.string_set, settings), rests
    if wanted.key is not None or wanted.pulse is not None:
        key = None if wanted.key is None else parse_key(wanted.key)
        there = Elsewhere(key=key, direction=wanted.direction, pulse=wanted.pulse)
        moved = elsewhere(notes, rests, there, settings, ground.timeline)
        return moved.notes, moved.rests
    return notes, rests


def _along(note: Note, frets: int, settings: SoloSettings) -> Note:
    if note.fret is None:
        return note
    fret = note.fret + frets * HUNDREDTHS
    if not 0 <= fret <= settings.highest_fret:
        raise FigureImpossible(
            f"String {note.string}, fret {note.fret / HUNDREDTHS:g} cannot go {abs(frets)} frets "
            f"{'up' if frets > 0 else 'down'}: the neck ends there.",
            id=note.id,
        )
    return at_place(note, note.string, fret, settings)


def _across(note: Note, strings: int, settings: SoloSettings) -> Note:
    """The same pitch so many strings further (towards the thick ones is up)."""
    string = note.string + strings
    if not 1 <= string <= len(settings.tuning):
        raise FigureImpossible(f"There is no string {string} for what lies on string {note.string}.", id=note.id)
    if note.fret is None:
        return note.model_copy(update={"string": string})
    by = (open_pitch(note.string, settings.tuning, 0) - open_pitch(string, settings.tuning, 0)) * HUNDREDTHS
    fret = note.fret + by
    if not 0 <= fret <= settings.highest_fret:
        raise FigureImpossible(
            f"String {note.string}, fret {note.fret / HUNDREDTHS:g} has no place on string {string}.", id=note.id
        )
    return at_place(note, string, fret, settings)


def _to_chord(note: Note, tick: int, settings: SoloSettings, ground: Ground) -> Note:
    pitch = written_pitch(note, settings)
    if pitch is None or isinstance(note.attack, Harmonic):
        return note
    here, there = ground.timeline.chord_at(note.tick), ground.timeline.chord_at(tick)
    old, new = _heard(here, note), _heard(there, note)
    by = (new.root.pitch_class - old.root.pitch_class + 6) % 12 - 6
    by = 6 if by == -6 else by  # a tritone goes up
    start = follows(pitch, old, new) + by
    course = bent_after(note, pitch, old, new, start - by)
    if start != int(start):
        raise FigureImpossible("A pitch between the frets has no degree to keep.", id=note.id)
    places = places_of(int(start), settings.tuning, settings.capo, settings.last_fret)
    if not places:
        name = pitch_text(sharp_name(int(start) % 12), int(start))
        raise FigureImpossible(f"{name}, the same degree of {there.shown if there else ''}, is not on this neck.")
    fret = (note.fret or 0) / HUNDREDTHS
    best = min(places, key=lambda place: (abs(place.fret - fret - by) + 2 * abs(place.string - note.string), place))
    values = {"string": best.string, "fret": best.fret * HUNDREDTHS, "course": course, "trill": None}
    return note.model_copy(update=values)


def _heard(change: Change | None, note: Note) -> Heard:
    if change is None or change.heard is None:
        raise FigureImpossible("A degree is kept from one chord to another: there is no chord on one side.", id=note.id)
    return change.heard
