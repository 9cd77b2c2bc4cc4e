"""The hard rules under random edits: what is accepted holds together, and its inverse leads back."""

from __future__ import annotations

import itertools
import json

from hypothesis import given
from hypothesis import strategies as st

from strategies import QUARTER, documents, sequential_ids
from usagi.core.chart.text import read_chart
from usagi.core.document.coverage import coverage, progress
from usagi.core.document.edits import Change, Kind, apply, put_together, take_apart, to_json
from usagi.core.document.elements import Note, Phrase, Question, Stack
from usagi.core.document.rules import RuleBroken, check_solo
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument, document_from_tree, write_document

STEP = QUARTER // 4


@st.composite
def rough_changes(draw: st.DrawFn, solo: Solo) -> Change:
    """A change that a hasty hand might send: some are fine, some break a rule."""
    kind = draw(st.sampled_from(["new", "move", "delete", "phrase", "stack"]))
    if kind in ("move", "delete") and solo.notes:
        note = draw(st.sampled_from(solo.notes))
        after = None if kind == "delete" else note.model_copy(update={"tick": draw(st.integers(-4, 300)) * STEP})
        return Change(kind=Kind.NOTE, id=note.id, before=to_json(note), after=to_json(after))
    number = draw(st.integers(0, 10**6))
    if kind == "phrase":
        start = draw(st.integers(0, 60)) * STEP
        made = Phrase(id=f"p{number}", start=start, end=start + draw(st.integers(1, 20)) * STEP)
        return Change(kind=Kind.PHRASE, id=made.id, after=to_json(made))
    if kind == "stack":
        return Change(kind=Kind.STACK, id=f"s{number}", after=to_json(Stack(id=f"s{number}")))
    made_note = Note(id=f"x{number}", tick=draw(st.integers(-4, 300)) * STEP, ticks=draw(st.integers(1, 8)) * STEP,
                     string=draw(st.integers(1, 8)), fret=draw(st.integers(0, 30)) * 100)  # fmt: skip
    return Change(kind=Kind.NOTE, id=made_note.id, after=to_json(made_note))


@given(documents(), st.data())
def test_random_edits_are_refused_or_leave_a_solo_that_holds_together(
    document: SoloDocument, data: st.DataObject
) -> None:
    solo, ground = document.solo, document.ground
    start = solo
    done: list[Change] = []
    for _ in range(data.draw(st.integers(1, 6))):
        change = data.draw(rough_changes(solo))
        try:
            after = put_together(apply(take_apart(solo), [change]))
            assert isinstance(after, Solo)
            check_solo(after, ground, [n for n in after.notes if n.id == change.id])
        except UsagiError:
            continue
        solo = after
        done.append(change)
    for string in range(1, 9):
        line = [note for note in solo.notes if note.string == string]
        assert all(a.end <= b.tick for a, b in itertools.pairwise(line))
    assert all(a.end <= b.start for a, b in zip(solo.phrases, solo.phrases[1:], strict=False))
    assert all(0 <= bar.filled <= 1 for bar in coverage(solo, ground))
    assert 0 <= progress(coverage(solo, ground), solo, ground).notes <= 1
    back = put_together(apply(take_apart(solo), [change.inverse() for change in reversed(done)]))
    assert back == start


@given(documents())
def test_what_is_accepted_can_be_written_and_read(document: SoloDocument) -> None:
    check_solo(document.solo, document.ground, document.solo.notes)
    assert document_from_tree(json.loads(write_document(document))) == document


def refuse(solo: Solo, document: SoloDocument) -> str:
    try:
        check_solo(solo, document.ground, [])
    except RuleBroken as refusal:
        return refusal.sentence
    return ""


def test_every_hard_rule_has_its_sentence() -> None:
    read = read_chart("| C |", new_id=sequential_ids("c"))
    anchors = (Anchor(id="a", tick=0, second=0.0), Anchor(id="b", tick=QUARTER, second=0.5))
    ground = Ground(
        settings=GroundSettings(bars=4, form=read.chart.form), sections=read.chart.sections, anchors=anchors
    )
    document = SoloDocument(ground=ground, solo=Solo())

    def note(note_id: str, tick: int, **fields: object) -> Note:
        return Note.model_validate({"id": note_id, "tick": tick, "ticks": QUARTER, "string": 2, "fret": 0} | fields)

    two = (note("a", 0), note("b", STEP))
    phrases = (Phrase(id="p", start=0, end=QUARTER, name="a"), Phrase(id="q", start=STEP, end=QUARTER, name="b"))
    question = Question(id="q", start=0, end=1, notes=("gone",), words="?")
    rows = [
        (Solo(notes=two), "Two notes sound on string 2 at 1:1+1/4."),
        (Solo(phrases=phrases), "Two phrases overlap at 1:1+1/4: end the one before first."),
        (Solo(notes=(note("a", 0, stack="s"),)), "A note names a stack that does not exist."),
        (Solo(notes=(note("a", 0, stack="s"),), stacks=(Stack(id="s"),)), "A stack has two notes or more."),
        (
            Solo(notes=(note("a", 0, stack="s"), note("b", QUARTER, stack="s")), stacks=(Stack(id="s"),)),
            "The notes of a stack start together; one starts at 1:2.",
        ),
        (Solo(questions=(question,)), "A question names a note that is no longer there."),
    ]
    assert [refuse(solo, document) for solo, _ in rows] == [words for _, words in rows]
