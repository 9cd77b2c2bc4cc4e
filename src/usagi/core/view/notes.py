"""Every note as the page draws and says it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from usagi.core.degrees.labels import NoteReading
from usagi.core.degrees.lines import Role
from usagi.core.degrees.solo_readings import Readings, readings
from usagi.core.degrees.spoken import Reader
from usagi.core.degrees.words import other_places, say_note
from usagi.core.document.elements import Note, Question, Stack
from usagi.core.document.loudness import louder_otherwise, loudness_words
from usagi.core.document.pitches import course_stages
from usagi.core.document.played import played_words
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import steps_text
from usagi.core.fretboard.places import Place
from usagi.core.playing.timing import expected_anew, expected_seconds, onsets_of
from usagi.core.values import Value
from usagi.core.view.shapes import BendView, Shape


class PlaceView(Value):
    string: int
    fret: int


class HeldView(Value):
    tick: int
    degree: str


class NoteView(Value):
    """One note: its place in words, its tablet, its sentence, where it is expected, where else it lies."""

    id: str
    where: str
    name: str
    degrees: tuple[str, ...]  # start → target …, as they stand in the tablet
    degree: str  # the one that it is known by
    other: str  # on an anticipation: the degree against the chord that still sounds, in words
    shape: Shape
    blue: bool
    held: tuple[HeldView, ...]
    says: str
    more: str
    expected_s: float
    end_s: float
    bends: tuple[BendView, ...]
    played: tuple[str, ...]  # its techniques by name, for who looks for them
    elsewhere: tuple[PlaceView, ...]


@dataclass(frozen=True)
class NoteViews:
    """The views of a solo's notes by id, and what they were made of."""

    readings: Readings
    notes: dict[str, NoteView]


def view_notes(solo: Solo, ground: Ground, reader: Reader = Reader(), before: NoteViews | None = None) -> NoteViews:
    """The view of every note. `before` are views of an earlier state: what did not change is taken from them."""
    read = readings(solo, ground, reader, None if before is None else before.readings)
    anew = list(solo.notes)
    kept: dict[str, NoteView] = {}
    if before is not None and read.anew is not None:
        was = before.readings.solo
        ids = read.anew | _asked_otherwise(was, solo) | _struck_otherwise(was, solo) | louder_otherwise(was, solo)
        ids |= {note.id for note in expected_anew(solo.notes, onsets_of(was.notes) ^ onsets_of(solo.notes))}
        anew = [note for note in solo.notes if note.id in ids]
        kept = {note_id: view for note_id, view in before.notes.items() if note_id in read.notes}
    asked: dict[str, list[Question]] = {}
    for question in solo.questions:
        if question.answer is None:
            for note_id in question.notes:
                asked.setdefault(note_id, []).append(question)
    stacks = {stack.id: stack for stack in solo.stacks}
    edges = [edge for note in anew for edge in (note.tick, note.end)]
    seconds = dict(zip(edges, expected_seconds(solo, ground, edges), strict=True))
    made = {
        note.id: _view(
            note,
            read.notes[note.id],
            asked.get(note.id, ()),
            seconds[note.tick],
            seconds[note.end],
            solo.settings,
            None if note.stack is None else stacks.get(note.stack),
            loudness_words(note, solo),
        )
        for note in anew
    }
    return NoteViews(read, kept | made)


def _asked_otherwise(before: Solo, solo: Solo) -> set[str]:
    """The notes of every question that was put, changed, answered or taken away."""
    if before.questions == solo.questions:
        return set()
    both = [*before.questions, *solo.questions]
    return {note_id for question in both if both.count(question) == 1 for note_id in question.notes}


def _struck_otherwise(before: Solo, solo: Solo) -> set[str]:
    """The notes of every stack that changed."""
    if before.stacks == solo.stacks:
        return set()
    was = {stack.id: stack for stack in before.stacks}
    changed = {stack.id for stack in solo.stacks if was.get(stack.id) != stack}
    return {note.id for note in solo.notes if note.stack in changed}


def _view(
    note: Note,
    reading: NoteReading,
    asked: Sequence[Question],
    expected_s: float,
    end_s: float,
    settings: SoloSettings,
    stack: Stack | None,
    loudness: Sequence[str],
) -> NoteView:
    shown = next(line for line in reading.lines if line.shown)
    elsewhere = other_places(note, reading, settings)
    sentence = say_note(note, reading, elsewhere, asked, stack, loudness)
    degrees = tuple(stage.degree for stage in shown.stages if stage.degree is not None)
    known_by = shown.degree or ""
    if not degrees and reading.key_degree is not None:
        degrees, known_by = (reading.key_degree,), reading.key_degree
    return NoteView(
        id=note.id,
        where=reading.where,
        name=" → ".join(reading.stage_names),
        degrees=degrees,
        degree=known_by,
        other="" if reading.other_degree is None else f"{reading.other_degree} here",
        shape=_shape(shown.role, has_chord=shown.degree is not None, has_key=reading.key_degree is not None),
        blue=shown.blue,
        held=tuple(HeldView(tick=held.tick, degree=held.degree) for held in reading.held),
        says=sentence.says,
        more=sentence.more,
        expected_s=round(expected_s, 6),
        end_s=round(end_s, 6),
        bends=tuple(
            BendView(at=at, quarters=quarters, size=steps_text(abs(quarters)))
            for at, quarters, _ in course_stages(note.course, note.ticks)
            if quarters
        ),
        played=played_words(note),
        elsewhere=_places(tuple(elsewhere)),
    )


@lru_cache(maxsize=4_096)
def _places(places: tuple[Place, ...]) -> tuple[PlaceView, ...]:
    return tuple([PlaceView(string=place.string, fret=place.fret) for place in places])


def _shape(role: Role | None, *, has_chord: bool, has_key: bool) -> Shape:
    if role is not None:
        return role.value
    if has_chord:
        return "plain"
    return "key" if has_key else "none"
