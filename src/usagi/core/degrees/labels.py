"""Labels: every note's name, and its degrees on each line (model.md, Labels and documents).

Lines are the chart, each layer of other changes that the teacher laid, and the key. One of them is shown. A stage's
chord is the one that its degree counts from; on an anticipation that is the chord to come, and `other` holds the
degree against the chord that still sounds.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.anticipation import anticipated
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.naming import name_pitch
from usagi.core.document.pitches import Stage, main_stage, stages
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import AnticipationChoice, ChangesChoice, Note
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, pitch_text

RULES = 1  # number of the rules that labels follow; raised whenever a label could change


class Role(StrEnum):
    ANTICIPATION = "anticipation"
    CHORD_TONE = "chord tone"
    TENSION = "tension"


@dataclass(frozen=True, slots=True)
class StageLabel:
    """A pitch that a note reaches, the chord that its degree counts from, and the degree (`b3+` a quarter above)."""

    tick: int
    midi: float
    chord: str | None
    degree: str | None


@dataclass(frozen=True, slots=True)
class Line:
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


@dataclass(frozen=True, slots=True)
class HeldDegree:
    """The new degree of a note that is held over a change."""

    tick: int
    chord: str
    degree: str


@dataclass(frozen=True, slots=True)
class NoteReading:
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
    """What belongs to the reader: how degrees and names are said."""

    style: Style = Style.DEFAULT
    syllables: bool = False


class _Context(NamedTuple):
    """What a stage is heard against: the change, and what holds in its bar."""

    change: Change | None
    key: Key | None
    blues: bool


def read_notes(solo: Solo, ground: Ground, reader: Reader = Reader()) -> list[NoteReading]:
    """The reading of every note of a solo, in time order."""
    timeline = ground.timeline
    all_stages = {note.id: stages(note, solo.settings) for note in solo.notes}
    overruled = {c.note: c for c in solo.choices if isinstance(c, AnticipationChoice)}
    early = anticipated(solo.notes, all_stages, timeline, window=solo.settings.window, choices=overruled)
    layers = [c for c in solo.choices if isinstance(c, ChangesChoice)]
    return [_read(note, all_stages[note.id], timeline, early.get(note.id), layers, reader) for note in solo.notes]


def _read(
    note: Note,
    of: list[Stage],
    timeline: Timeline,
    early: Change | None,
    layers: Sequence[ChangesChoice],
    reader: Reader,
) -> NoteReading:
    here = timeline.chord_at(note.tick)
    contexts = [_context(stage, note, timeline, early) for stage in of]
    lines = [_chord_line("chart", of, contexts, here, early, reader)]
    for layer in layers:
        if layer.start <= note.tick < layer.end:
            lines.append(_layer_line(layer, note, of, timeline, reader))
    key = timeline.facts_at(note.tick).key
    lines.append(_key_line(of, key))
    shown = next((i for i, line in enumerate(lines) if line.shown and 0 < i < len(lines) - 1), 0)
    lines = [line if line.shown == (i == shown) else replace(line, shown=i == shown) for i, line in enumerate(lines)]
    names = tuple(_stage_name(stage, context, reader) for stage, context in zip(of, contexts, strict=True))
    written = _written(note, of)
    other = None
    if early is not None and here is not None and here.heard is not None and shown == 0:
        main = main_stage(of)
        facts = timeline.facts_at(note.tick)
        other = None if main is None else _degree(main.midi, here.heard, reader.style, facts.blues)
    return NoteReading(
        id=note.id,
        where=timeline.bars.place(note.tick),
        name=None if written is None else _stage_name(written, contexts[0], reader),
        midi=None if written is None else written.midi,
        lines=tuple(lines),
        degree=lines[shown].degree,
        key_degree=lines[-1].degree,
        other_degree=other,
        stage_names=names,
        held=tuple(_held(note, of, timeline, early, reader)),
    )


def _written(note: Note, of: list[Stage]) -> Stage | None:
    """The pitch at the fret: the start, from which a prebend is already lifted."""
    if not of:
        return None
    lifted = note.course[0][1] / 2 if note.course else 0
    start = of[1] if len(of) > 1 and note.attack.kind == "slide-in" and of[0].held == 0 else of[0]
    midi = start.midi - lifted
    return Stage(note.tick, int(midi) if midi == int(midi) else midi, start.held)


def _context(stage: Stage, note: Note, timeline: Timeline, early: Change | None) -> _Context:
    at = min(stage.tick, note.end - 1)  # what is reached at the very end is heard before the bar line after it
    if early is not None and at < early.tick:
        facts = timeline.facts_at(early.tick)
        return _Context(early, facts.key, facts.blues)
    facts = timeline.facts_at(at)
    return _Context(timeline.chord_at(at), facts.key, facts.blues)


def _degree(midi: float, heard: Heard, style: Style, blues: bool) -> str:
    """The degree of a pitch; a quarter tone is the slot below with a plus."""
    slot = (int(midi // 1) - heard.root.pitch_class) % 12
    return degree(heard, slot, style=style, blues=blues) + ("+" if midi % 1 else "")


def _stage_name(stage: Stage, context: _Context, reader: Reader) -> str:
    whole = int(stage.midi // 1)
    heard = context.change.heard if context.change is not None else None
    name: Name = name_pitch(whole % 12, heard, context.key, blues=context.blues)
    return pitch_text(name, stage.midi, syllables=reader.syllables)


def _chord_line(
    line: str, of: list[Stage], contexts: list[_Context], here: Change | None, early: Change | None, reader: Reader
) -> Line:
    labels = []
    for stage, context in zip(of, contexts, strict=True):
        heard = context.change.heard if context.change is not None else None
        said = None if heard is None else _degree(stage.midi, heard, reader.style, context.blues)
        labels.append(
            StageLabel(
                tick=stage.tick,
                midi=stage.midi,
                chord=None if context.change is None else context.change.shown,
                degree=said,
            )
        )
    main = main_stage(of)
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


def _layer_line(layer: ChangesChoice, note: Note, of: list[Stage], timeline: Timeline, reader: Reader) -> Line:
    """A note against the teacher's own changes; the last one before a stage counts."""

    def change_at(tick: int) -> Change | None:
        before = [chord for chord in layer.chords if chord.tick <= tick]
        if not before:
            return timeline.chord_at(tick)
        last = max(before, key=lambda chord: chord.tick)
        chord = parse_chord(last.symbol)
        return Change(last.tick, layer.id, chord, hear(chord), timeline.bars.at(last.tick).number)

    def context(stage: Stage) -> _Context:
        at = min(stage.tick, note.end - 1)
        facts = timeline.facts_at(at)
        return _Context(change_at(at), facts.key, facts.blues)

    line = _chord_line(layer.name, of, [context(stage) for stage in of], change_at(note.tick), None, reader)
    return replace(line, shown=layer.shown)


def _key_line(of: list[Stage], key: Key | None) -> Line:
    word = None if key is None else str(key)

    def said(stage: Stage) -> str | None:
        if key is None:
            return None
        return key.degree(int(stage.midi // 1) % 12) + ("+" if stage.midi % 1 else "")

    labels = tuple(StageLabel(tick=s.tick, midi=s.midi, chord=None, degree=said(s)) for s in of)
    main = main_stage(of)
    return Line(
        line="key",
        shown=False,
        heard_on=word,
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


def _held(
    note: Note, of: list[Stage], timeline: Timeline, early: Change | None, reader: Reader
) -> Iterable[HeldDegree]:
    """The degrees that a note takes when the chord changes under it."""
    if not of:
        return
    change = timeline.next_change(early.tick if early is not None else note.tick)
    while change is not None and change.tick < note.end and change.tick < timeline.written_end:
        sounding = [stage for stage in of if stage.tick <= change.tick][-1]
        started_here = sounding.tick == change.tick
        if change.heard is not None and not started_here:
            blues = timeline.facts_at(change.tick).blues
            said = _degree(sounding.midi, change.heard, reader.style, blues)
            yield HeldDegree(tick=change.tick, chord=change.shown, degree=said)
        change = timeline.next_change(change.tick)
