"""The keyboard comes back: whatever was open over a page, the next key is for the strip again."""

from __future__ import annotations

import itertools
import re
import time
from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, expect

from browser.opening import BAR, QUARTER, hand_to, open_at, part, saved

pytestmark = pytest.mark.browser


def button(name: str | re.Pattern[str]) -> Callable[[Page], Locator]:
    return lambda page: page.get_by_role("button", name=name, exact=isinstance(name, str)).first


def in_menu(menu: str, item: str) -> Callable[[Page], Locator]:
    def found(page: Page) -> Locator:
        button(menu)(page).click()
        return page.get_by_role("menuitem", name=item).first

    return found


DIALOGS: dict[str, Callable[[Page], Locator]] = {
    "keys": button("? keys"),
    "new phrase": button("new phrase …"),
    "other changes": button("other changes …"),
    "ladder": button(re.compile("Ladder …")),
    "legend": in_menu("View", "Legend"),
    "a document": in_menu("Export", "Other formats …"),
    "a picture": in_menu("Export", "Picture …"),
    "sound": in_menu("Export", "Sound …"),
}


@pytest.fixture
def written(page: Page, served, new_solo: Callable[..., str]) -> Callable[[str], None]:
    """A solo that is open with its first bar marked; told a place, the next key has to write a note there."""
    solo = new_solo("Keys Come Back", bars=32, last_bar=32)
    page.goto(f"/solos/{solo}/notes?span=0-to-{BAR}&at=0")
    page.get_by_role("group", name="Strip").focus()

    columns = itertools.cycle(["KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY"])  # each another string

    def writes(after: str) -> None:
        before = len(served.stored(solo)["notes"])
        page.keyboard.press(next(columns))
        end = time.monotonic() + 10
        while len(served.stored(solo)["notes"]) != before + 1:
            assert time.monotonic() < end, f"after {after} a key wrote no note"
            page.wait_for_timeout(50)

    return writes


def test_after_every_dialog_and_menu_the_next_key_writes(page: Page, written: Callable[[str], None]) -> None:
    for name, opens in DIALOGS.items():
        opens(page).click()
        dialog = page.get_by_role("dialog")
        expect(dialog).to_be_visible()
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)
        written(f"Escape in {name}")
        opens(page).click()
        expect(dialog).to_be_visible()
        page.mouse.click(4, 4)  # outside of it
        expect(dialog).to_have_count(0)
        written(f"a click that closes {name}")
    for menu in ("Export", "View"):
        button(menu)(page).click()
        page.get_by_role("menu").wait_for()
        page.keyboard.press("Escape")
        expect(page.get_by_role("menu")).to_have_count(0)
        written(f"the menu {menu}")
        button(menu)(page).click()
        page.get_by_role("menu").wait_for()
        page.keyboard.press("Escape")
        page.keyboard.press("?")  # alive behind a closed menu
        expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Shift+Enter")  # the menu at the note
    page.get_by_role("menu").wait_for()
    page.keyboard.press("Escape")
    written("the menu at the note")


def test_after_naming_and_asking_the_next_key_writes(page: Page, written: Callable[[str], None]) -> None:
    button("new phrase …")(page).click()
    page.get_by_label("Name", exact=True).fill("the tide")
    page.keyboard.press("Enter")
    written("New phrase")
    button("Phrase the tide")(page).click()
    button("name phrase …")(page).click()
    page.get_by_label("Name", exact=True).fill("the ebb")
    page.get_by_role("dialog").get_by_role("button", name="Name", exact=True).click()
    written("Name phrase")
    page.get_by_role("navigation", name="Tools").get_by_role("button", name=re.compile("^doubts")).click()
    written("a tool")
    button("Ask …")(page).click()
    page.get_by_label(re.compile("^About ")).fill("fret 13 or 8?")
    page.get_by_label("Possible answers, with commas").fill("13, 8")
    page.keyboard.press("Enter")
    written("Ask")
    button("13")(page).click()
    written("an answer")


def test_space_plays_wherever_no_text_is_typed(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Space Plays")
    open_at(page, solo)
    hand_to(page, 5)
    page.keyboard.press("KeyT")
    bend = page.get_by_role("button", name=re.compile("^.*bend", re.I)).first
    bend.click()
    saved(page)
    bent = served.stored(solo)["notes"][0]["course"]
    assert bent != []
    page.keyboard.press("Space")
    stop = page.get_by_role("button", name="Stop", exact=True)
    expect(stop).to_be_visible()
    page.keyboard.press("Space")
    expect(stop).to_have_count(0)
    # Reached by Tab a button keeps the focus, and Space still plays; Enter presses it.
    bend.focus()
    page.keyboard.press("Space")
    expect(stop).to_be_visible()
    page.keyboard.press("Space")
    saved(page)
    assert served.stored(solo)["notes"][0]["course"] == bent
    for label, text in (("Speed in per cent", "80"), ("Trim in cents", "5")):
        field = page.get_by_role("spinbutton", name=label)
        field.click()
        field.fill(text)
        page.keyboard.press("Enter")
        before = page.get_by_role("option").count()
        page.keyboard.press("KeyT")
        expect(page.get_by_role("option")).to_have_count(before + 1)


def test_in_setup_keys_write_nothing_and_say_so(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Setup Keys")
    before = served.stored(solo)["notes"]
    page.goto(f"/solos/{solo}/ground")
    part(page, "Time")
    page.get_by_role("group", name="Strip").focus()
    for key in ("KeyT", "Delete"):
        page.keyboard.press(key)
        expect(page.get_by_text("Keys write notes in Notes and in the stages after it, not in Setup.")).to_be_visible()
    assert served.stored(solo)["notes"] == before


@pytest.mark.parametrize("stage", ["check", "analysis", "phrases"])
def test_every_stage_whose_keys_write_shows_the_note_and_the_act(
    page: Page, served, phrased: Callable[..., str], stage: str
) -> None:
    solo = phrased(f"Written in {stage}")
    page.goto(f"/solos/{solo}/{stage}?at={QUARTER}&string=2")
    strip = page.get_by_role("group", name="Strip")
    strip.wait_for()
    sentence = page.get_by_role("status", name="Sentence")
    expect(sentence).to_contain_text("fret 6")
    strip.focus()
    page.keyboard.press("Delete")
    expect(page.get_by_role("status", name="What was done")).to_contain_text(re.compile("delete", re.I))
    expect(page.get_by_role("option")).to_have_count(7)
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(8)
    expect(sentence).to_contain_text("fret 6")


def test_the_lines_of_the_plan_get_the_keys_back(page: Page, phrased: Callable[..., str]) -> None:
    page.goto(f"/solos/{phrased('Lines Come Back')}/teach")
    chosen = page.get_by_role("option", selected=True)
    page.get_by_role("option").filter(has_text="a · up").click()
    for opens in ("Change it …", "Write one …", "Loop pack …"):
        button(opens)(page).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("ArrowDown")
        expect(chosen).not_to_contain_text("a · up")
        page.keyboard.press("ArrowUp")
        expect(chosen).to_contain_text("a · up")


def test_a_click_leaves_the_keys_with_the_strip(page: Page, new_solo: Callable[..., str]) -> None:
    open_at(page, new_solo("Click And Key"))
    page.get_by_role("checkbox", name="Count-in").click()
    page.keyboard.press("KeyT")
    expect(page.get_by_role("option")).to_have_count(1)
    page.get_by_role("radio", name="50 %").click()
    page.keyboard.press("KeyR")
    expect(page.get_by_role("option")).to_have_count(2)
