"""What is heard in recordings of known truth: offset, grid, swing and chords. The seeds tuned nothing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from benchmarks.bands import Band, band
from benchmarks.figures import Figure
from usagi.core.audio.beats import hear_beats
from usagi.core.audio.chords import hear_chords
from usagi.core.audio.onsets import onsets
from usagi.core.audio.swing import FEWEST, hear_swing
from usagi.core.audio.tuning_offset import measure_offset
from usagi.core.meter.bars import lay_bars
from usagi.core.meter.grid import Grid
from usagi.core.meter.meters import Meter
from usagi.core.meter.taps import fit_taps

RATE = 48_000
Line = NDArray[np.float64]
SEEDS = range(6_001, 6_013)


def mono(known: Band) -> NDArray[np.float32]:
    return known.sound.astype(np.float32)[:, None]


def cents_off(seed: int) -> float:
    cents = float(np.random.default_rng(seed).uniform(-45, 45))
    found = measure_offset(mono(band(seed, 20.0, cents=cents)))
    return 50.0 if found is None else abs((found.cents - cents + 50) % 100 - 50)


def grid_ms(known: Band, beats: Line, pulses: int) -> Line:
    """How far every bar of a fitted grid lies from the truth, in ms, where the fit has bars."""
    bars = lay_bars([Meter(pulses, 4)] * (len(known.firsts) + 8))
    fit = fit_taps(list(beats), 0, bars)
    grid = Grid(tuple(tick for tick, _ in fit.anchors), tuple(second for _, second in fit.anchors))
    lines = [grid.second(bar.tick) for bar in bars.bars[: len(known.firsts) - 1]]
    return 1_000 * np.abs(np.array(lines) - known.firsts[: len(lines)])


def tapped_ms(seed: int) -> float:
    """Three minutes drifting by 6 %, tapped by a finger that is 12 ms uneven: the worst bar."""
    known = band(seed, 180.0, drift=0.06)
    taps = known.beats[:-1] + np.random.default_rng(seed).normal(0, 0.012, len(known.beats) - 1)
    return float(grid_ms(known, taps, 4).max())


def heard_ms(seed: int, seconds: float = 180.0) -> tuple[float, bool, bool]:
    """The worst bar of a grid through heard beats, begun on the right one; whether the pace and the first were right."""
    known = band(seed, seconds, drift=0.06)
    heard = hear_beats([mono(known)], 4)
    assert heard is not None
    true_bpm = 60 / float(np.median(np.diff(known.beats)))
    pace = min(heard.paces, key=lambda pace: abs(pace.bpm - true_bpm))
    right = pace is heard.paces[0]
    beats = np.array(pace.beats)
    first = int(np.argmin(np.abs(beats - known.firsts[0])))
    if abs(beats[first] - known.firsts[0]) > 0.1:  # it begins later: from the first bar that it has
        bar = int(np.argmin(np.abs(known.firsts - beats[0])))
        first = int(np.argmin(np.abs(beats - known.firsts[bar])))
        known = Band(known.sound, known.beats, known.firsts[bar:], known.swing, known.chords)
    began = int(np.argmin(np.abs(known.beats - heard.paces[0].beats[0]))) % 4 == 0
    return float(grid_ms(known, beats[first:], 4).max()), right, began


def compound_heard(seed: int, seconds: float = 60.0) -> tuple[bool, bool]:
    """Whether the pulse and beat 1 of a piece in 6/8, 9/8 or 12/8 were right as first offered."""
    pulses = int(np.random.default_rng(seed).choice([2, 3, 4]))
    known = band(seed, seconds, compound=True, pulses=pulses)
    heard = hear_beats([mono(known)], pulses, compound=True)
    assert heard is not None
    first = heard.paces[0]
    right = abs(first.bpm / (60 / float(np.median(np.diff(known.beats)))) - 1) < 0.03
    begins = int(np.argmin(np.abs(known.beats - first.beats[0])))
    return right, begins % pulses == 0 and abs(known.beats[begins] - first.beats[0]) < 0.05


def swing_off(seed: int) -> tuple[float, int]:
    known = band(seed, 40.0)
    heard = hear_swing(onsets(mono(known)) / RATE, known.beats)
    return abs(heard.ratio - known.swing), heard.count


def chords_right(seed: int, seconds: float = 60.0) -> tuple[int, int, int, int]:
    """Chords, and how many are right in root, in root and quality, and among the three offered."""
    known = band(seed, seconds)
    heard = hear_chords(mono(known), [(start, end) for start, end, _ in known.chords])
    root = whole = among = 0
    for likely, (_, _, truth) in zip(heard, known.chords, strict=True):
        offers = [(chord.root, chord.quality) for chord in likely]
        root += bool(offers) and offers[0][0] == truth[0]
        whole += bool(offers) and offers[0] == truth
        among += truth in offers
    return len(known.chords), root, whole, among


def figures() -> Iterator[Figure]:
    off = [cents_off(seed) for seed in SEEDS]
    yield Figure(f"offset of {len(off)} bands, worst", max(off), "cents", 3)
    tapped = [tapped_ms(seed) for seed in SEEDS]
    yield Figure("grid tapped through 3 minutes drifting by 6 %, worst bar of 12 pieces", max(tapped), "ms", 20)
    heard = [heard_ms(seed) for seed in SEEDS]
    yield Figure(
        "grid heard through 3 minutes drifting by 6 %, median of the worst bars",
        float(np.median([h[0] for h in heard])),
        "ms",
        20,
    )
    yield Figure("grid heard, worst bar of 12 pieces", max(h[0] for h in heard), "ms", 20)
    yield Figure("pace right as first offered (else half or twice)", 100 * float(np.mean([h[1] for h in heard])), "%")
    yield Figure("beat 1 right as first offered", 100 * float(np.mean([h[2] for h in heard])), "%")
    compound = [compound_heard(seed) for seed in range(6_301, 6_325)]
    for what, part in (("pulse", 0), ("beat 1", 1)):
        yield Figure(
            f"{what} of {len(compound)} pieces in 6/8, 9/8 and 12/8 right as first offered",
            100 * float(np.mean([one[part] for one in compound])),
            "%",
        )
    swing = [one for seed in range(6_101, 6_125) if (one := swing_off(seed))[1] >= FEWEST]
    yield Figure(
        f"swing ratio of {len(swing)} bands with {FEWEST} off-beats or more, worst", max(s[0] for s in swing), "", 0.15
    )
    count, root, whole, among = np.sum([chords_right(seed) for seed in range(6_201, 6_213)], axis=0)
    yield Figure(f"chords right in root, of {count} bars", 100 * root / count, "%")
    yield Figure("chords right in root and quality", 100 * whole / count, "%")
    yield Figure("chords among the three offered", 100 * among / count, "%")
