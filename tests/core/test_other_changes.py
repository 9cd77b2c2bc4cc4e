"""Other changes typed over a span, and what the notes there become."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import ground_on, sequential_ids
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.document.elements import AnticipationChoice, ChangesChoice, Note
from usagi.core.document.other_changes import OtherChangesImpossible, laid_over, read_other_changes
from usagi.core.document.solo import Ground, Solo

QUARTER = 10_080
BAR = 4 * QUARTER


def ground() -> Ground:
    return ground_on("| Am7 | D7 | Gmaj7 | E7 |")


def read(text: str, start: int, end: int) -> ChangesChoice:
    return read_other_changes(text, start, end, ground().timeline, name="late", new_id=sequential_ids("o"))


@pytest.mark.parametrize(
    ("text", "span", "chords"),
    [
        ("D7", (0, BAR), [("D7", 0)]),
        ("| D7 |", (0, 2 * BAR), [("D7", 0)]),
        ("D7 | G7 . Db7 .", (0, 2 * BAR), [("D7", 0), ("G7", BAR), ("Db7", BAR + 2 * QUARTER)]),
        ("% | G7", (0, 2 * BAR), [("G7", BAR)]),
        ("D7 G7", (QUARTER, BAR), [("D7", QUARTER), ("G7", 2 * QUARTER)]),  # what begins before the span begins with it
        ("Bb7 A7", (3 * QUARTER, BAR), [("A7", 3 * QUARTER)]),
        ("N.C.", (BAR, 2 * BAR), [("N.C.", BAR)]),
    ],
)
def test_a_text_is_laid_over_the_bars_that_a_span_touches(
    text: str, span: tuple[int, int], chords: list[tuple[str, int]]
) -> None:
    laid = read(text, *span)
    assert [(chord.symbol, chord.tick) for chord in laid.chords] == chords
    assert (laid.start, laid.end, laid.shown) == (*span, True)


@pytest.mark.parametrize(
    ("text", "span", "says"),
    [
        ("D7 | G7", (0, BAR), "The span touches 1 bar; 2 are written."),
        ("D7 | G7 | C", (QUARTER, BAR + QUARTER), "The span touches 2 bars; 3 are written."),
        ("D7 . G7 .", (0, 2 * QUARTER), "Bar 1: G7 begins where the span has ended."),
        ("D7 | Hm7", (0, 2 * BAR), "Bar 2: Column 1"),
        ("%", (0, BAR), "Write at least one chord."),
        ("", (0, BAR), "Write at least one chord."),
    ],
)
def test_what_does_not_fit_is_refused_with_its_bar(text: str, span: tuple[int, int], says: str) -> None:
    with pytest.raises(OtherChangesImpossible) as refused:
        read(text, *span)
    assert str(refused.value).startswith(says)


def note(tick: int, fret: int) -> Note:
    return Note(id=f"n{tick}", tick=tick, ticks=QUARTER // 2, string=2, fret=fret * 100)


def shown(solo: Solo) -> list[tuple[str, str | None]]:
    return [(line.line, line.degree) for reading in read_notes(solo, ground()) for line in reading.lines if line.shown]


def test_notes_under_other_changes_have_their_degrees_against_them_first_and_keep_the_charts() -> None:
    solo = Solo(notes=(note(0, 1), note(BAR, 1)))  # C over Am7 and over D7
    under = laid_over(solo, read("Ab7", 0, BAR))
    assert shown(solo) == [("chart", "b3"), ("chart", "b7")]
    assert shown(under) == [("late", "3"), ("chart", "b7")]
    assert [line.degree for line in read_notes(under, ground())[0].lines][:2] == ["b3", "3"]


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(1, 4)), min_size=1, max_size=5))
def test_what_is_laid_last_is_the_first_line_and_nothing_else_is_lost(spans: list[tuple[int, int]]) -> None:
    solo = Solo(notes=tuple(note(bar * BAR, 1) for bar in range(4)))
    for i, (first, length) in enumerate(spans):
        end = min(4, first + length) * BAR
        laid = read_other_changes(
            "Ab7", first * BAR, end, ground().timeline, name=f"{i}", new_id=sequential_ids(f"c{9 - i}")
        )
        solo = laid_over(solo, laid)
        assert all(
            line == f"{i}" for n, (line, _) in zip(solo.notes, shown(solo), strict=True) if laid.start <= n.tick < end
        )
    assert len(solo.choices) == len(spans)


def test_an_anticipation_is_overruled_both_ways() -> None:
    late = note(BAR - QUARTER // 2, 3).model_copy(update={"ticks": QUARTER})  # D tied into the bar of D7
    solo = Solo(notes=(late,))
    kept = solo.model_copy(update={"choices": (AnticipationChoice(id="c", note=late.id, heard="here"),)})
    assert (shown(solo), shown(kept)) == ([("chart", "1")], [("chart", "11")])
