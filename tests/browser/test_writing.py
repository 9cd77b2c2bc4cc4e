"""Writing notes by key and by mouse, and what is stored of them."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from browser.opening import QUARTER, hand_to, keys, open_at, saved

pytestmark = pytest.mark.browser
EIGHTH = QUARTER // 2


def shape(note: dict[str, Any]) -> dict[str, Any]:
    """What of a note is not as a plain picked one is."""
    plain = {"attack": {"kind": "picked"}, "course": [], "vibrato": None, "dead": False, "sure": "sure"}
    found = {name: note[name] for name, usual in plain.items() if note[name] != usual}
    return {"at": note["tick"], "ticks": note["ticks"], "place": (note["string"], note["fret"] // 100)} | found


def test_every_technique_by_key(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("By Key")
    open_at(page, solo)
    hand_to(page, 7)
    # The block: columns are strings 6 to 1, rows the frets 7 to 10. Five bends, each press wider.
    for times in range(1, 6):
        keys(page, "KeyT", *["KeyU"] * times)
    # A bend released, a slide, a hammer-on and a pull-off, vibrato, wide vibrato, a dead note.
    keys(page, "KeyT", "KeyU", "KeyU", "KeyU", "KeyI")
    keys(page, "KeyR", "KeyF", "KeyP")
    keys(page, "KeyR", "Comma", "KeyV", "Shift+KeyR")
    keys(page, "KeyT", "KeyO", "KeyT", "KeyO", "KeyO")
    keys(page, "KeyD", "Quote")
    # A quarter, dotted, in a triplet, a sixteenth; then a tie over the last.
    keys(
        page, "KeyK", "KeyE", "KeyL", "KeyE", "Semicolon", "KeyE", "Semicolon", "KeyJ", "KeyJ", "KeyE", "Comma", "KeyE"
    )
    keys(page, "KeyM")
    # A stack of two, an open string, one fret further, and a doubt.
    keys(page, "KeyK", "KeyR", "Period", "KeyT", "Digit0", "KeyE", "Enter", "KeyB", "Slash")
    saved(page)
    notes = served.stored(solo)["notes"]
    reach = EIGHTH // 2
    found = [shape(note) for note in notes]
    bends = [
        {"at": i * EIGHTH, "ticks": EIGHTH, "place": (2, 8), "course": [[0, 0], [reach, size]]}
        for i, size in enumerate((1, 2, 4, 6, 8))
    ]
    assert found[:5] == bends
    at = 5 * EIGHTH
    assert found[5] == {
        "at": at,
        "ticks": EIGHTH,
        "place": (2, 8),
        "course": [[0, 0], [reach, 4], [EIGHTH - EIGHTH // 3, 4], [EIGHTH, 0]],
    }
    at += EIGHTH
    assert found[6:8] == [
        {"at": at, "ticks": EIGHTH, "place": (3, 8)},
        {"at": at + EIGHTH, "ticks": EIGHTH, "place": (3, 9), "attack": {"kind": "slide"}},
    ]
    at += 2 * EIGHTH
    assert found[8:11] == [
        {"at": at, "ticks": EIGHTH, "place": (3, 8)},
        {"at": at + EIGHTH, "ticks": EIGHTH, "place": (3, 10), "attack": {"kind": "hammer-on"}},
        {"at": at + 2 * EIGHTH, "ticks": EIGHTH, "place": (3, 8), "attack": {"kind": "pull-off"}},
    ]
    at += 3 * EIGHTH
    assert [note["vibrato"]["width_cents"] for note in found[11:13]] == [40, 80]
    at += 2 * EIGHTH
    assert found[13] == {"at": at, "ticks": EIGHTH * 2, "place": (4, 9), "dead": True}  # K, pressed next, lengthens it
    at += 2 * EIGHTH
    # Each key changes the note that was just written, too, so the last one pressed decides; the tie doubles a sixteenth.
    lengths = [QUARTER * 3 // 2, QUARTER * 2 // 3, QUARTER // 4, QUARTER // 2]
    assert [note["ticks"] for note in found[14:18]] == lengths
    assert served.stored(solo)["rests"][0]["tick"] == at + sum(lengths)
    assert [note["place"] for note in found[14:18]] == [(4, 8)] * 4
    stack = notes[18:20]
    assert stack[0]["tick"] == stack[1]["tick"] and stack[0]["stack"] == stack[1]["stack"] is not None
    assert {(n["string"], n["fret"]) for n in stack} == {(2, 800), (3, 800)}
    assert found[20]["place"] == (4, 0)
    assert (found[21]["place"], found[21]["sure"]) == ((2, 11), "unsure")
    assert len(notes) == 22


def test_rests_ties_and_lengths_by_key(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Lengths")
    open_at(page, solo)
    hand_to(page, 5)
    keys(page, "KeyE", "KeyK", "KeyL")  # an eighth, made a quarter, made a dotted quarter
    keys(page, "ArrowRight", "ArrowLeft", "KeyL", "Semicolon", "KeyR", "KeyR", "KeyR", "Semicolon")
    page.keyboard.press("Comma")
    keys(page, "KeyR")
    keys(page, "KeyM")
    saved(page)
    stored = served.stored(solo)
    triplet = QUARTER * 2 // 3
    assert [n["ticks"] for n in stored["notes"]] == [QUARTER * 3 // 2, triplet, triplet, QUARTER + QUARTER]
    assert [
        (r["tick"] - stored["notes"][-1]["tick"] - stored["notes"][-1]["ticks"], r["ticks"]) for r in stored["rests"]
    ] == [(0, QUARTER)]


def test_the_hand_goes_where_it_is_typed_and_where_it_seems_to_be(page: Page, new_solo: Callable[..., str]) -> None:
    open_at(page, new_solo("Hand"))
    position = page.get_by_role("spinbutton", name="Position")
    position.fill("9")
    page.get_by_role("group", name="Strip").focus()
    keys(page, "KeyE", "Enter", "KeyC")  # frets 10 and 13
    expect(page.get_by_role("option", name=re.compile("fret 13"))).to_have_count(1)
    position.fill("2")
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Home")
    expect(position).to_have_value("10")


def test_one_bar_by_mouse(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("By Mouse")
    open_at(page, solo)
    shapes = page.get_by_role("toolbar", name="Shape the note")
    following = page.get_by_role("toolbar", name="What is written next")

    def place(string: int, fret: int) -> None:
        page.get_by_role("group", name="Places").get_by_role(
            "button", name=f"String {string}, fret {fret}", exact=True
        ).click()

    following.get_by_role("button", name="longer").click()
    place(3, 5)
    place(2, 6)
    shapes.get_by_role("button", name="Bend 1", exact=True).click()
    shapes.get_by_role("button", name="vibrato").click()
    following.get_by_role("button", name="rest").click()
    place(2, 5)
    shapes.get_by_role("button", name="dead").click()
    shapes.get_by_role("button", name="unsure").click()
    saved(page)
    stored = served.stored(solo)
    assert [(n["tick"], n["string"], n["fret"]) for n in stored["notes"]] == [
        (0, 3, 500),
        (QUARTER, 2, 600),
        (3 * QUARTER, 2, 500),
    ]
    assert stored["notes"][1]["course"] == [[0, 0], [EIGHTH, 4]] and stored["notes"][1]["vibrato"] is not None
    assert stored["notes"][2]["dead"] and stored["notes"][2]["sure"] == "unsure"
    assert [(r["tick"], r["ticks"]) for r in stored["rests"]] == [(2 * QUARTER, QUARTER)]


def test_moving_by_string_fret_and_time_and_deleting(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Moves")
    open_at(page, solo)
    hand_to(page, 5)
    keys(page, "KeyT")
    saved(page)
    page.keyboard.press("Digit9")  # where else: B string 6 is string 3 fret 10
    expect(page.get_by_role("list", name="Fingerings").get_by_role("listitem")).to_have_count(3)
    keys(page, "Enter", "Escape")
    saved(page)
    note = served.stored(solo)["notes"][0]
    assert (note["string"], note["fret"]) in ((1, 100), (3, 1000))
    keys(page, "Backquote", "ArrowUp", "ArrowRight")
    saved(page)
    assert [(n["tick"], n["string"], n["fret"]) for n in served.stored(solo)["notes"]] == [
        (EIGHTH, note["string"], note["fret"] + 100)
    ]
    keys(page, "Backquote", "Delete")
    saved(page)
    assert served.stored(solo)["notes"] == []


def test_a_question_in_words_and_a_phrase_over_a_span(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Doubts")
    open_at(page, solo)
    hand_to(page, 5)
    keys(page, "KeyT")
    keys(page, "Shift+Digit9")
    page.get_by_role("button", name="Ask …").click()
    page.get_by_label("About this note").fill("Fret 6, or open?")
    page.get_by_label("Possible answers").fill("2.6, 2.0")
    page.get_by_role("button", name="Ask", exact=True).click()
    expect(page.get_by_role("button", name="1 open question")).to_be_visible()
    saved(page)
    stored = served.stored(solo)
    assert stored["questions"][0]["answers"] == ["2.6", "2.0"] and stored["notes"][0]["sure"] == "unsure"
    page.get_by_role("button", name="2.0", exact=True).click()
    expect(page.get_by_role("button", name="1 open question")).to_have_count(0)
    page.get_by_role("group", name="Strip").focus()
    keys(page, "Shift+ArrowRight", "Shift+ArrowRight", "Escape")  # the tool closes, what is marked stays
    page.get_by_role("button", name="new phrase …").click()
    page.get_by_label("Name").fill("the ladder")
    page.get_by_role("button", name="Cut", exact=True).click()
    expect(page.get_by_role("button", name="Phrase the ladder")).to_be_visible()
    saved(page)
    assert [(p["name"], p["end"] - p["start"]) for p in served.stored(solo)["phrases"]] == [("the ladder", 2 * EIGHTH)]


def test_a_changed_chord_changes_the_labels(page: Page, new_solo: Callable[..., str]) -> None:
    solo = new_solo("New Chord")
    open_at(page, solo)
    hand_to(page, 5)
    keys(page, "KeyE")  # string 4, fret 6 is G#/Ab
    expect(page.get_by_role("option", name=re.compile("the 7 of Am7"))).to_be_visible()
    page.get_by_role("button", name="Chord Am7 at 1:1").click()
    page.get_by_label("Symbol").fill("Hm")
    page.get_by_role("button", name="Change").click()
    expect(page.get_by_role("alert")).to_contain_text("write Bm or Bbm")
    page.get_by_label("Symbol").fill("E7")
    page.get_by_role("button", name="Change").click()
    expect(page.get_by_role("option", name=re.compile("the 3 of E7"))).to_be_visible()


def test_a_chord_of_a_repeated_bar_changes_here_only(page: Page, new_solo: Callable[..., str]) -> None:
    open_at(page, new_solo("Twice", chart="|: Am7 | D7 :|"))
    page.get_by_role("button", name="Chord Am7 at 3:1").click()
    page.get_by_label("Symbol").fill("Fmaj7")
    page.get_by_role("button", name="Here").click()
    expect(page.get_by_role("button", name="Chord Fmaj7 at 3:1")).to_have_count(1)
    expect(page.get_by_role("button", name="Chord Am7 at 1:1")).to_have_count(1)
    page.get_by_role("button", name="Chord D7 at 2:1").click()
    page.get_by_label("Symbol").fill("E7")
    page.get_by_role("button", name="Every time").click()
    expect(page.get_by_role("button", name="Chord E7 at 4:1")).to_have_count(1)


def test_the_hand_block_lies_at_the_right_of_the_board_when_asked(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Mirrored")
    open_at(page, solo)
    hand_to(page, 5)
    page.keyboard.press("Shift+Slash")
    page.get_by_role("checkbox", name="Block at the right of the board").check()
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Strip").focus()
    keys(page, "KeyP", "KeyQ")  # the sixth string at the second fret of the hand, then the bend key
    saved(page)
    (note,) = served.stored(solo)["notes"]
    assert (note["string"], note["fret"]) == (6, 600) and note["course"] != []


def test_a_hundred_undos_after_a_reload_lead_back(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Hundred", bars=32, last_bar=32)
    before = served.get(f"/api/solos/{solo}/document.json")
    open_at(page, solo)
    hand_to(page, 5)
    for i in range(50):
        keys(page, ("KeyE", "KeyR", "KeyD", "KeyF")[i % 4], "KeyU")
    saved(page)
    assert len(served.stored(solo)["notes"]) == 50
    page.reload()
    page.get_by_role("group", name="Strip").focus()
    undo = page.get_by_role("button", name="Undo")
    for left in range(100, 0, -1):
        expect(undo).to_be_enabled()
        with page.expect_response(re.compile("/undo")) as answer:
            page.keyboard.press("Minus")
        assert answer.value.ok, left
    expect(undo).to_be_disabled()
    assert served.get(f"/api/solos/{solo}/document.json") == before
    with page.expect_response(re.compile("/redo")):
        page.keyboard.press("Equal")
    assert len(served.stored(solo)["notes"]) == 1
    expect(page.get_by_role("option")).to_have_count(1)


def test_edits_wait_while_the_server_is_away_and_go_after_a_reload(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Away")
    open_at(page, solo)
    hand_to(page, 5)
    page.route("**/edits*", lambda route: route.abort())
    keys(page, "KeyE", "KeyR", "KeyT")
    expect(page.get_by_role("status", name="Saving")).to_have_text("Kept on this computer: 3 to send")
    assert served.stored(solo)["notes"] == []
    page.unroute("**/edits*")
    page.reload()
    saved(page)
    assert len(served.stored(solo)["notes"]) == 3
    expect(page.get_by_role("option")).to_have_count(3)


def test_an_answer_lost_after_it_was_stored_is_no_second_edit(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Lost Answer")
    open_at(page, solo)
    lost = []

    def lose(route) -> None:
        if not lost:
            lost.append(route.fetch().status)
            route.abort()
        else:
            route.continue_()

    page.route("**/edits*", lose)
    keys(page, "KeyE")
    saved(page)
    assert lost == [200] and len(served.stored(solo)["notes"]) == 1


def test_a_conflict_says_a_sentence_and_keeps_the_edits_aside(
    page: Page, context, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Conflict")
    page.route("**/news*", lambda route: route.abort())  # or it would hear of the other in time
    open_at(page, solo)
    hand_to(page, 5)
    keys(page, "KeyE")
    saved(page)
    other = context.new_page()
    open_at(other, solo, EIGHTH)
    other.get_by_role("option").first.click()
    other.get_by_role("group", name="Strip").focus()
    keys(other, "KeyU")
    saved(other)
    page.bring_to_front()
    keys(page, "Quote")
    expect(page.get_by_role("alert")).to_contain_text("has been changed elsewhere in the meantime")
    saved(page)
    expect(page.get_by_role("button", name="1 change left out")).to_be_visible()
    (note,) = served.stored(solo)["notes"]
    assert note["course"] and not note["dead"]


def test_keys_do_nothing_in_text_fields_and_dialogs(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Fields")
    open_at(page, solo)
    page.keyboard.press("Shift+Slash")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    keys(page, "KeyE", "KeyR")
    page.keyboard.press("Escape")
    page.get_by_role("spinbutton", name="Trim in cents").focus()
    keys(page, "KeyE", "KeyR")
    page.get_by_role("group", name="Strip").focus()
    keys(page, "Control+KeyE", "Alt+KeyR")
    assert served.stored(solo)["notes"] == []


def test_no_key_changes_the_height_of_the_strip(page: Page, new_solo) -> None:
    open_at(page, new_solo("Still"))
    page.keyboard.press("KeyT")
    saved(page)
    page.evaluate("""() => {
      const strip = document.querySelector('[aria-label=Strip]');
      window.heights = new Set();
      new ResizeObserver(() => window.heights.add(strip.clientHeight)).observe(strip);
    }""")
    for key in ("KeyR", "KeyU", "KeyU", "KeyO", "KeyE", "ArrowRight", "ArrowRight", "KeyT", "Slash"):
        page.keyboard.press(key)
        page.wait_for_timeout(60)
    saved(page)
    assert page.evaluate("window.heights.size") == 1
