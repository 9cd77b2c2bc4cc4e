"""A recording comes in, is heard, and its notes are offered: used, taken, put right and refused in the page."""

from __future__ import annotations

import re
import signal
from functools import cache
from pathlib import Path

import numpy as np
import pytest
import soundfile
from benchmarks.bands import band
from playwright.sync_api import Page, expect
from training.sources import travelling_waves

from browser.opening import QUARTER, choose, open_at, saved, until

pytestmark = pytest.mark.browser
LINE = (64, 67, 69, 71, 72, 71, 69, 67)


@cache
def line_of(*midi: int, bent: int | None = None) -> np.ndarray:
    """A pitch on every beat at 120 from half a second on, by a string that tuned nothing; one is bent a whole step."""
    line = np.zeros(round((1.5 + len(midi) / 2) * 48_000))
    strings = travelling_waves()
    for number, pitch in enumerate(midi):
        own, sound = min(strings, key=lambda one: abs(one[0] - pitch))
        frames = np.arange(round(0.48 * 48_000))
        up = 2 * np.clip((frames / 48_000 - 0.1) / 0.12, 0, 1) if number == bent else np.zeros(len(frames))
        at = np.concatenate([[0], np.cumsum(2 ** ((pitch + up - own) / 12) * 44_100 / 48_000)[:-1]])
        start = round((0.5 + number / 2) * 48_000)
        fade = np.minimum(1, np.arange(len(at))[::-1] / 2_000)  # so that nothing clicks where it ends
        line[start : start + len(at)] += np.interp(at, np.arange(len(sound)), sound) * fade
    return np.asarray(line / np.abs(line).max() * 0.7)


