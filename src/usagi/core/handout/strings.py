"""One line of tablature: strings, frets and how each note is played, chords above, counts, degrees and hands below."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import pi, sin
from typing import Final

from usagi.core.document.elements import Note
from usagi.core.document.joins import sources
from usagi.core.document.pitches import course_stages
from usagi.core.document.techniques import (
    Choked,
    HammerOn,
    Harmonic,
    LetRing,
    Pick,
    PullOff,
    Slide,
    SlideIn,
    SlideOff,
    Staccato,
    Tapped,
    steps_text,
)
from usagi.core.handout.marks import Box, Curve, Face, Line, Mark, Text, path
from usagi.core.handout.spacing import Spacing, natural_width, spaced
from usagi.core.handout.type import shortened, signs, width
from usagi.core.view.licks import LickDrawing, LickNote

STRING_PT: Final = 11.0  # between two strings
INSET: Final = 12.0  # of the first note
BAR_PT: Final = 9.0  # a bar line before the first note of its bar
NUMBER, CHORD, SMALL, DEGREE = 10.5, 12.0, 9.0, 10.0
LIFT_PT: Final = 2.4  # a quarter tone
MOST_LIFT_PT: Final = 15.0
TABLET_PT: Final = 14.0
ROW_PT: Final = 13.0
WAVE_PT: Final = 4.0  # length of half a wave of vibrato
FILLED: Final = ("chord tone", "anticipation")
OPEN: Final = ("tension", "outside")
LEADING: Final = ("approach", "enclosure", "passing")


@dataclass(frozen=True)
class Tab:
    """What one line shows: `[start, end)` in ticks, from a `LickDrawing`; `counts` and `loud` are words by tick."""

    drawing: LickDrawing
    start: int
    end: int
    counts: tuple[tuple[int, str, bool], ...]
    pulses: tuple[int, ...]
    bars: tuple[tuple[int, str], ...]
    loud: tuple[tuple[int, str], ...] = ()

    @property
    def notes(self) -> list[LickNote]:
        return [one for one in self.drawing.notes if self.start <= one.note.tick < self.end]

    @property
    def onsets(self) -> list[int]:
        return sorted({one.note.tick for one in self.notes})

    @property
    def ticks(self) -> list[int]:
        inside = {*self.onsets, *self.pulses, *(tick for tick, _ in self.bars)}
        return sorted({self.start, self.end, *(tick for tick in inside if self.start <= tick <= self.end)})


@dataclass(frozen=True)
class DrawnTab:
    """A line's marks from its upper left corner, its height, and where ticks stand."""

    marks: tuple[Mark, ...]
    height: float
    spacing: Spacing


def wanted_width(tab: Tab) -> float:
    """The points that a line wants."""
    return natural_width(tab.ticks, tab.onsets)


def draw_tab(tab: Tab, room: float, *, fill: bool = True, rows: bool = True, inset: float = INSET) -> DrawnTab:
    """A line with everything on it.

    Parameters
    ----------
    tab : what it shows.
    room : points from its first tick to its end.
    fill : whether it is drawn out to the room.
    rows : whether counts, degrees and hands stand under it; a second way has none.
    inset : points before the first note.
    """
    found = spaced(tab.ticks, tab.onsets, room - inset, fill=fill)
    spacing = Spacing(found.ticks, tuple(place + inset for place in found.places))
    lifted = any(one.note.string <= 2 and any(quarters > 0 for _, quarters in one.note.course) for one in tab.notes)
    words = _words(tab)
    top = CHORD + 6 + (SMALL + 2 if words else 0) + (MOST_LIFT_PT + SMALL - 4 if lifted else 12.0)
    strings = len(tab.drawing.strings)
    bottom = top + STRING_PT * (strings - 1)
    right = spacing.places[-1]
    marks: list[Mark] = list(_frame(tab, spacing, top, bottom, right))
    marks += _chords(tab, spacing)
    for tick, said in words:
        marks.append(Text(x=spacing.x(tick), y=CHORD + 6 + SMALL - 2, text=said, size=SMALL, anchor="middle"))
    before = sources([one.note for one in tab.drawing.notes])
    for one in tab.notes:
        y = top + STRING_PT * (min(one.note.string, strings) - 1)
        marks += _played(one, before.get(one.note.id), spacing, y)
    height = bottom + 4
    if rows:
        below = list(_rows(tab, spacing, bottom + ROW_PT))
        marks += [mark for mark, _ in below]
        height = max([bottom + ROW_PT, *(y for _, y in below)]) + 6
    return DrawnTab(tuple(marks), height, spacing)


