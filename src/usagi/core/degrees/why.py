"""Why a note is called what it is: a short chain of facts, each with the rule's place in docs/music.md."""

from __future__ import annotations

from typing import NamedTuple

from usagi.core.degrees.degree import degree
from usagi.core.degrees.labels import NoteReading, is_curl
from usagi.core.degrees.lines import Line, Mark, Role
from usagi.core.degrees.patterns import Kind, Pattern, step_words
from usagi.core.degrees.solo_readings import Readings
from usagi.core.document.elements import AnticipationChoice, Note
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.harmony.tensions import available_tensions
from usagi.core.meter.ticks import length_words
from usagi.core.pitch.keys import Key


class Fact(NamedTuple):
    """One step of a chain, and the heading of docs/music.md that holds its rule."""

    says: str
    rule: str


_MARKS = {
    Mark.ORNAMENT: "It is an ornament: at most a quarter of the pulse, and half the note that it is joined to.",
    Mark.FILLER: "It is a filler: off the pulse, between chord tones on the pulse before and after it.",
}


def why(note: Note, readings: Readings) -> tuple[Fact, ...]:
    """What a note's label on its shown line rests on, fact by fact."""
    reading = readings.notes[note.id]
    name = " → ".join(reading.stage_names)
    if not name:
        return (Fact("A note without a pitch has no degree.", "degrees"),)
    facts = [Fact(f"The note at {reading.where} is {name}.", "pitch-strings-frets")]
    shown = next(line for line in reading.lines if line.shown)
    heard, key = _under(note, shown, readings)
    if heard is None or shown.degree is None:
        return (*facts, *_without_chord(reading, key))
    facts += _heard_on(note, shown, readings)
    slot = _slot(shown, heard)
    facts.append(Fact(f"It lies {_apart(slot)} above {heard.root}: the {shown.degree}.", "degrees"))
    shown_index = reading.lines.index(shown)
    led = readings.led.get(note.id)
    pattern = led.patterns[shown_index] if led is not None and shown_index < len(led.patterns) else None
    computed = shown if reading.overruled is None else shown._replace(
        role=reading.overruled.role, goal=reading.overruled.goal, says=reading.overruled.says
    )  # fmt: skip
    facts += _role(note, computed, heard, key, slot, pattern, readings)
    if shown.blue and computed.role is not Role.BLUE:
        facts.append(Fact(f"The {shown.degree} is a blue note here, whatever its role.", "roles"))
    facts += [Fact(_MARKS[mark], "roles") for mark in shown.marks]
    if reading.overruled is not None:
        facts.append(Fact(f"You call it: {shown.says}.", "roles"))
    return tuple(facts)


def _under(note: Note, shown: Line, readings: Readings) -> tuple[Heard | None, Key | None]:
    timeline = readings.ground.timeline
    key = timeline.facts_at(note.tick).key
    if shown is readings.notes[note.id].lines[0]:
        change = readings.early.get(note.id) or timeline.chord_at(note.tick)
        return (None if change is None else change.heard), key
    return (None if shown.heard_on is None else hear(parse_chord(shown.heard_on))), key


def _without_chord(reading: NoteReading, key: Key | None) -> list[Fact]:
    if key is None or reading.key_degree is None:
        return [Fact("There is no chord here and no key, so it has no degree.", "degrees")]
    return [Fact(f"There is no chord here; in {key} it is the {reading.key_degree}.", "degrees")]


def _heard_on(note: Note, shown: Line, readings: Readings) -> list[Fact]:
    early = readings.early.get(note.id)
    if shown is not readings.notes[note.id].lines[0]:
        return [Fact(f"It is heard on {shown.heard_on}: the changes “{shown.line}” lie over the chart.", "degrees")]
    if any(isinstance(one, AnticipationChoice) and one.note == note.id for one in readings.solo.choices):
        return [Fact(f"You decided that it is heard on {shown.heard_on}.", "degrees")]
    if early is not None:
        before = length_words(early.tick - note.tick)
        held = note.end - early.tick >= early.tick - note.tick
        reason = "and sounds at least as long after it" if held else "and does not fit the chord before"
        return [Fact(f"It starts {before} before {early.shown} {reason}, so it is heard on {early.shown}.", "degrees")]
    return [Fact(f"It is heard on {shown.heard_on}, which sounds there.", "degrees")]


def _slot(shown: Line, heard: Heard) -> int:
    stage = next(stage for stage in shown.stages if stage.degree == shown.degree)
    return (int(stage.midi // 1) - heard.root.pitch_class) % 12


def _apart(slot: int) -> str:
    return {0: "no half steps", 1: "1 half step"}.get(slot, f"{slot} half steps")


def _tones(heard: Heard) -> str:
    return " ".join(heard.core[slot] for slot in sorted(heard.core))


def _role(
    note: Note,
    line: Line,
    heard: Heard,
    key: Key | None,
    slot: int,
    pattern: Pattern | None,
    readings: Readings,
) -> list[Fact]:
    role, on = line.role, line.heard_on
    if role is Role.ANTICIPATION:
        return [Fact("A note that is heard against the chord to come anticipates it.", "degrees")]
    if role is Role.CHORD_TONE:
        return [Fact(f"The core tones of {on} are {_tones(heard)}: it is a chord tone.", "chords")]
    facts = [Fact(f"The core tones of {on} are {_tones(heard)}: it is none of them.", "chords")]
    if pattern is not None and role is pattern.role:
        return [*facts, *_pattern(pattern, line, readings)]
    match role:
        case Role.BLUE if is_curl(note) or (line.degree or "").endswith("+"):
            facts.append(Fact("It is bent by about a quarter: a curl is a blue note.", "roles"))
        case Role.BLUE:
            facts.append(Fact(f"Over this kind of chord the {line.degree} is a blue note.", "roles"))
        case Role.TENSION if slot in heard.extensions:
            facts.append(Fact(f"{on} names the {line.degree}: a tension.", "chords"))
        case Role.TENSION:
            names = " ".join(degree(heard, one) for one in sorted(available_tensions(heard, key)))
            facts.append(Fact(f"Over {on} these tones may be added: {names}. It is a tension.", "chords"))
        case Role.SCALE:
            facts.append(Fact("The scale that holds here has it: a scale note.", "roles"))
        case _:
            facts.append(Fact("Neither the chord nor the scale has it: it is outside.", "roles"))
    return facts


def _pattern(pattern: Pattern, line: Line, readings: Readings) -> list[Fact]:
    if pattern.kind is Kind.PEDAL:
        return [Fact("The same pitch is struck three times or more, with other pitches between: a pedal.", "roles")]
    goal = readings.notes.get(pattern.goal_id or "")
    named = "the note that follows" if goal is None else " → ".join(goal.stage_names)
    facts = [Fact(f"It leads to {named} at {'' if goal is None else goal.where}, the {pattern.goal}.", "roles")]
    rule = {
        Role.ENCLOSURE: "Notes within two half steps on both sides of a core tone, just before it, enclose it.",
        Role.PASSING: "One to three steps in one direction between core tones pass.",
        Role.APPROACH: f"A step into the core tone that follows approaches it: a {step_words(pattern.steps)}.",
    }[pattern.role]
    if pattern.kind in (Kind.UPPER_NEIGHBOUR, Kind.LOWER_NEIGHBOUR):
        rule = "A step away from a core tone and back is a neighbour of it."
    elif pattern.kind is Kind.DOUBLE:
        rule = "Two steps in one direction into a core tone, after a leap or at the start of a line, approach it twice."
    return [*facts, Fact(rule, "roles")]
