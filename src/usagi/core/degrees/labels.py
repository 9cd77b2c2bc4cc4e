"""Labels: every note's name, and its degrees on each line (model.md, Labels and documents).

Lines are the chart, each layer of other changes that the teacher laid, and the key. One of them is shown. A stage's
chord is the one that its degree counts from; on an anticipation that is the chord to come, and `other` holds the
degree against the chord that still sounds.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.anticipation import anticipated
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.naming import name_pitch
from usagi.core.document.pitches import Stage, main_stage, stages
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import AnticipationChoice, ChangesChoice, Note
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import School
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, pitch_text

RULES = 1  # number of the rules that labels follow; raised whenever a label could change


class Role(StrEnum):
    ANTICIPATION = "anticipation"
    CHORD_TONE = "chord tone"
    TENSION = "tension"


class StageLabel(NamedTuple):
    """A pitch that a note reaches, the chord that its degree counts from, and the degree (`b3+` a quarter above)."""

    tick: int
    midi: float
    chord: str | None
    degree: str | None


class Line(NamedTuple):
    """A note on one line. `heard_on` is what its degree counts from (a chord, or the key), `chord` what sounds."""

    line: str  # "chart", "key", or the name of a layer of other changes
    shown: bool
    heard_on: str | None
    chord: str | None
    degree: str | None
    role: Role | None
    goal: str | None
    blue: bool
    stages: tuple[StageLabel, ...]


class HeldDegree(NamedTuple):
    """The new degree of a note that is held over a change."""

    tick: int
    chord: str
    degree: str


class NoteReading(NamedTuple):
    """All that is computed for one note."""

    id: str
    where: str
    name: str | None
    midi: float | None
    lines: tuple[Line, ...]
    degree: str | None
    key_degree: str | None
    other_degree: str | None
    stage_names: tuple[str, ...]
    held: tuple[HeldDegree, ...]


class Reader(NamedTuple):
    """What belongs to the reader: how degrees, names and counts are said."""

    style: Style = Style.DEFAULT
    syllables: bool = False
    school: School = School.A


class _Context(NamedTuple):
    """What a stage is heard against: the change, and what holds in its bar. Where `same` is equal, so is all said."""

    change: Change | None
    key: Key | None
    blues: bool
    same: int
    bar: Bar


class _Spoken(NamedTuple):
    """What is said of a note that keeps one pitch, whenever it comes: its two lines without the stage, and its name."""

    chart: tuple[Any, ...]  # the fields of a Line before `stages`
    chord: str | None
    degree: str | None
    key: tuple[Any, ...]
    key_degree: str | None
    name: str


class _Said:
    """What sounds at a tick and what is said of a pitch over it, remembered: the same few come back all through a solo.

    Chords and keys are told apart by identity; the timeline keeps them alive as long as this is used.
    """

    def __init__(self, timeline: Timeline, reader: Reader) -> None:
        self.timeline = timeline
        self.reader = reader
        self._context: _Context | None = None
        self._from = self.until = 0  # of the last context; notes come in time order
        self._same: dict[tuple[str | None, int, int, bool], int] = {}
        self.spoken: dict[tuple[float, int, int, bool], _Spoken] = {}
        self._degrees: dict[tuple[int, float, bool], str] = {}
        self._key_degrees: dict[tuple[int, float], str] = {}
        self._names: dict[tuple[int, float, int, bool], str] = {}
        self._keys: dict[int, str] = {}

    def degree(self, midi: float, heard: Heard, blues: bool) -> str:
        """The degree of a pitch; a quarter tone is the slot below with a plus."""
        known = (id(heard), midi, blues)
        said = self._degrees.get(known)
        if said is None:
            slot = (int(midi // 1) - heard.root.pitch_class) % 12
            said = degree(heard, slot, style=self.reader.style, blues=blues) + ("+" if midi % 1 else "")
            self._degrees[known] = said
        return said

    def context(self, tick: int) -> _Context:
        if self._context is None or not self._from <= tick < self.until:
            timeline = self.timeline
            change, after = timeline.chord_at(tick), timeline.next_change(tick)
            self._context = self.hearing(change, tick)
            self._from = tick
            end = self._context.bar.end
            self.until = min(end, end if after is None else after.tick)
            if tick < timeline.written_end:
                self.until = min(self.until, timeline.written_end)
        return self._context

    def hearing(self, change: Change | None, tick: int) -> _Context:
        """A change heard with the key and the blues marking at a tick."""
        facts = self.timeline.facts_at(tick)
        shown, heard = (None, 0) if change is None else (change.shown, id(change.heard))
        known = (shown, heard, id(facts.key), facts.blues)
        same = self._same.setdefault(known, len(self._same))
        return _Context(change, facts.key, facts.blues, same, self.timeline.bars.at(tick))

    def key_degree(self, midi: float, key: Key) -> str:
        known = (id(key), midi)
        said = self._key_degrees.get(known)
        if said is None:
            said = key.degree(int(midi // 1) % 12) + ("+" if midi % 1 else "")
            self._key_degrees[known] = said
        return said

    def key(self, key: Key) -> str:
        return self._keys.get(id(key)) or self._keys.setdefault(id(key), str(key))

    def name(self, midi: float, context: _Context) -> str:
        heard = context.change.heard if context.change is not None else None
        known = (id(heard), midi, id(context.key), context.blues)
        said = self._names.get(known)
        if said is None:
            name: Name = name_pitch(int(midi // 1) % 12, heard, context.key, blues=context.blues)
            said = self._names[known] = pitch_text(name, midi, syllables=self.reader.syllables)
        return said


MOST_CHANGED = 40  # notes; when more are changed in one go, all are read anew


@dataclass(frozen=True)
class Readings:
    """The readings of a solo's notes by id, and what they were made of, so that the next are made of what changed."""

    solo: Solo
    ground: Ground
    reader: Reader
    written: Mapping[str, Note]
    early: Mapping[str, Change]
    notes: Mapping[str, NoteReading]
    anew: frozenset[str] | None = None  # the notes that were read anew since the readings before; None for all

    def differing(self, solo: Solo) -> tuple[list[Note], list[Note]] | None:
        """What was written here and is no more, and what is written now instead; None when more than a little is."""
        written = self.written
        now = [note for note in solo.notes if written.get(note.id) is not note]
        gone = [written[note.id] for note in now if note.id in written]
        if len(written) - len(gone) > len(solo.notes) - len(now):  # some have gone without another in their place
            ids = {note.id for note in solo.notes}
            gone += [note for note_id, note in written.items() if note_id not in ids]
        return None if len(now) + len(gone) > MOST_CHANGED else (gone, now)


