"""Notes that hold their seconds while the grid under them moves (docs/model.md, Changes after notes exist)."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.document.elements import Note, Rest
from usagi.core.document.solo import Ground, Solo

PARTS = (4, 3)  # what a pulse's steps are: sixteenths, or triplets where nearer
FAR_S = 0.030  # a note that its step misses by more is listed


@dataclass(frozen=True, slots=True)
class Outlier:
    """A note that no step of the new grid hits."""

    id: str
    place: str
    off_ms: float

    @property
    def sentence(self) -> str:
        way = "after" if self.off_ms > 0 else "before"
        return f"The note now at {self.place} lies {abs(self.off_ms):.0f} ms {way} its step."


def hold_seconds(solo: Solo, before: Ground, after: Ground) -> tuple[Solo, list[Outlier]]:
    """The solo on the moved grid, each note and rest on the step nearest to where its written place lay.

    Swing moves both grids alike and is left out.
    A note that would fall on its neighbour of the same string, or lose its length, keeps the exact tick instead and is
    listed with those that their step misses.

    Parameters
    ----------
    solo : on the old grid.
    before, after : the ground with the old grid and with the new one.
    """

    def exactly(tick: int) -> float:
        return after.grid.tick(before.grid.second(tick))

    moved: dict[str, tuple[int, int]] = {}
    outliers = []
    taken: dict[int, int] = {}
    for note in solo.notes:
        exact, exact_end = exactly(note.tick), exactly(note.end)
        start, end = _step(exact, after), _step(exact_end, after)
        off = before.grid.second(note.tick) - after.grid.second(start)
        listed = abs(off) > FAR_S
        if end <= start or taken.get(note.string, start) > start:
            start = max(round(exact), taken.get(note.string, round(exact)))
            end = max(start + 1, round(exact_end))
            listed = True
        if listed:
            outliers.append(Outlier(note.id, after.timeline.bars.place(start), round(off * 1_000, 1)))
        taken[note.string] = end
        moved[note.id] = (start, end)
    notes = tuple(_moved(note, *moved[note.id]) for note in solo.notes)
    rests = []
    for rest in solo.rests:
        start, end = _step(exactly(rest.tick), after), _step(exactly(rest.end), after)
        if end > start:
            rests.append(Rest(id=rest.id, tick=start, ticks=end - start))
    phrases = tuple(
        phrase.model_copy(
            update={
                "start": _step(exactly(phrase.start), after),
                "end": _step(exactly(phrase.end), after),
            }
        )
        for phrase in solo.phrases
    )
    return solo.model_copy(update={"notes": notes, "rests": tuple(rests), "phrases": phrases}), outliers


def _step(tick: float, ground: Ground) -> int:
    """The nearest step of the pulse that holds a tick."""
    _, start, length = ground.timeline.bars.at(int(tick)).pulse_at(int(tick))
    steps = [start + length * i // parts for parts in PARTS for i in range(parts + 1)]
    return min(steps, key=lambda step: (abs(step - tick), step))


def _moved(note: Note, start: int, end: int) -> Note:
    """A note at another place; its course goes on in the same shares of its length."""
    ticks = end - start
    if ticks == note.ticks:
        return note if start == note.tick else note.model_copy(update={"tick": start})
    course: list[tuple[int, int]] = []
    for at, quarters in note.course:
        place = round(at * ticks / note.ticks)
        if not course or place > course[-1][0]:
            course.append((place, quarters))
    vibrato = note.vibrato
    if vibrato is not None:
        vibrato = vibrato.model_copy(update={"start": min(round(vibrato.start * ticks / note.ticks), ticks - 1)})
    return note.model_copy(update={"tick": start, "ticks": ticks, "course": tuple(course), "vibrato": vibrato})
