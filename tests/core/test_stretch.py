"""Slowed sound on signals of known truth; the full table is `./usagi bench sound`."""

import numpy as np
import pytest
from benchmarks import sounds
from benchmarks.stretching import (
    before_picks_db,
    bend_cents,
    cents_on_top,
    dips_db,
    joins_db,
    library,
    ours,
    over_full_scale,
    plain_overlap_add,
    region_starts_db,
    seams_db,
    struck,
    sustained_off,
    tone_cents,
)

from usagi.core.audio.onsets import onsets
from usagi.core.audio.stretch import render

RATE = 48_000


@pytest.mark.parametrize("permille", [500, 900])
def test_bends_hits_and_tones_stay_what_they_are(permille: int) -> None:
    assert bend_cents(ours, permille, (1_101,)) < 1.5
    late, attack = struck(ours, permille, sounds.hits, (1_101,))
    assert (late < 1) and (attack < 4)
    assert tone_cents(ours, permille) < 0.5


def test_the_measures_tell_a_plain_method_from_ours() -> None:
    assert bend_cents(plain_overlap_add, 500, (1_101,)) > 3
    late, _ = struck(plain_overlap_add, 500, sounds.hits, (1_101,))
    assert late > 3


def test_pieces_join_and_regions_start_as_in_one_long_render() -> None:
    assert np.abs(joins_db(lambda seed: sounds.mix(seed)[0], 800, 1_102)).max() < 1
    starts = region_starts_db(lambda seed: sounds.chords(seed).sound, 800, (1_102,))
    assert np.percentile(np.abs(starts), 90) < 0.5


def test_splices_in_a_dense_mix_hardly_dip() -> None:
    splices = np.concatenate([dips_db(ours, 700, seed)[0] for seed in (1_104, 1_106)])
    assert np.mean(splices < -1.5) <= 0.05


def test_cents_on_top_are_exact() -> None:
    assert cents_on_top(600) < 0.5


@pytest.mark.parametrize("permille", [250, 333, 999, 1_250])
@pytest.mark.parametrize("frames", [0, 1, 479, 48_001])
def test_silence_stays_silent_and_lengths_are_exact(frames: int, permille: int) -> None:
    out = ours(np.zeros((frames, 2), np.float32), permille)
    assert out.shape == (round(frames * 1_000 / permille), 2)
    assert not out.any()


def test_both_channels_turn_alike() -> None:
    left, _ = sounds.mix(1_107, 4.0)
    out = ours(np.stack([left, 0.5 * left], axis=1).astype(np.float32), 600)
    assert np.abs(out[:, 1] - 0.5 * out[:, 0]).max() < 1e-5


def test_the_same_piece_is_the_same_sound_twice() -> None:
    pcm = sounds.mix(1_108, 3.0)[0].astype(np.float32)[:, None]
    first, second = (render(pcm, before=RATE, after=12_000, speed_permille=600, at=5 * RATE) for _ in range(2))
    assert np.array_equal(first, second)


def test_a_render_tells_how_far_it_is_and_can_be_ended() -> None:
    pcm = sounds.mix(1_108, 6.0)[0].astype(np.float32)[:, None]
    report: list[float] = []
    render(pcm, before=0, after=0, speed_permille=400, report=report.append)
    assert report == sorted(report) and report[0] == 0 and report[-1] == 1 and len(report) > 4

    class Enough(Exception):
        pass

    def enough(share: float) -> None:
        report.append(share)
        if share > 0.3:
            raise Enough

    report.clear()
    with pytest.raises(Enough):
        render(pcm, before=0, after=0, speed_permille=400, report=enough)
    assert report[-1] < 0.6


def test_what_is_struck_is_found_and_what_holds_is_not() -> None:
    known = sounds.hits(1_109)
    found = onsets(known.sound.astype(np.float32)[:, None])
    assert len(found) == len(known.at)
    assert np.abs(found - known.at).max() < 0.003 * RATE
    assert len(onsets(sounds.tone(220.0, 3.0).astype(np.float32)[:, None])[1:]) == 0


def test_a_pick_is_heard_as_it_was_and_nothing_before_it() -> None:
    late, _ = struck(ours, 500, sounds.picks, (1_110,))
    assert late < 1.2
    assert np.percentile(before_picks_db(ours, 500, (1_110,)), 90) < 3
    assert np.percentile(before_picks_db(plain_overlap_add, 500, (1_110,)), 90) > 10


def test_a_chord_that_is_held_neither_wavers_nor_swells() -> None:
    cents, wobble = sustained_off(ours, 700, (1_111,))
    assert cents < 1 and wobble < 0.7
    assert sustained_off(library, 400, (1_111,))[0] > 6


def test_the_seam_of_a_loop_seldom_dips() -> None:
    assert np.mean(seams_db(600, (1_112,)) < -3) <= 0.1


@pytest.mark.parametrize("squashed", [False, True])
def test_a_loud_mix_stays_within_full_scale(squashed: bool) -> None:
    assert over_full_scale(400, 1_113, squashed=squashed) == 0


def test_the_seam_of_a_loud_loop_stays_within_full_scale() -> None:
    """What is faded there is unlike and at full scale, so that an even level would lift it over."""
    pcm = np.where(np.arange(48_000) % 96 < 48, 1.0, -1.0).astype(np.float32)[:, None]
    pcm[24_000:] *= -1
    looped = render(pcm[2_000:46_031], before=2_000, after=2_000, speed_permille=1_000, loop=True)
    assert np.abs(looped).max() <= 1.0
