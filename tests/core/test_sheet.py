"""The chart as a sheet: bars in rows, and one bar written again where it stands."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from strategies import chart_texts, ground_on, sequential_ids
from usagi.core.chart.model import Chart
from usagi.core.chart.one_bar import (
    BarBeyondChart,
    form_bar,
    opens,
    read_bar,
    times_played,
    with_bar,
    with_next_bar,
)
from usagi.core.chart.printing import chords_text, print_chart
from usagi.core.chart.text import ChartUnreadable, read_chart
from usagi.core.chart.timeline import PlayedBar, play
from usagi.core.document.solo import Ground, GroundSettings
from usagi.core.meter.meters import parse_meter
from usagi.core.view.sheet import SheetBar, view_sheet

FORM = "verse:\n|: Em7 | A7 | Dm7 :|\nbridge:\n| Gmaj7 | C7 |\nverse:"
TWICE = "verse:\n|: Em7 | A7 |1 D7 :|2 G7 |\n2 choruses"


def chart_of(text: str) -> Chart:
    return read_chart(text, new_id=sequential_ids("c")).chart


def texts(chart: Chart) -> list[str]:
    return [chords_text(bar.written, bar.facts.meter) for bar in play(chart)]


def written(chart: Chart, number: int, text: str, *, everywhere: bool = False, prefix: str = "n") -> Chart:
    here = play(chart)[number - 1]
    new_id = sequential_ids(prefix)
    chords = read_bar(text, here.facts.meter, opens=opens(chart, here), new_id=new_id)
    return with_bar(chart, here, chords, everywhere=everywhere, new_id=new_id)


def test_a_bar_is_written_here_only_and_back_as_the_form_has_it() -> None:
    chart = chart_of(TWICE)
    assert texts(chart) == ["Em7", "A7", "D7", "Em7", "A7", "G7"] * 2
    here = written(chart, 5, "A7 C#dim")
    assert texts(here) == ["Em7", "A7", "D7", "Em7", "A7 C#dim", "G7", *texts(chart)[:6]]
    [alone] = here.exceptions
    assert (alone.chorus, alone.time, alone.bar, alone.does) == (1, 2, 2, "replace")
    other = written(here, 5, "Am7", prefix="m")
    assert texts(other)[4] == "Am7" and len(other.exceptions) == 1
    assert written(other, 5, "A7", prefix="k") == chart


def test_a_bar_is_written_every_time_and_the_exception_that_stood_there_goes() -> None:
    chart = chart_of(TWICE)
    here = written(chart, 5, "Am7")
    every = written(here, 5, "C7 B7", everywhere=True, prefix="m")
    assert texts(every) == ["Em7", "C7 B7", "D7", "Em7", "C7 B7", "G7"] * 2
    assert every.exceptions == ()
    elsewhere = written(here, 2, "C7", everywhere=True, prefix="m")
    assert texts(elsewhere)[4] == "Am7" and texts(elsewhere)[1] == texts(elsewhere)[7] == "C7"


def test_here_only_is_one_chorus_where_an_exception_holds_in_all_of_them() -> None:
    chart = chart_of("verse:\n|: Em7 | A7 |1 D7 :|2 G7 |\n2nd time, bar 2: | Am7 |\n2 choruses")
    assert [text for i, text in enumerate(texts(chart)) if i in (4, 10)] == ["Am7", "Am7"]
    here = written(chart, 5, "C7")
    assert [text for i, text in enumerate(texts(here)) if i in (4, 10)] == ["C7", "Am7"]
    as_the_form = written(here, 5, "A7", prefix="m")
    assert [text for i, text in enumerate(texts(as_the_form)) if i in (4, 10)] == ["A7", "Am7"]
    assert texts(chart_of(print_chart(as_the_form))) == texts(as_the_form)


def test_a_bar_that_is_played_once_needs_no_exception() -> None:
    chart = chart_of("| Em7 | A7 |")
    once = written(chart, 2, "Am9")
    assert texts(once) == ["Em7", "Am9"] and once.exceptions == ()
    assert once.sections[0].bars[1].chords[0].id == chart.sections[0].bars[1].chords[0].id


@pytest.mark.parametrize(
    ("text", "meter", "places"),
    [
        ("Em7", "4/4", [("Em7", 0)]),
        ("Em7 A7", "4/4", [("Em7", 0), ("A7", 20_160)]),
        (". . A7 .", "4/4", [("A7", 20_160)]),
        ("Em7 A7 D7", "3/4", [("Em7", 0), ("A7", 10_080), ("D7", 20_160)]),
        ("Em7 A7", "6/8", [("Em7", 0), ("A7", 15_120)]),
        ("  N.C. ", "4/4", [("N.C.", 0)]),
        ("%", "4/4", []),
        ("", "4/4", []),
    ],
)
def test_what_is_typed_into_a_bar(text: str, meter: str, places: list[tuple[str, int]]) -> None:
    chords = read_bar(text, parse_meter(meter), opens=False, new_id=sequential_ids("c"))
    assert [(chord.symbol, chord.place) for chord in chords] == places


@pytest.mark.parametrize(
    ("text", "opening", "words"),
    [
        ("Em7 Qx", False, "Column 5: "),
        ("Em7 | A7", False, "Column 5: write the chords of one bar; bar lines are there already."),
        ("{3/4} Em7", False, "Column 1: write the chords of one bar; what stands in braces goes into the chart text."),
        ("%", True, "Column 1: "),
        ("", True, "Column "),
        (". . A7 .", True, "Column 1: "),
    ],
)
def test_what_cannot_be_typed_into_a_bar_says_where(text: str, opening: bool, words: str) -> None:
    with pytest.raises(ChartUnreadable) as refused:
        read_bar(text, parse_meter("4/4"), opens=opening, new_id=sequential_ids("c"))
    assert refused.value.sentence.startswith(words)


def test_the_chart_goes_on_behind_its_last_bar() -> None:
    new_id = sequential_ids("n")
    chart = Chart()
    for number, text in enumerate(["Em7", "A7 D7"], start=1):
        chords = read_bar(text, parse_meter("4/4"), opens=number == 1, new_id=new_id)
        chart = with_next_bar(chart, number, chords, new_id=new_id)
    assert texts(chart) == ["Em7", "A7 D7"] and len(chart.sections) == 1
    with pytest.raises(BarBeyondChart, match="ends with bar 2: write bar 3 first"):
        with_next_bar(chart, 5, (), new_id=new_id)
    with pytest.raises(BarBeyondChart, match="played more than once"):
        with_next_bar(chart_of(FORM), 1 + len(play(chart_of(FORM))), (), new_id=new_id)


SYMBOLS = ["Em7", "A7 D7", "C9", "Bb/D F7", "N.C."]


@given(text=chart_texts(), data=st.data())
def test_only_the_bars_that_are_meant_change_and_the_text_says_it(text: str, data: st.DataObject) -> None:
    chart = chart_of(text)
    bars = play(chart)
    assume(bars)
    number = data.draw(st.integers(1, len(bars)))
    everywhere = data.draw(st.booleans())
    typed = data.draw(st.sampled_from(SYMBOLS))
    here = bars[number - 1]
    assume(len(typed.split()) <= here.facts.meter.numerator and here.facts.meter.bar_ticks % len(typed.split()) == 0)
    try:
        chords = read_bar(typed, here.facts.meter, opens=opens(chart, here), new_id=sequential_ids("n"))
    except ChartUnreadable:
        assume(False)
    after = with_bar(chart, here, chords, everywhere=everywhere, new_id=sequential_ids("m"))
    before_texts, after_texts = texts(chart), texts(after)
    changed = {i for i, (a, b) in enumerate(zip(before_texts, after_texts, strict=True), start=1) if a != b}
    assert after_texts[number - 1] == chords_text(play(after)[number - 1].written, here.facts.meter)
    assert [c.symbol for c in play(after)[number - 1].written.chords] == [c.symbol for c in chords]
    assert changed <= _meant(chart, bars, here, number, everywhere=everywhere)
    again = read_chart(print_chart(after), new_id=sequential_ids("p")).chart
    assert texts(again) == after_texts


def _meant(chart: Chart, bars: list[PlayedBar], here: PlayedBar, number: int, *, everywhere: bool) -> set[int]:
    """Which bars may change: found from what each bar is in the form, not from what was done."""
    if not everywhere and times_played(chart, here) > 1:
        return {number}
    same = {i for i, bar in enumerate(bars, start=1) if form_bar(chart, bar).id == form_bar(chart, here).id}
    return same | {number}


def rows(text: str, bars: int) -> list[tuple[str, list[str]]]:
    sheet = view_sheet(ground_on(text, bars=bars))
    return [
        (row.section, [" ".join(chord.shown for chord in bar.chords) or "%" for bar in row.bars]) for row in sheet.rows
    ]


def test_a_pass_of_a_section_begins_a_row_and_rows_have_four_bars() -> None:
    assert rows("verse:\n|: Em7 | A7 | D7 | G7 | C7 :|\nout:\n| F7 | . . E7 . |", 13) == [
        ("verse · 1 of 2", ["Em7", "A7", "D7", "G7"]),
        ("", ["C7"]),
        ("verse · 2 of 2", ["Em7", "A7", "D7", "G7"]),
        ("", ["C7"]),
        ("out", ["F7", "E7"]),
        ("not written yet", ["%"]),
    ]


def bar_of(text: str, number: int, bars: int = 12) -> SheetBar:
    return next(bar for row in view_sheet(ground_on(text, bars=bars)).rows for bar in row.bars if bar.bar == number)


def test_a_bar_says_its_text_its_place_and_where_it_goes_otherwise() -> None:
    text = f"{TWICE[:-10]}\nchorus 2, 1st time, bar 2: | Am7 |\n2 choruses"
    one = bar_of("| {4/4} {key E minor} Em7 A7 |", 1)
    assert (one.text, one.facts, [chord.at for chord in one.chords]) == ("Em7 A7", "4/4, E minor", [0.0, 0.5])
    other = bar_of(text, 8)
    assert (other.text, other.times) == ("Am7", 4)
    assert other.note == "chorus 2 only; the form has A7"
    assert [bar_of(text, n).ending for n in (2, 3, 6)] == [0, 1, 2]
    assert bar_of(text, 2).note == ""
    anchors = ground_on("| Em7 |").anchors
    empty = view_sheet(Ground(settings=GroundSettings(bars=3), anchors=anchors))
    assert [(row.section, [bar.text for bar in row.bars]) for row in empty.rows] == [("not written yet", ["", "", ""])]
