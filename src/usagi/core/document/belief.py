"""What a page believes while its edits are under way.

A page draws an edit before the core has worked out what follows from it, and what it draws may lack some. Its next edit
of the same element then names a *before* that is not so, though nobody else changed anything; so it does when something
followed from another person's edit. Such a change is laid over what is so: the fields that it changes change, the
others stay. What another person changed themselves is left to be judged.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace

from pydantic import JsonValue

from usagi.core.document.edits import Change, Content, Edit, Kind, to_json, whole_value
from usagi.core.document.elements import Note
from usagi.core.document.lengths import with_length
from usagi.core.errors import UsagiError

Element = tuple[Kind, str]
Past = Callable[[Kind, str], Iterable[Edit]]


@dataclass
class Belief:
    """Elements whose value on the page is not the stored one: what the page shows, and what was stored then."""

    own: set[str] = field(default_factory=set)  # the page's edits
    _otherwise: dict[Element, tuple[JsonValue, JsonValue]] = field(default_factory=dict)

    def copied(self) -> Belief:
        """A copy, to go back to when an act is left out."""
        return replace(self, _otherwise=dict(self._otherwise))

    def rebased(self, changes: Iterable[Change], content: Content, past: Past) -> tuple[Change, ...]:
        """The changes, each put over the stored value where the page could not know it; the others as they are.

        `past` gives the edits that an element was changed by, the newest first.
        """
        found = []
        for change in changes:
            now = _now(content, change)
            if change.before is None and change.after is None and now is None:
                continue  # the page has found out that it is gone already
            if now == change.before or not self._could_not_know(change, now, past):
                found.append(change)
            elif change.after is None and now is None:
                continue  # it is gone already
            else:
                found.append(_laid_over(change, now))
        return tuple(found)

    def _could_not_know(self, change: Change, now: JsonValue, past: Past) -> bool:
        """Whether only consequences and the page's own edits lead from what the page shows to what is stored."""
        known: list[JsonValue] = [change.before]
        seen, so = self._otherwise.get((change.kind, change.id), (None, None))
        if (change.kind, change.id) in self._otherwise and seen == change.before:
            known.append(so)
        if now in known:
            return True
        for edit in past(change.kind, change.id):
            steps = [one for one in edit.whole if (one.kind, one.id) == (change.kind, change.id)]
            if edit.id not in self.own and any(one in steps for one in edit.changes):
                return False
            if any(one.before in known for one in steps):
                return True
        return False

    def learn(self, sent: Iterable[Change], guessed: Iterable[Change], done: Iterable[Change]) -> None:
        """Take in an edit: what the page sent, what it drew of what follows, and what was stored in the end."""
        so = {(change.kind, change.id): change.after for change in done}
        seen = {(change.kind, change.id): change.after for change in sent}
        guesses = []
        for change in guessed:
            try:
                values = {name: whole_value(change.kind, getattr(change, name)) for name in ("before", "after")}
            except UsagiError:
                continue  # a page may draw what it likes
            guesses.append(change.model_copy(update=values))
            seen[change.kind, change.id] = values["after"]
        before = {(change.kind, change.id): change.before for change in reversed([*sent, *guesses, *done])}
        for element in so.keys() | seen.keys():
            was_seen, was_so = self._otherwise.get(element, (before.get(element), before.get(element)))
            now_seen, now_so = seen.get(element, was_seen), so.get(element, was_so)
            if now_seen == now_so:
                self._otherwise.pop(element, None)
            else:
                self._otherwise[element] = (now_seen, now_so)


def _laid_over(change: Change, now: JsonValue) -> Change:
    """The same fields changed on the stored element; shapes that no longer fit a shorter note are cut to it."""
    before, after = change.before, change.after
    if not (isinstance(before, dict) and isinstance(after, dict) and isinstance(now, dict)):
        return change.model_copy(update={"before": now})
    changed = {name for name, value in after.items() if value != before.get(name)}
    if change.kind is Kind.NOTE:
        there, wanted = Note.model_validate(now), Note.model_validate(after)
        note = there.model_copy(update={name: getattr(wanted, name) for name in changed})
        return change.model_copy(update={"before": now, "after": to_json(with_length(note, note.ticks))})
    return change.model_copy(update={"before": now, "after": now | {name: after[name] for name in changed}})


def _now(content: Content, change: Change) -> JsonValue:
    return to_json(content.elements.get(change.kind, {}).get(change.id))
