"""What each format holds of a solo, in one table: said at export, printed in docs/format.md, and held to by tests.

A trait takes from a document what a file has to bring back. The tests compare what was taken before a file was written
with what is taken after it was read, for every trait that its format is said to hold.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import course_stages, written_pitch
from usagi.core.document.techniques import (
    By,
    Choked,
    HammerOn,
    Harmonic,
    LetRing,
    PullOff,
    Slide,
    SlideIn,
    SlideOff,
    Staccato,
    Sure,
    Tapped,
)
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.notated import bars_of_solo
from usagi.core.formats.onsets import joined_spans
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Mode


class Symbolic(StrEnum):
    """The formats of notes beside the document, which holds everything."""

    MUSICXML = "musicxml"
    MIDI = "midi"
    JAMS = "jams"
    TAB = "tab"


X, M, J, T = Symbolic.MUSICXML, Symbolic.MIDI, Symbolic.JAMS, Symbolic.TAB
Taken = tuple[Any, ...]


@dataclass(frozen=True)
class Trait:
    """Something that a solo can have; `says` is for several of it, `held` the formats that bring it back."""

    says: str
    held: frozenset[Symbolic]
    take: Callable[[SoloDocument], Taken]
    beside: str = ""  # what a format that does not hold it does about it
    own: Mapping[Symbolic, str] = field(default_factory=dict)  # where one of them does something else


def _per_note(what: Callable[[Note], Any], *, sounding: bool = False) -> Callable[[SoloDocument], Taken]:
    """Of every note for which it is anything: where the note is, and what it is."""

    def take(document: SoloDocument) -> Taken:
        found = []
        for note in document.solo.notes:
            if sounding and written_pitch(note, document.solo.settings) is None:
                continue
            value = what(note)
            if value is not None and value is not False:
                found.append((note.tick, note.string, value))
        return tuple(found)

    return take


def _plain_fret(note: Note) -> int | None:
    whole = note.fret is not None and note.fret % HUNDREDTHS == 0
    return note.fret if whole and not isinstance(note.attack, Harmonic) and not note.dead else None


def _fret_between(note: Note) -> int | None:
    between = note.fret is not None and note.fret % HUNDREDTHS != 0
    return note.fret if between and not isinstance(note.attack, Harmonic) else None


def _levels(note: Note) -> tuple[int, ...] | None:
    """The levels that a bend goes through."""
    levels = tuple(quarters for _, quarters, _ in course_stages(note.course, note.ticks))
    return levels if note.course and any(levels) else None


def _course(note: Note) -> Any:
    """A bend with its times, without points that say nothing at its end."""
    points = list(note.course)
    while len(points) > 1 and points[-1][1] == points[-2][1]:
        points.pop()
    return tuple(points) if any(quarters for _, quarters in points) else None


def _slide_in(note: Note) -> str | None:
    if not isinstance(note.attack, SlideIn):
        return None
    start = note.attack.start
    below = start == "far below" or (isinstance(start, int) and start < (note.fret or 0))
    return "below" if below else "above"


def _from_fret(note: Note) -> int | None:
    return note.attack.start if isinstance(note.attack, SlideIn) and isinstance(note.attack.start, int) else None


def _slide_off(note: Note) -> str | None:
    if not isinstance(note.ending, SlideOff):
        return None
    to = note.ending.to
    return "up" if to == "far up" or (isinstance(to, int) and to > (note.fret or 0)) else "down"


def _slide_ticks(note: Note) -> tuple[int, int] | None:
    into = note.attack.ticks if isinstance(note.attack, SlideIn) else 0
    away = note.ending.ticks if isinstance(note.ending, SlideOff) else 0
    return (into, away) if into or away else None


def _bars_outside(document: SoloDocument) -> Taken:
    """Bars of the chart before and after the solo."""
    bars = document.ground.timeline.bars
    first, last = bars_of_solo(document.solo, bars)
    return tuple(bar.number for bar in bars.bars if not first <= bar.number <= last)


def _stroke(document: SoloDocument) -> Taken:
    by_id = {stack.id: stack for stack in document.solo.stacks}
    ticks = {note.stack: note.tick for note in document.solo.notes if note.stack is not None}
    return tuple(
        sorted((ticks[i], stack.stroke) for i, stack in by_id.items() if stack.stroke is not None and i in ticks)
    )


def _picks_in_stacks(document: SoloDocument) -> Taken:
    strokes = {stack.id: stack.stroke for stack in document.solo.stacks}
    return tuple(
        (note.tick, note.string, note.pick)
        for note in document.solo.notes
        if note.stack is not None and note.pick is not None and note.pick.value != strokes.get(note.stack)
    )


def _chords(document: SoloDocument) -> Taken:
    """Where another symbol begins to sound."""
    timeline = document.ground.timeline
    found: list[tuple[int, str]] = []
    for change in timeline.changes:
        if change.tick < timeline.written_end and (not found or found[-1][1] != change.shown):
            found.append((change.tick, change.shown))
    return tuple(found)


def _changed(document: SoloDocument, what: Callable[[Any], Any]) -> Taken:
    """Of the facts of the bars, where one becomes another."""
    found: list[tuple[int, Any]] = []
    for number, facts in sorted(document.ground.timeline.facts.items()):
        value = what(facts)
        if number > 0 and value is not None and (not found or found[-1][1] != value):
            found.append((number, value))
    return tuple(found)


def _sections(document: SoloDocument) -> Taken:
    """The bars at which sections begin; a number behind a name tells sections apart that differ."""
    played = sorted(document.ground.timeline.played.items())
    return tuple(
        (number, re.sub(r" \(\d+\)$", "", one.section)) for number, one in played if one.index == 1 and one.section
    )


def _tempo(document: SoloDocument) -> Taken:
    """Seconds from the first tick to every bar line, to a hundredth."""
    ground = document.ground
    start = ground.grid.second(ground.timeline.bars.first_tick)
    return tuple(round(ground.grid.second(bar.end) - start, 2) for bar in ground.timeline.bars.bars)


def _first_tempo(document: SoloDocument) -> Taken:
    """Whole quarter notes a minute; no usual tempo lies where this rounds."""
    return (int(document.ground.grid.tempo_bpm(0, QUARTER) + 0.3),)


def _tuning(document: SoloDocument) -> Taken:
    settings = document.solo.settings
    return settings.tuning, settings.capo


def _other_words(document: SoloDocument) -> Taken:
    solo = document.solo
    return (*solo.phrases, *solo.questions, *solo.choices, *solo.remarks, *solo.plan)


def _placed_heard(document: SoloDocument) -> Taken:
    return tuple(note.id for note in document.solo.notes if note.heard is not None)


TRAITS: Final = (
    Trait("strings and frets", frozenset({X, M, J, T}), _per_note(_plain_fret)),
    Trait("places between frets", frozenset({X, T}), _per_note(_fret_between), "the nearest quarter tone sounds"),
    Trait("lengths of notes", frozenset({X, M, J}), _per_note(lambda note: note.ticks, sounding=True),
          "a note lasts until the next"),
    Trait("sizes of bends and releases", frozenset({X, M, J, T}), _per_note(_levels, sounding=True),
          "", {M: "of notes without vibrato", J: "of notes without vibrato"}),
    Trait("when bends move", frozenset({X}), _per_note(_course, sounding=True),
          "evenly over the note", {M: "nearly", J: "nearly"}),
    Trait("vibratos", frozenset({X, T}), _per_note(lambda note: note.vibrato is not None, sounding=True),
          "", {M: "of two turns or more", J: "of two turns or more"}),
    Trait("vibratos with the bar", frozenset({X, T}), _per_note(
        lambda note: note.vibrato is not None and note.vibrato.by is By.BAR
    )),
    Trait("widths and rates of vibrato", frozenset(), _per_note(
        lambda note: None if note.vibrato is None else (note.vibrato.width_cents, note.vibrato.rate_hz), sounding=True
    ), "usual ones", {M: "nearly", J: "nearly"}),
    Trait("hammer-ons", frozenset({X, T}), _per_note(lambda note: isinstance(note.attack, HammerOn))),
    Trait("pull-offs", frozenset({X, T}), _per_note(lambda note: isinstance(note.attack, PullOff))),
    Trait("slides", frozenset({X, T}), _per_note(lambda note: isinstance(note.attack, Slide)), "steps"),
    Trait("slides from nowhere", frozenset({X, T}), _per_note(_slide_in)),
    Trait("slides away", frozenset({X, T}), _per_note(_slide_off)),
    Trait("lengths of slides in and away", frozenset(), _per_note(_slide_ticks), "usual ones"),
    Trait("frets that slides come from", frozenset({T}), _per_note(_from_fret), "from below or above"),
    Trait("tapped notes", frozenset({X, T}), _per_note(lambda note: isinstance(note.attack, Tapped))),
    Trait("harmonics", frozenset({X, T}), _per_note(
        lambda note: note.attack.how if isinstance(note.attack, Harmonic) else None
    ), "the pitch that sounds, stopped"),
    Trait("dead notes", frozenset({X, T}), _per_note(lambda note: note.dead), "left out"),
    Trait("frets of dead notes", frozenset({X}), _per_note(lambda note: note.fret if note.dead else None)),
    Trait("notes that are not known", frozenset({X, T}), _per_note(
        lambda note: note.sure is Sure.UNKNOWN and not note.dead
    ), "left out"),
    Trait("unsure notes", frozenset({X, T}), _per_note(lambda note: note.sure is Sure.UNSURE), "as if they were sure"),
    Trait("ghost notes", frozenset({X, T}), _per_note(lambda note: note.ghost), "", {M: "struck softer"}),
    Trait("accents", frozenset({X, T}), _per_note(lambda note: note.accent), "", {M: "struck harder"}),
    Trait("palm mutes", frozenset({X, T}), _per_note(lambda note: note.palm_mute)),
    Trait("trills", frozenset({X, T}), _per_note(lambda note: note.trill is not None)),
    Trait("tremolo picking", frozenset({X, T}), _per_note(lambda note: note.tremolo is not None)),
    Trait("rakes", frozenset({X, T}), _per_note(lambda note: None if note.rake is None else note.rake.strings)),
    Trait("staccato", frozenset({X, T}), _per_note(lambda note: isinstance(note.ending, Staccato))),
    Trait("choked endings", frozenset({X, T}), _per_note(lambda note: isinstance(note.ending, Choked))),
    Trait("notes left to ring", frozenset({X, T}), _per_note(lambda note: isinstance(note.ending, LetRing))),
    Trait("fingers of the left hand", frozenset({X}), _per_note(lambda note: note.finger)),
    Trait("strokes of the pick", frozenset({X}), _per_note(lambda note: note.pick if note.stack is None else None)),
    Trait("strokes of stacks", frozenset({X}), _stroke),
    Trait("strokes of single notes in a stack", frozenset(), _picks_in_stacks),
    Trait("rests", frozenset({X}), lambda d: tuple(joined_spans((rest.tick, rest.end) for rest in d.solo.rests)),
          "", {M: "what is silent", J: "what is silent"}),
    Trait("loudness", frozenset({X}), lambda d: tuple((one.tick, one.level) for one in d.solo.dynamics),
          "", {M: "velocities, which are not read back"}),
    Trait("swells", frozenset({X}), lambda d: tuple((one.start, one.end, one.to) for one in d.solo.swells)),
    Trait("chords", frozenset({X, M, J}), _chords, "their beats, and none before its first"),
    Trait("keys", frozenset({X, J}), lambda d: _changed(d, lambda facts: facts.key)),
    Trait("major and minor keys", frozenset({X, M, J}), lambda d: _changed(
        d, lambda facts: facts.key if facts.key is not None and facts.key.mode in (Mode.MAJOR, Mode.MINOR) else None
    )),
    Trait("meters", frozenset({X, M, J}), lambda d: _changed(
        d, lambda facts: (facts.meter.numerator, facts.meter.denominator)
    ), "one for the piece"),
    Trait("groups of uneven meters", frozenset({X}), lambda d: _changed(d, lambda facts: facts.meter.groups or None)),
    Trait("feel", frozenset({X, M, J}), lambda d: _changed(d, lambda facts: str(facts.feel)), "one for the piece"),
    Trait("sections", frozenset({X, M, J}), _sections),
    Trait("changes of tempo", frozenset({X, M, J}), _tempo, "one tempo"),
    Trait("the tempo at the start", frozenset({X, M, J, T}), _first_tempo),
    Trait("where bar 1 lies in the recording", frozenset({J}), lambda d: (round(d.ground.grid.second(0), 3),),
          "the music begins with the file"),
    Trait("tuning and capo", frozenset({X, M, J, T}), _tuning),
    Trait("bars outside the solo", frozenset(), _bars_outside, "left out",
          {M: "bars of the solo", J: "bars of the solo"}),
    Trait("blues sections", frozenset(), lambda d: _changed(d, lambda facts: facts.blues or None)),
    Trait("phrases, questions, choices, remarks and the plan", frozenset(), _other_words),
    Trait("what was heard of the notes", frozenset(), _placed_heard),
)  # fmt: skip
ALWAYS: Final = (
    "gauges, scale length, rig and credits",
    "how far apart the strings of a stroke sound",
    "chords counted from their root",
    "repeats and choruses of the form: bars stand as they are played",
)


def not_held(document: SoloDocument, kind: Symbolic) -> list[str]:
    """What of a solo a file of this kind will not bring back, in words, with how much there is of it."""
    said = []
    for trait in TRAITS:
        if kind in trait.held:
            continue
        count = len(trait.take(document))
        if count and trait.says != "major and minor keys":
            told = trait.own.get(kind, trait.beside)
            beside = f" ({told})" if told else ""
            said.append(f"{trait.says}: {count}{beside}")
    return said


def table() -> str:
    """The table of docs/format.md."""
    lines = ["| | MusicXML | MIDI | JAMS | text tablature |", "| --- | --- | --- | --- | --- |"]
    for trait in TRAITS:
        marks = " | ".join(_mark(trait, kind) for kind in Symbolic)
        lines.append(f"| {trait.says} | {marks} |")
    return "\n".join(lines) + "\n"


def _mark(trait: Trait, kind: Symbolic) -> str:
    told = trait.own.get(kind, "" if kind in trait.held else trait.beside)
    held = "yes" if kind in trait.held else "no"
    return f"{held}: {told}" if told else held
