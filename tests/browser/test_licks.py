"""The lick book in the page: kept by a key, found as one types, carried elsewhere, quoted, frozen."""

from __future__ import annotations

import json
import re
import time
from collections.abc import Callable
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from browser.opening import QUARTER, choose, open_at, until

pytestmark = pytest.mark.browser
EIGHTH = QUARTER // 2
# Over E7: 3 b3 1 b3 2, in bars of their own.
LINE = ((2, 9), (2, 8), (3, 9), (2, 8), (3, 11))


@pytest.fixture
def written(served, worker, new_solo: Callable[..., str]) -> Callable[..., str]:
    """A solo with a phrase in bar 1, written through the api, that the worker has found."""

    def make(tune: str, line: tuple[tuple[int, int], ...] = LINE) -> str:
        solo = new_solo(tune, chart="| {key E major} E7 | A7 | E7 | E7 |")
        notes = [
            {"id": f"n{i}", "tick": i * EIGHTH, "ticks": EIGHTH, "string": string, "fret": fret * 100}
            for i, (string, fret) in enumerate(line)
        ]
        served.edit(solo, [{"kind": "note", "id": note["id"], "before": None, "after": note} for note in notes])
        waited(lambda: any(one["solo"] == solo for one in served.get("/api/licks?text=3%20b3%201%20b3%202")["licks"]))
        return solo

    return make


def waited(true: Callable[[], bool]) -> None:
    """Wait until something is true."""
    begun = time.monotonic()
    while not true():
        assert time.monotonic() < begun + 20, "never indexed"
        time.sleep(0.02)


def results(page: Page):
    return page.get_by_role("grid", name="Results").get_by_role("row")


def search(page: Page, text: str) -> None:
    page.get_by_role("textbox", name="Search by degrees or steps").fill(text)


def hand(page: Page):
    return page.get_by_role("complementary", name="The lick in hand")


def test_a_lick_is_kept_by_a_key_and_found_by_degrees_with_a_gap(page: Page, written: Callable[..., str]) -> None:
    solo = written("Heron Steps")
    open_at(page, solo)
    for _ in range(5):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+Insert")
    expect(page.get_by_text("Kept in the lick book.")).to_be_visible()
    page.goto("/licks")
    search(page, "3 . 1 · 2")
    mine = results(page).filter(has_text="Heron Steps")
    expect(mine).to_have_count(1)
    expect(mine).to_contain_text("two notes more · kept")
    expect(page.get_by_role("status", name="Found")).to_have_text(re.compile(r"phrases?, "))
    search(page, "3 b3 1")
    expect(mine).to_contain_text("exactly · kept")
    search(page, "+9 +9 +9 -1")
    expect(page.get_by_role("heading", name="No lick or phrase matches.")).to_be_visible()
    search(page, "3 x")
    expect(page.get_by_role("alert")).to_contain_text("“x” is no degree")


def test_the_book_is_worked_by_keys(page: Page, written: Callable[..., str], served) -> None:
    solo = written("Plover Walk")
    served.post("/api/licks", {"id": "5c8f3a52-8a52-4c6b-9d4e-0f4b5c2d1e01", "solo": solo, "first": "n0", "last": "n2"})
    page.goto("/licks")
    search(page, "3 b3 1")
    field = page.get_by_role("textbox", name="Search by degrees or steps")
    field.press("ArrowDown")
    expect(page.get_by_role("grid", name="Results")).to_be_focused()
    first = results(page).first
    expect(first).to_have_attribute("aria-selected", "true")
    page.keyboard.press("ArrowDown")
    expect(first).to_have_attribute("aria-selected", "false")
    page.keyboard.press("ArrowUp")
    search(page, "")
    page.get_by_role("radio", name="kept licks").check()
    expect(results(page).filter(has_not_text="kept")).to_have_count(0)
    mine = results(page).filter(has_text="Plover Walk")
    mine.click()
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("walks off")
    dialog.get_by_label("Tags, with commas between").fill("endings, short")
    dialog.get_by_role("button", name="Save").click()
    expect(hand(page).get_by_role("heading", name="walks off")).to_be_visible()
    page.reload()
    page.get_by_role("radio", name="kept licks").check()
    expect(results(page).filter(has_not_text="kept")).to_have_count(0)
    mine.click()
    expect(hand(page)).to_contain_text("endings")
    page.keyboard.press("m")
    expect(page.get_by_role("status", name="Found")).to_contain_text("to walks off")
    page.keyboard.press("Space")
    until(page, "window.heard.sources.length > 0")
    page.keyboard.press("Enter")
    expect(page.get_by_role("group", name="Strip")).to_be_visible()


