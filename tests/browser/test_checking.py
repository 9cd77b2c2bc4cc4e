"""The check in the page: a solo listened to, its findings gone through, mended, waived, heard against the writing."""

from __future__ import annotations

import re
import signal

import pytest
from playwright.sync_api import Page, expect

from browser.opening import QUARTER, saved, until
from browser.test_listening import line_of, solo_on

pytestmark = pytest.mark.browser
PLAYED = (64, 67, 69, 71, 72, 71, 69, 67)
BARS = 2


@pytest.fixture
def solo(served) -> str:
    """Two bars whose second note is written a half step low, and whose last is not written."""
    made = solo_on(served, line_of(*PLAYED))
    notes = [
        {"id": f"n{k}", "tick": k * QUARTER, "ticks": QUARTER, "string": 1, "fret": (midi - 64 - (k == 1)) * 100}
        for k, midi in enumerate(PLAYED[:-1])
    ]
    settings = served.stored(made)["settings"]
    served.edit(
        made,
        [
            {"kind": "setting", "id": "last_bar", "before": settings["last_bar"], "after": BARS},
            *({"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes),
        ],
    )
    return made


def open_check(page: Page, solo: str) -> None:
    page.goto(f"/solos/{solo}/check")
    page.get_by_role("group", name="Strip").wait_for()
    expect(page.get_by_role("status", name="Check")).not_to_have_text("Checking …")


def listened(page: Page) -> None:
    page.get_by_role("button", name="Listen to the whole solo").click()
    expect(page.get_by_role("status", name="Check")).not_to_contain_text("not been listened", timeout=40_000)


def findings(page: Page):
    return page.get_by_role("list", name="Findings").get_by_role("listitem")


def test_a_solo_is_listened_to_and_its_findings_are_mended_by_keys(page: Page, served, worker, solo: str) -> None:
    open_check(page, solo)
    expect(page.get_by_role("status", name="Check")).to_have_text(
        "1 finding in the writing; the sound has not been listened to."
    )
    expect(findings(page)).to_have_count(1)  # bar 2 holds three beats
    listened(page)
    expect(findings(page)).to_have_count(3)
    expect(findings(page).first).to_contain_text("heard a half step higher than written")
    findings(page).first.get_by_role("button").click()
    hand = page.get_by_role("region", name="Finding", exact=True)
    expect(hand.get_by_role("heading")).to_have_text("Bar 1, string 1, fret 2")
    expect(hand.get_by_role("img")).to_have_accessible_name(re.compile("heard a half step higher than written"))
    assert page.locator("[data-finding]").count() >= 3 and page.locator("[data-heard]").count() >= 8
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    page.keyboard.press("ArrowDown")
    expect(hand.get_by_role("heading")).to_have_text("Bar 2")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Enter")  # what is heard is written, and the next finding comes by itself
    expect(findings(page)).to_have_count(2)
    expect(hand.get_by_role("heading")).to_have_text("Bar 2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status", name="Check")).to_have_text("Nothing to mend.")
    saved(page)
    written = [(64, 59)[note["string"] - 1] + note["fret"] // 100 for note in served.stored(solo)["notes"]]
    assert written == list(PLAYED)
    page.keyboard.press("Minus")  # one undo takes the last of it back
    expect(findings(page)).to_have_count(2)


def test_a_finding_is_waived_with_a_reason_taken_up_again_and_kept(page: Page, served, worker, solo: str) -> None:
    open_check(page, solo)
    listened(page)
    findings(page).filter(has_text="half step").get_by_role("button").click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Digit0")
    reason = page.get_by_label("Let it stand, because")
    reason.fill("played flat, on purpose")
    page.keyboard.press("Escape")
    page.keyboard.press("Digit0")
    expect(reason).to_have_value("played flat, on purpose")
    page.get_by_role("button", name="Waive", exact=True).click()
    expect(findings(page)).to_have_count(2)
    page.reload()
    page.get_by_role("button", name="waived 1").click()
    expect(findings(page)).to_contain_text(["heard a half step higher than written · played flat, on purpose"])
    note = served.stored(solo)["notes"][1]
    served.edit(solo, [{"kind": "note", "id": note["id"], "before": note, "after": note | {"ticks": QUARTER - 100}}])
    expect(page.get_by_role("button", name="waived 1")).to_have_count(0)  # its note is another: it is open again
    now = served.stored(solo)["notes"][1]
    served.edit(solo, [{"kind": "note", "id": note["id"], "before": now, "after": note}])
    page.get_by_role("button", name="waived 1").click()
    page.get_by_role("button", name="Take it up again").click()
    expect(page.get_by_role("button", name="waived 1")).to_have_count(0)
    page.get_by_role("button", name="all", exact=True).click()
    expect(findings(page)).to_have_count(3)
    page.get_by_role("button", name=re.compile("^pitch 1")).click()
    expect(findings(page)).to_have_count(1)


def test_a_bend_that_is_written_short_is_found_drawn_and_mended(page: Page, served, worker) -> None:
    solo = solo_on(served, line_of(64, 67, 69, 71, bent=2))
    notes = [
        {"id": f"n{k}", "tick": k * QUARTER, "ticks": QUARTER, "string": 1, "fret": (midi - 64) * 100}
        | ({"course": [[0, 0], [4_000, 2]]} if k == 2 else {})
        for k, midi in enumerate((64, 67, 69, 71))
    ]
    served.edit(solo, [{"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes])
    open_check(page, solo)
    listened(page)
    finding = findings(page).filter(has_text=re.compile(r"bent \d+ cents; a half step is written"))
    finding.get_by_role("button").click()
    hand = page.get_by_role("region", name="Finding", exact=True)
    expect(hand.get_by_role("img")).to_have_accessible_name(re.compile(r"\d+ cents wide"))
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Digit9")
    until(page, "window.heard.level() > 0.003")
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    expect(finding).to_have_count(0)
    saved(page)
    assert max(quarters for _, quarters in served.stored(solo)["notes"][2]["course"]) == 4


def test_recording_and_writing_are_heard_in_turns_at_a_finding(page: Page, served, worker, solo: str) -> None:
    open_check(page, solo)
    findings(page).first.get_by_role("button").click()
    with page.expect_response(re.compile(r"/pieces?\?.*hear=turns")) as answer:
        page.get_by_role("button", name="Hear both").click()
    assert answer.value.status == 200
    until(page, "window.heard.level() > 0.003")
    ways = page.get_by_role("group", name="Hear")
    expect(ways.get_by_role("button", name="bar by bar")).to_have_attribute("aria-pressed", "true")
    for words in ("both", "each ear", "writing", "recording"):
        ways.get_by_role("button", name=words, exact=True).click()
        expect(ways.get_by_role("button", name=words, exact=True)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Stop").click()


def test_the_list_follows_what_another_writes_and_listening_can_be_cancelled(
    page: Page, served, worker, solo: str
) -> None:
    worker.pause(signal.SIGSTOP)
    open_check(page, solo)
    page.get_by_role("button", name="Listen to the whole solo").click()
    expect(page.get_by_role("progressbar", name="Listening")).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("alert").filter(has_text="Cancelled.")).to_be_visible()
    worker.pause(signal.SIGCONT)
    gone = served.stored(solo)["notes"][2]
    served.edit(solo, [{"kind": "note", "id": gone["id"], "before": gone, "after": None}])
    expect(findings(page)).to_have_count(2)
    expect(findings(page).filter(has_text="a gap of 1 beat")).to_have_count(1)


def test_a_reload_takes_up_what_is_being_listened_to(page: Page, served, worker, solo: str) -> None:
    worker.pause(signal.SIGSTOP)
    open_check(page, solo)
    page.get_by_role("button", name="Listen to the whole solo").click()
    going = page.get_by_role("progressbar", name="Listening")
    expect(going).to_be_visible()
    page.reload()
    expect(going).to_be_visible()
    worker.pause(signal.SIGCONT)
    expect(findings(page)).to_have_count(3, timeout=40_000)
    expect(going).to_have_count(0)


def test_enter_three_times_mends_three_in_turn(page: Page, served, new_solo) -> None:
    made = new_solo("Three In Turn", bars=4, last_bar=4)
    notes = [
        {"id": f"n{k}", "tick": k * QUARTER, "ticks": QUARTER, "string": 2, "fret": 500}
        for k in range(16)
        if k not in (3, 7, 11)
    ]
    served.edit(made, [{"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes])
    open_check(page, made)
    expect(findings(page)).to_have_count(3)
    page.get_by_role("group", name="Strip").focus()
    for _ in range(3):
        page.keyboard.press("Enter")
    expect(page.get_by_role("status", name="Check")).to_contain_text("Nothing to mend")
    saved(page)
    log = served.post(f"/api/solos/{made}/edits", {"versions": {made: 0}, "edits": []})["edits"]
    assert len({one["act"] for one in log if one["label"] == "write rests"}) == 3


def test_the_shelf_says_how_many_findings_are_open(page: Page, served, worker, solo: str) -> None:
    open_check(page, solo)
    expect(findings(page)).to_have_count(1)
    page.goto("/")
    name = served.get(f"/api/solos/{solo}")["tune"]
    expect(page.get_by_role("listitem").filter(has_text=name).first).to_contain_text("1 finding")
