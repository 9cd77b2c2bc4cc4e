"""The phrases of a solo: what they share with the player's other solos, and what they do with the tune's melody."""

from __future__ import annotations

from uuid import UUID, uuid4

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.licks.drawn import Drawn, onsets, with_gaps
from usagi.core.licks.entries import Span, entry_of
from usagi.core.licks.kin import FEWEST, Place, shared
from usagi.core.licks.letters import line_letters, read_letters, windows
from usagi.core.meter.bars import bar_name
from usagi.core.phrases.melody import treated
from usagi.core.values import Value
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.licks.indexing import index_solo
from usagi.flows.studio.new_solo import store_solo
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import found as stored
from usagi.store.database import transaction
from usagi.store.documents import solos_of_ground
from usagi.store.found import FoundSpan
from usagi.store.shelf import removed_solos

MOST_LOOKED = 300
MOST = 12


class KinView(Value):
    """A place in another solo of the player that shares notes with a phrase."""

    solo: UUID
    tune: str
    title: str
    place: str  # its bar
    count: int
    change: str
    says: str
    here: tuple[str, ...]  # note ids
    there: tuple[str, ...]
    has_sound: bool


class TreatedView(Value):
    """What a phrase does with the melody."""

    phrase: str
    name: str
    start: int
    end: int
    treatment: str
    says: str
    here: tuple[str, ...]
    there: tuple[str, ...]


class MelodyView(Value):
    """The tune's melody on the ground of a solo, if it is written; whether this solo is it."""

    solo: UUID | None
    title: str
    own: bool
    phrases: tuple[TreatedView, ...]


def kin(workspace: Workspace, solo_id: UUID, start: int, end: int) -> list[KinView]:
    """Where the player's other solos have what is played in a span, the longest first. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    notes = tuple(note for note in loaded.solo.notes if start <= note.tick < end)
    entry = entry_of(Span(notes), loaded.solo, loaded.ground) if notes else None
    if entry is None or len(entry.line.slots) < FEWEST:
        return []
    own = Place(entry.line, entry.drawn.pitch, entry.starts_at)
    steps = [f"%{one}%" for one in windows(entry.line, FEWEST - 1)]
    letters = line_letters(entry.line)
    lines = [f"%{letters[i : i + FEWEST]}%" for i in range(len(letters) - FEWEST + 1)]
    with transaction(workspace.pool) as db:
        ids = stored.of_other_solos(db, workspace.scope, solo_id, steps, lines, MOST_LOOKED)
        spans = stored.spans(db, workspace.scope, ids)
    found = []
    for span in sorted(spans, key=lambda one: (one.tune, one.bar)):
        drawn = Drawn.model_validate(span.drawn)
        line = with_gaps(read_letters(span.line, span.stacks, span.steps), drawn)
        both = shared(own, Place(line, drawn.pitch, span.starts_at))
        if both is not None and span.solo_id is not None:
            here = _ids(entry.drawn, both.one, both.length)
            found.append(
                _kin(span, both.length, str(both.change), both.says, here, _ids(drawn, both.other, both.length))
            )
    found.sort(key=lambda one: -one.count)
    each_place = {(one.solo, one.there): one for one in found}  # a lick and its phrase are one place
    return list(each_place.values())[:MOST]


def _ids(drawn: Drawn, first: int, count: int) -> tuple[str, ...]:
    return tuple(event[0].id for event in onsets(drawn)[first : first + count])


def _kin(span: FoundSpan, count: int, change: str, says: str, here: tuple[str, ...], there: tuple[str, ...]) -> KinView:
    assert span.solo_id is not None
    return KinView(
        solo=span.solo_id, tune=span.tune, title=span.title, place=bar_name(span.bar), count=count, change=change,
        says=says, here=here, there=there, has_sound=span.has_sound,
    )  # fmt: skip


def read_melody(workspace: Workspace, solo_id: UUID, reader: Reader = Reader()) -> MelodyView:
    """What a solo's phrases do with the melody on its ground. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    if loaded.solo.settings.melody:
        return MelodyView(solo=solo_id, title=loaded.solo.settings.title, own=True, phrases=())
    melody_id, melody = _melody(workspace, loaded.ground_id, solo_id)
    if melody is None:
        return MelodyView(solo=None, title="", own=False, phrases=())
    return MelodyView(
        solo=melody_id,
        title=melody.settings.title,
        own=False,
        phrases=tuple(
            TreatedView(
                phrase=one.phrase,
                name=one.name,
                start=one.start,
                end=one.end,
                treatment=str(one.treatment),
                says=one.says,
                here=tuple(note for _, note in one.pairs),
                there=tuple(note for note, _ in one.pairs),
            )
            for one in treated(loaded.solo, melody, loaded.ground)
        ),
    )


def _melody(workspace: Workspace, ground_id: UUID, but: UUID) -> tuple[UUID | None, Solo | None]:
    with transaction(workspace.pool) as db:
        gone = removed_solos(db, workspace.scope)
        for other in solos_of_ground(db, workspace.scope, ground_id):
            if other != but and other not in gone:
                solo, _, _ = workspace.solo(db, other)
                if solo.settings.melody:
                    return other, solo
    return None, None


def mark_melody(workspace: Workspace, solo_id: UUID, *, on: bool, reader: Reader = Reader()) -> Answer:
    """Say that a solo is the tune's melody, or that it is a solo again. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    if on and _melody(workspace, loaded.ground_id, solo_id)[1] is not None:
        raise NotThere("This recording has a melody already: make it a solo again first.")
    settings = loaded.solo.settings.model_copy(update={"melody": on})
    label = "call it the melody" if on else "call it a solo"
    return commit(workspace, loaded, label, reader, solo=loaded.solo.model_copy(update={"settings": settings}))


def lift_melody(workspace: Workspace, solo_id: UUID, start: int, end: int) -> UUID:
    """What a solo plays in a span as the tune's melody: a solo of its own on the same ground. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    if _melody(workspace, loaded.ground_id, solo_id)[1] is not None:
        raise NotThere("This recording has a melody already: open it and write on.")
    notes = [note for note in loaded.solo.notes if start <= note.tick < end]
    if not notes:
        raise NotThere("There is no note in what is marked.")
    melody = _lifted(loaded.solo, notes, loaded.ground)
    with transaction(workspace.pool) as db:
        melody_id = store_solo(db, workspace, uuid4(), melody, loaded.ground, loaded.ground_id)
    index_solo(workspace, melody_id)
    return melody_id


def _lifted(solo: Solo, notes: list[Note], ground: Ground) -> Solo:
    bars = ground.timeline.bars
    first, last = bars.at(notes[0].tick).number, bars.at(max(note.end for note in notes) - 1).number
    stacks = {note.stack for note in notes}
    own = SoloSettings(
        title="melody", tuning=solo.settings.tuning, capo=solo.settings.capo, last_fret=solo.settings.last_fret,
        scale_length_mm=solo.settings.scale_length_mm, gauges=solo.settings.gauges,
        bottleneck=solo.settings.bottleneck, first_bar=min(first, last), last_bar=max(1, last), melody=True,
    )  # fmt: skip
    span = range(notes[0].tick, max(note.end for note in notes))
    return Solo(
        settings=own,
        notes=tuple(notes),
        rests=tuple(rest for rest in solo.rests if rest.tick in span),
        stacks=tuple(stack for stack in solo.stacks if stack.id in stacks),
    )
