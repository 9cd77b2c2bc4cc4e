"""Sound made in the test, so that the truth is known."""

from __future__ import annotations

import numpy as np
import pytest

from usagi.core.audio import RATE_HZ, Sound, to_stored
from usagi.core.audio.clicks import clicks
from usagi.core.audio.peaks import LEVELS, PeakBuilder
from usagi.core.audio.stretch import SpeedImpossible, render
from usagi.core.audio.voice import StringEvent, string_sound

CONTEXT = RATE_HZ // 4


def tone(hz: float, seconds: float) -> Sound:
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return (0.4 * np.sin(2 * np.pi * hz * t)).astype(np.float32)[:, None]


def heard_hz(sound: np.ndarray) -> float:
    """The strongest frequency, by a parabola through the peak of a long windowed spectrum."""
    windowed = sound * np.hanning(len(sound))
    spectrum = np.abs(np.fft.rfft(windowed, 8 * len(sound)))
    peak = int(np.argmax(spectrum))
    a, b, c = np.log(spectrum[peak - 1 : peak + 2] + 1e-12)
    return float((peak + (a - c) / (2 * (a - 2 * b + c))) * RATE_HZ / (8 * len(sound)))


@pytest.mark.parametrize("speed", [250, 333, 400, 500, 600, 700, 800, 900, 999, 1000, 1100, 1250])
@pytest.mark.parametrize("cents", [0.0, -34.0])
def test_a_piece_has_its_exact_length_at_every_speed(speed: int, cents: float) -> None:
    frames = 31_337
    pcm = tone(440.0, (frames + 2 * CONTEXT) / RATE_HZ)[: frames + 2 * CONTEXT]
    out = render(pcm, before=CONTEXT, after=CONTEXT, speed_permille=speed, cents=cents, tail=240)
    assert out.shape == (round(frames * 1000 / speed) + 240, 1)
    assert np.isfinite(out).all()


@pytest.mark.parametrize(("speed", "cents"), [(600, 0.0), (500, 35.0), (800, -100.0), (1000, 20.0), (400, 0.0)])
def test_the_pitch_is_kept_or_moved_by_the_cents_asked_for(speed: int, cents: float) -> None:
    pcm = tone(440.0, 2.5)
    out = render(pcm, before=CONTEXT, after=CONTEXT, speed_permille=speed, cents=cents)[:, 0]
    off = 1200 * np.log2(heard_hz(out) / 440.0) - cents
    assert abs(off) < 1.0


def test_full_speed_in_tune_is_a_copy() -> None:
    pcm = np.random.default_rng(1).normal(0, 0.2, (RATE_HZ, 2)).astype(np.float32)
    assert np.array_equal(render(pcm, before=100, after=200, speed_permille=1000), pcm[100:-200])


def test_a_loop_joins_itself_without_a_step() -> None:
    pcm = tone(441.7, 2.0)
    plain = render(pcm, before=CONTEXT, after=CONTEXT, speed_permille=1000)
    joined = render(pcm, before=CONTEXT, after=CONTEXT, speed_permille=1000, loop=True)
    inside = float(np.abs(np.diff(plain[:, 0])).max())
    assert abs(joined[0, 0] - joined[-1, 0]) <= inside
    assert abs(plain[0, 0] - plain[-1, 0]) > inside  # without the fade it would have clicked
    assert len(joined) == len(plain)


@pytest.mark.parametrize("speed", [249, 1251])
def test_a_speed_out_of_reach_is_refused(speed: int) -> None:
    with pytest.raises(SpeedImpossible, match="from 25 to 125 %"):
        render(tone(440, 0.1), before=0, after=0, speed_permille=speed)


def test_clicks_start_on_their_frame() -> None:
    sound = np.abs(clicks([(0.0, True), (0.5, False)], 1.0)[:, 0])
    assert sound[0] > 0.4 and sound[24_000] > 0.4
    assert sound[2_000:23_999].max() == 0.0


def test_peaks_hold_the_extremes_at_every_level() -> None:
    pcm = np.zeros((100_000, 2), dtype=np.int16)
    pcm[77_777] = (-20_000, -20_000)
    pcm[50_001] = (10_000, 10_000)
    builder = PeakBuilder()
    for start in range(0, len(pcm), 7_000):
        builder.add(pcm[start : start + 7_000])
    levels = builder.levels()
    assert len(levels) == LEVELS
    assert [level[:, 0].min() for level in levels] == [round(-20_000 / 32_768 * 127)] * LEVELS
    assert [level[:, 1].max() for level in levels] == [round(10_000 / 32_768 * 127)] * LEVELS
    assert len(levels[0]) == -(-len(pcm) // 256)
    assert int(np.argmin(levels[0][:, 0])) == 77_777 // 256


def test_no_sound_has_no_peaks() -> None:
    assert [len(level) for level in PeakBuilder().levels()] == [0] * LEVELS


def test_the_voice_follows_its_curve() -> None:
    """A bend by a whole step, heard by counting the turns of the fundamental on its plateaus."""
    event = StringEvent(0.0, 2.0, ((0.0, 69.0), (0.6, 69.0), (0.8, 71.0), (2.0, 71.0)))
    sound = string_sound(event)
    for start, midi in ((0.1, 69), (1.0, 71)):
        part = sound[round(start * RATE_HZ) : round((start + 0.45) * RATE_HZ)]
        spectrum_hz = heard_fundamental(part, 440 * 2 ** ((midi - 69) / 12))
        assert abs(1200 * np.log2(spectrum_hz / (440 * 2 ** ((midi - 69) / 12)))) < 3


def heard_fundamental(sound: np.ndarray, near_hz: float) -> float:
    t = np.arange(len(sound)) / RATE_HZ
    beat = sound * np.exp(-2j * np.pi * near_hz * t)
    smooth = np.convolve(beat, np.hanning(2400), "valid")
    turns = np.unwrap(np.angle(smooth))
    return near_hz + float(np.polyfit(t[: len(turns)], turns, 1)[0]) / (2 * np.pi)


def test_stored_sound_is_clipped_not_wrapped() -> None:
    assert to_stored(np.array([[2.0], [-2.0]], dtype=np.float32)).tolist() == [[32_767], [-32_768]]
