"""The plan of a solo: the whole, then phrase by phrase, then joined; each with its stair of speeds and its difficulty.

It follows from the phrases. What a teacher changed of a line, and groups of their own, are kept in the solo
(`core/document/teaching.py`) and laid over it. A line's key says what it is about: `whole`, `phrase:ID`, `joined:ID`
(the end of that phrase and the start of the next), `group:FROM-TO` in ticks.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from usagi.core.document.elements import Note, Phrase
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import (
    Group,
    Joined,
    OnePhrase,
    PlanEntry,
    PlanSettings,
    Practised,
    Whole,
)
from usagi.core.document.writing import NewId
from usagi.core.errors import UsagiError
from usagi.core.fingering.hand import HANDS, HandSize
from usagi.core.fingering.shapes import Shaper
from usagi.core.meter.bars import Bars
from usagi.core.playing.ladder import Ladder, stair
from usagi.core.practice.difficulty import Difficulty, difficulty

LETTERS: Final = "abcdefghijklmnopqrstuvwxyz"


class PlanImpossible(UsagiError):
    """A line that the plan does not have, or that cannot be so."""

    code = "plan-impossible"


@dataclass(frozen=True)
class PlanLine:
    """One line: what is practised, `[start, end)` in ticks, its stair, and how hard it is at its goal."""

    key: str
    what: Practised
    name: str
    start: int
    end: int
    ladder: Ladder
    step: int  # per mille from one speed of the stair to the next
    difficulty: Difficulty
    overruled: int | None  # the teacher's level
    own: bool  # the teacher changed something of it, or put it in
    left_out: bool

    @property
    def level(self) -> int:
        return self.overruled or self.difficulty.level


def key_of(what: Practised) -> str:
    """The name of a line within a plan.

    >>> key_of(OnePhrase(phrase="p1")), key_of(Group(start=0, end=480))
    ('phrase:p1', 'group:0-480')
    """
    match what:
        case Whole():
            return "whole"
        case OnePhrase(phrase=phrase):
            return f"phrase:{phrase}"
        case Joined(phrase=phrase):
            return f"joined:{phrase}"
        case Group(start=start, end=end):
            return f"group:{start}-{end}"


def letter(index: int) -> str:
    """What the phrase at an index is called: a to z, then aa.

    >>> letter(0), letter(25), letter(26)
    ('a', 'z', 'aa')
    """
    over, at = divmod(index, len(LETTERS))
    return (letter(over - 1) if over else "") + LETTERS[at]


def plan(solo: Solo, ground: Ground, hand: HandSize = HandSize.USUAL) -> list[PlanLine]:
    """Every line in its order, those that are left out among them; empty for a solo without notes."""
    if not solo.notes:
        return []
    shaper = Shaper(solo.settings, HANDS[hand])
    kept = {key_of(entry.what): entry for entry in solo.plan}
    return [_line(what, kept.get(key_of(what)), solo, ground, hand, shaper) for what in _ordered(solo)]


def line_of(solo: Solo, ground: Ground, key: str, hand: HandSize = HandSize.USUAL) -> PlanLine:
    """One line by its key. Raises : PlanImpossible."""
    what = next((one for one in _ordered(solo) if key_of(one) == key), None)
    if what is None or not solo.notes:
        raise PlanImpossible("The plan has no such line any more.", line=key)
    entry = next((one for one in solo.plan if key_of(one.what) == key), None)
    return _line(what, entry, solo, ground, hand, Shaper(solo.settings, HANDS[hand]))


def span_of(what: Practised, solo: Solo, ground: Ground) -> tuple[int, int]:
    """The ticks that a line is about.

    A join goes from the bar line in the last bar of its phrase, or from the one before where less than half a bar would
    be left, to the end of the bar in which the next phrase starts.
    """
    bars = ground.timeline.bars
    match what:
        case Whole():
            return solo.notes[0].tick, max(note.end for note in solo.notes)
        case OnePhrase(phrase=phrase):
            one = next(one for one in solo.phrases if one.id == phrase)
            return one.start, one.end
        case Joined(phrase=phrase):
            before, after = next((a, b) for a, b in pairwise(solo.phrases) if a.id == phrase)
            return _join_start(before, bars), min(after.end, bars.at(after.start).end)
        case Group(start=start, end=end):
            return start, end


def notes_of(solo: Solo, start: int, end: int) -> list[Note]:
    """The notes that start in a span, in time order."""
    return [note for note in solo.notes if start <= note.tick < end]


def changed(solo: Solo, what: Practised, new_id: NewId, **values: object) -> Solo:
    """The solo with something of a line otherwise; a value of None leaves it to the plan again.

    Raises : PlanImpossible, for a line that is not there; the errors of the values.
    """
    if not isinstance(what, Group) and key_of(what) not in {key_of(one) for one in _by_phrases(solo)}:
        raise PlanImpossible("The plan has no such line any more.", line=key_of(what))
    entry = next((one for one in solo.plan if one.what == what), None) or PlanEntry(id=new_id(), what=what)
    after = PlanEntry.model_validate(entry.model_dump() | values)
    settings = solo.settings.practice
    if (after.start or settings.start) > (after.goal or settings.goal):
        raise PlanImpossible("A line starts at its goal or below it.", line=key_of(what))
    others = [one for one in solo.plan if one.id != after.id]
    says_nothing = after == PlanEntry(id=after.id, what=what) and not isinstance(what, Group)
    return solo.model_copy(update={"plan": tuple(others) if says_nothing else (*others, after)})


def taken_out(solo: Solo, what: Practised, new_id: NewId) -> Solo:
    """A group goes for good; what follows from the phrases is left out. Raises : PlanImpossible."""
    if isinstance(what, Group):
        return solo.model_copy(update={"plan": tuple(one for one in solo.plan if one.what != what)})
    return changed(solo, what, new_id, left_out=True)


def moved(solo: Solo, what: Practised, by: int, new_id: NewId) -> Solo:
    """The solo with a line so many places further down the plan, or up. Raises : PlanImpossible, for no such line.

    Every line that was ever moved names the one that it stands behind, so that the others keep the order of their
    phrases whatever is cut later.
    """
    order = [key_of(one) for one in _ordered(solo)]
    key = key_of(what)
    if key not in order:
        raise PlanImpossible("The plan has no such line any more.", line=key)
    at = order.index(key)
    to = min(len(order) - 1, max(0, at + by))
    order.insert(to, order.pop(at))
    held = {key_of(one.what) for one in solo.plan if one.behind is not None} | {key}
    for one in _ordered(solo):
        if (own := key_of(one)) in held:
            place = order.index(own)
            solo = changed(solo, one, new_id, behind=order[place - 1] if place else "")
    return solo


def _by_phrases(solo: Solo) -> list[Practised]:
    """The lines that the phrases give: the whole, each phrase, each with the next."""
    lines: list[Practised] = [Whole()]
    for i, phrase in enumerate(solo.phrases):
        lines.append(OnePhrase(phrase=phrase.id))
        if i + 1 < len(solo.phrases):
            lines.append(Joined(phrase=phrase.id))
    return lines


def _ordered(solo: Solo) -> list[Practised]:
    """All lines in their order. A group that was never moved stands before the line of the phrase that it lies in."""
    held = {key_of(entry.what): entry for entry in solo.plan if entry.behind is not None}
    lines = [what for what in _by_phrases(solo) if key_of(what) not in held]
    groups = sorted(
        (one.what for one in solo.plan if isinstance(one.what, Group)), key=lambda one: (one.start, one.end)
    )
    for group in groups:
        if key_of(group) not in held:
            lines.insert(_place(group, lines, solo), group)
    waiting = list(held.values())
    while waiting:
        keys = ["", *(key_of(what) for what in lines)]
        ready = next((one for one in waiting if one.behind in keys), waiting[0])
        lines.insert(keys.index(ready.behind) if ready.behind in keys else len(lines), ready.what)
        waiting.remove(ready)
    return lines


def _place(group: Group, lines: Sequence[Practised], solo: Solo) -> int:
    phrase = next((one.id for one in solo.phrases if one.start <= group.start < one.end), None)
    return next((i for i, one in enumerate(lines) if one == OnePhrase(phrase=phrase or "")), len(lines))


def _join_start(phrase: Phrase, bars: Bars) -> int:
    last = bars.at(phrase.end - 1)
    line = last.tick
    if phrase.end - line < last.ticks / 2:
        line = bars.at(line - 1).tick
    return max(phrase.start, line)


def _line(
    what: Practised, entry: PlanEntry | None, solo: Solo, ground: Ground, hand: HandSize, shaper: Shaper
) -> PlanLine:
    settings: PlanSettings = solo.settings.practice
    entry = entry or PlanEntry(id="-", what=what)
    start, end = span_of(what, solo, ground)
    goal = entry.goal or settings.goal
    step = entry.step or settings.step
    speeds = stair(min(entry.start or settings.start, goal), goal, step)
    return PlanLine(
        key=key_of(what),
        what=what,
        name=entry.name or _name(what, solo, ground),
        start=start,
        end=end,
        ladder=Ladder(speeds, entry.passes or settings.passes),
        step=step,
        difficulty=difficulty(notes_of(solo, start, end), solo, ground, goal, hand, shaper),
        overruled=entry.level,
        own=entry.id != "-",
        left_out=entry.left_out,
    )


def phrase_title(at: str, name: str) -> str:
    """A phrase by its letter and its name; one that has none, or its letter for a name, is called by that alone.

    >>> phrase_title("b", "the climb"), phrase_title("b", ""), phrase_title("b", "b")
    ('b · the climb', 'phrase b', 'phrase b')
    """
    return f"{at} · {name}" if name and name != at else f"phrase {at}"


def _name(what: Practised, solo: Solo, ground: Ground) -> str:
    letters = {phrase.id: letter(i) for i, phrase in enumerate(solo.phrases)}
    match what:
        case Whole():
            return "the whole solo"
        case OnePhrase(phrase=phrase):
            name = next(one.name for one in solo.phrases if one.id == phrase)
            return phrase_title(letters[phrase], name)
        case Joined(phrase=phrase):
            after = next(b.id for a, b in pairwise(solo.phrases) if a.id == phrase)
            return f"{letters[phrase]} and {letters[after]} joined"
        case Group(start=start, end=end):
            count = len(_onsets(notes_of(solo, start, end)))
            return f"{count} note{'' if count == 1 else 's'} from {ground.timeline.bars.place(start)}"


def _onsets(notes: Iterable[Note]) -> set[int]:
    return {note.tick for note in notes}
