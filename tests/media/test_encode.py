"""Sound that leaves, decoded again by another library than the one that wrote it and held against what went in."""

from __future__ import annotations

import io

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ
from usagi.media.encode import SoundFormat, Tags, encoded

SECONDS = 3
STRUCK = (0.5, 1.25, 2.0)  # seconds
LIKE = {SoundFormat.WAV: 1.0, SoundFormat.FLAC: 1.0, SoundFormat.OPUS: 0.985, SoundFormat.MP3: 0.985}


def struck(channels: int) -> NDArray[np.int16]:
    """Decaying tones, another pitch and another time on each side; shape (frames, channels)."""
    t = np.arange(SECONDS * RATE_HZ) / RATE_HZ
    sides = []
    for side in range(channels):
        since = [t - at - 0.1 * side for at in STRUCK]
        hz = 330 * (1 + side)
        sides.append(
            sum(np.where(s >= 0, 0.5 * np.exp(-6 * np.maximum(s, 0)) * np.sin(2 * np.pi * hz * s), 0) for s in since)
        )
    return np.asarray(np.round(32_000 * np.stack(sides, axis=1)), dtype=np.int16)


def decoded(data: bytes, channels: int) -> NDArray[np.float64]:
    """By the decoder of players; shape (frames, channels), 1.0 is full scale."""
    layout = "mono" if channels == 1 else "stereo"
    resampler = av.AudioResampler(format="fltp", layout=layout, rate=RATE_HZ)
    with av.open(io.BytesIO(data)) as file:
        assert file.streams.audio[0].channels == channels
        frames = [one for frame in file.decode(audio=0) for one in resampler.resample(frame)]
        frames += resampler.resample(None)
    return np.concatenate([frame.to_ndarray() for frame in frames], axis=1).T.astype(float)


def onsets(line: NDArray[np.float64]) -> list[float]:
    """Seconds at which it rises over a fifth of its height after 100 ms of less than that."""
    over = np.flatnonzero(np.abs(line) > 0.2 * np.abs(line).max())
    return [float(at) / RATE_HZ for k, at in enumerate(over) if k == 0 or at - over[k - 1] > 0.1 * RATE_HZ]


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("format", list(SoundFormat))
def test_what_leaves_sounds_as_what_went_in(format: SoundFormat, channels: int) -> None:
    pcm = struck(channels)
    back = decoded(encoded(pcm, format, Tags("Struck")), channels)
    assert len(back) == pytest.approx(len(pcm), abs=0.06 * RATE_HZ)
    shared = min(len(back), len(pcm))
    for side in range(channels):
        went, came = pcm[:shared, side] / 32_768, back[:shared, side]
        lag = (
            np.argmax(np.correlate(came[: RATE_HZ * 2 : 1][24_000:48_000], went[24_000 - 2_000 : 48_000 + 2_000]))
            - 2_000
        )
        lined = np.roll(came, int(lag))
        assert np.corrcoef(went, lined)[0, 1] >= LIKE[format] - 1e-6, (format, side)
        assert 20 * np.log10(came.std() / went.std()) == pytest.approx(0, abs=0.3)
        assert onsets(came) == pytest.approx(onsets(went), abs=0.003)
        assert np.abs(came).max() < 1


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("format", [SoundFormat.WAV, SoundFormat.FLAC])
def test_what_is_not_compressed_keeps_every_sample(format: SoundFormat, channels: int) -> None:
    pcm = np.random.default_rng(29).integers(-32_768, 32_768, (RATE_HZ, channels)).astype(np.int16)
    back = decoded(encoded(pcm, format, Tags("Noise")), channels)
    assert np.array_equal(np.round(back * 32_768), pcm)


def test_a_quiet_stereo_sound_stays_quiet() -> None:
    """A count-in at a hundredth of full scale, of both sides."""
    quiet = np.asarray(struck(2) // 100, dtype=np.int16)
    for format in SoundFormat:
        assert np.abs(decoded(encoded(quiet, format, Tags("Quiet")), 2)).max() < 0.02