def read_notes(solo: Solo, ground: Ground, reader: Reader = Reader()) -> list[NoteReading]:
    """The reading of every note of a solo, in time order."""
    return list(readings(solo, ground, reader).notes.values())


def readings(solo: Solo, ground: Ground, reader: Reader = Reader(), before: Readings | None = None) -> Readings:
    """The readings of all notes.

    `before` are readings of an earlier state: those of notes for which nothing changed are taken over.
    """
    if before is not None and before.ground is ground and before.reader == reader:
        same = before.solo.settings == solo.settings and before.solo.choices == solo.choices
        differing = before.differing(solo) if same else None
        if differing is not None:
            return _read_on(before, solo, *differing)
    early = _anticipated(solo.notes, solo, ground)
    notes = _read_all(solo.notes, solo, ground, reader, early)
    return Readings(solo, ground, reader, {note.id: note for note in solo.notes}, early, notes)


def _read_on(before: Readings, solo: Solo, gone: list[Note], now: list[Note]) -> Readings:
    """Read what is written now instead of what is gone, and what comes so shortly before that it may lead there."""
    reach = solo.settings.window
    ticks = {note.tick for note in (*gone, *now)}
    near = {note.id: note for tick in ticks for note in _between(solo.notes, tick - reach, tick + reach)}
    led = _anticipated(sorted(near.values(), key=lambda note: note.tick), solo, before.ground)
    written, early, notes = dict(before.written), dict(before.early), dict(before.notes)
    for note in gone:
        early.pop(note.id, None)
        del written[note.id], notes[note.id]
    anew = []
    for note in near.values():
        leads = any(note.tick <= tick <= note.tick + reach for tick in ticks)
        if note.id not in written or (leads and early.get(note.id) is not led.get(note.id)):
            anew.append(note)
            written[note.id] = note
            early.pop(note.id, None)
            if note.id in led:
                early[note.id] = led[note.id]
    notes |= _read_all(anew, solo, before.ground, before.reader, early)
    return Readings(solo, before.ground, before.reader, written, early, notes, frozenset(note.id for note in anew))


def _between(notes: Sequence[Note], first: int, last: int) -> Sequence[Note]:
    """The notes, in time order, that begin at one of two ticks or between them."""
    return notes[bisect_left(notes, first, key=_tick) : bisect_right(notes, last, key=_tick)]


def _tick(note: Note) -> int:
    return note.tick


