"""What a teacher's ear puts right in an offer before it is taken: another pitch, a slide for a bend and back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from enum import StrEnum
from typing import Annotated, Final

import numpy as np
from pydantic import Field

from usagi.core.listening.heard import HeardNote
from usagi.core.listening.hints import Pitch
from usagi.core.listening.technique import BendHeard, Joined
from usagi.core.values import Value

FRAME_S: Final = 256 / 22_050
LEAST_S: Final = 0.03


class Moving(StrEnum):
    """How a pitch that moves is played."""

    BEND = "bend"
    SLIDE = "slide"
    PLAIN = "plain"


class At(Value):
    """A place that the teacher chose."""

    string: Annotated[int, Field(ge=1, le=8)]
    fret: Annotated[int, Field(ge=0, le=36)]


class Mend(Value):
    """What is put right of one offer, by its number among what was heard."""

    number: Annotated[int, Field(ge=0, le=100_000)]
    midi: Pitch | None = None
    moving: Moving | None = None
    at: At | None = None


def mended(notes: Sequence[HeardNote], mends: Mapping[int, Mend]) -> list[tuple[int, HeardNote]]:
    """The notes with what was put right, each with its number: both notes of a slide made of a bend have the bend's.

    A slide is two notes, a bend is one: of a bend the arrival becomes a note of its own, of a slide the note that is
    slid to goes into the one before.
    """
    out: list[tuple[int, HeardNote]] = []
    for number, note in enumerate(notes):
        mend = mends.get(number)
        moving = None if mend is None else mend.moving
        if mend is not None and mend.midi is not None:
            note = replace(note, midi=mend.midi, others=(*(m for m in note.others if m != note.midi), note.midi))
        if moving is Moving.PLAIN:
            note = replace(note, bend=None, joined=Joined.PICKED, vibrato=None, raked=0)
        elif moving is Moving.SLIDE and note.bend is not None:
            out += [(number, part) for part in _as_slide(note)]
            continue
        elif moving is Moving.BEND and note.joined is Joined.SLID and out and not _apart(out[-1][0], mends):
            before_number, before = out[-1]
            out[-1] = before_number, _as_bend(before, note)
            continue
        out.append((number, note))
    return out


def _apart(number: int, mends: Mapping[int, Mend]) -> bool:
    """Whether the note before a slide is to stay a note of its own: the bend that was made of both is a slide again."""
    mend = mends.get(number)
    return mend is not None and mend.moving is Moving.SLIDE


def _as_slide(note: HeardNote) -> tuple[HeardNote, ...]:
    assert note.bend is not None
    size = round(note.bend.size_cents / 100)
    arrival = next((at for at, cents in note.bend.points if cents > 50), 0.0)
    if size == 0 or arrival < LEAST_S:
        return (replace(note, bend=None, midi=note.midi + size),)
    at = note.onset_s + arrival
    frame = max(1, min(len(note.cents) - 1, round(arrival / FRAME_S)))
    first = replace(note, bend=None, end_s=at, cents=note.cents[:frame], vibrato=None)
    second = replace(
        note, bend=None, onset_s=at, midi=note.midi + size, joined=Joined.SLID, cents=note.cents[frame:] - 100 * size
    )
    return first, second


def _as_bend(before: HeardNote, note: HeardNote) -> HeardNote:
    arrival = max(LEAST_S, note.onset_s - before.onset_s)
    top = 100.0 * (note.midi - before.midi)
    start = max(LEAST_S / 2, arrival - 0.1)
    points = ((0.0, 0.0), (start, 0.0), (arrival, top)) if start < arrival else ((0.0, 0.0), (arrival, top))
    if top <= 0:  # a string only bends upwards: it was bent before it sounded
        points = ((0.0, -top), (start, -top), (arrival, 0.0))
        before = replace(before, midi=note.midi)
    return replace(
        before,
        end_s=note.end_s,
        bend=BendHeard(points),
        vibrato=note.vibrato,
        cents=np.concatenate([before.cents, note.cents + max(0.0, top)]),
    )
