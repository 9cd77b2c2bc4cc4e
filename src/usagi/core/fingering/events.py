"""A line as the hand meets it: what starts together, what has to stay on one string, what is pinned."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from usagi.core.document.elements import Note
from usagi.core.document.joins import sources
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import By, Harmonic
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch

LEGATO = ("hammer-on", "pull-off", "slide")


@dataclass(frozen=True, slots=True)
class Wanted:
    """One note for the hand: its pitch, what it asks of its place, and its own place when that is pinned."""

    note: str
    pitch: float | None
    own: tuple[int, float]  # string and fret
    pinned: bool
    stopped: bool  # bent, shaken or trilled: needs a finger
    outside: bool  # an open string's harmonic, a tapped or a dead note: the fretting hand is free
    bend: int  # quarter tones, at most
    partner: float  # semitones of a trill's other note above

    def kind(self, strings: frozenset[int]) -> tuple[object, ...]:
        """What decides its places: notes of one kind share them."""
        own = self.own if self.pinned else None
        return self.pitch, own, self.stopped, self.outside, self.bend, self.partner, strings


@dataclass(frozen=True, slots=True)
class Event:
    """Notes that start together, when, and what binds them to the event before."""

    tick: int
    second: float
    wanted: tuple[Wanted, ...]
    free: frozenset[int]  # strings that nothing else holds
    same: tuple[tuple[int, int], ...] = ()  # (note of the event before, note here) on one string
    apart: tuple[tuple[int, int], ...] = ()  # the one before sounds on: another string
    guided: bool = False  # a slide leads here


def events_of(
    notes: Sequence[Note], settings: SoloSettings, seconds: Mapping[int, float], pinned: Collection[str] = ()
) -> list[Event]:
    """The events of notes in time order; `seconds` says when each tick sounds, `pinned` names notes that stay.

    What sounds on under more than the next event, and what is joined to a note further back, keeps its string.

    Parameters
    ----------
    notes : in time order.
    settings : of the solo's strings.
    seconds : by tick, when it sounds.
    pinned : ids of notes that keep their places.
    """
    groups: list[list[Note]] = []
    for note in notes:
        if groups and groups[-1][0].tick == note.tick:
            groups[-1].append(note)
        else:
            groups.append([note])
    index = {note.id: i for i, group in enumerate(groups) for note in group}
    led_by = sources(notes)
    staying = set(pinned)
    for note in notes:
        led = led_by.get(note.id)
        if led is not None and note.attack.kind in LEGATO and index[led.id] != index[note.id] - 1:
            staying |= {note.id, led.id}
    holding: dict[int, list[Note]] = {}
    for note in notes:
        until = index[note.id] + 1
        while until < len(groups) and groups[until][0].tick < note.end:
            until += 1
        if until > index[note.id] + 2:
            staying.add(note.id)
            for i in range(index[note.id] + 1, until):
                holding.setdefault(i, []).append(note)
    every = frozenset(range(1, len(settings.tuning) + 1))
    found = []
    for i, group in enumerate(groups):
        before = groups[i - 1] if i else []
        found.append(
            Event(
                tick=group[0].tick,
                second=seconds[group[0].tick],
                wanted=tuple(_wanted(note, settings, note.id in staying) for note in group),
                free=every - {held.string for held in holding.get(i, ())},
                same=tuple(
                    (k, j)
                    for j, note in enumerate(group)
                    for k, other in enumerate(before)
                    if note.attack.kind in LEGATO and led_by.get(note.id) is other
                ),
                apart=tuple(
                    (k, j) for k, other in enumerate(before) for j in range(len(group)) if other.end > group[0].tick
                ),
                guided=any(note.attack.kind == "slide" for note in group),
            )
        )
    return found


def joined_to(notes: Sequence[Note], ids: Collection[str]) -> set[str]:
    """The notes named, and all that a slur or a slide joins to them: they lie on one string and move together."""
    led_by = sources(notes)
    bound: dict[str, set[str]] = {}
    for note in notes:
        led = led_by.get(note.id)
        if led is not None and note.attack.kind in LEGATO:
            bound.setdefault(note.id, set()).add(led.id)
            bound.setdefault(led.id, set()).add(note.id)
    found, next_ones = set(ids), set(ids)
    while next_ones:
        next_ones = {other for one in next_ones for other in bound.get(one, ())} - found
        found |= next_ones
    return found


def _wanted(note: Note, settings: SoloSettings, pinned: bool) -> Wanted:
    pitch = written_pitch(note, settings)
    harmonic = isinstance(note.attack, Harmonic)
    own = (note.string, 0.0 if note.fret is None else note.fret / HUNDREDTHS)
    bend = max((quarters for _, quarters in note.course), default=0)
    shaken = note.vibrato is not None and note.vibrato.by is By.FINGER
    if pitch is not None and not harmonic:
        pitch = open_pitch(note.string, settings.tuning, settings.capo) + own[1]
    return Wanted(
        note=note.id,
        pitch=pitch,
        own=own,
        pinned=pinned or pitch is None or harmonic,
        stopped=bend > 0 or shaken or note.trill is not None,
        outside=harmonic or note.dead or note.attack.kind == "tapped",
        bend=bend,
        partner=0.0 if note.trill is None or note.fret is None else (note.trill.fret - note.fret) / HUNDREDTHS,
    )
