"""The tools beside the neck: ways of the hand, doubts, taps by ear, figures, versions, history, the writing heard."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from browser.listening import listen, taping
from browser.opening import QUARTER, choose, hand_to, open_at, saved, until
from browser.test_hearing import hits

pytestmark = pytest.mark.browser
BAR = 4 * QUARTER


def tool(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Tools").get_by_role("button", name=name).click()


def places(served, solo: str, start: int = 0, end: int = 10**9) -> list[tuple[int, int, int | None]]:
    return [
        (note["tick"], note["string"], None if note["fret"] is None else note["fret"] // 100)
        for note in served.stored(solo)["notes"]
        if start <= note["tick"] < end
    ]


def test_a_phrase_is_taken_to_another_place_heard_and_undone_in_one_step(page: Page, served) -> None:
    solo = served.solo("Gull Weather")
    before = served.stored(solo)
    phrase = before["phrases"][0]
    open_at(page, solo, phrase["start"])
    tool(page, "hand")
    page.get_by_role("button", name="The phrase").click()
    ways = page.get_by_role("list", name="Fingerings").get_by_role("listitem")
    expect(ways.nth(1)).to_be_visible()
    assert 2 <= ways.count() <= 3
    expect(page.get_by_label("Why")).to_contain_text("It costs")
    expect(page.get_by_label("Hand map")).to_contain_text("position")
    page.get_by_role("button", name="Map", exact=True).click()
    drawn = page.get_by_role("figure", name="The map of the hand")
    expect(drawn).to_contain_text("It lies in")
    expect(drawn.locator("[data-position]").first).to_be_visible()
    page.get_by_role("button", name="Map", exact=True).click()
    expect(page.get_by_role("figure", name="The neck from above")).to_be_visible()
    expect(page.locator("[data-way]").first).to_be_attached()
    ways.last.get_by_role("button", name="Hear").click()
    until(page, "document.querySelector('audio[aria-label=\"This fingering\"]').currentTime > 0.05")
    ways.last.get_by_role("button", name="Take").click()
    saved(page)
    after = served.stored(solo)
    pitches = [
        [n["fret"] + 100 * s["settings"]["tuning"][n["string"] - 1] for n in s["notes"] if n["fret"] is not None]
        for s in (before, after)
    ]
    assert pitches[0] == pitches[1] and before["notes"] != after["notes"]
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")
    for _ in range(50):
        if served.stored(solo)["notes"] == before["notes"]:
            break
        page.wait_for_timeout(100)
    assert served.stored(solo)["notes"] == before["notes"]


def test_pinned_notes_stay_where_they_are(page: Page, served, new_solo) -> None:
    solo = new_solo("Pinned")
    open_at(page, solo)
    for key in ("KeyT", "KeyR", "Shift+ArrowLeft", "Shift+ArrowLeft", "Digit9"):
        page.keyboard.press(key)
    ways = page.get_by_role("list", name="Fingerings").get_by_role("listitem")
    expect(ways.nth(1)).to_be_visible()
    page.get_by_role("button", name="Pin as written").click()
    expect(ways).to_have_count(1)
    expect(ways.first).to_contain_text("as written")
    page.get_by_role("button", name="Let go of 2 pinned").click()
    expect(ways.nth(1)).to_be_visible()
    assert served.stored(solo)["choices"] == []


def test_a_bend_out_of_reach_is_said_with_what_players_do(page: Page, served, new_solo) -> None:
    solo = new_solo("Stiff")
    page.goto(f"/solos/{solo}/notes?at=0&string=1")
    page.get_by_role("group", name="Strip").focus()
    hand_to(page, 1)
    for key in ("Digit6", "KeyU", "KeyU", "KeyU", "Digit9"):
        page.keyboard.press(key)
    expect(page.get_by_text("A bend of 1 on string 1, fret 1, is out of reach")).to_be_visible()
    page.get_by_role("button", name="slide from fret 1 to fret 3").click()
    saved(page)
    note = served.stored(solo)["notes"][0]
    assert (note["fret"], note["attack"]["kind"], note["course"]) == (300, "slide-in", [])


def test_open_questions_are_listed_play_slowed_and_close_with_an_answer(page: Page, served, new_solo) -> None:
    solo = new_solo("Questions")
    open_at(page, solo)
    for key in ("KeyT", "KeyR", "Shift+ArrowLeft", "Shift+ArrowLeft", "Shift+Digit9"):
        page.keyboard.press(key)
    page.get_by_role("button", name="Ask …").click()
    page.get_by_label("About 2 notes").fill("on the third string?")
    page.get_by_label("Possible answers").fill("yes, no")
    page.get_by_role("button", name="Ask", exact=True).click()
    expect(page.get_by_role("status", name="Doubts")).to_have_text("1 open question.")
    page.get_by_role("button", name="hear it slowly: on the third string?").click()
    expect(page.get_by_role("spinbutton", name="Speed in per cent")).to_have_value("50")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    page.goto("/")
    expect(
        page.get_by_role("listitem")
        .filter(has_text="Questions")
        .or_(page.locator("li, article, tr").filter(has_text="Questions"))
        .first
    ).to_contain_text("question")
    open_at(page, solo)
    page.keyboard.press("Shift+Digit9")
    page.get_by_role("list", name="Questions").get_by_role("button", name="yes", exact=True).click()
    expect(page.get_by_role("status", name="Doubts")).to_have_text("No question is open.")
    saved(page)
    assert served.stored(solo)["questions"][0]["answer"] == "yes"
    page.get_by_role("button", name="1 closed").click()
    page.get_by_role("button", name="open it again").click()
    expect(page.get_by_role("status", name="Doubts")).to_have_text("1 open question.")


def on_hits(page: Page, served, name: str, seconds: float) -> str:
    """A solo on hits at 120 a minute from 0.5 s on, with the tool for rhythm by ear open."""
    sound = hits([0.5 * beat for beat in range(1, int(2 * seconds) - 1)], seconds)
    solo = str(served.bring(name, sound, basics={"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": int(seconds / 2) - 1}))
    page.goto(f"/solos/{solo}/notes?at=0&string=3")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Backquote")
    return solo


def test_onsets_are_tapped_while_it_plays_and_frets_typed_afterwards(page: Page, served) -> None:
    solo = on_hits(page, served, "By ear", 9.8)
    pad = page.get_by_role("button", name="Tap an onset")
    expect(pad).to_be_focused()
    pad.press("KeyT")
    expect(page.get_by_role("status", name="Taps")).to_contain_text("Press Play first")
    page.get_by_label("Speed while tapping").fill("50")
    page.get_by_role("region", name="Tool: by ear").get_by_role("button", name="Play").click()
    pad.focus()
    # The listener taps with the hits of the recording, a little late.
    page.evaluate(TAPPER, [6, None])
    until(page, "window.tapped >= 6", 30)
    pad.press("Escape")
    expect(page.get_by_role("group", name="Strip")).to_be_focused()
    expect(page.get_by_role("status", name="Taps")).to_contain_text("6 taps")
    page.get_by_role("button", name="Write them on string 3").click()
    expect(page.get_by_role("option")).to_have_count(6)
    saved(page)
    assert places(served, solo) == [(beat * QUARTER, 3, None) for beat in range(6)]
    stored = served.stored(solo)["notes"]
    assert all(
        note["sure"] == "unknown" and abs(note["heard"]["onset_s"] - 0.5 - 0.5 * i) < 0.12
        for i, note in enumerate(stored)
    )
    page.goto(f"/solos/{solo}/notes?at=0&string=3")
    page.get_by_role("group", name="Strip").focus()
    hand_to(page, 5)
    for key in ("KeyT", "KeyR", "Digit6"):
        page.keyboard.press(key)
    saved(page)
    assert places(served, solo)[:4] == [(0, 2, 6), (QUARTER, 3, 6), (2 * QUARTER, 1, 5), (3 * QUARTER, 3, None)]
    assert [note["sure"] for note in served.stored(solo)["notes"]][:4] == ["sure", "sure", "sure", "unknown"]


# Presses a key 20 ms after each of the first six hits is heard, by the clock of the sound; at half speed they come
# every second. However late a busy page gets to it, the key has the time at which it was pressed, as a real one has.
TAPPER = """([count, held]) => {
  const pad = document.querySelector('[aria-label="Tap an onset"]');
  window.tapped = 0;
  const look = () => {
    const { context, sources } = window.heard;
    const begun = sources[0]?.when;
    const delay = context?.outputLatency || context?.baseLatency || 0;
    const late = begun === undefined ? -1 : context.currentTime - (begun + delay + window.tapped + 0.02);
    if (late >= 0) {
      const from = performance.now() - 1000 * late;
      const key = (kind, at) => {
        const event = new KeyboardEvent(kind, { code: 'KeyT', bubbles: true });
        Object.defineProperty(event, 'timeStamp', { value: at });
        pad.dispatchEvent(event);
      };
      key('keydown', from);
      window.tapped += 1;
      if (held !== null) setTimeout(() => { key('keyup', from + 1000 * held); window.released = window.tapped; }, 1000 * held);
    }
    if (window.tapped < count) setTimeout(look, 4);
  };
  look();
}"""


def test_a_tapped_note_lasts_as_long_as_its_key_is_held_and_rests_follow(page: Page, served) -> None:
    solo = on_hits(page, served, "Held", 8.9)
    page.get_by_label("Speed while tapping").fill("50")
    page.get_by_label("notes last as long as the key is held").check()
    page.get_by_role("region", name="Tool: by ear").get_by_role("button", name="Play").click()
    page.evaluate(TAPPER, [3, 0.55])  # seconds at half speed: a little more than half a beat
    until(page, "window.released >= 3", 30)
    page.get_by_role("button", name="Write them on string 3").click()
    expect(page.get_by_role("option")).to_have_count(3)
    saved(page)
    stored = served.stored(solo)
    eighth = QUARTER // 2
    assert [(note["tick"], note["ticks"]) for note in stored["notes"]] == [(i * QUARTER, eighth) for i in range(3)]
    assert [(rest["tick"], rest["ticks"]) for rest in stored["rests"]] == [(eighth, eighth), (3 * eighth, eighth)]


def test_a_figure_goes_to_another_key_and_onto_other_strings_or_says_what_is_in_the_way(
    page: Page, served, new_solo
) -> None:
    solo = new_solo("Elsewhere", chart="| {key A minor} Am7 | D7 | Gmaj7 | E7 |")
    open_at(page, solo)
    page.keyboard.press("Shift+Digit0")
    page.get_by_label("By pitch, at the cursor").fill("A4 C5 G4")
    page.get_by_label("By pitch, at the cursor").press("Enter")
    saved(page)
    first = places(served, solo, 0, BAR)
    tuning = (64, 59, 55, 50, 45, 40)

    def marked(at: int) -> None:
        page.goto(f"/solos/{solo}/notes?at={at}&span=0-to-{BAR}")
        page.get_by_role("group", name="Strip").focus()
        page.keyboard.press("Shift+Digit0")

    marked(BAR)
    page.get_by_label("Key", exact=True).fill("C minor")
    choose(page, "Direction", "up")
    page.get_by_role("button", name="To the key").click()
    expect(page.get_by_role("option")).to_have_count(6)
    saved(page)
    up = places(served, solo, BAR, 2 * BAR)
    assert [tuning[s - 1] + (f or 0) for _, s, f in up] == [72, 75, 70]
    marked(2 * BAR)
    page.get_by_label("Strings from and to").fill("3-3")
    page.get_by_role("button", name="Onto strings").click()
    expect(page.get_by_role("option")).to_have_count(9)
    saved(page)
    assert [s for _, s, _ in places(served, solo, 2 * BAR, 3 * BAR)] == [3, 3, 3]
    marked(3 * BAR)
    page.get_by_label("Frets", exact=True).fill("-14")
    page.get_by_role("button", name="By frets").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("the neck ends there")
    assert alert.inner_text().count("the neck ends there") == len(first)


def test_pitches_are_typed_figures_copied_and_notes_found(page: Page, served, new_solo) -> None:
    solo = new_solo("Figures")
    open_at(page, solo)
    page.keyboard.press("Shift+Digit0")
    page.get_by_label("By pitch, at the cursor").fill("A4 C5 b7 - 5")
    page.get_by_label("By pitch, at the cursor").press("Enter")
    expect(page.get_by_role("option")).to_have_count(4)
    saved(page)
    tuning = (64, 59, 55, 50, 45, 40)
    assert [tuning[s - 1] + (f or 0) for _, s, f in places(served, solo)] == [69, 72, 67, 64]
    assert [rest["tick"] for rest in served.stored(solo)["rests"]] == [3 * QUARTER // 2]
    page.get_by_label("Find", exact=True).fill("b7")
    expect(page.get_by_role("status", name="Found")).to_contain_text("1 note")
    page.get_by_label("Find", exact=True).press("Enter")
    expect(page.get_by_role("option", selected=True)).to_have_count(1)
    page.goto(f"/solos/{solo}/notes?at={BAR}&span=0-to-{BAR}")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Digit0")
    page.get_by_role("button", name="By frets").click()
    expect(page.get_by_role("option")).to_have_count(8)
    first = places(served, solo, 0, BAR)
    assert places(served, solo, BAR, 2 * BAR) == [(t + BAR, s, (f or 0) + 5) for t, s, f in first]
    page.goto(f"/solos/{solo}/notes?at={BAR}")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+BracketLeft")  # the bar before, again
    for _ in range(50):
        if places(served, solo, BAR, 2 * BAR) == [(t + BAR, s, f) for t, s, f in first]:
            break
        page.wait_for_timeout(100)
    assert places(served, solo, BAR, 2 * BAR) == [(t + BAR, s, f) for t, s, f in first]
    page.keyboard.press("Shift+BracketRight")  # its tail
    expect(page.get_by_role("option")).to_have_count(9)
    saved(page)
    assert [(t - BAR // 2, s, f) for t, s, f in places(served, solo, 2 * BAR, 3 * BAR)] == [
        place for place in places(served, solo, BAR, 2 * BAR) if place[0] >= BAR + BAR // 2
    ]


def test_techniques_are_found_whatever_their_shape(page: Page, served, new_solo) -> None:
    """As keys never write them and listening does: own timings, a partial, a fret from which a slide comes."""
    solo = new_solo("Shapes Found")
    shapes: dict[str, dict[str, object]] = {
        "curl": {"course": [[0, 0], [1_234, 1]]},
        "prebend": {"course": [[0, 4], [3_333, 4], [4_444, 0]]},
        "release": {"course": [[0, 0], [777, 4], [3_210, 2]]},
        "slide in": {"attack": {"kind": "slide-in", "start": 300, "ticks": 500}},
        "harmonic": {"attack": {"kind": "harmonic", "how": "natural", "partial": 3}, "fret": 700},
        "vibrato": {"vibrato": {"start": 1_111, "width_cents": 37, "rate_hz": 6.1}},
        "double stop": {"stack": "s"},
    }
    notes = [
        {"id": name, "tick": i * QUARTER, "ticks": QUARTER // 2, "string": 2, "fret": 800} | fields
        for i, (name, fields) in enumerate(shapes.items())
    ]
    notes.append(notes[-1] | {"id": "upper", "string": 1})
    stack = {"kind": "stack", "id": "s", "before": None, "after": {"id": "s"}}
    served.edit(solo, [stack, *({"kind": "note", "id": n["id"], "before": None, "after": n} for n in notes)])
    open_at(page, solo)
    page.keyboard.press("Shift+Digit0")
    box = page.get_by_label("Find", exact=True)
    for name, count in (*((name, 1) for name in shapes if name not in ("double stop", "release")),
                        ("double stop", 2), ("release", 2)):  # fmt: skip
        box.fill(name)
        expect(page.get_by_role("status", name="Found")).to_contain_text(re.compile(rf"^{count} notes?\b"))


def test_a_version_by_rules_is_compared_brought_across_and_a_state_put_back(page: Page, served, new_solo) -> None:
    solo = new_solo("Versions")
    open_at(page, solo)
    for key in ("KeyT", "KeyU", "KeyU", "KeyU", "KeyR", "KeyO", "KeyE"):
        page.keyboard.press(key)
    saved(page)
    tool(page, "versions")
    page.get_by_label("A new version of this solo").fill("for Mara")
    page.get_by_label("without ornaments").click()
    page.get_by_label("slides for bends").click()
    page.get_by_role("button", name="Make the version").click()
    said = page.get_by_role("status", name="Versions")
    expect(said).to_contain_text("1 ornament left out. 1 bend became slides.")
    said.get_by_role("link", name="Open it").click()
    expect(page.get_by_text("for Mara").first).to_be_visible()
    page.wait_for_url(lambda url: solo not in url)
    version = page.url.split("/solos/")[1].split("/")[0]
    assert version != solo
    assert served.get(f"/api/solos/{version}")["solo"]["settings"]["parent"]["document"] == solo
    tool(page, "versions")
    page.get_by_role("button", name="Compare with break").click()
    expect(page.get_by_role("status", name="Comparison")).to_contain_text("1 added, 2 otherwise.")
    assert {one.get_attribute("data-difference") for one in page.locator("[data-difference]").all()} == {
        "added",
        "otherwise",
    }
    # The parent goes on; what was not changed here comes across.
    open_at(page, solo, 2 * QUARTER)
    page.keyboard.press("KeyT")
    saved(page)
    open_at(page, version)
    tool(page, "versions")
    page.get_by_role("button", name="Bring across what changed in its parent").click()
    expect(page.get_by_role("status", name="Versions")).to_have_text("1 change brought across.")
    expect(page.get_by_role("option")).to_have_count(5)
    tool(page, "history")
    states = page.get_by_role("list", name="States")
    expect(states.get_by_role("listitem").first).to_contain_text("bring across")
    states.get_by_role("button", name="as it began").click()
    expect(page.get_by_role("list", name="Differences").get_by_role("listitem").first).to_be_visible()
    page.get_by_role("button", name="Put state 0 back").click()
    expect(page.get_by_role("option")).to_have_count(3)
    saved(page)
    assert served.stored(version)["notes"][0]["course"] != []
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(5)


def test_the_writing_is_heard_alone_and_beside_the_recording(page: Page, served) -> None:
    """Hits at every half second on the left; the writing, an eighth behind each, on the right."""
    solo = served.bring(
        "Beside",
        hits([0.5 * beat for beat in range(1, 18)], 9.9),
        basics={"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 4},
    )
    notes = [
        {
            "kind": "note",
            "id": f"n{i}",
            "before": None,
            "after": {
                "id": f"n{i}",
                "tick": QUARTER // 2 + i * QUARTER,
                "ticks": QUARTER // 4,
                "string": 2,
                "fret": 800,
            },
        }
        for i in range(8)
    ]
    served.edit(solo, notes)
    page.goto(f"/solos/{solo}/notes?span=0-to-{2 * BAR}&at=0")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Backslash")
    page.keyboard.press("Shift+Backslash")
    expect(page.get_by_role("button", name="Hear each ear")).to_be_visible()
    page.keyboard.press("Backslash")
    until(page, "window.heard.sources.some((one) => one.loop)", 30)
    listen(page, 0.3)
    with taping(page) as kept:
        listen(page, 7.0)
    onsets = kept[0].onsets()
    # Between two seams of the loop something begins every quarter of a second: a hit, then a written note.
    grids = [[np.abs(onsets - (first + 0.25 * k)).min() < 0.012 for k in range(12)] for first in onsets]
    assert max(map(sum, grids)) == 12


def test_under_a_bottleneck_slides_are_the_rule_and_a_note_lies_between_frets(page: Page, served, new_solo) -> None:
    solo = new_solo("Glass", chart="| D |", tuning="open D")
    served.put(f"/api/solos/{solo}/sleeve", {"credits": [], "rig": [], "ends_continuing": False, "bottleneck": True})
    open_at(page, solo)
    hand_to(page, 3)
    for key in ("Digit6", "KeyY", "Comma", "KeyH", "Backquote", "ArrowUp", "ArrowUp"):
        page.keyboard.press(key)
    saved(page)
    notes = served.stored(solo)["notes"]
    assert [(n["fret"], n["attack"]["kind"]) for n in notes] == [(300, "picked"), (400, "slide"), (550, "picked")]
    expect(page.get_by_role("status", name="Sentence")).to_contain_text("fret 5.5")
    expect(page.locator("svg text", has_text="5.5").first).to_be_attached()
    tool(page, "hand")
    expect(page.get_by_role("list", name="Fingerings").get_by_role("listitem").first).to_be_visible()


TAB = """
    1 &  2   & 3 & 4 &
