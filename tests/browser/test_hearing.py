"""What the page plays, heard from its own output."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

from browser.listening import RATE, listen, taped, taping
from browser.opening import QUARTER, open_at, until

pytestmark = pytest.mark.browser
LOOPING = "window.heard.sources.filter((one) => one.loop).length"
# Each frame that is painted: the audio clock as it reaches the ear, and where the playhead stands in the strip.
FOLLOW = """() => {
  const { context } = window.heard;
  const head = document.querySelector("[data-testid=playhead]");
  const seen = (window.heard.seen = []);
  // Told at the moment when it is painted, whichever is called first in a frame.
  new MutationObserver((_, observer) => {
    if (window.heard.seen !== seen) return observer.disconnect();
    const x = head.style.visibility === "visible" ? new DOMMatrix(getComputedStyle(head).transform).e : null;
    seen.push([context.currentTime - (context.outputLatency || context.baseLatency || 0), x]);
  }).observe(head, { attributes: true, attributeFilter: ["style"] });
}"""


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
    until(page, f"{LOOPING} > 0")
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


@pytest.mark.parametrize("change", ["speed", "trim"])
def test_a_change_while_it_plays_leaves_no_hole_and_keeps_the_place(page: Page, served, change: str) -> None:
    solo = served.solo("Lanterns at Low Water")
    open_at(page, solo)
    page.get_by_role("button", name="Phrase the lamp is lit").click()
    until(page, f"{LOOPING} > 0")
    until(page, "window.heard.level() > 0.003")
    page.evaluate(FOLLOW)
    with taping(page) as kept:
        if change == "speed":
            page.get_by_role("radio", name="60 %").click()
        else:
            page.get_by_role("spinbutton", name="Trim in cents").fill("20")
        until(page, f"{LOOPING} === 2")
        listen(page, 1.5)
    assert kept[0].longest_hole() <= 0.030
    clock, x = np.array([one for one in page.evaluate("window.heard.seen") if one[1] is not None]).T
    assert len(x) > 5
    # The playhead goes on from where it is: no jump but the loop's own way back.
    pace = np.diff(x) / np.maximum(np.diff(clock), 1e-3)
    onward = np.diff(x)[np.diff(x) > -100]
    assert np.sum(np.diff(x) < -100) <= 1
    assert onward.min() > -1.5 and np.median(pace) > 0


def hits(at: list[float], seconds: float) -> NDArray[np.float64]:
    """Short hits of noise: the same for each, at full height at once."""
    rng = np.random.default_rng(7)
    burst = rng.normal(0, 0.25, 1_440) * np.exp(-np.arange(1_440) / 300)
    out = np.zeros(round(seconds * RATE))
    for second in at:
        begin = round(second * RATE)
        out[begin : begin + 1_440] += burst
    return out


@pytest.mark.parametrize("percent", [25, 60, 100])
def test_count_in_recording_and_playhead_agree(page: Page, served, percent: int) -> None:
    solo = served.bring(
        f"Hits at {percent}",
        hits([0.5 + 0.5 * beat for beat in range(24)], 14.0),
        chart="| Am7 | D7 | Gmaj7 | E7(b9) |",
        basics={"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 4},
    )
    bar = 4 * QUARTER
    page.goto(f"/solos/{solo}/notes?span={bar}-to-{bar + 2 * QUARTER}&at={bar}")
    page.get_by_role("checkbox", name="Count-in").check()
    page.get_by_role("spinbutton", name="Speed in per cent").fill(str(percent))
    page.get_by_role("group", name="Strip").focus()
    # Once without being heard, so that the next time begins on the tape.
    page.keyboard.press("Backslash")
    until(page, f"{LOOPING} > 0", 30)
    page.keyboard.press("Backslash")
    loops = page.evaluate(LOOPING)
    listen(page, 0.3)
    page.evaluate(FOLLOW)
    with taping(page) as kept:
        page.keyboard.press("Backslash")
        until(page, f"{LOOPING} > {loops}", 30)
        listen(page, (4 + 3) * 0.5 * 100 / percent + 0.8)
    seen = np.array([one for one in page.evaluate("window.heard.seen") if one[1] is not None])
    found = kept[0].onsets()
    beat = 0.5 * 100 / percent
    assert len(found) >= 6
    # Four clicks, then the recording's own hits, one beat after the other.
    expected = found[0] + beat * np.arange(len(found))
    assert np.abs(found - expected).max() < 0.001, np.round((found - expected) * 1_000, 2)
    # Where the playhead stands when a hit is heard, against where the beat is drawn.
    drawn = page.get_by_test_id("playhead").evaluate("(head) => head.parentElement.getBoundingClientRect().left")
    span = page.get_by_test_id("selection").bounding_box()
    assert span is not None
    px_per_beat = span["width"] / 2
    for number, second in enumerate(found[4:6]):
        around = seen[np.abs(seen[:, 0] - second) < beat / 2]
        assert len(around)  # a busy page paints less often; what it paints must be right
        place = (around[:, 1] - (span["x"] - drawn)) / px_per_beat  # in beats from the bar line
        due = number % 2 + (around[:, 0] - second) / beat
        off = (place - due + 1) % 2 - 1
        # The middle one of them: a busy machine may render sound between the drawing of a frame and its clock.
        assert abs(np.median(off)) * beat < 0.020, (number, off * beat)
