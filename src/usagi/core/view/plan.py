"""The plan and the remarks as the page shows them, already in words."""

from __future__ import annotations

from collections.abc import Sequence

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import OnBar, OnNote, OnPhrase, PlanSettings, Practised, Remark
from usagi.core.fingering.hand import HandSize
from usagi.core.licks.entries import Span, entry_of
from usagi.core.meter.bars import bar_name
from usagi.core.phrases.piece import cut
from usagi.core.practice import cautions
from usagi.core.practice.difficulty import Part
from usagi.core.practice.plan import PlanLine, notes_of, plan
from usagi.core.practice.remarks import about, in_order, place, span
from usagi.core.values import Value
from usagi.core.view.licks import LickDrawing, view_drawn

LEVEL_WORDS = ("easy", "fairly easy", "medium", "hard", "very hard")


class StepView(Value):
    """A step of a stair: its speed in per mille, said in per cent and in beats a minute."""

    speed: int
    percent: str
    bpm: str


class PlanLineView(Value):
    key: str
    what: Practised
    kind: str
    name: str
    where: str
    says: str  # the level in a word, and its reasons
    reasons: str
    start: int
    end: int
    notes: int
    level: int
    computed: int
    parts: dict[Part, float]
    steps: tuple[StepView, ...]
    step: int
    passes: int
    stair: str  # the stair in words
    own: bool
    remarks: tuple[str, ...]  # ids of those that are about it


class RemarkView(Value):
    """A remark, where it belongs, and its second way as it is drawn."""

    id: str
    on: OnNote | OnPhrase | OnBar
    words: str
    place: str
    tick: int
    end: int
    second: LickDrawing | None


class Cautions(Value):
    hands: str = cautions.HANDS
    ears: str = cautions.EARS
    rest: str = cautions.BREAK
    copies: str = cautions.COPIES
    rest_after_s: int = cautions.BREAK_AFTER_S


class PlanView(Value):
    """The lines in their order, those that are left out, and every remark."""

    settings: PlanSettings
    goal: str
    lines: tuple[PlanLineView, ...]
    left_out: tuple[PlanLineView, ...]
    remarks: tuple[RemarkView, ...]
    cautions: Cautions = Cautions()


def view_plan(solo: Solo, ground: Ground, hand: HandSize = HandSize.USUAL, reader: Reader = Reader()) -> PlanView:
    """The plan of a solo in words.

    Parameters
    ----------
    solo, ground : what is learnt.
    hand : whose difficulty it is.
    reader : how degrees are said.
    """
    lines = plan(solo, ground, hand)
    goal = solo.settings.practice.goal
    first = solo.notes[0].tick if solo.notes else 0
    recorded = ", the recorded tempo" if goal == 1_000 else ""
    return PlanView(
        settings=solo.settings.practice,
        goal=f"{_bpm(ground, first, goal)} a minute{recorded}",
        lines=tuple(view_line(line, solo, ground) for line in lines if not line.left_out),
        left_out=tuple(view_line(line, solo, ground) for line in lines if line.left_out),
        remarks=tuple(view_remark(one, solo, ground, reader) for one in in_order(solo, ground)),
    )


def steps_at(ground: Ground, tick: int, speeds: Sequence[int]) -> tuple[StepView, ...]:
    """Speeds in per mille as they are said at a tick."""
    return tuple(StepView(speed=one, percent=f"{one / 10:g}", bpm=_bpm(ground, tick, one)) for one in speeds)


def view_line(line: PlanLine, solo: Solo, ground: Ground) -> PlanLineView:
    """A line of the plan in words."""
    steps = steps_at(ground, line.start, line.ladder.rungs)
    passes = line.ladder.passes
    reasons = ", ".join(line.difficulty.reasons) or "few notes, and slow"
    times = f"{passes} clean pass{'' if passes == 1 else 'es'} a step"
    return PlanLineView(
        key=line.key,
        what=line.what,
        kind=line.what.kind,
        name=line.name,
        where=where(line.start, line.end, ground),
        says=f"{LEVEL_WORDS[line.level - 1]}: {reasons}",
        reasons=reasons,
        start=line.start,
        end=line.end,
        notes=len(notes_of(solo, line.start, line.end)),
        level=line.level,
        computed=line.difficulty.level,
        parts=line.difficulty.parts,
        steps=steps,
        step=line.step,
        passes=passes,
        stair=f"{steps[0].percent} to {steps[-1].percent} % by {line.step / 10:g}, {times}"
        if len(steps) > 1
        else f"at {steps[0].percent} %, {passes} clean passes",
        own=line.own,
        remarks=tuple(one.id for one in about(solo, ground, line.start, line.end)),
    )


def view_remark(remark: Remark, solo: Solo, ground: Ground, reader: Reader = Reader()) -> RemarkView:
    """A remark in words, its second way drawn over the chords where it stands."""
    start, end = span(remark, solo, ground)
    return RemarkView(
        id=remark.id,
        on=remark.on,
        words=remark.words,
        place=place(remark, solo, ground),
        tick=start,
        end=end,
        second=drawn(remark.second, solo, ground, reader) if remark.second else None,
    )


def drawn(notes: Sequence[Note], solo: Solo, ground: Ground, reader: Reader = Reader()) -> LickDrawing | None:
    """Some notes over the chords under them; None where none of them has a pitch.

    Parameters
    ----------
    notes : of the solo or in the place of some of them, in time order.
    solo, ground : the instrument, and the chart.
    reader : how degrees are said.
    """
    if not notes:
        return None
    piece = cut(solo.model_copy(update={"notes": tuple(notes)}), ground, notes)
    entry = entry_of(Span(piece.solo.notes), piece.solo, ground)
    return None if entry is None else view_drawn(entry.drawn, reader)


def where(start: int, end: int, ground: Ground) -> str:
    """A span as bars: “bar 3”, “bars 3–4”."""
    bars = ground.timeline.bars
    first, last = bars.at(start).number, bars.at(end - 1).number
    if first == last:
        return bar_name(first)
    return f"bars {first}–{last}" if first else f"pick-up to bar {last}"


def _bpm(ground: Ground, tick: int, speed: int) -> str:
    pulse = ground.timeline.bars.at(tick).pulse_at(tick)[2]
    return f"{ground.grid.tempo_bpm(tick, pulse) * speed / 1_000:.0f}"
