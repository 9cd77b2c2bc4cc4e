"""The position search: how long it takes, and how far it agrees with how the demo solos are written.

The demos were written by us before the search was: what agrees says how alike the two think, not which is right.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence
from statistics import median

from benchmarks.figures import Figure
from benchmarks.solos import big_solo
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.fingering.search import Search, written_way
from usagi.core.formats.document_json import read_document
from usagi.core.playing.timing import expected_seconds
from usagi.settings import project_root

DEMOS = ("lanterns-at-low-water", "gull-weather", "the-salt-road", "ferry-bell")
RUNS = 3


def seconds_of(solo: Solo, ground: Ground) -> dict[int, float]:
    ticks = sorted({note.tick for note in solo.notes})
    return dict(zip(ticks, expected_seconds(solo, ground, ticks), strict=True))


def best_of(run: object, times: int = RUNS) -> float:
    """Milliseconds of the quickest of some runs."""
    found = []
    for _ in range(times):
        begin = time.perf_counter()
        run()  # type: ignore[operator]
        found.append(1_000 * (time.perf_counter() - begin))
    return min(found)


def figures() -> Iterable[Figure]:
    document = big_solo(2_000)
    solo, seconds = document.solo, seconds_of(document.solo, document.ground)
    yield Figure(
        "position search, 2,000 notes of every technique, made ready and searched",
        best_of(lambda: Search(solo.notes, solo.settings, seconds).best()), "ms", goal=500,
    )  # fmt: skip
    yield Figure(
        "the same, with its other ways", best_of(lambda: Search(solo.notes, solo.settings, seconds).ways()), "ms"
    )
    phrases: list[tuple[Sequence[Note], Solo, dict[int, float]]] = []
    for name in DEMOS:
        demo = read_document((project_root() / "demo" / f"{name}.json").read_bytes())
        when = seconds_of(demo.solo, demo.ground)
        for phrase in demo.solo.phrases:
            inside = [note for note in demo.solo.notes if phrase.start <= note.tick < phrase.end]
            phrases.append((inside, demo.solo, when))
        way = Search(demo.solo.notes, demo.solo.settings, when).best()
        written = written_way(demo.solo.notes, demo.solo.settings, when)
        pairs = list(zip(way.places, written.places, strict=True))
        yield Figure(
            f"{name}: notes on the string that is written", 100 * _share(a.string == b.string for a, b in pairs), "%"
        )
        yield Figure(
            f"{name}: notes within a fret of the position that is written",
            100 * _share(abs(a.position - b.position) <= 1 for a, b in pairs), "%",
        )  # fmt: skip
    taken = [best_of(lambda line=line: Search(line[0], line[1].settings, line[2]).ways()) for line in phrases]
    yield Figure("ways of one phrase, median of the demos' phrases", median(taken), "ms", goal=30)
    yield Figure("ways of one phrase, the slowest", max(taken), "ms", goal=30)


def _share(held: Iterable[bool]) -> float:
    found = list(held)
    return sum(found) / max(1, len(found))
