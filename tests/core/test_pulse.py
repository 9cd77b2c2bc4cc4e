"""Spectra and the pulse: against librosa 0.11, another make of the same methods, and against sounds of known truth.

What librosa makes of two lines is kept in a golden file, because it is no part of Usagi: it compiles for half a minute where it
is first used. `--rewrite-golden` asks it again, where it is installed.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from usagi.core.audio.pulse import Strength, follow, onset_strength, pace_bpm
from usagi.core.audio.spectra import Line, Table, mel_bands, pitch_classes, power, tones

RATE = 22_050
HOP, TONES_HOP = 256, 1_024
FRAMES_PER_S = RATE / HOP
LOWEST, COUNT, PER_OCTAVE = 41.2, 216, 36
LINES = [(1, 92.0), (5, 200.0)]
GOLDEN = Path(__file__).parents[1] / "golden" / "librosa.json"


def band(seed: int, bpm: float, seconds: int = 24) -> NDArray[np.float32]:
    """Struck tones of changing pitch on every beat, noise between some of them."""
    rng = np.random.default_rng(seed)
    out = np.zeros(RATE * seconds)
    at = np.arange(6_000)
    for beat in range(int((seconds - 1) * bpm / 60)):
        start = int((beat * 60 / bpm + 0.05 + 0.01 * rng.standard_normal()) * RATE)
        hz = 55 * 2 ** (int(rng.integers(0, 24)) / 12)
        struck = np.sin(2 * np.pi * hz * at / RATE) + 0.3 * rng.standard_normal(len(at))
        out[start : start + len(at)] += np.exp(-at / 1_500) * struck * (1 if beat % 4 == 0 else 0.6)
        if rng.random() < 0.5:
            between = start + int(30 / bpm * RATE)
            out[between : between + 3_000] += 0.3 * np.exp(-at[:3_000] / 400) * rng.standard_normal(3_000)
    return (out / np.abs(out).max()).astype(np.float32)


def rounded(values: NDArray[np.floating], places: int) -> list[Any]:
    found: list[Any] = np.round(values.astype(np.float64), places).tolist()
    return found


def asked_of_librosa(line: NDArray[np.float32]) -> dict[str, Any]:
    librosa = pytest.importorskip("librosa", reason="only who writes the golden file anew needs it")
    strength = librosa.onset.onset_strength(y=line, sr=RATE, hop_length=HOP, aggregate=np.median)
    _, beats = librosa.beat.beat_track(onset_envelope=strength, sr=RATE, hop_length=HOP, trim=False)
    _, at_100 = librosa.beat.beat_track(onset_envelope=strength, sr=RATE, hop_length=HOP, trim=False, bpm=100.0)
    pace = librosa.feature.tempo(onset_envelope=strength, sr=RATE, hop_length=HOP)
    powers = np.abs(librosa.stft(line, n_fft=2_048, hop_length=HOP)) ** 2
    classes = librosa.feature.chroma_stft(S=powers, sr=RATE, n_fft=2_048, tuning=0.0)
    loudness = np.abs(
        librosa.cqt(line, sr=RATE, hop_length=TONES_HOP, fmin=LOWEST, n_bins=COUNT, bins_per_octave=PER_OCTAVE)
    )
    return {
        "strength": rounded(strength[::29], 3),
        "beats": beats.tolist(),
        "beats at 100": at_100.tolist(),
        "pace": round(float(pace[0]), 3),
        "classes": rounded(classes[:, ::401].T, 4),
        "tones": rounded(loudness[:, ::67].T, 4),
    }


@pytest.fixture(scope="module")
def golden(request: pytest.FixtureRequest) -> dict[str, Any]:
    if request.config.getoption("--rewrite-golden"):
        asked = {str(seed): asked_of_librosa(band(seed, bpm)) for seed, bpm in LINES}
        GOLDEN.write_text(json.dumps(asked, separators=(",", ":")).replace("]],", "]],\n") + "\n")
    found: dict[str, Any] = json.loads(GOLDEN.read_text())
    return found


def whole(line: Line, hop: int) -> Table:
    return np.concatenate(list(power(line, hop=hop)), axis=1)


def strength_of(line: Line) -> Strength:
    return onset_strength(mel_bands(RATE) @ whole(line, HOP), hop=HOP)


@pytest.mark.parametrize(("seed", "bpm"), LINES)
def test_another_make_hears_the_same(seed: int, bpm: float, golden: dict[str, Any]) -> None:
    line, other = band(seed, bpm), golden[str(seed)]
    strength = strength_of(line)
    assert strength[::29] == pytest.approx(other["strength"], abs=2e-3)
    assert follow(strength, frames_per_s=FRAMES_PER_S).tolist() == other["beats"]
    assert follow(strength, frames_per_s=FRAMES_PER_S, bpm=100.0).tolist() == other["beats at 100"]
    assert pace_bpm(strength, frames_per_s=FRAMES_PER_S) == pytest.approx(other["pace"], abs=1e-3)
    classes = pitch_classes(whole(line, HOP), rate_hz=RATE)
    assert np.abs(classes[:, ::401].T - other["classes"]).max() < 1e-3
    loudness = tones(line, rate_hz=RATE, hop=TONES_HOP, lowest_hz=LOWEST, count=COUNT, per_octave=PER_OCTAVE)
    theirs = np.array(other["tones"])
    assert np.abs(loudness[:, ::67].T - theirs).max() < 0.015 * theirs.max()  # theirs is made octave by octave


@settings(deadline=None)
@given(bpm=st.floats(85, 140), late_s=st.floats(0.1, 0.5))
def test_even_clicks_are_followed_within_thirty_ms(bpm: float, late_s: float) -> None:
    at = np.arange(late_s, 11.5, 60 / bpm)
    line = np.zeros(12 * RATE)
    line[np.round(at * RATE).astype(int)] = 1.0
    strength = strength_of(line)
    beats = follow(strength, frames_per_s=FRAMES_PER_S) / FRAMES_PER_S
    at = at[1:]  # the first has no beat before it to hold it in place; the chain may go on beyond the last
    inside = beats[(beats > at[0] - 0.1) & (beats < at[-1] + 0.1)]
    assert len(inside) == len(at)
    assert np.abs(inside - at).max() < 2.5 / FRAMES_PER_S
    assert pace_bpm(strength, frames_per_s=FRAMES_PER_S) == pytest.approx(bpm, rel=0.02)


@pytest.mark.parametrize("pitch_class", range(12))
def test_a_tone_is_its_pitch_class(pitch_class: int) -> None:
    hz = 440 * 2 ** ((60 + pitch_class - 69) / 12)
    tone = np.sin(2 * np.pi * hz * np.arange(RATE) / RATE)
    assert pitch_classes(whole(tone, 512), rate_hz=RATE)[:, 20].argmax() == pitch_class


@settings(deadline=None)
@given(place=st.integers(12, COUNT - 1), level=st.floats(0.05, 1.0))
def test_a_tone_is_loudest_at_its_place_and_as_loud_as_it_is(place: int, level: float) -> None:
    hz = LOWEST * 2 ** (place / PER_OCTAVE)
    line = level * np.sin(2 * np.pi * hz * np.arange(2 * RATE) / RATE)
    frame = tones(line, rate_hz=RATE, hop=TONES_HOP, lowest_hz=LOWEST, count=COUNT, per_octave=PER_OCTAVE)[:, 20]
    assert frame.argmax() == place
    apart = 2.0 ** (2 / PER_OCTAVE)
    long = (apart + 1) / (apart - 1) * RATE / hz
    assert frame[place] == pytest.approx(level / 2 * np.sqrt(long), rel=0.02)


def test_nothing_begins_in_silence() -> None:
    strength = strength_of(np.zeros(3 * RATE))
    assert not strength.any() and len(follow(strength, frames_per_s=FRAMES_PER_S)) == 0
    assert not pitch_classes(whole(np.zeros(RATE), 512), rate_hz=RATE).any()
