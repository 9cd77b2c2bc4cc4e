"""Edits of several people at once, and taking back over another's work."""

from __future__ import annotations

import threading
from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from usagi.core.document.edits import Change, Edit, EditConflict, to_json
from usagi.core.document.solo import Solo
from usagi.core.document.things import Note
from usagi.core.errors import UsagiError
from usagi.flows.bench import open_bench
from usagi.flows.bring import NewSolo, start_solo
from usagi.flows.desk import Desk, OpenDocuments, now_text
from usagi.flows.edits import NothingToUndo, accept, redo, undo
from usagi.flows.grounds import Basics, change_basics, change_chart
from usagi.store.database import transaction
from usagi.store.studios import NEW_PERSON, Scope

QUARTER = 10_080


def a_solo(desk: Desk) -> UUID:
    return start_solo(
        desk, NewSolo("Tin Roof", "break", "Ada Moor", Basics(tempo_bpm=120, last_bar=32), "| Am7 | D7 |")
    )


def another_person(desk: Desk) -> Desk:
    person = uuid4()
    with transaction(desk.pool) as db:
        db.execute(NEW_PERSON, {"studio_id": desk.scope.studio, "id": person, "name": "Another"})
    return replace(desk, scope=Scope(desk.scope.studio, person), open=OpenDocuments())


def note(note_id: str, tick: int, **fields: object) -> Note:
    return Note.model_validate({"id": note_id, "tick": tick, "ticks": QUARTER, "string": 2, "fret": 500} | fields)


def edit(desk: Desk, solo: UUID, before: Note | None, after: Note | None) -> Edit:
    thing = after or before
    assert thing is not None
    change = Change(kind="note", id=thing.id, before=to_json(before), after=to_json(after))
    return Edit(
        id=str(uuid4()),
        act=str(uuid4()),
        document=str(solo),
        made_in=str(solo),
        person=str(desk.scope.person),
        at=now_text(),
        label="write a note",
        changes=(change,),
    )


def stored(desk: Desk, solo: UUID) -> Solo:
    return open_bench(replace(desk, open=OpenDocuments()), solo).solo


def test_four_writers_at_once_lose_nothing(desk: Desk) -> None:
    solo = a_solo(desk)
    refused: list[UsagiError] = []

    def write(string: int) -> None:
        for i in range(12):
            made = note(f"{string}-{i}", i * QUARTER, string=string)
            try:
                accept(desk, solo, {}, [edit(desk, solo, None, made)])
            except UsagiError as fault:
                refused.append(fault)

    threads = [threading.Thread(target=write, args=(string,)) for string in (1, 2, 3, 4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert refused == []
    found = open_bench(replace(desk, open=OpenDocuments()), solo)
    assert {n.id for n in found.solo.notes} == {f"{s}-{i}" for s in (1, 2, 3, 4) for i in range(12)}
    assert found.versions[str(solo)] == 48


def test_two_notes_written_to_one_place_are_refused_with_the_place(desk: Desk) -> None:
    solo, other = a_solo(desk), another_person(desk)
    accept(desk, solo, {}, [edit(desk, solo, None, note("mine", 0))])
    with pytest.raises(UsagiError, match=r"Two notes sound on string 2 at 1:1\+1/2"):
        accept(other, solo, {}, [edit(other, solo, None, note("theirs", QUARTER // 2))])
    assert [n.id for n in stored(desk, solo).notes] == ["mine"]


def test_undo_takes_back_ones_own_act_and_says_when_another_changed_the_same(desk: Desk) -> None:
    solo, other = a_solo(desk), another_person(desk)
    accept(desk, solo, {}, [edit(desk, solo, None, note("n", 0))])
    accept(other, solo, {}, [edit(other, solo, None, note("m", QUARTER))])
    accept(other, solo, {}, [edit(other, solo, note("n", 0), note("n", 0, fret=700))])
    with pytest.raises(EditConflict, match=r"“write a note” cannot be taken back: .* changed elsewhere"):
        undo(desk, solo, {})
    undo(other, solo, {})
    undo(desk, solo, {})
    assert [n.id for n in stored(desk, solo).notes] == ["m"]
    with pytest.raises(NothingToUndo):
        undo(desk, solo, {})


def test_redo_after_undo_after_redo_keeps_the_order_of_acts(desk: Desk) -> None:
    solo = a_solo(desk)
    for i in range(3):
        accept(desk, solo, {}, [edit(desk, solo, None, note(f"n{i}", i * QUARTER))])
    ids = []
    for step in (undo, undo, redo, undo, redo, redo, undo):
        step(desk, solo, {})
        ids.append([n.id for n in stored(desk, solo).notes])
    assert ids == [["n0", "n1"], ["n0"], ["n0", "n1"], ["n0"], ["n0", "n1"], ["n0", "n1", "n2"], ["n0", "n1"]]


def test_the_answer_names_what_undo_and_redo_would_take(desk: Desk) -> None:
    solo = a_solo(desk)
    answer = accept(desk, solo, {}, [edit(desk, solo, None, note("n", 0))])
    assert (answer.history.undo, answer.history.redo) == ("write a note", None)
    back = undo(desk, solo, {})
    assert (back.history.undo, back.history.redo) == (None, "write a note")
    assert back.marks == {"n": None}


def test_an_act_over_ground_and_solo_is_taken_back_whole(desk: Desk) -> None:
    solo = a_solo(desk)
    before = open_bench(desk, solo)
    answer = change_basics(desk, solo, Basics(tempo_bpm=80, capo=3, bars=6, last_bar=6))
    assert len(answer.edits) == 2 and len({e.act for e in answer.edits}) == 1
    undo(desk, solo, {})
    after = open_bench(replace(desk, open=OpenDocuments()), solo)
    assert (after.solo, after.ground) == (before.solo, before.ground)


def test_a_chart_that_grows_brings_its_bars_and_labels_follow_in_other_solos_of_the_ground(desk: Desk) -> None:
    solo = a_solo(desk)
    answer = change_chart(desk, solo, "| Am7 | D7 |\n20 choruses")
    assert answer.strip is not None and len(answer.strip.bars) == 40
    assert [chord.shown for chord in answer.strip.chords[-2:]] == ["Am7", "D7"]


def test_no_change_is_no_edit(desk: Desk) -> None:
    solo = a_solo(desk)
    version = open_bench(desk, solo).versions
    assert change_basics(desk, solo, Basics(capo=0)).versions == version
