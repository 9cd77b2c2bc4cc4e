"""A note at another fret, and what is measured from it."""

from __future__ import annotations

from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import SlideIn, SlideOff


def taken_along(note: Note, was: Note, settings: SoloSettings) -> Note:
    """A note whose fret changed, with its trill, slide in and slide off at their old distance from it.

    What was changed with the fret stays as it is; a trill off the neck ends, a slide from or to there becomes far.
    """
    if note.fret is None or was.fret is None or note.fret == was.fret:
        return note
    by, from_fret = note.fret - was.fret, was.fret

    def along(fret: int) -> int | None:
        return fret + by if 0 <= fret + by <= settings.highest_fret else None

    changed: dict[str, object] = {}
    if note.trill is not None and note.trill == was.trill:
        fret = along(note.trill.fret)
        changed["trill"] = None if fret is None else note.trill.model_copy(update={"fret": fret})
    attack, ending = note.attack, note.ending
    if isinstance(attack, SlideIn) and isinstance(attack.start, int) and attack == was.attack:
        start = along(attack.start)
        far = "far below" if attack.start < from_fret else "far above"
        changed["attack"] = attack.model_copy(update={"start": far if start is None else start})
    if isinstance(ending, SlideOff) and isinstance(ending.to, int) and ending == was.ending:
        to = along(ending.to)
        far = "far down" if ending.to < from_fret else "far up"
        changed["ending"] = ending.model_copy(update={"to": far if to is None else to})
    return note.model_copy(update=changed) if changed else note


def at_place(note: Note, string: int, fret: int | None, settings: SoloSettings) -> Note:
    """The note at another place, with what is measured from its fret."""
    return taken_along(note.model_copy(update={"string": string, "fret": fret}), note, settings)
