"""The ground settled by hand: a tempo tapped, a wrong bar put right, other strings, the click as proof."""

from __future__ import annotations

import re

import numpy as np
import pytest
from benchmarks.bands import band
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

from browser.listening import listen, taping
from browser.opening import QUARTER, as_text, choose, part, saved, until
from browser.test_hearing import hits

pytestmark = pytest.mark.browser


def a_ground(served, name: str, **basics: object) -> str:
    """A recording of hits at 120 a minute, the first at 0.5 s, and a solo whose grid is as told."""
    seconds = 14 + 0.01 * len(name)  # the same bytes would be the same recording
    sound = hits([0.5 + 0.5 * beat for beat in range(int(2 * seconds) - 2)], seconds)
    told = {"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 4} | basics
    return str(served.bring(name, sound, chart="| Am7 | D7 | Gmaj7 | E7(b9) |", basics=told))


def test_a_tempo_is_tapped_while_it_plays(page: Page, served) -> None:
    solo = a_ground(served, "Tapped", tempo_bpm=97)
    page.goto(f"/solos/{solo}/ground?at=0")
    page.get_by_role("button", name="Tap along").click()
    pad = page.get_by_role("dialog", name="Tap along")
    pad.get_by_role("button", name="any key").press("KeyB")
    expect(pad.get_by_role("status", name="Tapping")).to_have_text("Press Play first.")
    pad.get_by_role("button", name="Play").click()
    # A finger that hits every half second of the recording, by the clock that is heard.
    page.evaluate("""() => {
      // Not the first hit: before that is heard nothing plays.
      const { context } = window.heard, start = () => window.heard.sources[0]?.when;
      let next = 1;
      const look = () => {
        const begun = start();
        if (begun !== undefined && context.currentTime - begun >= next * 0.5) {
          document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "b", code: "KeyB", bubbles: true }));
          next += 1;
        }
        if (next < 17) setTimeout(look, 4);
      };
      look();
    }""")
    until(page, "document.querySelector('[role=dialog] button span span').textContent === '16'", 20)
    pad.get_by_role("button", name="Set the grid").click()
    found = page.get_by_role("status", name="What was found")
    expect(found).to_contain_text("Even to")
    anchors = served.get(f"/api/solos/{solo}/document.json")["ground"]["anchors"]
    pace = (anchors[-1]["second"] - anchors[0]["second"]) / (anchors[-1]["tick"] - anchors[0]["tick"]) * QUARTER
    assert pace == pytest.approx(0.5, rel=0.02)
    expect(page.get_by_role("region", name="Setup", exact=True).get_by_label("Setup in words")).to_contain_text(
        "quarter = 1"
    )


def test_a_wrong_bar_is_put_right_and_what_follows_moves_along(page: Page, served) -> None:
    solo = a_ground(served, "Wrong bar", tempo_bpm=120)
    page.goto(f"/solos/{solo}/ground?at={8 * QUARTER}")
    ground = page.get_by_role("region", name="Setup", exact=True)
    field = ground.get_by_label("Bar 3 at, s")
    expect(field).to_have_value("4.500")
    ground.get_by_role("button", name="Bar 3 5 ms later").click()
    expect(field).to_have_value("4.505")
    field.fill("4.6")
    field.press("Enter")
    expect(field).to_have_value("4.600")
    anchors = served.get(f"/api/solos/{solo}/document.json")["ground"]["anchors"]
    assert [(a["tick"], a["second"]) for a in anchors] == [(0, 0.5), (8 * QUARTER, 4.6), (60 * QUARTER, 30.6)]
    ground.get_by_role("button", name="By a click").click()
    strip = page.get_by_role("group", name="Strip")
    edge = strip.bounding_box()
    assert edge is not None
    page.mouse.click(edge["x"] + 700, edge["y"] + 150)
    expect(field).not_to_have_value("4.600")
    label = page.locator("svg text[font-size='21']", has_text=re.compile("^3$")).first.bounding_box()
    assert label is not None
    assert label["x"] - 7 == pytest.approx(edge["x"] + 700, abs=2)  # the bar line is where the click was
    expect(ground.get_by_role("button", name="By a click")).to_be_visible()  # once, then clicks choose again
    field.fill("0.2")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("This bar cannot start at 0.20 s")


def test_other_strings_offer_both_choices_and_the_labels_follow(page: Page, served, new_solo) -> None:
    solo = new_solo("Strings")
    page.goto(f"/solos/{solo}/notes?at=0&string=6")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("KeyQ")
    saved(page)
    fret = served.stored(solo)["notes"][0]["fret"]
    page.get_by_role("link", name="Setup").click()
    ground = page.get_by_role("region", name="Setup", exact=True)
    part(page, "Strings and pitch")
    tuning = ground.get_by_label("Tuning", exact=True)
    tuning.fill("drop D")
    tuning.press("Enter")
    card = page.get_by_role("dialog", name="Retuning")
    expect(card.get_by_role("row", name="6 E2 D2 lower by 2 semitones")).to_be_visible()
    card.get_by_role("button", name="Keep the pitches").click()
    expect(tuning).to_have_value("D A D G B E")
    assert served.stored(solo)["notes"][0]["fret"] == fret + 200
    stages = page.get_by_role("navigation", name="Stages")
    stages.get_by_role("link", name="Notes").click()
    shown = page.get_by_role("option").first
    before = shown.get_attribute("aria-label")
    stages.get_by_role("link", name="Setup").click()
    part(page, "Strings and pitch")
    tuning.fill("standard")
    tuning.press("Enter")
    page.get_by_role("dialog", name="Retuning").get_by_role("button", name="Keep the frets").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    stages.get_by_role("link", name="Notes").click()
    expect(shown).not_to_have_attribute("aria-label", before or "")
    assert served.stored(solo)["notes"][0]["fret"] == fret + 200


@pytest.mark.parametrize("percent", [60, 100])
def test_the_click_lies_on_the_grid_at_every_speed(page: Page, served, percent: int) -> None:
    # The recording's hits and the grid are a quarter of a second apart, so that each is heard by itself.
    solo = a_ground(served, f"Click at {percent}", bar_one_s=0.75)
    bar = 4 * QUARTER
    page.goto(f"/solos/{solo}/notes?span={bar}-to-{bar + 2 * QUARTER}&at={bar}")
    page.get_by_role("checkbox", name="Click").check()
    page.get_by_role("spinbutton", name="Speed in per cent").fill(str(percent))
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backslash")
    until(page, "window.heard.sources.some((one) => one.loop)", 30)
    listen(page, 0.3)
    with taping(page) as kept:
        listen(page, 4.0 * 100 / percent)
    found = kept[0].onsets()
    assert len(found) >= 12
    apart = 0.25 * 100 / percent
    expected = found[1] + apart * np.arange(-1, len(found) - 1)
    assert np.abs(found - expected)[1:].max() < 0.0015


def test_contradicting_credits_are_shown_as_disputed_until_one_is_picked(page: Page, served, new_solo) -> None:
    solo = new_solo("Whose")
    page.goto(f"/solos/{solo}/ground")
    part(page, "Recording")
    page.get_by_role("button", name="Credits and rig …").click()
    credits = page.get_by_role("dialog", name="Credits and rig")
    for number, (who, source) in enumerate((("Ada Moor", "the sleeve"), ("Ines Quarrie", "a letter")), start=1):
        credits.get_by_role("button", name="Add a claim").click()
        row = credits.get_by_role("group", name=f"Claim {number}")
        row.get_by_label("Who").fill(who)
        row.get_by_label("according to").fill(source)
    credits.get_by_role("button", name="Add a row").click()
    credits.get_by_label("What").fill("amplifier")
    credits.get_by_label("how it is set").fill("volume 7, treble 4")
    credits.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Disputed who plays lead guitar: Ada Moor or Ines Quarrie.")).to_be_visible()
    expect(page.get_by_text("· disputed")).to_be_visible()
    page.get_by_role("button", name="Credits and rig …").click()
    credits.get_by_role("group", name="Claim 2").get_by_label("picked").check()
    credits.get_by_role("button", name="Save").click()
    expect(page.get_by_text("· disputed")).to_have_count(0)
    settings = served.stored(solo)["settings"]
    assert [(c["who"], c["picked"]) for c in settings["credits"]] == [("Ada Moor", False), ("Ines Quarrie", True)]
    assert settings["rig"] == [{"name": "amplifier", "value": "volume 7, treble 4"}]


def test_a_stock_form_goes_into_the_text_and_in_force(page: Page, served, new_solo) -> None:
    solo = new_solo("Form", bars=12, last_bar=12)
    page.goto(f"/solos/{solo}/ground")
    part(page, "Form and chords")
    as_text(page)
    page.get_by_role("button", name="Stock forms").click()
    forms = page.get_by_role("dialog", name="Stock forms")
    forms.get_by_label("Root").fill("B")
    forms.get_by_label("quick change in bar 2").check()
    choose(forms, "Turnaround", "I VI | ii V")
    expect(forms.get_by_label("Form as text")).to_contain_text("B7 G#7 | C#m7 F#7 |")
    forms.get_by_label("Figure of bars").fill("5")
    expect(forms.get_by_role("status", name="Fit")).to_contain_text(
        "2 bars are left over; both begin together again after 60"
    )
    forms.get_by_label("Root").fill("H")
    expect(forms.get_by_label("Form as text")).to_contain_text("H")
    forms.get_by_label("Root").fill("B")
    expect(forms.get_by_label("Form as text")).to_contain_text("B7 | E7 |")
    forms.get_by_role("button", name="Put it into the chart").click()
    expect(page.get_by_text("The chart is in force.")).to_be_visible()
    symbols = [chord["symbol"] for chord in served.get(f"/api/solos/{solo}")["strip"]["chords"]]
    assert symbols[:3] == ["B7", "E7", "B7"] and symbols[-2:] == ["C#m7", "F#7"]


def test_the_offset_is_measured_and_taken_only_when_asked(page: Page, served, worker: None) -> None:
    t = np.arange(8 * 48_000) / 48_000
    sound = sum(0.1 * np.sin(2 * np.pi * 220 * 2 ** ((steps + 0.3) / 12) * t) for steps in (0, 4, 7))
    solo = served.bring("Sharp", np.asarray(sound), chart="| A |", basics={"tempo_bpm": 120, "last_bar": 4})
    page.goto(f"/solos/{solo}/ground")
    part(page, "Strings and pitch")
    page.get_by_role("button", name="Measure the pitch").click()
    expect(page.get_by_role("status", name="Measure the pitch")).to_contain_text(
        "The recording runs 30 cents sharp.", timeout=60_000
    )
    assert served.get(f"/api/solos/{solo}")["ground"]["settings"]["offset_cents"] == 0
    page.get_by_role("button", name="Use +").click()
    expect(page.get_by_label("Off by cents")).not_to_have_value("0")
    assert served.get(f"/api/solos/{solo}")["ground"]["settings"]["offset_cents"] == pytest.approx(30, abs=1)


def test_beat_swing_and_chords_are_heard_by_a_worker_while_the_page_stays_usable(
    page: Page, served, worker: None
) -> None:
    known = band(5_200, 24.0, swing=2.0)
    bars = len(known.firsts) - 1
    basics = {"tempo_bpm": 61, "bars": bars + 2, "last_bar": bars}
    solo = served.bring("A band", known.sound, chart="", basics=basics)
    page.goto(f"/solos/{solo}/ground")
    page.get_by_role("button", name="Hear the beat").click()
    expect(page.get_by_role("progressbar", name="Hear the beat")).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("status", name="Hear the beat")).to_have_text("Left.")
    page.get_by_role("button", name="Hear the beat").click()
    page.get_by_label("Swing ratio").fill("1.2")  # it is heard by somebody else meanwhile
    page.get_by_label("Swing ratio").press("Enter")
    expect(page.get_by_label("Setup in words")).to_contain_text("swing 1.2")
    expect(page.get_by_role("status", name="Hear the beat")).to_contain_text("a minute", timeout=90_000)
    bpm = 60 / float(np.median(np.diff(known.beats)))
    paces = page.get_by_role("button", name=re.compile(r"^\d+ a minute"))
    expect(paces).to_have_count(4)
    first = known.beats[0]
    choose(page, "bar 1 begins on beat", int(np.argmin(np.abs(heard_beats(page)[:4] - first))))
    paces.first.click()
    expect(page.get_by_role("status", name="What was found")).to_contain_text("Even to")
    ground = served.get(f"/api/solos/{solo}/document.json")["ground"]
    ticks, seconds = zip(*[(a["tick"], a["second"]) for a in ground["anchors"]], strict=True)
    laid = np.interp(np.arange(1, bars - 1) * 40_320, ticks, seconds)
    assert np.abs(laid - known.firsts[1 : bars - 1]).max() < 0.03
    assert 60 / ((seconds[-1] - seconds[0]) / (ticks[-1] - ticks[0]) * QUARTER) == pytest.approx(bpm, rel=0.03)
    bar_two = page.get_by_role("region", name="The tempo over the bars").get_by_role("button", name="Hear bar 2:")
    expect(bar_two).not_to_have_attribute("aria-label", re.compile("bar 2: 61.0"))  # the tempo before it was heard
    told = re.fullmatch(r"Hear bar 2: ([\d.]+) a minute, .*", bar_two.get_attribute("aria-label") or "")
    assert told is not None and float(told[1]) == pytest.approx(bpm, rel=0.03)

    page.get_by_role("button", name="Measure the swing").click()
    expect(page.get_by_role("status", name="Measure the swing")).to_contain_text("Swung", timeout=30_000)
    page.get_by_role("button", name="Use").click()
    expect(page.get_by_label("Setup in words")).not_to_contain_text("swing 1.2")
    assert float(page.get_by_label("Swing ratio").input_value()) == pytest.approx(2.0, abs=0.15)

    part(page, "Form and chords")
    page.get_by_label("Key", exact=True).fill("A major")
    page.get_by_label("Key", exact=True).press("Enter")
    expect(page.get_by_label("Setup in words")).to_contain_text("A major")
    as_text(page, empty=True)
    page.get_by_role("button", name="Hear chords …").click()
    dialog = page.get_by_role("dialog", name="What the chords sound like")
    dialog.get_by_role("button", name="Hear the chords").click()
    chords = dialog.get_by_role("list", name="Chords by bar")
    expect(chords.get_by_role("listitem")).to_have_count(bars, timeout=30_000)
    assert served.get(f"/api/solos/{solo}")["strip"]["chords"] == []  # nothing is taken unasked
    second = chords.get_by_role("listitem").first.get_by_role("button").nth(1)
    wanted = (second.get_attribute("aria-label") or "").split(": ")[1]
    second.click()
    dialog.get_by_role("button", name=f"Put bars 1–{bars} into the text").click()
    expect(page.get_by_text("The chart is in force.")).to_be_visible()
    shown = served.get(f"/api/solos/{solo}")["strip"]["chords"]
    assert len(shown) == bars and shown[0]["symbol"] == wanted
    # On the sheet the likeliest is offered under the bars that have another chord, and taken with one click.
    page.get_by_role("radio", name="sheet").click()
    page.get_by_role("button", name="Hear chords", exact=True).click()
    offer = page.get_by_role("button", name=re.compile(r"^Take \S+ in bar 1$"))
    expect(offer).to_be_visible(timeout=30_000)
    likeliest = (offer.get_attribute("aria-label") or "").split()[1]
    offer.click()
    expect(offer).to_have_count(0)
    assert served.get(f"/api/solos/{solo}")["strip"]["chords"][0]["symbol"] == likeliest != wanted


def heard_beats(page: Page) -> NDArray[np.float64]:
    """The beats that can be chosen as the first, in seconds."""
    page.get_by_role("combobox", name="bar 1 begins on beat").click()
    options = page.get_by_role("option").all_text_contents()
    page.keyboard.press("Escape")
    return np.array([float(text.split(" · ")[1].removesuffix(" s")) for text in options])
