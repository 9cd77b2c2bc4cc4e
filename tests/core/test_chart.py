"""Chart text: reading, printing, faults; and the chart unrolled."""

from __future__ import annotations

import pytest
from hypothesis import given

from strategies import chart_texts, sequential_ids
from usagi.core.chart.changes import in_meter
from usagi.core.chart.model import KeyFact, MeterFact
from usagi.core.chart.printing import print_chart
from usagi.core.chart.text import ChartUnreadable, read_chart
from usagi.core.chart.timeline import play, unroll
from usagi.core.meter.meters import Meter

QUARTER = 10_080
BAR = 4 * QUARTER


def changes(text: str, bars: int = 16, pickup: int = 0) -> list[tuple[int, str]]:
    read = read_chart(text, new_id=sequential_ids("c"))
    return [(c.tick, c.shown) for c in unroll(read.chart, bars=bars, pickup_ticks=pickup).changes]


def test_chords_share_a_bar_and_dots_are_beats() -> None:
    assert changes("| Dm7 A7 | Dm7 . . A7 | . . G . |") == [
        (0, "Dm7"), (2 * QUARTER, "A7"), (BAR, "Dm7"), (BAR + 3 * QUARTER, "A7"), (2 * BAR + 2 * QUARTER, "G"),
    ]  # fmt: skip


def test_repeats_endings_sections_and_choruses_unroll() -> None:
    text = "A:\n|: C | D |1 E :|2 F |\nB:\n|: G :| 3 times\nA:\n2 choruses"
    read = read_chart(text, new_id=sequential_ids("c"))
    symbols = [bar.written.chords[0].symbol for bar in play(read.chart)]
    assert "".join(symbols) == ("CDECDF" + "GGG" + "CDECDF") * 2


def test_an_exception_changes_one_bar_of_one_pass() -> None:
    text = "A:\n|: C | D :|\n2nd time, bar 2: | E7 F7 |\nchorus 2, 1st time, bar 1: drop\n2 choruses"
    read = read_chart(text, new_id=sequential_ids("c"))
    symbols = ["+".join(chord.symbol for chord in bar.written.chords) for bar in play(read.chart)]
    assert symbols == ["C", "D", "C", "E7+F7", "D", "C", "E7+F7"]


def test_a_push_comes_early_and_over_the_bar_line() -> None:
    assert changes("| C | <D | C . <<G . |") == [
        (0, "C"),
        (BAR - 5040, "D"),
        (2 * BAR, "C"),
        (2 * BAR + 2 * QUARTER - 2520, "G"),
    ]


def test_facts_hold_from_their_bar_on() -> None:
    read = read_chart("| {3/4} {key E minor} C F G | {6/8} C G | {blues} C . |", new_id=sequential_ids("c"))
    timeline = unroll(read.chart, bars=4)
    assert [str(timeline.facts[n].meter) for n in (1, 2, 3, 4)] == ["3/4", "6/8", "6/8", "6/8"]
    assert [timeline.facts[n].blues for n in (1, 2, 3)] == [False, False, True]
    assert all(str(timeline.facts[n].key) == "E minor" for n in (1, 2, 3, 4))


# Text, and for every fault its bar, line, column and a word of the sentence.
FAULTS = [
    ("| Hm7 |", [(1, 1, 3, "Bm7 or Bbm7")]),
    ("| C | D . E | Fx |", [(2, 1, 7, "3 beats"), (3, 1, 16, "not understood")]),
    ("| C D E |", [(1, 1, 3, "evenly")]),
    ("| % |", [(1, 1, 3, "cannot open")]),
    ("| . C . . |", [(1, 1, 3, "cannot open")]),
    ("| C | | D |", [(2, 1, 7, "empty")]),
    ("| C | | F | Hm |", [(2, 1, 7, "empty"), (4, 1, 13, "H is B")]),
    ("| C | |: F | | G :|", [(3, 1, 14, "empty")]),
    ("| C", [(1, 1, 3, "not closed")]),
    ("C D", [(1, 1, 1, "between |")]),
    ("|: C | D |", [(1, 1, 1, "not closed by :|")]),
    ("| C |\n| D |: E |\n| F |", [(3, 2, 5, "not closed by :|")]),
    ("|: C |\nB:\n| D |", [(1, 1, 1, "not closed by :| before the next section")]),
    ("| C :|", [(1, 1, 5, "nothing to repeat")]),
    ("| {loud} C |", [(1, 1, 3, "not a fact")]),
    ("| {swing 7} C |", [(1, 1, 3, "1 to 3")]),
    ("A:\n", [(1, 1, 1, "no bars")]),
    ("| C |\nB:\n", [(1, 2, 1, "section “B” has no bars")]),
    ("", [(1, 1, 1, "no bars")]),
    ("| <C |", [(1, 1, 3, "pick-up")]),
    ("|: C |1 D :|3 E |", [(2, 1, 11, "in order")]),
]


