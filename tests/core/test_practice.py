"""What is learnt and how hard it is: difficulty, the plan, remarks, second ways, the stair."""

from __future__ import annotations

import json
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import documents, ground_on
from usagi.core.document.edits import Change, Kind, apply, put_together, take_apart, to_json
from usagi.core.document.elements import Note, Phrase
from usagi.core.document.following import what_follows
from usagi.core.document.pitches import main_stage, stages, written_pitch
from usagi.core.document.rules import RuleBroken, check_solo
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.teaching import Group, Joined, OnBar, OnePhrase, OnNote, OnPhrase, PlanEntry, Remark, Whole
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE
from usagi.core.playing.ladder import Ladder, Stand, passed
from usagi.core.practice import cautions
from usagi.core.practice.difficulty import Part, combined, difficulty, level_of
from usagi.core.practice.plan import PlanImpossible, changed, key_of, letter, moved, plan, span_of, taken_out
from usagi.core.practice.remarks import about, place
from usagi.core.practice.second_ways import second_ways
from usagi.core.view.plan import view_plan

CHART = "| {key C major} C7 |\n30 choruses"
CASES = Path(__file__).parents[2] / "web/src/features/practice/stand_cases.gen.json"


def note(i: int, tick: int, string: int = 2, fret: int = 5, ticks: int = EIGHTH, **fields: Any) -> Note:
    return Note.model_validate(
        {"id": f"n{i}", "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


def ids() -> Callable[[], str]:
    numbers = count()
    return lambda: f"new-{next(numbers)}"


@pytest.fixture
def taught() -> tuple[Solo, Ground]:
    """Four bars of eighths in three phrases; the second ends a beat into bar 3."""
    notes = [note(i, i * EIGHTH, fret=5 + i % 4) for i in range(32)]
    ends = (0, WHOLE, 2 * WHOLE + QUARTER, 4 * WHOLE)
    phrases = [
        Phrase(id=f"p{i}", start=ends[i], end=ends[i + 1], name=name) for i, name in enumerate(("up", "over", ""))
    ]
    return Solo(notes=tuple(notes), phrases=tuple(phrases)), ground_on(CHART, bars=30)


# -- difficulty ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("parts", "value", "level"),
    [
        ([0, 0, 0, 0], 0.0, 1),
        ([1, 0, 0, 0], 0.6 + 0.4 / 3, 4),
        ([0.5, 0.5, 0.5, 0.0], 0.5, 3),
        ([1, 1, 1, 1], 1.0, 5),
        ([0.2, 0.1, 0.1, 0.05], 0.12 + 0.4 * 0.4 / 3, 1),
    ],
)
def test_the_largest_part_decides_most(parts: list[float], value: float, level: int) -> None:
    assert combined(parts) == pytest.approx(value) and level_of(value) == level


@given(document=documents(), speeds=st.tuples(st.integers(250, 1_250), st.integers(250, 1_250)))
def test_faster_is_never_easier(document: SoloDocument, speeds: tuple[int, int]) -> None:
    slow, fast = sorted(speeds)
    one = difficulty(document.solo.notes, document.solo, document.ground, slow)
    other = difficulty(document.solo.notes, document.solo, document.ground, fast)
    assert other.value >= one.value - 1e-9
    assert all(0 <= part <= 1 for part in one.parts.values()) and len(one.reasons) <= 2


@given(document=documents(), which=st.integers(0, 1_000), quarters=st.sampled_from([1, 2, 4, 6, 8]))
def test_an_added_bend_never_makes_it_easier(document: SoloDocument, which: int, quarters: int) -> None:
    solo = document.solo
    plain = [i for i, one in enumerate(solo.notes) if one.fret and not one.course and not one.dead]
    if not plain:
        return
    at = plain[which % len(plain)]
    bent = solo.notes[at].model_copy(update={"course": ((0, 0), (solo.notes[at].ticks // 2, quarters))})
    after = (*solo.notes[:at], bent, *solo.notes[at + 1 :])
    before = difficulty(solo.notes, solo, document.ground, 1_000).value
    assert difficulty(after, solo, document.ground, 1_000).value >= before - 1e-9


def test_the_reasons_are_the_two_largest_in_a_players_words() -> None:
    ground = ground_on(CHART, bars=30)
    notes = [
        note(0, 0, 1, 15, QUARTER, course=((0, 0), (EIGHTH, 4))),
        note(1, QUARTER, 1, 12),
        note(2, 3 * EIGHTH, 2, 13),
    ]
    found = difficulty(notes, Solo(notes=tuple(notes)), ground, 1_000)
    assert found.reasons[0] == "a bend of a whole step at fret 15, string 1"
    assert "in bar 1" in found.reasons[1] and found.parts[Part.LENGTH] == 0
    many = [note(i, i * EIGHTH // 4) for i in range(32)]
    assert difficulty(many, Solo(notes=tuple(many)), ground, 1_000).reasons == (
        "16 notes a second in bar 1",
        "32 notes",
    )
    assert difficulty([], Solo(), ground, 1_000).level == 1 and difficulty([], Solo(), ground, 1_000).reasons == ()


# -- the plan -----------------------------------------------------------------------------------------------------------


def names(solo: Solo, ground: Ground) -> list[str]:
    return [line.name for line in plan(solo, ground)]


def test_the_whole_then_each_phrase_then_joined_with_the_next(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    whole = ["the whole solo", "a · up", "a and b joined", "b · over", "b and c joined", "phrase c"]
    assert names(solo, ground) == whole
    assert plan(Solo(), ground) == []
    # From the bar line in the last bar of one, or the one before where little is left, to the end of the bar of the next.
    assert span_of(Joined(phrase="p0"), solo, ground) == (0, 2 * WHOLE)
    assert span_of(Joined(phrase="p1"), solo, ground) == (WHOLE, 3 * WHOLE)
    assert [letter(i) for i in (0, 25, 26, 52)] == ["a", "z", "aa", "ba"]


def test_a_line_goes_by_the_plan_until_it_is_changed(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    new_id = ids()
    what = OnePhrase(phrase="p1")
    slow = changed(solo, what, new_id, start=400, goal=900, step=50, passes=2, level=5, name="the hard one")
    line = plan(slow, ground)[3]
    assert (line.name, line.level, line.difficulty.level) == ("the hard one", 5, plan(solo, ground)[3].level)
    assert line.ladder == Ladder((400, 450, 500, 550, 600, 650, 700, 750, 800, 850, 900), 2)
    back = changed(slow, what, new_id, start=None, goal=None, step=None, passes=None, level=None, name="")
    assert back.plan == () and plan(back, ground) == plan(solo, ground)
    with pytest.raises(PlanImpossible, match="starts at its goal"):
        changed(solo, what, new_id, start=900, goal=500)
    with pytest.raises(PlanImpossible, match="no such line"):
        changed(solo, OnePhrase(phrase="gone"), new_id, level=1)


def test_a_group_stands_before_its_phrase_and_goes_for_good(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    new_id = ids()
    group = Group(start=WHOLE + EIGHTH, end=WHOLE + 4 * EIGHTH)
    with_group = changed(solo, group, new_id)
    assert names(with_group, ground)[3:5] == ["3 notes from 2:1+1/2", "b · over"]
    assert taken_out(with_group, group, new_id).plan == ()
    left = taken_out(solo, OnePhrase(phrase="p0"), new_id)
    assert [line.name for line in plan(left, ground) if line.left_out] == ["a · up"]


@given(moves=st.lists(st.tuples(st.integers(0, 5), st.integers(-3, 3)), max_size=8))
def test_lines_lie_where_they_were_moved_to(moves: list[tuple[int, int]]) -> None:
    notes = [note(i, i * EIGHTH) for i in range(24)]
    phrases = [Phrase(id=f"p{i}", start=i * WHOLE, end=(i + 1) * WHOLE) for i in range(3)]
    solo = Solo(notes=tuple(notes), phrases=tuple(phrases))
    ground = ground_on(CHART, bars=30)
    new_id = ids()
    by_hand = [line.key for line in plan(solo, ground)]
    for at, by in moves:
        what = plan(solo, ground)[at].what
        key = by_hand.pop(at)
        by_hand.insert(min(5, max(0, at + by)), key)
        solo = moved(solo, what, by, new_id)
        assert [line.key for line in plan(solo, ground)] == by_hand
    check_solo(solo, ground, ())


def test_a_plan_outlives_a_phrase_that_others_stand_behind(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    solo = moved(solo, Whole(), 2, ids())
    without = solo.model_copy(update={"phrases": solo.phrases[1:]})
    assert [line.name for line in plan(without, ground)] == ["a · over", "a and b joined", "phrase b", "the whole solo"]


def test_the_plan_is_told_in_words(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    view = view_plan(changed(solo, OnePhrase(phrase="p0"), ids(), goal=800, passes=1), ground)
    first, second = view.lines[0], view.lines[1]
    assert first.where == "bars 1–4" and view.goal == "120 a minute, the recorded tempo"
    assert second.stair == "50 to 80 % by 10, 1 clean pass a step" and second.where == "bar 1"
    assert [(step.percent, step.bpm) for step in second.steps] == [
        ("50", "60"),
        ("60", "72"),
        ("70", "84"),
        ("80", "96"),
    ]
    assert first.says.startswith(("easy: ", "fairly easy: ", "medium: ", "hard: ", "very hard: "))


# -- remarks ------------------------------------------------------------------------------------------------------------


def remarked(solo: Solo) -> Solo:
    remarks = (
        Remark(id="r1", on=OnNote(note="n9"), words="Third finger."),
        Remark(id="r2", on=OnPhrase(phrase="p0"), words="Lay back."),
        Remark(id="r3", on=OnBar(bar=4), words="Count the rest."),
    )
    return solo.model_copy(update={"remarks": remarks})


def test_remarks_belong_to_notes_phrases_and_bars(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    solo = remarked(solo)
    check_solo(solo, ground, ())
    assert [place(one, solo, ground) for one in solo.remarks] == ["the note at 2:1+1/2", "phrase a", "bar 4"]
    assert [one.id for one in about(solo, ground, 0, WHOLE)] == ["r2"]
    assert [one.id for one in about(solo, ground, 0, 4 * WHOLE)] == ["r2", "r1", "r3"]
    with pytest.raises(RuleBroken, match="no longer there"):
        check_solo(solo.model_copy(update={"phrases": ()}), ground, ())
    twice = (PlanEntry(id="x", what=Whole()), PlanEntry(id="y", what=Whole()))
    with pytest.raises(RuleBroken, match="already"):
        check_solo(solo.model_copy(update={"plan": twice}), ground, ())


def test_a_remark_outlives_its_note_and_a_line_goes_with_its_phrase(taught: tuple[Solo, Ground]) -> None:
    solo, ground = taught
    solo = remarked(changed(solo, OnePhrase(phrase="p0"), ids(), level=2))
    before = take_apart(solo)
    gone = [
        Change(kind=Kind.NOTE, id="n9", before=to_json(solo.notes[9])),
        Change(kind=Kind.PHRASE, id="p0", before=to_json(solo.phrases[0])),
    ]
    after = apply(before, gone)
    found = what_follows(before, after, gone, ground, lambda _: "x")
    whole = put_together(apply(after, found.changes))
    assert isinstance(whole, Solo)
    assert {one.id: one.on for one in whole.remarks} == {"r1": OnBar(bar=2), "r2": OnBar(bar=1), "r3": OnBar(bar=4)}
    assert whole.plan == () and any("belongs to bar 2 now" in said for said in found.messages)
    check_solo(whole, ground, ())
    exactly = what_follows(before, after, gone, ground, lambda _: "x", exact=True)
    assert {one.id for one in exactly.changes} >= {"r1", "r2"}  # an undo names nothing that is gone


# -- second ways --------------------------------------------------------------------------------------------------------


def test_a_second_way_slides_where_the_first_bends_and_lies_elsewhere() -> None:
    ground = ground_on(CHART, bars=4)
    notes = (note(0, 0, 2, 10, QUARTER, course=((0, 0), (EIGHTH, 4))), note(1, QUARTER, 1, 8), note(2, 3 * EIGHTH))
    ways = second_ways(Solo(notes=notes), ground, 0, WHOLE, ids())
    slid = next(way for way in ways if way.words == "slide instead of the bend")
    assert [(one.string, one.fret, one.attack.kind) for one in slid.notes[:2]] == [
        (2, 1_000, "picked"),
        (2, 1_200, "slide"),
    ]
    elsewhere = [way for way in ways if way.words.startswith("around the ")]
    assert elsewhere
    settings = SoloSettings()
    for way in elsewhere:
        assert [written_pitch(one, settings) for one in way.notes] == [written_pitch(one, settings) for one in notes]
    assert not {one.id for way in ways for one in way.notes} & {one.id for one in notes}
    assert second_ways(Solo(notes=notes), ground, 2 * WHOLE, 3 * WHOLE, ids()) == []


@given(document=documents())
def test_second_ways_are_kept_with_a_remark(document: SoloDocument) -> None:
    solo, ground = document.solo, document.ground
    if not solo.notes:
        return
    for way in second_ways(solo, ground, solo.notes[0].tick, solo.notes[-1].end, ids()):
        Remark(id="r", on=OnBar(bar=1), words="x", second=way.notes)
        for one in way.notes:
            if (stage := main_stage(stages(one, solo.settings))) is not None:
                assert 0 < stage.midi < 128


# -- the stair ----------------------------------------------------------------------------------------------------------


def stand_cases() -> list[dict[str, Any]]:
    """Every way in which a pass can end on short stairs."""
    cases = []
    for steps, passes in ((1, 1), (3, 1), (3, 2), (4, 3)):
        ladder = Ladder(tuple(range(500, 500 + 100 * steps, 100)), passes)
        for step in range(steps):
            for clean in range(passes + 1):
                for missed in (0, 1):
                    for played in (True, False):
                        after = passed(Stand(step, clean, missed), ladder, clean=played)
                        cases.append(
                            {"before": [step, clean, missed], "steps": steps, "passes": passes, "clean": played,
                             "after": [after.step, after.clean, after.missed]}
                        )  # fmt: skip
    return cases


def test_the_page_climbs_as_the_core_does(request: pytest.FixtureRequest) -> None:
    text = json.dumps(stand_cases()) + "\n"
    if request.config.getoption("--rewrite-golden"):
        CASES.write_text(text)
    assert CASES.read_text() == text, "run pytest with --rewrite-golden"


def test_up_after_clean_passes_and_down_after_two_misses_running() -> None:
    ladder, stand = Ladder((500, 600, 700), 2), Stand()
    for clean, step in ((True, 0), (True, 1), (False, 1), (True, 1), (False, 1), (False, 0), (False, 0), (False, 0)):
        stand = passed(stand, ladder, clean=clean)
        assert stand.step == step
    top = Stand(2)
    for _ in range(5):
        top = passed(top, ladder, clean=True)
    assert top == Stand(2, 2)


def test_strings_that_are_tuned_up_are_warned_of() -> None:
    assert cautions.of_strings(SoloSettings()) == ()
    raised = SoloSettings(tuning=parse_tuning("open E").midi)
    assert "hit an eye" in cautions.of_strings(raised)[0]
    assert cautions.of_strings(raised.model_copy(update={"strung_for": raised.tuning})) == ()
    assert cautions.of_strings(SoloSettings(tuning=parse_tuning("half step down").midi)) == ()


def test_lines_are_known_by_their_keys() -> None:
    assert [key_of(one) for one in (Whole(), Joined(phrase="p"), Group(start=-3, end=4))] == [
        "whole", "joined:p", "group:-3-4",
    ]  # fmt: skip
