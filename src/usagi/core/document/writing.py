"""Notes written into a solo as keys write them: one note a string, rests give way, one tick makes a stack."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import groupby

from usagi.core.document.elements import Note, Rest, Stack
from usagi.core.document.following import tidied
from usagi.core.document.lengths import with_length
from usagi.core.document.solo import Solo

NewId = Callable[[], str]


def cleared(solo: Solo, start: int, end: int, new_id: NewId) -> Solo:
    """The solo with nothing in `[start, end)`: what begins there is gone, what sounds into it ends before it."""
    notes = [
        with_length(note, start - note.tick) if note.tick < start < note.end else note
        for note in solo.notes
        if not start <= note.tick < end
    ]
    return tidied(
        solo.model_copy(update={"notes": tuple(notes), "rests": _rests_outside(solo.rests, start, end, new_id)})
    )


def written(solo: Solo, notes: Iterable[Note], new_id: NewId) -> Solo:
    """The solo with more notes in it: an earlier note of their string ends before them, they end before the next.

    A note on the place of another takes it. Notes that then start together are a stack.
    """
    there = {(note.string, note.tick): note for note in solo.notes}
    for note in sorted(notes, key=lambda note: (note.tick, note.string)):
        there[note.string, note.tick] = note
    new = {note.id for note in notes}
    laid: list[Note] = []
    for _, line in groupby(sorted(there.values(), key=lambda n: (n.string, n.tick)), key=lambda n: n.string):
        on_string = list(line)
        for i, note in enumerate(on_string):
            free = on_string[i + 1].tick - note.tick if i + 1 < len(on_string) else note.ticks
            laid.append(with_length(note, free) if note.ticks > free else note)
    rests = solo.rests
    for note in laid:
        if note.id in new:
            rests = _rests_outside(rests, note.tick, note.end, new_id)
    return tidied(_stacked(solo.model_copy(update={"notes": _in_order(laid), "rests": rests}), new_id))


def _in_order(notes: Iterable[Note]) -> tuple[Note, ...]:
    return tuple(sorted(notes, key=lambda note: (note.tick, note.string, note.id)))


def _stacked(solo: Solo, new_id: NewId) -> Solo:
    stacks = {stack.id: stack for stack in solo.stacks}
    notes: list[Note] = []
    for _, together in groupby(solo.notes, key=lambda note: note.tick):
        group = list(together)
        if len(group) > 1:
            known = next((note.stack for note in group if note.stack is not None), None) or new_id()
            stacks.setdefault(known, Stack(id=known))
            group = [note.model_copy(update={"stack": known}) for note in group]
        notes += group
    return solo.model_copy(update={"notes": tuple(notes), "stacks": tuple(stacks.values())})


def _rests_outside(rests: Sequence[Rest], start: int, end: int, new_id: NewId) -> tuple[Rest, ...]:
    found = []
    for rest in rests:
        if rest.end <= start or rest.tick >= end:
            found.append(rest)
            continue
        if rest.tick < start:
            found.append(rest.model_copy(update={"ticks": start - rest.tick}))
        if rest.end > end:
            own = new_id() if rest.tick < start else rest.id
            found.append(Rest(id=own, tick=end, ticks=rest.end - end))
    return tuple(found)
