"""The readings of a whole solo, computed again only where an edit changes something."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from usagi.core.chart.timeline import Change
from usagi.core.degrees.anticipation import anticipated
from usagi.core.degrees.labels import NoteReading, read_note
from usagi.core.degrees.spoken import Reader, Wording
from usagi.core.document.elements import AnticipationChoice, ChangesChoice, Note
from usagi.core.document.pitches import stages
from usagi.core.document.solo import Ground, Solo

MOST_CHANGED = 40  # notes; when more are changed in one go, all are read anew


@dataclass(frozen=True)
class Readings:
    """The readings of a solo's notes by id, and what they were made of, so that the next are made of what changed."""

    solo: Solo
    ground: Ground
    reader: Reader
    written: Mapping[str, Note]
    early: Mapping[str, Change]
    notes: Mapping[str, NoteReading]
    anew: frozenset[str] | None = None  # the notes that were read anew since the readings before; None for all

    def differing(self, solo: Solo) -> tuple[list[Note], list[Note]] | None:
        """The notes that differ between two states, old and new; None when so many differ that all are read again."""
        written = self.written
        now = [note for note in solo.notes if written.get(note.id) is not note]
        gone = [written[note.id] for note in now if note.id in written]
        if len(written) - len(gone) > len(solo.notes) - len(now):  # some have gone without another in their place
            ids = {note.id for note in solo.notes}
            gone += [note for note_id, note in written.items() if note_id not in ids]
        return None if len(now) + len(gone) > MOST_CHANGED else (gone, now)


def read_notes(solo: Solo, ground: Ground, reader: Reader = Reader()) -> list[NoteReading]:
    """The reading of every note of a solo, in time order: names, degrees on every line, anticipation, what is held.

    Parameters
    ----------
    solo, ground : the notes, and the chart and grid that they stand on.
    reader : degree style, note names and counting school.
    """
    return list(readings(solo, ground, reader).notes.values())


def readings(solo: Solo, ground: Ground, reader: Reader = Reader(), before: Readings | None = None) -> Readings:
    """The readings of all notes.

    `before` are readings of an earlier state: those of notes for which nothing changed are taken over.
    """
    if before is not None and before.ground is ground and before.reader == reader:
        same = before.solo.settings == solo.settings and before.solo.choices == solo.choices
        differing = before.differing(solo) if same else None
        if differing is not None:
            return _read_on(before, solo, *differing)
    early = _anticipated(solo.notes, solo, ground)
    notes = _read_all(solo.notes, solo, ground, reader, early)
    return Readings(solo, ground, reader, {note.id: note for note in solo.notes}, early, notes)


def _read_on(before: Readings, solo: Solo, gone: list[Note], now: list[Note]) -> Readings:
    """Read the changed notes again, and those just before them, which may be heard against the same chord."""
    reach = solo.settings.window
    ticks = {note.tick for note in (*gone, *now)}
    near = {note.id: note for tick in ticks for note in _between(solo.notes, tick - reach, tick + reach)}
    led = _anticipated(sorted(near.values(), key=lambda note: note.tick), solo, before.ground)
    written, early, notes = dict(before.written), dict(before.early), dict(before.notes)
    for note in gone:
        early.pop(note.id, None)
        del written[note.id], notes[note.id]
    anew = []
    for note in near.values():
        leads = any(note.tick <= tick <= note.tick + reach for tick in ticks)
        if note.id not in written or (leads and early.get(note.id) is not led.get(note.id)):
            anew.append(note)
            written[note.id] = note
            early.pop(note.id, None)
            if note.id in led:
                early[note.id] = led[note.id]
    notes |= _read_all(anew, solo, before.ground, before.reader, early)
    return Readings(solo, before.ground, before.reader, written, early, notes, frozenset(note.id for note in anew))


def _between(notes: Sequence[Note], first: int, last: int) -> Sequence[Note]:
    """The notes, in time order, that begin at one of two ticks or between them."""
    return notes[bisect_left(notes, first, key=_tick) : bisect_right(notes, last, key=_tick)]


def _tick(note: Note) -> int:
    return note.tick


def _anticipated(notes: Sequence[Note], solo: Solo, ground: Ground) -> dict[str, Change]:
    overruled = {c.note: c for c in solo.choices if isinstance(c, AnticipationChoice)}
    return anticipated(notes, solo.settings, ground.timeline, choices=overruled)


def _read_all(
    notes: Sequence[Note], solo: Solo, ground: Ground, reader: Reader, early: Mapping[str, Change]
) -> dict[str, NoteReading]:
    layers = [c for c in solo.choices if isinstance(c, ChangesChoice)]
    wording = Wording(ground.timeline, reader)
    return {
        note.id: read_note(note, stages(note, solo.settings), ground.timeline, early.get(note.id), layers, wording)
        for note in notes
    }
