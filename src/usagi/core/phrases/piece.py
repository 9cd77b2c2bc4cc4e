"""A lick with what it stands on: the notes of a span and no others, on the ground of its solo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from usagi.core.document.elements import AnticipationChoice, Note
from usagi.core.document.solo import Ground, Solo


@dataclass(frozen=True)
class Piece:
    """The notes of a lick as a solo of their own, at their places on a ground."""

    solo: Solo
    ground: Ground

    @property
    def start(self) -> int:
        return self.solo.notes[0].tick

    @property
    def end(self) -> int:
        return max(note.end for note in self.solo.notes)


def cut(solo: Solo, ground: Ground, notes: Sequence[Note]) -> Piece:
    """A solo with these of its notes alone, in time order, and the rests between them.

    It names no other document of its studio, so it can stand by itself. Loudness stays, and which notes
    anticipate a chord.
    """
    start, end = notes[0].tick, max(note.end for note in notes)
    stacks, ids = {note.stack for note in notes}, {note.id for note in notes}
    settings = solo.settings.model_copy(update={"parent": None, "continues": None, "melody": False, "sources": ()})
    alone = Solo(
        settings=settings,
        notes=tuple(notes),
        rests=tuple(rest for rest in solo.rests if start <= rest.tick < end),
        stacks=tuple(stack for stack in solo.stacks if stack.id in stacks),
        dynamics=tuple(one for one in solo.dynamics if one.tick < end),
        swells=tuple(one for one in solo.swells if one.start < end and one.end > start),
        choices=tuple(one for one in solo.choices if isinstance(one, AnticipationChoice) and one.note in ids),
    )
    return Piece(alone, ground)
