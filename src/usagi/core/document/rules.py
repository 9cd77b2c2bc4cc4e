"""What must always hold in a solo, and what no longer fits after its ground or its instrument has changed.

The hard rules are one note a string at a time, phrases apart, a stack on one tick, and references that exist. A
place that is out of reach is refused when it is written; what comes to lie out of reach later stays and is listed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from usagi.core.document.elements import (
    AnticipationChoice,
    FingeringChoice,
    Note,
    ReadingChoice,
    RoleChoice,
    Span,
    TellingChoice,
    WaiverChoice,
)
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.teaching import Joined, OnePhrase, OnNote, OnPhrase
from usagi.core.document.techniques import Harmonic
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import HUNDREDTHS


class RuleBroken(UsagiError):
    """An edit that would leave a solo in a state that means nothing."""

    code = "rule-broken"


@dataclass(frozen=True, slots=True)
class Violation:
    """An element that stays in the document though it lies out of reach, with the reason."""

    kind: str
    id: str
    sentence: str


def check_solo(
    solo: Solo, ground: Ground, written: Iterable[Note], before: Mapping[str, Note] = MappingProxyType({})
) -> None:
    """Refuse a solo that breaks a hard rule, or one of the `written` (new or changed) notes that is out of reach.

    A note that was out of reach `before` stays editable: only what takes it out of reach is refused.

    Parameters
    ----------
    solo, ground : the solo as it would be stored, and what it stands on.
    written : its new and changed notes.
    before : notes by id, as they were.

    Raises : RuleBroken, naming the bar and the string.
    """
    for note in written:
        was = before.get(note.id)
        place = ground.timeline.bars.place(note.tick)
        reason = out_of_reach(note, solo.settings)
        if reason is not None and (was is None or out_of_reach(was, solo.settings) is None):
            raise RuleBroken(f"At {place}: {reason}", id=note.id, place=place, string=note.string)
        reason = outside(note, ground)
        if reason is not None and (was is None or outside(was, ground) is None):
            raise RuleBroken(reason, id=note.id, place=place, string=note.string)
    _one_note_a_string(solo, ground)
    _spans_apart(solo, ground)
    _stacks_on_one_tick(solo, ground)
    _references_exist(solo)


def out_of_reach(note: Note, settings: SoloSettings) -> str | None:
    """Why a note has no place on this instrument, or None."""
    strings = len(settings.tuning)
    if note.string > strings:
        return f"There is no string {note.string}: this guitar has {strings}. Choose a string from 1 to {strings}."
    if note.fret is None:
        return None
    if note.fret > settings.highest_fret:
        free = settings.last_fret - settings.capo
        capo = f" above the capo at {settings.capo}" if settings.capo else ""
        return (
            f"There is no fret {note.fret / HUNDREDTHS:g} on string {note.string}: "
            f"this neck has {free} frets{capo}. The last fret is a setting of the solo."
        )
    if note.fret % HUNDREDTHS and not settings.bottleneck and not isinstance(note.attack, Harmonic):
        fret = f"Fret {note.fret / HUNDREDTHS:g} on string {note.string}"
        return f"{fret} lies between frets: only a bottleneck stops there."
    return None


def outside(note: Note, ground: Ground) -> str | None:
    """Why a note lies outside the bars of the recording, or None."""
    bars = ground.timeline.bars
    if note.tick < bars.first_tick:
        first = "the pick-up" if ground.settings.pickup_ticks else "bar 1"
        return f"A note at {bars.place(note.tick)} would start before {first}: nothing is written there."
    if note.tick >= bars.end_tick:
        last = bars.bars[-1].number
        return (
            f"A note at {bars.place(note.tick)} would start after the last bar, {last}. Add bars to the ground first."
        )
    return None


def violations(solo: Solo, ground: Ground) -> list[Violation]:
    """Everything in a solo that lies out of reach, in time order, and what is left over of the chart."""
    bars = ground.timeline.bars
    found = []
    first, last = bars.number(solo.settings.first_bar), bars.number(solo.settings.last_bar)
    start = first.tick if first is not None else bars.first_tick
    end = last.end if last is not None else bars.end_tick
    most = solo.settings.highest_fret
    strings, within = len(solo.settings.tuning), range(max(start, bars.first_tick), min(end, bars.end_tick))
    for note in solo.notes:
        plain = note.fret is None or (note.fret <= most and note.fret % HUNDREDTHS == 0)
        if plain and note.string <= strings and note.tick in within:
            continue  # nearly all; the reasons are looked for only in the others
        unreachable = out_of_reach(note, solo.settings)
        reason = outside(note, ground) if unreachable is None else f"At {bars.place(note.tick)}: {unreachable}"
        if reason is None and not start <= note.tick < end:
            span = f"{solo.settings.first_bar} to {solo.settings.last_bar}"
            reason = f"The note at {bars.place(note.tick)} lies outside the bars of the solo, {span}."
        if reason is not None:
            found.append(Violation("note", note.id, reason))
    for phrase in solo.phrases:
        if phrase.end > bars.end_tick or phrase.start < bars.first_tick:
            found.append(
                Violation("phrase", phrase.id, f"The phrase “{phrase.name}” reaches outside the recording's bars.")
            )
    left = ground.timeline.left_over
    if left:
        word = "bar lies" if left == 1 else "bars lie"
        found.append(
            Violation("chart", "chart", f"{left} {word} of the chart after the last bar, {bars.bars[-1].number}.")
        )
    if solo.settings.last_bar > bars.bars[-1].number:
        found.append(
            Violation(
                "setting",
                "last_bar",
                f"The solo ends in bar {solo.settings.last_bar}, the ground in {bars.bars[-1].number}.",
            )
        )
    return found


def _one_note_a_string(solo: Solo, ground: Ground) -> None:
    last: dict[int, Note] = {}
    ends = [ground.timeline.bars.first_tick] * 9  # by string
    for note in solo.notes:
        string, tick = note.string, note.tick
        if tick < ends[string] and string in last:
            place, before = ground.timeline.bars.place(tick), last[string]
            raise RuleBroken(
                f"Two notes sound on string {note.string} at {place}.", id=note.id, place=place, other=before.id
            )
        last[string] = note
        ends[string] = tick + note.ticks
    silent = None
    for rest in solo.rests:
        if silent is not None and silent.end > rest.tick:
            raise RuleBroken(f"Two rests overlap at {ground.timeline.bars.place(rest.tick)}.", id=rest.id)
        silent = rest


def _spans_apart(solo: Solo, ground: Ground) -> None:
    before: Span | None = None
    for phrase in solo.phrases:
        if before is not None and before.end > phrase.start:
            place = ground.timeline.bars.place(phrase.start)
            raise RuleBroken(
                f"Two phrases overlap at {place}: end the one before first.", id=phrase.id, other=before.id
            )
        before = phrase


def _stacks_on_one_tick(solo: Solo, ground: Ground) -> None:
    ticks: dict[str, int] = {}
    counts: dict[str, int] = {}
    known = {stack.id for stack in solo.stacks}
    for note in solo.notes:
        if note.stack is None:
            continue
        if note.stack not in known:
            raise RuleBroken("A note names a stack that does not exist.", id=note.id, stack=note.stack)
        if ticks.setdefault(note.stack, note.tick) != note.tick:
            place = ground.timeline.bars.place(note.tick)
            raise RuleBroken(f"The notes of a stack start together; one starts at {place}.", id=note.id)
        counts[note.stack] = counts.get(note.stack, 0) + 1
    for stack in solo.stacks:
        if counts.get(stack.id, 0) < 2:
            raise RuleBroken("A stack has two notes or more.", id=stack.id)


def _references_exist(solo: Solo) -> None:
    notes = {note.id for note in solo.notes}
    phrases = {phrase.id for phrase in solo.phrases}
    for choice in solo.choices:
        named: set[str] = set()
        if isinstance(choice, AnticipationChoice | RoleChoice):
            named = {choice.note} - notes
        elif isinstance(choice, FingeringChoice | WaiverChoice):
            named = set(choice.notes) - notes
        elif isinstance(choice, ReadingChoice | TellingChoice):
            named = {choice.phrase} - phrases
        if named:
            raise RuleBroken("A choice names something that is no longer there.", id=choice.id)
    _one_choice_each(solo)
    for remark in solo.remarks:
        if (isinstance(remark.on, OnNote) and remark.on.note not in notes) or (
            isinstance(remark.on, OnPhrase) and remark.on.phrase not in phrases
        ):
            raise RuleBroken("A remark names something that is no longer there.", id=remark.id)
    _plan_holds(solo, phrases)
    for question in solo.questions:
        if set(question.notes) - notes:
            raise RuleBroken("A question names a note that is no longer there.", id=question.id)


def _plan_holds(solo: Solo, phrases: set[str]) -> None:
    """Every line of the plan is about something that is there, and about another thing than the others."""
    seen = set()
    for entry in solo.plan:
        if isinstance(entry.what, OnePhrase | Joined) and entry.what.phrase not in phrases:
            raise RuleBroken("The plan names a phrase that is no longer there.", id=entry.id)
        if entry.what in seen:
            raise RuleBroken("These notes are a line of the plan already.", id=entry.id)
        seen.add(entry.what)


def _one_choice_each(solo: Solo) -> None:
    """A phrase has one picked reading of each kind and one telling in the teacher's words; a note one given role."""
    seen: set[tuple[str, ...]] = set()
    for choice in solo.choices:
        match choice:
            case ReadingChoice():
                what: tuple[str, ...] = ("reading", choice.phrase, choice.reading.partition(" ")[0])
            case TellingChoice():
                what = ("telling", choice.phrase)
            case RoleChoice():
                what = ("role", choice.note)
            case _:
                continue
        if what in seen:
            said = {"reading": "a reading of this kind is picked", "telling": "it is told in the teacher's words"}
            raise RuleBroken(f"Once is enough: {said.get(what[0], 'the note has a role given to it')}.", id=choice.id)
        seen.add(what)