def _frame(tab: Tab, spacing: Spacing, top: float, bottom: float, right: float) -> Iterator[Mark]:
    strings = len(tab.drawing.strings)
    for i in range(strings):
        y = top + STRING_PT * i
        yield Line(x1=0, y1=y, x2=right, y2=y, width=0.5 + 0.6 * i / max(1, strings - 1))
    yield Line(x1=0, y1=top, x2=0, y2=bottom, width=0.9)
    yield Line(x1=right, y1=top, x2=right, y2=bottom, width=0.9)
    for tick, name in tab.bars:
        x = bar_x(tab, spacing, tick)
        if tick > tab.start:
            yield Line(x1=x, y1=top, x2=x, y2=bottom, width=0.9)
        yield Text(x=x, y=top - 5.5, text=name, size=SMALL)


def bar_x(tab: Tab, spacing: Spacing, tick: int) -> float:
    """Where the bar line of a tick stands: a little before what starts with the bar."""
    return 0.0 if tick <= tab.start else spacing.x(tick) - BAR_PT


def _chords(tab: Tab, spacing: Spacing) -> list[Mark]:
    inside = [chord for chord in tab.drawing.chords if tab.start <= chord.tick < tab.end]
    here = [chord for chord in tab.drawing.chords if chord.tick < tab.start]
    if here and not any(chord.tick == tab.start for chord in inside):
        inside.insert(0, here[-1].model_copy(update={"tick": tab.start}))
    marks: list[Mark] = []
    for i, chord in enumerate(inside):
        x = spacing.x(chord.tick) - 4
        end = spacing.x(inside[i + 1].tick) - 8 if i + 1 < len(inside) else spacing.places[-1] + 12
        said = signs(chord.shown)
        size = next((s for s in (CHORD, 10.5, SMALL) if width(said, s, Face.BOLD) <= end - x), SMALL)
        said = shortened(said, size, max(end - x, 30), Face.BOLD)
        marks.append(Text(x=x, y=CHORD, text=said, size=size, face=Face.BOLD))
    return marks


def _played(one: LickNote, source: Note | None, spacing: Spacing, y: float) -> Iterator[Mark]:
    """A note on its string: what it comes from, its number, and what goes on."""
    note = one.note
    x = spacing.x(note.tick)
    half = width(one.fret, NUMBER, Face.BOLD) / 2 + 1.5
    number = f"({one.fret})" if note.ghost else one.fret
    yield from _stroke(note, spacing, x + half, y)
    if source is not None and isinstance(note.attack, HammerOn | PullOff):
        yield _bow(spacing.x(source.tick), x, y)
    if isinstance(note.attack, Slide | SlideIn):
        from_note = isinstance(note.attack, Slide) and source is not None
        begin = max(x - half - 12, spacing.x(source.tick) + half + 3) if from_note and source else x - half - 9
        rising = _rising(note, source)
        yield Line(x1=begin, y1=y + (3.5 if rising else -3.5), x2=x - half, y2=y - (2.5 if rising else -2.5), width=1.1)
    if isinstance(note.attack, Harmonic):
        yield Curve(path=path("M", x - half - 3, y, "L", x, y - 8, "L", x + half + 3, y, "L", x, y + 8, "Z"), width=0.7)
    yield Text(x=x, y=y + NUMBER * 0.36, text=number, size=NUMBER, face=Face.BOLD, anchor="middle", knocked=True)