def _anticipated(notes: Sequence[Note], solo: Solo, ground: Ground) -> dict[str, Change]:
    overruled = {c.note: c for c in solo.choices if isinstance(c, AnticipationChoice)}
    return anticipated(notes, solo.settings, ground.timeline, choices=overruled)


def _read_all(
    notes: Sequence[Note], solo: Solo, ground: Ground, reader: Reader, early: Mapping[str, Change]
) -> dict[str, NoteReading]:
    layers = [c for c in solo.choices if isinstance(c, ChangesChoice)]
    said = _Said(ground.timeline, reader)
    return {
        note.id: _read(note, stages(note, solo.settings), ground.timeline, early.get(note.id), layers, said)
        for note in notes
    }


def _read(
    note: Note,
    of: list[Stage],
    timeline: Timeline,
    early: Change | None,
    layers: Sequence[ChangesChoice],
    said: _Said,
) -> NoteReading:
    facts = said.context(note.tick)
    held_on = early is not None or note.end > said.until  # else no chord changes under it
    lines: tuple[Line, ...]
    if len(of) == 1:
        contexts = [facts if early is None else said.hearing(early, early.tick)]
        main: Stage | None = of[0]
        spoken = _spoken(of[0], contexts[0], facts, early, said)
        tick, midi, _ = of[0]
        names: tuple[str, ...] = (spoken.name,)
        lines = (
            Line._make((*spoken.chart, (StageLabel(tick, midi, spoken.chord, spoken.degree),))),
            Line._make((*spoken.key, (StageLabel(tick, midi, None, spoken.key_degree),))),
        )
    else:
        contexts = [_context(stage, note, said, early) for stage in of]
        main = main_stage(of)
        names = tuple([said.name(stage.midi, context) for stage, context in zip(of, contexts, strict=True)])
        lines = (
            _chord_line("chart", of, main, contexts, facts.change, early, said),
            _key_line(of, main, facts.key, said),
        )
    shown = 0
    laid = [layer for layer in layers if layer.start <= note.tick < layer.end] if layers else []
    if laid:
        lines, shown = _with_layers(*lines, [_layer_line(layer, note, of, main, said) for layer in laid])
    written = _written(note, of)
    other = None
    if early is not None and facts.change is not None and facts.change.heard is not None and shown == 0:
        other = None if main is None else said.degree(main.midi, facts.change.heard, facts.blues)
    return NoteReading(
        id=note.id,
        where=facts.bar.place(note.tick),
        name=None if written is None else said.name(written.midi, contexts[0]),
        midi=None if written is None else written.midi,
        lines=lines,
        degree=lines[shown].degree,
        key_degree=lines[-1].degree,
        other_degree=other,
        stage_names=names,
        held=tuple(_held(note, of, timeline, early, said)) if held_on else (),
    )


def _spoken(stage: Stage, context: _Context, here: _Context, early: Change | None, said: _Said) -> _Spoken:
    """What is said of a note that keeps one pitch, remembered: over the same chords it is always the same."""
    known = (stage.midi, context.same, here.same, early is not None)
    spoken = said.spoken.get(known)
    if spoken is None:
        chart = _chord_line("chart", [stage], stage, [context], here.change, early, said)
        key = _key_line([stage], stage, here.key, said)
        spoken = said.spoken[known] = _Spoken(
            chart[:-1],
            chart.stages[0].chord,
            chart.stages[0].degree,
            key[:-1],
            key.degree,
            said.name(stage.midi, context),
        )
    return spoken


def _with_layers(chart: Line, key: Line, layers: list[Line]) -> tuple[tuple[Line, ...], int]:
    """The lines of a note under the teacher's own changes, and which of them is shown: the first layer that is."""
    shown = next((i for i, line in enumerate(layers, start=1) if line.shown), 0)
    lines = [chart, *layers, key]
    return tuple([x if x.shown == (i == shown) else x._replace(shown=i == shown) for i, x in enumerate(lines)]), shown


def _written(note: Note, of: list[Stage]) -> Stage | None:
    """The pitch at the fret: the start, from which a prebend is already lifted."""
    if not of:
        return None
    start = of[1] if len(of) > 1 and of[0].held == 0 and note.attack.kind == "slide-in" else of[0]
    if not note.course or not note.course[0][1]:
        return start
    midi = start.midi - note.course[0][1] / 2
    return Stage(note.tick, int(midi) if midi == int(midi) else midi, start.held)


def _context(stage: Stage, note: Note, said: _Said, early: Change | None) -> _Context:
    at = min(stage.tick, note.end - 1)  # what is reached at the very end is heard before the bar line after it
    if early is not None and at < early.tick:
        return said.hearing(early, early.tick)
    return said.context(at)