def solo_on(served, sound: np.ndarray) -> str:
    """A solo without a note on such a recording; some noise makes every recording another."""
    name = f"Line {np.random.default_rng().integers(10**9)}"
    basics = {"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 4}
    return str(served.bring(name, sound + np.random.default_rng().normal(0, 1e-4, len(sound)), basics=basics))


@pytest.fixture
def line(served) -> str:
    return solo_on(served, line_of(*LINE))


def listen(page: Page, solo: str) -> None:
    open_at(page, solo)
    page.keyboard.press("NumpadMultiply")
    offers = page.get_by_role("list", name="Offers")
    expect(offers.get_by_role("listitem")).not_to_have_count(0, timeout=30_000)
    page.get_by_role("group", name="Strip").focus()


def test_what_is_heard_of_a_new_recording_fills_the_dialog_in(page: Page, served, worker, tmp_path: Path) -> None:
    known = band(5_400, 24.0)
    file = tmp_path / "first look.wav"
    soundfile.write(file, known.sound, 48_000)
    page.goto("/")
    page.get_by_label("Recording file").set_input_files(file)
    heard = page.get_by_role("list", name="What is heard")
    # The file has to come first, which takes as long as the machine is busy.
    expect(heard.get_by_role("progressbar").first).to_be_visible(timeout=30_000)
    expect(page.get_by_role("button", name="Start writing")).to_be_enabled()  # nothing waits for it
    bpm = 60 / float(np.median(np.diff(known.beats)))
    beat = heard.get_by_role("listitem", name="beat")
    expect(beat).to_contain_text(
        re.compile(rf"about ({round(bpm) - 1}|{round(bpm)}|{round(bpm) + 1}) a minute"), timeout=60_000
    )
    expect(heard.get_by_role("progressbar")).to_have_count(0, timeout=60_000)
    beat.get_by_role("button", name="Use it").click()
    assert float(page.get_by_label("Tempo", exact=True).input_value()) == pytest.approx(bpm, rel=0.02)
    beat.get_by_role("button", name="Next beat is beat 1").click()  # moves the grid that is in use, not the words alone
    said = re.search(r"first beat at ([\d.]+) s", beat.inner_text())
    assert said is not None
    heard.get_by_role("button", name="Use the chords").click()
    expect(page.get_by_label("Chord chart")).to_have_value(re.compile(r"^\| .* \|"))
    page.get_by_label("Tune").fill("Heard Before Written")
    page.get_by_role("button", name="Start writing").click()
    page.get_by_role("group", name="Strip").wait_for()
    ground = served.get(f"/api/solos/{served.solo('Heard Before Written')}/document.json")["ground"]
    ticks, seconds = zip(*[(a["tick"], a["second"]) for a in ground["anchors"]], strict=True)
    assert np.interp(0, ticks, seconds) == pytest.approx(float(said[1]), abs=0.03)
    laid = np.interp(np.arange(4, 30) * QUARTER, ticks, seconds)
    assert np.median(np.abs(laid[:, None] - known.beats).min(axis=1)) < 0.02


def test_offers_are_heard_taken_and_put_right_by_keys_and_undone_at_once(page: Page, served, worker, line: str) -> None:
    listen(page, line)
    offer = page.get_by_role("status", name="Offer")
    expect(offer).to_contain_text("E4")
    until(page, "document.querySelectorAll('[data-offer]').length >= 4")
    assert page.locator("[data-heard-pitch]").count() >= 4
    page.get_by_role("button", name="hear the moment").click()
    until(page, "window.heard.level() > 0.003")
    page.get_by_role("button", name="hear the moment").click()
    with page.expect_response(re.compile(r"/tone\?name=E4")) as tone:
        page.get_by_role("button", name="hear its pitch").click()
    assert tone.value.status == 200
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Enter")
    expect(offer).to_contain_text("G4")
    saved(page)
    (first,) = served.stored(line)["notes"]
    assert first["tick"] == 0 and first["heard"]["onset_s"] == pytest.approx(0.5, abs=0.02)
    page.keyboard.press("Digit9")  # another likely pitch
    expect(offer).not_to_contain_text("G4")
    page.keyboard.press("Digit0")  # an octave of that
    page.keyboard.press("Enter")
    expect(offer).to_contain_text("A4")
    page.keyboard.press("Delete")  # no note here
    expect(offer).to_contain_text("B4")
    assert len(served.stored(line)["notes"]) == 2
    page.keyboard.press("Home")  # all that is left
    expect(page.get_by_role("status", name="What was heard")).to_contain_text(
        "Nothing more is heard here. 1 said to be no note."
    )
    saved(page)
    notes = served.stored(line)["notes"]
    assert [note["tick"] for note in notes] == [0, QUARTER, 3 * QUARTER]
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(2)
    page.reload()
    listen(page, line)
    expect(offer).to_contain_text("B4")  # what is no note is not offered again
    page.get_by_role("button", name="Offer all again").click()
    expect(page.get_by_role("list", name="Offers").get_by_role("listitem")).to_have_count(2)


def test_a_key_that_agrees_with_a_sure_offer_takes_it_as_it_was_heard(page: Page, served, worker, line: str) -> None:
    listen(page, line)
    place = served.post(f"/api/solos/{line}/offers", {"start": 0, "end": 4 * QUARTER, "hints": {}})["offers"][0]
    assert place["band"] == "sure"
    page.get_by_role("button", name="note", exact=True).click()
    page.get_by_label("Position").fill("3")
    page.get_by_label("Position").press("Enter")
    page.keyboard.press("KeyR")  # string 3, fret 4: not what is heard
    saved(page)
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(0)
    page.keyboard.press("ArrowLeft")
    page.get_by_label("Position").fill("5")
    page.get_by_label("Position").press("Enter")
    page.keyboard.press("Digit5")  # string 2, fret 5: the E that is heard
    expect(page.get_by_role("option")).to_have_count(1)
    saved(page)
    (note,) = served.stored(line)["notes"]
    assert (note["string"], note["fret"], note["ticks"]) == (2, 500, QUARTER) and note["heard"] is not None


def test_ahead_of_the_cursor_is_listened_to_while_one_writes(page: Page, served, worker, line: str) -> None:
    listen(page, line)
    page.get_by_role("button", name="Hints").click()
    page.get_by_label("listen ahead while I write").check()
    until(page, "document.querySelectorAll('[data-offer]').length >= 7")  # the bar at the cursor, and the next
    page.get_by_role("button", name="note", exact=True).click()  # one writes with whichever tool is open
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    page.get_by_label("Position").fill("5")
    page.get_by_label("Position").press("Enter")
    page.keyboard.press("Digit5")  # string 2, fret 5: the E that is heard
    expect(page.get_by_role("option")).to_have_count(1)
    saved(page)
    second_bar = re.compile(rf'"start":{4 * QUARTER}\b')
    with page.expect_response(
        lambda answer: "/offers?" in answer.url and bool(second_bar.search(answer.request.post_data or ""))
    ) as answer:
        for _ in range(8):
            page.keyboard.press("ArrowRight")
    ticks = [offer["note"]["tick"] for offer in answer.value.json()["offers"]]
    assert {4 * QUARTER, 5 * QUARTER, 6 * QUARTER, 7 * QUARTER} <= set(ticks) and min(ticks) >= 4 * QUARTER
    expect(page.get_by_role("option")).to_have_count(1)


def test_a_written_bend_takes_its_size_and_timing_from_what_is_heard(page: Page, served, worker) -> None:
    solo = solo_on(served, line_of(64, 67, 69, 71, bent=2))
    at = 2 * QUARTER
    note = {"id": "bent", "tick": at, "ticks": QUARTER, "string": 2, "fret": 1000, "course": [[0, 0], [7_560, 1]]}
    served.edit(solo, [{"kind": "note", "id": "bent", "before": None, "after": note}])
    open_at(page, solo)
    page.keyboard.press("NumpadMultiply")
    expect(page.get_by_role("list", name="Offers").get_by_role("listitem")).to_have_count(3, timeout=30_000)
    page.get_by_role("option").click()
    page.get_by_role("button", name="bend as heard").click()
    saved(page)
    (bent,) = served.stored(solo)["notes"]
    (arrives, top) = max(bent["course"], key=lambda point: point[1])
    assert top == 4 and arrives == pytest.approx(0.22 * 2 * QUARTER, abs=QUARTER / 8)
    page.get_by_role("group", name="Strip").focus()
    with page.expect_response(lambda answer: answer.request.method == "POST" and "/offers?" not in answer.url):
        page.keyboard.press("Minus")
    assert served.stored(solo)["notes"][0]["course"] == note["course"]
    page.get_by_role("option").click()
    with page.expect_response(re.compile(r"/bend-as-heard\?")):
        page.keyboard.press("NumpadDecimal")
    assert served.stored(solo)["notes"][0]["course"] == bent["course"]


def test_hints_are_kept_with_the_span_and_what_another_writes_meanwhile_stays(
    page: Page, served, worker, line: str
) -> None:
    listen(page, line)
    page.get_by_role("button", name="Hints").click()
    choose(page, "Notes at a time", "one line")
    expect(page.get_by_role("list", name="Offers").get_by_role("listitem")).not_to_have_count(0, timeout=30_000)
    page.get_by_label("lowest note").fill("h9")
    page.get_by_label("lowest note").press("Enter")
    expect(page.get_by_role("group", name="Hints").get_by_role("alert")).to_contain_text("is not a note name")
    page.get_by_label("lowest note").fill("e2")
    with page.expect_response(re.compile(r"/offers\?"), timeout=30_000):
        page.get_by_label("lowest note").press("Enter")
    expect(page.get_by_label("lowest note")).to_have_value("E2")
    theirs = {"id": "theirs", "tick": QUARTER, "ticks": QUARTER, "string": 6, "fret": 300}
    served.edit(line, [{"kind": "note", "id": "theirs", "before": None, "after": theirs}])
    expect(page.get_by_role("option")).to_have_count(1)
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Home")
    saved(page)
    expect(page.get_by_role("option")).not_to_have_count(1)
    notes = {note["id"]: note for note in served.stored(line)["notes"]}
    assert notes["theirs"]["fret"] == 300 and len(notes) >= 4
    page.reload()
    open_at(page, line)
    page.keyboard.press("NumpadMultiply")
    expect(page.get_by_role("button", name="Hints: one line, in a range")).to_be_visible()


def test_listening_can_be_cancelled_and_outlives_its_worker(page: Page, served, worker, line: str) -> None:
    worker.pause(signal.SIGSTOP)
    open_at(page, line)
    page.keyboard.press("NumpadMultiply")
    expect(page.get_by_role("progressbar", name="Listening")).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("status", name="What was heard")).to_have_text("Cancelled.")
    page.get_by_role("button", name="Next four seconds").click()
    expect(page.get_by_role("progressbar", name="Listening")).to_be_visible()
    worker.kill()
    worker.begin()
    expect(page.get_by_role("list", name="Offers").get_by_role("listitem")).not_to_have_count(0, timeout=40_000)


