"""Teaching in the page: the plan by keys, remarks while it loops, the stair by pedal, the vamp, handouts, loop packs."""

from __future__ import annotations

import io
import re
import urllib.request
import zipfile
from collections.abc import Callable

import numpy as np
import pypdfium2
import pytest
import soundfile
from playwright.sync_api import Page, expect
from scipy.ndimage import gaussian_filter

from browser.listening import RATE, Tape, listen, taped, taping
from browser.opening import BAR, QUARTER, choose, until, with_sound

pytestmark = pytest.mark.browser
ALIKE = 0.008  # how far two pictures of a page may differ, of the range from white to black
LOOPING = "window.heard.sources.filter((one) => one.loop).length"


def lines(page: Page):
    return page.get_by_role("listbox", name="Lines of the plan").get_by_role("option")


def hand(page: Page):
    return page.get_by_role("complementary", name="The line in hand")


def names(page: Page) -> list[str]:
    return [text.split(" · bar")[0].strip() for text in lines(page).all_inner_texts()]


# -- the plan -----------------------------------------------------------------------------------------------------------


def test_the_plan_is_changed_by_keyboard_and_undone(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Curlew Steps")
    page.goto(f"/solos/{solo}/teach")
    expect(lines(page)).to_have_count(4)
    plan = page.get_by_role("listbox", name="Lines of the plan")
    plan.focus()
    page.keyboard.press("ArrowDown")
    expect(hand(page).get_by_role("heading", level=2)).to_have_text("a · up")
    page.keyboard.press("ArrowRight")
    expect(lines(page).nth(2)).to_contain_text("a · up")
    expect(lines(page).nth(2)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Delete")
    expect(lines(page)).to_have_count(3)
    page.get_by_text("1 line left out").click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    plan.focus()
    page.keyboard.press("ControlOrMeta+z")
    expect(lines(page)).to_have_count(4)
    page.keyboard.press("ControlOrMeta+z")
    expect(lines(page).nth(1)).to_contain_text("a · up")
    # The speeds and the difficulty of one line, by keys alone.
    page.keyboard.press("ArrowDown")
    hand(page).get_by_role("button", name="Change it …").focus()
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Start %").fill("40")
    dialog.get_by_label("Passes").fill("2")
    dialog.get_by_label("Passes").press("Enter")
    expect(dialog).to_have_count(0)
    expect(hand(page)).to_contain_text("40 to 100 % by 10, 2 clean passes a step")
    stored = served.stored(solo)["plan"]
    assert [(one["start"], one["passes"], one["goal"]) for one in stored] == [(400, 2, None)]


def test_what_is_marked_joins_the_plan_by_one_key(page: Page, phrased: Callable[..., str]) -> None:
    solo = phrased("Plover Steps")
    page.goto(f"/solos/{solo}/notes?span={QUARTER}-to-{3 * QUARTER}&at={QUARTER}")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("NumpadDivide")
    expect(page.get_by_text("These notes are a line of the plan now.")).to_be_visible()
    page.goto(f"/solos/{solo}/phrases?span={BAR}-to-{BAR + 3 * QUARTER}&at={BAR}")
    page.get_by_role("button", name="Practise it alone").click()
    expect(page.get_by_text("These notes are a line of the plan now.")).to_be_visible()
    page.get_by_role("link", name="Teach").click()
    expect(lines(page).filter(has_text="2 notes from 1:2")).to_have_count(1)
    expect(lines(page).filter(has_text="3 notes from 2:1")).to_have_count(1)


def test_the_teacher_writes_a_remark_with_a_second_way(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Dunlin Steps")
    note = next(one for one in served.stored(solo)["notes"] if one["id"] == "n1")
    bent = note | {"course": [[0, 0], [5_040, 4]]}
    served.edit(solo, [{"kind": "note", "id": "n1", "before": note, "after": bent}])
    page.goto(f"/solos/{solo}/teach")
    lines(page).filter(has_text="a · up").click()
    hand(page).get_by_role("button", name="Write one …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Words").fill("Third finger. If it is too far, slide.")
    choose(dialog, "A second way to play it", "slide instead of the bend")
    expect(dialog.get_by_role("img")).to_be_visible()
    dialog.get_by_role("button", name="Keep").click()
    expect(hand(page).get_by_role("region", name="Remarks")).to_contain_text("Third finger. If it is too far, slide.")
    expect(hand(page).get_by_role("group", name="Second way")).to_be_visible()
    hand(page).get_by_role("button", name="Delete").click()
    expect(hand(page).get_by_role("region", name="Remarks")).not_to_contain_text("Third finger")


# -- the page to play from ----------------------------------------------------------------------------------------------


def test_a_remark_is_shown_while_it_loops_with_what_sounds(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Sandpiper Steps", tempo_bpm=100)
    served.post(f"/api/solos/{solo}/remarks", {"on": {"kind": "phrase", "phrase": "p0"}, "words": "Lay back a little."})
    with_sound(page, solo, "phrase:p0", voice=1)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    expect(page.get_by_role("region", name="Remarks")).to_contain_text("phrase a: Lay back a little.")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    until(page, "window.heard.level() > 0.003")
    expect(page.get_by_label("Sounding")).to_have_text(re.compile(r"^(1|♭9|9|♭3|3)$"))
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    page.get_by_role("button", name="Next line").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("a and b joined")


def test_after_fifteen_minutes_of_looping_one_line_asks_for_a_break(
    page: Page, served, phrased: Callable[..., str]
) -> None:
    solo = phrased("Oystercatcher Steps", tempo_bpm=240)
    served.post(f"/api/solos/{solo}/plan/settings", {"start": 1_000, "goal": 1_000, "passes": 50})
    with_sound(page, solo, "phrase:p0", vamp=0.8)
    page.clock.install()
    page.goto(f"/practice/{solo}?line=phrase:p0")
    page.get_by_role("button", name="Play").wait_for()
    page.keyboard.press("Space")
    until(page, "window.heard.level() > 0.003")
    rest = page.get_by_role("status", name="Break")
    minutes = 0
    while rest.count() == 0 and minutes < 40:
        page.clock.run_for(60_000)
        page.wait_for_timeout(20)
        minutes += 1
    assert 15 <= minutes < 25, minutes
    expect(rest).to_contain_text("Put the guitar down for a few minutes.")
    rest.get_by_role("button", name="Go on").click()
    expect(rest).to_have_count(0)


def test_the_stair_is_climbed_and_gone_down_by_pedal(page: Page, served, phrased: Callable[..., str]) -> None:
    solo = phrased("Turnstone Steps", tempo_bpm=240)
    served.post(f"/api/solos/{solo}/plan/settings", {"start": 800, "goal": 1_000, "step": 100, "passes": 1})
    with_sound(page, solo, "phrase:p0", vamp=0.8)
    page.goto(f"/practice/{solo}?line=phrase:p0")
    where = page.get_by_role("status", name="Where you are")
    stair = page.get_by_role("group", name="Stair")
    expect(where).to_contain_text("80 %, 192 a minute, pass 1 of 1")
    page.keyboard.press("PageDown")
    expect(where).to_contain_text("90 %", timeout=20_000)  # one clean pass, and up
    expect(where).to_contain_text("100 %", timeout=20_000)
    expect(stair.get_by_role("button", name=re.compile("^100 %"))).to_have_attribute("aria-pressed", "true")
    # Two misses running, each said by the pedal within its pass, lead one step down.
    page.keyboard.press("PageUp")
    expect(page.get_by_role("button", name="Missed")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("button", name="Missed")).to_have_attribute("aria-pressed", "false", timeout=10_000)
    page.keyboard.press("PageUp")
    expect(where).to_contain_text("90 %", timeout=10_000)
    page.keyboard.press("PageDown")
    expect(page.get_by_role("button", name="Play")).to_be_visible()


def begins(tape: Tape, due: float) -> float:
    """By how many seconds something begins after it is due: where what changes fast exceeds a twentieth of its height.

    Strings and drums that ring on change slowly; the second difference leaves little of them.
    """
    at = round(due * RATE) - tape.first
    around = np.abs(np.diff(tape.line[at - 960 : at + 960], 2))
    return (int(np.argmax(around > 0.05 * around.max())) + 1 - 960) / RATE


def test_remarks_are_found_by_their_words_and_stand_over_the_player_of_any_stage(
    page: Page, served, phrased: Callable[..., str]
) -> None:
    solo = phrased("Redshank Steps")
    served.post(f"/api/solos/{solo}/remarks", {"on": {"kind": "phrase", "phrase": "p1"}, "words": "Watch the thumb."})
    page.goto(f"/solos/{solo}/notes?at=0")
    page.get_by_role("navigation", name="Tools").get_by_role("button", name="find and write").click()
    page.get_by_label("Find", exact=True).fill("thumb")
    found = page.get_by_role("list", name="Remarks found").get_by_role("listitem")
    expect(found).to_contain_text("phrase b: Watch the thumb.")
    found.get_by_role("button").click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backslash")
    expect(page.get_by_role("region", name="Remarks on the loop")).to_contain_text("phrase b: Watch the thumb.")


@pytest.mark.parametrize("layer", ["vamp", "voice"])
@pytest.mark.parametrize("percent", [25, 60, 100])
def test_vamp_and_voice_lie_on_the_grid(page: Page, served, new_solo, layer: str, percent: int) -> None:
    """Heard from the page's own output: a count-in of four clicks, then the layer, one stroke a beat."""
    solo = new_solo(f"{layer} at {percent}", chart="| C7 |\n4 choruses")
    notes = [
        {"id": f"n{i}", "tick": i * QUARTER, "ticks": QUARTER // 2, "string": 1, "fret": 800,
         "ending": {"kind": "staccato"}}
        for i in range(8)
    ]  # fmt: skip
    served.edit(solo, [{"kind": "note", "id": one["id"], "before": None, "after": one} for one in notes])
    served.post(f"/api/solos/{solo}/plan/settings", {"start": percent * 10, "goal": percent * 10, "passes": 4})
    with_sound(page, solo, "whole", **{layer: 1, "countIn": True})
    page.goto(f"/practice/{solo}?line=whole")
    page.get_by_role("button", name="Play").wait_for()
    beat = 0.5 * 100 / percent
    page.keyboard.press("Space")  # once without being heard, so that the next time begins on the tape
    until(page, f"{LOOPING} > 0", 30)
    page.keyboard.press("Space")
    loops = page.evaluate(LOOPING)
    listen(page, 0.3)
    with taping(page) as kept:
        page.keyboard.press("Space")
        until(page, f"{LOOPING} > {loops}", 30)
        listen(page, 6 * beat + 0.6)
    found = kept[0].onsets()
    clicks = found[0] + beat * np.arange(4)
    assert np.abs(found[:4] - clicks).max() < 0.001
    for number in (4, 5):
        late = begins(kept[0], found[0] + beat * number)
        assert abs(late) < 0.001, (number, round(late * 1_000, 2))


def test_twenty_passes_of_a_vamp_are_alike_and_without_a_click(page: Page, phrased: Callable[..., str]) -> None:
    solo = phrased("Whimbrel Steps", tempo_bpm=240)
    with_sound(page, solo, "phrase:p1", vamp=1)
    page.goto(f"/practice/{solo}?line=phrase:p1")
    page.get_by_role("button", name="100 %, 240 a minute").click()
    page.keyboard.press("Space")
    until(page, f"{LOOPING} > 0", 30)
    page.wait_for_timeout(600)
    period = page.evaluate("window.heard.sources.filter((one) => one.loop).at(-1).frames")
    tape = taped(page, 21.5 * period / RATE)
    first = tape[:period]
    assert np.abs(first).max() > 0.01 and len(tape) // period >= 20
    for number in range(1, len(tape) // period):
        assert np.abs(tape[number * period : (number + 1) * period] - first).max() < 1e-5, number
    # At the seam of the loop nothing jumps that does not jump within it.
    steps = np.abs(np.diff(tape))
    assert all(steps[n * period - 2 : n * period + 2].max() <= steps[: period - 4].max() for n in range(1, 20))


def test_a_lick_is_heard_over_one_chord(page: Page, served) -> None:
    page.goto("/licks?text=3%20.%201")
    page.get_by_role("row").first.click()
    lick = page.get_by_role("complementary", name="The lick in hand")
    choose(lick, "Heard", "vamp over one chord")
    lick.get_by_label("Chord of the vamp").fill("C7")
    with page.expect_request("**/api/licks/sound?**") as asked:
        lick.get_by_role("button", name="Hear it there").click()
    body = asked.value.post_data_json
    assert (body["vamp"], body["over"]) == (True, "C7")
    until(page, "window.heard.sources.length > 0")
    until(page, "window.heard.level() > 0.003")


@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_the_page_to_play_from_fits_and_is_worked_with_one_thumb(page: Page, served, size: tuple[int, int]) -> None:
    width, height = size
    page.set_viewport_size({"width": width, "height": height})
    page.goto(f"/practice/{served.solo('Lanterns at Low Water')}?line=whole")
    for name in ("Play", "Missed", "Slower", "Faster", "Sound"):
        box = page.get_by_role("button", name=name, exact=True).bounding_box()
        assert box is not None and box["height"] >= 44 and box["y"] + box["height"] <= height + 1, name
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    # At twice the size everything is still there.
    page.set_viewport_size({"width": width // 2, "height": height // 2})
    page.get_by_role("button", name="Play").scroll_into_view_if_needed()
    expect(page.get_by_role("button", name="Play")).to_be_in_viewport()


# -- what is taken home -------------------------------------------------------------------------------------------------


def drawn(page: pypdfium2.PdfPage) -> np.ndarray:
    """The page as grey, softened by a point: two programs set the same letters a fraction of a point apart."""
    return gaussian_filter(np.asarray(page.render(scale=2).to_pil().convert("L"), np.float64) / 255, 3)


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_a_handout_is_printed_as_its_pdf_is(page: Page, served, paper: str) -> None:
    solo = served.solo("Lanterns at Low Water")
    page.goto(f"/solos/{solo}/teach")
    page.get_by_role("link", name="Handout").click()
    if paper == "letter":
        choose(page, "Paper", "Letter")
    with urllib.request.urlopen(f"{served.base}/api/solos/{solo}/handout.pdf?paper={paper}") as answer:
        made = pypdfium2.PdfDocument(answer.read())
    page.get_by_role("img", name=f"Page 1 of {len(made)}").wait_for()
    until(page, f"document.querySelector('svg[role=img]').viewBox.baseVal.width > {595 if paper == 'a4' else 611}")
    page.evaluate("document.fonts.ready.then(() => true)")
    printed = pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True, print_background=True))
    assert len(printed) == len(made) >= 3
    for one, other in zip(printed, made, strict=True):
        a, b = drawn(one), drawn(other)
        rows, columns = min(a.shape[0], b.shape[0]), min(a.shape[1], b.shape[1])
        assert np.abs(a[:rows, :columns] - b[:rows, :columns]).mean() < ALIKE
    # Two pages of the same handout are told apart by far more.
    first, second = drawn(made[0]), drawn(made[1])
    assert np.abs(first - second).mean() > 3 * ALIKE


# Whether *Print* could be pressed in any frame in which a staff was not drawn yet.
EARLY = """
const look = () => {
  const staves = [...document.querySelectorAll('[aria-label="Staff notation"]')];
  const print = [...document.querySelectorAll("button")].find((one) => one.textContent === "Print");
  if (print && !print.disabled && staves.some((one) => one.querySelector("svg") === null)) window.early = true;
  requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""


def test_staff_notation_stands_over_every_line_before_it_can_be_printed(page: Page, served) -> None:
    page.add_init_script(EARLY)
    page.goto(f"/handout/{served.solo('Gull Weather')}?staff=true")
    staves = page.get_by_role("img", name="Staff notation")
    expect(staves.first.locator("svg")).to_be_visible(timeout=20_000)
    sheet = served.get(f"/api/solos/{served.solo('Gull Weather')}/handout?staff=true")
    expect(staves).to_have_count(len(sheet["staves"]))
    until(page, "document.querySelectorAll('[aria-label=\"Staff notation\"] svg').length === "
                f"{len(sheet['staves'])}")  # fmt: skip
    expect(page.get_by_role("button", name="Print", exact=True)).to_be_enabled()
    assert not page.evaluate("window.early === true")
    heads = sum(len(note["heads"]) > 0 for place in sheet["staves"] for note in place["line"]["notes"])
    assert page.locator(".vf-stavenote").count() >= heads


def test_a_loop_pack_is_made_and_opened_again(page: Page, served, worker, phrased: Callable[..., str]) -> None:
    solo = phrased("Godwit Steps", tempo_bpm=240)
    page.goto(f"/solos/{solo}/teach")
    lines(page).filter(has_text="a · up").click()
    hand(page).get_by_role("button", name="Loop pack …").click()
    dialog = page.get_by_role("dialog")
    choose(dialog, "Format", "Opus")
    dialog.get_by_role("checkbox", name="Recording").uncheck()
    dialog.get_by_role("checkbox", name="The writing, played").check()
    dialog.get_by_role("checkbox", name="Vamp").check()
    dialog.get_by_role("button", name="Make the pack").click()
    expect(dialog.get_by_role("status", name="The pack")).to_contain_text("6 files made.", timeout=30_000)
    with page.expect_download() as saved:
        dialog.get_by_role("link", name="Save the archive").click()
    with zipfile.ZipFile(saved.value.path()) as archive:
        files = sorted(name for name in archive.namelist() if name.endswith(".opus"))
        assert len(files) == 6
        sound, rate = soundfile.read(io.BytesIO(archive.read(files[0])))
        assert rate == RATE and np.abs(sound).max() > 0.05
