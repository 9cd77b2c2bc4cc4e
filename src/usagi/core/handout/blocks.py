"""The pieces that a handout is put together from, top to bottom; each stays whole on one page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import OnePhrase
from usagi.core.handout.marks import Face, Line, Mark, Text, moved
from usagi.core.handout.staff import StaffLine, staff_line
from usagi.core.handout.strings import INSET, SMALL, Tab, bar_x, draw_tab, wanted_width
from usagi.core.handout.type import shortened, signs, width, wrapped
from usagi.core.licks.entries import Span, spans_of
from usagi.core.meter.bars import Bar
from usagi.core.playing.counted import words_of
from usagi.core.practice.plan import PlanLine, letter, phrase_title
from usagi.core.practice.remarks import in_order, place, span
from usagi.core.view.plan import drawn, view_line

HEADING, WORDS, WORDS_LINE = 12.5, 10.0, 13.0
STAFF_PT: Final = 84.0  # what a staff takes above its tablature
STAFF_INSET: Final = 66.0  # of the first note, behind clef, key and meter
GAP_PT: Final = 12.0


@dataclass(frozen=True)
class Block:
    """Marks from an upper left corner, and their height. `keep` holds the next block on the same page.

    `title` is named by the outline; `staff` is what stands on a staff over its tablature, with the places of its notes
    and of its bar lines.
    """

    marks: tuple[Mark, ...]
    height: float
    keep: bool = False
    title: str = ""
    staff: tuple[StaffLine, tuple[float, ...], tuple[float, ...]] | None = None


def music(
    solo: Solo,
    ground: Ground,
    room: float,
    *,
    staff: bool,
    reader: Reader,
    named: str = "",
    lines: Sequence[PlanLine] = (),
) -> Iterator[Block]:
    """Every phrase: its heading, its lines, its remarks.

    Parameters
    ----------
    solo, ground : what is printed.
    room : points of a line.
    staff : whether room is left for staff notation over each line.
    reader : how degrees and counts are said.
    named : the name of a stretch that no phrase names.
    lines : of the plan; the heading of a phrase that is one says why it is hard, as the plan does.
    """
    letters = {phrase.id: letter(i) for i, phrase in enumerate(solo.phrases)}
    reasons = {one.what.phrase: ", ".join(one.difficulty.reasons) for one in lines if isinstance(one.what, OnePhrase)}
    meter = ""
    onsets = sorted({note.tick for note in solo.notes})
    for part in spans_of(solo, ground):
        tabs = list(lines_of(part, solo, ground, room, reader, inset=STAFF_INSET if staff else INSET, onsets=onsets))
        if not tabs:
            continue
        name = named if part.phrase is None else phrase_title(letters[part.phrase], part.name)
        hard = reasons.get(part.phrase or "", "")
        second = ground.grid.second(part.notes[0].tick)
        yield _heading(name or "not in a phrase", f"from {_clock(second)}" + (f" · {hard}" if hard else ""), room)
        for i, tab in enumerate(tabs):
            keep, last = _bends_over(tab, part.notes), i + 1 == len(tabs)
            if not staff:
                yield _line(tab, room, keep=keep, last=last)
                continue
            here = str(ground.timeline.facts_at(tab.start).meter)
            line = staff_line(solo, ground, tab.start, tab.end, meter=here != meter, notes=part.notes)
            meter = here
            yield _line(tab, room, keep=keep, last=last, line=line)
        start, end = tabs[0].start, tabs[-1].end
        yield from remarks(solo, ground, start, end, room, reader)


def lines_of(
    part: Span,
    solo: Solo,
    ground: Ground,
    room: float,
    reader: Reader,
    *,
    inset: float = INSET,
    onsets: Sequence[int] | None = None,
) -> Iterator[Tab]:
    """A stretch as lines of whole bars, as many as fit.

    Parameters
    ----------
    part : the notes of the stretch.
    solo, ground : what they stand in.
    room : points of a line, `inset` before its first note.
    reader : how degrees and counts are said.
    onsets : of the whole solo, rising, where the caller knows them.
    """
    onsets = sorted({note.tick for note in solo.notes}) if onsets is None else onsets
    drawing = drawn(part.notes, solo, ground, reader)
    if drawing is None:
        return
    bars = ground.timeline.bars
    first, last = bars.at(part.notes[0].tick), max(note.end for note in part.notes)
    phrase = next((one for one in solo.phrases if one.id == part.phrase), None)
    start = first.pulse_at(part.notes[0].tick)[1]
    last = max(last, min(phrase.end, bars.at(last - 1).end) if phrase else last)
    _, pulse, length = bars.at(last - 1).pulse_at(last - 1)
    end = pulse + length
    loud = [(one.tick, one.level.value) for one in solo.dynamics] + [(one.start, one.to) for one in solo.swells]
    inside: list[Bar] = []
    bar = first
    while bar.tick < end:
        inside.append(bar)
        bar = bars.at(bar.end)

    def tab(begin: int, until: int) -> Tab:
        here = [one for one in inside if one.tick < until and begin < one.end]
        places = [place for one in here for place in words_of(one, onsets, reader.school)]
        return Tab(
            drawing=drawing,
            start=begin,
            end=until,
            counts=tuple(one for one in places if begin <= one[0] < until),
            pulses=tuple(tick for one in here for _, tick in one.pulse_ticks() if begin <= tick < until),
            bars=tuple((max(begin, one.tick), str(one.number)) for one in here),
            loud=tuple((tick, word) for tick, word in loud if begin <= tick < until),
        )

    begin = start
    for i, bar in enumerate(inside):
        after = inside[i + 1] if i + 1 < len(inside) else None
        until = min(end, bar.end)
        if after is None or wanted_width(tab(begin, min(end, after.end))) > room - inset:
            yield tab(begin, until)
            begin = until


def _heading(name: str, said: str, room: float) -> Block:
    name = shortened(signs(name), HEADING, room * 0.6, Face.BOLD)
    left = width(name, HEADING, Face.BOLD)
    said = shortened(signs(said), WORDS, room - left - 12)
    marks = (
        Text(x=0, y=HEADING, text=name, size=HEADING, face=Face.BOLD),
        Text(x=room, y=HEADING, text=said, size=WORDS, anchor="end"),
    )
    return Block(marks, HEADING + 6, keep=True, title=name)


def _line(tab: Tab, room: float, *, keep: bool, last: bool, line: StaffLine | None = None) -> Block:
    found = draw_tab(tab, room, inset=INSET if line is None else STAFF_INSET)
    down = 0.0 if line is None else STAFF_PT
    marks = tuple(moved(mark, 0, down) for mark in found.marks)
    height = found.height + down + (GAP_PT if last else GAP_PT / 2)
    places = () if line is None else tuple(found.spacing.x(note.tick) for note in line.notes)
    bars = tuple(bar_x(tab, found.spacing, tick) for tick, _ in tab.bars if tick > tab.start)
    return Block(marks, height, keep=keep, staff=None if line is None else (line, places, bars))


def _bends_over(tab: Tab, notes: Sequence[Note]) -> bool:
    """Whether a bent note sounds on into the next line: no page may be turned there."""
    return any(note.course and note.tick < tab.end < note.end for note in notes)


def remarks(solo: Solo, ground: Ground, start: int, end: int, room: float, reader: Reader) -> Iterator[Block]:
    """The remarks that start within a span, each with its second way under it."""
    for remark in in_order(solo, ground):
        if not start <= span(remark, solo, ground)[0] < end:
            continue
        lead = f"{place(remark, solo, ground).capitalize()}: "
        lines = wrapped(signs(lead + remark.words), WORDS, room)
        marks: list[Mark] = [
            Text(x=0, y=WORDS_LINE * (i + 1) - 3, text=line, size=WORDS) for i, line in enumerate(lines)
        ]
        height = WORDS_LINE * len(lines)
        second = drawn(remark.second, solo, ground, reader) if remark.second else None
        if second is not None:
            bar = ground.timeline.bars.at(second.start)
            tab = Tab(second, second.start, second.end, (), (), ((second.start, str(bar.number)),))
            label = "second way"
            inset = width(label, SMALL) + 10
            small = draw_tab(tab, min(room - inset, wanted_width(tab) + INSET), fill=False, rows=False)
            marks.append(Text(x=0, y=height + small.height / 2, text=label, size=SMALL))
            marks += [moved(mark, inset, height) for mark in small.marks]
            height += small.height
        yield Block(tuple(marks), height + GAP_PT)


def plan_blocks(solo: Solo, ground: Ground, room: float, lines: Sequence[PlanLine]) -> Iterator[Block]:
    """The plan, a line a row: what, where, its stair."""
    said = [view_line(one, solo, ground) for one in lines if not one.left_out]
    if not said:
        return
    rule = Line(x1=0, y1=0, x2=room, y2=0, width=1.2)
    head = Text(x=0, y=HEADING + 8, text="Plan", size=HEADING, face=Face.BOLD)
    yield Block((rule, head), HEADING + 14, keep=True, title="Plan")
    for i, line in enumerate(said):
        name = shortened(signs(line.name), WORDS, room * 0.36, Face.BOLD)
        marks = (
            Text(x=0, y=WORDS, text=name, size=WORDS, face=Face.BOLD),
            Text(x=room * 0.38, y=WORDS, text=shortened(line.where, WORDS, room * 0.16), size=WORDS),
            Text(x=room * 0.55, y=WORDS, text=shortened(line.stair, WORDS, room * 0.45), size=WORDS),
        )
        yield Block(marks, WORDS_LINE + (GAP_PT if i + 1 == len(said) else 0), keep=i == 0)


def care(words: Sequence[str], room: float) -> Block:
    """What is said at the end: hands, ears, strings, copies."""
    lines = wrapped(" ".join(words), WORDS, room)
    marks: list[Mark] = [
        Line(x1=0, y1=0, x2=room, y2=0, width=0.6),
        Text(x=0, y=HEADING + 6, text="Take care", size=HEADING, face=Face.BOLD),
    ]
    top = HEADING + 8
    marks += [Text(x=0, y=top + WORDS_LINE * (i + 1) - 2, text=line, size=WORDS) for i, line in enumerate(lines)]
    return Block(tuple(marks), top + WORDS_LINE * len(lines) + 4)


def _clock(second: float) -> str:
    whole = max(0.0, second)
    return f"{int(whole // 60)}:{whole % 60:04.1f}"
