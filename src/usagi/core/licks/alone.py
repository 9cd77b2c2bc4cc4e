"""A lick that stands by itself: its bars alone, from bar 1 on, with the chords that sound over them and its tempo."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from usagi.core.chart.model import (
    BluesFact,
    ChartBar,
    Fact,
    FeelFact,
    FormEntry,
    KeyFact,
    MeterFact,
    PlacedChord,
    Section,
)
from usagi.core.chart.timeline import Facts, Timeline
from usagi.core.degrees.solo_readings import heard_early
from usagi.core.document.elements import AnticipationChoice, Note
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo
from usagi.core.meter.bars import Bar
from usagi.core.meter.feel import Feel
from usagi.core.phrases.piece import Piece

NO_CHORD = "N.C."


@dataclass(frozen=True, slots=True)
class Respelled:
    """What becomes of the chords, the key and the feel of a piece on the way; None leaves them."""

    symbol: Callable[[str], str] | None = None
    key: str | None = None
    feel: Feel | None = None


def alone(piece: Piece, respelled: Respelled = Respelled(), until: int | None = None) -> Piece:
    """The piece on a ground of its own bars; its first bar is bar 1, a pick-up becomes a whole bar.

    The chord that sounds at its start is written there; the tempo is that of its first beat throughout. Ids of notes
    are kept. Bars go on to the tick `until`, and as far as its notes need.
    """
    timeline = piece.ground.timeline
    bars = bars_under(piece, until)
    shift = bars[0].counted_from
    grid = piece.ground.grid
    pulse = bars[0].pulse_at(max(piece.start, bars[0].tick))[2]
    per_pulse = 60.0 / grid.tempo_bpm(piece.start, pulse)
    written = tuple(_bar(i, bar, bars[i - 1] if i else None, timeline, respelled) for i, bar in enumerate(bars))
    ground = Ground(
        settings=GroundSettings(bars=len(bars), form=(FormEntry(section="lick"),)),
        anchors=(
            Anchor(id="start", tick=0, second=0.0),
            Anchor(id="tempo", tick=60 * pulse, second=round(60 * per_pulse, 6)),
        ),
        sections=(Section(id="lick", name="", bars=written),),
    )
    return Piece(shifted(piece.solo, -shift, last_bar=len(bars)), ground)


def bars_under(piece: Piece, until: int | None = None) -> list[Bar]:
    """The bars from the one in which the first note begins on, until a tick or else those that the lick needs."""
    bars = piece.ground.timeline.bars
    end = max(piece.end, needed(piece) if until is None else until)
    found = [bars.at(piece.start)]
    while found[-1].end < end:
        found.append(bars.at(found[-1].end))
    return found


def needed(piece: Piece) -> int:
    """The tick until which a lick needs its bars: a chord that a note anticipates belongs to it."""
    early = heard_early(piece.solo.notes, piece.solo, piece.ground).values()
    return max([piece.end, *(change.tick + 1 for change in early)])


def shifted(solo: Solo, by: int, *, last_bar: int) -> Solo:
    """The notes, rests and loudness of a solo at other ticks, without what belongs to its recording."""
    settings = solo.settings.model_copy(update={"first_bar": 1, "last_bar": last_bar})
    return Solo(
        settings=settings,
        notes=tuple(_at(note, note.tick + by) for note in solo.notes),
        rests=tuple(rest.model_copy(update={"tick": rest.tick + by}) for rest in solo.rests),
        stacks=solo.stacks,
        dynamics=tuple(one.model_copy(update={"tick": max(0, one.tick + by)}) for one in solo.dynamics[-1:]),
        choices=solo.choices,
    )


def _at(note: Note, tick: int) -> Note:
    return note.model_copy(update={"tick": tick, "heard": None})


def _bar(number: int, bar: Bar, before: Bar | None, timeline: Timeline, respelled: Respelled) -> ChartBar:
    now = timeline.facts_at(bar.tick)
    was = None if before is None else timeline.facts_at(before.tick)
    return ChartBar(
        id=f"bar{number}",
        chords=tuple(_chords(number, bar, timeline, respelled, first=before is None)),
        facts=tuple(_facts(now, was, respelled)),
    )


def _chords(number: int, bar: Bar, timeline: Timeline, respelled: Respelled, *, first: bool) -> Iterator[PlacedChord]:
    roots = {chord.id: chord.from_root for one in timeline.played.values() for chord in one.written.chords}
    found: list[tuple[int, str, bool]] = []
    sounding = timeline.chord_at(bar.tick)
    if first and (sounding is None or sounding.tick < bar.tick):
        symbol = NO_CHORD if sounding is None else sounding.shown
        found.append((0, symbol, sounding is not None and roots.get(sounding.id, False)))
    for change in timeline.changes:
        if bar.tick <= change.tick < bar.end and change.tick < timeline.written_end:
            found.append((change.tick - bar.counted_from, change.shown, roots.get(change.id, False)))
    if first and found and found[0][0] > 0:
        found.insert(0, (0, NO_CHORD, False))
    before = ""
    for i, (place, symbol, from_root) in enumerate(found):
        said = symbol if respelled.symbol is None else respelled.symbol(symbol)
        if said != before:
            yield PlacedChord(id=f"chord{number}-{i}", symbol=said, place=place, from_root=from_root)
        before = said


def _facts(now: Facts, was: Facts | None, respelled: Respelled) -> Iterator[Fact]:
    if was is None or now.meter != was.meter:
        meter = now.meter
        yield MeterFact(numerator=meter.numerator, denominator=meter.denominator, groups=meter.groups)
    key = respelled.key or (None if now.key is None else str(now.key))
    if key is not None and (was is None or now.key != was.key):
        yield KeyFact(key=key)
    feel = respelled.feel or now.feel
    if was is None or now.feel != was.feel:
        yield FeelFact(feel=feel.kind, unit=feel.unit, ratio=feel.ratio)
    if now.blues and (was is None or not was.blues):
        yield BluesFact(on=True)


def in_a_row(pieces: Sequence[Piece]) -> Piece:
    """Pieces that stand alone one after another, each from its own bar 1 on; tempo and strings are the first one's."""
    solos: list[Solo] = []
    bars: list[ChartBar] = []
    tick = 0
    for number, piece in enumerate(pieces):
        fresh = _renamed(piece, f"{number}-")
        solos.append(shifted(fresh.solo, tick, last_bar=1))
        bars += fresh.ground.sections[0].bars
        tick += piece.ground.timeline.bars.end_tick
    first = pieces[0]
    ground = Ground(
        settings=GroundSettings(bars=len(bars), form=(FormEntry(section="lick"),)),
        anchors=first.ground.anchors,
        sections=(Section(id="lick", name="", bars=tuple(bars)),),
    )
    settings = solos[0].settings.model_copy(update={"last_bar": len(bars)})
    return Piece(
        Solo(
            settings=settings,
            notes=tuple(note for solo in solos for note in solo.notes),
            rests=tuple(rest for solo in solos for rest in solo.rests),
            stacks=tuple(stack for solo in solos for stack in solo.stacks),
            choices=tuple(choice for solo in solos for choice in solo.choices),
        ),
        ground,
    )


def _renamed(piece: Piece, prefix: str) -> Piece:
    """A piece with a prefix before every id, so that ids of several pieces differ."""
    solo, section = piece.solo, piece.ground.sections[0]
    bars = tuple(
        bar.model_copy(
            update={
                "id": prefix + bar.id,
                "chords": tuple(chord.model_copy(update={"id": prefix + chord.id}) for chord in bar.chords),
            }
        )
        for bar in section.bars
    )
    renamed = solo.model_copy(
        update={
            "notes": tuple(
                note.model_copy(
                    update={"id": prefix + note.id, "stack": None if note.stack is None else prefix + note.stack}
                )
                for note in solo.notes
            ),
            "rests": tuple(rest.model_copy(update={"id": prefix + rest.id}) for rest in solo.rests),
            "stacks": tuple(stack.model_copy(update={"id": prefix + stack.id}) for stack in solo.stacks),
            "dynamics": (),
            "choices": tuple(
                choice.model_copy(update={"id": prefix + choice.id, "note": prefix + choice.note})
                for choice in solo.choices
                if isinstance(choice, AnticipationChoice)
            ),
        }
    )
    ground = piece.ground.model_copy(update={"sections": (section.model_copy(update={"bars": bars}),)})
    return Piece(renamed, ground)
