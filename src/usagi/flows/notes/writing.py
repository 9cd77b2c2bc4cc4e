"""What the server writes on request: figures again, typed pitches, tablature, taps by ear."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.by_ear import Tap, tapped
from usagi.core.document.elements import Note, Rest
from usagi.core.document.other_changes import laid_over, read_other_changes
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.writing import cleared, written
from usagi.core.fingering.by_pitch import last_pitch, placed, read_pitches
from usagi.core.fingering.chord_shape import NoShape, chord_shape
from usagi.core.fingering.hand import HandSize
from usagi.core.formats.tab_reading import read_tab, with_tab
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.phrases.figures import Copy, copied
from usagi.core.playing.timing import expected_seconds, feels_of
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.workspace import Workspace, new_id

CONTEXT = 3  # notes that the hand comes from


def copy_figure(workspace: Workspace, solo_id: UUID, wanted: Copy, reader: Reader = Reader()) -> Answer:
    """Write a figure again. Raises : FigureImpossible, NotThere."""
    return _written(
        workspace, solo_id, "copy a figure", reader, lambda solo, ground: (copied(solo, ground, wanted, new_id), [])
    )


def enter_pitches(
    workspace: Workspace, solo_id: UUID, text: str, tick: int, ticks: int, hand: HandSize, reader: Reader = Reader()
) -> Answer:
    """Typed pitches one after another from a tick on, at the best places. Raises : PitchesUnreadable, NotThere."""

    def with_pitches(solo: Solo, ground: Ground) -> tuple[Solo, list[str]]:
        before = [note for note in solo.notes if note.tick < tick][-CONTEXT:]
        typed = read_pitches(text, tick, ticks, ground.timeline, last_pitch(before, solo.settings))
        at = sorted({note.tick for note in before} | {one.tick for one in typed})
        seconds = dict(zip(at, expected_seconds(solo, ground, at), strict=True))
        notes = placed(typed, ticks, solo.settings, before, seconds, new_id, hand)
        after = cleared(solo, tick, tick + ticks * len(typed), new_id)
        silent = [Rest(id=new_id(), tick=one.tick, ticks=ticks) for one in typed if one.midi is None]
        rests = tuple(sorted((*after.rests, *silent), key=lambda rest: rest.tick))
        return written(after.model_copy(update={"rests": rests}), notes, new_id), []

    return _written(workspace, solo_id, "write by pitch", reader, with_pitches)


def enter_tab(
    workspace: Workspace, solo_id: UUID, text: str, from_bar: int | None, reader: Reader = Reader()
) -> Answer:
    """The notes of a text tablature, in place of what its bars hold. Raises : TabUnreadable, NotThere."""

    def with_text(solo: Solo, ground: Ground) -> tuple[Solo, list[str]]:
        read = read_tab(text, solo.settings, ground.timeline.bars, new_id, from_bar=from_bar)
        return with_tab(solo, read, new_id), list(read.messages)

    return _written(workspace, solo_id, "import tablature", reader, with_text)


def write_shape(
    workspace: Workspace, solo_id: UUID, tick: int, ticks: int, position: int, reader: Reader = Reader()
) -> Answer:
    """The chart's chord at a tick, one tone a string from a position. Raises : NoShape, NotThere."""

    def with_shape(solo: Solo, ground: Ground) -> tuple[Solo, list[str]]:
        change = ground.timeline.chord_at(tick)
        if change is None or change.heard is None:
            raise NoShape("The chart has no chord here.")
        places = chord_shape(change.heard, position, solo.settings)
        notes = [
            Note(id=new_id(), tick=tick, ticks=ticks, string=string, fret=fret * HUNDREDTHS) for string, fret in places
        ]
        return written(cleared(solo, tick, tick + ticks, new_id), notes, new_id), []

    return _written(workspace, solo_id, "write the chord", reader, with_shape)


def lay_other_changes(
    workspace: Workspace, solo_id: UUID, text: str, start: int, end: int, name: str, reader: Reader = Reader()
) -> Answer:
    """Lay other changes over a span, in front of those already there. Raises : OtherChangesImpossible, NotThere."""

    def with_changes(solo: Solo, ground: Ground) -> tuple[Solo, list[str]]:
        laid = read_other_changes(text, start, end, ground.timeline, name=name, new_id=new_id)
        return laid_over(solo, laid), []

    return _written(workspace, solo_id, "lay other changes", reader, with_changes)


def write_by_ear(
    workspace: Workspace, solo_id: UUID, taps: Sequence[Tap], string: int, reader: Reader = Reader()
) -> Answer:
    """A note for every tap. Raises : TapsOutside, NotThere."""

    def with_taps(solo: Solo, ground: Ground) -> tuple[Solo, list[str]]:
        after = tapped(solo, ground, taps, min(string, len(solo.settings.tuning)), feels_of(solo, ground), new_id)
        more = len({note.id for note in after.notes} - {note.id for note in solo.notes})
        return after, [f"{len(taps)} taps, {more} notes more: type their frets, the rhythm stays."]

    return _written(workspace, solo_id, "tap the onsets", reader, with_taps)


def _written(
    workspace: Workspace,
    solo_id: UUID,
    label: str,
    reader: Reader,
    change: Callable[[Solo, Ground], tuple[Solo, list[str]]],
) -> Answer:
    """One edit of a solo that the server works out; `change` gives the solo and what was found on the way."""
    loaded = load(workspace, solo_id)
    after, messages = change(loaded.solo, loaded.ground)
    return commit(workspace, loaded, label, reader, solo=after, messages=messages)