def _words(tab: Tab) -> list[tuple[int, str]]:
    """What is said of how and how loud an onset is played, where no sign on the string shows it."""
    found = []
    for tick in sorted({*tab.onsets, *(tick for tick, _ in tab.loud)}):
        said = [word for at, word in tab.loud if at == tick]
        said += [word for one in tab.notes if one.note.tick == tick for word in _said(one.note)]
        if said:
            found.append((tick, " ".join(dict.fromkeys(said))))
    return found


def _said(note: Note) -> list[str]:
    said = []
    if note.accent:
        said.append(">")
    if note.palm_mute:
        said.append("mute")
    if isinstance(note.attack, Tapped):
        said.append("tap")
    if note.trill is not None:
        said.append("tr")
    if note.tremolo is not None:
        said.append("trem.")
    if note.rake is not None:
        said.append("rake")
    if isinstance(note.ending, LetRing):
        said.append("ring")
    if isinstance(note.ending, Staccato):
        said.append("short")
    return said


def _rising(note: Note, source: Note | None) -> bool:
    if isinstance(note.attack, SlideIn):
        start = note.attack.start
        return start == "far below" or (isinstance(start, int) and start < (note.fret or 0))
    return source is None or (source.fret or 0) <= (note.fret or 0)


def _bow(start: float, end: float, y: float) -> Curve:
    top = y - 8 - min(4.0, (end - start) / 12)
    a, b = start + (end - start) * 0.25, start + (end - start) * 0.75
    return Curve(path=path("M", start + 2, y - 6, "C", a, top, b, top, end - 2, y - 6), width=0.8)


def _stroke(note: Note, spacing: Spacing, x: float, y: float) -> Iterator[Mark]:
    """What a note's string does until its end: held, bent to scale, let down, shaken, cut."""
    end = spacing.x(note.end) - BAR_PT - 2
    stages = course_stages(note.course, note.ticks) if note.course else ()
    bends = [(at, quarters) for at, quarters, _ in stages if quarters]
    if not bends:
        if note.vibrato is not None and end > x + WAVE_PT:
            yield _wave(x + 1, end, y - 5.5)
        elif end - x > 14 and not note.dead:
            yield Line(x1=x, y1=y, x2=end, y2=y, width=1.3)
        yield from _ended(note, x, end, y)
        return
    points = [(max(x, spacing.x(note.tick + at)), y - _lift(quarters)) for at, quarters, _ in stages]
    end = max(end, points[-1][0] + 4, x + 12)
    parts: list[str | float] = ["M", x, y]
    at_x, at_y = x, y
    for i, (to_x, to_y) in enumerate(points):
        if i == 0 and to_y != y:  # bent before it is struck
            parts += ["L", x, to_y]
            at_x, at_y = x, to_y
            continue
        if to_y == at_y:
            continue
        hold = max(at_x, to_x - 10)
        parts += ["L", hold, at_y, "C", hold + (to_x - hold) * 0.7, at_y, to_x, (at_y + to_y) / 2, to_x, to_y]
        at_x, at_y = to_x, to_y
    shaken = note.vibrato is not None and end > at_x + WAVE_PT
    if not shaken:
        parts += ["L", max(end, at_x + 3), at_y]
    yield Curve(path=path(*parts), width=1.2)
    if shaken:
        yield _wave(at_x, end, at_y)
    told: set[int] = set()
    for at, quarters in bends:
        if quarters in told:
            continue
        told.add(quarters)
        size = ("-" if quarters < 0 else "") + steps_text(abs(quarters))
        place = max(x + 3, spacing.x(note.tick + at))
        above = y - _lift(quarters) - 2.5
        yield Text(x=place, y=above, text=size, size=SMALL, face=Face.BOLD, anchor="middle", knocked=True)
    yield from _ended(note, x, end, at_y)


def _lift(quarters: int) -> float:
    return max(-MOST_LIFT_PT, min(MOST_LIFT_PT, LIFT_PT * quarters))


def _wave(start: float, end: float, y: float) -> Curve:
    count = max(2, round((end - start) / WAVE_PT))
    step = (end - start) / count
    parts: list[str | float] = ["M", start, y]
    for i in range(count):
        bulge = y - 3.2 * sin(pi / 2) * (1 if i % 2 == 0 else -1)
        parts += ["C", start + step * (i + 0.3), bulge, start + step * (i + 0.7), bulge, start + step * (i + 1), y]
    return Curve(path=path(*parts), width=1.0)


