"""Text tablature, there and back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import QUARTER, documents, ground_on, sequential_ids
from usagi.core.document.elements import Note
from usagi.core.document.pitches import course_stages
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument, read_document
from usagi.core.formats.tab_reading import TabRead, TabUnreadable, read_tab, with_tab
from usagi.core.formats.tab_signs import SignUnreadable, read_cells
from usagi.core.formats.text_tab import write_tab
from usagi.core.meter.counting import School

DEMO = Path(__file__).parents[2] / "demo"
BAR = 4 * QUARTER


def brought_back(document: SoloDocument, text: str) -> TabRead:
    return read_tab(text, document.solo.settings, document.ground.timeline.bars, sequential_ids("t"))


def held(note: Note) -> dict[str, object]:
    """What a text can hold of a note: neither its length nor how fast, how wide and when within it."""
    end = note.ending
    return {
        "fret": None if note.dead else note.fret,
        "attack": (note.attack.kind, getattr(note.attack, "start", None), getattr(note.attack, "how", None)),
        "levels": [quarters for _, quarters, _ in course_stages(note.course, note.ticks)],
        "shaken": note.vibrato and note.vibrato.by,
        "trill": note.trill and note.trill.fret,
        "rake": note.rake and note.rake.strings,
        "ending": end and (end.kind, getattr(end, "to", None)),
        "flags": (note.dead, note.ghost, note.accent, note.palm_mute, note.tremolo is not None),
        "sure": note.sure == "sure",
    }


def by_pulse(notes: tuple[Note, ...]) -> dict[int, list[Note]]:
    pulses: dict[int, list[Note]] = {}
    for note in notes:
        pulses.setdefault(note.tick // QUARTER, []).append(note)
    return pulses


def on_one_grid(ticks: set[int]) -> bool:
    return any(all(tick * parts % QUARTER == 0 for tick in ticks) for parts in (2, 3, 4, 5, 6, 7, 8))


@given(documents(), st.sampled_from(School))
def test_a_solo_through_tablature_keeps_what_a_text_can_hold(document: SoloDocument, school: School) -> None:
    text = write_tab(document, school=school)
    notes = document.solo.notes
    if not notes:
        with pytest.raises(TabUnreadable, match="no notes"):
            brought_back(document, text)
        return
    back = brought_back(document, text).notes
    assert len(back) == len(notes)
    theirs = {(note.tick, note.string): note for note in back}
    for beat, pulse in by_pulse(notes).items():
        silent = {rest.tick for rest in document.solo.rests if rest.tick // QUARTER == beat}
        exact = on_one_grid({note.tick for note in pulse} | silent)
        for note in pulse:
            if exact:
                assert held(theirs[note.tick, note.string]) == held(note)
            else:  # on the nearest step, or beside the other one that stands there
                near = [other for at, other in theirs.items()
                        if at[1] == note.string and abs(at[0] - note.tick) <= QUARTER // 4]  # fmt: skip
                assert held(note) in [held(other) for other in near]


@pytest.mark.parametrize("school", School)
@pytest.mark.parametrize("name", ["lanterns-at-low-water", "gull-weather", "the-salt-road", "ferry-bell"])
def test_a_demo_solo_comes_back_on_its_ticks(name: str, school: School) -> None:
    document = read_document((DEMO / f"{name}.json").read_bytes())
    back = brought_back(document, write_tab(document, school=school))
    assert [(note.tick, note.string, held(note)) for note in back.notes] == [
        (note.tick, note.string, held(note)) for note in document.solo.notes
    ]
    assert len(back.messages) == 1


@given(documents())
def test_an_own_text_brought_in_again_changes_nothing(document: SoloDocument) -> None:
    solo = document.solo
    if solo.notes:
        assert with_tab(solo, brought_back(document, write_tab(document)), sequential_ids("w")) == solo


def test_a_slide_from_a_dead_note_is_read_as_it_is_written() -> None:
    document = read_document((DEMO / "lanterns-at-low-water.json").read_bytes())
    dead = {"id": "a", "tick": 0, "ticks": QUARTER, "string": 1, "fret": 300, "dead": True}
    slid = {"id": "b", "tick": QUARTER, "ticks": QUARTER, "string": 1, "fret": 100, "attack": {"kind": "slide"}}
    notes = tuple(Note.model_validate(note) for note in (dead, slid))
    solo = Solo(settings=document.solo.settings, notes=notes)
    document = document.model_copy(update={"solo": solo})
    assert with_tab(solo, brought_back(document, write_tab(document)), sequential_ids("w")) == solo


def test_only_what_the_text_says_otherwise_is_written_anew() -> None:
    document = read_document((DEMO / "lanterns-at-low-water.json").read_bytes())
    solo = document.solo
    text = write_tab(document).replace("-8--10b1~---", "-7--10b1----")
    after = with_tab(solo, brought_back(document, text), sequential_ids("w"))
    known = {note.id: note for note in solo.notes}
    changed = [note for note in after.notes if known.get(note.id) != note]
    assert [(note.tick, note.string, note.fret, note.vibrato) for note in changed] == [
        (0, 2, 700, None), (QUARTER // 2, 2, 1_000, None)
    ]  # fmt: skip
    assert len(after.notes) == len(solo.notes) and after.questions == solo.questions and after.rests == solo.rests


# What a teacher has in old files: no count line, shared beats by spacing, bends named by the fret that they reach.
OLD = """
  Some heading

