"""The length of a note, and what is laid on it."""

from __future__ import annotations

from usagi.core.document.elements import Note
from usagi.core.document.techniques import SlideIn, SlideOff


def with_length(note: Note, ticks: int) -> Note:
    """A note of another length, with what is laid on it cut to that.

    The first point of its course past the end is set on the end and the rest dropped; a vibrato starts at the end at
    the latest, a slide in or off takes the whole note at most.
    """
    course: list[tuple[int, int]] = []
    for at, quarters in note.course:
        if at > ticks:
            if not course or course[-1][0] < ticks:
                course.append((ticks, quarters))
            break
        course.append((at, quarters))
    vibrato = note.vibrato
    if vibrato is not None and vibrato.start > ticks:
        vibrato = vibrato.model_copy(update={"start": ticks})
    attack, ending = note.attack, note.ending
    if isinstance(attack, SlideIn) and attack.ticks > ticks:
        attack = attack.model_copy(update={"ticks": ticks})
    if isinstance(ending, SlideOff) and ending.ticks > ticks:
        ending = ending.model_copy(update={"ticks": ticks})
    laid = {"course": tuple(course), "vibrato": vibrato, "attack": attack, "ending": ending}
    return note.model_copy(update={"ticks": ticks, **laid})
