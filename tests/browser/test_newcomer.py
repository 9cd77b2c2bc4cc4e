"""As a newcomer would: nothing that is done is refused or lost, and whatever does nothing says why."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import BrowserContext, Page, Route, expect

from browser.opening import QUARTER, hand_to, open_at, part, saved, until

pytestmark = pytest.mark.browser
EIGHTH = QUARTER // 2
NOTE = {"ticks": QUARTER, "string": 2, "fret": 500}


def lay(served, solo: str, *notes: dict[str, object]) -> None:
    served.edit(solo, [{"kind": "note", "id": one["id"], "after": NOTE | one} for one in notes])


def alert(page: Page, words: str) -> None:
    expect(page.get_by_role("alert")).to_contain_text(words)


def test_pin_ask_bend_shorten_delete_undo_and_reload_twice(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("All At Once")
    open_at(page, solo)
    hand_to(page, 5)
    for _ in range(2):
        page.keyboard.press("KeyR")  # a note, to be pinned, asked about, bent and shortened
        saved(page)
        note = served.stored(solo)["notes"][0]
        served.put(f"/api/solos/{solo}/pins", {"notes": [note["id"]], "pinned": True})
        question = {
            "id": f"q{note['id'][:8]}",
            "start": 0,
            "end": QUARTER,
            "notes": [note["id"]],
            "words": "which string?",
        }
        served.edit(solo, [{"kind": "question", "id": question["id"], "after": question}])
        expect(page.get_by_role("button", name="1 open question")).to_be_visible()
        for key in ("KeyU", "KeyU", "KeyO", "KeyJ", "KeyJ"):  # bent, wider, with vibrato, and made shorter under it all
            page.keyboard.press(key)
        saved(page)
        assert served.stored(solo)["notes"][0]["course"]
        page.keyboard.press("Delete")
        saved(page)
        stored = served.stored(solo)
        assert (stored["notes"], stored["choices"]) == ([], [])
        assert [one["notes"] for one in stored["questions"]] == [[]]
        expect(page.get_by_role("alert")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("option")).to_have_count(1)
        saved(page)
        assert served.stored(solo)["choices"][0]["notes"] == [note["id"]]
        page.reload()
        expect(page.get_by_role("option")).to_have_count(1)
        page.get_by_role("option").first.click()
        page.get_by_role("group", name="Strip").focus()
        page.keyboard.press("Delete")
        saved(page)
        served.edit(
            solo,
            [{"kind": "question", "id": question["id"], "before": served.stored(solo)["questions"][0], "after": None}],
        )
        expect(page.get_by_role("button", name="1 open question")).to_have_count(0)
        for _ in range(2):  # the length that the note was made is that of the next one, too
            page.keyboard.press("KeyK")
        page.reload()
        open_at(page, solo)
        hand_to(page, 5)
    assert served.stored(solo)["notes"] == []


def test_a_move_stops_at_the_neighbour_at_bar_one_and_at_the_last_fret_with_a_sentence(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("Moved")
    lay(served, solo, {"id": "a", "tick": 0}, {"id": "b", "tick": QUARTER + EIGHTH, "fret": 2200})
    open_at(page, solo, QUARTER + EIGHTH)
    page.get_by_role("option").nth(1).click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("Backquote")  # the arrows move the note
    page.keyboard.press("ArrowLeft")
    saved(page)
    page.keyboard.press("ArrowLeft")
    alert(page, "The note before it on this string ends here.")
    page.keyboard.press("ArrowUp")
    alert(page, "Fret 22 is the last one.")
    assert [(one["tick"], one["fret"]) for one in served.stored(solo)["notes"]] == [(0, 500), (QUARTER, 2200)]
    page.get_by_role("option").first.click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("ArrowLeft")
    alert(page, "The strip begins here.")
    expect(page.get_by_role("button", name="left out")).to_have_count(0)


def test_an_undo_followed_at_once_by_keys_keeps_all_of_them(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("At Once")
    page.route("**/undo*", lambda route: (time.sleep(0.4), route.continue_()))
    open_at(page, solo)
    hand_to(page, 5)
    page.keyboard.press("KeyR")
    page.keyboard.press("KeyE")
    saved(page)
    for key in ("Minus", "KeyT", "KeyR", "KeyE"):
        page.keyboard.press(key)
    expect(page.get_by_role("option")).to_have_count(4)
    saved(page)
    assert [one["tick"] for one in served.stored(solo)["notes"]] == [0, EIGHTH, 2 * EIGHTH, 3 * EIGHTH]


def test_ctrl_z_and_y_undo_and_redo_wherever_the_focus_is_but_in_fields(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("By Habit")
    open_at(page, solo)
    hand_to(page, 5)
    page.keyboard.press("KeyR")
    page.keyboard.press("KeyE")
    saved(page)
    page.get_by_role("button", name="Note before").focus()
    for key, count in (("Control+z", 1), ("Meta+z", 0), ("Control+y", 1), ("Control+Shift+Z", 2)):
        page.keyboard.press(key)
        expect(page.get_by_role("option")).to_have_count(count)
    page.get_by_role("spinbutton", name="Position").focus()
    page.keyboard.press("Control+z")
    saved(page)
    expect(page.get_by_role("option")).to_have_count(2)


def test_a_phrase_that_is_removed_takes_its_loop_with_it(page: Page, served) -> None:
    solo = served.bring(
        "Loop Gone", np.sin(np.arange(4 * 48_000) * 0.05) * 0.2, basics={"tempo_bpm": 120, "last_bar": 2}
    )
    served.edit(solo, [{"kind": "phrase", "id": "p", "after": {"id": "p", "start": 0, "end": QUARTER, "name": "turn"}}])
    open_at(page, solo)
    page.get_by_role("button", name="turn").first.click()
    until(page, "window.heard.level() > 0.001")
    phrase = served.stored(solo)["phrases"][0]
    served.edit(solo, [{"kind": "phrase", "id": "p", "before": phrase, "after": None}])
    expect(page.get_by_role("button", name="turn")).to_have_count(0)
    until(page, "window.heard.level() < 0.0005")


def test_keys_struck_just_before_the_tab_closes_are_there_when_it_opens(
    context: BrowserContext, served, new_solo: Callable[..., str]
) -> None:
    for i in range(5):
        solo = new_solo(f"Closed {i}")
        page = context.new_page()
        open_at(page, solo)
        hand_to(page, 5)
        for key in ("KeyR", "KeyE", "KeyT"):
            page.keyboard.press(key)
        page.close()
        again = context.new_page()
        open_at(again, solo)
        expect(again.get_by_role("option")).to_have_count(3)
        saved(again)
        assert len(served.stored(solo)["notes"]) == 3
        again.close()


def test_what_does_nothing_says_why(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Nothing")
    lay(served, solo, {"id": "a", "tick": 0})
    open_at(page, solo)
    page.get_by_role("option").first.click()
    page.get_by_role("group", name="Strip").focus()
    page.get_by_role("button", name="join back").click()
    alert(page, "There is no note before this one on its string to join it to.")
    page.get_by_role("group", name="Strip").focus()
    for key, words in (("KeyI", "There is no bend to release"), ("KeyP", "There is no note before this one")):
        page.keyboard.press(key)
        alert(page, words)
    saved(page)


def test_a_phrase_over_another_trims_the_older_and_says_so(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Overlapping")
    lay(served, solo, {"id": "a", "tick": 0}, {"id": "b", "tick": 2 * QUARTER}, {"id": "c", "tick": 4 * QUARTER})
    turn = {"id": "p", "start": 0, "end": 4 * QUARTER, "name": "turn"}
    served.edit(solo, [{"kind": "phrase", "id": "p", "after": turn}])
    page.goto(f"/solos/{solo}/notes?at=0&string=2&span={2 * QUARTER}-to-{6 * QUARTER}")
    page.get_by_role("group", name="Strip").focus()
    page.get_by_role("button", name="new phrase …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("textbox").first.fill("answer")
    page.keyboard.press("Enter")
    alert(page, "The phrase “turn” ends at 1:3 now, where the new one starts.")
    assert [(one["name"], one["start"], one["end"]) for one in served.stored(solo)["phrases"]] == [
        ("turn", 0, 2 * QUARTER), ("answer", 2 * QUARTER, 6 * QUARTER),
    ]  # fmt: skip


def test_a_note_that_no_longer_fits_stays_in_its_lane_names_its_bar_and_can_be_shaped(
    page: Page, served, new_solo: Callable[..., str]
) -> None:
    solo = new_solo("No Longer")
    lay(served, solo, {"id": "a", "tick": 0, "string": 6, "fret": 300})
    served.put(f"/api/solos/{solo}/basics", {"tuning": "G2 D3 A3 E4"})
    open_at(page, solo)
    lane, note = (
        page.get_by_role("group", name="Strip").bounding_box(),
        page.get_by_role("option").first.bounding_box(),
    )
    assert lane is not None and note is not None and note["y"] + note["height"] < lane["y"] + lane["height"]
    page.get_by_role("option").first.click()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press("KeyO")
    saved(page)
    expect(page.get_by_role("button", name="left out")).to_have_count(0)
    violations = served.get(f"/api/solos/{solo}")["violations"]
    assert violations[0]["sentence"].startswith("At 1:1: There is no string 6")


def test_a_value_that_is_given_up_is_not_asked_again_and_its_late_answer_says_nothing(
    page: Page, new_solo: Callable[..., str]
) -> None:
    page.goto(f"/solos/{new_solo('Given Up')}/ground")
    part(page, "Time")
    asked: list[str] = []

    def late(route: Route) -> None:
        asked.append(route.request.post_data or "")
        page.wait_for_timeout(300)
        route.continue_()

    page.route("**/basics*", late)
    field = page.get_by_role("textbox", name="Tempo", exact=True)
    field.fill("900")
    field.press("Enter")  # asked once, although Enter leaves the field
    field.press("Escape")
    page.wait_for_timeout(900)
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(field).to_have_value("120")
    assert len(asked) == 1, asked
    field.fill("900")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("900")
    assert len(asked) == 2


def test_setup_has_its_own_address(page: Page, new_solo: Callable[..., str]) -> None:
    page.goto(f"/solos/{new_solo('By Its Name')}/setup")
    expect(page.get_by_role("tab", name="Time")).to_be_visible()
    expect(page.get_by_role("link", name="Setup")).to_have_attribute("aria-current", "page")


def test_fields_of_the_setup_say_in_their_place_what_is_wrong(page: Page, served, new_solo: Callable[..., str]) -> None:
    solo = new_solo("Fields Say")
    page.goto(f"/solos/{solo}/ground")
    part(page, "Time")
    rows = [
        ("Tempo", "abc", "“abc” is not a number."),
        ("Bars", "0", "The number of bars cannot be 0: the lowest is 1."),
        ("to bar", "2.5", "The solo's last bar is a whole number; 2.5 is not."),
        ("Swing ratio", "9", "A swing ratio of 9 is out of reach"),
    ]
    for label, typed, words in rows:
        field = page.get_by_role("textbox", name=label, exact=True)
        field.fill(typed)
        field.press("Enter")
        alert(page, words)  # one alert, that of the field
        expect(field).to_have_attribute("aria-invalid", "true")
        field.press("Escape")
        expect(page.get_by_text(words)).to_have_count(0)
    part(page, "Form")
    times = page.get_by_role("textbox", name="Sections by time")
    for typed, words in (
        ("0:99 x", "0:99 is no time"),
        ("0:00 a\n0:00 b", "begins at 0:00 already"),
        ("9:00 x", "lies outside the bars"),
    ):
        times.fill(typed)
        page.get_by_role("button", name="Name the sections").click()
        alert(page, words)
    times.fill("0:00 head")
    page.get_by_role("button", name="Name the sections").click()
    expect(page.get_by_role("status", name="Sections")).to_have_text("Named.")
    expect(times).to_have_value("0:00.00 head")  # as it is stored; only then it is typed over
    times.fill("")
    page.get_by_role("button", name="Name the sections").click()
    expect(page.get_by_role("status", name="Sections")).to_have_text("The sections are cleared.")
    assert [one["name"] for one in served.get(f"/api/solos/{solo}")["ground"]["sections"]] == [""]
