"""A phone: what a student has in the hand."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from browser.opening import choose, until

pytestmark = pytest.mark.browser
WIDTH, HEIGHT = 390, 844
THUMB = 44  # pixels that a thumb hits


@pytest.fixture
def phone(browser: Browser, served) -> Iterator[Page]:
    context = browser.new_context(
        base_url=served.base, viewport={"width": WIDTH, "height": HEIGHT}, has_touch=True, is_mobile=True
    )
    page = context.new_page()
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/notes")
    page.get_by_role("option").first.wait_for()
    yield page
    context.close()


def test_a_bar_and_a_half_is_in_view_beside_the_letters_of_the_strings(phone: Page) -> None:
    strip = phone.get_by_role("group", name="Strip")
    box = strip.bounding_box()
    assert box is not None and box["width"] == WIDTH
    bars = [phone.get_by_role("button", name=f"Chord {chord}").first.bounding_box() for chord in ("Em7", "Am9")]
    assert bars[0] is not None and bars[1] is not None
    assert (bars[1]["x"] - bars[0]["x"]) * 1.5 == pytest.approx(WIDTH - 30, rel=0.05)
    texts = strip.evaluate(
        """(one) => [...one.querySelectorAll('svg text')]
          .filter((text) => text.getBoundingClientRect().right < 30).map((text) => text.textContent)"""
    )
    assert [text for text in texts if text] == ["E", "B", "G", "D", "A", "E"]
    first = phone.get_by_role("option").first.bounding_box()
    assert first is not None and first["x"] < 60  # the solo begins at the left edge


def test_the_player_lies_under_one_thumb_and_turns_pages(phone: Page) -> None:
    for name in ("Play", "Loop", "Last 2 s", "A step down", "A step up", "Sound", "Tools"):
        box = phone.get_by_role("button", name=name, exact=True).bounding_box()
        assert box is not None, name
        assert box["width"] >= THUMB and box["height"] >= THUMB, name
        assert box["y"] > HEIGHT * 0.8 and box["y"] + box["height"] <= HEIGHT, name
        assert box["x"] >= 0 and box["x"] + box["width"] <= WIDTH, name
    phone.get_by_role("button", name="A step down").tap()
    expect(phone.get_by_label("Speed now")).to_have_text("95 %")
    scrolled = "document.querySelector('[aria-label=Strip]').scrollLeft"
    before = phone.evaluate(scrolled)
    phone.get_by_role("button", name="Play", exact=True).tap()
    until(phone, f"{scrolled} > {before} + 200")
    phone.get_by_role("button", name="Stop").tap()


def test_sound_and_tools_come_from_below_and_what_is_left_out_is_said(phone: Page) -> None:
    phone.get_by_role("button", name="Sound", exact=True).tap()
    sheet = phone.get_by_role("dialog", name="How it sounds")
    sheet.get_by_role("radio", name="50 %").tap()
    sheet.get_by_role("checkbox", name="Count-in 1 bar").check()
    expect(sheet.get_by_role("slider", name="Volume")).to_be_visible()
    box = sheet.bounding_box()
    assert box is not None and box["y"] + box["height"] == pytest.approx(HEIGHT, abs=1) and box["y"] > 100
    assert sheet.evaluate("(one) => one.scrollWidth <= one.clientWidth")
    sheet.get_by_role("button", name="Close").tap()
    expect(phone.get_by_label("Speed now")).to_have_text("50 %")

    phone.get_by_role("button", name="Tools", exact=True).tap()
    tools = phone.get_by_role("dialog", name="Tools")
    expect(tools).to_contain_text("A phone leaves out the hand block, the neck, Setup, exports and the list of keys.")
    tools.get_by_role("button", name="doubts").tap()
    expect(tools.get_by_role("region", name="Tool: doubts")).to_be_visible()
    assert tools.evaluate("(one) => one.scrollWidth <= one.clientWidth")
    phone.keyboard.press("Escape")
    expect(tools).to_have_count(0)


def test_every_stage_but_setup_is_reached_from_the_header(phone: Page) -> None:
    for stage, there in (
        ("Check", phone.get_by_role("status", name="Check")),
        ("Analysis", phone.get_by_role("region", name="Phrase", exact=True)),
        ("Phrases", phone.get_by_role("region", name="In hand")),
        ("Teach", phone.get_by_role("listbox", name="Lines of the plan")),
        ("Notes", phone.get_by_role("group", name="Strip")),
    ):
        choose(phone, "Stage", stage)
        expect(there).to_be_visible()
        assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth"), stage
    phone.get_by_role("combobox", name="Stage").click()
    expect(phone.get_by_role("option", name="Setup")).to_have_count(0)
