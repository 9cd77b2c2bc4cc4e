"""The analysis in the page: phrases told, notes asked why, other changes laid, readings picked, motifs heard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser.opening import open_analysis, saved

pytestmark = pytest.mark.browser


def phrase(page: Page):
    return page.get_by_role("region", name="Phrase")


def test_the_demo_is_read_by_keyboard(page: Page, served) -> None:
    open_analysis(page, served.solo("Lanterns at Low Water"), tick=282_240)
    expect(phrase(page).get_by_role("heading")).to_have_text("the tide turns")
    expect(phrase(page).get_by_label("Told")).to_contain_text("Bars 7–8, over ♭IIImaj7 to ii7♭5 to V7(♭9).")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Digit9")
    expect(phrase(page).get_by_role("heading")).to_have_text("Why ♭5?")
    expect(phrase(page).get_by_role("list", name="Why")).to_contain_text(
        "The core tones of F♯m7♭5 are 1 ♭3 ♭5 ♭7: it is a chord tone."
    )
    link = phrase(page).get_by_role("link", name="rule").last
    expect(link).to_have_attribute("href", "/help/music#chords")
    page.keyboard.press("ArrowRight")  # the reasons follow the cursor
    expect(phrase(page).get_by_role("list", name="Why")).not_to_contain_text("The note at 8:1 is")
    page.keyboard.press("Digit9")
    expect(phrase(page).get_by_role("heading")).to_have_text("the tide turns")
    expect(page.locator("[data-path=approach]").first).to_be_attached()
    expect(page.get_by_role("figure", name="The phrase on the neck")).to_be_visible()


def test_the_rules_open_where_a_fact_says(page: Page, served) -> None:
    page.goto("/help/music#roles")
    expect(page.get_by_role("heading", name="Roles", exact=True)).to_be_in_viewport()


def test_a_reading_is_picked_by_keys_and_found_after_a_reload(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    open_analysis(page, solo, tick=282_240)
    readings = page.get_by_role("list", name="Readings")
    expect(readings.get_by_role("button", pressed=True)).to_have_count(0)
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    picked = readings.get_by_role("button", pressed=True)
    expect(picked).to_have_count(1)
    name = picked.inner_text()
    saved(page)
    page.reload()
    expect(readings.get_by_role("button", pressed=True)).to_have_text(re.compile(re.escape(name.split("\n")[1])))
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")  # undo lets it go
    expect(readings.get_by_role("button", pressed=True)).to_have_count(0)


def test_other_changes_over_a_bar_change_the_words(page: Page, served) -> None:
    solo = served.solo("The Salt Road")
    page.goto(f"/solos/{solo}/analysis")
    offered = phrase(page).get_by_role("button", name=re.compile("^Lay .* over it"))
    page.get_by_role("group", name="Strip").wait_for()
    tick = page.evaluate(
        "solo => fetch(`/api/solos/${solo}/analysis`).then(one => one.json()).then(one => one.offered[0].start)", solo
    )
    open_analysis(page, solo, tick=tick)
    expect(offered.first).to_be_visible()
    before = page.locator("svg text").filter(has_text=re.compile("^G6$")).count()
    offered.first.click()
    expect(offered).to_have_count(0)
    saved(page)
    assert page.locator("svg text").filter(has_text=re.compile("^G6$")).count() >= before
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Digit9")
    expect(phrase(page).get_by_role("list", name="Why")).to_contain_text("lie over the chart")


def test_a_phrase_is_told_in_the_teachers_words(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    open_analysis(page, solo, tick=282_240)
    page.get_by_role("button", name=re.compile("^In my words")).click()
    page.get_by_label("In my words").fill("Down the ladder, one rung a beat.")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(phrase(page).get_by_label("In my words")).to_have_text("Down the ladder, one rung a beat.")
    expect(phrase(page).get_by_label("Told")).to_have_count(0)
    saved(page)
    page.reload()
    expect(phrase(page).get_by_label("In my words")).to_have_text("Down the ladder, one rung a beat.")
    page.get_by_role("button", name=re.compile("^In my words")).click()
    page.get_by_role("button", name="Delete my words").click()
    expect(phrase(page).get_by_label("Told")).to_be_visible()


def test_both_places_of_a_motif_are_heard(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    bar = 40_320
    open_analysis(page, solo, tick=13 * bar)
    page.get_by_role("button", name="motifs", exact=True).click()
    motif = page.get_by_role("list", name="Motifs").get_by_role("listitem").filter(has_text="as in bar 4, the same")
    motif.get_by_role("button", name="Hear it before").click()
    playing = page.get_by_role("button", name=re.compile("^(Pause|Stop)"))
    expect(playing).to_be_visible()
    expect(page.locator(".loop-wash")).to_be_attached()
    first = page.locator(".loop-wash").bounding_box()
    motif.get_by_role("button", name="Hear it here").click()
    page.wait_for_timeout(300)
    second = page.locator(".loop-wash").bounding_box()
    assert first is not None and second is not None and first["x"] != second["x"]


def test_phrases_are_suggested_a_selection_is_read_and_a_role_is_given(page: Page, served, new_solo) -> None:
    made = new_solo("Two Lines", "| {key C major} C | Am7 |")
    line = [(0, 5, 1), (1, 6, 1), (2, 5, 1), (3, 8, 1), (8, 5, 1), (9, 3, 1), (10, 5, 1), (11, 6, 1)]
    notes = [
        {"id": f"n{at}", "tick": at * 5_040, "ticks": ticks * 5_040, "string": 2, "fret": fret * 100}
        for at, fret, ticks in line
    ]
    served.edit(made, [{"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes])
    open_analysis(page, made)
    expect(phrase(page).get_by_role("heading")).to_have_text("The solo")
    page.get_by_role("button", name="Suggest phrases").click()
    expect(phrase(page).get_by_role("heading")).to_have_text("a")
    assert [(one["name"], one["start"]) for one in served.stored(made)["phrases"]] == [("a", 0), ("b", 40_320)]
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Digit9")  # why?
    expect(phrase(page).get_by_role("list", name="Why")).to_contain_text("is a neighbour of it")
    phrase(page).get_by_role("combobox", name="I call it").click()
    page.get_by_role("option", name="outside", exact=True).click()
    expect(phrase(page).get_by_role("list", name="Why")).to_contain_text("You call it: outside.")
    phrase(page).get_by_label("Goal").fill("3")
    phrase(page).get_by_label("Goal").press("Enter")
    expect(phrase(page).get_by_role("list", name="Why")).to_contain_text("You call it: outside to the 3.")
    phrase(page).get_by_role("button", name="Leave it to the program").click()
    expect(phrase(page).get_by_role("list", name="Why")).not_to_contain_text("You call it")
    page.keyboard.press("Escape")
    page.goto(f"/solos/{made}/analysis?at=0&string=2&span=0-to-10080")
    expect(phrase(page).get_by_role("heading")).to_have_text("What is marked")
