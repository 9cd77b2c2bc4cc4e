"""Looking at a solo, hearing it, and where the address says you are."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser.opening import until

pytestmark = pytest.mark.browser
QUARTER = 10_080
LOOPS = "window.heard.sources.filter((one) => one.loop)"


def test_the_strip_shows_bars_chords_phrases_and_notes_that_say_themselves(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/notes")
    bend = page.get_by_role("option", name="1:1+1/2: String 2, fret 10, bent up a whole step, vibrato: the 5 of Em7.")
    expect(bend).to_be_visible()
    expect(page.get_by_role("button", name="Phrase the lamp is lit")).to_be_visible()
    expect(page.get_by_role("button", name="Chord Am9 at 2:1")).to_have_count(1)
    bend.click()
    expect(page.get_by_role("status", name="Sentence")).to_have_text(
        "String 2, fret 10, bent up a whole step, vibrato: the 5 of Em7."
    )
    expect(bend).to_have_attribute("aria-selected", "true")
    expect(page.get_by_role("figure", name="The neck from above")).to_contain_text("over Em7")


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1280, 640), (390, 844)])
@pytest.mark.parametrize("tune", ["Lanterns at Low Water", "Ferry Bell"])
def test_every_lane_and_the_play_button_are_in_sight(page: Page, served, tune: str, width: int, height: int) -> None:
    """The second tune has a stack of three: its degrees stand lowest of all."""
    page.set_viewport_size({"width": width, "height": height})
    page.goto(f"/solos/{served.solo(tune)}/notes")
    page.get_by_role("option").first.wait_for()
    strip = page.get_by_role("group", name="Strip")
    box = strip.bounding_box()
    assert box is not None and box["y"] + box["height"] <= height
    words = "(one) => [...one.querySelectorAll('svg text')].map((text) => text.getBoundingClientRect().bottom)"
    lowest = strip.evaluate(words)
    assert len(lowest) > 30 and max(lowest) <= box["y"] + box["height"]
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_in_viewport(ratio=1)


def test_cursor_selection_and_zoom_work_by_keyboard_and_stand_in_the_address(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    page.goto(f"/solos/{solo}/notes?at=0&string=2")
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowDown")
    expect(page).to_have_url(re.compile(r"at=5040&string=3"))
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    expect(page).to_have_url(re.compile(r"span=5040-to-15120"))
    page.keyboard.press("Backquote")
    page.keyboard.press("Equal")
    expect(page).to_have_url(re.compile(r"zoom=160"))
    page.get_by_role("button", name="Zoom out").click()
    expect(page).to_have_url(re.compile(r"zoom=127"))
    page.reload()
    expect(page.get_by_test_id("selection")).to_have_count(1)
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("selection")).to_have_count(0)


def test_a_span_is_marked_by_mouse(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/notes?at=0")
    strip = page.get_by_role("group", name="Strip")
    box = strip.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 529, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 809, box["y"] + 200, steps=4)
    page.mouse.up()
    expect(page).to_have_url(re.compile(r"span=40320-to-\d+"))


def level(page: Page) -> None:
    until(page, "window.heard.level() > 0.01")


def test_a_phrase_loops_with_sound_in_its_exact_length_and_the_speed_changes_while_it_plays(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    page.goto(f"/solos/{solo}/notes?at=0")
    phrase = served.stored(solo)["phrases"][1]
    loop = served.get(f"/api/solos/{solo}/phrases/{phrase['id']}/loop")
    page.get_by_role("button", name=f"Phrase {phrase['name']}").click()
    expect(page.get_by_text(f"Looping {phrase['name']}")).to_be_visible()
    level(page)
    frames = loop["end"] - loop["start"]
    until(page, LOOPS + ".length === 1")  # it begins with a first piece, and the whole takes over
    (first,) = page.evaluate(LOOPS)
    assert (first["frames"], first["rate"], first["loop"]) == (frames, 48_000, True)
    assert first["loopEnd"] == pytest.approx(frames / 48_000, abs=1e-9)
    page.get_by_role("radio", name="60 %").click()
    until(page, LOOPS + ".length === 2")
    assert page.evaluate(LOOPS + "[1].frames") == round(frames / 0.6)
    level(page)
    expect(page.get_by_test_id("playhead")).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    until(page, "window.heard.level() < 0.0005")


def test_a_count_in_is_one_bar_before_the_loop(page: Page, served) -> None:
    solo = served.solo("Lanterns at Low Water")
    page.goto(f"/solos/{solo}/notes?span=40320-to-80640")
    page.get_by_role("checkbox", name=re.compile("Count-in")).check()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backslash")
    until(page, "window.heard.sources.length >= 2")
    clicks, loop = page.evaluate("window.heard.sources.slice(0, 2)")
    bar = round(4 * 60 / 104 * 48_000)
    assert abs(clicks["frames"] - bar) <= 1 and not clicks["loop"]
    assert loop["when"] - clicks["when"] == pytest.approx(clicks["frames"] / 48_000 - 0.03, abs=1e-4)


def test_play_from_the_cursor_goes_on_in_pieces_and_the_strip_follows(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/notes?at=0&zoom=200")
    page.get_by_role("spinbutton", name="Speed in per cent").fill("125")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Space")
    level(page)
    until(page, "window.heard.sources.length >= 3")
    one, two = page.evaluate("window.heard.sources.slice(1, 3)")
    joins = one["when"] + (one["frames"] - 240) / 48_000
    assert joins - 1e-6 <= two["when"] < joins + 0.25  # late only where the machine is too busy, never early
    until(page, "document.querySelector('[aria-label=Strip]').scrollLeft > 300")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()


def test_in_tune_and_the_trim_shift_what_is_asked_for(page: Page, served, new_solo) -> None:
    solo = new_solo("Sharp Tape", offset_cents=34)
    page.goto(f"/solos/{solo}/notes?span=0-to-40320")
    page.get_by_role("checkbox", name="In tune").check()
    page.get_by_role("spinbutton", name="Trim in cents").fill("4")
    page.get_by_role("group", name="Strip").focus()
    with page.expect_request(re.compile("/piece.*loop=true")) as asked:
        page.keyboard.press("Space")
    assert "cents=-30" in asked.value.url and "loop=true" in asked.value.url


def test_degrees_and_names_are_said_as_the_reader_holds_them(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Lanterns at Low Water')}/notes?at=0")
    page.get_by_role("option", name=re.compile("the 9 of Am9")).click()
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="Degrees plain").click()
    expect(page.get_by_role("status", name="Sentence")).to_contain_text("the 2 of Am9")
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="Names in syllables").click()
    expect(page.get_by_text("ti4, an eighth note")).to_be_visible()
    page.reload()
    expect(page.get_by_role("option", name=re.compile("the 2 of Am9"))).to_have_count(1)


def test_strings_turn_over_for_who_sees_them_from_above(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Gull Weather')}/notes")
    note = page.get_by_role("option").first
    expect(note).to_be_visible()
    # How far down its strings the first note lies: the strip itself may still find its height.
    part = """(() => { const box = (one) => document.querySelector(one).getBoundingClientRect();
      return (box('[role=option]').y - box('[aria-label=Strip]').y) / box('[aria-label=Strip]').height; })()"""
    on_third = page.evaluate(part)
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="String 1 at the bottom").click()
    until(page, f"Math.abs({part} - {on_third}) > 0.03")
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="String 1 on top").click()
    until(page, f"Math.abs({part} - {on_third}) < 0.03")


def test_the_volume_starts_low_and_says_when_it_is_loud(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Gull Weather')}/notes")
    volume = page.get_by_role("slider", name="Volume")
    assert float(volume.input_value()) <= 0.3
    volume.fill("0.9")
    expect(page.get_by_text("rest your ears")).to_be_visible()


def test_light_and_dark(page: Page, served) -> None:
    page.goto(f"/solos/{served.solo('Gull Weather')}/notes")
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="Dark").click()
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == "rgb(27, 30, 33)"
    page.reload()
    page.get_by_role("group", name="Strip").wait_for()
    assert page.evaluate("document.documentElement.dataset.theme") == "slate"


def test_a_solo_that_is_not_there_says_so(page: Page) -> None:
    page.goto("/solos/00000000-0000-0000-0000-000000000000/notes")
    expect(page.get_by_role("alert")).to_have_text("This solo is not here any more.")


MARKED = re.compile(r"◊\d+")


def test_nothing_musical_is_computed_in_the_page(page: Page, served) -> None:
    """Labels, names, counts and places of the server are replaced by views: the views show, and no true label."""
    solo = served.solo("Lanterns at Low Water")
    views: dict[str, str] = {}

    def mark(text: str) -> str:
        return views.setdefault(text, f"◊{len(views)}") if text else text

    def replace(route) -> None:
        body = route.fetch().json()
        for note in body["views"].values():
            for name in ("where", "name", "degree", "other", "says", "more"):
                note[name] = mark(note[name])
            note["degrees"] = [mark(one) for one in note["degrees"]]
            for bend in note["bends"]:
                bend["size"] = mark(bend["size"])
        for bar in body["strip"]["bars"]:
            bar["label"], bar["clock"] = mark("bar " + bar["label"]), mark(bar["clock"])
            for beat in bar["beats"]:
                beat["count"] = mark("count " + beat["count"])
        for chord in body["strip"]["chords"]:
            chord["shown"], chord["where"] = mark(chord["shown"]), mark(chord["where"])
            chord["tones"] = [mark("tone " + tone) for tone in chord["tones"]]
            for slot in chord["slots"]:
                slot["degree"] = mark("slot " + slot["degree"])
        for string in body["tables"]["strings"]:
            string["name"] = mark("string " + string["name"])
        for length in body["tables"]["lengths"]:
            length["short"] = mark("length " + length["short"])
        route.fulfill(json=body)

    page.route(re.compile(rf"/api/solos/{solo}\?"), replace)
    page.goto(f"/solos/{solo}/notes?at=0&string=2")
    page.get_by_role("option").nth(3).click()
    page.get_by_text(MARKED).first.wait_for()
    where = "svg text, [role=status], [aria-label=Length], figcaption, p"
    texts = page.evaluate("where => [...document.querySelectorAll(where)].map(e => e.textContent)", where)
    labels = page.evaluate("[...document.querySelectorAll('[role=option]')].map(e => e.getAttribute('aria-label'))")
    shown = set(MARKED.findall(" ".join(texts + labels)))
    stored = served.get(f"/api/solos/{solo}")
    first = [n for n in stored["solo"]["notes"] if n["tick"] < 40_320]
    for note in first:
        told = stored["views"][note["id"]]
        for text in (told["degree"], told["says"], *told["degrees"], *(b["size"] for b in told["bends"])):
            assert views[text] in shown, text
    for text in ("bar 1", "count 2", "tone E", "Em7", "string E", "length ⅛"):
        assert views[text] in shown, text
    true = {"Em7", "Am9", "B7(♭9)", "♭3", "♭7", "1:1", "E4", "B4"}  # single letters stand on keys, too
    seen = " ".join(texts)
    assert not true & set(re.split(r"[\s→:,.]+", seen)), true & set(re.split(r"[\s→:,.]+", seen))
