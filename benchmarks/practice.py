"""Teaching: a vamp of a long chart, a handout of three pages, the plan of a long solo."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable

import numpy as np

from benchmarks.figures import Figure
from benchmarks.solos import big_solo
from usagi.core.audio import RATE_HZ
from usagi.core.audio.band import band, stroke
from usagi.core.formats.document_json import read_document
from usagi.core.handout.pages import Facts, lay_handout
from usagi.core.playing.vamp import VampStyle, played_at, vamp
from usagi.core.practice.plan import plan
from usagi.media.pdf import pdf_of
from usagi.settings import project_root

BARS = 32
RUNS = 5


def first_and_best(run: Callable[[], object]) -> tuple[float, float]:
    """Milliseconds of the first run, in which nothing is remembered, and of the quickest of some more."""
    found = []
    for _ in range(RUNS):
        begin = time.perf_counter()
        run()
        found.append(1_000 * (time.perf_counter() - begin))
    return found[0], min(found[1:])


def figures() -> Iterable[Figure]:
    demo = read_document((project_root() / "demo/lanterns-at-low-water.json").read_bytes())
    document = big_solo(2_000)
    ground = document.ground
    bars = ground.timeline.bars.bars
    end = bars[min(BARS, len(bars) - 1)].tick
    frames = round(RATE_HZ * ground.grid.second(end) / 0.6)

    def whole_vamp() -> None:
        stroke.cache_clear()
        band(played_at(vamp(ground, 0, end, style=VampStyle.SWING), 0.6), 0.0, frames, loop=True)

    noise = np.random.default_rng(1).standard_normal(frames).astype(np.float32)
    _, beside = first_and_best(lambda: np.fft.rfft(noise))
    baseline = f"a spectrum of as many samples: {beside:.0f} ms"
    first, best = first_and_best(whole_vamp)
    yield Figure(
        f"a vamp of {BARS} bars at 60 %, nothing remembered", max(first, best), "ms", goal=1_000, baseline=baseline
    )
    first, best = first_and_best(lambda: pdf_of(lay_handout(demo.solo, demo.ground, Facts(demo.tune))))
    yield Figure("a handout of three pages as a PDF, the first", first, "ms", goal=2_000, baseline=baseline)
    yield Figure("the same again", best, "ms", baseline=baseline)
    first, best = first_and_best(lambda: plan(document.solo, ground))
    yield Figure("the plan of a solo of 2,000 notes", best, "ms", baseline=baseline)
