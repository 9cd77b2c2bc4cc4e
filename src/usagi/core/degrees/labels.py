"""Labels: every note's name, and its degrees on each line (docs/model.md, Labels and documents).

Lines are the chart, each layer of other changes that the teacher laid, and the key. One of them is shown. A stage's
chord is the one that its degree counts from; on an anticipation that is the chord to come, and `other` holds the
degree against the chord that still sounds.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.degrees.alone import alone
from usagi.core.degrees.lines import Line, Role, StageLabel
from usagi.core.degrees.spoken import Context, Spoken, Wording
from usagi.core.document.elements import ChangesChoice, Note
from usagi.core.document.pitches import Stage, main_stage
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord

RULES = 3  # number of the rules that labels follow; raised whenever a label could change


class HeldDegree(NamedTuple):
    """The new degree of a note that is held over a change."""

    tick: int
    chord: str
    degree: str


class Overruled(NamedTuple):
    """What was computed where the teacher gave a note another role."""

    role: Role | None
    goal: str | None
    says: str


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
    overruled: Overruled | None = None


def read_note(
    note: Note,
    of: list[Stage],
    timeline: Timeline,
    early: Change | None,
    layers: Sequence[ChangesChoice],
    wording: Wording,
    scale: frozenset[int] | None = None,
) -> NoteReading:
    """A note by itself: its names and degrees, and the role that it has whatever stands around it.

    `scale` are the pitch classes of the scale reading that the teacher picked for its phrase.
    """
    facts = wording.context(note.tick)
    held_on = early is not None or note.end > wording.until  # else no chord changes under it
    lines: tuple[Line, ...]
    if len(of) == 1:
        contexts = [facts if early is None else wording.hearing(early, early.tick)]
        main: Stage | None = of[0]
        names: tuple[str, ...] = (wording.name(of[0].midi, contexts[0]),)
        lines = _spoken(of[0], contexts[0], facts, early, wording, scale).lines(of[0].tick, of[0].midi)
    else:
        contexts = [_context(stage, note, wording, early) for stage in of]
        main = main_stage(of)
        names = tuple([wording.name(stage.midi, context) for stage, context in zip(of, contexts, strict=True)])
        lines = (
            _chord_line("chart", of, main, contexts, facts.change, early, wording, scale, curled=is_curl(note)),
            _key_line(of, main, facts, wording),
        )
    shown = 0
    laid = [layer for layer in layers if layer.start <= note.tick < layer.end] if layers else []
    if laid:
        lines, shown = _with_layers(*lines, [_layer_line(layer, note, of, main, wording, scale) for layer in laid])
    written = _written(note, of)
    other = None
    if early is not None and facts.change is not None and facts.change.heard is not None and shown == 0:
        other = None if main is None else wording.degree(main.midi, facts)
    return NoteReading(
        id=note.id,
        where=facts.bar.place(note.tick),
        name=None if written is None else wording.name(written.midi, contexts[0]),
        midi=None if written is None else written.midi,
        lines=lines,
        degree=lines[shown].degree,
        key_degree=lines[-1].degree,
        other_degree=other,
        stage_names=names,
        held=tuple(_held(note, of, timeline, early, wording)) if held_on else (),
    )


def is_curl(note: Note) -> bool:
    """Whether a note is bent by about a quarter, and no further."""
    return bool(note.course) and max(quarters for _, quarters in note.course) == 1


def _spoken(
    stage: Stage,
    context: Context,
    here: Context,
    early: Change | None,
    wording: Wording,
    scale: frozenset[int] | None,
) -> Spoken:
    """What is said of a note that keeps one pitch, remembered: over the same chords it is the same in every octave."""
    known = (stage.midi % 12, context.same, here.same, early is not None, scale)
    spoken = wording.spoken.get(known)
    if spoken is None:
        chart = _chord_line("chart", [stage], stage, [context], here.change, early, wording, scale)
        key = _key_line([stage], stage, here, wording)
        spoken = wording.spoken[known] = Spoken.of(chart, key)
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
    lifted = next(stage for stage in of if stage.held or stage is of[-1])
    midi = lifted.midi - note.course[0][1] / 2
    return Stage(note.tick, int(midi) if midi == int(midi) else midi, start.held)


def _context(stage: Stage, note: Note, wording: Wording, early: Change | None) -> Context:
    at = min(stage.tick, note.end - 1)  # what is reached at the very end is heard before the bar line after it
    if early is not None and at < early.tick:
        return wording.hearing(early, early.tick)
    return wording.context(at)


def _chord_line(
    line: str,
    of: list[Stage],
    main: Stage | None,
    contexts: list[Context],
    here: Change | None,
    early: Change | None,
    wording: Wording,
    scale: frozenset[int] | None,
    *,
    curled: bool = False,
) -> Line:
    labels = []
    for stage, context in zip(of, contexts, strict=True):
        shown = None if context.change is None else context.change.shown
        labels.append(StageLabel(stage.tick, stage.midi, shown, wording.degree(stage.midi, context)))
    word = labels[of.index(main)].degree if main is not None else None
    by_itself = None
    if main is not None and word is not None:
        chosen = contexts[of.index(main)]
        assert chosen.change is not None and chosen.change.heard is not None
        by_itself = alone(
            main.midi, word, chosen.change.heard, chosen.key, chosen.blues, scale, curled, early is not None
        )
    against = early or here
    return Line(
        line=line,
        shown=line == "chart",
        heard_on=None if against is None or against.heard is None else against.shown,
        chord=None if here is None else here.shown,
        degree=word,
        role=None if by_itself is None else by_itself.role,
        goal=None,
        says="" if by_itself is None else by_itself.says,
        marks=(),
        blue=by_itself.blue if by_itself is not None else any(stage.midi % 1 for stage in of),
        stages=tuple(labels),
    )


def _layer_line(
    layer: ChangesChoice,
    note: Note,
    of: list[Stage],
    main: Stage | None,
    wording: Wording,
    scale: frozenset[int] | None,
) -> Line:
    """A note against the teacher's own changes; the last one before a stage counts."""
    timeline = wording.timeline

    def change_at(tick: int) -> Change | None:
        before = [chord for chord in layer.chords if chord.tick <= tick]
        if not before:
            return timeline.chord_at(tick)
        last = max(before, key=lambda chord: chord.tick)
        chord = parse_chord(last.symbol)
        return Change(last.tick, layer.id, chord, hear(chord), timeline.bars.at(last.tick).number)

    def context(stage: Stage) -> Context:
        at = min(stage.tick, note.end - 1)
        return wording.hearing(change_at(at), at)

    contexts = [context(stage) for stage in of]
    here = change_at(note.tick)
    line = _chord_line(layer.name, of, main, contexts, here, None, wording, scale, curled=is_curl(note))
    return line._replace(shown=layer.shown)


def _key_line(of: list[Stage], main: Stage | None, here: Context, wording: Wording) -> Line:
    labels = tuple([StageLabel(s.tick, s.midi, None, wording.key_degree(s.midi, here)) for s in of])
    return Line(
        line="key",
        shown=False,
        heard_on=None if here.key is None else wording.key(here.key),
        chord=None,
        degree=labels[of.index(main)].degree if main is not None else None,
        role=None,
        goal=None,
        says="",
        marks=(),
        blue=False,
        stages=labels,
    )


def _held(
    note: Note, of: list[Stage], timeline: Timeline, early: Change | None, wording: Wording
) -> Iterable[HeldDegree]:
    """The degrees that a note takes when the chord changes under it."""
    if not of:
        return
    change = timeline.next_change(early.tick if early is not None else note.tick)
    while change is not None and change.tick < note.end and change.tick < timeline.written_end:
        sounding = [stage for stage in of if stage.tick <= change.tick][-1]
        started_here = sounding.tick == change.tick
        word = None if started_here else wording.degree(sounding.midi, wording.hearing(change, change.tick))
        if word is not None:
            yield HeldDegree(tick=change.tick, chord=change.shown, degree=word)
        change = timeline.next_change(change.tick)