E |-------------------|
B |-5-8b1--h8--~5-----|
G |-----------------7-|
D |-------------------|
A |-------------------|
E |-------------------|
"""


def test_tablature_is_pasted_refused_with_its_place_and_written_from_the_cursor_on(
    page: Page, served, new_solo
) -> None:
    solo = new_solo("Old sheet")
    page.goto(f"/solos/{solo}/notes?at={BAR}")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Shift+Digit0")
    page.get_by_role("button", name="Tablature as text …").click()
    sheet = page.get_by_role("dialog", name="Tablature as text")
    sheet.get_by_label("Paste it here").fill(TAB)
    sheet.get_by_role("radio", name="from bar 2 on").check()
    sheet.get_by_role("button", name="Write it").click()
    expect(sheet.get_by_role("alert")).to_contain_text("Line 4, column 16: “~5” is no sign of a note.")
    sheet.get_by_label("Paste it here").fill(TAB.replace("~5-", "5~-"))
    sheet.get_by_role("button", name="Write it").click()
    expect(page.get_by_role("status", name="What was written")).to_have_text("5 notes in bar 2.")
    saved(page)
    eighth = QUARTER // 2
    assert places(served, solo, BAR, 2 * BAR) == [
        (BAR, 2, 5), (BAR + eighth, 2, 8), (BAR + 2 * eighth, 2, 8), (BAR + 4 * eighth, 2, 5), (BAR + 6 * eighth, 3, 7)
    ]  # fmt: skip
    written = [note for note in served.stored(solo)["notes"] if BAR <= note["tick"] < 2 * BAR]
    assert [q for _, q in written[1]["course"]] == [0, 4] and written[2]["attack"]["kind"] == "hammer-on"
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(0)
    assert served.stored(solo)["notes"] == []


def test_an_earlier_state_is_opened_read_only_played_and_put_back(page: Page, served, new_solo) -> None:
    solo = new_solo("Earlier")
    open_at(page, solo)
    for key in ("KeyT", "KeyR", "Digit6"):
        page.keyboard.press(key)
    saved(page)
    tool(page, "history")
    page.get_by_role("list", name="States").get_by_role("button", name="See state 1").click()
    page.get_by_role("link", name="Open it on the strip").click()
    there = page.get_by_role("region", name="Earlier state")
    expect(there).to_contain_text("State 1 of 3")
    expect(page.get_by_role("option")).to_have_count(1)
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("KeyY")
    expect(page.get_by_role("alert")).to_contain_text("State 1 is open for reading only.")
    page.get_by_role("button", name="Close").click()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    there.get_by_role("button", name="after it").click()
    expect(page.get_by_role("option")).to_have_count(2)
    page.reload()
    expect(there).to_contain_text("State 2 of 3")
    assert len(served.stored(solo)["notes"]) == 3
    there.get_by_role("button", name="Restore this state").click()
    expect(there).to_have_count(0)
    expect(page.get_by_role("option")).to_have_count(2)
    assert len(served.stored(solo)["notes"]) == 2
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Minus")
    expect(page.get_by_role("option")).to_have_count(3)
