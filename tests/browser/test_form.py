"""Form, strings and recordings settled on the ground: sections from times, cues, gauges, another part underneath."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from browser.opening import QUARTER, as_text, choose, open_at, part, saved
from browser.test_hearing import hits

pytestmark = pytest.mark.browser
BAR = 4 * QUARTER


def test_a_chart_is_read_while_it_is_typed_and_its_faults_are_marked(page: Page, served, new_solo) -> None:
    solo = new_solo("Typed")
    page.goto(f"/solos/{solo}/ground")
    part(page, "Form and chords")
    as_text(page)
    text = page.get_by_label("Chord chart")
    text.fill("verse:\n| Am7 | Hm7 | D7 . Xq . |")
    faults = page.get_by_role("list", name="Faults of the chart").get_by_role("listitem")
    expect(faults).to_have_count(2)
    marked = page.locator("mark")
    expect(marked).to_have_text(["Hm7", "Xq"])
    expect(page.get_by_role("status", name="Chart")).to_contain_text("the last good chart stays in force")
    assert served.get(f"/api/solos/{solo}/chart")["draft"] == "verse:\n| Am7 | Hm7 | D7 . Xq . |"
    text.fill("verse:\n| Am7 | Bm7 | D7 . G7 . |")
    expect(faults).to_have_count(0)
    expect(page.get_by_role("status", name="Chart")).to_have_text("The chart is in force.")
    assert [c["shown"] for c in served.get(f"/api/solos/{solo}")["strip"]["chords"]][:4] == ["Am7", "Bm7", "D7", "G7"]
    text.press_sequentially(" ")  # what is being typed is not written over, and no step of it is lost
    expect(text).to_have_value("verse:\n| Am7 | Bm7 | D7 . G7 . | ")
    page.get_by_label("Cue", exact=True).focus()
    expect(text).to_have_value("verse:\n| Am7 | Bm7 | D7 G7 |\n")
    page.get_by_label("import a chart").set_input_files(
        {"name": "chart.txt", "mimeType": "text/plain", "buffer": b"| C7 | F7 |\n"}
    )
    expect(text).to_have_value("| C7 | F7 |\n")
    assert [c["shown"] for c in served.get(f"/api/solos/{solo}")["strip"]["chords"]] == ["C7", "F7"]


def test_chords_are_typed_on_the_sheet_here_only_or_every_time(page: Page, served, new_solo) -> None:
    solo = new_solo("Sheet", chart="verse:\n|: Am7 | D7 :|\nout:\n| G | C |", bars=8, last_bar=6)
    page.goto(f"/solos/{solo}/ground?at=0")
    part(page, "Form and chords")
    sheet = page.get_by_role("grid", name="Chart as a sheet")
    expect(sheet.get_by_role("rowheader")).to_have_text(["verse · 1 of 2", "verse · 2 of 2", "out", "not written yet"])

    def bar(number: int, says: str) -> Locator:
        return sheet.get_by_role("button", name=f"Bar {number}: {says}", exact=True)

    bar(3, "Am7").click()
    page.keyboard.press("f")  # typing begins in the bar
    typed = page.get_by_label("Chords of bar 3")
    expect(typed).to_have_value("F")
    typed.press_sequentially("maj7")
    page.keyboard.press("Enter")
    expect(bar(3, "Fmaj7; this time only; the form has Am7")).to_be_focused()
    expect(bar(1, "Am7; 4/4")).to_be_visible()
    page.keyboard.press("ArrowRight")
    expect(bar(4, "D7")).to_be_focused()
    page.keyboard.press("Enter")
    typed = page.get_by_label("Chords of bar 4")
    expect(typed).to_have_value("D7")
    typed.fill("G7 Qx")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Column 4: ")
    expect(typed).to_have_value("G7 Qx")  # what was typed stays
    typed.fill("G7 C7")
    page.get_by_role("button", name="all 2 times").click()
    expect(bar(2, "G7, C7")).to_be_visible()
    expect(bar(4, "G7, C7")).to_be_focused()
    bar(7, "as before").dblclick()  # behind its last bar the chart goes on
    page.get_by_label("Chords of bar 7").fill("F6")
    page.keyboard.press("Enter")
    expect(bar(7, "F6")).to_be_visible()
    bar(6, "C").click()
    page.keyboard.press("a")
    page.keyboard.press("Escape")
    expect(bar(6, "C")).to_be_focused()
    chords = served.get(f"/api/solos/{solo}")["strip"]["chords"]
    assert [chord["shown"] for chord in chords] == ["Am7", "G7", "C7", "Fmaj7", "G7", "C7", "G", "C", "F6"]
    as_text(page)
    expect(page.get_by_label("Chord chart")).to_have_value(
        "verse:\n|: {4/4} {straight} Am7 | G7 C7 :|\n2nd time, bar 1: | Fmaj7 |\nout:\n| G | C | F6 |\n"
    )
    page.get_by_role("radio", name="sheet").click()
    bar(3, "Fmaj7; this time only; the form has Am7").dblclick()
    page.get_by_label("Chords of bar 3").fill("Am7")
    page.keyboard.press("Enter")
    expect(bar(3, "Am7")).to_be_visible()  # as the form has it: no exception any more


def test_a_key_changes_at_a_bar_and_a_section_is_marked_as_blues(page: Page, served, new_solo) -> None:
    solo = new_solo("Keys", chart="head:\n| Em7 | A7 |\nbreak:\n| D7 | G7 |", bars=4, last_bar=4)
    page.goto(f"/solos/{solo}/ground?at={2 * BAR}")
    part(page, "Form and chords")
    key = page.get_by_label("Key from bar 3 on")
    key.fill("G major")
    key.press("Enter")
    expect(page.locator("svg text", has_text="G major").first).to_be_attached()
    page.get_by_label("section is blues").click()
    expect(page.get_by_label("section is blues")).to_be_checked()
    bars = served.get(f"/api/solos/{solo}")["strip"]["bars"]
    assert [(bar["key"], bar["blues"]) for bar in bars][1:] == [
        ("", False), ("G major", True), ("G major", True),
    ]  # fmt: skip
    as_text(page)
    expect(page.get_by_label("Chord chart")).to_have_value(re.compile(r"\{key G major\} \{blues\} D7"))


def test_sections_come_from_times_and_go_out_in_columns(page: Page, served, new_solo) -> None:
    solo = new_solo("Sections", chart="|: A7 | D7 | A7 | E7 :|", bars=8, last_bar=8, tempo_bpm=120)
    page.goto(f"/solos/{solo}/ground?at={5 * BAR}")
    part(page, "Form and chords")
    times = page.get_by_label("Sections by time")
    times.fill("0:00 verse")
    page.get_by_role("button", name="Section here").click()
    expect(times).to_have_value("0:00 verse\n0:10.00 section 2")
    times.fill("0:00 verse\n0:08.9 verse\n")
    page.get_by_role("button", name="Name the sections").click()
    expect(page.get_by_role("status", name="What was found")).to_contain_text(
        "“verse” at 0:08.9 is taken at bar 5, -0.90 s."
    )
    order = page.get_by_label("Order and counts")
    expect(order).to_have_value("verse 2")
    expect(page.get_by_role("group", name="Strip").get_by_text("verse", exact=True)).to_have_count(2)
    expect(page.get_by_label("Place in the form")).to_have_text(
        "Bar 6 is bar 2 of 4 in “verse”, time 2 of 2, 2 more till it comes round."
    )
    order.fill("3")
    order.press("Enter")
    expect(order).to_have_value("verse 3")
    with page.expect_download() as taken:
        page.get_by_role("link", name="sections").click()
    columns = taken.value.path().read_text().splitlines()
    assert columns == ["0.000\t8.000\tverse", "8.000\t16.000\tverse", "16.000\t24.000\tverse"]
    page.get_by_label("import sections").set_input_files(
        {"name": "in.tsv", "mimeType": "text/plain", "buffer": b"0\t8\thead\n8\t24\tsolo\n"}
    )
    expect(times).to_have_value("0\t8\thead\n8\t24\tsolo")
    page.get_by_role("button", name="Name the sections").click()
    expect(order).to_have_value("head 1, solo 1")
    times.fill("soon")
    page.get_by_role("button", name="Name the sections").click()
    expect(page.get_by_role("alert")).to_contain_text("Line 1, “soon”, does not begin with a time")


def test_a_cue_is_pinned_where_the_cursor_stands_and_shown_on_the_strip(page: Page, served, new_solo) -> None:
    solo = new_solo("Answers")
    page.goto(f"/solos/{solo}/ground?at={BAR}")
    part(page, "Form and chords")
    page.get_by_label("Cue", exact=True).fill("and the tide ran out")
    page.get_by_label("Cue", exact=True).press("Enter")
    cues = page.get_by_role("list", name="Cues")
    expect(cues).to_contain_text("2:1and the tide ran out")
    expect(page.locator("svg text", has_text="and the tide ran out")).to_have_count(1)
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")  # undone like everything
    expect(cues.get_by_role("listitem")).to_have_count(0)


def test_gauges_slide_and_a_six_string_that_plays_a_lower_part(page: Page, served, new_solo) -> None:
    solo = new_solo("Low", tuning="baritone B")
    open_at(page, solo)
    page.goto(f"/solos/{solo}/notes?at=0&string=6")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Digit0")
    page.keyboard.press("KeyQ")
    saved(page)
    page.get_by_role("link", name="Setup").click()
    part(page, "Strings and pitch")
    gauges = page.get_by_label("Gauges, thinnest first")
    gauges.fill("12 16 w")
    gauges.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("3 gauges are given for 6 strings")
    gauges.fill("12 16 24w 36w 46w 64w")
    gauges.press("Enter")
    expect(gauges).to_have_value("12 16 24w 36w 46w 64w")
    page.get_by_label("Slide").click()
    expect(page.get_by_label("Slide")).to_be_checked()
    page.get_by_label("muted behind").click()
    expect(page.get_by_label("muted behind")).not_to_be_checked()
    before = served.stored(solo)["notes"][0]
    page.get_by_role("button", name="Rewrite for a six-string …").click()
    expect(page.get_by_role("status", name="Why")).to_contain_text("the sixth string goes")
    page.get_by_role("dialog", name="Retuning").get_by_role("button", name="Keep the pitches").click()
    expect(page.get_by_label("Tuning", exact=True)).not_to_have_value("B E A D F# B")
    after = served.stored(solo)
    assert after["settings"]["tuning"][:5] == [64, 59, 55, 50, 45] and after["settings"]["bottleneck"]
    assert not after["settings"]["muted_behind"]
    low = before["fret"] / 100 + 35
    assert after["settings"]["tuning"][5] == min(40, low)
    assert after["notes"][0]["fret"] / 100 + after["settings"]["tuning"][after["notes"][0]["string"] - 1] == low


def test_the_reference_tone_sounds_as_far_off_as_the_recording(page: Page, served, new_solo) -> None:
    solo = new_solo("Toned")
    page.goto(f"/solos/{solo}/ground")
    part(page, "Strings and pitch")
    page.get_by_role("button", name="+1 cent").click()
    expect(page.get_by_label("Off by cents")).to_have_value("1")
    page.get_by_label("Tone", exact=True).fill("Eb3")
    page.get_by_role("button", name="Play the tone").click()
    for _ in range(100):
        if page.evaluate("document.querySelector('audio').currentTime > 0.05"):
            break
        page.wait_for_timeout(50)
    assert page.evaluate("document.querySelector('audio').duration") == pytest.approx(3.0, abs=0.1)
    page.get_by_label("Tone", exact=True).fill("H")
    page.get_by_role("button", name="Play the tone").click()
    expect(page.get_by_role("status", name="Strings")).to_contain_text("“H” cannot be played")


def test_a_recording_is_described_and_another_part_lies_under_the_one_in_hand(page: Page, served) -> None:
    sound = hits([0.5 * beat for beat in range(1, 18)], 9.7)
    first = served.bring("Two Guitars", sound, title="left", basics={"tempo_bpm": 120, "last_bar": 4})
    recording = served.get(f"/api/solos/{first}")["recording"]["id"]
    body = {"tune": "Two Guitars", "title": "right", "player": "Ines Quarrie", "recording_id": recording}
    second = served.post("/api/solos", body | {"basics": {"last_bar": 4}})["solo_id"]
    live = served.bring("Two Guitars live", sound[: 48_000 * 8], title="live", basics={"tempo_bpm": 120, "last_bar": 4})
    served.post(f"/api/solos/{live}/rename", {"tune": "Two Guitars", "title": "live", "player": "Ada Moor"})
    open_at(page, str(second))
    page.keyboard.press("KeyR")
    saved(page)
    page.goto(f"/solos/{first}/ground")
    part(page, "Recording")
    page.get_by_label("Album or source").fill("Low Water Sessions")
    page.get_by_label("Year").fill("19x4")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("status", name="Recording", exact=True)).to_contain_text("“19x4” is not a year")
    page.get_by_label("Year").fill("1974")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("status", name="Recording", exact=True)).to_have_text("Kept.")
    kept = served.get(f"/api/solos/{first}")["recording"]
    assert (kept["source"], kept["year"]) == ("Low Water Sessions", 1974)
    family = page.get_by_role("list", name="Recordings of this tune")
    expect(family).to_contain_text("left · Ada Moor – this one")
    expect(family.get_by_role("link")).to_have_count(2)
    page.get_by_label("lay under this one").click()
    stages = page.get_by_role("navigation", name="Stages")
    stages.get_by_role("link", name="Notes").click()  # the neck is there; Setup's strip is low
    expect(page.locator("[data-under]")).to_have_count(1)
    stages.get_by_role("link", name="Setup").click()
    part(page, "Recording")
    page.get_by_label("lay under this one").click()
    stages.get_by_role("link", name="Notes").click()
    expect(page.locator("[data-under]")).to_have_count(0)
    stages.get_by_role("link", name="Setup").click()
    part(page, "Recording")
    choose(page, "goes on from", "live · Ada Moor")
    expect(family).to_contain_text("this one goes on from it")
    assert served.get(f"/api/solos/{first}")["solo"]["settings"]["continues"] == live


def test_beats_are_counted_in_the_words_of_the_readers_school(page: Page, served, new_solo) -> None:
    solo = new_solo("Counted", meter="6/8")
    open_at(page, solo)
    words = page.locator("svg text")
    expect(words.filter(has_text="4").first).to_be_visible()
    page.get_by_role("button", name="View").click()
    page.get_by_role("menuitem", name="Count 1 & a, 1 la li").click()
    page.get_by_role("group", name="Strip").wait_for()
    beats = served.get(f"/api/solos/{solo}?school=b")["strip"]["bars"][0]["beats"]
    assert [beat["count"] for beat in beats] == ["1", "2"]
    page.get_by_role("button", name="View").click()
    expect(page.get_by_role("menuitem", name="Count 1 trip let, 1 2 3")).to_be_visible()
    assert np.all([beat["tick"] % 15_120 == 0 for beat in beats])
