"""Where else a line lies under the hand, what is out of its reach, and a map of where it goes."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from usagi.core.audio import to_stored
from usagi.core.audio.stretch import check_speed
from usagi.core.audio.voice import guitar
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import FingeringChoice, Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.fingering.bends import BendOut, bend_out_of_reach
from usagi.core.fingering.events import joined_to
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.hand_map import HandMap, hand_map
from usagi.core.fingering.search import Fingered, Search, Way
from usagi.core.fingering.words import reasons, title
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.playing.strings import slowed, string_events
from usagi.core.playing.timing import expected_seconds
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.sound.pieces import solo_and_ground, wav_bytes
from usagi.flows.workspace import NotThere, Workspace, new_id

CONTEXT = 3  # notes on either side of a span, which the hand comes from and goes to
LONGEST_TRY_S = 30.0
LEAD_S = 0.05  # of silence, so that no first attack is lost


@dataclass(frozen=True, slots=True)
class WayOffer:
    """One way of the hand through a span; `written` is the way as it stands."""

    title: str
    reasons: list[str]
    cost: float
    written: bool
    places: list[Fingered]


@dataclass(frozen=True, slots=True)
class Ways:
    """The best ways that differ in kind, and the bends of the span that no finger reaches."""

    ways: list[WayOffer]
    bends: list[BendOut]
    pinned: list[str]  # notes of the span whose place was settled


@dataclass(frozen=True, slots=True)
class TryPlace:
    note: str
    string: int
    fret: int  # hundredths


def ways_of(workspace: Workspace, solo_id: UUID, start: int, end: int, hand: HandSize) -> Ways:
    """Ways for the notes that begin in `[start, end)` and what is slurred to them; neighbours and pinned notes stay.

    Raises : NotThere, when nothing is written there.
    """
    solo, ground = solo_and_ground(workspace, solo_id)
    inside, _ = _span(solo, start, end)
    if not inside:
        raise NotThere("Nothing is written here that could lie elsewhere.")
    own = joined_to(solo.notes, {note.id for note in inside})
    ticks = [note.tick for note in solo.notes if note.id in own]
    _, around = _span(solo, ticks[0], ticks[-1] + 1)
    pinned = {note.id for note in around if note.id not in own} | _pinned(solo)
    seconds = _seconds(solo, ground, around)
    search = Search(around, solo.settings, seconds, pinned=pinned, hand=hand, reported=own)
    every = [note.id for note in around]
    written = Search(around, solo.settings, seconds, pinned=every, hand=hand, reported=own).best()
    place = ground.timeline.bars.place
    offers = [
        WayOffer(title(way), reasons(way, written, place), way.cost, _places(way) == _places(written), list(way.places))
        for way in search.ways()
    ]
    bends = [out for note in inside if (out := bend_out_of_reach(note, solo.settings, hand)) is not None]
    return Ways(offers, bends, sorted(own & _pinned(solo)))


def pin(
    workspace: Workspace, solo_id: UUID, notes: Sequence[str], *, pinned: bool, reader: Reader = Reader()
) -> Answer:
    """Settle the places of notes, so that no search moves them; or let go of them. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    solo = loaded.solo
    wanted = set(notes)
    if not wanted <= {note.id for note in solo.notes}:
        raise NotThere("A note that is to be pinned is not here any more.")
    others = [choice for choice in solo.choices if not isinstance(choice, FingeringChoice)]
    kept = _pinned(solo) - wanted | (wanted if pinned else set())
    settled = [FingeringChoice(id=new_id(), notes=tuple(sorted(kept)))] if kept else []
    after = solo.model_copy(update={"choices": (*others, *settled)})
    label = "pin places" if pinned else "unpin places"
    return commit(workspace, loaded, label, reader, solo=after)


def map_of(workspace: Workspace, solo_id: UUID, start: int, end: int, hand: HandSize) -> HandMap:
    """Where the hand is in a span, as it is written. Raises : NotThere."""
    solo, ground = solo_and_ground(workspace, solo_id)
    inside, around = _span(solo, start, end)
    every, reported = [note.id for note in around], {note.id for note in inside}
    way = Search(
        around, solo.settings, _seconds(solo, ground, around), pinned=every, hand=hand, reported=reported
    ).best()
    return hand_map(inside, way, solo.settings, ground.timeline)


def try_out(
    workspace: Workspace, solo_id: UUID, start: int, end: int, speed_permille: int, places: Sequence[TryPlace] = ()
) -> bytes:
    """The notes of a span by the program's guitar, as a WAV file, with some of them at other places.

    Raises : SpeedImpossible, NotThere.
    """
    check_speed(speed_permille, 0)
    solo, ground = solo_and_ground(workspace, solo_id)
    other = {place.note: place for place in places}
    notes = tuple(
        note.model_copy(update={"string": other[note.id].string, "fret": other[note.id].fret})
        if note.id in other and other[note.id].string <= len(solo.settings.tuning)
        else note
        for note in solo.notes
        if start <= note.tick < end
    )
    speed = speed_permille / 1_000
    events = slowed(string_events(solo.model_copy(update={"notes": notes}), ground), speed)
    if not events:
        raise NotThere("Nothing is written here that could be played.")
    first = min(event.onset_s for event in events)
    length = min(LONGEST_TRY_S, max(e.onset_s + e.sounding_s + e.ring_s for e in events) - first + 0.3)
    line = guitar([replace(event, onset_s=event.onset_s - first + LEAD_S) for event in events], length)
    return wav_bytes(to_stored(line))


def _span(solo: Solo, start: int, end: int) -> tuple[Sequence[Note], Sequence[Note]]:
    """The notes that begin in a span, and those with the notes around them."""
    first, last = (bisect_left(solo.notes, tick, key=lambda note: note.tick) for tick in (start, end))
    return solo.notes[first:last], solo.notes[max(0, first - CONTEXT) : last + CONTEXT]


def _seconds(solo: Solo, ground: Ground, notes: Sequence[Note]) -> dict[int, float]:
    ticks = sorted({note.tick for note in notes})
    return dict(zip(ticks, expected_seconds(solo, ground, ticks), strict=True))


def _pinned(solo: Solo) -> set[str]:
    return {note for choice in solo.choices if isinstance(choice, FingeringChoice) for note in choice.notes}


def _places(way: Way) -> list[tuple[str, int, int]]:
    return [(place.note, place.string, place.fret // HUNDREDTHS) for place in way.places]
