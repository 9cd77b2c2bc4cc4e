"""The page to play from: what it keeps by line and day, what it says of silence, and that it goes on without the server."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from browser.listening import listen
from browser.opening import QUARTER, until, with_sound

pytestmark = pytest.mark.browser
GOES_ON = "The server does not answer. What sounds goes on; what you asked for comes when it is back."


@pytest.fixture
def stair(served, phrased: Callable[..., str]) -> Callable[..., str]:
    """Two short phrases with a stair of their own."""

    def make(tune: str, **settings: object) -> str:
        solo = phrased(tune, tempo_bpm=240)
        served.post(
            f"/api/solos/{solo}/plan/settings", {"start": 800, "goal": 1_000, "step": 100, "passes": 2} | settings
        )
        return solo

    return make


def where(page: Page) -> Locator:
    return page.get_by_role("status", name="Where you are")


def plays(page: Page) -> None:
    page.keyboard.press("Space")
    until(page, "window.heard.level() > 0.003")


def test_without_the_server_what_loops_goes_on_and_the_rest_waits(page: Page, stair: Callable[..., str]) -> None:
    solo = stair("Loop Alone", passes=50)
    with_sound(page, solo, "phrase:p0", voice=1)
    with_sound(page, solo, "phrase:p1", voice=1)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Play").wait_for()
    plays(page)
    listen(page, 1.5)  # the whole loop is here
    page.route("**/api/**", lambda route: route.abort())
    page.get_by_role("button", name="Faster").click()
    expect(page.get_by_role("alert")).to_have_text(GOES_ON)
    heading = page.get_by_role("heading", level=1)
    page.get_by_role("button", name="Next line").click()
    expect(page.get_by_role("alert")).to_contain_text("opens when it is back.")
    expect(heading).to_have_text("a · up")  # what is not loaded is not named
    for _ in range(5):
        listen(page, 0.5)
        until(page, "window.heard.level() > 0.003", 1)
    page.unroute("**/api/**")
    expect(heading).to_have_text("a and b joined", timeout=10_000)
    expect(page.get_by_role("alert")).to_have_count(0)
    until(page, "window.heard.level() > 0.003")


def test_silence_is_said_and_counts_no_pass(page: Page, stair: Callable[..., str]) -> None:
    solo = stair("Loop Silent", passes=1)
    with_sound(page, solo, "phrase:p0")
    page.goto(f"/practice/{solo}?line=phrase:p0")
    expect(page.get_by_role("status", name="Silence")).to_have_text(
        "Nothing sounds: turn up the recording, the writing or the vamp in Sound. Passes do not count."
    )
    page.keyboard.press("Space")
    until(page, "window.heard.sources.some((one) => one.loop)")
    listen(page, 3.5)  # nearly three passes
    expect(where(page)).to_have_text("80 %, 192 a minute, pass 1 of 1")


def test_sound_belongs_to_the_line_and_what_sounds_besides_is_named(page: Page, stair: Callable[..., str]) -> None:
    solo = stair("Vamp Here")
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Sound", exact=True).click()
    over = page.get_by_label("Vamp over one chord")
    over.fill("Hm7b")
    over.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Hm7b")
    over.fill("Dm7")
    over.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.keyboard.press("Escape")
    beside = page.get_by_role("status", name="What sounds besides")
    expect(beside).to_contain_text("a vamp over Dm7")
    page.goto(f"/practice/{solo}?line=phrase:p1")
    expect(page.get_by_role("heading", level=1)).to_have_text("b · down")
    expect(beside).to_have_count(0)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    expect(beside).to_contain_text("a vamp over Dm7")


def test_the_place_on_the_stair_stays_over_lines_and_a_reload(page: Page, stair: Callable[..., str]) -> None:
    solo = stair("Stair Stays", passes=1)
    with_sound(page, solo, "phrase:p0", voice=1)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Faster").click()
    expect(where(page)).to_contain_text("90 %")
    page.reload()
    expect(where(page)).to_contain_text("90 %")
    page.get_by_role("button", name="Next line").click()
    expect(where(page)).to_contain_text("80 %")
    page.get_by_role("button", name="Line before").click()
    expect(where(page)).to_contain_text("90 %")
    page.get_by_role("button", name="Faster").click()
    plays(page)
    expect(where(page)).to_contain_text("at the goal, and clean", timeout=10_000)
    page.get_by_role("button", name="Faster").click()  # throws nothing away
    expect(page.get_by_text("This is the goal of the line.")).to_be_visible()
    expect(where(page)).to_contain_text("at the goal, and clean")
    page.keyboard.press("m")
    expect(where(page)).to_contain_text("pass 1 of 1", timeout=10_000)  # a miss ends it


def test_a_part_of_a_pass_is_no_pass(page: Page, stair: Callable[..., str]) -> None:
    """A loop of a second; after a change of speed in its middle the first end counts nothing."""
    solo = stair("Part Of A Pass", start=500, goal=600, passes=1)
    with_sound(page, solo, "phrase:p0", voice=1)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Play").wait_for()
    plays(page)
    listen(page, 0.9)  # of two seconds
    page.get_by_role("button", name="Faster").click()
    until(page, "window.heard.sources.filter((one) => one.loop).length >= 2")
    begun = page.evaluate("window.heard.context.currentTime")
    expect(where(page)).to_contain_text("at the goal, and clean", timeout=15_000)
    assert page.evaluate("window.heard.context.currentTime") - begun > 1.6  # the rest of a pass, and a whole one


def test_back_returns_to_the_line_that_was_practised(page: Page, stair: Callable[..., str]) -> None:
    solo = stair("And Back")
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Next line").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("a and b joined")
    page.get_by_role("link", name=re.compile("Back to the plan|Plan")).click()
    expect(page.get_by_role("option", selected=True)).to_contain_text("a and b joined")
    page.get_by_role("listbox", name="Lines of the plan").focus()
    page.keyboard.press("Delete")  # after a line is left out the next one is in hand
    expect(page.get_by_role("option", selected=True)).to_have_count(1)


def test_full_screen_that_is_left_by_escape_leaves_the_button_right(page: Page, stair: Callable[..., str]) -> None:
    page.goto(f"/practice/{stair('Full Screen')}?line=phrase:p0")
    page.get_by_role("button", name="Full screen", exact=True).click()
    leave = page.get_by_role("button", name="Leave full screen")
    expect(leave).to_be_visible()
    page.evaluate("document.exitFullscreen()")  # what Escape does in a window
    expect(leave).to_have_count(0)
    expect(page.get_by_role("button", name="Full screen", exact=True)).to_be_visible()


def test_a_phone_on_its_side_shows_the_strings_first_and_speaks_of_no_keys(
    browser: Browser, served, stair: Callable[..., str]
) -> None:
    context = browser.new_context(
        base_url=served.base, viewport={"width": 844, "height": 390}, has_touch=True, is_mobile=True
    )
    page = context.new_page()
    page.goto(f"/practice/{stair('On Its Side')}?line=phrase:p0")
    strings = page.get_by_role("img").first.bounding_box()
    player = page.get_by_role("region", name="Player").bounding_box()
    play = page.get_by_role("button", name="Play").bounding_box()
    assert strings is not None and player is not None and play is not None
    assert strings["y"] >= 0 and strings["y"] + strings["height"] <= player["y"] + 1
    assert player["height"] < 110 and player["y"] + player["height"] <= 391
    for words in ("space", "pedal", "M or"):
        expect(page.get_by_text(words).locator("visible=true")).to_have_count(0)
    context.close()


def test_a_line_of_more_than_a_minute_climbs(page: Page, served, new_solo: Callable[..., str]) -> None:
    """Rendered in pieces; at the end of its pass it goes on a step higher."""
    solo = new_solo("Whole Solo", chart="| C7 |\n61 choruses", tempo_bpm=240, bars=61, last_bar=61)
    notes = [{"id": f"n{i}", "tick": i * 2 * QUARTER, "ticks": QUARTER, "string": 1, "fret": 800} for i in range(122)]
    served.edit(solo, [{"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes])
    served.post(f"/api/solos/{solo}/plan/settings", {"start": 1_200, "goal": 1_250, "step": 50, "passes": 1})
    with_sound(page, solo, "whole", voice=1)
    page.goto(f"/practice/{solo}?line=whole")
    page.get_by_role("button", name="Play").wait_for()
    plays(page)
    expect(where(page)).to_contain_text("120 %")
    expect(where(page)).to_contain_text("125 %", timeout=90_000)
    expect(page.get_by_text("Up to 125 %.")).to_be_visible()
    for _ in range(4):
        until(page, "window.heard.level() > 0.003")
        listen(page, 0.5)
