"""Other changes that most notes of a span fit better than the chart (docs/music.md, Other changes, offered)."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Sequence
from functools import lru_cache
from typing import Final, NamedTuple

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.pitch.names import Name, single_name
from usagi.core.readings.line import Sound

FEWEST: Final = 4
SHARE: Final = 0.75  # of the notes must fit
MORE: Final = 2  # notes that must fit beyond those that fit the chart


class OtherChanges(NamedTuple):
    """A chord that could be heard over a span instead: how many notes fit it, and how many the chart."""

    start: int
    end: int
    symbol: str
    why: str
    fit: int
    fit_chart: int
    of: int


def other_changes(sounds: Sequence[Sound], timeline: Timeline) -> list[OtherChanges]:
    """The offers for each chord of the chart, best first within one.

    Parameters
    ----------
    sounds : pitched notes, in time order.
    """
    found = []
    ticks = [sound.note.tick for sound in sounds]
    for i, change in enumerate(timeline.changes):
        end = timeline.end_of(i)
        inside = sounds[bisect_left(ticks, change.tick) : bisect_left(ticks, end)]
        if change.heard is None or len(inside) < FEWEST:
            continue
        counts = Counter(sound.pitch_class for sound in inside)
        chart = _fitting(counts, change.heard)
        if chart + MORE > len(inside):
            continue
        offers = []
        for symbol, heard, why in _candidates(i, timeline):
            fit = _fitting(counts, heard)
            if fit >= SHARE * len(inside) and fit >= chart + MORE:
                offers.append(OtherChanges(change.tick, end, symbol, why, fit, chart, len(inside)))
        seen: set[str] = set()
        for offer in sorted(offers, key=lambda offer: -offer.fit):
            if offer.symbol not in seen:
                seen.add(offer.symbol)
                found.append(offer)
    return found


def _fitting(counts: Counter[int], heard: Heard) -> int:
    """How many notes a chord holds or names."""
    return sum(count for pc, count in counts.items() if (pc - heard.root.pitch_class) % 12 in heard.names)


def _candidates(i: int, timeline: Timeline) -> list[tuple[str, Heard, str]]:
    change = timeline.changes[i]
    assert change.heard is not None
    found = []
    for other, why in ((_other(timeline, i, 1), "the next chord"), (_other(timeline, i, -1), "the chord before")):
        if other is not None and other.heard is not None:
            found.append((other.shown, other.heard, why))
    root = change.heard.root
    if change.heard.dominant:
        for apart, why in ((6, "a tritone away"), (3, "a minor third above"), (9, "a minor third below")):
            found.append(_made(root, apart, "7", f"the dominant {why}"))
        found.append(_made(root, 7, "m7", "the ii before it"))
    elif change.heard.minor:
        found.append(_made(root, 3, "maj7" if change.heard.seventh is not None else "", "the relative major"))
    elif change.heard.third == 4:
        found.append(_made(root, 9, "m7" if change.heard.seventh is not None else "m", "the relative minor"))
    return found


def _other(timeline: Timeline, i: int, step: int) -> Change | None:
    """The nearest change before or after to another harmony."""
    at = i + step
    while 0 <= at < len(timeline.changes):
        if not timeline.changes[at].same_harmony(timeline.changes[i]):
            return timeline.changes[at]
        at += step
    return None


@lru_cache(maxsize=1_024)
def _made(root: Name, apart: int, quality: str, why: str) -> tuple[str, Heard, str]:
    steps = {3: 2, 6: 4, 7: 4, 9: 5}[apart]
    name = root.above(steps, apart)
    if abs(name.alter) > 1:
        name = single_name(name.pitch_class, upwards=False)
    symbol = f"{name}{quality}"
    heard = hear(parse_chord(symbol))
    assert heard is not None
    return symbol, heard, why