e|-----------------|-5---8b10r8-5----|
B|-5-5-8-8-5-5-8-8-|---------------8-|
G|-----------------|-----------------|
D|-----------------|-----------------|
A|-----------------|-----------------|
E|-----------------|-----------------|
"""


def read_old(text: str, **fields: Any) -> TabRead:
    bars = ground_on("| Em | Am |").timeline.bars
    return read_tab(text, SoloSettings(), bars, sequential_ids("t"), **fields)


def test_old_tablature_without_a_count_is_read_by_its_spacing() -> None:
    read = read_old(OLD)
    eighths = [note for note in read.notes if note.tick < BAR]
    assert [(note.tick, note.fret) for note in eighths] == [
        (i * QUARTER // 2, fret) for i, fret in enumerate([500, 500, 800, 800] * 2)
    ]
    second = [(note.tick - BAR, note.string, note.fret) for note in read.notes if note.tick >= BAR]
    assert second == [(0, 1, 500), (QUARTER, 1, 800), (11 * QUARTER // 4, 1, 500), (7 * QUARTER // 2, 2, 800)]
    assert [q for _, q, _ in course_stages(read.notes[9].course, read.notes[9].ticks)] == [0, 4, 0]
    assert "no count line" in read.messages[1]
    assert [bar.number for bar in read_old(OLD, from_bar=4).bars] == [4, 5]


UNREADABLE = [
    ("nothing of the kind", "no tablature"),
    (OLD.replace("-5---8b10r8-5----", "-5---8q10r8-5----"), "Line 4, column 27: “q10r8” is no sign"),
    (OLD.replace("8b10r8", "8b3½--"), "Line 4, column 26: “8b3½”: A bend of 3½ steps is out of reach"),
    (OLD.replace("8b10r8", "47----"), "Line 4, column 26: “47”: "),
    (OLD.replace("E|-----------------|", "E|----------------|-"), "Line 9: its bar lines"),
    (OLD.replace("\nE|-----------------|-----------------|", ""), "has 5 lines; this guitar has 6"),
    (OLD.replace("5", "-").replace("8b10r8", "------").replace("8", "-"), "no notes"),
]


@pytest.mark.parametrize(("text", "words"), UNREADABLE, ids=[words for _, words in UNREADABLE])
def test_what_cannot_be_read_is_named_with_its_place(text: str, words: str) -> None:
    with pytest.raises(TabUnreadable) as refusal:
        read_old(text)
    assert words in str(refusal.value)


def test_bars_that_the_recording_does_not_have_are_refused() -> None:
    with pytest.raises(TabUnreadable, match="reaches bar 9; the recording has bars 1 to 8"):
        read_old(OLD, from_bar=8)


def test_another_tuning_is_told() -> None:
    assert "written for D A D G B E" in read_old(OLD.replace("\nE|", "\nD|")).messages[-1]


@given(st.data())
def test_a_damaged_tablature_is_read_or_refused_in_words(data: st.DataObject) -> None:
    document = read_document((DEMO / "lanterns-at-low-water.json").read_bytes())
    text = list(write_tab(document))
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(text) - 1))
        text[at] = data.draw(st.sampled_from("0123456789hpt/\\()<>xbrvB^~wzck:!.=?,-|½ \n&e"))
    try:
        read = brought_back(document, "".join(text))
    except TabUnreadable as refusal:
        assert str(refusal).endswith(".")
    else:
        assert len(read.notes) >= 1 and read.messages


@given(st.text("0123456789hpt/\\()<>xbrvBV^~wmzck:!.=?,-½ ", max_size=30))
def test_any_signs_are_read_or_refused_with_their_column(text: str) -> None:
    try:
        columns = [at for at, _ in read_cells(text)]
    except SignUnreadable as fault:
        assert 0 <= fault.column < len(text)
    else:
        assert columns == sorted(set(columns))
