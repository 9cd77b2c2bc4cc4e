"""Difficulty against a player's judgement: forty phrases, put in order before any was worked out."""

from __future__ import annotations

import re

from scipy.stats import kendalltau

from core.tables.forty_phrases import PHRASES
from strategies import ground_on
from usagi.core.document.elements import Note, Stack
from usagi.core.document.solo import Solo
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.practice.difficulty import difficulty
from usagi.settings import project_root

LENGTHS = {"": EIGHTH, "q": QUARTER, "s": EIGHTH // 2, "t": QUARTER // 3}
TOKEN = re.compile(r"(\d):(\d+)(?:\^(\d))?")
AGREE = 0.6  # Kendall's tau


def solo_of(line: str) -> Solo:
    notes, stacks, tick = [], [], 0
    for i, word in enumerate(line.split()):
        ticks = LENGTHS[word[-1] if word[-1].isalpha() else ""]
        places = TOKEN.findall(word)
        if len(places) > 1:
            stacks.append(Stack(id=f"s{i}"))
        for string, fret, bend in places:
            course = ((0, 0), (ticks // 2, int(bend))) if bend else ()
            notes.append(
                Note(id=f"n{i}-{string}", tick=tick, ticks=ticks, string=int(string), fret=100 * int(fret), course=course,
                     stack=f"s{i}" if len(places) > 1 else None)
            )  # fmt: skip
        tick += ticks
    return Solo(notes=tuple(notes), stacks=tuple(stacks))


def worked_out() -> list[tuple[str, float, int]]:
    found = []
    for name, bpm, line in PHRASES:
        solo = solo_of(line)
        one = difficulty(solo.notes, solo, ground_on("| C7 |", bpm=bpm), 1_000)
        found.append((name, one.value, one.level))
    return found


def test_it_agrees_with_a_players_order_and_the_docs_show_both() -> None:
    found = worked_out()
    tau = kendalltau(range(len(found)), [value for _, value, _ in found]).statistic
    assert len(found) == 40 and tau >= AGREE, tau
    shown = (project_root() / "docs/difficulty.md").read_text()
    by_value = sorted(range(40), key=lambda i: (found[i][1], i))
    for i, (name, value, level) in enumerate(found):
        assert f"| {i + 1} | {by_value.index(i) + 1} | {name} | {value:.2f} | {level} |" in shown
    assert f"tau is {tau:.2f}" in shown
