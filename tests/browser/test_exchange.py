"""Files out of a solo and in again, through the page."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from core.formats.asking import brought_in
from core.formats.test_musicxml import BACKWARD, FORWARD, FOUR, measure, note, score

pytestmark = pytest.mark.browser

BEND = "<notations><technical><bend><bend-alter>2</bend-alter></bend></technical></notations>"


def harbour() -> bytes:
    """A pick-up, a repeat that is short by it, and a bend; no strings and no frets."""
    body = measure(0, FORWARD, note("E", 4, 1), attributes=FOUR, implicit=True)
    body += measure(1, note("A", 4, 1), note("C", 5, 1, BEND), note("D", 5, 1), note("C", 5, 1))
    body += measure(2, *(note("A", 4, 1) for _ in range(3)), BACKWARD)
    return score(body, head="<work><work-title>Harbour Walk</work-title></work>")


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=option).click()


def notes_of(served, page: Page) -> list[dict]:
    solo = page.url.split("/solos/")[1].split("/")[0]
    return served.get(f"/api/solos/{solo}/document.json")["solo"]["notes"]


def test_a_score_comes_in_at_chosen_positions_and_one_undo_takes_it_back(page: Page, served, tmp_path: Path) -> None:
    path = tmp_path / "harbour.musicxml"
    path.write_bytes(harbour())
    page.goto("/")
    page.get_by_label("File to import").set_input_files(path)
    dialog = page.get_by_role("dialog", name="Import harbour.musicxml")
    expect(dialog).to_contain_text("MusicXML: Harbour Walk, 16 notes in 5 bars.")
    expect(dialog.get_by_role("region", name="What to know")).to_contain_text("Its repeats are played out.")
    dialog.get_by_role("combobox", name="Positions of notes without a place").click()
    ways = page.get_by_role("option")
    assert ways.count() > 1
    chosen = ways.nth(1).inner_text()
    ways.nth(1).click()
    expect(dialog.get_by_role("combobox")).to_contain_text(chosen)
    dialog.get_by_role("button", name="Make a solo of it").click()
    expect(page.get_by_role("heading", name="Harbour Walk")).to_be_visible()
    page.get_by_role("group", name="Strip").wait_for()
    notes = notes_of(served, page)
    assert [one["tick"] // 10_080 for one in notes] == list(range(-1, 15)) and notes[2]["course"]
    wanted = brought_in(harbour(), "musicxml", way=1).document.solo.notes
    assert [(one["string"], one["fret"]) for one in notes] == [(one.string, one.fret) for one in wanted]
    page.get_by_role("button", name="undo").first.click()
    expect(page.get_by_role("listbox", name="Notes").get_by_role("option")).to_have_count(0)
    page.get_by_role("button", name="redo").first.click()
    expect(page.get_by_role("listbox", name="Notes").get_by_role("option").first).to_be_visible()
    assert len(notes_of(served, page)) == 16


def test_each_kind_goes_out_and_opens_again(page: Page, new_solo: Callable[..., str], served, tmp_path: Path) -> None:
    solo = new_solo("Round Trip")
    served.post(f"/api/solos/{solo}/pitches", {"text": "A4 C5 D5 E5 D5 C5 A4 G4", "tick": 0, "ticks": 5_040})
    before = [
        (one["tick"], one["string"], one["fret"])
        for one in served.get(f"/api/solos/{solo}/document.json")["solo"]["notes"]
    ]
    kinds = {
        "MusicXML (.musicxml)": "x.musicxml",
        "MusicXML, compressed": "x.mxl",
        "MIDI": "x.mid",
        "JAMS": "x.jams",
        "Text tablature": "x.txt",
    }
    for words, name in kinds.items():
        page.goto(f"/solos/{solo}/notes")
        page.get_by_role("button", name="Export").click()
        page.get_by_role("menuitem", name="Other formats").click()
        dialog = page.get_by_role("dialog", name="Export")
        choose(page, "Format", words)
        with page.expect_download() as download:
            dialog.get_by_role("button", name="Export").click()
        path = tmp_path / name
        download.value.save_as(path)
        page.goto("/")
        page.get_by_label("File to import").set_input_files(path)
        page.get_by_role("button", name="Make a solo of it").click()
        page.get_by_role("group", name="Strip").wait_for()
        assert [(one["tick"], one["string"], one["fret"]) for one in notes_of(served, page)] == before, words
        served.post(f"/api/solos/{page.url.split('/solos/')[1].split('/')[0]}/remove", {})


def test_what_a_format_will_not_hold_is_said_before_it_is_written(page: Page, served) -> None:
    solo = next(one["id"] for one in served.get("/api/shelf")["solos"] if one["tune"] == "Slack Tide")
    page.goto(f"/solos/{solo}/notes")
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Other formats").click()
    lost = page.get_by_role("region", name="What it will not hold")
    expect(lost).to_contain_text("phrases, questions, choices, remarks and the plan")
    choose(page, "Format", "MIDI")
    expect(lost).to_contain_text("pull-offs")
    choose(page, "Format", "Solo document")
    expect(lost).to_have_count(0)


def test_a_picture_is_shown_as_it_will_be_and_saved(page: Page, served) -> None:
    solo = next(one["id"] for one in served.get("/api/shelf")["solos"] if one["tune"] == "Slack Tide")
    page.goto(f"/solos/{solo}/notes")
    for what, kind, start in (("Tablature", "SVG", b"<svg"), ("The neck", "PNG", b"\x89PNG")):
        page.get_by_role("button", name="Export").click()
        page.get_by_role("menuitem", name="Picture").click()
        choose(page, "As", what)
        choose(page, "File", kind)
        shown = page.get_by_role("img", name="What will be saved")
        expect(shown).to_be_visible()
        page.wait_for_function("() => document.querySelector('img[alt=\"What will be saved\"]').naturalWidth > 100")
        with page.expect_download() as download:
            page.get_by_role("button", name="Save the picture").click()
        assert Path(download.value.path()).read_bytes().startswith(start)


def test_a_span_is_made_into_sound_by_a_worker(page: Page, served, worker) -> None:
    solo = next(one["id"] for one in served.get("/api/shelf")["solos"] if one["tune"] == "Slack Tide")
    page.goto(f"/solos/{solo}/notes")
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Sound").click()
    dialog = page.get_by_role("dialog", name="Sound")
    choose(page, "Of", "Bar 1, at the cursor")
    dialog.get_by_label("50 %").check()
    dialog.get_by_label("The writing, played").check()
    dialog.get_by_role("button", name="Make it").click()
    expect(dialog.get_by_role("status", name="The pack")).to_contain_text("2 files made.", timeout=30_000)


def test_a_file_goes_into_the_solo_that_is_open(
    page: Page, new_solo: Callable[..., str], served, tmp_path: Path
) -> None:
    solo = new_solo("Here Already")
    served.post(f"/api/solos/{solo}/pitches", {"text": "A4 C5", "tick": 0, "ticks": 10_080})
    path = tmp_path / "mail.txt"
    path.write_text("\n".join(f"{string}|{'-5-7-8-5-' if string == 'e' else '---------'}|" for string in "eBGDAE"))
    page.goto(f"/solos/{solo}/notes")
    page.get_by_role("group", name="Strip").wait_for()
    page.get_by_label("File to import").set_input_files(path)
    dialog = page.get_by_role("dialog", name="Import mail.txt")
    choose(page, "How long are its notes?", "All quarter notes")
    dialog.get_by_role("button", name="Put it in").click()
    expect(dialog).to_have_count(0)
    assert [(one["tick"] // 10_080, one["fret"]) for one in notes_of(served, page)] == [
        (0, 500),
        (1, 700),
        (2, 800),
        (3, 500),
    ]
    page.get_by_role("button", name="undo").first.click()
    expect(page.get_by_role("listbox", name="Notes").get_by_role("option")).to_have_count(2)
