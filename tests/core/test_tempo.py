"""The tempo over the bars; the truth is the arithmetic of the anchors, and onsets set beside the beats on purpose."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from usagi.core.document.solo import Anchor, Ground, GroundSettings
from usagi.core.meter.ticks import QUARTER
from usagi.core.view.tempo import view_tempo


def ground(*anchors: tuple[int, float], bars: int = 4) -> Ground:
    """Four-four, with anchors at some beats and seconds."""
    return Ground(
        settings=GroundSettings(bars=bars),
        anchors=tuple(
            Anchor(id=f"a{number}", tick=beat * QUARTER, second=at) for number, (beat, at) in enumerate(anchors)
        ),
    )


STEADY = ground((0, 2.0), (4, 4.0))  # two beats a second


@given(st.integers(40, 240))
def test_a_steady_tempo_is_told_once(bpm: int) -> None:
    view = view_tempo(ground((0, 0.0), (1, 60 / bpm)))
    assert [bar.bpm for bar in view.bars] == [pytest.approx(bpm, abs=0.1)] * 4
    assert view.says == f"{bpm} a minute throughout."
    assert view.beats == ""  # no recording, so nothing about it


def test_slowing_down_names_the_slowest_and_the_fastest_bar() -> None:
    view = view_tempo(ground((0, 0.0), (4, 2.0), (8, 4.0), (12, 7.0), (16, 9.5)))
    assert [bar.bpm for bar in view.bars] == [120, 120, 80, 96]
    assert view.says == "120 a minute in bar 1, 96 in bar 4; slowest in bar 3 (80), fastest in bar 1 (120)."
    assert all(bar.anchored for bar in view.bars)


@pytest.mark.parametrize("late_ms", [-60, -20, 0, 25, 80])
def test_beats_that_are_heard_late_are_measured(late_ms: int) -> None:
    struck = [2.0 + beat / 2 + late_ms / 1_000 for beat in range(16)]
    view = view_tempo(STEADY, struck)
    assert [bar.off_ms for bar in view.bars] == [pytest.approx(late_ms, abs=0.1)] * 4
    assert ("4 bars 30 ms or more" in view.beats) == (abs(late_ms) >= 30)


def test_a_bar_in_which_nothing_is_struck_has_no_measure() -> None:
    view = view_tempo(STEADY, [2.01, 2.51, 4.25])  # the last lies between two beats
    assert [bar.off_ms for bar in view.bars] == [pytest.approx(10, abs=0.1), None, None, None]
    assert view_tempo(STEADY, []).beats.startswith("No notes were found near the beats.")


def test_beats_that_were_heard_lie_on_the_grid() -> None:
    heard = view_tempo(STEADY, [], [2.0, 2.5, 3.1]).heard
    assert [(one.tick, one.bpm) for one in heard] == [(0, 120), (QUARTER, 100)]
