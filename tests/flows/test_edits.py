"""Edits of several people at once, and taking back over another's work."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any
from uuid import UUID, uuid4

import pytest

from usagi.core.document.edits import Change, Edit, EditConflict, to_json
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo
from usagi.core.errors import UsagiError
from usagi.flows.editing.accepting import accept, accept_each
from usagi.flows.editing.judging import PlaceTaken
from usagi.flows.editing.opening import open_bench
from usagi.flows.editing.undoing import NothingToUndo, redo, undo
from usagi.flows.setup.basics import Basics, change_basics
from usagi.flows.setup.chart import change_chart
from usagi.flows.studio.new_solo import NewSolo, start_solo
from usagi.flows.workspace import OpenDocuments, Workspace, now_text
from usagi.store import documents
from usagi.store.database import transaction
from usagi.store.studios import NEW_PERSON, Scope

QUARTER = 10_080


def a_solo(workspace: Workspace) -> UUID:
    return start_solo(
        workspace, NewSolo("Tin Roof", "break", "Ada Moor", Basics(tempo_bpm=120, last_bar=32), "| Am7 | D7 |")
    )


def another_person(workspace: Workspace) -> Workspace:
    person = uuid4()
    with transaction(workspace.pool) as db:
        db.execute(NEW_PERSON, {"studio_id": workspace.scope.studio, "id": person, "name": "Another"})
    return replace(workspace, scope=Scope(workspace.scope.studio, person), open=OpenDocuments())


def note(note_id: str, tick: int, **fields: object) -> Note:
    return Note.model_validate({"id": note_id, "tick": tick, "ticks": QUARTER, "string": 2, "fret": 500} | fields)


def edit(workspace: Workspace, solo: UUID, before: Note | None, after: Note | None) -> Edit:
    element = after or before
    assert element is not None
    change = Change(kind="note", id=element.id, before=to_json(before), after=to_json(after))
    return Edit(
        id=str(uuid4()),
        act=str(uuid4()),
        document=str(solo),
        made_in=str(solo),
        person=str(workspace.scope.person),
        at=now_text(),
        label="write a note",
        changes=(change,),
    )


def stored(workspace: Workspace, solo: UUID) -> Solo:
    return open_bench(replace(workspace, open=OpenDocuments()), solo).solo


def test_four_writers_at_once_lose_nothing(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    refused: list[UsagiError] = []

    def write(string: int) -> None:
        for i in range(12):
            made = note(f"{string}-{i}", i * QUARTER, string=string)
            try:
                accept(workspace, solo, {}, [edit(workspace, solo, None, made)])
            except UsagiError as fault:
                refused.append(fault)

    threads = [threading.Thread(target=write, args=(string,)) for string in (1, 2, 3, 4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert refused == []
    found = open_bench(replace(workspace, open=OpenDocuments()), solo)
    assert {n.id for n in found.solo.notes} == {f"{s}-{i}" for s in (1, 2, 3, 4) for i in range(12)}
    assert found.versions[str(solo)] == 48


def test_two_notes_written_to_one_place_are_refused_with_the_place(workspace: Workspace) -> None:
    solo, other = a_solo(workspace), another_person(workspace)
    accept(workspace, solo, {}, [edit(workspace, solo, None, note("mine", 0))])
    with pytest.raises(UsagiError, match="Two notes sound on string 2 at 1:1"):
        accept(other, solo, {}, [edit(other, solo, None, note("theirs", 0))])
    assert [n.id for n in stored(workspace, solo).notes] == ["mine"]


def test_what_anothers_edit_made_follow_does_not_stand_against_ones_own(workspace: Workspace) -> None:
    """A second string at one tick makes a stack of both notes; the first's writer, who has not heard of it, goes on."""
    solo, other = a_solo(workspace), another_person(workspace)
    mine = note("mine", 0)
    known = accept(workspace, solo, {}, [edit(workspace, solo, None, mine)]).versions
    accept(other, solo, {}, [edit(other, solo, None, note("theirs", 0, string=3))])
    answer = accept(workspace, solo, known, [edit(workspace, solo, mine, note("mine", 0, fret=700))])
    assert answer.refused == []
    found = {n.id: n for n in stored(workspace, solo).notes}
    assert found["mine"].fret == 700 and found["mine"].stack == found["theirs"].stack is not None
    changed = note("mine", 0, fret=900)
    accept(other, solo, {}, [edit(other, solo, found["mine"], found["mine"].model_copy(update={"fret": 900}))])
    with pytest.raises(EditConflict):  # what they changed themselves does
        accept(workspace, solo, answer.versions, [edit(workspace, solo, found["mine"], changed)])


