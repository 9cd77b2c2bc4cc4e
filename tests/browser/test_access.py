"""For every hand and eye: what a screen reader is told, both themes, 200 % zoom, the keyboard alone."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from browser.opening import as_text, open_at, saved
from usagi.settings import project_root

pytestmark = pytest.mark.browser
AXE = project_root() / "web" / "node_modules" / "axe-core" / "axe.min.js"
GOLDEN = Path(__file__).parents[1] / "golden" / "writing-one-bar.yaml"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def violations(page: Page, part: str | None = None) -> list[tuple[str, list[str]]]:
    """What axe finds in the page, or in the part that has been opened since."""
    if part is None:
        page.evaluate(AXE.read_text())
    found = page.evaluate("([part, tags]) => axe.run(part ?? document, { runOnly: tags })", [part, TAGS])
    return [(v["id"], [n["html"][:120] for n in v["nodes"]]) for v in found["violations"]]


def in_slate(page: Page) -> None:
    page.add_init_script("localStorage.setItem('usagi.look', JSON.stringify({ theme: 'slate' }))")


@pytest.mark.parametrize("theme", ["day", "slate"])
@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/solos/{}/notes",
        "/solos/{}/ground",
        "/solos/{}/check",
        "/solos/{}/analysis",
        "/solos/{}/phrases",
        "/solos/{}/teach",
        "/practice/{}?line=whole",
        "/handout/{}",
        "/licks?text=3%20.%201",
        "/players",
    ],
)
def test_axe_finds_nothing_on_any_view(page: Page, served, path: str, theme: str) -> None:
    if theme == "slate":
        in_slate(page)
    page.goto(path.format(served.solo("Gull Weather")))
    page.get_by_role("main").or_(page.get_by_role("group", name="Strip")).first.wait_for()
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.dataset.theme") == theme
    assert violations(page) == []


@pytest.mark.parametrize("theme", ["day", "slate"])
def test_axe_finds_nothing_in_the_dialogs(page: Page, served, theme: str) -> None:
    if theme == "slate":
        in_slate(page)
    open_at(page, served.solo("Gull Weather"))
    page.get_by_role("option").first.click()
    page.evaluate(AXE.read_text())
    for button in ("? keys", "Ladder …"):
        page.get_by_role("button", name=button).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert violations(page, "[role=dialog]") == [], button
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


@pytest.mark.parametrize("theme", ["day", "slate"])
def test_axe_finds_nothing_on_a_players_page_and_in_the_dialogs_of_the_book(
    page: Page, served, worker, theme: str
) -> None:
    if theme == "slate":
        in_slate(page)
    player = next(one["id"] for one in served.get("/api/players") if one["name"] == "Ines Quarrie")
    page.goto(f"/players/{player}")
    page.get_by_role("region", name="Again and again").get_by_role("button").first.click()
    page.get_by_role("complementary", name="The notes that it counts").get_by_role("listitem").first.wait_for()
    assert violations(page) == []
    page.goto("/licks?text=3%20.%201")
    page.get_by_role("row").first.click()
    page.keyboard.press("q")
    page.evaluate(AXE.read_text())
    for button in ("? keys", "Narrow it …", "Play it on the neck", "Quote 1 lick …"):
        page.get_by_role("button", name=button).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert violations(page, "[role=dialog]") == [], button
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


@pytest.mark.parametrize("theme", ["day", "slate"])
def test_axe_finds_nothing_in_the_dialogs_of_teaching(page: Page, served, theme: str) -> None:
    if theme == "slate":
        in_slate(page)
    solo = served.solo("Lanterns at Low Water")
    page.goto(f"/solos/{solo}/teach")
    page.get_by_role("option", name="a · the lamp is lit").click()
    page.evaluate(AXE.read_text())
    for button in (re.compile("Speeds …"), "Change it …", "Write one …", "Change", "Loop pack …"):
        page.get_by_role("button", name=button).first.click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert violations(page, "[role=dialog]") == [], button
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.goto(f"/practice/{solo}?line=whole")
    page.get_by_role("button", name="Sound").click()
    page.evaluate(AXE.read_text())
    assert violations(page, "[role=dialog]") == []


TOOLS = ("hand", "doubts", "by ear", "find and write", "versions", "history")


def test_axe_finds_nothing_in_the_tools_and_the_menu_at_the_note(page: Page, served) -> None:
    in_slate(page)
    open_at(page, served.solo("Gull Weather"))
    page.get_by_role("option").first.click()
    page.evaluate(AXE.read_text())
    for tool in TOOLS:
        page.get_by_role("navigation", name="Tools").get_by_role("button", name=tool).click()
        expect(page.get_by_role("navigation", name="Tools").get_by_role("button", name=tool)).to_have_attribute(
            "aria-pressed", "true"
        )
        assert violations(page, ":has(> nav[aria-label=Tools])") == [], tool
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Enter")
    expect(page.get_by_role("menu", name="Every technique")).to_be_visible()
    assert violations(page, "[role=menu]") == []


PARTS_OF_THE_GROUND = (
    ("Time", "Tap along …"),
    ("Form and chords", "Stock forms …"),
    ("Form and chords", "Hear chords …"),
    ("Strings and pitch", "Rewrite for a six-string …"),
    ("Recording", "Credits and rig …"),
)


def test_axe_finds_nothing_in_the_parts_and_dialogs_of_the_ground(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Gull Weather')}/ground")
    page.evaluate(AXE.read_text())
    for tab, button in PARTS_OF_THE_GROUND:
        page.get_by_role("tab", name=tab).click()
        expect(page.get_by_role("tabpanel", name=tab)).to_be_visible()
        assert violations(page, "[role=tabpanel]:not([hidden])") == [], tab
        if tab == "Form and chords":
            as_text(page)
            assert violations(page, "[role=tabpanel]:not([hidden])") == [], "as text"
        page.get_by_role("button", name=button).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert violations(page, "[role=dialog]") == [], button
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


def test_what_is_said_while_one_bar_is_written(
    page: Page, new_solo: Callable[..., str], request: pytest.FixtureRequest
) -> None:
    """The accessibility tree after each key, as a screen reader meets it; read by a person before it was kept."""
    open_at(page, new_solo("Said Aloud", tempo_bpm=120))
    told = []
    for key in ("KeyR", "Comma", "KeyF", "KeyU", "KeyU", "KeyU", "KeyM", "Slash"):
        page.keyboard.press(key)
        saved(page)
        sentence = page.get_by_role("status", name="Sentence").aria_snapshot()
        done = page.get_by_role("status", name="What was done").aria_snapshot()
        told.append(f"# {key}\n{sentence}\n{done}")
    told.append("# the notes\n" + page.get_by_role("listbox", name="Notes").aria_snapshot())
    told.append("# what can be pressed\n" + page.get_by_role("region", name="The note in hand").aria_snapshot())
    text = "\n".join(told) + "\n"
    if request.config.getoption("--rewrite-golden"):
        GOLDEN.write_text(text)
    assert text == GOLDEN.read_text()


def test_everything_survives_twice_the_size(browser: Browser, served) -> None:
    """A window of 1280 by 800 at 200 % has room for 640 by 400."""
    context = browser.new_context(
        base_url=served.base, viewport={"width": 640, "height": 400}, device_scale_factor=2, locale="en-GB"
    )
    page = context.new_page()
    for path in ("/", f"/solos/{served.solo('Gull Weather')}/notes", f"/solos/{served.solo('Gull Weather')}/ground"):
        page.goto(path)
        page.wait_for_load_state("networkidle")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
    page.goto(f"/solos/{served.solo('Gull Weather')}/notes?at=0&string=2")
    page.get_by_role("group", name="Strip").wait_for()
    for control in (
        page.get_by_role("button", name="Play"),
        page.get_by_role("status", name="Sentence"),
        page.get_by_role("slider", name="Volume"),
        page.get_by_role("button", name="doubts"),
        page.get_by_role("option").first,
    ):
        control.scroll_into_view_if_needed()
        expect(control).to_be_in_viewport()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_in_viewport()
    context.close()


def test_nothing_moves_that_was_asked_to_be_still(page: Page, served) -> None:
    page.goto("/")
    page.get_by_text("Gull Weather").first.click()
    page.get_by_role("group", name="Strip").wait_for()
    page.get_by_role("button", name="View").click()
    assert page.evaluate("document.getAnimations().filter(a => a.playState === 'running').length") == 0


def test_a_solo_is_opened_written_and_left_by_keyboard_alone(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("No Mouse")
    page.goto("/")
    page.get_by_text("No Mouse").first.wait_for()
    for _ in range(80):
        page.keyboard.press("Tab")
        if "No Mouse" in str(page.evaluate("document.activeElement.textContent")):
            break
    page.keyboard.press("Enter")
    page.get_by_role("group", name="Strip").wait_for()
    expect(page.get_by_role("group", name="Strip")).to_be_focused()
    page.keyboard.press("KeyT")
    saved(page)
    assert len(served.stored(solo)["notes"]) == 1
    for _ in range(40):
        page.keyboard.press("Shift+Tab")
        if page.evaluate("document.activeElement.getAttribute('href')") == "/":
            break
    page.keyboard.press("Enter")
    expect(page.get_by_text("No Mouse").first).to_be_visible()
