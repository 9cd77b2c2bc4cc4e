"""What a span offers, taken and put right: an ordinary edit each, or something that is said of the recording."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from usagi.core.audio import RATE_HZ
from usagi.core.degrees.spoken import Reader
from usagi.core.fingering.hand import HandSize
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.hints import Hints
from usagi.core.listening.mending import Mend
from usagi.core.listening.offers import Offer, as_heard_there, course_as_heard, offers, taken
from usagi.core.view.offers import OffersView, view_offers
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit, load
from usagi.flows.listening.hearing import frames_between, heard_before, key_of
from usagi.flows.sound.pieces import Source, source_of
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import hearing as stored
from usagi.store.database import transaction

AGAIN = "What was heard here is not kept any more: listen again."
NEAR_S = 0.05


@dataclass(frozen=True, slots=True)
class Asked:
    """A span of ticks that was listened to with hints, what was put right since, and whose hand is to reach."""

    start: int
    end: int
    hints: Hints
    mends: tuple[Mend, ...] = ()
    hand: HandSize = HandSize.USUAL


def see_offers(workspace: Workspace, solo_id: UUID, asked: Asked) -> OffersView:
    """The offers of a span that was listened to. Raises : NotThere, when it was not, or is not kept."""
    loaded = load(workspace, solo_id)
    heard, left_out, found = _offers(workspace, loaded, asked)
    mends = {mend.number: mend for mend in asked.mends}
    return view_offers(found, heard, loaded.solo, loaded.ground, mends=mends, left_out=left_out)


def take_offers(
    workspace: Workspace, solo_id: UUID, asked: Asked, numbers: Sequence[int], reader: Reader = Reader()
) -> Answer:
    """Write some offers into the solo, as one edit. Raises : NotThere, when none of them can be written."""
    loaded = load(workspace, solo_id)
    _, _, found = _offers(workspace, loaded, asked)
    wanted = set(numbers)
    chosen = [offer for offer in found if offer.number in wanted and not offer.blocked]
    if not chosen:
        raise NotThere("These offers cannot be written any more: something is written there.")
    after = taken(loaded.solo, chosen, new_id)
    label = "take an offer" if len(chosen) == 1 else f"take {len(chosen)} offers"
    answer = commit(workspace, loaded, label, reader, solo=after)
    with transaction(workspace.pool) as db:
        first, last = min(o.note.tick for o in chosen), max(o.note.tick for o in chosen)
        stored.mark_corrected(db, workspace.scope.studio, solo_id, max(asked.start, first), min(asked.end, last))
    return answer


def say_no_note(workspace: Workspace, solo_id: UUID, asked: Asked, number: int, one: UUID) -> OffersView:
    """Remember that an offer is no note; what is left is offered. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    source = _source(workspace, solo_id)
    heard = _heard(workspace, source, asked)
    if not 0 <= number < len(heard):
        raise NotThere("There is no such offer.")
    note = heard[number]
    assert source.recording is not None
    with transaction(workspace.pool) as db:
        refused = stored.NoNote(id=one, second=note.onset_s, midi=None if note.dead else note.midi)
        stored.add_no_note(db, workspace.scope.studio, source.recording.id, refused)
    _, left_out, found = _offers(workspace, loaded, asked)
    mends = {mend.number: mend for mend in asked.mends}
    return view_offers(found, heard, loaded.solo, loaded.ground, mends=mends, left_out=left_out)


def offer_all_again(workspace: Workspace, solo_id: UUID, asked: Asked) -> OffersView:
    """Forget what was said to be no note in a span. Raises : NotThere."""
    source = _source(workspace, solo_id)
    assert source.recording is not None
    begin, end = frames_between(source, asked.start, asked.end)
    with transaction(workspace.pool) as db:
        stored.notes_again(
            db, workspace.scope.studio, source.recording.id, begin / RATE_HZ - NEAR_S, end / RATE_HZ + NEAR_S
        )
    return see_offers(workspace, solo_id, asked)


def bend_as_heard(workspace: Workspace, solo_id: UUID, asked: Asked, note_id: str, reader: Reader = Reader()) -> Answer:
    """Give a written bend the size and the times that are heard. Raises : NotThere, when none is heard there."""
    loaded = load(workspace, solo_id)
    note = next((note for note in loaded.solo.notes if note.id == note_id), None)
    if note is None:
        raise NotThere("This note is not here any more.")
    own = as_heard_there(_heard(workspace, _source(workspace, solo_id), asked), note, loaded.ground)
    course = () if own is None else course_as_heard(note, own, loaded.ground)
    if not course:
        raise NotThere("No bend is heard at this note.")
    bent = note.model_copy(update={"course": course})
    notes = tuple(bent if one.id == note_id else one for one in loaded.solo.notes)
    return commit(workspace, loaded, "bend as heard", reader, solo=loaded.solo.model_copy(update={"notes": notes}))


def _source(workspace: Workspace, solo_id: UUID) -> Source:
    with transaction(workspace.pool) as db:
        return source_of(db, workspace, solo_id)


def _heard(workspace: Workspace, source: Source, asked: Asked) -> list[HeardNote]:
    begin, end = frames_between(source, asked.start, asked.end)
    heard = heard_before(workspace, source, key_of(source, begin, end, asked.hints))
    if heard is None:
        raise NotThere(AGAIN)
    return heard


def _offers(workspace: Workspace, loaded: Loaded, asked: Asked) -> tuple[list[HeardNote], int, list[Offer]]:
    source = _source(workspace, loaded.solo_id)
    heard = _heard(workspace, source, asked)
    assert source.recording is not None
    begin, end = frames_between(source, asked.start, asked.end)
    with transaction(workspace.pool) as db:
        none = stored.no_notes(
            db, workspace.scope.studio, source.recording.id, begin / RATE_HZ - NEAR_S, end / RATE_HZ + NEAR_S
        )
    out = {number for number, note in enumerate(heard) if any(_is(one, note) for one in none)}
    found = offers(
        heard,
        loaded.solo,
        loaded.ground,
        mends={mend.number: mend for mend in asked.mends},
        left_out=out,
        new_id=new_id,
        hand=asked.hand,
    )
    inside = [offer for offer in found if asked.start <= offer.note.tick < asked.end]
    return heard, len(out), inside


def _is(one: stored.NoNote, note: HeardNote) -> bool:
    return abs(one.second - note.onset_s) < NEAR_S and one.midi == (None if note.dead else note.midi)
