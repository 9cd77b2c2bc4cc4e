"""Two people on one solo at once, each with a browser of their own."""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from browser.opening import QUARTER, open_at

pytestmark = pytest.mark.browser


def note(tick: int, fret: int, **fields: object) -> dict[str, Any]:
    return {"id": "n", "tick": tick, "ticks": QUARTER, "string": 2, "fret": fret * 100} | fields


def another_writes(served, solo: str, *changes: dict[str, Any]) -> dict[str, Any]:
    """An edit that goes through the api, as from another machine."""
    bench = served.get(f"/api/solos/{solo}")
    edit = {
        "id": str(uuid4()), "act": str(uuid4()), "document": solo, "made_in": solo, "person": bench["person"],
        "at": "2026-11-25T10:00:00+00:00", "schema": 1, "label": "write", "changes": list(changes),
    }  # fmt: skip
    return served.post(f"/api/solos/{solo}/edits", {"versions": bench["versions"], "edits": [edit]})


def frets(served, solo: str) -> list[tuple[int, int]]:
    return [(n["tick"], n["fret"] // 100) for n in served.stored(solo)["notes"]]


@pytest.fixture
def other(browser: Browser, served) -> Iterator[Page]:
    """A second browser, which shares nothing with the first."""
    context = browser.new_context(base_url=served.base, viewport={"width": 1280, "height": 800}, locale="en-GB")
    context.set_default_timeout(15_000)
    yield context.new_page()
    context.close()


def test_what_one_writes_shows_with_the_other_within_two_seconds(
    page: Page, other: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Both Hands")
    open_at(page, solo)
    open_at(other, solo, 2 * QUARTER)
    page.keyboard.press("KeyT")
    expect(other.get_by_role("option")).to_have_count(1, timeout=2_000)
    other.keyboard.press("KeyR")
    expect(page.get_by_role("option")).to_have_count(2, timeout=2_000)
    for one in (page, other):
        expect(one.get_by_role("status", name="Saving")).to_have_text("Saved")
        expect(one.get_by_role("dialog")).to_have_count(0)
    assert len(frets(served, solo)) == 2
    page.keyboard.press("Minus")  # an undo is news like everything else
    expect(other.get_by_role("option")).to_have_count(1, timeout=2_000)


def left_out(page: Page, count: str = "1 change left out") -> Locator:
    """The list of what was left out, opened."""
    page.get_by_role("button", name=count).click()
    return page.get_by_role("dialog", name="Changes that were left out")


@pytest.mark.parametrize(("answer", "fret"), [("Use mine", 8), ("Discard", 12)])
def test_one_note_changed_twice_is_listed_with_both_values(
    page: Page, served, new_solo: Callable[..., str], answer: str, fret: int
) -> None:
    solo = new_solo(f"Twice, {answer}")
    another_writes(served, solo, {"kind": "note", "id": "n", "after": note(0, 7)})
    page.goto(f"/solos/{solo}/notes?at=0&string=2")
    page.get_by_role("option").first.click()
    page.route("**/edits*", lambda route: route.abort())
    page.keyboard.press("KeyG")
    expect(page.get_by_role("status", name="Saving")).to_contain_text("Kept on this computer")
    another_writes(served, solo, {"kind": "note", "id": "n", "before": note(0, 7), "after": note(0, 12)})
    page.unroute("**/edits*")
    expect(page.get_by_role("alert")).to_contain_text(
        "“change a fret” was left out. At 1:1: The note that you changed has been"
    )
    expect(page.get_by_role("option", name="fret 12")).to_have_count(1)
    page.reload()  # closing the tab keeps the list
    dialog = left_out(page)
    row = dialog.get_by_role("row").filter(has_text="fret")
    expect(row.get_by_role("cell").nth(0)).to_have_text("8")
    expect(row.get_by_role("cell").nth(1)).to_have_text("12")
    dialog.get_by_role("button", name=answer).click()
    expect(page.get_by_role("button", name="left out")).to_have_count(0)
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    assert frets(served, solo) == [(0, fret)]
    page.reload()
    expect(page.get_by_role("option")).to_have_count(1)
    expect(page.get_by_role("button", name="left out")).to_have_count(0)


@pytest.mark.parametrize(("answer", "kept"), [("Use mine", "mine"), ("Discard", "theirs")])
def test_of_two_notes_at_one_place_the_later_is_left_out_alone(
    page: Page, served, new_solo: Callable[..., str], answer: str, kept: str
) -> None:
    solo = new_solo(f"One Place, {answer}")
    open_at(page, solo)
    page.route("**/edits*", lambda route: route.abort())
    page.keyboard.press("KeyT")
    page.keyboard.press("KeyR")  # a second note, later: it is saved whatever is decided about the first
    expect(page.get_by_role("status", name="Saving")).to_contain_text("2 to send")
    another_writes(served, solo, {"kind": "note", "id": "n", "after": note(0, 12, ticks=5_040)})
    page.unroute("**/edits*")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    assert len(frets(served, solo)) == 2 and frets(served, solo)[0] == (0, 12)
    dialog = left_out(page)
    expect(dialog).to_contain_text("Two notes sound on string 2 at 1:1")
    expect(dialog.get_by_role("cell", name="fret 12")).to_have_count(1)
    dialog.get_by_role("button", name=answer).click()
    expect(page.get_by_role("button", name="left out")).to_have_count(0)
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    found = frets(served, solo)
    assert len(found) == 2
    assert (found[0] == (0, 12)) == (kept == "theirs")


def test_what_was_left_out_can_be_gone_to_and_tried_again(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Tried Again")
    open_at(page, solo)
    page.route("**/edits*", lambda route: route.abort())
    page.keyboard.press("KeyT")
    expect(page.get_by_role("status", name="Saving")).to_contain_text("1 to send")
    another_writes(served, solo, {"kind": "note", "id": "n", "after": note(0, 12)})
    page.unroute("**/edits*")
    left_out(page).get_by_role("button", name="Go there to change it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    another_writes(served, solo, {"kind": "note", "id": "n", "before": note(0, 12), "after": None})
    expect(page.get_by_role("option")).to_have_count(0)
    left_out(page).get_by_role("button", name="Try again").click()
    expect(page.get_by_role("option")).to_have_count(1)
    expect(page.get_by_role("button", name="left out")).to_have_count(0)


def test_a_solo_removed_in_one_tab_says_so_in_the_other_and_keeps_what_was_written(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Removed Beside")
    open_at(page, solo)
    served.post(f"/api/solos/{solo}/remove", {})
    page.keyboard.press("KeyT")
    expect(page.get_by_role("alert")).to_contain_text("This solo was removed. Restore it on the shelf")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Not saved: 1 waiting")
    served.post(f"/api/solos/{solo}/fetch-back", {})
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    assert len(frets(served, solo)) == 1


def test_a_short_walk_in_two_tabs_ends_with_both_agreed(
    page: Page, other: Page, served, new_solo: Callable[..., str]
) -> None:
    """Keys of two people at random, with undos in between and a slow line; then both and the server hold the same."""
    solo = new_solo("Two Tabs Walk")
    draw = random.Random(11)
    for one in (page, other):
        one.route("**/edits*", lambda route: (time.sleep(draw.random() / 20), route.continue_()))
        open_at(one, solo)
    keys = ["KeyT", "KeyR", "KeyE", "KeyG", "KeyF", "Digit4", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Delete",
            "Minus", "Minus", "Equal", "Control+z", "Control+y"]  # fmt: skip
    for _ in range(120):
        draw.choice((page, other)).keyboard.press(draw.choice(keys))
    for one in (page, other):
        if one.get_by_role("dialog").count():  # an undo of what the other tab has changed since
            one.keyboard.press("Escape")
        expect(one.get_by_role("status", name="Saving")).to_have_text("Saved", timeout=30_000)
    stored = served.stored(solo)["notes"]
    assert stored
    for one in (page, other):
        expect(one.get_by_role("option")).to_have_count(len(stored))
        one.reload()
        expect(one.get_by_role("option")).to_have_count(len(stored))
    assert served.stored(solo)["notes"] == stored


def test_undos_of_ones_own_reach_what_came_from_another_tab(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Taken Back")
    open_at(page, solo)
    page.keyboard.press("KeyT")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    (mine,) = served.stored(solo)["notes"]
    another_writes(served, solo, {"kind": "note", "id": mine["id"], "before": mine, "after": mine | {"fret": 300}})
    expect(page.get_by_role("option", name="fret 3")).to_have_count(1, timeout=2_000)
    page.keyboard.press("Minus")
    # Both are one person's: the newest act is the changed fret, which goes back first; then the note itself.
    expect(page.get_by_role("option", name="fret 3")).to_have_count(0)
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(0)


def test_an_undo_over_anothers_change_says_what_and_offers_the_rest(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    """One server has one person; that somebody else changed it is told in the server's own words for it."""
    solo = new_solo("Half Taken Back")
    open_at(page, solo)
    page.keyboard.press("KeyT")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    words = "“write a note” cannot be undone: The note that you changed has been changed elsewhere in the meantime."
    refusal = {
        "type": "/problems/edit-conflict", "title": words, "status": 409, "code": "edit-conflict",
        "where": {"kind": "note", "id": "n", "rest": "possible"}, "now": None, "before": None,
    }  # fmt: skip

    def changed_elsewhere(route: Route) -> None:
        if route.request.post_data_json["rest"]:
            route.continue_()
        else:
            route.fulfill(status=409, json=refusal, content_type="application/problem+json")

    page.route("**/undo*", changed_elsewhere)
    page.keyboard.press("Minus")
    dialog = page.get_by_role("dialog", name="Not all of it can be undone")
    expect(dialog).to_contain_text(words)
    dialog.get_by_role("button", name="Undo the rest").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("option")).to_have_count(0)
    assert served.stored(solo)["notes"] == []
