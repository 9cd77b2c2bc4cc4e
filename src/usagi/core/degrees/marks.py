"""Marks that stand beside a role: ornament and filler (docs/music.md, Roles)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

from usagi.core.degrees.lines import Mark
from usagi.core.document.elements import Note
from usagi.core.document.joins import sources
from usagi.core.meter.bars import Bars

JOINS = ("hammer-on", "pull-off", "slide")


def marks(
    notes: Sequence[Note], midi: Mapping[str, float], cores: frozenset[str], bars: Bars
) -> dict[str, tuple[Mark, ...]]:
    """The marks of notes, by id.

    Parameters
    ----------
    notes : in time order.
    midi : main pitches by id.
    cores : the ids of the notes that are core tones.
    """
    found: dict[str, tuple[Mark, ...]] = {}
    for note_id in _ornaments(notes, bars):
        found[note_id] = (Mark.ORNAMENT,)
    for note_id in _fillers(notes, midi, cores, bars):
        found[note_id] = (*found.get(note_id, ()), Mark.FILLER)
    return found


def _ornaments(notes: Sequence[Note], bars: Bars) -> list[str]:
    """Notes of at most a quarter of the pulse and half the note that they are joined to."""
    found = []
    before = sources(notes)
    for note in notes:
        source = before.get(note.id)
        if note.attack.kind not in JOINS or source is None or note.ticks < 2 * source.ticks:
            continue
        pulse = bars.at(source.tick).pulse_at(source.tick)[2]
        if 4 * source.ticks <= pulse and not source.dead:
            found.append(source.id)
    return found


def _fillers(notes: Sequence[Note], midi: Mapping[str, float], cores: frozenset[str], bars: Bars) -> list[str]:
    """Open strings and repeated pitches off the pulse, with core tones on the pulse before and after."""
    found = []
    on_tick = {note.tick for note in notes if note.id in cores}
    events: dict[int, list[Note]] = {}
    for note in notes:
        if note.id in midi:
            events.setdefault(note.tick, []).append(note)
    for (_, before), (tick, event) in pairwise(events.items()):
        _, pulse, length = bars.at(tick).pulse_at(tick)
        if pulse == tick or pulse not in on_tick or pulse + length not in on_tick:
            continue
        just_before = {midi[note.id] for note in before}
        found += [note.id for note in event if note.fret == 0 or midi[note.id] in just_before]
    return found
