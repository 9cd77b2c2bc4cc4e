"""The shelf, by mouse and by name."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from browser.opening import choose

pytestmark = pytest.mark.browser


def test_the_shelf_groups_by_player_and_shows_how_far_each_solo_is(page: Page) -> None:
    page.goto("/")
    ines = page.get_by_role("region", name="Ines Quarrie")
    expect(ines.get_by_role("link", name="Lanterns at Low Water")).to_have_count(2)  # as it was played, and a version
    expect(ines.get_by_text("19 of 19 bars")).to_be_visible()
    teodor = page.get_by_role("region", name="Teodor Vasse")
    expect(teodor.get_by_role("img", name="6 bars full, 0 begun, 2 doubtful")).to_be_visible()
    expect(teodor.get_by_text("2 questions")).to_be_visible()


def test_a_solo_is_renamed_removed_and_restored(page: Page, new_solo: Callable[..., str]) -> None:
    new_solo("Wet Slate")
    page.goto("/")
    row = page.get_by_role("listitem").filter(has_text="Wet Slate")
    row.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name="Rename").click()
    page.get_by_role("textbox", name="Tune").fill("Dry Slate")
    page.get_by_role("textbox", name="Player").fill("Bo Lind")
    page.get_by_role("button", name="Rename").click()
    row = page.get_by_role("region", name="Bo Lind").get_by_role("listitem").filter(has_text="Dry Slate")
    expect(row).to_be_visible()
    row.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name="Remove").click()
    drawer = page.get_by_role("region", name="Removed")
    expect(drawer.get_by_text("Dry Slate")).to_be_visible()
    expect(row).to_have_count(0)
    drawer.get_by_role("button", name="Put back Dry Slate").click()
    expect(row).to_be_visible()


def test_an_empty_shelf_says_what_to_do_first(page: Page) -> None:
    page.route("**/api/shelf*", lambda route: route.fulfill(json={"solos": [], "sound_endings": [".wav"]}))
    page.goto("/")
    expect(page.get_by_role("heading", name="The shelf is empty.")).to_be_visible()
    expect(page.get_by_role("button", name="Choose a file")).to_be_visible()


def test_a_file_that_is_no_sound_gets_a_sentence_and_no_solo(page: Page, tmp_path: Path) -> None:
    words = tmp_path / "words.wav"
    words.write_text("no sound")
    page.goto("/")
    page.get_by_label("Recording file").set_input_files(words)
    expect(page.get_by_role("alert")).to_contain_text("“words.wav” is not a sound file that can be read")
    expect(page.get_by_role("button", name="Start writing")).to_be_disabled()


def test_bringing_a_recording_shows_how_far_it_is_and_can_be_stopped(page: Page, served, tmp_path: Path) -> None:
    import numpy as np
    import soundfile

    long = tmp_path / "long tape.wav"
    rng = np.random.default_rng(3)
    soundfile.write(long, rng.normal(0, 0.1, (48_000 * 120, 2)), 48_000)
    page.goto("/")
    # A slow line, so that there is something to see.
    line = page.context.new_cdp_session(page)
    slow = {"offline": False, "latency": 5, "downloadThroughput": -1, "uploadThroughput": 4_000_000}
    line.send("Network.emulateNetworkConditions", slow)
    page.get_by_label("Recording file").set_input_files(long)
    dialog = page.get_by_role("dialog", name="A new recording")
    expect(dialog.get_by_role("progressbar")).to_be_visible()
    expect(dialog.get_by_role("status").first).to_contain_text("long tape.wav")
    with page.expect_event("requestfailed", lambda request: request.url.endswith("/api/recordings")):
        dialog.get_by_role("button", name="Stop, and keep nothing").click()
    expect(dialog).to_have_count(0)
    line.send("Network.emulateNetworkConditions", slow | {"uploadThroughput": -1})
    page.get_by_label("Recording file").set_input_files(long)
    expect(dialog.get_by_role("status").first).to_contain_text("120.0 seconds", timeout=30_000)
    expect(dialog.get_by_role("status").first).not_to_contain_text("which is here already")


def test_the_shelf_is_searched_and_put_in_order(page: Page, served, new_solo: Callable[..., str]) -> None:
    new_solo("Zinc Harbour")
    page.goto("/")
    titles = page.get_by_role("main").get_by_role("listitem")
    expect(titles.filter(has_text="Zinc Harbour")).to_have_count(1)
    everything = titles.count()
    box = page.get_by_placeholder("tune, solo or player")
    box.fill("zinc harb")
    expect(titles).to_have_count(1)
    box.fill("")
    expect(titles).to_have_count(everything)
    choose(page, "Order", "last worked on")
    expect(titles.first).to_contain_text("Zinc Harbour")
    choose(page, "Order", "open questions")
    expect(titles.first).not_to_contain_text("Zinc Harbour")
    open_now = sum(row["questions"] for row in served.get("/api/shelf")["solos"])
    expect(page.get_by_role("status", name="Open over all solos")).to_contain_text(f"{open_now} open question")


def test_escape_asks_before_a_new_solo_is_thrown_away(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="without a recording").click()
    dialog = page.get_by_role("dialog", name="A solo without a recording")
    dialog.get_by_label("Tune", exact=True).fill("Half A Tune")
    page.keyboard.press("Escape")
    expect(dialog.get_by_role("alert")).to_contain_text("Throw away what you typed here?")
    dialog.get_by_role("button", name="Go on with it").click()
    expect(dialog.get_by_label("Tune", exact=True)).to_have_value("Half A Tune")
    page.keyboard.press("Escape")
    dialog.get_by_role("button", name="Throw it away").click()
    expect(dialog).to_have_count(0)
