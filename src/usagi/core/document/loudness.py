"""How loud notes are: a level holds until the next one, a swell leads from level to level."""

from __future__ import annotations

from usagi.core.document.elements import Note, Swell
from usagi.core.document.solo import Solo
from usagi.core.document.techniques import Loudness


def level_at(solo: Solo, tick: int) -> Loudness:
    """The level in force at a tick; mf before the first."""
    return next((one.level for one in reversed(solo.dynamics) if one.tick <= tick), Loudness.MF)


def level_after(solo: Solo, swell: Swell) -> Loudness | None:
    """The level that a swell leads to: the next written at its end or later, when it lies the way the swell goes."""
    found = next((one.level for one in solo.dynamics if one.tick >= swell.end), None)
    order, start = list(Loudness), level_at(solo, swell.start)
    if found is None or found is start:
        return None
    rises = order.index(found) > order.index(start)
    return found if rises == (swell.to == "louder") else None


def swell_of(note: Note, solo: Solo) -> Swell | None:
    """The first swell that a note sounds in."""
    return next((one for one in solo.swells if one.start < note.end and note.tick < one.end), None)


def loudness_words(note: Note, solo: Solo) -> list[str]:
    """What is written of loudness at a note: the level that begins with it, the swell that it sounds in."""
    words = [f"{one.level} from here" for one in solo.dynamics if one.tick == note.tick]
    swell = swell_of(note, solo)
    return words if swell is None else [*words, f"growing {swell.to}"]


def louder_otherwise(before: Solo, solo: Solo) -> set[str]:
    """The notes whose words of loudness have changed."""
    levels = set(before.dynamics) ^ set(solo.dynamics)
    swells = set(before.swells) ^ set(solo.swells)
    if not levels and not swells:
        return set()
    ticks = {one.tick for one in levels}
    return {
        note.id
        for note in solo.notes
        if note.tick in ticks or any(one.start < note.end and note.tick < one.end for one in swells)
    }
