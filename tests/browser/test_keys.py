"""Keys as the reader sets them: bound anew, string and number, the pedal, other boards."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from browser.opening import QUARTER, open_at, saved

pytestmark = pytest.mark.browser
EIGHTH = QUARTER // 2


def places(served, solo: str) -> list[tuple[int, int, int]]:
    return [(n["tick"], n["string"], n["fret"] // 100) for n in served.stored(solo)["notes"]]


def test_string_and_number_entry(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("By Number")
    open_at(page, solo)
    page.keyboard.press("?")
    page.get_by_label("String and number instead of the block").check()
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Strip").focus()
    for code in ("KeyG", "Digit1", "Digit2", "KeyF", "Digit7", "KeyF", "Digit5", "KeyA", "Digit0"):
        page.keyboard.press(code)
    saved(page)
    assert places(served, solo) == [(0, 2, 12), (EIGHTH, 3, 7), (2 * EIGHTH, 3, 5), (3 * EIGHTH, 6, 0)]
    expect(page.get_by_role("figure", name="The neck from above")).to_contain_text("frets by digits")


def test_a_key_is_bound_anew_and_reset(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Bound")
    open_at(page, solo)
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    keys.get_by_role("button", name="Key for dead note").click()
    page.keyboard.press("KeyT")
    expect(keys.get_by_role("status")).to_contain_text("writes notes")
    page.keyboard.press("NumpadEnter")
    expect(keys.get_by_role("button", name="Key for dead note")).to_have_accessible_name(
        "Key for dead note: NumpadEnter"
    )
    page.keyboard.press("Escape")
    page.reload()
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    page.keyboard.press("KeyT")
    page.keyboard.press("NumpadEnter")
    saved(page)
    (note,) = served.stored(solo)["notes"]
    assert note["dead"]
    page.keyboard.press("?")
    keys.get_by_role("button", name="Reset all keys").click()
    expect(keys.get_by_role("button", name="Key for dead note")).to_have_accessible_name("Key for dead note: '")


def test_a_pedal_plays_and_moves_wherever_the_focus_is(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    open_at(page, solo)
    page.get_by_role("button", name="Volume").or_(page.get_by_label("Zoom in")).first.focus()
    page.keyboard.press("PageDown")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    page.keyboard.press("PageUp")
    expect(page.get_by_text("Looping the lamp is lit")).to_be_visible()
    page.keyboard.press("PageUp")
    expect(page.get_by_text("Looping down to the leading note")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    page.get_by_role("button", name="? keys").click()
    page.get_by_label("The pedal has the arrow keys, too").check()
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.keyboard.press("ArrowRight")


def test_another_board_shows_its_own_letters(page: Page, new_solo: Callable[..., str]) -> None:
    page.add_init_script(
        """Object.defineProperty(navigator, "keyboard", { value: { getLayoutMap: async () => new Map([
             ["KeyQ", "a"], ["KeyA", "q"], ["KeyZ", "w"], ["KeyW", "z"], ["Semicolon", "m"], ["KeyM", ","]]) } });"""
    )
    open_at(page, new_solo("Another Board"))
    neck = page.get_by_role("figure", name="The neck from above")
    expect(neck.get_by_text("A", exact=True).first).to_be_visible()
    expect(neck.get_by_text("Z", exact=True)).to_have_count(1)
    page.keyboard.press("?")
    expect(
        page.get_by_role("dialog", name="Keys").get_by_role("button", name="Key for in a triplet")
    ).to_have_accessible_name("Key for in a triplet: M")


def test_a_ladder_climbs_by_itself_on_the_sample_and_by_key(page: Page, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Climb", tempo_bpm=240)
    open_at(page, solo)
    for _ in range(8):
        page.keyboard.press("Shift+ArrowRight")
    page.get_by_role("button", name="Ladder …").click()
    ladder = page.get_by_role("dialog", name="A ladder of speeds")
    ladder.get_by_label("From %").fill("120")
    ladder.get_by_label("To %").fill("110")
    ladder.get_by_role("button", name="Start the ladder").click()
    expect(ladder.get_by_role("alert")).to_contain_text("its last rung is faster than its first")
    for name, value in (("From %", "100"), ("To %", "120"), ("Step, %", "10"), ("Passes at each step", "2")):
        ladder.get_by_label(name).fill(value)
    ladder.get_by_role("button", name="Start the ladder").click()
    speed = page.get_by_label("Speed in per cent")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backslash")
    expect(page.get_by_role("status", name="Ladder")).to_contain_text("pass 2 of 2", timeout=10_000)
    expect(speed).to_have_value("110", timeout=10_000)
    expect(speed).to_have_value("120", timeout=10_000)
    loops = [s for s in page.evaluate("window.heard.sources") if s["loop"]]
    first, second, third = loops[-3:]
    assert [s["frames"] for s in (second, third)] == [round(first["frames"] / 1.1), round(first["frames"] / 1.2)]
    passes = (third["when"] - second["when"]) * second["rate"] / second["frames"]
    # Two passes; on a machine too busy to have the rung in time it waits for the end of a third, never in between.
    assert abs(passes - round(passes)) * second["frames"] < 0.5 and round(passes) in (2, 3)
    page.keyboard.press("BracketLeft")
    expect(speed).to_have_value("110")
    page.get_by_role("button", name="A step up").click()
    expect(speed).to_have_value("120")
    page.keyboard.press("Space")
