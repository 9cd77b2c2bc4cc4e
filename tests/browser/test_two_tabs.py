"""Two people on one solo at once, each with a browser of their own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, Route, expect

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


@pytest.mark.parametrize(("answer", "fret"), [("Keep mine", 8), ("Keep what is stored", 12)])
def test_one_note_changed_twice_is_asked_about_with_both_values(
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
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("changed elsewhere")
    row = dialog.get_by_role("row").filter(has_text="fret")
    expect(row.get_by_role("cell").nth(1)).to_have_text("12")
    expect(row.get_by_role("cell").nth(0)).to_have_text("8")
    dialog.get_by_role("button", name=answer).click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    assert frets(served, solo) == [(0, fret)]


@pytest.mark.parametrize(("answer", "kept"), [("Keep mine", "mine"), ("Keep what is stored", "theirs")])
def test_two_notes_at_one_place_are_asked_about(
    page: Page, served, new_solo: Callable[..., str], answer: str, kept: str
) -> None:
    solo = new_solo(f"One Place, {answer}")
    open_at(page, solo)
    page.route("**/edits*", lambda route: route.abort())
    page.keyboard.press("KeyT")
    page.keyboard.press("KeyR")  # a second note, later, goes through whatever is decided about the first
    expect(page.get_by_role("status", name="Saving")).to_contain_text("2 to send")
    another_writes(served, solo, {"kind": "note", "id": "n", "after": note(0, 12, ticks=5_040)})
    page.unroute("**/edits*")
    dialog = page.get_by_role("dialog", name="Both notes stand at one place")
    expect(dialog).to_contain_text("fret 12")
    dialog.get_by_role("button", name=answer).click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    found = frets(served, solo)
    assert len(found) == 2
    assert (found[0] == (0, 12)) == (kept == "theirs")


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
    words = "“write a note” cannot be taken back: The note that you changed has been changed elsewhere in the meantime."
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