def test_listening_in_haste_keeps_its_hints_and_is_taken_up_after_a_reload(
    page: Page, served, worker, line: str
) -> None:
    worker.pause(signal.SIGSTOP)
    open_at(page, line)
    page.get_by_role("navigation", name="Tools").get_by_role("button", name="listen").click()
    page.get_by_role("button", name="Hints").click()
    choose(page, "Notes at a time", "one line")  # before anything was listened to
    page.get_by_role("button", name=re.compile("^Listen to ")).click()
    going = page.get_by_role("progressbar", name="Listening")
    expect(going).to_be_visible()
    page.reload()
    expect(going).to_be_visible()
    worker.pause(signal.SIGCONT)
    offers = page.get_by_role("list", name="Offers").get_by_role("listitem")
    expect(offers).to_have_count(4, timeout=30_000)
    expect(page.get_by_role("button", name="Hints: one line")).to_be_visible()
    page.get_by_role("group", name="Strip").focus()
    for _ in range(8):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("status", name="Offer")).to_contain_text("The first one is in bar 1")
    page.keyboard.press("Home")  # wherever the cursor is
    expect(offers).to_have_count(0)
    saved(page)
    assert [note["tick"] // QUARTER for note in served.stored(line)["notes"]] == [0, 1, 2, 3]


def test_without_a_recording_listening_says_so(page: Page, new_solo) -> None:
    open_at(page, new_solo("Nothing To Hear"))
    page.keyboard.press("NumpadMultiply")
    expect(page.get_by_text("There is no recording here to listen to.").first).to_be_visible()


def test_whether_corrections_are_kept_is_asked_once(page: Page, served, worker, line: str) -> None:
    listen(page, line)
    with page.expect_response(re.compile("/api/corrections")):
        page.get_by_role("button", name="No", exact=True).click()
    box = page.get_by_role("checkbox", name="keep what I put right, for measuring")
    expect(box).not_to_be_checked()
    with page.expect_response(re.compile("/api/corrections")):
        box.check()
    assert served.get("/api/corrections") == {"keeps": True}
    box.uncheck()
