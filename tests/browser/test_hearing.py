"""What the page plays, heard from its own output."""

from __future__ import annotations

import base64
from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from browser.opening import open_at, until

pytestmark = pytest.mark.browser
RATE = 48_000
BASE64 = """() => {
  const all = new Float32Array(window.heard.tape.reduce((sum, one) => sum + one.length, 0));
  let at = 0;
  for (const one of window.heard.tape) { all.set(one, at); at += one.length; }
  const bytes = new Uint8Array(all.buffer);
  let text = "";
  for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(text);
}"""


def taped(page: Page, seconds: float) -> np.ndarray:
    """The page's output for so long, as it left for the loudspeaker."""
    page.evaluate("window.heard.tape.length = 0; window.heard.keep(true)")
    until(page, f"window.heard.tape.length * 16384 >= {round(seconds * RATE)}", 60)
    page.evaluate("window.heard.keep(false)")
    return np.frombuffer(base64.b64decode(page.evaluate(BASE64)), dtype="<f4").astype(np.float64)


def test_twenty_passes_of_a_loop_are_alike_to_the_sample_and_without_a_click(
    page: Page, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Round and Round", tempo_bpm=240)
    open_at(page, solo)
    page.keyboard.press("KeyT")
    page.keyboard.press("KeyR")
    for key in ("ArrowLeft", "ArrowLeft", "Shift+ArrowRight", "Shift+ArrowRight"):
        page.keyboard.press(key)
    page.get_by_role("radio", name="80 %").click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backslash")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    until(page, "window.heard.sources.some((one) => one.loop)")
    page.wait_for_timeout(600)
    period = page.evaluate("window.heard.sources.find((one) => one.loop).frames")
    tape = taped(page, 21.5 * period / RATE)
    # A tape that lost a block would not repeat: each pass is laid over the first, one sample off would show at once.
    first = tape[:period]
    assert np.abs(first).max() > 0.01
    passes = len(tape) // period
    assert passes >= 20
    loudest = np.abs(first).max()
    for number in range(1, passes):
        assert np.abs(tape[number * period : (number + 1) * period] - first).max() < 1e-5 * loudest + 1e-7, number
    # No click: no step at the join is larger than the largest within the loop.
    steps = np.abs(np.diff(tape))
    seams = np.concatenate([steps[n * period - 2 : n * period + 2] for n in range(1, passes)])
    assert seams.max() <= steps.max()


def test_a_change_of_speed_leaves_no_hole(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    open_at(page, solo)
    page.get_by_role("button", name="Phrase the lamp is lit").click()
    until(page, "window.heard.sources.some((one) => one.loop)")
    until(page, "window.heard.level() > 0.003")
    page.evaluate("window.heard.tape.length = 0; window.heard.keep(true)")
    page.get_by_role("radio", name="60 %").click()
    until(page, "window.heard.sources.filter((one) => one.loop).length === 2")
    page.wait_for_timeout(1_500)
    page.evaluate("window.heard.keep(false)")
    tape = np.frombuffer(base64.b64decode(page.evaluate(BASE64)), dtype="<f4").astype(np.float64)
    quiet = np.convolve(np.abs(tape), np.ones(240) / 240, "same") < 1e-5
    runs = np.diff(np.flatnonzero(np.concatenate([[True], ~quiet, [True]])))
    assert runs.max() <= 0.030 * RATE
