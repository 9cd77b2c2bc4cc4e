"""A lick without its key: the degrees of what starts together, the steps between, and when the next one starts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import groupby, pairwise
from typing import NamedTuple

from usagi.core.readings.line import Sound, slot_of


class Token(NamedTuple):
    """One event of a line: its slot (None without a chord), the direction into it, ticks to the next onset."""

    slot: int | None
    direction: int
    gap: int


@dataclass(frozen=True)
class KeyFree:
    """A line event by event; what starts together is one event, its highest note the voice.

    `slots` are semitones above the root that each note of an event is heard on, the highest first, none without a
    chord; `pitches` are MIDI numbers of the voice, a quarter tone counted by the slot below it; `gaps` are ticks to the
    next onset, the last one the length of its note. Dead notes are passed over.
    """

    slots: tuple[tuple[int | None, ...], ...] = ()
    pitches: tuple[int, ...] = ()
    gaps: tuple[int, ...] = ()

    @cached_property
    def steps(self) -> tuple[int, ...]:
        """Semitones from each event to the next."""
        return tuple(b - a for a, b in pairwise(self.pitches))

    @cached_property
    def tokens(self) -> tuple[Token, ...]:
        """The voice, for nearness and cells; nothing leads into the first."""
        ways = (0, *((step > 0) - (step < 0) for step in self.steps))[: len(self.slots)]
        return tuple(Token(slots[0], way, gap) for slots, way, gap in zip(self.slots, ways, self.gaps, strict=True))

    @property
    def stacked(self) -> bool:
        return any(len(slots) > 1 for slots in self.slots)


def key_free(sounds: Sequence[Sound]) -> KeyFree:
    """The line of some sounds, in time order."""
    events = [
        sorted(group, key=lambda sound: -sound.midi) for _, group in groupby(sounds, key=lambda sound: sound.note.tick)
    ]
    onsets = [event[0].note.tick for event in events]
    last = [event[0].note.ticks for event in events[-1:]]
    return KeyFree(
        tuple(tuple(slot_of(sound) for sound in event) for event in events),
        tuple(int(event[0].midi // 1) for event in events),
        (*(b - a for a, b in pairwise(onsets)), *last),
    )