def _ended(note: Note, x: float, end: float, y: float) -> Iterator[Mark]:
    if isinstance(note.ending, Choked):
        yield Line(x1=max(end, x + 4), y1=y - 3.5, x2=max(end, x + 4), y2=y + 3.5, width=1.2)
    if isinstance(note.ending, SlideOff):
        to = note.ending.to
        up = to == "far up" or (isinstance(to, int) and to > (note.fret or 0))
        begin = max(x + 2, end - 8)
        yield Line(x1=begin, y1=y + (2 if up else -2), x2=begin + 10, y2=y - (4 if up else -4), width=1.1)


def _rows(tab: Tab, spacing: Spacing, y: float) -> Iterator[tuple[Mark, float]]:
    """Counts, degrees, fingers and strokes, each in its row; with the lowest point of each mark."""
    for tick, word, on_pulse in tab.counts:
        if tab.start <= tick < tab.end:
            face = Face.BOLD if on_pulse else Face.READING
            yield Text(x=spacing.x(tick), y=y, text=word, size=SMALL, face=face, anchor="middle"), y
    y += ROW_PT + 2
    low = y
    for tick in tab.onsets:
        stack = [one for one in tab.notes if one.note.tick == tick and one.degrees]
        for row, one in enumerate(stack):
            for degree in degree_marks(one, spacing.x(tick), y + row * (TABLET_PT + 2)):
                yield degree, y + row * (TABLET_PT + 2) + 4
            low = max(low, y + row * (TABLET_PT + 2))
    y = low + ROW_PT
    fingers = [(one, one.note.finger.value) for one in tab.notes if one.note.finger is not None]
    if fingers:
        yield Text(x=-2, y=y, text="finger", size=SMALL, anchor="end"), y
        for one, finger in fingers:
            yield Text(x=spacing.x(one.note.tick), y=y, text=finger, size=SMALL, anchor="middle"), y
        y += ROW_PT - 1
    for one in tab.notes:
        if one.note.pick is not None:
            yield _pick(one.note.pick, spacing.x(one.note.tick), y), y


def degree_marks(one: LickNote, x: float, y: float) -> list[Mark]:
    """A degree as its role has it: in a filled or an open tablet, over a tick, or plain; `y` is its base line."""
    said = signs(one.degrees[-1])
    across = max(13.0, width(said, DEGREE, Face.BOLD) + 6)
    text = Text(x=x, y=y, text=said, size=DEGREE, face=Face.BOLD, anchor="middle")
    top = y - TABLET_PT + 3.5
    box = Box(x=x - across / 2, y=top, width=across, height=TABLET_PT, radius=3)
    if one.shape in FILLED:
        return [box.model_copy(update={"filled": True}), text.model_copy(update={"inverse": True})]
    if one.shape in OPEN:
        return [box.model_copy(update={"dashed": one.shape == "outside"}), text]
    if one.shape in LEADING:
        low = y + 3.5
        return [
            Curve(
                path=path("M", x - across / 2, low, "L", x + across / 2 - 3, low, "L", x + across / 2, low - 4),
                width=0.8,
            ),
            text,
        ]
    return [text]


def _pick(pick: Pick, x: float, y: float) -> Mark:
    """Down: an open box; up: a wedge; swept: a slanted arrow; a finger: p for plucked."""
    if pick is Pick.DOWN:
        return Curve(path=path("M", x - 3, y, "L", x - 3, y - 6, "L", x + 3, y - 6, "L", x + 3, y), width=1.1)
    if pick is Pick.UP:
        return Curve(path=path("M", x - 3, y - 7, "L", x, y, "L", x + 3, y - 7), width=1.1)
    if pick is Pick.SWEEP:
        head = ("M", x, y - 6, "L", x + 3, y - 6, "L", x + 2, y - 3)
        return Curve(path=path("M", x - 4, y - 1, "L", x + 3, y - 6, *head), width=1.0)
    return Text(x=x, y=y, text="p", size=SMALL, anchor="middle")
