"""Opening a solo in the browser, and waiting until its edits are stored."""

from __future__ import annotations

import json
import re
import time

from playwright.sync_api import Locator, Page, expect

QUARTER = 10_080
BAR = 4 * QUARTER
SILENT = {"recording": 0, "voice": 0, "vamp": 0, "count": "none", "countIn": False, "around": False, "key": 0,
          "style": "", "over": "", "volume": 0.5}  # fmt: skip


def open_at(page: Page, solo: str, tick: int = 0) -> None:
    page.goto(f"/solos/{solo}/notes?at={tick}&string=2")
    strip = page.get_by_role("group", name="Strip")
    strip.wait_for()
    strip.focus()


def open_analysis(page: Page, solo: str, tick: int = 0, string: int = 2) -> None:
    page.goto(f"/solos/{solo}/analysis?at={tick}&string={string}")
    page.get_by_role("group", name="Strip").wait_for()
    expect(page.get_by_role("region", name="Phrase")).to_be_visible()


def part(page: Page, name: str) -> None:
    """Turn to one part of the ground."""
    page.get_by_role("tab", name=name).click()


def choose(within: Page | Locator, label: str, option: str | int) -> None:
    """Choose from a list by its words, or by their place."""
    within.get_by_role("combobox", name=label, exact=True).click()
    page = within if isinstance(within, Page) else within.page
    options = page.get_by_role("listbox").last.get_by_role("option")
    (
        options.nth(option)
        if isinstance(option, int)
        else options.filter(has_text=re.compile(f"^{re.escape(option)}$"))
    ).click()


def as_text(page: Page, *, empty: bool = False) -> None:
    """Show the chart as text instead of as a sheet; unless it is `empty`, it is there to be typed over."""
    page.get_by_role("radio", name="text").click()
    if not empty:
        expect(page.get_by_label("Chord chart")).not_to_have_value("")


def saved(page: Page) -> None:
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")


def until(page: Page, expression: str, seconds: float = 20.0) -> None:
    """Wait for something in the page; its content policy forbids the driver's own way of waiting."""
    end = time.monotonic() + seconds
    while not page.evaluate(expression):
        assert time.monotonic() < end, expression
        page.wait_for_timeout(40)


def hand_to(page: Page, position: int) -> None:
    """Move the hand by its keys until it lies at a fret."""
    for _ in range(40):
        now = int(page.get_by_role("spinbutton", name="Position").input_value())
        if now == position:
            return
        page.keyboard.press("Digit8" if now < position else "Digit7")
    raise AssertionError(f"the hand did not reach {position}")


def keys(page: Page, *codes: str) -> None:
    for code in codes:
        page.keyboard.press(code)


def with_sound(page: Page, solo: str, line: str, **sound: object) -> None:
    """How a line sounds, as this browser has kept it."""
    kept = json.dumps(json.dumps(SILENT | sound))
    page.add_init_script(f"localStorage.setItem('usagi.practice.sound {solo} {line}', {kept})")
