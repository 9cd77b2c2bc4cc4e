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
from usagi.flows.listening.hearing import NEAR_S, frames_between, heard_before, is_refused, key_of
from usagi.flows.sound.pieces import source_of
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store import hearing as stored
from usagi.store.database import transaction

AGAIN = "What was heard here is not kept any more: listen again."


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
    return _listened(workspace, solo_id, asked).view(workspace)


def take_offers(
    workspace: Workspace, solo_id: UUID, asked: Asked, numbers: Sequence[int], reader: Reader = Reader()
) -> Answer:
    """Write some offers into the solo, as one edit. Raises : NotThere, when none of them can be written."""
    listened = _listened(workspace, solo_id, asked)
    loaded, wanted = listened.loaded, set(numbers)
    _, found = listened.offers(workspace)
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
    listened = _listened(workspace, solo_id, asked)
    if not 0 <= number < len(listened.heard):
        raise NotThere("There is no such offer.")
    note = listened.heard[number]
    with transaction(workspace.pool) as db:
        refused = stored.NoNote(id=one, second=note.onset_s, midi=None if note.dead else note.midi)
        stored.add_no_note(db, workspace.scope.studio, listened.recording, refused)
    return listened.view(workspace)


def offer_all_again(workspace: Workspace, solo_id: UUID, asked: Asked) -> OffersView:
    """Forget what was said to be no note in a span. Raises : NotThere."""
    listened = _listened(workspace, solo_id, asked)
    with transaction(workspace.pool) as db:
        stored.notes_again(db, workspace.scope.studio, listened.recording, *listened.span_s)
    return listened.view(workspace)


def bend_as_heard(workspace: Workspace, solo_id: UUID, asked: Asked, note_id: str, reader: Reader = Reader()) -> Answer:
    """Give a written bend the size and the times that are heard. Raises : NotThere, when none is heard there."""
    listened = _listened(workspace, solo_id, asked)
    loaded = listened.loaded
    note = next((note for note in loaded.solo.notes if note.id == note_id), None)
    if note is None:
        raise NotThere("This note is not here any more.")
    own = as_heard_there(listened.heard, note, loaded.ground)
    course = () if own is None else course_as_heard(note, own, loaded.ground)
    if not course:
        raise NotThere("No bend is heard at this note.")
    bent = note.model_copy(update={"course": course})
    notes = tuple(bent if one.id == note_id else one for one in loaded.solo.notes)
    return commit(workspace, loaded, "bend as heard", reader, solo=loaded.solo.model_copy(update={"notes": notes}))


@dataclass(frozen=True, slots=True)
class _Listened:
    """A solo, and what was heard in a span of it."""

    loaded: Loaded
    asked: Asked
    recording: UUID
    span_s: tuple[float, float]  # of the recording, with a little on both sides
    heard: tuple[HeardNote, ...]

    def offers(self, workspace: Workspace) -> tuple[int, list[Offer]]:
        """How much is said to be no note, and what is offered."""
        with transaction(workspace.pool) as db:
            none = stored.no_notes(db, workspace.scope.studio, self.recording, *self.span_s)
        out = {number for number, note in enumerate(self.heard) if is_refused(note, none)}
        found = offers(
            self.heard,
            self.loaded.solo,
            self.loaded.ground,
            mends=self._mends,
            left_out=out,
            new_id=new_id,
            hand=self.asked.hand,
        )
        return len(out), [offer for offer in found if self.asked.start <= offer.note.tick < self.asked.end]

    def view(self, workspace: Workspace) -> OffersView:
        left_out, found = self.offers(workspace)
        return view_offers(
            found, self.heard, self.loaded.solo, self.loaded.ground, mends=self._mends, left_out=left_out
        )

    @property
    def _mends(self) -> dict[int, Mend]:
        return {mend.number: mend for mend in self.asked.mends}


def _listened(workspace: Workspace, solo_id: UUID, asked: Asked) -> _Listened:
    """Raises : NotThere, when the span was not listened to, or what was heard is not kept."""
    loaded = load(workspace, solo_id)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id)
    begin, end = frames_between(source, asked.start, asked.end)
    heard = heard_before(workspace, source, key_of(source, begin, end, asked.hints))
    if heard is None:
        raise NotThere(AGAIN)
    assert source.recording is not None
    span = begin / RATE_HZ - NEAR_S, end / RATE_HZ + NEAR_S
    return _Listened(loaded, asked, source.recording.id, span, heard.notes)
