"""What follows from a change (docs/model.md, Edits): every consequence is the core's, and only the core's.

An edit says what a person did. Neighbours that give way, rests that are covered, stacks that form or end, names of
elements that are gone and techniques that no longer fit are worked out here, once, and stored with the edit.
A page may draw the same in advance; `web/src/score/edit_cases.gen.json` holds its laying of notes to this module.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from usagi.core.document.edits import Change, Content, Kind, put_together, take_apart, to_json
from usagi.core.document.elements import (
    AnticipationChoice,
    FingeringChoice,
    Note,
    Phrase,
    Question,
    ReadingChoice,
    Rest,
    RoleChoice,
    Stack,
    TellingChoice,
    WaiverChoice,
)
from usagi.core.document.frets import taken_along
from usagi.core.document.joins import agrees, fitting, sources
from usagi.core.document.lengths import with_length
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.teaching import Joined, OnBar, OnePhrase, OnNote, OnPhrase, PlanEntry, Remark

NewElementId = Callable[[Kind], str]
Elements = dict[Kind, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Following:
    """The changes that complete an edit, and sentences about those that a person should hear of."""

    changes: tuple[Change, ...] = ()
    messages: tuple[str, ...] = ()


def what_follows(
    before: Content,
    after: Content,
    changes: Sequence[Change],
    ground: Ground,
    new_id: NewElementId,
    *,
    exact: bool = False,
) -> Following:
    """What follows from `changes`, which lead a solo from `before` to `after`.

    Parameters
    ----------
    new_id : gives the id of a stack or a rest that comes into being.
    exact : the changes lead to a state that was there before (an undo, an earlier state): nothing gives way and no
        technique is fitted; only names of elements that are gone go.
    """
    if not after.elements.keys() >= {Kind.NOTE}:
        return Following()
    draft = _Draft(before, after, changes, ground, new_id)
    if not exact:
        draft.moved_notes_stop()
        draft.notes_give_way()
        draft.rests_give_way()
        draft.stacks_form()
        draft.phrases_give_way()
        draft.techniques_fit()
        draft.remarks_stay()
    _end_stacks(draft.now)
    _drop_names(draft.now)
    return Following(tuple(draft.changes()), tuple(draft.messages))


class _Draft:
    """A solo's elements while what follows is worked out; `after` stays as the person left it."""

    def __init__(
        self, before: Content, after: Content, changes: Sequence[Change], ground: Ground, new_id: NewElementId
    ) -> None:
        self.before, self.after, self.ground, self.new_id = before, after, ground, new_id
        self.now: Elements = {kind: dict(elements) for kind, elements in after.elements.items()}
        self.touched = {kind: {one.id for one in changes if one.kind is kind} for kind in self.now}
        self.messages: list[str] = []

    @property
    def notes(self) -> dict[str, Note]:
        return self.now[Kind.NOTE]

    @property
    def rests(self) -> dict[str, Rest]:
        return self.now[Kind.REST]

    def was(self, note_id: str) -> Note | None:
        return self.before.elements[Kind.NOTE].get(note_id)

    def touched_notes(self) -> list[Note]:
        """The notes that the person wrote or changed, in the order of time."""
        found = (self.notes[one] for one in self.touched[Kind.NOTE] if one in self.notes)
        return sorted(found, key=lambda note: (note.tick, note.string, note.id))

    def lines(self, strings: Iterable[int]) -> dict[int, list[Note]]:
        """The notes of some strings, each string in the order of time."""
        found: dict[int, list[Note]] = {string: [] for string in strings}
        for note in self.notes.values():
            if note.string in found:
                found[note.string].append(note)
        for line in found.values():
            line.sort(key=lambda note: (note.tick, note.id))
        return found

    def changes(self) -> list[Change]:
        """From what the person left to what is there now."""
        found = []
        for kind, elements in self.now.items():
            old = self.after.elements[kind]
            differ = [one for one, was in old.items() if elements.get(one) is not was]
            for element_id in [*differ, *(one for one in elements if one not in old)]:
                was, now = old.get(element_id), elements.get(element_id)
                if was != now:
                    found.append(Change(kind=kind, id=element_id, before=to_json(was), after=to_json(now)))
        return found

    # -- notes and rests give way ------------------------------------------------------------------------------

    def moved_notes_stop(self) -> None:
        """A note that moves in time stops at its neighbour and at the first bar; it cuts nothing and jumps nothing."""
        moved = {note.id for note in self.touched_notes() if (was := self.was(note.id)) and was.tick != note.tick}
        for note_id in moved:
            note, was = self.notes[note_id], self.was(note_id)
            assert was is not None
            still = [one for one in self.notes.values() if one.string == note.string and one.id not in moved]
            tick = max(note.tick, min(was.tick, self.ground.timeline.bars.first_tick))
            over = [one for one in still if one.tick < tick + note.ticks and tick < one.end]
            if over:
                first, last = min(one.tick for one in over), max(one.end for one in over)
                tick = min(was.tick, last) if note.tick < was.tick else max(was.tick, first - note.ticks)
            if tick != note.tick:
                self.notes[note_id] = note.model_copy(update={"tick": tick})

    def notes_give_way(self) -> None:
        """One string sounds one note: the earlier ends where the later starts."""
        touched = self.touched[Kind.NOTE]
        for line in self.lines({note.string for note in self.touched_notes()}).values():
            for note, later in pairwise(line):
                if note.tick < later.tick < note.end and (note.id in touched or later.id in touched):
                    self.notes[note.id] = with_length(note, later.tick - note.tick)

    def rests_give_way(self) -> None:
        """A note removes the rest that it covers; a rest takes the notes that start with it and cuts what sounds."""
        written = self.touched[Kind.NOTE]
        for rest in [self.rests[one] for one in sorted(self.touched[Kind.REST]) if one in self.rests]:
            end = rest.end
            for note in list(self.notes.values()):
                if note.id in written or note.end <= rest.tick or note.tick >= rest.end:
                    continue
                if note.tick < rest.tick:
                    self.notes[note.id] = with_length(note, rest.tick - note.tick)
                elif note.tick == rest.tick:
                    del self.notes[note.id]
                else:
                    end = min(end, note.tick)
            if end != rest.end:
                self.rests[rest.id] = rest.model_copy(update={"ticks": end - rest.tick})
            self._clear_rests(rest.tick, end, rest.id)
        for note in self.touched_notes():
            self._clear_rests(note.tick, note.end, None)

    def _clear_rests(self, start: int, end: int, kept: str | None) -> None:
        """Take every rest but one out of a span; what stands out on either side stays."""
        for rest in list(self.rests.values()):
            if rest.id == kept or rest.tick >= end or rest.end <= start:
                continue
            if rest.tick < start:
                self.rests[rest.id] = rest.model_copy(update={"ticks": start - rest.tick})
            else:
                del self.rests[rest.id]
            if rest.end > end:
                own = self.new_id(Kind.REST) if rest.tick < start else rest.id
                self.rests[own] = Rest(id=own, tick=end, ticks=rest.end - end)

    # -- stacks ------------------------------------------------------------------------------------------------

    def stacks_form(self) -> None:
        """A note that moves alone leaves its stack; one that comes to a tick where others start joins them."""
        for note in self.touched_notes():
            was = self.was(note.id)
            if was is not None and note.tick != was.tick and note.stack is not None and note.stack == was.stack:
                whole = [one for one in self.notes.values() if one.stack == note.stack]
                if any(one.tick != note.tick for one in whole):
                    self.notes[note.id] = note.model_copy(update={"stack": None})
        stacks: dict[str, Stack] = self.now[Kind.STACK]
        for note in self.touched_notes():
            was = self.was(note.id)
            if note.stack is not None or (was is not None and was.tick == note.tick):
                continue
            others = [one for one in self.notes.values() if one.tick == note.tick and one.id != note.id]
            if not others:
                continue
            others.sort(key=lambda one: one.string)
            stack = next((one.stack for one in others if one.stack in stacks), None) or self.new_id(Kind.STACK)
            stacks.setdefault(stack, Stack(id=stack))
            for one in (note, *others):
                self.notes[one.id] = one.model_copy(update={"stack": stack})

    # -- phrases -----------------------------------------------------------------------------------------------

    def phrases_give_way(self) -> None:
        """Phrases do not overlap: the older one is cut where the new one begins or ends, or goes under it."""
        phrases: dict[str, Phrase] = self.now[Kind.PHRASE]
        place = self.ground.timeline.bars.place
        for new_id in sorted(self.touched[Kind.PHRASE] & phrases.keys(), key=lambda one: phrases[one].start):
            new = phrases[new_id]
            for old in sorted(phrases.values(), key=lambda one: one.start):
                if old.id == new.id or old.end <= new.start or old.start >= new.end:
                    continue
                name = f"The phrase “{old.name}”" if old.name else "A phrase without a name"
                if old.start < new.start:
                    phrases[old.id] = old.model_copy(update={"end": new.start})
                    self.messages.append(f"{name} ends at {place(new.start)} now, where the new one starts.")
                elif old.end > new.end:
                    phrases[old.id] = old.model_copy(update={"start": new.end})
                    self.messages.append(f"{name} starts at {place(new.end)} now, where the new one ends.")
                else:
                    del phrases[old.id]
                    self.messages.append(f"{name} lay under the new one and was removed.")

    # -- remarks -----------------------------------------------------------------------------------------------

    def remarks_stay(self) -> None:
        """A remark outlives what it was about: it moves to the bar where that was."""
        remarks: dict[str, Remark] = self.now[Kind.REMARK]
        for remark in list(remarks.values()):
            match remark.on:
                case OnNote(note=note) if note not in self.notes and (was := self.was(note)) is not None:
                    tick = was.tick
                case OnPhrase(phrase=phrase) if phrase not in self.now[Kind.PHRASE]:
                    gone = self.before.elements[Kind.PHRASE].get(phrase)
                    if gone is None:
                        continue
                    tick = gone.start
                case _:
                    continue
            bar = self.ground.timeline.bars.at(tick).number
            remarks[remark.id] = remark.model_copy(update={"on": OnBar(bar=max(0, bar))})
            self.messages.append(f"The remark “{remark.words}” belongs to bar {bar} now.")

    # -- techniques --------------------------------------------------------------------------------------------

    def techniques_fit(self) -> None:
        """Shapes fit the length, trills and slides go with their fret, joins agree with their source."""
        settings = self.after.settings
        assert isinstance(settings, SoloSettings)
        for note in self.touched_notes():
            fitted = with_length(note, note.ticks)
            was = self.was(note.id)
            if was is not None:
                fitted = taken_along(fitted, was, settings)
            if fitted != note:
                self.notes[note.id] = fitted
        self._joins_agree()

    def _joins_agree(self) -> None:
        now, old = self.notes, self.before.elements[Kind.NOTE]
        changed: list[tuple[Note | None, Note | None]]
        changed = [(old.get(note_id), note) for note_id, note in now.items() if old.get(note_id) is not note]
        changed += [(note, None) for note_id, note in old.items() if note_id not in now]
        strings = {note.string for pair in changed for note in pair if note is not None}
        if not strings:
            return
        old_line = [note for note in old.values() if note.string in strings]
        old_sources = sources(sorted(old_line, key=lambda note: note.tick))
        for line in self.lines(strings).values():
            source = None
            for note in line:
                was = old.get(note.id)
                kept = was is not None and was.attack == note.attack and agrees(was, old_sources.get(note.id))
                if kept and not agrees(note, source):
                    self.notes[note.id] = note.model_copy(update={"attack": fitting(note, source)})
                source = note


