"""What a page could not know of its own edits is not held against it; what another did is."""

from __future__ import annotations

from typing import Any

import pytest

from usagi.core.document.belief import Belief
from usagi.core.document.edits import EDIT_SCHEMA, Change, Content, Edit, Kind, take_apart, to_json, upgraded
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo


def note(**fields: Any) -> Note:
    return Note.model_validate({"id": "n", "tick": 0, "ticks": 100, "string": 2, "fret": 500} | fields)


def changed(before: Note | None, after: Note | None) -> Change:
    return Change(kind=Kind.NOTE, id="n", before=to_json(before), after=to_json(after))


def content(*notes: Note) -> Content:
    return take_apart(Solo(notes=notes))


def nothing(kind: Kind, element_id: str) -> list[Edit]:
    """No edit is in the log."""
    return []


DRAWN = note(attack={"kind": "hammer-on"})
SO = note(attack={"kind": "pull-off"})  # what the core made of it


def a_page_that_lacks_what_followed() -> Belief:
    belief = Belief()
    other = Change(kind=Kind.NOTE, id="other", before=None, after=to_json(note(id="other", string=3)))
    belief.learn([other], [], [other, changed(DRAWN, SO)])
    return belief


def test_the_fields_that_are_changed_are_laid_over_what_is_so() -> None:
    (found,) = a_page_that_lacks_what_followed().rebased(
        [changed(DRAWN, note(attack=DRAWN.attack, fret=700))], content(SO), nothing
    )
    assert found == changed(SO, note(attack=SO.attack, fret=700))


def test_a_note_that_is_deleted_is_deleted_as_it_is() -> None:
    belief = a_page_that_lacks_what_followed()
    assert belief.rebased([changed(DRAWN, None)], content(SO), nothing) == (changed(SO, None),)


def test_what_is_gone_already_is_not_deleted_again() -> None:
    belief = Belief()
    belief.learn([], [], [changed(DRAWN, None)])
    assert belief.rebased([changed(DRAWN, None)], content(), nothing) == ()
    assert Belief().rebased([changed(None, None)], content(), nothing) == ()  # as a page sends it that has heard of it


def test_what_another_changed_since_is_left_to_be_judged() -> None:
    belief = a_page_that_lacks_what_followed()
    change = changed(DRAWN, note(fret=700))
    assert belief.rebased([change], content(note(fret=1200)), nothing) == (change,)
    assert Belief().rebased([change], content(SO), nothing) == (change,)


def test_a_bend_put_on_a_note_that_has_become_shorter_meanwhile_is_cut_to_it() -> None:
    short = note(ticks=40, attack=SO.attack)
    belief = Belief()
    belief.learn([], [], [changed(DRAWN, short)])
    bent = DRAWN.model_copy(update={"course": ((0, 0), (50, 4), (90, 0))})
    (found,) = belief.rebased([changed(DRAWN, bent)], content(short), nothing)
    assert found == changed(short, short.model_copy(update={"course": ((0, 0), (40, 4))}))


def logged(edit_id: str, changes: list[Change], follows: list[Change]) -> Edit:
    ids = dict.fromkeys(("document", "made_in"), "0" * 8 + "-0000-0000-0000-" + "0" * 12)
    return Edit(id=edit_id, act=edit_id, person="p", at="2026-11-25T10:00:00+00:00", label="x", **ids,
                changes=tuple(changes), follows=tuple(follows))  # fmt: skip


OTHER = Change(kind=Kind.NOTE, id="other", before=None, after=to_json(note(id="other", string=3)))
NOW = note(ticks=60, attack=SO.attack)


@pytest.mark.parametrize(
    ("log", "may"),
    [
        ([logged("b", [OTHER], [changed(SO, NOW)]), logged("a", [OTHER], [changed(DRAWN, SO)])], True),
        ([logged("b", [changed(SO, NOW)], []), logged("a", [OTHER], [changed(DRAWN, SO)])], False),
        ([logged("b", [OTHER], [changed(SO, NOW)]), logged("a", [changed(DRAWN, SO)], [])], False),
        ([logged("own", [changed(SO, NOW)], []), logged("a", [OTHER], [changed(DRAWN, SO)])], True),
        ([logged("b", [OTHER], [changed(SO, NOW)])], False),
    ],
    ids=["it followed twice", "changed last", "changed first", "the page's own", "never so"],
)
def test_what_followed_from_anothers_edits_is_no_hindrance(log: list[Edit], may: bool) -> None:
    belief = Belief(own={"own"})
    change = changed(DRAWN, note(attack=DRAWN.attack, fret=700))
    over = changed(NOW, NOW.model_copy(update={"fret": 700}))
    assert belief.rebased([change], content(NOW), lambda *element: log) == ((over,) if may else (change,))


def test_what_a_page_drew_otherwise_than_it_became_is_known_too() -> None:
    belief = Belief()
    first = changed(None, note())
    belief.learn([first], [changed(note(), note(ticks=50))], [first, changed(note(), note(ticks=60))])
    (found,) = belief.rebased([changed(note(ticks=50), note(ticks=50, fret=700))], content(note(ticks=60)), nothing)
    assert found == changed(note(ticks=60), note(ticks=60, fret=700))
    belief.learn([first], [], [first])
    assert belief.rebased([changed(note(), None)], content(note()), nothing) == (changed(note(), None),)


def test_an_edit_of_an_earlier_program_is_led_to_todays_schema() -> None:
    """As it waits in an outbox or stands in a log: what follows was among its changes."""
    tree = {"id": "e", "act": "a", "document": "0" * 8 + "-0000-0000-0000-" + "0" * 12,
            "made_in": "0" * 8 + "-0000-0000-0000-" + "0" * 12, "person": "p", "at": "2026-11-25T10:00:00+00:00",
            "label": "write", "schema": 1, "changes": [changed(None, note()).model_dump(mode="json")]}  # fmt: skip
    edit = Edit.model_validate(tree)
    assert (edit.edit_schema, edit.follows, edit.whole) == (EDIT_SCHEMA, (), edit.changes)
    assert upgraded(upgraded(tree, 1), EDIT_SCHEMA) == upgraded(tree, 1)
    for earlier in range(2, EDIT_SCHEMA):
        assert Edit.model_validate(upgraded(tree, 1) | {"schema": earlier}) == edit
