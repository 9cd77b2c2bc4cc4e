"""Meters, places, counting, the grid and feel."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from usagi.core.meter.bars import lay_bars
from usagi.core.meter.counting import School, parts_of, slot_of, slot_words
from usagi.core.meter.feel import Feel, FeelImpossible, FeelKind, SwingUnit, expected_ticks
from usagi.core.meter.grid import Grid, GridImpossible, grid_at_tempo
from usagi.core.meter.meters import COMMON_TIME, Meter, MeterImpossible, parse_meter

QUARTER = 10_080


@pytest.mark.parametrize(
    ("text", "pulses", "unit"),
    [
        ("4/4", 4, "quarter"),
        ("3/8", 3, "eighth"),
        ("6/8", 2, "dotted quarter"),
        ("12/8", 4, "dotted quarter"),
        ("7/8", 7, "eighth"),
        ("7/8 2+2+3", 3, "quarter"),
        ("2/2", 2, "half"),
    ],
)
def test_a_meter_taps_its_pulses(text: str, pulses: int, unit: str) -> None:
    meter = parse_meter(text)
    assert (len(meter.pulses), meter.tempo_unit, sum(meter.pulses)) == (pulses, unit, meter.bar_ticks)


@pytest.mark.parametrize("text", ["4/5", "0/4", "7/8 2+2", "four", "33/4"])
def test_a_meter_that_cannot_be_counted_is_refused(text: str) -> None:
    with pytest.raises(MeterImpossible):
        parse_meter(text)


def test_places_number_bars_and_beats_from_one_and_count_a_pickup_from_its_end() -> None:
    bars = lay_bars([COMMON_TIME, Meter(6, 8), COMMON_TIME], pickup_ticks=QUARTER)
    ticks = [-QUARTER, 0, 15_120, 40_320, 40_320 + 15_120, 40_320 + 20_160, 70_560, 110_880]
    assert lay_bars([COMMON_TIME]).place(-1) == "0:4+10079/10080" and bars.place(-4 * QUARTER - 5_040) == "-1:4+1/2"
    assert [bars.place(tick) for tick in ticks] == ["0:4", "1:1", "1:2+1/2", "2:1", "2:2", "2:2+1/3", "3:1", "4:1"]


@pytest.mark.parametrize(
    ("onsets", "parts"),
    [([0], 2), ([0, 5040], 2), ([0, 3360, 6720], 3), ([0, 2520], 4), ([0, 1680], 6), ([0, 2016], 5), ([0, 1440], 7),
     ([0, 1260], 8), ([0, 7560], 4)],
)  # fmt: skip
def test_the_grid_of_a_pulse_is_found_from_its_onsets(onsets: list[int], parts: int) -> None:
    assert parts_of(onsets, QUARTER, compound=False) == parts


def test_counting_words_of_both_schools() -> None:
    assert slot_words(3, 3, compound=False, groups=False) == ["3", "trip", "let"]
    assert slot_words(3, 3, compound=False, groups=False, school=School.B) == ["3", "&", "a"]
    assert slot_words(1, 6, compound=False, groups=False) == ["1", "&", "trip", "&", "let", "&"]
    assert slot_words(1, 5, compound=False, groups=False) == ["1", "2", "3", "4", "5"]
    assert slot_words(2, 3, compound=True, groups=False) == ["4", "5", "6"]
    assert slot_words(2, 6, compound=True, groups=False, school=School.B) == ["2", "ta", "la", "ta", "li", "ta"]


def test_a_note_off_the_grid_takes_the_nearest_slot_the_earlier_on_a_tie() -> None:
    assert slot_of(2520, QUARTER, 2) == (0, False)
    assert slot_of(2521, QUARTER, 2) == (1, False)
    assert slot_of(9000, QUARTER, 2) == (2, False)


@given(
    st.lists(st.tuples(st.integers(1, 50_000), st.floats(0.01, 20)), min_size=2, max_size=12),
    st.integers(-(10**6), 10**7),
)
def test_tick_to_second_and_back(steps: list[tuple[int, float]], tick: int) -> None:
    ticks, seconds = [0], [1.0]
    for wide, long in steps:
        ticks.append(ticks[-1] + wide)
        seconds.append(seconds[-1] + long)
    grid = Grid(tuple(ticks), tuple(seconds))
    assert grid.tick(grid.second(tick)) == pytest.approx(tick, abs=1e-3 + abs(tick) * 1e-9)


def test_anchors_that_do_not_rise_are_refused() -> None:
    with pytest.raises(GridImpossible, match=r"0\.90 s does not come after the one at 1\.00 s"):
        Grid((0, QUARTER), (1.0, 0.9))
    with pytest.raises(GridImpossible, match="out of reach"):
        grid_at_tempo(0.0, 900)


def test_a_stated_tempo_is_read_off_the_grid() -> None:
    assert grid_at_tempo(1.5, 104).tempo_bpm(0, QUARTER) == pytest.approx(104, abs=1e-4)


@pytest.mark.parametrize(
    ("unit", "onsets", "tick", "expected"),
    [
        (SwingUnit.EIGHTH, [0, 5040], 5040, 6720.0),
        (SwingUnit.EIGHTH, [0, 2520, 5040, 7560], 2520, 3360.0),
        (SwingUnit.EIGHTH, [0, 3360, 6720], 3360, 3360.0),  # a triplet does not move
        (SwingUnit.EIGHTH, [], 5040, 6720.0),
        (SwingUnit.SIXTEENTH, [0, 2520], 2520, 3360.0),
        (SwingUnit.SIXTEENTH, [0, 5040], 5040, 5040.0),
    ],
)
def test_swing_moves_the_off_beats_of_straight_grids(
    unit: SwingUnit, onsets: list[int], tick: int, expected: float
) -> None:
    feel = Feel(FeelKind.SWING, unit, 2.0)
    assert expected_ticks([tick], onsets, lay_bars([COMMON_TIME]), {1: feel}) == [pytest.approx(expected)]


def test_compound_meters_do_not_swing() -> None:
    assert expected_ticks([5040], [0, 5040], lay_bars([Meter(6, 8)]), {1: Feel(FeelKind.SWING)}) == [5040.0]


def test_a_ratio_out_of_reach_is_refused() -> None:
    with pytest.raises(FeelImpossible, match="from 1"):
        Feel(FeelKind.SWING, ratio=4.0)
