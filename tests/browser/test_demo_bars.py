"""Bars 1 to 8 of the first demo solo, written by keyboard: how many keys a note takes, and that the same is stored.

The typist here moves the hand as cheaply as it can be moved; shift counts as a key of its own. Times inside a bend and
widths of vibrato are the keys' own, so shapes are compared: which sizes a bend reaches, in which order.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from statistics import mean, median
from typing import Any

import pytest
from playwright.sync_api import Page

from browser.opening import QUARTER, saved
from usagi.core.document.pitches import course_stages
from usagi.settings import project_root

pytestmark = pytest.mark.browser
LENGTHS = (40_320, 20_160, 10_080, 5_040, 2_520)
COLUMNS = {6: 0, 5: 1, 4: 2, 3: 3, 2: 4, 1: 5}
BLOCK = (
    "Digit1 Digit2 Digit3 Digit4 Digit5 Digit6",
    "KeyQ KeyW KeyE KeyR KeyT KeyY",
    "KeyA KeyS KeyD KeyF KeyG KeyH",
    "KeyZ KeyX KeyC KeyV KeyB KeyN",
)
STRINGS = dict(zip((6, 5, 4, 3, 2, 1), ("KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH"), strict=True))
BENDS = (1, 2, 4, 6, 8)
END = 8 * 4 * QUARTER


def the_demo() -> dict[str, Any]:
    solo = json.loads((project_root() / "demo" / "lanterns-at-low-water.json").read_bytes())["solo"]
    return {name: [one for one in solo[name] if 0 <= one["tick"] < END] for name in ("notes", "rests")}


def shape(note: dict[str, Any]) -> dict[str, Any]:
    """What is compared of a note."""
    sizes = [quarters for _, quarters, _ in course_stages(tuple(map(tuple, note["course"])), note["ticks"])]
    return {
        "tick": note["tick"], "ticks": note["ticks"], "string": note["string"], "fret": note["fret"], "sizes": sizes,
        "attack": note["attack"]["kind"], "ending": None if note["ending"] is None else note["ending"]["kind"],
        "shaken": None if note["vibrato"] is None else note["vibrato"]["width_cents"] > 55,
        "marks": [name for name in ("dead", "ghost", "accent", "palm_mute") if note[name]],
        "stacked": note["stack"] is not None,
    }  # fmt: skip


@dataclass
class Typist:
    """Presses keys and counts them by note."""

    page: Page
    numbers: bool
    position: int = 5
    string: int = 2
    length: int = 3
    dot: bool = False
    triplet: bool = False
    log: list[list[str]] = field(default_factory=list)

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.log[-1] += key.split("+")

    def set_length(self, ticks: int) -> None:
        plain = next(i for i, one in enumerate(LENGTHS) if ticks in (one, one * 3 // 2, one * 2 // 3))
        dot, triplet = ticks == LENGTHS[plain] * 3 // 2, ticks == LENGTHS[plain] * 2 // 3
        if self.dot and not dot:
            self.press("KeyL")
        if self.triplet and not triplet:
            self.press("Semicolon")
        if self.dot and triplet:
            self.dot = False
        self.press(*["KeyJ" if plain > self.length else "KeyK"] * abs(plain - self.length))
        if dot and not self.dot:
            self.press("KeyL")
        if triplet and not self.triplet:
            self.press("Semicolon")
        self.length, self.dot, self.triplet = plain, dot, triplet

    def place(self, note: dict[str, Any], to: int, joined: bool) -> None:
        fret = note["fret"] // 100
        if self.numbers:
            if note["string"] != self.string:
                self.press(STRINGS[note["string"]])
                self.string = note["string"]
            first, *more = list(str(fret))
            self.press(("Shift+" if joined else "") + f"Digit{first}")
            self.press(*(f"Digit{digit}" for digit in more))
            return
        self.press(*["Digit8" if to > self.position else "Digit7"] * abs(to - self.position))
        self.position = to
        row = fret - to
        if row == 4:
            self.press("Enter")
            row = 3
        code = BLOCK[row].split()[COLUMNS[note["string"]]]
        self.press(("Shift+" if joined else "") + code)

    def techniques(self, note: dict[str, Any]) -> None:
        sizes = [q for _, q, _ in course_stages(tuple(map(tuple, note["course"])), note["ticks"])]
        top = max(sizes)
        self.press(*["KeyU"] * (BENDS.index(top) + 1 if top else 0))
        if top and sizes[0] == top:  # bent beforehand, and let down
            self.press("Shift+KeyU", *(["Shift+KeyU"] if sizes[-1] < top else []))
        elif top and sizes[-1] == 0:
            self.press("KeyI")
        if note["attack"]["kind"] == "slide":
            self.press("KeyP")
        if note["attack"]["kind"] == "slide-in":
            self.press("Shift+KeyP")
        ending = None if note["ending"] is None else note["ending"]["kind"]
        self.press(
            *["Shift+KeyP"] * (3 if ending == "slide-off" else 0), *["Shift+KeyL"] * (3 if ending == "staccato" else 0)
        )
        if note["vibrato"] is not None:
            self.press("KeyO", *(["KeyO"] if note["vibrato"]["width_cents"] > 55 else []))
        for name, key in (
            ("dead", "Quote"),
            ("ghost", "Shift+Quote"),
            ("accent", "Shift+KeyJ"),
            ("palm_mute", "Shift+KeyK"),
        ):
            if note[name]:
                self.press(key)


def hands(notes: list[dict[str, Any]], start: int) -> list[int]:
    """Where the hand lies for each note so that it moves and reaches least."""
    costs: dict[int, tuple[int, list[int]]] = {start: (0, [])}
    for note in notes:
        fret = note["fret"] // 100
        following: dict[int, tuple[int, list[int]]] = {}
        for to in range(max(0, fret - 4), fret + 1):
            reach = 1 if fret - to == 4 else 0
            best = min((cost + abs(to - now) + reach, way) for now, (cost, way) in costs.items())
            following[to] = (best[0], [*best[1], to])
        costs = following
    return min(costs.values())[1]


@pytest.mark.parametrize(
    ("numbers", "most_median", "most_mean"), [(False, 2, 2.5), (True, 3, 3.5)], ids=["block", "numbers"]
)
def test_bars_one_to_eight_of_the_first_demo_by_keyboard(
    page: Page,
    served,
    new_solo: Callable[..., str],
    record_property,
    numbers: bool,
    most_median: float,
    most_mean: float,
) -> None:
    demo = the_demo()
    chart = served.get(f"/api/solos/{served.solo('Lanterns at Low Water')}/chart")["text"].replace("{pick-up 1} ", "")
    solo = new_solo(f"Typed {'numbers' if numbers else 'block'}", chart=chart, bars=18, last_bar=8, tempo_bpm=104)
    page.goto(f"/solos/{solo}/notes?at=0&string=2")
    page.get_by_role("group", name="Strip").wait_for()
    if numbers:
        page.keyboard.press("?")
        page.get_by_label("String and number instead of the block").check()
        page.keyboard.press("Escape")
    page.get_by_role("group", name="Strip").focus()
    typist = Typist(page, numbers, position=int(page.get_by_role("spinbutton", name="Position").input_value()))
    ways = dict(zip((note["id"] for note in demo["notes"]), hands(demo["notes"], typist.position), strict=True))
    elements = sorted([*demo["notes"], *demo["rests"]], key=lambda one: (one["tick"], -one.get("string", 0)))
    before: dict[str, Any] | None = None
    counted = []
    for element in elements:
        typist.log.append([])
        if "string" not in element:
            if element["ticks"] != LENGTHS[typist.length] or typist.dot or typist.triplet:
                typist.press("Escape")  # the length of the rest, not of the note in hand
                typist.set_length(element["ticks"])
            typist.press("KeyM")
            before = None
            continue
        if before is not None and before["tick"] == element["tick"]:
            typist.press("Period")
        typist.place(element, ways[element["id"]], element["attack"]["kind"] in ("hammer-on", "pull-off"))
        typist.set_length(element["ticks"])
        typist.techniques(element)
        counted.append((element, typist.log[-1]))
        before = element
    saved(page)
    stored = served.stored(solo)
    assert [shape(note) for note in stored["notes"]] == [shape(note) for note in demo["notes"]]
    assert [(rest["tick"], rest["ticks"]) for rest in stored["rests"]] == [
        (r["tick"], r["ticks"]) for r in demo["rests"]
    ]
    keys = [len(log) for _, log in counted]
    lines = [
        f"{note['tick'] / QUARTER:6.2f} string {note['string']} fret {note['fret'] // 100:2}: {' '.join(log)}"
        for note, log in counted
    ]
    record_property("keys", f"median {median(keys)}, mean {mean(keys):.2f} over {len(keys)} notes")
    print("\n".join(lines), f"\nmedian {median(keys)}, mean {mean(keys):.2f} over {len(keys)} notes", flush=True)
    assert median(keys) <= most_median and mean(keys) <= most_mean
