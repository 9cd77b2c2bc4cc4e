"""Edits, rules, the JSON document and the text tablature."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import documents
from usagi.core.degrees.spoken import Reader
from usagi.core.document.coverage import coverage, next_step
from usagi.core.document.edits import Change, EditConflict, Kind, apply, difference, put_together, take_apart, to_json
from usagi.core.document.elements import Note
from usagi.core.document.pitches import course_stages
from usagi.core.document.rules import RuleBroken, check_solo, violations
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument, document_schema, read_document, write_document
from usagi.core.formats.read_output import reading_json
from usagi.core.formats.text_tab import write_tab

SCHEMA = jsonschema.Draft202012Validator(document_schema())
GOLDEN = Path(__file__).parents[1] / "golden"
DEMO = Path(__file__).parents[2] / "demo"


@given(documents())
def test_export_import_export_gives_the_same_bytes(document: SoloDocument) -> None:
    data = write_document(document)
    assert write_document(read_document(data)) == data
    SCHEMA.validate(json.loads(data))


@given(documents(), documents())
def test_the_difference_leads_over_and_its_inverse_leads_back(one: SoloDocument, other: SoloDocument) -> None:
    for before, after in ((one.solo, other.solo), (one.ground, other.ground)):
        changes = difference(before, after)
        there = apply(take_apart(before), changes)
        assert put_together(there) == after
        back = apply(there, [change.inverse() for change in reversed(changes)])
        assert put_together(back) == before


def test_a_change_of_something_that_is_not_so_any_more_is_a_conflict_with_both_values() -> None:
    document = read_document((DEMO / "lanterns-at-low-water.json").read_bytes())
    note = document.solo.notes[0]
    stale = note.model_copy(update={"fret": 900})
    change = Change(kind=Kind.NOTE, id=note.id, before=to_json(stale), after=None)
    with pytest.raises(EditConflict, match="changed elsewhere") as conflict:
        apply(take_apart(document.solo), [change])
    assert conflict.value.now == to_json(note) and conflict.value.before == to_json(stale)


def test_a_published_schema_has_closed_objects_only() -> None:
    schema = document_schema()
    objects = [d for d in [schema, *schema["$defs"].values()] if d.get("type") == "object"]
    assert len(objects) > 30
    assert all(d["additionalProperties"] is False for d in objects)


# What a file says, and words of the sentence that refuses it.
BROKEN = [
    (lambda tree: tree.update(schema=7), "schema 7; this program reads up to 6"),
    (lambda tree: tree.pop("schema"), "names no schema"),
    (lambda tree: tree.update(tuna="x"), "tuna is not known"),
    (lambda tree: tree.pop("ground"), "ground is missing"),
    (lambda tree: tree["solo"]["notes"][0].update(fret=4000), "no fret 40: the longest neck"),
    (lambda tree: tree["solo"]["notes"][0].update(fret=3500), "no fret 35 on string 3: this neck has 22"),
    (lambda tree: tree["solo"]["notes"][0].update(string=9), "no string 9: a guitar here has 4 to 8"),
    (lambda tree: tree["solo"]["notes"][0].update(string=8), "no string 8: this guitar has 6"),
    (lambda tree: tree["solo"]["notes"][0].update(course=[[0, 0], [100, 36]]), "bend of 9 steps"),
    (lambda tree: tree["solo"]["notes"][0].update(tick=-99_999), "before the pick-up"),
    (lambda tree: tree["solo"]["notes"][0].update(tick=9_999_999), "after the last bar, 18"),
    (lambda tree: tree["solo"]["notes"][0].update(ticks=0), "length of 0 ticks is none"),
    (lambda tree: tree["solo"]["notes"][0].update(fret=None), "has no fret"),
    (lambda tree: tree["solo"]["notes"][0].update(fret=750), "lies between frets"),
    (lambda tree: tree["solo"]["notes"][1].update(tick=-10_000), "Two notes sound on string 3"),
    (lambda tree: tree["solo"]["notes"][1].update(id="ln0"), "id ln0 twice"),
    (lambda tree: tree["solo"]["phrases"][1].update(start=0), "Two phrases overlap at"),
    (lambda tree: tree["ground"]["anchors"][1].update(second=0.1), "does not come after"),
    (lambda tree: tree["ground"]["sections"][0]["bars"][0]["chords"][0].update(symbol="Hm7"), "Bm7 or Bbm7"),
]


@pytest.mark.parametrize(("damage", "words"), BROKEN, ids=[words for _, words in BROKEN])
def test_a_broken_document_is_refused_with_a_sentence(damage, words: str) -> None:
    tree = json.loads((DEMO / "lanterns-at-low-water.json").read_bytes())
    damage(tree)
    with pytest.raises(UsagiError) as refusal:
        read_document(json.dumps(tree).encode())
    assert words in str(refusal.value)


def test_what_no_longer_fits_is_listed_and_not_refused() -> None:
    document = read_document((DEMO / "lanterns-at-low-water.json").read_bytes())
    settings = document.solo.settings.model_copy(update={"last_fret": 14})
    short = document.solo.model_copy(update={"settings": settings})
    listed = violations(short, document.ground)
    assert {m.id for m in listed} == {n.id for n in short.notes if (n.fret or 0) > 1400}
    assert all("this neck has 14 frets" in m.sentence for m in listed)
    check_solo(short, document.ground, [])
    with pytest.raises(RuleBroken):
        check_solo(short, document.ground, short.notes)


def test_the_miniature_counts_ticks_that_are_notes_or_rests() -> None:
    document = read_document((DEMO / "gull-weather.json").read_bytes())
    bars = coverage(document.solo, document.ground)
    assert [bar.filled for bar in bars] == [1.0] * 6 + [0.0] * 6
    assert [bar.bar for bar in bars if bar.doubtful] == [3, 7]
    assert next_step(bars, 0) == "go on at bar 7" and next_step(bars, 2) == "2 questions"


@given(st.lists(st.tuples(st.integers(1, 999), st.integers(-24, 12)), max_size=6))
def test_stages_start_at_the_start_and_visit_every_extreme(points: list[tuple[int, int]]) -> None:
    course = [(0, 0)]
    for wide, quarters in points:
        course.append((course[-1][0] + wide, quarters))
    ticks = course[-1][0] + 1
    found = course_stages(tuple(course), ticks)
    values = [quarters for _, quarters in course]
    assert found[0][:2] == (0, 0)
    assert {max(values), min(values)} <= {quarters for _, quarters, _ in found}
    assert [at for at, _, _ in found] == sorted({at for at, _, _ in found})


@pytest.mark.parametrize("name", ["lanterns-at-low-water", "gull-weather"])
def test_tablature_and_reading_of_the_demo_are_as_they_were_read_by_eye(
    name: str, request: pytest.FixtureRequest
) -> None:
    document = read_document((DEMO / f"{name}.json").read_bytes())
    made = {
        f"{name}.txt": write_tab(document),
        f"{name}.read.json": json.dumps(reading_json(document, Reader()), indent=1) + "\n",
    }
    for file, text in made.items():
        if request.config.getoption("--rewrite-golden"):
            (GOLDEN / file).write_text(text)
        assert (GOLDEN / file).read_text() == text


def test_a_document_in_any_order_is_the_same_document() -> None:
    data = (DEMO / "lanterns-at-low-water.json").read_bytes()
    tree = json.loads(data)
    for elements in (
        tree["solo"]["notes"],
        tree["solo"]["phrases"],
        tree["ground"]["sections"],
        tree["ground"]["anchors"],
    ):
        elements.reverse()
    assert write_document(read_document(json.dumps(tree).encode())) == data


def test_a_note_keeps_unknown_fields_out() -> None:
    with pytest.raises(ValueError, match="Extra inputs"):
        Note.model_validate({"id": "a", "tick": 0, "ticks": 1, "string": 1, "fret": 0, "bnd": 4})
