"""Sections cut over played bars sound as before; their order is a line of counts."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from usagi.core.chart.changes import with_blues, with_facts
from usagi.core.chart.model import Chart, KeyFact
from usagi.core.chart.printing import print_chart
from usagi.core.chart.sections import SectionsUnreadable, cut, place_in_form, print_order, read_times, with_order
from usagi.core.chart.text import read_chart
from usagi.core.chart.timeline import play, unroll

BLUES = "|: A7 | D7 | A7 | E7 :|\n2nd time, bar 4: | A7 |\n2 choruses"


def fresh() -> object:
    numbers = itertools.count()
    return lambda: f"n{next(numbers)}"


def chart(text: str) -> Chart:
    return read_chart(text, new_id=fresh()).chart  # type: ignore[arg-type]


def sounding(of: Chart, bars: int) -> list[tuple[int, str]]:
    return [(change.tick, change.chord.symbol) for change in unroll(of, bars=bars).changes]


def test_the_same_section_again_is_one_and_a_bar_that_differs_is_an_exception() -> None:
    found = cut(chart(BLUES), [(1, "verse"), (5, "verse"), (9, "verse"), (13, "end")], 16, fresh())  # type: ignore[arg-type]
    assert print_order(found) == "verse 3, end 1"
    assert [(e.place, e.time, e.bar) for e in found.exceptions] == [(0, 2, 4)]
    assert sounding(found, 16) == sounding(chart(BLUES), 16)


def test_bars_without_a_chord_yet_are_written_as_none() -> None:
    found = cut(Chart(), [(3, "head")], 4, fresh())  # type: ignore[arg-type]
    assert [(s.name, len(s.bars)) for s in found.sections] == [("", 2), ("head", 2)]
    assert {c.symbol for bar in play(found) for c in bar.written.chords} == {"N.C."}


@given(
    text=st.sampled_from(
        [
            BLUES,
            "| {key G major} G | . . C D7 | {3/4} G | % |\n",
            "intro:\n| Am7 |\ntune:\n|: Dm7 G7 |1 Cmaj7 :|2 C6 |\n",
        ]
    ),
    starts=st.lists(st.tuples(st.integers(1, 16), st.sampled_from(["a", "b", "c d"])), min_size=1, max_size=6),
)
@example(BLUES, [(3, "b"), (4, "a"), (13, "b"), (15, "b"), (16, "b")])  # b comes again, twice running
def test_whatever_is_cut_sounds_as_before_and_reads_back_from_its_text(
    text: str, starts: list[tuple[int, str]]
) -> None:
    before = chart(text)
    bars = len(play(before))
    order = sorted({number: name for number, name in starts if number <= bars}.items()) or [(1, "a")]
    after = cut(before, order, bars, fresh())  # type: ignore[arg-type]
    own, old = unroll(after, bars=bars), unroll(before, bars=bars)
    assert [own.chord_at(b.tick).chord.symbol for b in own.bars.bars] == [  # type: ignore[union-attr]
        old.chord_at(b.tick).chord.symbol
        for b in old.bars.bars  # type: ignore[union-attr]
    ]
    assert dict(sounding(before, bars)).items() <= dict(sounding(after, bars)).items()
    assert own.facts == old.facts
    again = chart(print_chart(after))
    assert sounding(again, bars) == sounding(after, bars)


def test_an_empty_list_names_nothing() -> None:
    assert read_times("  \n") == []


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("chorus", "Line 1, “chorus”, does not begin with a time"),
        ("0:05 head\n1:07", "Line 2 needs a name"),
        ("0:99 x", "Line 1: 0:99 is no time"),
        ("0:05 a\n0:05 b", "Line 2: “a” begins at 0:05 already"),
    ],
)
def test_a_list_that_cannot_be_read_names_its_line(text: str, words: str) -> None:
    with pytest.raises(SectionsUnreadable, match=words):
        read_times(text)


def test_an_order_is_a_line_of_names_and_counts_or_counts_alone() -> None:
    song = chart("riff:\n| A5 |\nverse:\n| D5 | E5 |\n")
    assert print_order(with_order(song, "riff 2, verse, riff x4")) == "riff 2, verse 1, riff 4"
    assert print_order(with_order(song, "2-4")) == "riff 2, verse 4"
    with pytest.raises(SectionsUnreadable, match="There is no section “bridge” here; there are: riff, verse"):
        with_order(song, "bridge 2")
    with pytest.raises(SectionsUnreadable, match="The form has 2 parts, and 3 numbers are written: riff 1, verse 1"):
        with_order(song, "2-2-4")


def test_a_bar_says_where_in_the_form_it_is() -> None:
    song = chart("verse:\n|: A7 | D7 | E7 :| 3 times\n2 choruses")
    played = unroll(song, bars=18).played
    assert place_in_form(song, played[8]) == (
        "bar 2 of 3 in “verse”, time 3 of 3, chorus 1 of 2, 1 more till it comes round"
    )
    assert place_in_form(song, played[18]).endswith("comes round after it")
    assert place_in_form(song, None) == ""
    twice = chart(BLUES)
    last = unroll(twice, bars=16).played
    assert "otherwise than the form" in place_in_form(twice, last[8])
    assert "otherwise" not in place_in_form(twice, last[4])


MIXED = "head:\n| {key E minor} Em7 | A7 |\nbreak:\n| D7 | G7 |\nend:\n| Em7 |"


def held(of: Chart) -> list[tuple[str, bool]]:
    return [(str(bar.facts.key), bar.facts.blues) for bar in play(of)]


def test_a_key_holds_from_its_bar_on_until_another_is_stated() -> None:
    first = chart(MIXED)
    changed = with_facts(first, play(first)[2].written.id, (KeyFact(key="G major"),))
    assert [key for key, _ in held(changed)] == ["E minor", "E minor", "G major", "G major", "G major"]
    again = with_facts(changed, play(first)[2].written.id, (KeyFact(key="A minor"),))
    assert [key for key, _ in held(again)][2:] == ["A minor"] * 3
    assert held(chart(print_chart(again))) == held(again)


@pytest.mark.parametrize("section", [0, 1, 2])
@pytest.mark.parametrize("on", [True, False])
@pytest.mark.parametrize(
    "marked", [MIXED, MIXED.replace("| A7", "| {blues} A7"), MIXED.replace("| D7", "| {blues} D7")]
)
def test_blues_is_marked_on_one_section_and_no_other_changes(marked: str, section: int, on: bool) -> None:
    before = chart(marked)
    name = ["head", "break", "end"][section]
    after = with_blues(before, before.form[section].section, on=on)
    for was, now in zip(play(before), play(after), strict=True):
        assert now.facts.blues == (on if was.section == name else was.facts.blues)
        assert now.facts.key == was.facts.key