def test_what_followed_while_a_page_was_closed_does_not_stand_against_what_it_kept(workspace: Workspace) -> None:
    """It opens again with all that is stored and sends what waits: one edit whose answer was lost, and one after it."""
    solo, other = a_solo(workspace), another_person(workspace)
    mine, moved = note("mine", 0), note("mine", 0, fret=700)
    lost = edit(workspace, solo, None, mine)
    accept(workspace, solo, {}, [lost])
    accept(other, solo, {}, [edit(other, solo, None, note("theirs", 0, string=3))])
    versions = open_bench(workspace, solo).versions
    assert accept(workspace, solo, versions, [lost, edit(workspace, solo, mine, moved)]).refused == []
    found = {n.id: n for n in stored(workspace, solo).notes}
    assert found["mine"].fret == 700 and found["mine"].stack == found["theirs"].stack is not None


def test_a_page_that_drew_what_would_follow_from_an_act_left_out_may_go_on(workspace: Workspace) -> None:
    """It drew the note shortened by another that is refused; deleting the shortened note deletes the note as it is."""
    solo, other = a_solo(workspace), another_person(workspace)
    first, theirs, mine = note("first", 0), note("theirs", 4 * QUARTER), note("mine", QUARTER // 2)
    accept(workspace, solo, {}, [edit(workspace, solo, None, first), edit(workspace, solo, None, theirs)])
    accept(other, solo, {}, [edit(other, solo, theirs, None)])
    short = first.model_copy(update={"ticks": QUARTER // 2})
    refused = edit(workspace, solo, None, mine)
    stale = Change(
        kind="note", id="theirs", before=to_json(theirs), after=to_json(theirs.model_copy(update={"fret": 7}))
    )
    drawn = Change(kind="note", id="first", before=to_json(first), after=to_json(short))
    refused = refused.model_copy(update={"changes": (*refused.changes, stale), "follows": (drawn,)})
    answer = accept_each(workspace, solo, {}, [refused, edit(workspace, solo, short, None)])
    assert [one.act for one in answer.refused] == [refused.act]
    assert stored(workspace, solo).notes == ()


def test_what_has_followed_already_is_not_stored_again(workspace: Workspace) -> None:
    """A rest takes the note that starts with it; a page that has not drawn that deletes the note as well."""
    solo = a_solo(workspace)
    mine = note("mine", 0)
    accept(workspace, solo, {}, [edit(workspace, solo, None, mine)])
    rest = Change(kind="rest", id="r", before=None, after={"id": "r", "tick": 0, "ticks": QUARTER})
    silent = edit(workspace, solo, None, note("unused", 0)).model_copy(update={"changes": (rest,)})
    answer = accept(workspace, solo, {}, [silent, edit(workspace, solo, mine, None)])
    assert answer.refused == [] and answer.versions[str(solo)] == 2
    found = open_bench(replace(workspace, open=OpenDocuments()), solo).solo
    assert (found.notes, [one.id for one in found.rests]) == ((), ["r"])


def test_versions_and_edits_of_an_answer_are_of_one_moment(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another writes while a page asks what it lacks: what it is told leads exactly to the versions that it is told."""
    solo, other = a_solo(workspace), another_person(workspace)
    plain = documents.edits_since

    def another_writes_then(*args: Any) -> Any:
        monkeypatch.setattr(documents, "edits_since", plain)
        found = plain(*args)
        accept(other, solo, {}, [edit(other, solo, None, note("late", QUARTER))])
        return found

    accept(workspace, solo, {}, [edit(workspace, solo, None, note("n", 0))])
    monkeypatch.setattr(documents, "edits_since", another_writes_then)
    answer = accept(replace(workspace, open=OpenDocuments()), solo, {str(solo): 0}, [])
    assert (answer.versions[str(solo)], len(answer.edits)) == (1, 1)
    assert accept(workspace, solo, {str(solo): 1}, []).versions[str(solo)] == 2


def test_undo_takes_back_ones_own_act_and_says_when_another_changed_the_same(workspace: Workspace) -> None:
    solo, other = a_solo(workspace), another_person(workspace)
    accept(workspace, solo, {}, [edit(workspace, solo, None, note("n", 0))])
    accept(other, solo, {}, [edit(other, solo, None, note("m", QUARTER))])
    accept(other, solo, {}, [edit(other, solo, note("n", 0), note("n", 0, fret=700))])
    with pytest.raises(EditConflict, match=r"“write a note” cannot be undone: .* changed elsewhere"):
        undo(workspace, solo, {})
    undo(other, solo, {})
    undo(workspace, solo, {})
    assert [n.id for n in stored(workspace, solo).notes] == ["m"]
    with pytest.raises(NothingToUndo):
        undo(workspace, solo, {})


def test_two_pages_of_one_person_that_undo_at_once_take_back_two_acts(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    for i in range(8):
        accept(workspace, solo, {}, [edit(workspace, solo, None, note(f"n{i}", i * QUARTER))])
    with ThreadPoolExecutor(4) as pages:
        list(pages.map(lambda _: undo(workspace, solo, {}), range(6)))
    assert [n.id for n in stored(workspace, solo).notes] == ["n0", "n1"]


def test_undo_goes_back_to_the_first_act_however_many_there_are(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("usagi.flows.editing.history.LOOKED_AT", 60)
    solo, acts = a_solo(workspace), 130
    frets = [note("n", 0, fret=500 + 100 * (i % 2)) for i in range(acts)]
    accept(workspace, solo, {}, [edit(workspace, solo, *two) for two in zip([None, *frets], frets, strict=False)])
    for _ in range(acts):
        undo(workspace, solo, {})
    assert stored(workspace, solo).notes == ()
    with pytest.raises(NothingToUndo):
        undo(workspace, solo, {})
    redo(workspace, solo, {})
    assert [n.fret for n in stored(workspace, solo).notes] == [500]


def test_an_undo_that_is_asked_for_twice_is_done_once(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    for i in range(3):
        accept(workspace, solo, {}, [edit(workspace, solo, None, note(f"n{i}", i * QUARTER))])
    first, again = undo(workspace, solo, {}, act="the undo"), undo(workspace, solo, {str(solo): 3}, act="the undo")
    assert first.versions == again.versions
    assert [one.act for one in again.edits] == ["the undo"]
    assert [n.id for n in stored(workspace, solo).notes] == ["n0", "n1"]
    redo(workspace, solo, {}, act="the redo"), redo(workspace, solo, {}, act="the redo")
    assert len(stored(workspace, solo).notes) == 3


def test_redo_after_undo_after_redo_keeps_the_order_of_acts(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    for i in range(3):
        accept(workspace, solo, {}, [edit(workspace, solo, None, note(f"n{i}", i * QUARTER))])
    ids = []
    for step in (undo, undo, redo, undo, redo, redo, undo):
        step(workspace, solo, {})
        ids.append([n.id for n in stored(workspace, solo).notes])
    assert ids == [["n0", "n1"], ["n0"], ["n0", "n1"], ["n0"], ["n0", "n1"], ["n0", "n1", "n2"], ["n0", "n1"]]


def test_the_answer_names_what_undo_and_redo_would_take(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    answer = accept(workspace, solo, {}, [edit(workspace, solo, None, note("n", 0))])
    assert (answer.history.undo, answer.history.redo) == ("write a note", None)
    back = undo(workspace, solo, {})
    assert (back.history.undo, back.history.redo) == (None, "write a note")
    assert back.views == {"n": None}


def test_an_act_over_ground_and_solo_is_taken_back_whole(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    before = open_bench(workspace, solo)
    answer = change_basics(workspace, solo, Basics(tempo_bpm=80, capo=3, bars=6, last_bar=6))
    assert len(answer.edits) == 2 and len({e.act for e in answer.edits}) == 1
    undo(workspace, solo, {})
    after = open_bench(replace(workspace, open=OpenDocuments()), solo)
    assert (after.solo, after.ground) == (before.solo, before.ground)


def test_a_chart_that_grows_brings_its_bars_and_labels_follow_in_other_solos_of_the_ground(
    workspace: Workspace,
) -> None:
    solo = a_solo(workspace)
    answer = change_chart(workspace, solo, "| Am7 | D7 |\n20 choruses")
    assert answer.strip is not None and len(answer.strip.bars) == 40
    assert [chord.shown for chord in answer.strip.chords[-2:]] == ["Am7", "D7"]


def test_no_change_is_no_edit(workspace: Workspace) -> None:
    solo = a_solo(workspace)
    version = open_bench(workspace, solo).versions
    assert change_basics(workspace, solo, Basics(capo=0)).versions == version


def two_notes(workspace: Workspace, solo: UUID) -> Edit:
    first = edit(workspace, solo, None, note("a", 0))
    return first.model_copy(
        update={"changes": (*first.changes, *edit(workspace, solo, None, note("b", QUARTER)).changes), "label": "two"}
    )


def test_an_undo_over_anothers_change_says_what_and_takes_back_the_rest(workspace: Workspace) -> None:
    solo, other = a_solo(workspace), another_person(workspace)
    accept(workspace, solo, {}, [two_notes(workspace, solo)])
    accept(other, solo, {}, [edit(other, solo, note("a", 0), note("a", 0, fret=900))])
    with pytest.raises(EditConflict, match="“two” cannot be undone") as caught:
        undo(workspace, solo, {})
    assert caught.value.where["rest"] == "possible" and caught.value.where["id"] == "a"
    undo(workspace, solo, {}, rest=True)
    assert [(n.id, n.fret) for n in stored(workspace, solo).notes] == [("a", 900)]
    redo(workspace, solo, {})
    assert [n.id for n in stored(workspace, solo).notes] == ["a", "b"]


def test_nothing_is_left_to_undo_when_all_of_it_was_changed(workspace: Workspace) -> None:
    solo, other = a_solo(workspace), another_person(workspace)
    accept(workspace, solo, {}, [edit(workspace, solo, None, note("a", 0))])
    accept(other, solo, {}, [edit(other, solo, note("a", 0), note("a", 0, fret=900))])
    with pytest.raises(NothingToUndo, match="nothing of it is left"):
        undo(workspace, solo, {}, rest=True)


def test_two_notes_at_one_place_name_both(workspace: Workspace) -> None:
    solo, other = a_solo(workspace), another_person(workspace)
    accept(other, solo, {}, [edit(other, solo, None, note("theirs", 0, fret=1200))])
    with pytest.raises(PlaceTaken, match="Two notes sound on string 2 at 1:1") as caught:
        accept(workspace, solo, {}, [edit(workspace, solo, None, note("mine", 0))])
    fault = caught.value
    assert (fault.where["id"], fault.where["other"]) == ("mine", "theirs")
    assert isinstance(fault.now, dict) and fault.now["fret"] == 1200
    assert isinstance(fault.before, dict) and fault.before["fret"] == 500


def test_what_was_rolled_back_is_never_read(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """The version that a failed write would have made is made by another; nobody may see the first's content."""
    solo = a_solo(workspace)
    first = edit(workspace, solo, None, note("lost", 0))

    def fail(*_: object, **__: object) -> None:
        raise RuntimeError("the disk is full")

    with monkeypatch.context() as patch:
        patch.setattr("usagi.flows.editing.accepting.stored.set_solo", fail)
        with pytest.raises(RuntimeError):
            accept(workspace, solo, {}, [first])
    accept(workspace, solo, {}, [edit(workspace, solo, None, note("kept", 0))])
    assert (
        [n.id for n in open_bench(workspace, solo).solo.notes]
        == ["kept"]
        == [n.id for n in stored(workspace, solo).notes]
    )
