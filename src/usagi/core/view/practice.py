"""The page that one plays from: one line of the plan, drawn, with where each note sounds and what is said of it."""

from __future__ import annotations

from usagi.core.chart.timeline import Timeline
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground, Solo
from usagi.core.fingering.hand import HandSize
from usagi.core.playing.loops import Loop, loop_span, whole_bars, whole_pulses, with_half_bars
from usagi.core.playing.timing import expected_seconds
from usagi.core.playing.vamp import VampStyle, style_of
from usagi.core.practice.plan import PlanLine, line_of, notes_of, plan
from usagi.core.practice.remarks import about
from usagi.core.values import Value
from usagi.core.view.licks import LickDrawing
from usagi.core.view.plan import Cautions, PlanLineView, RemarkView, drawn, view_line, view_remark


class LineName(Value):
    key: str
    name: str


class SoundingNote(Value):
    """A note, when it is expected, what is said of it and over which chord."""

    note: str
    second: float
    tick: int
    says: str
    chord: str


class PlaceSecond(Value):
    """Where a tick of the drawing sounds, for the playhead: linear between two of them."""

    tick: int
    second: float


class PracticeView(Value):
    """A line of the plan to play from. Frames are those of its loop; `lines` are all that can be chosen instead."""

    tune: str
    who: str
    line: PlanLineView
    lines: tuple[LineName, ...]
    start: int
    end: int
    tick: int
    drawing: LickDrawing | None
    notes: tuple[SoundingNote, ...]
    places: tuple[PlaceSecond, ...]
    remarks: tuple[RemarkView, ...]
    style: VampStyle
    key: str
    recorded: bool
    recorded_key: int  # half steps either way that the recording goes along; further away it is silent
    cautions: Cautions = Cautions()


def loop_of(line: PlanLine, solo: Solo, ground: Ground, *, around: bool) -> Loop:
    """The loop of a line: whole bars, of a group whole pulses; with half a bar on either side when asked.

    Parameters
    ----------
    line : of the plan.
    solo, ground : where it lies.
    around : whether half a bar is heard before it and after it.
    """
    bars = ground.timeline.bars
    if line.what.kind == "group":
        tick, end = whole_pulses(line.start, line.end, ground)
    elif line.what.kind == "phrase":
        tick, end = whole_bars(next(one for one in solo.phrases if one.id == line.what.phrase), ground)
    else:
        tick, end = bars.at(line.start).tick, bars.at(line.end - 1).end
    if around:
        tick, end = with_half_bars(tick, end, ground)
    return loop_span(solo, ground, tick, end)


def view_practice(
    solo: Solo,
    ground: Ground,
    key: str,
    *,
    tune: str,
    recorded: bool,
    recorded_key: int,
    around: bool = False,
    hand: HandSize = HandSize.USUAL,
    reader: Reader = Reader(),
) -> PracticeView:
    """A line as it is practised.

    Parameters
    ----------
    solo, ground : what is learnt.
    key : of the line.
    tune : its name.
    recorded : whether there is a recording to hear.
    recorded_key : half steps either way that it can be moved.
    around : with half a bar before and after.
    hand, reader : whose difficulty it is, and how degrees are said.

    Raises : PlanImpossible, for a line that is not there.
    """
    line = line_of(solo, ground, key, hand)
    loop = loop_of(line, solo, ground, around=around)
    inside = notes_of(solo, loop.tick, loop.end_tick)
    drawing = drawn(inside, solo, ground, reader)
    ticks = sorted({note.tick for note in inside})
    seconds = dict(zip(ticks, expected_seconds(solo, ground, ticks), strict=True))
    degrees = {one.note.id: one.degrees[-1] if one.degrees else "" for one in drawing.notes} if drawing else {}
    timeline = ground.timeline
    bar = timeline.bars.at(loop.tick)
    facts = timeline.facts_at(max(0, loop.tick))
    edges = sorted({loop.tick, loop.end_tick, *_edges(drawing), *_pulses(timeline, loop)})
    return PracticeView(
        tune=tune,
        who=" · ".join(word for word in (solo.settings.player, solo.settings.title) if word),
        line=view_line(line, solo, ground),
        lines=tuple(LineName(key=one.key, name=one.name) for one in plan(solo, ground, hand) if not one.left_out),
        start=loop.start,
        end=loop.end,
        tick=loop.tick,
        drawing=drawing,
        notes=tuple(
            SoundingNote(
                note=note.id,
                second=seconds[note.tick],
                tick=note.tick,
                says=degrees.get(note.id, ""),
                chord=_chord(timeline, note.tick),
            )
            for note in inside
        ),
        places=tuple(PlaceSecond(tick=tick, second=ground.grid.second(tick)) for tick in edges),
        remarks=tuple(view_remark(one, solo, ground, reader) for one in about(solo, ground, line.start, line.end)),
        style=style_of(facts.feel, bar),
        key="" if facts.key is None else str(facts.key),
        recorded=recorded,
        recorded_key=recorded_key,
    )


def _chord(timeline: Timeline, tick: int) -> str:
    change = timeline.chord_at(tick)
    return "" if change is None else change.shown


def _edges(drawing: LickDrawing | None) -> tuple[int, ...]:
    return () if drawing is None else (drawing.start, drawing.end)


def _pulses(timeline: Timeline, loop: Loop) -> list[int]:
    found = []
    bar = timeline.bars.at(loop.tick)
    while bar.tick < loop.end_tick:
        found += [tick for _, tick in bar.pulse_ticks() if loop.tick <= tick < loop.end_tick]
        bar = timeline.bars.at(bar.end)
    return found
