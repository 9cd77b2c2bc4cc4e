"""A score of another program laid on a guitar: its chart, its grid, and a place for every note.

Strings and frets are kept where they sound the pitch that is written; other notes get theirs by the position search.
What no hand or neck can hold is left out or cut, and listed by its bar.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from usagi.core.document.edits import put_together, take_apart
from usagi.core.document.elements import Dynamic, Note, Rest, Stack, Swell
from usagi.core.document.joins import agrees, fitting, sources
from usagi.core.document.lengths import with_length
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import out_of_reach
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import LONGEST, Picked
from usagi.core.document.writing import NewId, cleared
from usagi.core.fingering.search import Search, Way
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.laid.ground import ground_of
from usagi.core.formats.laid.instrument import TEXT, in_octave, instrument_of
from usagi.core.formats.laid.listing import Listing, count_of
from usagi.core.formats.laid.places import first_places
from usagi.core.formats.laid.strings_apart import own_strings
from usagi.core.formats.onsets import joined_spans
from usagi.core.formats.score import Score, ScoreNote
from usagi.core.meter.bars import Bars
from usagi.core.meter.ticks import SIXTEENTH
from usagi.core.pitch.names import pitch_text, sharp_name


@dataclass(frozen=True)
class Laid:
    """A document made of a score, what a person should hear of, and the ways that the hand could go.

    `ways` are of the notes that had no place of their own, the one taken among them; none when all had.
    """

    document: SoloDocument
    messages: tuple[str, ...]
    ways: tuple[Way, ...] = ()
    listed: tuple[str, ...] = ()  # what could not be held, by bar


def lay(score: Score, new_id: NewId, *, way: int = 0) -> Laid:
    """The document of a score.

    Parameters
    ----------
    score : what was read; one bar or more.
    new_id : gives ids that are not used yet.
    way : which of the ways that the search finds is taken, from 0; the nearest there is.

    Returns : the document, which keeps all hard rules, and what could not be held.
    """
    ground, said = ground_of(score, new_id)
    laid = lay_notes(score, ground, new_id, way=way)
    return replace(laid, messages=(*score.messages, *said, *laid.messages))


def lay_notes(score: Score, ground: Ground, new_id: NewId, *, way: int = 0, on: SoloSettings | None = None) -> Laid:
    """As `lay`, on a ground that is there: bar 1 of the score on its bar 1. What lies outside its bars is listed.

    `on` is the instrument that the notes are for, where it is not the score's own.
    """
    settings, moved = instrument_of(score, ground, on)
    bars = ground.timeline.bars
    listed = Listing(bars)
    notes, pinned, origin = first_places(in_octave(score, moved), settings, bars, listed, new_id)
    ways = _ways(notes, pinned, settings, ground)
    if ways:
        taken = ways[min(way, len(ways) - 1)]
        at = {place.note: place for place in taken.places}
        notes = [
            n if n.id in pinned or n.id not in at else _moved(n, at[n.id].string, at[n.id].fret, settings)
            for n in notes
        ]
    laid = _attacks_fit(_apart(own_strings(notes, pinned, settings), listed, settings), listed, settings)
    notes, stacks = _stacked(laid, origin, new_id)
    solo = Solo(
        settings=settings,
        notes=tuple(notes),
        rests=_rests(score, notes, bars, new_id),
        stacks=stacks,
        dynamics=tuple(
            Dynamic(id=new_id(), tick=tick, level=level)
            for tick, level in sorted(dict(score.dynamics).items())
            if bars.first_tick <= tick < bars.end_tick
        ),
        swells=tuple(
            Swell.model_validate({"id": new_id(), "start": start, "end": end, "to": to})
            for start, end, to in sorted(score.swells)
            if bars.first_tick <= start < end <= bars.end_tick
        ),
    )
    free = len(notes) - sum(note.id in pinned for note in notes)
    messages = []
    if moved:
        messages.append(
            f"Its frets sound {'an octave lower' if moved < 0 else 'an octave higher'} than is written; the frets hold."
        )
    if free:
        messages.append(f"{count_of(free, 'note')} had no place on the neck: the position search gave one.")
    solo = _in_order(solo)
    document = SoloDocument(tune=score.tune.strip()[:TEXT], ground=ground, solo=solo)
    return Laid(document, tuple(messages), ways, listed.lines())


def _in_order(solo: Solo) -> Solo:
    """The solo with its elements in the order in which documents are stored."""
    ordered = put_together(take_apart(solo))
    assert isinstance(ordered, Solo)
    return ordered


def brought_into(solo: Solo, came: Solo, ground: Ground, new_id: NewId) -> Solo:
    """A solo with what came in place of what its bars held, from the first bar with a note to the last.

    Parameters
    ----------
    solo : what is written already.
    came : notes laid on the same ground, for the same instrument; one or more.
    ground : under both.
    new_id : gives the ids of rests that are cut.
    """
    bars = ground.timeline.bars
    start = bars.at(came.notes[0].tick).tick
    end = bars.at(max(note.end for note in came.notes) - 1).end
    rest = cleared(solo, start, end, new_id)
    return _in_order(
        rest.model_copy(
            update={
                "notes": (*rest.notes, *came.notes),
                "stacks": (*rest.stacks, *came.stacks),
                "rests": (*rest.rests, *(one for one in came.rests if start <= one.tick and one.end <= end)),
                "dynamics": (*(one for one in rest.dynamics if not start <= one.tick < end), *came.dynamics),
                "swells": (*(one for one in rest.swells if one.end <= start or end <= one.start), *came.swells),
            }
        )
    )


def way_words(way: Way) -> str:
    """A way of the hand in a few words, for a person to choose by.

    >>> way_words(Way((), 0.0, (), ()))
    'around fret 1'
    """
    opens = f", {count_of(way.opens, 'open string')}" if way.opens else ""
    shifts = f", {count_of(len(way.shifts), 'shift')}" if way.shifts else ""
    return f"around fret {way.position}{opens}{shifts}"


def _moved(note: Note, string: int, fret: int, settings: SoloSettings) -> Note:
    moved = note.model_copy(update={"string": string, "fret": None if note.fret is None else fret})
    return note if out_of_reach(moved, settings) is not None else moved


def _ways(notes: Sequence[Note], pinned: set[str], settings: SoloSettings, ground: Ground) -> tuple[Way, ...]:
    """The ways of the hand through the whole line; none when nothing is to be found."""
    line = [note for note in notes if note.fret is not None and not note.dead]
    free = [note.id for note in line if note.id not in pinned]
    if not free:
        return ()
    seconds = {note.tick: ground.grid.second(note.tick) for note in line}
    keep = [note.id for note in line if note.id in pinned]
    return tuple(Search(line, settings, seconds, pinned=keep, reported=free).ways())


def _apart(notes: Sequence[Note], listed: Listing, settings: SoloSettings) -> list[Note]:
    """One note a string at a time: what would sound into the next on its string is cut, and listed."""
    found: list[Note] = []
    last: dict[int, int] = {}
    for note in sorted(notes, key=lambda one: (one.tick, one.string)):
        index = last.get(note.string)
        before = found[index] if index is not None else None
        if before is not None and index is not None and before.end > note.tick:
            if before.tick == note.tick:
                listed.say(note.tick, f"{_said(note, settings)} has no string left and is left out.")
                continue
            if before.end - note.tick > SIXTEENTH // 4:
                listed.say(before.tick, f"{_said(before, settings)} cannot be held: its string plays on.")
            found[index] = with_length(before, note.tick - before.tick)
        last[note.string] = len(found)
        found.append(note)
    return found


def _said(note: Note, settings: SoloSettings) -> str:
    pitch = written_pitch(note, settings)
    return "a note" if pitch is None else pitch_text(sharp_name(int(pitch) % 12), int(pitch))


def _attacks_fit(notes: Sequence[Note], listed: Listing, settings: SoloSettings) -> list[Note]:
    """Keep hammer-ons, pull-offs and slides that fit the note before on their string; list those that do not."""
    found = []
    before = sources(notes)
    for note in notes:
        source = before.get(note.id)
        if not agrees(note, source):
            fits = fitting(note, source)
            if isinstance(fits, Picked):
                listed.say(
                    note.tick,
                    f"the {note.attack.kind} to {_said(note, settings)} leads from no note that fits: picked.",
                )
            note = note.model_copy(update={"attack": fits})
        found.append(note)
    return found


def _stacked(
    notes: Sequence[Note], origin: Mapping[str, ScoreNote], new_id: NewId
) -> tuple[list[Note], tuple[Stack, ...]]:
    """Notes that start together are a stack, with the stroke that the file gives."""
    found: list[Note] = []
    stacks = []
    for _, together in groupby(sorted(notes, key=lambda n: (n.tick, n.string, n.id)), key=lambda n: n.tick):
        group = list(together)
        if len(group) > 1:
            was = [origin[note.id] for note in group]
            stroke = next((one.stroke for one in was if one.stroke is not None), None)
            stack = Stack(id=new_id(), stroke=stroke, spread_ms=max(one.spread_ms for one in was))
            stacks.append(stack)
            group = [note.model_copy(update={"stack": stack.id}) for note in group]
        found += group
    return found, tuple(stacks)


def _rests(score: Score, notes: Sequence[Note], bars: Bars, new_id: NewId) -> tuple[Rest, ...]:
    """The rests of a score in which nothing sounds, as they are written."""
    sounding = joined_spans((note.tick, note.end) for note in notes)
    found = []
    at = bars.first_tick
    for tick, ticks in sorted(score.rests):
        start, end = max(tick, at), min(tick + ticks, bars.end_tick)
        for begin, stop in _outside(start, end, sounding):
            found.append(Rest(id=new_id(), tick=begin, ticks=min(stop - begin, LONGEST)))
        at = max(at, end)
    return tuple(found)


def _outside(start: int, end: int, spans: Sequence[tuple[int, int]]) -> Iterable[tuple[int, int]]:
    """The parts of `[start, end)` that no span covers."""
    at = start
    for begin, stop in spans[max(0, bisect_right(spans, (start, start)) - 1) :]:
        if begin >= end:
            break
        if begin > at:
            yield at, min(begin, end)
        at = max(at, stop)
    if at < end:
        yield at, end
