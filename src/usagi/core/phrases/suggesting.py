"""Where phrases could be cut: at rests, behind long notes, and with the form (docs/music.md, Phrases)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from usagi.core.document.elements import Note, Phrase
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.writing import NewId

FEWEST: Final = 3  # notes of a phrase
LONGEST_BARS: Final = 4
LONG_PULSES: Final = 2  # of a note behind which a phrase may end
NAMES: Final = "abcdefghijklmnopqrstuvwxyz"


def suggest_phrases(solo: Solo, ground: Ground, new_id: NewId) -> tuple[Phrase, ...]:
    """Phrases over the notes that stand in none, in the order of time, named by letters that are free.

    A phrase ends at a rest of a pulse or more, behind a note of two pulses or more, where a section begins, and where
    it would be longer than four bars (there at its widest gap between onsets). Fewer than three notes are no phrase.
    """
    free = [note for note in solo.notes if not any(phrase.start <= note.tick < phrase.end for phrase in solo.phrases)]
    borders = sorted(tick for phrase in solo.phrases for tick in (phrase.start, phrase.end))
    groups: list[list[Note]] = []
    for note in free:
        if not groups or _ends_before(note, groups[-1], borders, ground):
            groups.append([])
        groups[-1].append(note)
    whole = [part for group in _joined(groups, borders) for part in _short_enough(group, ground)]
    taken = {phrase.name for phrase in solo.phrases}
    names = (name for name in NAMES if name not in taken)
    found = []
    for i, group in enumerate(whole):
        after = whole[i + 1][0].tick if i + 1 < len(whole) else None
        limits = [tick for tick in (*borders, after) if tick is not None and tick > group[0].tick]
        end = min([max(note.end for note in group), *limits])
        found.append(Phrase(id=new_id(), start=group[0].tick, end=end, name=next(names, "")))
    return tuple(found)


def _ends_before(note: Note, group: Sequence[Note], borders: Sequence[int], ground: Ground) -> bool:
    last = group[-1]
    bars = ground.timeline.bars
    until = max(one.end for one in group)
    pulse = bars.at(note.tick).pulse_at(note.tick)[2]
    if any(last.tick < border <= note.tick for border in borders):
        return True
    if note.tick - until >= pulse:
        return True
    if note.tick > last.tick and last.ticks >= LONG_PULSES * pulse:
        return True
    return _section(note.tick, ground) != _section(last.tick, ground)


def _section(tick: int, ground: Ground) -> tuple[int, int, int] | None:
    played = ground.timeline.played.get(ground.timeline.bars.at(tick).number)
    return None if played is None else (played.chorus, played.place, played.time)


def _joined(groups: Sequence[list[Note]], borders: Sequence[int]) -> list[list[Note]]:
    """Groups of a few notes go with the one before, unless a phrase lies between."""
    found: list[list[Note]] = []
    for group in groups:
        apart = found and any(found[-1][-1].tick < border <= group[0].tick for border in borders)
        few = len(group) < FEWEST or (bool(found) and len(found[-1]) < FEWEST)
        if found and few and not apart:
            found[-1] += group
        else:
            found.append(list(group))
    return found


def _short_enough(group: list[Note], ground: Ground) -> list[list[Note]]:
    bars = ground.timeline.bars
    length = bars.at(group[-1].tick).number - bars.at(group[0].tick).number + 1
    if length <= LONGEST_BARS or len(group) < 2 * FEWEST:
        return [group]
    inner = range(FEWEST, len(group) - FEWEST + 1)
    middle = (group[0].tick + group[-1].tick) / 2
    cut = max(inner, key=lambda i: (group[i].tick - group[i - 1].tick, -abs(group[i].tick - middle)))
    return [*_short_enough(group[:cut], ground), *_short_enough(group[cut:], ground)]
