"""What a person typed stays until it is stored or thrown away on purpose, and nothing is stored twice."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from browser.opening import BAR, QUARTER, open_analysis, open_at, saved

pytestmark = pytest.mark.browser
WORDS = "he sings it first"  # every letter of it is a key that writes a note or shapes one


def strip(page: Page) -> Locator:
    return page.get_by_role("group", name="Strip")


def away(page: Page, address: str = "**/api/**") -> None:
    """The server cannot be reached."""
    page.route(address, lambda route: route.abort())


def back(page: Page, address: str = "**/api/**") -> None:
    page.unroute(address)


def kept_from_before(where: Page | Locator) -> Locator:
    return where.get_by_role("status", name="Draft").filter(has_text="You typed this before; it is not saved yet.")


def own_words(page: Page) -> Locator:
    return page.get_by_role("textbox", name="In my words")


# -- words of a phrase --------------------------------------------------------------------------------------------------


def test_own_words_stay_in_their_field_until_they_are_stored(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Words Stay")
    open_analysis(page, solo)
    strip(page).focus()
    page.keyboard.press("Digit0")
    own_words(page).fill("Up by step, then it waits.")
    away(page)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("alert")).not_to_have_text("")
    expect(own_words(page)).to_have_value("Up by step, then it waits.")
    back(page)
    page.reload()  # nothing was stored, and nothing is lost
    expect(page.get_by_role("status", name="Draft")).to_contain_text("is kept and not saved yet")
    assert "Up by step" not in str(served.stored(solo))
    page.get_by_role("button", name=re.compile("^In my words")).click()
    expect(own_words(page)).to_have_value("Up by step, then it waits.")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(own_words(page)).to_have_count(0)
    expect(page.get_by_role("status", name="Draft")).to_have_count(0)
    assert "Up by step, then it waits." in str(served.stored(solo))


def test_words_that_are_typed_over_reasons_are_no_notes(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Sung First")
    before = served.stored(solo)["notes"]
    open_analysis(page, solo)
    strip(page).focus()
    page.keyboard.press("Digit9")
    expect(page.get_by_role("list", name="Why")).to_be_visible()
    page.keyboard.press("Digit0")
    page.keyboard.type(WORDS)
    expect(own_words(page)).to_have_value(re.compile(re.escape(WORDS)))
    page.keyboard.press("Escape")
    # Where the field cannot be there, as what is marked is no phrase, the keys wait for Escape and say so.
    page.goto(f"/solos/{solo}/analysis?span=0-to-{2 * BAR}&at=0&string=2")
    expect(page.get_by_role("region", name="Phrase").get_by_role("heading")).to_have_text("What is marked")
    strip(page).focus()
    page.keyboard.press("Digit0")
    page.keyboard.type(WORDS)
    expect(page.get_by_text("No text field is open.").first).to_be_visible()
    saved(page)
    assert served.stored(solo)["notes"] == before
    page.keyboard.press("Escape")
    page.keyboard.press("Delete")
    expect(page.get_by_role("option")).to_have_count(0)


def test_a_click_on_a_note_leaves_a_draft_that_is_thrown_away_on_purpose(
    page: Page, served, phrased: Callable[..., str]
) -> None:
    open_analysis(page, phrased("Words By A Click"))
    page.get_by_role("button", name=re.compile("^In my words")).click()
    own_words(page).fill("Half of a thought")
    page.get_by_role("option").nth(5).click()  # a note of the other phrase
    expect(page.get_by_role("region", name="Phrase").get_by_role("heading")).to_have_text("down")
    page.get_by_role("option").first.click()
    if own_words(page).count() == 0:
        page.get_by_role("button", name=re.compile("^In my words")).click()
    expect(own_words(page)).to_have_value("Half of a thought")
    kept_from_before(page).get_by_role("button", name="Throw it away").click()
    expect(own_words(page)).not_to_have_value("Half of a thought")
    page.keyboard.press("Escape")
    expect(page.get_by_role("status", name="Draft")).to_have_count(0)


# -- every field of words: Escape and a reload leave what was typed, Cancel throws it away -------------------------------


def ask_for_a_remark(page: Page, solo: str) -> Locator:
    page.goto(f"/solos/{solo}/teach")
    page.get_by_role("listbox", name="Lines of the plan").get_by_role("option").filter(has_text="a · up").click()
    page.get_by_role("button", name="Write one …").click()
    return page.get_by_role("dialog").get_by_label("Words")


def ask_for_a_phrase(page: Page, solo: str) -> Locator:
    page.goto(f"/solos/{solo}/notes?span={2 * BAR}-to-{3 * BAR}&at={2 * BAR}")
    page.get_by_role("button", name="new phrase …").click()
    return page.get_by_role("dialog", name="New phrase").get_by_label("Name")


def ask_for_other_changes(page: Page, solo: str) -> Locator:
    page.goto(f"/solos/{solo}/notes?span=0-to-{BAR}&at=0")
    page.get_by_role("button", name="other changes …").click()
    return page.get_by_role("dialog").get_by_label("Chords")


def tool(page: Page, solo: str, name: str) -> None:
    page.goto(f"/solos/{solo}/notes?span=0-to-{BAR}&at=0")
    page.get_by_role("navigation", name="Tools").get_by_role("button", name=re.compile(f"^{name}")).click()


def ask_a_question(page: Page, solo: str) -> Locator:
    tool(page, solo, "doubts")
    page.get_by_role("button", name="Ask …").click()
    return page.get_by_label(re.compile("^About "))


def ask_for_tablature(page: Page, solo: str) -> Locator:
    tool(page, solo, "find and write")
    page.get_by_role("button", name=re.compile("tablature", re.I)).click()
    return page.get_by_role("dialog").get_by_label("Paste it here")


def ask_for_a_version(page: Page, solo: str) -> Locator:
    tool(page, solo, "versions")
    return page.get_by_label("A new version of this solo")


ASKED: dict[str, Callable[[Page, str], Locator]] = {
    "remark": ask_for_a_remark,
    "phrase": ask_for_a_phrase,
    "question": ask_a_question,
    "other changes": ask_for_other_changes,
    "tablature": ask_for_tablature,
    "version": ask_for_a_version,
}


@pytest.mark.parametrize("what", ASKED)
def test_words_outlive_escape_and_a_reload(page: Page, phrased: Callable[..., str], what: str) -> None:
    solo = phrased(f"Draft of a {what}")
    field = ASKED[what](page, solo)
    field.fill("Not done yet")
    field.press("Escape")
    page.reload()
    field = ASKED[what](page, solo)
    expect(field).to_have_value("Not done yet")
    kept_from_before(page).get_by_role("button", name="Throw it away").click()
    expect(field).to_have_value("")


# -- nothing twice ------------------------------------------------------------------------------------------------------


def twice(page: Page, button: Locator, address: str) -> list[Any]:
    """Click twice while the first answer is late; what was sent."""
    sent: list[Any] = []

    def late(route: Any) -> None:
        sent.append(route.request.post_data_json)
        page.wait_for_timeout(600)
        route.continue_()

    page.route(address, late)
    button.dblclick()
    expect(button).to_have_count(0)
    return sent


def test_a_remark_kept_twice_is_one(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Remark Twice")
    ask_for_a_remark(page, solo).fill("Thumb behind the neck.")
    sent = twice(page, page.get_by_role("dialog").get_by_role("button", name="Keep"), "**/remarks*")
    assert len(sent) == 1
    assert [one["words"] for one in served.stored(solo)["remarks"]] == ["Thumb behind the neck."]
    # An answer that was lost: what is sent again carries the same id.
    assert len(served.post(f"/api/solos/{solo}/remarks", sent[0])) > 0
    assert len(served.stored(solo)["remarks"]) == 1


def test_a_dialog_that_fails_says_why_and_sends_what_it_made_once(
    page: Page, served, phrased: Callable[..., str]
) -> None:
    solo = phrased("Remark Lost")
    field = ask_for_a_remark(page, solo)
    field.fill("Wait for the bass.")
    away(page, "**/remarks*")
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog.get_by_role("alert")).not_to_have_text("")
    expect(field).to_have_value("Wait for the bass.")
    back(page, "**/remarks*")

    def stored_and_lost(route: Any) -> None:
        route.fetch()
        route.abort()

    page.route("**/remarks*", stored_and_lost)
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog.get_by_role("alert")).not_to_have_text("")
    back(page, "**/remarks*")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog).to_have_count(0)
    assert [one["words"] for one in served.stored(solo)["remarks"]] == ["Wait for the bass."]


def test_a_double_click_on_cut_opens_nothing_beneath(page: Page, phrased: Callable[..., str]) -> None:
    solo = phrased("Clicked Twice")
    ask_for_a_phrase(page, solo).fill("the tail")
    before = page.url
    page.get_by_role("dialog").get_by_role("button", name="Cut").dblclick()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("button", name="? keys").focus()
    page.keyboard.press("Enter")  # a key that presses a button is no second click
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("Escape")
    saved(page)
    assert page.url.split("?")[0] == before.split("?")[0]
    open_at(page, solo, QUARTER)
    expect(page.get_by_text("the tail").first).to_be_attached()