def _chord_line(
    line: str,
    of: list[Stage],
    main: Stage | None,
    contexts: list[_Context],
    here: Change | None,
    early: Change | None,
    said: _Said,
) -> Line:
    labels = []
    for stage, (change, _, blues, _, _) in zip(of, contexts, strict=True):
        if change is None:
            labels.append(StageLabel(stage.tick, stage.midi, None, None))
        else:
            word = None if change.heard is None else said.degree(stage.midi, change.heard, blues)
            labels.append(StageLabel(stage.tick, stage.midi, change.shown, word))
    chosen = contexts[of.index(main)] if main is not None else None
    heard = chosen.change.heard if chosen is not None and chosen.change is not None else None
    against = early or here
    return Line(
        line=line,
        shown=line == "chart",
        heard_on=None if against is None or against.heard is None else against.shown,
        chord=None if here is None else here.shown,
        degree=labels[of.index(main)].degree if main is not None else None,
        role=_role(main, heard, early=early is not None),
        goal=None,
        blue=_is_blue(main, of, heard, blues=chosen.blues if chosen is not None else False),
        stages=tuple(labels),
    )


def _layer_line(layer: ChangesChoice, note: Note, of: list[Stage], main: Stage | None, said: _Said) -> Line:
    """A note against the teacher's own changes; the last one before a stage counts."""
    timeline = said.timeline

    def change_at(tick: int) -> Change | None:
        before = [chord for chord in layer.chords if chord.tick <= tick]
        if not before:
            return timeline.chord_at(tick)
        last = max(before, key=lambda chord: chord.tick)
        chord = parse_chord(last.symbol)
        return Change(last.tick, layer.id, chord, hear(chord), timeline.bars.at(last.tick).number)

    def context(stage: Stage) -> _Context:
        at = min(stage.tick, note.end - 1)
        return said.hearing(change_at(at), at)

    line = _chord_line(layer.name, of, main, [context(stage) for stage in of], change_at(note.tick), None, said)
    return line._replace(shown=layer.shown)


def _key_line(of: list[Stage], main: Stage | None, key: Key | None, said: _Said) -> Line:
    labels = tuple(
        [StageLabel(s.tick, s.midi, None, None if key is None else said.key_degree(s.midi, key)) for s in of]
    )
    return Line(
        line="key",
        shown=False,
        heard_on=None if key is None else said.key(key),
        chord=None,
        degree=labels[of.index(main)].degree if main is not None else None,
        role=None,
        goal=None,
        blue=False,
        stages=labels,
    )


def _role(main: Stage | None, heard: Heard | None, *, early: bool) -> Role | None:
    """Anticipation, chord tone, named tension, or none of them."""
    if main is None or heard is None:
        return None
    if early:
        return Role.ANTICIPATION
    if main.midi % 1:
        return None
    slot = (int(main.midi) - heard.root.pitch_class) % 12
    if slot in heard.core:
        return Role.CHORD_TONE
    return Role.TENSION if slot in heard.extensions else None


def _is_blue(main: Stage | None, of: list[Stage], heard: Heard | None, *, blues: bool) -> bool:
    """A curl; b3 or b7 over a major triad or 6, b3 or b5 over a dominant, b5 over minor; never a tone the chord names.

    `blues` marks the section; it decides how the slot is called, not whether it is blue.
    """
    if main is None:
        return False
    if any(stage.midi % 1 for stage in of):
        return True
    if heard is None:
        return False
    slot = (int(main.midi) - heard.root.pitch_class) % 12
    if slot in heard.names:
        return False
    if heard.dominant:
        return slot in (3, 6)
    if heard.minor:
        return slot == 6
    return heard.third == 4 and heard.seventh is None and slot in (3, 10)


def _held(note: Note, of: list[Stage], timeline: Timeline, early: Change | None, said: _Said) -> Iterable[HeldDegree]:
    """The degrees that a note takes when the chord changes under it."""
    if not of:
        return
    change = timeline.next_change(early.tick if early is not None else note.tick)
    while change is not None and change.tick < note.end and change.tick < timeline.written_end:
        sounding = [stage for stage in of if stage.tick <= change.tick][-1]
        started_here = sounding.tick == change.tick
        if change.heard is not None and not started_here:
            blues = timeline.facts_at(change.tick).blues
            word = said.degree(sounding.midi, change.heard, blues)
            yield HeldDegree(tick=change.tick, chord=change.shown, degree=word)
        change = timeline.next_change(change.tick)
