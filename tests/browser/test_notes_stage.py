"""What Notes shows and offers beside writing: where it opens, degrees, loop and replay, legend, what a note is heard against."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from browser.opening import open_at, saved, until

pytestmark = pytest.mark.browser
TUNE = "Lanterns at Low Water"


def test_the_solo_opens_where_it_begins(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo(TUNE)}/notes")
    first = page.get_by_role("option").first.bounding_box()
    strip = page.get_by_role("group", name="Strip").bounding_box()
    assert first is not None and strip is not None
    assert 92 + 40 <= first["x"] + 14 - strip["x"] < 92 + 80  # the names of the lanes are 92 pixels wide


def test_a_solo_far_into_its_recording_opens_where_it_begins(page: Page, new_solo) -> None:
    page.goto(f"/solos/{new_solo('Far In', bar_one_s=450, tempo_bpm=120)}/notes")
    chord = page.get_by_role("button", name="Chord Am7").first
    expect(chord).to_be_in_viewport()
    box = chord.bounding_box()
    assert box is not None and 92 + 40 <= box["x"] < 92 + 80


def test_without_a_chart_the_strip_says_where_to_write_one(page: Page, new_solo) -> None:
    page.goto(f"/solos/{new_solo('Bare', '')}/notes")
    page.get_by_role("link", name="Write it in Setup").click()
    expect(page.get_by_role("tab", name="Form and chords")).to_be_visible()


@pytest.mark.parametrize("zooms", range(7))
def test_degrees_never_touch(page: Page, served, zooms: int) -> None:
    page.goto(f"/solos/{served.solo(TUNE)}/notes")
    page.get_by_role("option").first.wait_for()
    for _ in range(zooms):
        page.get_by_role("button", name="Zoom out").click()
    boxes = page.evaluate(
        """() => {
          const lowest = Math.max(...[...document.querySelectorAll('[role=option]')].map((o) => o.getBoundingClientRect().bottom));
          const found = [];
          for (const of of document.querySelectorAll('[aria-label=Strip] svg g[data-note]'))
            for (const part of of.querySelectorAll('text, rect, path')) {
              const box = part.getBoundingClientRect();
              if (box.top > lowest && box.width > 0) found.push([of.dataset.note, box.left, box.right, box.top, box.bottom]);
            }
          return found;
        }"""
    )
    touching = [
        (one, other)
        for i, one in enumerate(boxes)
        for other in boxes[i + 1 :]
        if one[0] != other[0]
        and min(one[2], other[2]) - max(one[1], other[1]) > 0.5
        and min(one[4], other[4]) - max(one[3], other[3]) > 0.5
    ]
    assert len(boxes) > 20 or zooms > 3
    assert touching == []


def test_the_loop_is_a_control_and_the_last_two_seconds_come_again(page: Page, served) -> None:
    open_at(page, served.solo(TUNE))
    loop = page.get_by_role("button", name="Loop", exact=True)
    expect(loop).to_have_attribute("aria-pressed", "false")
    loop.click()
    expect(loop).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    loop.click()
    expect(loop).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()

    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Space")
    head = page.get_by_test_id("playhead")
    expect(head).to_be_visible()
    place = "new DOMMatrix(getComputedStyle(document.querySelector('[data-testid=playhead]')).transform).m41"
    begun = page.evaluate(place)
    until(page, f"{place} > {begun} + 127 * 3")  # three seconds at the usual zoom
    before = page.evaluate(place)
    page.keyboard.press("End")
    until(page, f"{place} < {before} - 127")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("End")  # from two seconds before where it stopped, to there
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible(timeout=20_000)


def test_in_a_loop_the_last_two_seconds_come_again_and_it_goes_on_looping(page: Page, served) -> None:
    open_at(page, served.solo(TUNE))
    page.get_by_role("button", name="Loop", exact=True).click()
    place = "new DOMMatrix(getComputedStyle(document.querySelector('[data-testid=playhead]')).transform).m41"
    expect(page.get_by_test_id("playhead")).to_be_visible()
    until(page, "window.heard.sources.some((one) => one.loop)")
    begun = page.evaluate(place)
    until(page, f"{place} > {begun} + 127 * 2.5")
    before = page.evaluate(place)
    page.get_by_role("button", name="Last 2 s").click()
    until(page, f"{place} < {before} - 127")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    until(page, f"{place} > {before}", 20)
    until(page, f"{place} < {before} - 127", 20)  # it has begun again
    expect(page.get_by_role("button", name="Loop", exact=True)).to_have_attribute("aria-pressed", "true")


@pytest.mark.parametrize("key", ["Enter", "Escape"])
def test_the_number_of_the_hand_gives_the_keys_back(page: Page, served, key: str) -> None:
    open_at(page, served.solo(TUNE))
    position = page.get_by_role("spinbutton", name="Position")
    position.fill("3")
    position.press(key)
    expect(page.get_by_role("group", name="Strip")).to_be_focused()
    expect(position).to_have_value("3")


def test_the_legend_says_what_the_signs_mean(page: Page, served) -> None:
    open_at(page, served.solo(TUNE))
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="Legend").click()
    legend = page.get_by_role("dialog", name="Legend")
    for part, words in (
        ("Degrees", "filled: a tone of the chord"),
        ("Degrees", "waved underline: blue"),
        ("On the string", "bent: the line lifts, with its size in steps"),
        ("Underlines and colours", "red sounds now"),
    ):
        row = legend.get_by_role("region", name=part).get_by_role("listitem").filter(has_text=words)
        expect(row).to_have_count(1)
        box = row.locator("svg, span[aria-hidden]").first.bounding_box()
        assert box is not None and box["width"] > 10


def test_other_changes_are_laid_over_a_span_and_taken_away(page: Page, new_solo) -> None:
    open_at(page, new_solo("Side Step"), 0)
    page.keyboard.press("KeyF")
    sentence = page.get_by_role("status", name="Sentence")
    note = page.get_by_role("option").first
    note.click()
    expect(sentence).to_contain_text("of Am7")
    was = sentence.inner_text()
    page.get_by_role("group", name="Strip").focus()
    for _ in range(8):
        page.keyboard.press("Shift+ArrowRight")
    page.get_by_role("button", name="other changes …").click()
    dialog = page.get_by_role("dialog", name="Other changes over what is marked")
    dialog.get_by_label("Chords").fill("Eb7 | Ab7 | Bb7")
    dialog.get_by_role("button", name="Lay them").click()
    expect(dialog.get_by_role("alert")).to_contain_text("3 are written")
    dialog.get_by_label("Chords").fill("Eb7")
    dialog.get_by_label("Name", exact=True).fill("a side step")
    dialog.get_by_role("button", name="Lay them").click()
    expect(dialog).to_have_count(0)
    expect(page.locator("[data-other-changes='a side step']").first).to_contain_text("E♭7")
    note.click()
    expect(sentence).to_contain_text("E♭7")
    saved(page)
    page.reload()
    page.get_by_role("option").first.click()
    expect(sentence).to_contain_text("E♭7")

    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Enter")
    page.get_by_role("menuitem", name="other changes …").click()
    here = page.get_by_role("dialog").get_by_role("list", name="Other changes here")
    here.get_by_role("button", name="The chart first").click()
    here.get_by_role("button", name="Delete").click()
    expect(here).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_role("option").first.click()
    expect(sentence).to_have_text(was)


def test_an_anticipation_is_overruled_at_its_note(page: Page, served) -> None:
    solo = served.solo(TUNE)
    open_at(page, solo)
    page.get_by_role("option", name="3:1").first.click()
    sentence = page.get_by_role("status", name="Sentence")
    was = sentence.inner_text()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Enter")
    page.get_by_role("menuitem", name="the next chord").click()
    page.keyboard.press("Escape")
    expect(sentence).to_contain_text("C7")
    saved(page)
    page.keyboard.press("Minus")
    expect(sentence).to_have_text(was)
    saved(page)
