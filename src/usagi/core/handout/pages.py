"""A solo laid on pages: the heading, the music in lines at its phrases, the plan, what to take care of."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final

from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground, Solo
from usagi.core.fingering.hand import HandSize
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.handout.blocks import HEADING, STAFF_PT, WORDS, Block, care, music, plan_blocks
from usagi.core.handout.marks import (
    SIZES,
    Entry,
    Face,
    Handout,
    Line,
    Mark,
    Paper,
    SheetPage,
    StaffPlace,
    Text,
    moved,
    scaled,
)
from usagi.core.handout.type import measured, shortened, signs, width
from usagi.core.practice import cautions
from usagi.core.practice.plan import plan

MARGIN_PT: Final = 42.0
FOOT_PT: Final = 24.0
TITLE: Final = 24.0
LARGE: Final = 1.3


@dataclass(frozen=True, slots=True)
class Facts:
    """What stands over the music: names, the recording, and where in it the music starts."""

    tune: str
    player: str = ""
    title: str = ""
    recording: str = ""
    care: tuple[str, ...] = ()  # further cautions, as of strings that are tuned up


@dataclass(frozen=True, slots=True)
class Wanted:
    """The settings of a handout: how it is printed, and the hand size that difficulty is rated for."""

    paper: Paper = Paper.A4
    large: bool = False
    staff: bool = False
    plan: bool = True
    hand: HandSize = HandSize.USUAL


@dataclass
class _Pages:
    """Pages while they fill, in the scale of the type."""

    room: float
    height: float
    pages: list[list[Mark]] = field(default_factory=lambda: [[]])
    outline: list[Entry] = field(default_factory=list)
    staves: list[StaffPlace] = field(default_factory=list)
    y: float = 0.0

    def put(self, blocks: Sequence[Block]) -> None:
        """Blocks that stay together; on a new page where they do not fit on this one."""
        height = sum(block.height for block in blocks)
        if self.y and self.y + height > self.height:
            self.pages.append([])
            self.y = 0.0
        for block in blocks:
            if self.y and self.y + block.height > self.height:  # together they are longer than a page
                self.pages.append([])
                self.y = 0.0
            if block.title:
                self.outline.append(Entry(title=block.title, page=len(self.pages) - 1, y=self.y))
            if block.staff is not None:
                line, places, bars = block.staff
                page = len(self.pages) - 1
                place = StaffPlace(
                    page=page,
                    x=0,
                    y=self.y,
                    width=self.room,
                    height=STAFF_PT,
                    scale=1,
                    line=line,
                    places=places,
                    bars=bars,
                )
                self.staves.append(place)
            self.pages[-1] += [moved(mark, 0, self.y) for mark in block.marks]
            self.y += block.height


def lay_handout(
    solo: Solo, ground: Ground, facts: Facts, wanted: Wanted = Wanted(), reader: Reader = Reader()
) -> Handout:
    """Everything of a solo on paper.

    Parameters
    ----------
    solo, ground : what is printed; of a lick the notes and the ground that it stands on.
    facts : what stands over it.
    wanted : paper, size of the type, staff notation, the plan.
    reader : how degrees and counts are said.

    Returns : pages whose breaks hold for the printed page and for the PDF.
    """
    across, down = SIZES[wanted.paper]
    scale = LARGE if wanted.large else 1.0
    room = (across - 2 * MARGIN_PT) / scale
    pages = _Pages(room, (down - 2 * MARGIN_PT - FOOT_PT) / scale)
    pages.put([_head(solo, ground, facts, room)])
    named = facts.tune if not solo.phrases else ""
    lines = plan(solo, ground, wanted.hand) if wanted.plan else []
    blocks = music(solo, ground, room, staff=wanted.staff, reader=reader, named=named, lines=lines)
    for together in _kept(blocks):
        pages.put(together)
    for together in _kept(plan_blocks(solo, ground, room, lines)):
        pages.put(together)
    words = (cautions.HANDS, cautions.EARS, *facts.care, cautions.COPIES)
    pages.put([care(words, room)])
    title = " · ".join(word for word in (facts.tune, facts.player) if word)
    count = len(pages.pages)
    laid = [
        tuple(moved(scaled(mark, scale), MARGIN_PT, MARGIN_PT) for mark in marks) + _foot(title, i, count, across, down)
        for i, marks in enumerate(pages.pages)
    ]
    return Handout(
        title=title,
        paper=wanted.paper,
        width=across,
        height=down,
        pages=tuple(SheetPage(marks=tuple(measured(mark) for mark in marks)) for marks in laid),
        outline=tuple(one.model_copy(update={"y": MARGIN_PT + one.y * scale}) for one in pages.outline),
        staves=tuple(_placed(one, scale) for one in pages.staves),
    )


def _placed(one: StaffPlace, scale: float) -> StaffPlace:
    values = {"x": MARGIN_PT + one.x * scale, "y": MARGIN_PT + one.y * scale}
    return one.model_copy(update=values | {"scale": scale})


def _kept(blocks: Iterator[Block]) -> Iterator[list[Block]]:
    """Blocks in groups that stay on one page."""
    group: list[Block] = []
    for block in blocks:
        group.append(block)
        if not block.keep:
            yield group
            group = []
    if group:
        yield group


def _head(solo: Solo, ground: Ground, facts: Facts, room: float) -> Block:
    """Tune, who played it, on which recording; tempo, feel, key, tuning and capo."""
    settings = solo.settings
    tune = shortened(signs(facts.tune or "Untitled"), TITLE, room * 0.62, Face.NAMING)
    who = " · ".join(word for word in (facts.player, facts.title) if word)
    who = shortened(who, HEADING, room - width(tune, TITLE, Face.NAMING) - 14)
    first = ground.timeline.facts_at(0)
    bpm = ground.grid.tempo_bpm(0, first.meter.pulses[0])
    how = [f"{bpm:.0f} beats a minute", str(first.feel), "" if first.key is None else str(first.key)]
    tuning = tuning_of(settings.tuning)
    how.append(f"tuning {tuning.known_as or ' '.join(str(name) for name in reversed(tuning.names))}")
    how.append(f"capo {settings.capo}" if settings.capo else "")
    said = signs(" · ".join(word for word in how if word))
    marks: list[Mark] = [
        Text(x=0, y=TITLE, text=tune, size=TITLE, face=Face.NAMING),
        Text(x=room, y=TITLE, text=who, size=HEADING, anchor="end"),
        Text(x=0, y=TITLE + 20, text=shortened(facts.recording, WORDS, room * 0.42), size=WORDS),
        Text(x=room, y=TITLE + 20, text=shortened(said, WORDS, room * 0.57), size=WORDS, anchor="end"),
    ]
    return Block(tuple(marks), TITLE + 42)


def _foot(title: str, page: int, count: int, across: float, down: float) -> tuple[Mark, ...]:
    y = down - MARGIN_PT
    return (
        Line(x1=MARGIN_PT, y1=y - 12, x2=across - MARGIN_PT, y2=y - 12, width=0.4),
        Text(x=MARGIN_PT, y=y, text=shortened(signs(title), 9.0, across * 0.7), size=9.0),
        Text(x=across - MARGIN_PT, y=y, text=f"page {page + 1} of {count}", size=9.0, anchor="end"),
    )