def tidied(solo: Solo) -> Solo:
    """The solo without stacks of one and without names of what is gone."""
    content = take_apart(solo)
    elements: Elements = {kind: dict(by_id) for kind, by_id in content.elements.items()}
    _end_stacks(elements)
    _drop_names(elements)
    after = put_together(replace(content, elements=elements))
    assert isinstance(after, Solo)
    return after


def _end_stacks(elements: Elements) -> None:
    """A stack of one ends, and a note leaves a stack that is gone."""
    notes: dict[str, Note] = elements[Kind.NOTE]
    stacks: dict[str, Stack] = elements[Kind.STACK]
    members: dict[str, list[Note]] = {}
    for note in notes.values():
        if note.stack is not None:
            members.setdefault(note.stack, []).append(note)
    for stack, group in members.items():
        if len(group) < 2 or stack not in stacks:
            for note in group:
                notes[note.id] = note.model_copy(update={"stack": None})
    for stack in [one for one in stacks if len(members.get(one, ())) < 2]:
        del stacks[stack]


def _drop_names(elements: Elements) -> None:
    """Choices and lines of the plan go with the notes or the phrases that they are about. Questions stay."""
    notes, phrases = elements[Kind.NOTE], elements[Kind.PHRASE]
    choices: dict[str, Any] = elements[Kind.CHOICE]
    for choice in list(choices.values()):
        if isinstance(choice, FingeringChoice):
            left = tuple(note for note in choice.notes if note in notes)
            if not left:
                del choices[choice.id]
            elif left != choice.notes:
                choices[choice.id] = choice.model_copy(update={"notes": left})
        elif (
            (isinstance(choice, AnticipationChoice | RoleChoice) and choice.note not in notes)
            or (isinstance(choice, ReadingChoice | TellingChoice) and choice.phrase not in phrases)
            or (isinstance(choice, WaiverChoice) and not all(note in notes for note in choice.notes))
        ):
            del choices[choice.id]
    remarks: dict[str, Remark] = elements[Kind.REMARK]
    for remark in list(remarks.values()):
        if (isinstance(remark.on, OnNote) and remark.on.note not in notes) or (
            isinstance(remark.on, OnPhrase) and remark.on.phrase not in phrases
        ):
            del remarks[remark.id]
    plan: dict[str, PlanEntry] = elements[Kind.PLAN]
    for entry in list(plan.values()):
        if isinstance(entry.what, OnePhrase | Joined) and entry.what.phrase not in phrases:
            del plan[entry.id]
    questions: dict[str, Question] = elements[Kind.QUESTION]
    for question in list(questions.values()):
        left = tuple(note for note in question.notes if note in notes)
        if left != question.notes:
            questions[question.id] = question.model_copy(update={"notes": left})
