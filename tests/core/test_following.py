"""What follows from a change, rule by rule, on small scenes; and what always holds, on random ones."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import QUARTER, documents, ground_on, sequential_ids
from usagi.core.document.edits import Change, Kind, apply, put_together, take_apart, to_json
from usagi.core.document.elements import Note, Phrase, Question, Rest, Stack
from usagi.core.document.following import what_follows
from usagi.core.document.rules import check_solo, violations
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument

GROUND = ground_on("| C | F | C | G7 |")
EIGHTH = QUARTER // 2


def note(note_id: str, tick: int, **fields: Any) -> Note:
    return Note.model_validate({"id": note_id, "tick": tick, "ticks": QUARTER, "string": 2, "fret": 500} | fields)


def changed(before: Any, after: Any, kind: Kind = Kind.NOTE) -> Change:
    return Change(kind=kind, id=(before or after).id, before=to_json(before), after=to_json(after))


def completed(solo: Solo, *changes: Change, ground: Ground = GROUND, exact: bool = False) -> tuple[Solo, list[str]]:
    """The solo after an edit with what follows from it, and what is said about that."""
    before = take_apart(solo)
    after = apply(before, changes)
    ids = sequential_ids("new-")
    found = what_follows(before, after, changes, ground, lambda _: ids(), exact=exact)
    whole = put_together(apply(after, found.changes))
    assert isinstance(whole, Solo)
    check_solo(whole, ground, [])
    return whole, list(found.messages)


def moved(one: Note, **fields: Any) -> Change:
    return changed(one, Note.model_validate(one.model_dump() | fields))


def places(solo: Solo) -> list[tuple[str, int, int]]:
    return [(one.id, one.tick, one.ticks) for one in solo.notes]


def test_a_note_written_into_another_shortens_it_and_ends_at_the_next() -> None:
    solo = Solo(notes=(note("a", 0), note("c", QUARTER)))
    after, _ = completed(solo, changed(None, note("b", EIGHTH)))
    assert places(after) == [("a", 0, EIGHTH), ("b", EIGHTH, EIGHTH), ("c", QUARTER, QUARTER)]


@pytest.mark.parametrize(
    ("tick", "expected"),
    [
        (EIGHTH, QUARTER),  # left into the neighbour's tail: at its end
        (-QUARTER, QUARTER),  # the neighbour's whole length away: it is not jumped
        (2 * QUARTER, 2 * QUARTER),
        (2 * QUARTER + EIGHTH, 2 * QUARTER),  # right into the next: up to it
        (3 * QUARTER, 2 * QUARTER),  # onto it
    ],
)
def test_a_moved_note_stops_at_its_neighbours(tick: int, expected: int) -> None:
    one = note("b", QUARTER + EIGHTH)
    solo = Solo(notes=(note("a", 0), one, note("c", 3 * QUARTER)))
    after, _ = completed(solo, moved(one, tick=max(0, tick) if tick < 0 else tick))
    found = {i: t for i, t, _ in places(after)}
    assert found == {"a": 0, "b": expected, "c": 3 * QUARTER}
    assert all(one.ticks == QUARTER for one in after.notes)


def test_a_move_stops_at_bar_one() -> None:
    one = note("a", EIGHTH)
    after, _ = completed(Solo(notes=(one,)), moved(one, tick=-QUARTER))
    assert places(after) == [("a", 0, QUARTER)]


def test_a_note_takes_the_rest_under_it_and_leaves_what_stands_out() -> None:
    rest = Rest(id="r", tick=0, ticks=4 * QUARTER)
    after, _ = completed(Solo(rests=(rest,)), changed(None, note("a", QUARTER)))
    assert [(one.tick, one.ticks) for one in after.rests] == [(0, QUARTER), (2 * QUARTER, 2 * QUARTER)]


def test_a_rest_takes_the_notes_that_start_with_it_cuts_what_sounds_and_ends_at_the_next() -> None:
    notes = (note("long", 0, ticks=3 * QUARTER), note("here", QUARTER, string=3), note("later", 2 * QUARTER, string=4))
    question = Question(id="q", start=QUARTER, end=2 * QUARTER, notes=("here",), words="?")
    rest = Rest(id="r", tick=QUARTER, ticks=4 * QUARTER)
    after, _ = completed(Solo(notes=notes, questions=(question,)), changed(None, rest, Kind.REST))
    assert places(after) == [("long", 0, QUARTER), ("later", 2 * QUARTER, QUARTER)]
    assert [(one.tick, one.ticks) for one in after.rests] == [(QUARTER, QUARTER)]
    assert [(one.start, one.notes) for one in after.questions] == [(QUARTER, ())]


def test_a_deleted_note_leaves_its_stack_its_pins_and_its_anticipation_and_a_question_keeps_its_place() -> None:
    a, b, c = note("a", 0, stack="s"), note("b", 0, string=3, stack="s"), note("c", QUARTER)
    solo = Solo(
        notes=(a, b, c),
        stacks=(Stack(id="s"),),
        questions=(Question(id="q", start=0, end=QUARTER, notes=("a",), words="which string?"),),
        choices=(
            {"kind": "anticipation", "id": "x", "note": "a", "heard": "next"},
            {"kind": "fingering", "id": "y", "notes": ["a", "c"]},
            {"kind": "fingering", "id": "z", "notes": ["a"]},
        ),  # type: ignore[arg-type]
    )
    solo = Solo.model_validate(solo.model_dump())
    after, _ = completed(solo, changed(a, None))
    assert [(one.id, one.stack) for one in after.notes] == [("b", None), ("c", None)]
    assert after.stacks == ()
    assert [choice.model_dump() for choice in after.choices] == [{"kind": "fingering", "id": "y", "notes": ("c",)}]
    assert [(one.start, one.end, one.notes) for one in after.questions] == [(0, QUARTER, ())]


def test_a_second_string_joins_and_a_note_moved_alone_leaves() -> None:
    after, _ = completed(Solo(notes=(note("a", 0),)), changed(None, note("b", 0, string=3)))
    assert len({one.stack for one in after.notes}) == 1 and after.stacks[0].id == after.notes[0].stack
    b = after.notes[1]
    apart, _ = completed(after, moved(b, tick=QUARTER))
    assert [one.stack for one in apart.notes] == [None, None] and apart.stacks == ()
    both = [moved(one, tick=QUARTER) for one in after.notes]
    together, _ = completed(after, *both)
    assert {one.stack for one in together.notes} == {after.stacks[0].id}


def test_a_removed_phrase_takes_its_picked_reading() -> None:
    phrase = Phrase(id="p", start=0, end=QUARTER, name="turn")
    choice = {"kind": "reading", "id": "x", "phrase": "p", "reading": "A minor pentatonic"}
    solo = Solo.model_validate({"phrases": [phrase.model_dump()], "choices": [choice]})
    after, _ = completed(solo, changed(phrase, None, Kind.PHRASE))
    assert (after.phrases, after.choices) == ((), ())


@pytest.mark.parametrize(
    ("start", "end", "old", "said"),
    [
        (2, 6, (0, 2), "The phrase “turn” ends at 1:3 now, where the new one starts."),
        (0, 2, (2, 4), "The phrase “turn” starts at 1:3 now, where the new one ends."),
        (1, 2, (0, 1), "The phrase “turn” ends at 1:2 now, where the new one starts."),
        (0, 8, None, "The phrase “turn” lay under the new one and was removed."),
        (4, 8, (0, 4), None),
    ],
)
def test_the_older_of_two_phrases_that_overlap_is_trimmed(
    start: int, end: int, old: tuple[int, int] | None, said: str | None
) -> None:
    solo = Solo(phrases=(Phrase(id="p", start=0, end=4 * QUARTER, name="turn"),))
    new = Phrase(id="n", start=start * QUARTER, end=end * QUARTER)
    after, sentences = completed(solo, changed(None, new, Kind.PHRASE))
    found = {one.id: (one.start // QUARTER, one.end // QUARTER) for one in after.phrases}
    assert found == {"n": (start, end)} | ({} if old is None else {"p": old})
    assert sentences == ([] if said is None else [said])


JOINS = [  # source's fret, note's fret, attack; what happens to the source; the attack then
    (700, 500, "pull-off", {"fret": 300}, "hammer-on"),
    (700, 500, "pull-off", {"fret": 500}, "picked"),
    (700, 500, "pull-off", None, "picked"),
    (700, 500, "pull-off", {"string": 3}, "picked"),
    (700, 500, "pull-off", {"fret": 900}, "pull-off"),
    (300, 500, "hammer-on", {"fret": 700}, "pull-off"),
    (300, 500, "hammer-on", {"fret": 500}, "picked"),
    (300, 500, "hammer-on", None, "hammer-on"),
    (300, 500, "slide", {"fret": 500}, "picked"),
    (300, 500, "slide", None, "picked"),
    (300, 500, "slide", {"fret": 1200}, "slide"),
    (500, 500, "pull-off", {"fret": 400}, "pull-off"),  # it did not agree before: that is for the checks to say
]


@pytest.mark.parametrize(("source", "fret", "attack", "then", "expected"), JOINS)
def test_a_join_follows_its_source(source: int, fret: int, attack: str, then: Any, expected: str) -> None:
    led = note("a", 0, fret=source)
    solo = Solo(notes=(led, note("b", QUARTER, fret=fret, attack={"kind": attack})))
    after, _ = completed(solo, changed(led, None) if then is None else moved(led, **then))
    assert next(one for one in after.notes if one.id == "b").attack.kind == expected


def test_a_note_between_becomes_the_source() -> None:
    solo = Solo(notes=(note("a", 0, fret=300), note("c", 2 * QUARTER, fret=500, attack={"kind": "hammer-on"})))
    after, _ = completed(solo, changed(None, note("b", QUARTER, fret=800)))
    assert [one.attack.kind for one in after.notes] == ["picked", "picked", "pull-off"]


@pytest.mark.parametrize(
    ("fields", "expected"),
    [
        ({"trill": {"fret": 700}}, {"trill": {"fret": 900, "rate_hz": 9.0}}),
        ({"trill": {"fret": 2100}}, {"trill": None}),  # the neck has 22
        ({"attack": {"kind": "slide-in", "start": 300, "ticks": 100}}, {"attack": ("slide-in", 500)}),
        ({"attack": {"kind": "slide-in", "start": 2100, "ticks": 100}}, {"attack": ("slide-in", "far above")}),
        ({"ending": {"kind": "slide-off", "to": 200, "ticks": 100}}, {"ending": ("slide-off", 400)}),
        ({"ending": {"kind": "slide-off", "to": "far down", "ticks": 100}}, {"ending": ("slide-off", "far down")}),
    ],
)
def test_trills_and_slides_go_with_their_fret(fields: Any, expected: Any) -> None:
    one = note("a", 0, **fields)
    after, _ = completed(Solo(notes=(one,)), moved(one, fret=700))
    found = after.notes[0].model_dump(mode="json")
    for name, value in expected.items():
        got = found[name]
        assert (got["kind"], got.get("start", got.get("to"))) == value if isinstance(value, tuple) else got == value


def test_what_is_laid_on_a_note_is_cut_with_it() -> None:
    laid = {
        "vibrato": {"start": 8_000},
        "attack": {"kind": "slide-in", "start": "far below", "ticks": 9_000},
        "ending": {"kind": "slide-off", "to": "far down", "ticks": 9_000},
    }
    one = note("a", 0, **laid)
    after, _ = completed(Solo(notes=(one,)), moved(one, ticks=EIGHTH))
    found = after.notes[0]
    assert found.vibrato is not None and found.vibrato.start == EIGHTH
    assert (found.attack.ticks, found.ending.ticks) == (EIGHTH, EIGHTH)  # type: ignore[union-attr]


def test_an_undo_leaves_everything_as_it_was_but_for_names_of_what_is_gone() -> None:
    """A join that never agreed comes back as it was written; a pin of the undone note goes."""
    led, joined = note("a", 0, fret=300), note("b", QUARTER, fret=500, attack={"kind": "pull-off"})
    choice = {"kind": "fingering", "id": "y", "notes": ["b"]}
    solo = Solo.model_validate({"notes": [led.model_dump(), joined.model_dump()], "choices": [choice]})
    after, _ = completed(solo, changed(joined, None), exact=True)
    assert [one.id for one in after.notes] == ["a"] and after.choices == ()
    back, _ = completed(after, changed(None, joined), exact=True)
    assert back.notes == solo.notes


def test_a_note_that_no_longer_fits_stays_editable_and_names_its_bar() -> None:
    high = note("a", 0, fret=2300)
    solo = Solo(settings=SoloSettings(last_fret=22, last_bar=8), notes=(high, note("b", QUARTER, string=7)))
    check_solo(solo, GROUND, solo.notes, {one.id: one for one in solo.notes})
    with pytest.raises(UsagiError, match="There is no fret 23"):
        check_solo(solo, GROUND, [high], {"a": note("a", 0, fret=2200)})
    assert [one.sentence[:9] for one in violations(solo, GROUND)] == ["At 1:1: T", "At 1:2: T"]


@st.composite
def hasty_changes(draw: st.DrawFn, solo: Solo, number: int) -> list[Change]:
    """What a hasty hand sends: notes written anywhere, moved, shortened, deleted; rests; phrases across others."""
    step = QUARTER // 4
    kind = draw(st.sampled_from(["write", "move", "delete", "rest", "phrase", "fret"]))
    tick = draw(st.integers(0, 120)) * step
    ticks = draw(st.integers(1, 12)) * step
    if kind in ("move", "delete", "fret") and solo.notes:
        one = draw(st.sampled_from(solo.notes))
        if kind == "delete":
            return [changed(one, None)]
        if kind == "fret":
            return [moved(one, fret=draw(st.integers(0, 22)) * 100)] if one.fret is not None else []
        return [moved(one, tick=tick)]
    if kind == "phrase":
        return [changed(None, Phrase(id=f"made-p{number}", start=tick, end=tick + ticks), Kind.PHRASE)]
    if kind == "rest":
        return [changed(None, Rest(id=f"made-r{number}", tick=tick, ticks=ticks), Kind.REST)]
    string = draw(st.integers(1, 6))
    if any(one.tick == tick and one.string == string for one in solo.notes):
        return []
    return [changed(None, note(f"made-x{number}", tick, ticks=ticks, string=string))]


@given(documents(), st.data())
def test_whatever_is_done_holds_together_and_its_inverse_leads_back(
    document: SoloDocument, data: st.DataObject
) -> None:
    solo, ground = document.solo, document.ground
    for step in range(data.draw(st.integers(1, 5))):
        changes = data.draw(hasty_changes(solo, step))
        if not changes:
            continue
        before = take_apart(solo)
        after = apply(before, changes)
        ids = sequential_ids(f"new-{step}-")
        found = what_follows(before, after, changes, ground, lambda _: ids())  # noqa: B023
        whole = apply(after, found.changes)
        now = put_together(whole)
        assert isinstance(now, Solo)
        check_solo(now, ground, [])
        for rest in now.rests:
            if any(change.id == rest.id for change in (*changes, *found.changes)):
                assert not any(one.tick < rest.end and rest.tick < one.end for one in now.notes)
        back = apply(whole, [change.inverse() for change in reversed([*changes, *found.changes])])
        assert put_together(back) == solo
        solo = now