def test_a_lick_goes_to_another_key_and_place_and_is_refused_by_name(page: Page, written: Callable[..., str]) -> None:
    written("Curlew Bay")
    page.goto("/licks")
    search(page, "3 b3 1 b3 2")
    results(page).filter(has_text="Curlew Bay").click()
    ways = hand(page).get_by_role("region", name="To anywhere")
    ways.get_by_role("group", name="key").get_by_role("button", name="A", exact=True).click()
    where = page.get_by_role("status", name="Where it is")
    expect(where).to_contain_text("A major · It goes up a fourth.")
    expect(hand(page).get_by_text("A7", exact=True).first).to_be_visible()
    ways.get_by_role("group", name="place").get_by_role("button").last.click()
    expect(where).to_contain_text("fret")
    hand(page).get_by_role("button", name="more").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Export as it lies here: document (JSON)").click()
    assert json.loads(download.value.path().read_text())["document"]["solo"]["settings"]["tuning"][0] == 64
    ways.get_by_role("group", name="way").get_by_role("button", name="down").click()
    expect(hand(page)).to_contain_text(re.compile("down a fifth|cannot|goes"))
    ways.get_by_role("group", name="all keys").get_by_role("button", name="by half steps").click()
    twelve = hand(page).get_by_role("region", name="All twelve keys")
    expect(twelve.get_by_role("heading")).to_have_text("12 keys in a row, by half steps")
    ways.get_by_role("group", name="show").get_by_role("button", name="skeleton").click()
    hand(page).get_by_role("button", name=re.compile("^Hear it")).click()
    until(page, "window.heard.sources.length > 0")


def test_notes_clicked_on_a_neck_are_found_in_every_key(page: Page, written: Callable[..., str]) -> None:
    written("Tern Hill")
    page.goto("/licks")
    page.get_by_role("button", name="Play it on the neck").click()
    dialog = page.get_by_role("dialog")
    for string, fret in ((3, 5), (3, 4), (4, 6)):  # the same steps as 3 b3 1, from C
        dialog.get_by_role("button", name=f"String {string}, fret {fret}", exact=True).click()
    dialog.get_by_role("button", name="Search").click()
    expect(results(page).filter(has_text="Tern Hill")).to_contain_text("exactly")


def test_a_search_is_narrowed_and_cleared(page: Page, written: Callable[..., str]) -> None:
    written("Dunlin Reel")
    page.goto("/licks")
    search(page, "3 b3 1")
    page.get_by_role("button", name="Narrow it …").click()
    dialog = page.get_by_role("dialog")
    choose(dialog, "Tune", "Dunlin Reel")
    dialog.get_by_label("Over the chords").fill("I7")
    dialog.get_by_role("button", name="Close").click()
    expect(results(page)).to_have_count(1)
    page.get_by_role("button", name=re.compile("Clear .*Dunlin Reel")).click()
    expect(results(page)).not_to_have_count(1)


