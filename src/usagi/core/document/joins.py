"""Notes joined by the left hand: a hammer-on, a pull-off or a slide starts from the note before on its string.

The source is found here and never stored (docs/model.md, A note).
"""

from __future__ import annotations

from collections.abc import Iterable

from usagi.core.document.elements import Note
from usagi.core.document.techniques import Attack, HammerOn, Picked, PullOff


def sources(notes: Iterable[Note]) -> dict[str, Note]:
    """The note before on the same string, of each note that has one; `notes` in the order of time."""
    last: dict[int, Note] = {}
    found = {}
    for note in notes:
        if note.string in last:
            found[note.id] = last[note.string]
        last[note.string] = note
    return found


def agrees(note: Note, source: Note | None) -> bool:
    """Whether an attack can start from its source.

    A hammer-on rises and may come from nowhere; a pull-off falls; a slide goes to another fret. Where a fret is not
    known, any join agrees.
    """
    kind = note.attack.kind
    if kind not in ("hammer-on", "pull-off", "slide"):
        return True
    if source is None:
        return kind == "hammer-on"
    if source.fret is None or note.fret is None:
        return True
    if kind == "hammer-on":
        return source.fret < note.fret
    return source.fret > note.fret if kind == "pull-off" else source.fret != note.fret


def fitting(note: Note, source: Note | None) -> Attack:
    """The attack that a joined note takes when its own no longer agrees with its source."""
    if source is None or source.fret is None or note.fret is None or source.fret == note.fret:
        return Picked()
    return HammerOn() if source.fret < note.fret else PullOff()
