"""The offset of a recording, on sounds of known truth made by other code, on seeds that tuned nothing."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks import sounds
from numpy.typing import NDArray

from usagi.core.audio.tuning_offset import measure_offset

RATE = 48_000


def band(seed: int, cents: float, seconds: float = 20.0) -> NDArray[np.float64]:
    """Chords, a bass and a line that bends now and then, all so many cents off; hits over them."""
    rng = np.random.default_rng(seed)
    out = np.zeros(round(seconds * RATE))

    def put(midi: float, at: float, length: float, level: float, bend: float = 0.0) -> None:
        t = np.arange(round(length * RATE)) / RATE
        curve = midi + bend * np.minimum(1, t / 0.2) + cents / 100
        tone = sounds.harmonic(440 * 2 ** ((curve - 69) / 12), 6, rng) * np.exp(-t / length) * level
        begin = round(at * RATE)
        tone = tone[: max(0, len(out) - begin)]
        out[begin : begin + len(tone)] += tone

    for bar in range(int(seconds / 2)):
        root = int(rng.choice([40, 45, 50, 43]))
        put(root, 2 * bar, 1.9, 0.3)
        for above in (12, 16, 19, 22):
            put(root + above, 2 * bar, 1.8, 0.12)
        for beat in range(4):
            put(
                root + 24 + int(rng.choice([0, 3, 5, 7, 10])),
                2 * bar + beat / 2,
                0.45,
                0.25,
                float(rng.choice([0, 0, 0, 1])),
            )
            hit = sounds.strike(0.2, rng)
            begin = round((2 * bar + beat / 2) * RATE)
            out[begin : begin + len(hit)] += 0.2 * hit[: max(0, len(out) - begin)]
    return out


@pytest.mark.parametrize("seed", range(3_001, 3_007))
@pytest.mark.parametrize("cents", [-41.0, -12.0, 0.0, 18.0, 35.0])
def test_offsets_are_within_three_cents(seed: int, cents: float) -> None:
    found = measure_offset(band(seed, cents).astype(np.float32)[:, None])
    assert found is not None
    assert abs((found.cents - cents + 50) % 100 - 50) < 3, found
    assert found.agreement > 0.3


def test_what_has_no_pitch_is_not_sure_and_silence_is_nothing() -> None:
    noise = np.random.default_rng(3_100).normal(0, 0.1, 5 * RATE).astype(np.float32)[:, None]
    found = measure_offset(noise)
    assert found is None or found.agreement < 0.3
    assert measure_offset(np.zeros((RATE, 2), dtype=np.float32)) is None


def test_the_offset_is_explained_in_words() -> None:
    found = measure_offset(band(3_200, 34.0).astype(np.float32)[:, None])
    assert found is not None
    assert found.sentence.startswith("The recording runs 3") and "cents sharp" in found.sentence
