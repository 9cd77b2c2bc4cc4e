"""Ten minutes at the bench: a loop that leaves nothing behind, and a long recording played whole without a hole."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import BrowserContext, Page

from browser.listening import RATE
from browser.opening import open_at, until

pytestmark = [pytest.mark.browser, pytest.mark.long]
MINUTES = 10
LONG_S, SLOWED = 300.0, 0.6
# The longest silence so far, counted where every block of the output arrives.
WATCH = """async () => {
  window.heard.quiet = { now: 0, longest: 0, frames: 0 };
  window.heard.onblock = ({ line }) => {
    const { quiet } = window.heard;
    quiet.frames += line.length;
    for (const x of line) {
      if (Math.abs(x) > 1e-5) quiet.now = 0;
      else { quiet.now += 1; quiet.longest = Math.max(quiet.longest, quiet.now); }
    }
  };
  await window.heard.keep();
  window.heard.tape = undefined;
}"""


def heap_mb(page: Page) -> float:
    session = page.context.new_cdp_session(page)
    session.send("HeapProfiler.collectGarbage")
    used = float(session.send("Runtime.getHeapUsage")["usedSize"]) / 1e6
    session.detach()
    return used


def a_long_sound() -> np.ndarray:
    """Three tones that never fall silent, each swelling at its own pace."""
    t = np.arange(round(LONG_S * RATE)) / RATE
    tones = ((110.0, 0.13), (165.0, 0.21), (247.0, 0.34))
    return np.asarray(
        sum(0.1 * (1.2 + np.sin(2 * np.pi * pace * t)) * np.sin(2 * np.pi * hz * t) for hz, pace in tones)
    )


def test_ten_minutes_leave_no_hole_and_no_growth(
    page: Page, context: BrowserContext, served, new_solo: Callable[..., str]
) -> None:
    loop = new_solo("Round for long", tempo_bpm=120)
    open_at(page, loop)
    for key in ("KeyT", "KeyR", "ArrowLeft", "ArrowLeft", "Shift+ArrowRight", "Shift+ArrowRight", "Backslash"):
        page.keyboard.press(key)
    until(page, "window.heard.sources.some((one) => one.loop)")
    long = context.new_page()
    basics = {"tempo_bpm": 120, "bars": 160}
    solo = served.bring("Long", a_long_sound(), chart="| Am7 |", basics=basics)
    open_at(long, solo)
    long.get_by_role("radio", name="60 %").click()
    long.get_by_role("group", name="Strip").focus()
    long.keyboard.press("Space")
    until(long, "window.heard.level() > 0.01")
    long.evaluate(WATCH)
    begin, heaps, heard = time.monotonic(), [], 0.0
    while time.monotonic() - begin < MINUTES * 60:
        page.wait_for_timeout(20_000)
        heaps.append(heap_mb(page))
        playing = long.get_by_role("button", name="Stop").count() == 1
        if playing:
            quiet = long.evaluate("window.heard.quiet")
            heard = quiet["frames"] / RATE
            assert quiet["longest"] < 0.03 * RATE, (heard, quiet)
    print(f"\nheard {heard:.0f} s; heap after 1, 5 and 10 minutes: {heaps[2]:.1f}, {heaps[14]:.1f}, {heaps[-1]:.1f} MB")
    assert heard > LONG_S / SLOWED - 45
    assert heaps[-1] - heaps[2] < 3
