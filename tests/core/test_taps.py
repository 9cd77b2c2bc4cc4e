"""A grid fitted through taps; the truth is a tempo curve made here, tapped with a seeded, uneven finger."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from usagi.core.meter.bars import Bars, lay_bars
from usagi.core.meter.grid import Grid, GridImpossible
from usagi.core.meter.meters import Meter
from usagi.core.meter.moved import with_bar_at
from usagi.core.meter.taps import TapsUnreadable, fit_taps
from usagi.core.meter.ticks import QUARTER


def beats(count: int, bpm: float, drift: float, start: float = 1.3) -> NDArray[np.float64]:
    """Seconds of beats whose tempo goes up and comes down again by a share over the whole."""
    where = np.arange(count) / count
    pace = 60 / bpm / (1 + drift * np.sin(np.pi * where))
    return start + np.concatenate([[0], np.cumsum(pace)[:-1]])


def four_four(bars: int) -> Bars:
    return lay_bars([Meter(4, 4)] * bars)


@pytest.mark.parametrize("seed", range(2_000, 2_012))
def test_a_drifting_piece_of_three_minutes_is_within_twenty_ms_at_every_bar(seed: int) -> None:
    rng = np.random.default_rng(seed)
    true = beats(320, 106, 0.06)
    taps = true + rng.normal(0, 0.015, len(true))
    taps[int(rng.integers(20, 300))] += 0.22  # one bad tap
    if seed % 3 == 1:
        taps = np.delete(taps, int(rng.integers(20, 300)))  # one left out
    if seed % 3 == 2:
        taps = np.sort(np.append(taps, taps[int(rng.integers(20, 300))] + 0.11))  # one too many
    fit = fit_taps(np.sort(taps).tolist(), 0, four_four(80))
    grid = Grid(tuple(t for t, _ in fit.anchors), tuple(s for _, s in fit.anchors))
    off = [grid.second(bar * 4 * QUARTER) - true[4 * bar] for bar in range(80)]
    assert np.abs(off).max() < 0.020
    assert 5 < fit.even_ms < 15
    assert len(fit.left_out) >= 1


def test_a_steady_foot_needs_two_anchors_and_says_its_tempo() -> None:
    fit = fit_taps(beats(64, 120, 0).tolist(), 0, four_four(16))
    assert [t for t, _ in fit.anchors] == [0, 63 * QUARTER]
    assert fit.sentence == "Even to 0 ms; 120 a minute."
    assert fit.anchors[0][1] == pytest.approx(1.3)


def test_taps_may_begin_on_any_beat_and_follow_the_pulse_of_the_meter() -> None:
    compound = lay_bars([Meter(12, 8)] * 8)
    fit = fit_taps(beats(8, 60, 0).tolist(), QUARTER * 3, compound)  # from the third dotted quarter
    assert fit.anchors[0][0] == 3 * QUARTER
    assert fit.anchors[-1][0] == 3 * QUARTER + 7 * 3 * QUARTER // 2


@pytest.mark.parametrize("taps", [[], [1.0, 2.0, 3.0], [1.0, 2.0, 2.0, 3.0], [4.0, 3.0, 2.0, 1.0]])
def test_what_is_no_tapping_is_refused(taps: list[float]) -> None:
    with pytest.raises(TapsUnreadable):
        fit_taps(taps, 0, four_four(4))


@given(st.lists(st.floats(0.21, 1.1), min_size=4, max_size=40), st.integers(0, 15))
def test_any_taps_make_a_rising_grid_or_a_sentence(steps: list[float], beat: int) -> None:
    try:
        fit = fit_taps(np.cumsum(steps).tolist(), beat * QUARTER, four_four(8))
    except TapsUnreadable as fault:
        assert fault.sentence.endswith(".")
        return
    Grid(tuple(t for t, _ in fit.anchors), tuple(s for _, s in fit.anchors))


ANCHORS = [("a", 0, 1.0), ("b", 60 * QUARTER, 31.0)]


def test_a_bar_put_elsewhere_moves_what_follows_and_keeps_its_tempo() -> None:
    bar_9 = 32 * QUARTER
    moved = with_bar_at(ANCHORS, bar_9, 17.2, lambda: "new")
    assert moved == [("a", 0, 1.0), ("new", bar_9, 17.2), ("b", 60 * QUARTER, 31.2)]
    again = with_bar_at(moved, bar_9, 17.0, lambda: "other")
    assert again == [("a", 0, 1.0), ("new", bar_9, 17.0), ("b", 60 * QUARTER, 31.0)]


def test_the_first_bar_moves_everything_and_a_last_one_goes_on() -> None:
    assert with_bar_at(ANCHORS, 0, 1.5, lambda: "new") == [("a", 0, 1.5), ("b", 60 * QUARTER, 31.5)]
    late = with_bar_at(ANCHORS, 64 * QUARTER, 33.4, lambda: "new")
    assert late[2] == ("new", 64 * QUARTER, 33.4)
    assert late[3][1:] == (68 * QUARTER, pytest.approx(35.4))
    with pytest.raises(GridImpossible, match="cannot start at"):
        with_bar_at(ANCHORS, 64 * QUARTER, 30.0, lambda: "new")


@given(st.integers(1, 200), st.floats(0.05, 2))
def test_moved_anchors_always_rise(beat: int, later: float) -> None:
    grid = Grid((0, 60 * QUARTER), (1.0, 31.0))
    before = max(s for t, s in zip(grid.ticks, grid.seconds, strict=True) if t < beat * QUARTER)
    moved = with_bar_at(ANCHORS, beat * QUARTER, before + later, lambda: "new")
    assert all(a[1] < b[1] and a[2] < b[2] for a, b in pairwise(moved))