@pytest.mark.parametrize(("text", "faults"), FAULTS)
def test_every_fault_of_a_text_is_listed_with_its_place(text: str, faults: list[tuple[int, int, int, str]]) -> None:
    with pytest.raises(ChartUnreadable) as refusal:
        read_chart(text, new_id=sequential_ids("c"))
    found = refusal.value.faults
    assert [(f.bar, f.line, f.column) for f in found][: len(faults)] == [fault[:3] for fault in faults]
    assert all(words in f.sentence for f, (*_, words) in zip(found, faults, strict=False))


@given(chart_texts())
def test_a_printed_chart_reads_as_the_same_chart(text: str) -> None:
    first = read_chart(text, new_id=sequential_ids("c"))
    printed = print_chart(first.chart, pickup_pulses=first.pickup_pulses)
    again = read_chart(printed, new_id=sequential_ids("d"), before=first.chart)
    assert again.chart == first.chart


@pytest.mark.parametrize(
    ("written", "same"),
    [
        ("| C | F || G | A ||", "| C | F | G | A |"),
        ("||: C | F :|| G |", "|: C | F :| G |"),
        ("C | F | G |", "| C | F | G |"),
        ("A:\nC |: F | G :|", "A:\n| C |: F | G :|"),
    ],
)
def test_double_bar_lines_and_lines_without_an_opening_one_are_read(written: str, same: str) -> None:
    def played(text: str) -> list[list[str]]:
        chart = read_chart(text, new_id=sequential_ids("c")).chart
        return [[chord.symbol for chord in bar.written.chords] for bar in play(chart)]

    assert played(written) == played(same)


def test_ids_stay_where_the_text_stays() -> None:
    before = read_chart("A:\n| C | D |", new_id=sequential_ids("c")).chart
    after = read_chart("A:\n| C | E7 | F |", new_id=sequential_ids("d"), before=before).chart
    old, new = before.sections[0], after.sections[0]
    assert new.id == old.id
    assert [bar.id for bar in new.bars[:2]] == [bar.id for bar in old.bars]
    assert new.bars[1].chords[0].id == old.bars[1].chords[0].id
    assert new.bars[2].id.startswith("d")


def test_stated_facts_stand_on_the_first_bar_unless_the_text_says_otherwise() -> None:
    facts = (MeterFact(numerator=3, denominator=4), KeyFact(key="E minor"))
    chart = read_chart("| {key G} C F G |", new_id=sequential_ids("c"), first_facts=facts).chart
    assert chart.sections[0].bars[0].facts == (facts[0], KeyFact(key="G major"))


def test_a_new_meter_lays_the_chords_of_its_bars_anew() -> None:
    chart = in_meter(read_chart("| C D | E |", new_id=sequential_ids("c")).chart, Meter(3, 4))
    assert [chord.place for chord in chart.sections[0].bars[0].chords] == [0, 15_120]


def test_bars_beyond_the_recording_are_left_over_and_bars_beyond_the_chart_go_on() -> None:
    read = read_chart("| C | {3/4} D | E |", new_id=sequential_ids("c"))
    assert unroll(read.chart, bars=2).left_over == 1
    assert [bar.ticks for bar in unroll(read.chart, bars=5).bars.bars] == [BAR, *[3 * QUARTER] * 4]
    assert unroll(read.chart, bars=5).chord_at(BAR + 6 * QUARTER) is None
