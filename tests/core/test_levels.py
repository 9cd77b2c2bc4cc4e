"""Levels that must hold, and where playing is cut."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ
from usagi.core.audio.cuts import BEHIND_S, LENGTHS_S, REACH_S, joint_near, piece_end
from usagi.core.audio.levels import fade_gain, limited


def noise(seed: int, frames: int, level: float) -> NDArray[np.float32]:
    return np.random.default_rng(seed).normal(0, level, (frames, 2)).astype(np.float32)


@given(st.integers(0, 50), st.floats(0.05, 2.0))
def test_a_limited_sound_stays_in_full_scale_and_a_quiet_one_is_untouched(seed: int, level: float) -> None:
    sound = noise(seed, 5_000, level)
    out = limited(sound)
    assert np.abs(out).max() <= 1.0
    assert np.abs(out).max() > 0.9 or out is sound
    if np.abs(sound).max() <= 1.0:
        assert out is sound


def test_a_limit_reaches_ten_milliseconds_and_moves_all_channels_alike() -> None:
    sound = noise(1, 9_600, 0.05)
    sound[4_800, 0] = 4.0
    out = limited(sound)
    changed = np.flatnonzero((out != sound).any(axis=1))
    assert out[4_800, 0] == pytest.approx(1.0, abs=1e-5)
    assert changed.min() >= 4_800 - 480 and changed.max() <= 4_800 + 480
    gain = out[4_700] / sound[4_700]
    assert gain[0] == pytest.approx(gain[1], rel=1e-5)


def test_what_is_limited_in_pieces_is_what_is_limited_whole() -> None:
    sound = noise(2, 20_000, 0.6)
    assert np.array_equal(limited(sound)[8_000:12_000], limited(sound[7_000:13_000])[1_000:5_000])


@pytest.mark.parametrize(("alike", "middle"), [(1.0, 1.0), (0.0, np.sqrt(2)), (-1.0, 2.0)])
def test_a_fade_keeps_its_level_whatever_meets(alike: float, middle: float) -> None:
    one, other = noise(3, 50_000, 0.3), noise(4, 50_000, 0.3)
    mixed = alike * one if alike else other
    gain = fade_gain(one, mixed, np.array([0.0, 0.5, 1.0], np.float32))
    assert gain == pytest.approx([1.0, middle, 1.0], rel=0.01)


def test_pieces_grow_and_end_where_the_playing_does() -> None:
    assert [piece_end(0, n, 10**9) / RATE_HZ for n in (0, 1, 4, 9)] == [
        LENGTHS_S[0], LENGTHS_S[1], LENGTHS_S[4], LENGTHS_S[-1]]  # fmt: skip
    assert piece_end(1_000, 4, 1_500) == 1_500


def test_pieces_join_behind_the_nearest_onset_in_reach() -> None:
    pcm = np.zeros((RATE_HZ, 1), np.float32)
    for hit in (10_000, 30_000):
        pcm[hit:, 0] += np.sin(np.arange(RATE_HZ - hit)) * np.exp(-np.arange(RATE_HZ - hit) / 2_000)
    behind = round(BEHIND_S * RATE_HZ)
    assert abs(joint_near(pcm, 100_000, 128_000) - (130_000 + behind)) < 60
    assert abs(joint_near(pcm, 100_000, 113_000) - (110_000 + behind)) < 60
    far = 110_000 + round(REACH_S * RATE_HZ) - 2_000
    assert joint_near(pcm[:22_000], 100_000, far + 3_000) == far + 3_000
