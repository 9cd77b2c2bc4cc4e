"""The sentence that says what a note is: status line, screen reader's text and check in one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from usagi.core.degrees.labels import NoteReading
from usagi.core.degrees.lines import Role
from usagi.core.document.elements import Note, Question, Stack
from usagi.core.document.pitches import course_stages
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import (
    By,
    Choked,
    Finger,
    Harmonic,
    LetRing,
    Pick,
    SlideIn,
    SlideOff,
    Staccato,
    Stroke,
    Sure,
    steps_text,
)
from usagi.core.fretboard.places import HUNDREDTHS, Place, places_of
from usagi.core.meter.ticks import length_words


@dataclass(frozen=True, slots=True)
class Sentence:
    """`says` in one line; `more` is what stands under it."""

    says: str
    more: str


_STEPS = {1: "a quarter step", 2: "a half step", 4: "a whole step"}
_ATTACKS = {"hammer-on": "hammered on", "pull-off": "pulled off", "slide": "slid into", "tapped": "tapped"}

_PICKS = {Pick.DOWN: "picked down", Pick.UP: "picked up", Pick.SWEEP: "swept", Pick.FINGER: "plucked by a finger"}
_FINGERS = {
    Finger.INDEX: "index finger", Finger.MIDDLE: "middle finger", Finger.RING: "ring finger",
    Finger.LITTLE: "little finger", Finger.THUMB: "thumb",
}  # fmt: skip


def steps_words(quarters: int) -> str:
    """A bend's size in words.

    >>> steps_words(4), steps_words(6)
    ('a whole step', '1½ steps')
    """
    return _STEPS.get(quarters) or f"{steps_text(quarters)} steps"


def course_words(note: Note) -> list[str]:
    """What the pitch course does, shape by shape."""
    if not note.course:
        return []
    words: list[str] = []
    found = course_stages(note.course, note.ticks)
    first = found[0][1]
    if first > 0:
        words.append(f"bent beforehand {steps_words(first)}")
    for (_, before, _), (_, quarters, _) in pairwise(found):
        if quarters > before and before >= 0:
            if quarters == 1:
                words.append("curled a quarter")
            else:
                words.append(f"bent {'up ' if before == 0 else 'on to '}{steps_words(quarters)}")
        elif quarters < 0:
            words.append(f"dipped {steps_words(-quarters)} with the bar")
        elif quarters == 0:
            words.append("released" if before > 0 else "brought back")
        elif quarters < before:
            words.append(f"released to {steps_words(quarters)}")
    if isinstance(note.ending, Choked) and found[-1][1] > 0:
        words.append("choked at the top")
    return words


def technique_words(note: Note) -> list[str]:
    """Every technique of a note in words, in the order in which they happen."""
    words: list[str] = []
    if note.rake is not None:
        words.append("raked into")
    attack = note.attack
    if isinstance(attack, Harmonic):
        words.append(f"{attack.how} harmonic")
    elif isinstance(attack, SlideIn):
        start = attack.start if isinstance(attack.start, str) else f"fret {attack.start / HUNDREDTHS:g}"
        words.append(f"slid in from {start}")
    elif attack.kind in _ATTACKS:
        words.append(_ATTACKS[attack.kind])
    flags = (("dead", note.dead), ("ghosted", note.ghost), ("accented", note.accent), ("palm muted", note.palm_mute))
    words += [word for word, held in flags if held]
    words += course_words(note)
    if note.vibrato is not None:
        wide = "wide" if note.vibrato.width_cents >= 60 else "narrow" if note.vibrato.width_cents < 25 else ""
        by = " with the bar" if note.vibrato.by is By.BAR else ""
        words.append(f"{wide} vibrato".strip() + by)
    if note.trill is not None:
        words.append(f"trilled to fret {note.trill.fret / HUNDREDTHS:g}")
    if note.tremolo is not None:
        words.append("tremolo picked")
    match note.ending:
        case SlideOff():
            to = note.ending.to if isinstance(note.ending.to, str) else f"to fret {note.ending.to / HUNDREDTHS:g}"
            words.append(f"slid off {to}")
        case Staccato():
            words.append("short")
        case Choked() if "choked at the top" not in words:
            words.append("choked")
        case LetRing():
            words.append("left to ring")
    if note.pick is not None:
        words.append(_PICKS[note.pick])
    if note.finger is not None:
        words.append(f"with the {_FINGERS[note.finger]}")
    return words


def stack_words(stack: Stack | None) -> list[str]:
    """How the strings of a stack are struck."""
    if stack is None:
        return []
    stroke = {None: [], Stroke.TOGETHER: ["plucked together"]}.get(stack.stroke, [f"in a stroke {stack.stroke}"])
    return stroke + ([f"spread over {stack.spread_ms:g} ms"] if stack.spread_ms else [])


def say_note(
    note: Note,
    reading: NoteReading,
    elsewhere: Sequence[Place],
    questions: Sequence[Question] = (),
    stack: Stack | None = None,
    loudness: Sequence[str] = (),
) -> Sentence:
    """One note in words: what is played and what it is, and in a second line what else is known of it.

    Parameters
    ----------
    note, reading : the note, and its reading against the chart.
    elsewhere : where else its pitch lies on the neck.
    questions : the open ones that name it.
    stack : what it is struck with.
    loudness : words for its level and swell.
    """
    place = f"String {note.string}" + (", no fret" if note.fret is None else f", {_fret_words(note.fret)}")
    head = ", ".join([place, *technique_words(note), *stack_words(stack), *loudness])
    return Sentence(head + _degree_words(note, reading) + _doubt(note), _more(note, reading, elsewhere, questions))


def _fret_words(fret: int) -> str:
    return "open" if fret == 0 else f"fret {fret / HUNDREDTHS:g}"


def _degree_words(note: Note, reading: NoteReading) -> str:
    shown = next(line for line in reading.lines if line.shown)
    if shown.degree is not None:
        return f": the {shown.degree} of {shown.heard_on}."
    if reading.key_degree is not None:
        return f": the {reading.key_degree} of {reading.lines[-1].heard_on}, no chord here."
    return "." if note.dead or note.fret is None else ". No chord here."


def _doubt(note: Note) -> str:
    return {Sure.SURE: "", Sure.UNSURE: " Unsure.", Sure.UNKNOWN: " Not known yet."}[note.sure]


def _more(note: Note, reading: NoteReading, elsewhere: Sequence[Place], questions: Sequence[Question]) -> str:
    parts: list[str] = []
    if reading.stage_names:
        parts.append(" → ".join(reading.stage_names))
    if note.course and len(note.course) > 1 and note.course[1][1] > note.course[0][1]:
        parts.append(f"reached {length_words(note.course[1][0])} after the pick")
    parts.append(f"{length_words(note.ticks)} at {reading.where}")
    text = ", ".join(parts) + "."
    line = reading.lines[0]
    if line.role is Role.ANTICIPATION and reading.other_degree is not None:
        text += f" It anticipates {line.heard_on}; over {line.chord} it is the {reading.other_degree}."
    text += _role_words(reading)
    for held in reading.held:
        text += f" Held over {held.chord} it becomes the {held.degree}."
    if elsewhere:
        text += " Same pitch elsewhere: " + ", ".join(f"string {p.string} fret {p.fret}" for p in elsewhere) + "."
    for question in questions:
        answers = f" ({', or '.join(question.answers)}?)" if question.answers else ""
        text += f" Question: {question.words}{answers}"
    return text


def _role_words(reading: NoteReading) -> str:
    """What the shown line makes of the note, where its degree alone does not tell."""
    line = next(line for line in reading.lines if line.shown)
    plain = {Role.BLUE: "a blue note", Role.TENSION: "a tension", Role.SCALE: "a scale note", Role.OUTSIDE: "outside"}
    if line.role is None or line.role in (Role.CHORD_TONE, Role.ANTICIPATION):
        return ""
    words = plain.get(line.role, line.says)
    return f" {words[0].upper()}{words[1:]}" + "".join(f", {mark}" for mark in line.marks) + "."


def other_places(note: Note, reading: NoteReading, settings: SoloSettings) -> list[Place]:
    """Where else the fretted pitch lies on the neck; none for harmonics, dead notes and pitches between frets."""
    if reading.midi is None or reading.midi % 1 or isinstance(note.attack, Harmonic):
        return []
    places = places_of(int(reading.midi), settings.tuning, settings.capo, settings.last_fret)
    return [place for place in places if place.string != note.string]
