"""An own recording from the file to a written, slowed loop; and a solo taken away and read back."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest
import soundfile
from playwright.sync_api import Page, expect

from browser.opening import as_text, choose, part, until
from usagi.media.decode import ENDINGS

pytestmark = pytest.mark.browser
QUARTER = 10_080


def test_an_own_recording_from_the_file_to_a_loop(page: Page, served, sound_file: Path) -> None:
    page.goto("/")
    page.get_by_label("Recording file").set_input_files(sound_file)
    expect(page.get_by_text("6.0 seconds")).to_be_visible()
    wave = page.get_by_role("img", name="The sound: click where bar 1 starts")
    box = wave.bounding_box()
    assert box is not None
    wave.click(position={"x": box["width"] * 0.49 / 12, "y": 30})
    for _ in range(2):
        page.get_by_role("button", name="5 ms later").click()
    said = float(page.get_by_label("Bar 1 in seconds").inner_text().split()[0])
    assert said == pytest.approx(0.5, abs=0.02)
    page.get_by_label("Tune").fill("Tin Roof")
    page.get_by_role("textbox", name="Player").fill("Ada Moor")
    page.get_by_label("Tempo", exact=True).fill("120")
    choose(page, "Key", "A")
    choose(page, "Mode", "dorian")
    choose(page, "Feel", "swing")
    page.get_by_text("Tuning, capo, bars:").click()
    choose(page, "Tuning", "another, typed")
    page.get_by_label("Typed tuning").fill("D A D G B E")
    page.get_by_label("Capo").fill("2")
    page.get_by_label("to bar", exact=True).fill("2")
    page.get_by_label("Chord chart").fill("| Bm7 | Hm7 |")
    page.get_by_role("button", name="Start writing").click()
    expect(page.get_by_role("list", name="Faults of the chart")).to_contain_text("Bar 2, line 1, column 9, “Hm7”")
    page.get_by_label("Chord chart").fill("| Bm7 | E7 . . F#m7 |")
    page.get_by_role("button", name="Start writing").click()
    strip = page.get_by_role("group", name="Strip")
    strip.wait_for()
    solo = served.solo("Tin Roof")
    document = served.get(f"/api/solos/{solo}/document.json")
    assert document["solo"]["settings"]["tuning"] == [64, 59, 55, 50, 45, 38]
    assert (document["solo"]["settings"]["capo"], document["solo"]["settings"]["last_bar"]) == (2, 2)
    assert document["ground"]["anchors"][0]["second"] == pytest.approx(said)
    strip.focus()
    page.keyboard.press("KeyE")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Backslash")
    until(page, "window.heard.level() > 0.005")
    assert page.evaluate("window.heard.sources[0].frames") == 12_000  # an eighth at 120


def test_what_was_settled_is_changed_later_and_what_does_not_fit_is_listed(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Settled")
    page.goto(f"/solos/{solo}/notes?at={7 * 4 * QUARTER}")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("KeyE")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")
    page.get_by_role("link", name="Setup").click()
    ground = page.get_by_role("region", name="Setup", exact=True)

    def settle(label: str, value: str) -> None:
        field = ground.get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")

    settle("Tempo", "90")
    expect(ground.get_by_label("Setup in words")).to_contain_text("quarter = 90")
    settle("to bar", "6")
    listed = page.get_by_role("region", name="What does not fit")
    expect(listed).to_contain_text("The note at 8:1 lies outside the bars of the solo, 1 to 6.")
    choose(ground, "Meter", "3/4")
    part(page, "Form and chords")
    settle("Key", "E minor")
    expect(page.get_by_role("alert")).to_contain_text("Bar 8 lies after the chart")
    page.goto(f"/solos/{solo}/ground?at=0")
    part(page, "Form and chords")
    settle("Key from bar 1 on", "E minor")
    expect(ground.get_by_label("Setup in words")).to_contain_text("E minor")
    part(page, "Time")
    settle("Bar 1 at, s", "0.005")
    expect(ground.get_by_label("Bar 1 at, s")).to_have_value("0.005")
    settle("Tempo", "900")
    expect(page.get_by_role("alert")).to_contain_text("A tempo of 900 is out of reach")
    part(page, "Form and chords")
    as_text(page)
    ground.get_by_label("Chord chart").fill("| Em7 | Xm |")
    expect(ground.get_by_role("list", name="Faults of the chart")).to_contain_text("Bar 2, line 1, column 9")
    ground.get_by_label("Chord chart").fill("| {3/4} {key E minor} Em7 | Am7 |")
    expect(ground.get_by_text("The chart is in force.")).to_be_visible()
    page.get_by_role("group", name="Strip").evaluate("(strip) => { strip.scrollLeft = 0; }")
    expect(page.get_by_role("button", name="Chord Am7 at 2:1")).to_have_count(1)
    assert [n["tick"] for n in served.stored(solo)["notes"]] == [7 * 4 * QUARTER]


def test_a_solo_is_exported_and_imported_with_the_same_ids(page: Page, served, tmp_path: Path) -> None:
    solo = served.solo("Gull Weather")
    page.goto(f"/solos/{solo}/notes")
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Solo document (JSON)").click()
    path = tmp_path / "gull.json"
    download.value.save_as(path)
    said = {"Text tablature": "1 &", "Chord chart (text)": "| Am7 ", "Sections (columns)": "\t"}
    for name, words in said.items():
        page.get_by_role("button", name="Export").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name=name).click()
        assert words in Path(download.value.path()).read_text()
    page.goto("/")
    page.get_by_label("File to import").set_input_files(path)
    page.get_by_role("group", name="Strip").wait_for()
    new = page.url.split("/solos/")[1].split("/")[0]
    assert new != solo
    assert served.get(f"/api/solos/{new}/document.json") == json.loads(path.read_text())
    served.post(f"/api/solos/{new}/remove", {})


def test_a_document_with_another_ground_lists_what_differs(page: Page, served, tmp_path: Path) -> None:
    tree = json.loads((Path(__file__).parents[2] / "demo" / "gull-weather.json").read_bytes())
    tree["ground"]["settings"]["bars"] = 14
    path = tmp_path / "other.json"
    path.write_text(json.dumps(tree))
    page.goto("/")
    page.get_by_label("File to import").set_input_files(path)
    dialog = page.get_by_role("dialog", name="Another setup is here")
    expect(dialog).to_contain_text("differs in: bars")
    dialog.get_by_role("button", name="Keep the setup here").click()
    page.get_by_role("group", name="Strip").wait_for()
    new = page.url.split("/solos/")[1].split("/")[0]
    assert served.get(f"/api/solos/{new}/document.json")["ground"]["settings"]["bars"] == 12
    served.post(f"/api/solos/{new}/remove", {})


def test_a_typed_tuning_is_read_back(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="without a recording").click()
    page.get_by_text("Tuning, capo, bars:").click()
    choose(page, "Tuning", "another, typed")
    typed = page.get_by_label("Typed tuning")
    typed.fill("DADGAD")
    typed.blur()
    expect(page.get_by_text("D A D G A D: D2 A2 D3 G3 A3 D4")).to_be_visible()
    typed.fill("E A D")
    typed.blur()
    expect(page.get_by_text("has 3 strings; a tuning has 4 to 8")).to_be_visible()


def test_a_solo_without_a_recording_plays_its_writing(page: Page, served) -> None:
    page.goto("/")
    page.get_by_role("button", name="without a recording").click()
    page.get_by_label("Tune").fill("Bare Boards")
    page.get_by_label("Chord chart").fill("| Cm7 | F9 . . Bb |")
    page.get_by_role("button", name="Start writing").click()
    strip = page.get_by_role("group", name="Strip")
    strip.wait_for()
    strip.focus()
    page.keyboard.press("KeyE")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Space")
    until(page, "window.heard.level() > 0.005")


def test_bar_one_is_heard_in_the_decoded_sound_of_a_file_that_no_browser_plays(page: Page, sound_file: Path) -> None:
    """AIFF, and a clock of the program's own: a second and a half from the place on."""
    aiff = sound_file.with_name("tin whistle.aiff")
    samples, rate = soundfile.read(sound_file)
    soundfile.write(aiff, samples, rate, format="AIFF")
    page.goto("/")
    picker = page.get_by_label("Recording file")
    expect(picker).to_have_attribute("accept", ",".join([*ENDINGS, "audio/*"]))
    picker.set_input_files(aiff)
    expect(page.get_by_text("6.0 seconds")).to_be_visible()
    with page.expect_response("**/moment?second=0") as moment:
        page.get_by_role("button", name="Hear it").click()
    assert moment.value.headers["content-type"] == "audio/wav"
    heard = "document.querySelector('audio[aria-label=\"The sound at bar 1\"]')"
    until(page, f"{heard}.currentTime > 0.05")
    assert page.evaluate(f"{heard}.duration") == pytest.approx(1.5, abs=0.01)


def test_an_upload_that_was_lost_is_said_to_be_lost(page: Page, sound_file: Path) -> None:
    page.route("**/api/recordings", lambda route: route.abort())
    page.goto("/")
    page.get_by_label("Recording file").set_input_files(sound_file)
    expect(page.get_by_role("alert")).to_have_text(
        "The server does not answer, and nothing of the file is kept there. Bring it again when it is back."
    )