def test_three_licks_are_quoted_over_a_form_heard_and_saved(page: Page, served, written: Callable[..., str]) -> None:
    solo = written("Knot Song")
    for i, (first, last) in enumerate((("n0", "n2"), ("n1", "n3"), ("n2", "n4"))):
        body = {"id": f"5c8f3a52-8a52-4c6b-9d4e-0f4b5c2d2e0{i}", "solo": solo, "first": first, "last": last}
        served.post("/api/licks", body | {"name": f"knot {i}"})
    page.goto("/licks")
    page.get_by_role("radio", name="kept licks").check()
    for i in range(3):
        results(page).filter(has_text=f"knot {i}").click()
        page.get_by_role("grid", name="Results").focus()
        page.keyboard.press("q")
    page.get_by_role("button", name="Quote 3 licks …").click()
    dialog = page.get_by_role("dialog")
    choose(dialog, "Key", "A")
    dialog.get_by_label("Tempo").fill("0")
    expect(dialog.get_by_role("alert")).to_contain_text("the lowest is 20")  # refused, and not taken for another
    dialog.get_by_label("Tempo").fill("110")
    licks = dialog.get_by_role("list", name="Licks of the quote").get_by_role("listitem")
    expect(licks).to_have_count(3)
    expect(dialog.get_by_label("Join 1")).to_contain_text("join")
    licks.nth(2).get_by_label("at bar").fill("7")
    expect(dialog.get_by_label("Join 2")).to_have_text("more than a bar between: not judged")
    dialog.get_by_role("button", name="knot 2 earlier").click()
    expect(licks.nth(1)).to_contain_text("knot 2")
    dialog.get_by_role("button", name="Hear the chorus").click()
    until(page, "window.heard.sources.length > 0")
    until(page, "window.heard.level() > 0.001")
    assert page.evaluate("window.heard.sources.at(-1).frames / 48000") > 20  # twelve bars
    dialog.get_by_role("button", name="Stop").click()
    dialog.get_by_label("Title").fill("Knots in a row")
    dialog.get_by_role("button", name="Save as a solo").click()
    page.get_by_role("group", name="Strip").wait_for()
    stored = served.stored(served.solo("Knots in a row"))
    assert [one["name"] for one in stored["settings"]["sources"]] == ["knot 0", "knot 2", "knot 1"]


def test_a_kept_lick_of_a_removed_solo_is_found_frozen(page: Page, served, written: Callable[..., str]) -> None:
    solo = written("Gannet Rock")
    body = {"id": "5c8f3a52-8a52-4c6b-9d4e-0f4b5c2d3e01", "solo": solo, "first": "n0", "last": "n2", "name": "dives"}
    served.post("/api/licks", body)
    served.post(f"/api/solos/{solo}/remove", {})
    page.goto("/licks")
    page.get_by_role("radio", name="kept licks").check()
    mine = results(page).filter(has_text="dives")
    expect(mine).to_contain_text("frozen: its solo was removed")
    mine.click()
    expect(hand(page)).to_contain_text("It keeps its last notes")
    expect(hand(page).get_by_role("button", name="Open", exact=True)).to_have_count(0)
    hand(page).get_by_role("button", name=re.compile("^Hear it")).first.click()
    until(page, "window.heard.sources.length > 0")


def test_a_changed_solo_is_found_as_it_is_now(served, written: Callable[..., str]) -> None:
    solo = written("Whimbrel")
    bench = served.get(f"/api/solos/{solo}")
    old = next(note for note in bench["solo"]["notes"] if note["id"] == "n4")
    served.edit(solo, [{"kind": "note", "id": "n4", "before": old, "after": old | {"fret": 900}}])
    address = "/api/licks?text=3%20b3%201%20b3%201"
    waited(lambda: any(one["solo"] == solo for one in served.get(address)["licks"]))
    gone = served.get("/api/licks?text=3%20b3%201%20b3%202")["licks"]
    assert all(one["solo"] != solo for one in gone)


