"""Players in the page: a habit opens its notes, two stand side by side, figures leave as CSV and SVG."""

from __future__ import annotations

import re
import time
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from browser.opening import choose, until

pytestmark = pytest.mark.browser


@pytest.fixture
def ines(page: Page, served, worker) -> str:
    """A player of the demo with two solos; what the index holds of them is read."""
    end = time.monotonic() + 30
    while not any(one["name"] == "Ines Quarrie" and one["solos"] >= 2 for one in served.get("/api/players")):
        assert time.monotonic() < end, "the worker counts nothing"
        time.sleep(0.2)
    return next(str(one["id"]) for one in served.get("/api/players") if one["name"] == "Ines Quarrie")


def test_the_players_are_listed_and_a_habit_opens_and_plays_its_notes(page: Page, ines: str) -> None:
    page.goto("/")
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Players").click()
    page.get_by_role("link", name=re.compile("Ines Quarrie")).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Ines Quarrie")
    habits = page.get_by_role("region", name="Again and again")
    habits.get_by_role("button").first.click()
    places = page.get_by_role("complementary", name="The notes that it counts")
    expect(places.get_by_role("heading")).to_be_focused()
    rows = places.get_by_role("listitem")
    expect(rows.first).to_be_visible()
    rows.first.get_by_role("button", name=re.compile("^Hear")).click()
    until(page, "window.heard.sources.length > 0 && window.heard.level() > 0.0005")
    rows.first.get_by_role("button").nth(1).click()
    page.get_by_role("group", name="Strip").wait_for()


def test_two_players_stand_side_by_side(page: Page, ines: str) -> None:
    page.goto(f"/players/{ines}")
    choose(page, "Beside", "Teodor Vasse")
    expect(page.get_by_text("blue outline: Teodor Vasse")).to_be_visible()
    differs = page.get_by_role("region", name="What differs most")
    expect(differs).to_contain_text(re.compile(r"Ines Quarrie|Nothing that is sure"))
    page.get_by_role("region", name="All figures").get_by_role("region", name="Techniques").wait_for()
    choose(page, "Beside", "nobody")
    expect(differs).to_have_count(0)


def test_a_players_solos_are_narrowed_to_a_tune_and_said_to_be_one(page: Page, ines: str) -> None:
    page.goto(f"/players/{ines}")
    choose(page, "count: tune", "Slack Tide")
    expect(page.get_by_role("main")).to_contain_text("In this solo:")


def test_a_period_in_which_nothing_lies_keeps_the_fields_that_undo_it(page: Page, ines: str) -> None:
    """The demo's solos are of one year; the page is told of two, as a player of many years has them."""

    def of_two_years(route: Route) -> None:
        answer = route.fetch()
        portrait = answer.json()
        if "since" not in route.request.url:
            portrait["years"] = [1961, 1970]
        route.fulfill(response=answer, json=portrait)

    page.route(re.compile(r"/api/players/[0-9a-f-]{36}(\?|$)"), of_two_years)
    page.goto(f"/players/{ines}")
    since = page.get_by_role("spinbutton", name="from", exact=True)
    since.fill("2190")
    expect(page.get_by_text("No solo of this player matches what you chose above.")).to_be_visible()
    expect(since).to_have_value("2190")
    since.fill("")
    expect(page.get_by_role("region", name="Degrees")).to_be_visible()


def test_a_degree_bar_opens_its_notes_by_key(page: Page, ines: str) -> None:
    page.goto(f"/players/{ines}")
    bar = page.get_by_role("region", name="Degrees").get_by_role("button", name=re.compile(r": [1-9]\d* of"))
    bar.first.focus()
    page.keyboard.press("Enter")
    places = page.get_by_role("complementary", name="The notes that it counts")
    count = int(re.search(r": (\d+) of", bar.first.get_attribute("aria-label") or "").group(1))  # type: ignore[union-attr]
    expect(places).to_contain_text(f"· {count}")
    page.keyboard.press("Escape")
    expect(places).to_have_count(0)


def test_figures_leave_as_columns_and_drawings(page: Page, ines: str, tmp_path: Path) -> None:
    page.goto(f"/players/{ines}")
    for name, begins in (("Columns (CSV)", "question,answer,count"), ("Degrees (SVG)", "<?xml")):
        page.get_by_role("button", name="Export figures").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name=name).click()
        file = tmp_path / "figures"
        download.value.save_as(file)
        assert file.read_text().lstrip("\ufeff").startswith(begins), name


def test_a_players_page_prints_on_one_page(page: Page, ines: str) -> None:
    page.goto(f"/players/{ines}")
    page.get_by_role("region", name="Again and again").wait_for()
    pdf = page.pdf(format="A4", landscape=True, print_background=True)
    assert pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page ") + pdf.count(b"/Type/Page ") == 1
