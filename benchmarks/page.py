"""What the page takes: loading, opening, a key until it is painted, frames while it plays, scrolls and zooms."""

from __future__ import annotations

import gzip
import io
import os
import statistics
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import Browser, Page, sync_playwright

from benchmarks import sounds
from benchmarks.figures import Figure
from benchmarks.running import Server, running
from usagi.core.meter.ticks import WHOLE

ROOT = Path(__file__).parents[1]
FLAGS = ["--no-sandbox", "--autoplay-policy=no-user-gesture-required", "--hide-scrollbars"]
# Milliseconds from a key until the frame that shows it has been painted.
KEY_TO_PAINT = """
window.painted = [];
window.addEventListener("keydown", (event) => {
  const from = event.timeStamp;
  requestAnimationFrame(() => { const channel = new MessageChannel(); channel.port1.onmessage = () => window.painted.push(performance.now() - from); channel.port2.postMessage(0); });
}, true);
"""
# Milliseconds from the start of the way here until the frame with the first notes has been painted; asked from
# outside, the driver's own looking would be in it.
DRAWN = """
(function look() {
  if (document.querySelector("[role=option]") === null) return void requestAnimationFrame(look);
  const channel = new MessageChannel();
  channel.port1.onmessage = () => { window.drawn = performance.now(); };
  channel.port2.postMessage(0);
})();
"""
FRAMES = """(seconds) => new Promise((done) => {
  const times = []; const until = performance.now() + seconds * 1000; let long = 0;
  const seen = new PerformanceObserver((list) => { for (const entry of list.getEntries()) long = Math.max(long, entry.duration); });
  seen.observe({ entryTypes: ["longtask"] });
  const look = (now) => { times.push(now); if (now < until) requestAnimationFrame(look); else { seen.disconnect(); done({ times, long }); } };
  requestAnimationFrame(look);
})"""
# When a key went down and when the first sound after it begins, on the page's clock.
SOUNDS = """
window.keyAt = 0; window.soundAt = [];
window.addEventListener("keydown", () => { window.keyAt = performance.now(); window.soundAt.length = 0; }, true);
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (when, ...rest) {
  window.soundAt.push(performance.now() + 1000 * Math.max(0, (when ?? 0) - this.context.currentTime));
  return start.call(this, when, ...rest);
};
"""
EMPTY_LIST = """<ol tabindex="0">%s</ol><script>%s
document.querySelector("ol").addEventListener("keydown", () => { const item = document.createElement("li"); item.textContent = "x"; document.querySelector("ol").append(item); });
</script>"""


def keys(page: Page, codes: list[str]) -> list[float]:
    page.evaluate("window.painted.length = 0")
    for code in codes:
        page.keyboard.press(code)
        page.wait_for_timeout(60)
    found: list[float] = page.evaluate("window.painted")
    return found


def rate(found: dict[str, list[float]]) -> float:
    """Frames a second, as the median frame has it."""
    return float(1_000 / np.median(np.diff(found["times"])))


def a_minute_of_stereo() -> bytes:
    left, right = sounds.mix(1_200, 60.0)
    out = io.BytesIO()
    soundfile.write(out, np.stack([left, right], axis=1), sounds.RATE, format="WAV")
    return out.getvalue()


def first_sound(server: Server, browser: Browser) -> Iterator[Figure]:
    """A span of 10 s at half speed, from the key to its first sample."""
    recording = server.upload("/api/recordings", "minute.wav", a_minute_of_stereo())[0]["recording"]["id"]
    body = {"tune": "A minute", "recording_id": recording, "chart": "| Am7 |", "basics": {"tempo_bpm": 96}}
    solo = server.ask("/api/solos", body)[0]["solo_id"]
    fresh: list[float] = []
    known: list[float] = []
    for number in range(5):
        context = browser.new_context(base_url=server.base, viewport={"width": 1280, "height": 800})
        context.add_init_script(SOUNDS)
        page = context.new_page()
        begin = number * 4 * WHOLE // 2
        page.goto(f"/solos/{solo}/notes?span={begin}-to-{begin + 4 * WHOLE}")
        page.get_by_role("radio", name="50 %").click()
        page.wait_for_timeout(500)
        page.get_by_role("group", name="Strip").focus()
        for kept in (fresh, known):
            page.keyboard.press("Backslash")
            page.wait_for_timeout(6_000)
            kept.append(page.evaluate("Math.min(...window.soundAt) - window.keyAt"))
            page.keyboard.press("Backslash")
            page.wait_for_timeout(300)
        context.close()
    yield Figure("10 s at 50 %, not heard before: key to first sound, worst of 5", max(fresh), "ms", 300)
    yield Figure("10 s at 50 %, heard before: key to first sound, worst of 5", max(known), "ms", 50)


