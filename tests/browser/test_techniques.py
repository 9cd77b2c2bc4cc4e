"""Every technique by its key or by the menu at the note: stored, said in the sentence, drawn on the strip."""

from __future__ import annotations

import pytest
from playwright.sync_api import Locator, Page, expect

from browser.opening import QUARTER, hand_to, open_at, saved

pytestmark = pytest.mark.browser

# Presses after a note has been written: what is stored of it, and a word of its sentence.
BY_KEY: dict[str, tuple[list[str], dict[str, object], str]] = {
    "prebend": (["Shift+KeyU"], {"course": [[0, 4]]}, "bent beforehand a whole step"),
    "prebend and release": (["Shift+KeyU"] * 2, {"course": [[0, 4], [8064, 4], [15120, 0]]}, "release"),
    "curl": (["Shift+KeyU"] * 3, {"course": [[0, 0], [12096, 1]]}, "curled a quarter"),
    "choke": (["Shift+KeyU"] * 4, {"ending": {"kind": "choked"}}, "choked at the top"),
    "bar dip": (["Shift+KeyU"] * 5, {"course": [[0, 0], [6048, -2], [12096, 0]]}, "dipped a half step with the bar"),
    "half-way down": (["Shift+KeyI"], {"course": [[0, 0], [5040, 4], [12096, 4], [16128, 2]]}, "released to a half step"),
    "down and up": (["Shift+KeyI"] * 2, {}, "released, bent up a whole step"),
    "full, then wider": (["Shift+KeyI"] * 3, {}, "bent on to 1½ steps"),
    "trill": (["Shift+KeyO"] * 2, {"trill": {"fret": 1000, "rate_hz": 9}}, "trilled to fret 10"),
    "slide in": (["Shift+KeyP"], {"attack": {"kind": "slide-in", "start": "far below", "ticks": 5040}}, "slid in from far below"),
    "slide off": (["Shift+KeyP"] * 3, {"ending": {"kind": "slide-off", "to": "far down", "ticks": 6854}}, "slid off far down"),
    "ghost": (["Shift+Quote"], {"ghost": True}, "ghosted"),
    "accent": (["Shift+KeyJ"], {"accent": True}, "accented"),
    "palm mute": (["Shift+KeyK"], {"palm_mute": True}, "palm muted"),
    "let ring": (["Shift+KeyL"], {"ending": {"kind": "let ring"}}, "left to ring"),
    "short": (["Shift+KeyL"] * 3, {"ending": {"kind": "staccato"}}, "short"),
    "tapped": (["Shift+Comma"], {"attack": {"kind": "tapped"}}, "tapped"),
    "pinched": (["Shift+Comma"] * 3, {"attack": {"kind": "harmonic", "how": "pinched", "partial": 2}}, "pinched harmonic"),
    "bend": (["KeyU"] * 3, {"course": [[0, 0], [5040, 4]]}, "bent up a whole step"),
    "vibrato": (["KeyO"], {"vibrato": {"start": 6720, "width_cents": 40, "rate_hz": 5.5, "by": "finger"}}, "vibrato"),
    "dead": (["Quote"], {"dead": True}, "dead"),
    "unsure": (["Slash"], {"sure": "unsure"}, "Unsure"),
}  # fmt: skip
BY_MENU: dict[str, tuple[str, dict[str, object], str]] = {
    "tremolo": ("tremolo", {"tremolo": {"rate_hz": 8}}, "tremolo picked"),
    "rake": ("rake", {"rake": {"strings": [5, 4, 3]}}, "raked into"),
    "bar": ("vibrato with the bar", {}, "wide vibrato with the bar"),
    "ring finger": ("ring finger", {"finger": "3"}, "ring finger"),
    "pick": ("sweep", {"pick": "sweep"}, "swept"),
    "natural": ("natural harmonic", {"attack": {"kind": "harmonic", "how": "natural", "partial": 2}}, "natural harmonic"),
}  # fmt: skip


def drawing(page: Page, note: str) -> str:
    """What is drawn of a note on its string."""
    return str(page.locator(f'svg g[data-note="{note}"]').first.evaluate("(one) => one.innerHTML"))


def sentence(page: Page) -> Locator:
    return page.get_by_role("status", name="Sentence")


def half_notes(page: Page, solo: str) -> None:
    """Ready to write half notes on string 2, fret 8."""
    open_at(page, solo)
    hand_to(page, 8)
    page.keyboard.press("KeyK")
    page.keyboard.press("KeyK")


def test_every_technique_by_its_key(page: Page, served, new_solo) -> None:
    solo = new_solo("By key", bars=16, last_bar=16)
    half_notes(page, solo)
    said, drawn = {}, {}
    for name, (presses, _, words) in BY_KEY.items():
        page.keyboard.press("Digit5")
        saved(page)
        note = served.stored(solo)["notes"][-1]["id"]
        plain = drawing(page, note)
        for press in presses:
            page.keyboard.press(press)
        expect(sentence(page), name).to_contain_text(words)
        said[name], drawn[name] = note, drawing(page, note)
        assert drawn[name] != plain, name
    saved(page)
    stored = {note["id"]: note for note in served.stored(solo)["notes"]}
    for name, (_, fields, _) in BY_KEY.items():
        assert {field: stored[said[name]][field] for field in fields} == fields, name