def test_the_phrases_of_the_demo_are_shared_with_other_solos(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/phrases?at=282240&string=2")
    expect(page.get_by_role("region", name="In hand").get_by_role("heading")).to_have_text("the tide turns")
    melody = page.get_by_role("region", name="Melody")
    expect(melody).to_contain_text(re.compile("(states|decorates|answers|leaves) the melody"))
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("ArrowUp")
    expect(page.get_by_role("region", name="In hand").get_by_role("heading")).not_to_have_text("the tide turns")
    here = page.url.split("?")[0]
    melody.get_by_role("button", name="Open the melody").click()
    expect(page).not_to_have_url(re.compile(re.escape(here.rsplit("/", 1)[0])))  # it is another solo
    page.get_by_role("link", name="Phrases").click()
    expect(melody).to_contain_text("This is the tune’s melody")


def test_the_words_of_a_lick_outlive_a_save_that_fails(page: Page, written: Callable[..., str], served) -> None:
    lick = kept(served, written("Teal Steps"), "teal")
    page.goto("/licks?kept=true&words=teal")
    results(page).filter(has_text="teal").click()
    naming = page.get_by_role("dialog", name="Name, tags, words")
    hand(page).get_by_role("button", name=re.compile("^Name")).click()
    naming.get_by_label("What you say of it").fill("Lean on the last one.")
    page.route("**/api/licks/*", lambda route: route.abort() if route.request.method != "GET" else route.fallback())
    naming.get_by_role("button", name="Save").click()
    expect(naming.get_by_role("alert")).not_to_have_text("")
    expect(naming.get_by_role("alert")).not_to_contain_text("kept here and goes")
    page.unroute("**/api/licks/*")
    page.reload()
    results(page).filter(has_text="teal").click()
    hand(page).get_by_role("button", name=re.compile("^Name")).click()
    expect(naming.get_by_label("What you say of it")).to_have_value("Lean on the last one.")
    naming.get_by_role("button", name="Save").click()
    expect(naming).to_have_count(0)
    assert served.get(f"/api/licks/{lick}")["words"] == "Lean on the last one."


def test_a_removed_lick_is_put_back_by_undo_and_from_the_shelf(page: Page, written: Callable[..., str], served) -> None:
    kept(served, written("Garganey Steps"), "garganey")
    page.goto("/licks?kept=true&words=garganey")
    mine = results(page).filter(has_text="garganey")
    for back in ("undo", "shelf"):
        mine.click()
        hand(page).get_by_role("button", name="more").click()
        page.get_by_role("menuitem", name="Remove").click()
        expect(page.get_by_role("status", name="Removed")).to_contain_text("“garganey” was removed.")
        expect(mine).to_have_count(0)
        if back == "undo":
            page.keyboard.press("Control+z")
        else:
            page.goto("/")
            page.get_by_role("button", name="Put back garganey").click()
            expect(page.get_by_role("button", name="Put back garganey")).to_have_count(0)
            page.goto("/licks?kept=true&words=garganey")
        expect(mine).to_have_count(1)


def test_a_search_stands_in_the_address_so_that_back_returns_to_it(page: Page, written: Callable[..., str]) -> None:
    written("Smew Steps")
    page.goto("/licks")
    search(page, "3 b3 1 b3 2")
    expect(results(page).filter(has_text="Smew Steps")).to_have_count(1)
    page.get_by_role("radio", name="kept licks").check()
    expect(page).to_have_url(re.compile("text="))
    page.get_by_role("link", name="Players").click()
    page.get_by_role("heading", level=1).first.wait_for()
    page.go_back()
    expect(page.get_by_role("textbox", name="Search by degrees or steps")).to_have_value("3 b3 1 b3 2")
    expect(page.get_by_role("radio", name="kept licks")).to_be_checked()


def test_a_lick_that_was_brought_in_before_asks(page: Page, written: Callable[..., str], served, tmp_path) -> None:
    lick = kept(served, written("Pochard Steps"), "pochard")
    file = tmp_path / "pochard.json"
    file.write_text(json.dumps(served.get(f"/api/licks/{lick}/document.json")))
    page.goto("/licks")
    choose_file = page.get_by_label("Lick document")
    asked = page.get_by_role("dialog", name="Imported before")
    with page.expect_response(re.compile("/api/licks/document")):
        choose_file.set_input_files(file)
    expect(asked).to_have_count(0)
    choose_file.set_input_files(file)
    expect(asked).to_be_visible()
    asked.get_by_role("button", name="Cancel").click()
    page.goto("/licks?kept=true&words=pochard")
    expect(results(page).filter(has_text="pochard")).to_have_count(2)


def kept(served, solo: str, name: str) -> str:
    """The notes of a solo of `written` as a lick."""
    body = {"id": str(uuid4()), "solo": solo, "first": "n0", "last": "n4", "name": name, "words": "", "tags": []}
    return str(served.post("/api/licks", body)["lick"])
