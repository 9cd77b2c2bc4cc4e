"""What a page believes while its edits are under way.

A page draws an edit before the core has worked out what follows from it, and what it draws may lack some. Its next edit
of the same thing then names a *before* that is not so, though nobody else changed anything. Such a change is laid over
what is so: the fields that it changes change, the others stay.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from pydantic import JsonValue

from usagi.core.document.edits import Change, Content, Kind, to_json, whole_value
from usagi.core.errors import UsagiError

Thing = tuple[Kind, str]


@dataclass
class Belief:
    """Things of one document that a page sees otherwise than they are: what it sees, and what was so at that moment."""

    _otherwise: dict[Thing, tuple[JsonValue, JsonValue]] = field(default_factory=dict)

    def rebased(self, changes: Iterable[Change], content: Content) -> tuple[Change, ...]:
        """The changes, each laid over what is so where the page could not know that; others as they are."""
        found = []
        for change in changes:
            seen, so = self._otherwise.get((change.kind, change.id), (None, None))
            now = _now(content, change)
            if (change.kind, change.id) not in self._otherwise or change.before != seen or now != so:
                found.append(change)
            elif change.after is None and now is None:
                continue  # it is gone already
            elif change.after is None or not isinstance(seen, dict) or not isinstance(now, dict):
                found.append(change.model_copy(update={"before": now}))
            elif isinstance(change.after, dict):
                changed = {name: value for name, value in change.after.items() if value != seen.get(name)}
                found.append(change.model_copy(update={"before": now, "after": now | changed}))
        return tuple(found)

    def learn(self, sent: Iterable[Change], guessed: Iterable[Change], done: Iterable[Change]) -> None:
        """Take in an edit: what the page sent, what it drew of what follows, and what was stored in the end."""
        so = {(change.kind, change.id): change.after for change in done}
        seen = {(change.kind, change.id): change.after for change in sent}
        for change in guessed:
            try:
                seen[change.kind, change.id] = whole_value(change.kind, change.after)
            except UsagiError:
                continue  # a page may draw what it likes
        before = {(change.kind, change.id): change.before for change in reversed([*sent, *done])}
        for thing in so.keys() | seen.keys():
            was_seen, was_so = self._otherwise.get(thing, (before.get(thing), before.get(thing)))
            now_seen, now_so = seen.get(thing, was_seen), so.get(thing, was_so)
            if now_seen == now_so:
                self._otherwise.pop(thing, None)
            else:
                self._otherwise[thing] = (now_seen, now_so)


def _now(content: Content, change: Change) -> JsonValue:
    return to_json(content.things.get(change.kind, {}).get(change.id))