def test_every_other_technique_by_the_menu_at_the_note(page: Page, served, new_solo) -> None:
    solo = new_solo("By menu", bars=16, last_bar=16)
    half_notes(page, solo)
    for item, fields, words in BY_MENU.values():
        page.keyboard.press("Digit5")
        saved(page)
        note = served.stored(solo)["notes"][-1]["id"]
        plain = drawing(page, note)
        page.keyboard.press("Shift+Enter")
        page.get_by_role("menuitem", name=item, exact=True).focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        expect(page.get_by_role("group", name="Strip")).to_be_focused()
        expect(sentence(page), item).to_contain_text(words)
        saved(page)
        assert drawing(page, note) != plain, item
        now = next(one for one in served.stored(solo)["notes"] if one["id"] == note)
        assert {field: now[field] for field in fields} == fields, item


def test_a_stack_has_strokes_a_spread_and_a_cut_and_loudness_stands_under_the_neck(
    page: Page, served, new_solo
) -> None:
    one_note = new_solo("Stacked")
    half_notes(page, one_note)
    page.keyboard.press("Digit5")
    for key in ("Period", "KeyR", "Shift+Period"):
        page.keyboard.press(key)
    saved(page)
    expect(page.locator("svg [data-stroke=down]")).to_have_count(1)
    page.keyboard.press("Shift+KeyM")
    page.keyboard.press("Shift+Enter")
    menu = page.get_by_role("menu", name="Every technique")
    menu.get_by_role("menuitem", name="spread 0 ms").click()
    expect(menu.get_by_role("menuitem", name="spread 30 ms")).to_be_visible()
    menu.get_by_role("menuitem", name="loudness f", exact=True).click()
    page.keyboard.press("Escape")
    saved(page)
    stored = served.stored(one_note)
    assert (stored["stacks"][0]["stroke"], stored["stacks"][0]["spread_ms"]) == ("down", 30)
    assert {note["ending"]["kind"] for note in stored["notes"]} == {"choked"}
    assert [(d["tick"], d["level"]) for d in stored["dynamics"]] == [(0, "f")]
    expect(page.locator("svg [data-loudness=f]")).to_have_count(1)
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+Enter")
    menu.get_by_role("menuitem", name="swell louder over the span").click()
    page.keyboard.press("Escape")
    saved(page)
    assert served.stored(one_note)["swells"][0]["to"] == "louder"
    # The same by keys: over what is marked a swell, else a level; back where it was no sign is left.
    strip = page.get_by_role("group", name="Strip")
    strip.focus()
    for key in ("Shift+ArrowDown", "Escape", "ArrowLeft", "ArrowLeft", "Shift+ArrowUp"):
        page.keyboard.press(key)
    expect(page.locator("svg [data-loudness=ff]")).to_have_count(1)
    expect(page.get_by_role("status", name="Sentence")).to_contain_text("ff from here")
    page.keyboard.press("Shift+ArrowUp")
    saved(page)
    stored = served.stored(one_note)
    assert [d["level"] for d in stored["dynamics"]] == ["ff"] and stored["swells"][0]["to"] == "softer"
    for _ in range(2):
        page.keyboard.press("Shift+ArrowDown")
    saved(page)
    assert served.stored(one_note)["dynamics"] == []


def test_five_six_and_seven_go_into_the_time_of_four(page: Page, served, new_solo) -> None:
    solo = new_solo("Tuplets")
    open_at(page, solo)
    page.keyboard.press("KeyJ")
    for count in (5, 6, 7):
        page.keyboard.press("Escape")  # a length is of the note in hand, too
        page.keyboard.press("Shift+Semicolon")
        for _ in range(count):
            page.keyboard.press("KeyT")
    saved(page)
    notes = served.stored(solo)["notes"]
    assert sum(note["ticks"] for note in notes) == 3 * QUARTER
    assert [note["ticks"] for note in notes] == [2016] * 5 + [1680] * 6 + [1440] * 7


def test_keys_and_the_menu_shape_all_notes_of_what_is_marked(page: Page, served, new_solo) -> None:
    solo = new_solo("Marked")
    open_at(page, solo)
    page.keyboard.press("KeyT")
    page.keyboard.down("Period")  # held: every string on the same place
    page.keyboard.press("KeyR")
    page.keyboard.press("KeyE")
    page.keyboard.up("Period")
    for key in ("KeyE", "ArrowLeft", "ArrowLeft", "Shift+ArrowRight"):
        page.keyboard.press(key)
    expect(page.get_by_text("3 notes are marked")).to_be_visible()
    page.keyboard.press("KeyO")
    page.keyboard.press("Shift+Enter")
    page.get_by_role("menuitem", name="accent").click()
    page.keyboard.press("Escape")
    saved(page)
    stored = served.stored(solo)["notes"]
    assert [(note["vibrato"] is not None, note["accent"]) for note in stored] == [(True, True)] * 3 + [(False, False)]
    page.get_by_role("group", name="Strip").focus()
    done = page.get_by_role("status", name="What was done")
    for label in ("accent, 3 notes", "vibrato, 3 notes"):  # one act each
        expect(done).to_contain_text(label)
        page.keyboard.press("Minus")
        expect(done).not_to_contain_text(label)
    assert [note["vibrato"] for note in served.stored(solo)["notes"]] == [None] * 4