def script_kb() -> float:
    """Compressed script of the first load: what index.html names, and what those import at once."""
    dist = ROOT / "web" / "dist"
    html = (dist / "index.html").read_text()
    first = [path for path in (dist / "assets").glob("*.js") if path.name in html]
    bench = list((dist / "assets").glob("BenchPage*.js"))
    return sum(len(gzip.compress(path.read_bytes())) for path in (*first, *bench)) / 1_000


def figures() -> Iterator[Figure]:
    yield Figure("first load, compressed script", script_kb(), "kB", 350)
    with running() as server, sync_playwright() as playwright:
        path = os.environ.get("USAGI_CHROMIUM", "/usr/bin/chromium-headless-shell")
        browser = playwright.chromium.launch(executable_path=path, args=FLAGS)
        try:
            yield from _with(server, browser)
            yield from first_sound(server, browser)
        finally:
            browser.close()


def _with(server: Server, browser: Browser) -> Iterator[Figure]:
    small = server.big(60, 16, 0.5)
    big = server.big(2_000, 400, 10.0)
    times = []
    for _ in range(3):
        context = browser.new_context(base_url=server.base, viewport={"width": 1280, "height": 800})
        page = context.new_page()
        page.goto(f"/solos/{small}/notes")
        page.get_by_role("group", name="Strip").wait_for()
        times.append(page.evaluate("performance.now()"))
        context.close()
    yield Figure("page ready from a cold browser, median of 3", statistics.median(times) / 1_000, "s", 1.5)

    context = browser.new_context(base_url=server.base, viewport={"width": 1280, "height": 800})
    context.add_init_script(KEY_TO_PAINT)
    plain = context.new_page()
    plain.set_content(EMPTY_LIST % ("<li>x</li>" * 2_000, KEY_TO_PAINT))
    plain.locator("ol").focus()
    empty = keys(plain, ["KeyT"] * 40)
    base = f"{np.percentile(empty, 95):.0f} ms on a list of 2,000 items"
    opened = []
    for _ in range(4):
        page.close()
        page = context.new_page()
        page.add_init_script(DRAWN)
        page.goto(f"/solos/{big}/notes")
        while (drawn := page.evaluate("window.drawn")) is None:
            page.wait_for_timeout(100)
        opened.append(drawn / 1_000)
    name = "opening 2,000 notes to a drawn strip"
    yield Figure(f"{name}, for the first time", opened[0], "s")
    yield Figure(f"{name}, median of 3 more", statistics.median(opened[1:]), "s", 1.0)
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    moves = keys(page, ["ArrowRight", "ArrowDown", "ArrowRight", "ArrowUp"] * 10)
    writes = keys(page, ["KeyT", "KeyR", "KeyE", "KeyU"] * 10)
    name = "key to paint with 2,000 notes, p95"
    yield Figure(f"{name}, moving", float(np.percentile(moves, 95)), "ms", 32, baseline=base)
    yield Figure(f"{name}, writing", float(np.percentile(writes, 95)), "ms", 32, baseline=base)
    page.get_by_role("button", name="Zoom in").focus()
    page.evaluate("window.zooming = setInterval(() => document.querySelector('[aria-label=\"Zoom in\"]').click(), 90)")
    zoom = page.evaluate(FRAMES, 1.0)
    page.evaluate("clearInterval(window.zooming)")
    yield Figure("frames a second while zooming, median", rate(zoom), "1/s", 50, at_least=True)
    strip.focus()
    page.keyboard.press("Space")
    page.get_by_role("button", name="Stop").wait_for()
    page.wait_for_timeout(2_000)
    page.evaluate(
        "window.rolling = setInterval(() => document.querySelector('[aria-label=Strip]').scrollLeft += 8, 16)"
    )
    playing = page.evaluate(FRAMES, 6.0)
    page.evaluate("clearInterval(window.rolling)")
    yield Figure("frames a second while playing and scrolling, median", rate(playing), "1/s", 59, at_least=True)
    yield Figure("longest task while playing and scrolling", playing["long"], "ms", 50)
    page.keyboard.press("Space")
    context.close()
