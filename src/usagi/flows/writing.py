"""What the server writes on request: figures again, typed pitches, tablature, taps by ear."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.by_ear import Tap, tapped
from usagi.core.document.edits import difference
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.things import Note, Rest
from usagi.core.document.writing import cleared, written
from usagi.core.fingering.by_pitch import last_pitch, placed, read_pitches
from usagi.core.fingering.chord_shape import NoShape, chord_shape
from usagi.core.fingering.hand import HandSize
from usagi.core.formats.tab_reading import read_tab, with_tab
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.phrases.figures import Copy, copied
from usagi.core.playing.timing import expected_seconds, feels_of
from usagi.flows.desk import Desk, new_id
from usagi.flows.edits import Answer, accept
from usagi.flows.grounds import one_act
from usagi.store.database import transaction

CONTEXT = 3  # notes that the hand comes from


def copy_figure(desk: Desk, solo_id: UUID, wanted: Copy, reader: Reader = Reader()) -> Answer:
    """Write a figure again. Raises : FigureImpossible, NotThere."""
    return _written(desk, solo_id, "copy a figure", reader, lambda solo, ground: copied(solo, ground, wanted, new_id))


def enter_pitches(
    desk: Desk, solo_id: UUID, text: str, tick: int, ticks: int, hand: HandSize, reader: Reader = Reader()
) -> Answer:
    """Typed pitches one after another from a tick on, at the best places. Raises : PitchesUnreadable, NotThere."""

    def with_pitches(solo: Solo, ground: Ground) -> Solo:
        before = [note for note in solo.notes if note.tick < tick][-CONTEXT:]
        typed = read_pitches(text, tick, ticks, ground.timeline, last_pitch(before, solo.settings))
        at = sorted({note.tick for note in before} | {one.tick for one in typed})
        seconds = dict(zip(at, expected_seconds(solo, ground, at), strict=True))
        notes = placed(typed, ticks, solo.settings, before, seconds, new_id, hand)
        after = cleared(solo, tick, tick + ticks * len(typed), new_id)
        silent = [Rest(id=new_id(), tick=one.tick, ticks=ticks) for one in typed if one.midi is None]
        rests = tuple(sorted((*after.rests, *silent), key=lambda rest: rest.tick))
        return written(after.model_copy(update={"rests": rests}), notes, new_id)

    return _written(desk, solo_id, "write by pitch", reader, with_pitches)


def enter_tab(desk: Desk, solo_id: UUID, text: str, from_bar: int | None, reader: Reader = Reader()) -> Answer:
    """The notes of a text tablature, in place of what its bars hold. Raises : TabUnreadable, NotThere."""
    said: list[str] = []

    def changed(solo: Solo, ground: Ground) -> Solo:
        read = read_tab(text, solo.settings, ground.timeline.bars, new_id, from_bar=from_bar)
        said.extend(read.said)
        return with_tab(solo, read, new_id)

    answer = _written(desk, solo_id, "bring in tablature", reader, changed)
    answer.said.extend(said)
    return answer


def write_shape(desk: Desk, solo_id: UUID, tick: int, ticks: int, position: int, reader: Reader = Reader()) -> Answer:
    """The chart's chord at a tick, one tone a string from a position. Raises : NoShape, NotThere."""

    def with_shape(solo: Solo, ground: Ground) -> Solo:
        change = ground.timeline.chord_at(tick)
        if change is None or change.heard is None:
            raise NoShape("The chart has no chord here.")
        places = chord_shape(change.heard, position, solo.settings)
        notes = [
            Note(id=new_id(), tick=tick, ticks=ticks, string=string, fret=fret * HUNDREDTHS) for string, fret in places
        ]
        return written(cleared(solo, tick, tick + ticks, new_id), notes, new_id)

    return _written(desk, solo_id, "write the chord", reader, with_shape)


def write_by_ear(desk: Desk, solo_id: UUID, taps: Sequence[Tap], string: int, reader: Reader = Reader()) -> Answer:
    """A note for every tap. Raises : TapsOutside, NotThere."""

    def with_taps(solo: Solo, ground: Ground) -> Solo:
        return tapped(solo, ground, taps, min(string, len(solo.settings.tuning)), feels_of(solo, ground), new_id)

    before: list[Note] = []
    answer = _written(desk, solo_id, "tap the onsets", reader, with_taps, seen=before)
    answer.said.append(f"{len(taps)} taps, {len(before)} notes more: type their frets, the rhythm stays.")
    return answer


def _written(
    desk: Desk,
    solo_id: UUID,
    label: str,
    reader: Reader,
    change: Callable[[Solo, Ground], Solo],
    seen: list[Note] | None = None,
) -> Answer:
    """One edit of a solo that the server works out; new notes are listed in `seen`."""
    with transaction(desk.pool) as db:
        solo, version, ground_id = desk.solo(db, solo_id)
        ground, _ = desk.ground(db, ground_id)
    after = change(solo, ground)
    if seen is not None:
        known = {note.id for note in solo.notes}
        seen += [note for note in after.notes if note.id not in known]
    edits = one_act(desk, solo_id, label, [(solo_id, difference(solo, after))])
    return accept(desk, solo_id, {str(solo_id): version}, edits, reader)
