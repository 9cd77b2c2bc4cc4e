"""The places that one event can take: every string and fret of its notes with a position of the hand, and the cost."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.solo import SoloSettings
from usagi.core.fingering.events import Event, Wanted
from usagi.core.fingering.hand import (
    APART,
    BEND_FINGER,
    HIGH_FRET,
    OPEN_FROM_AFAR,
    OPEN_STRING,
    SPAN,
    THICK,
    THICK_BEND,
    Hand,
    bend_trouble,
    finger_at,
    stretch_cost,
)
from usagi.core.fretboard.places import open_pitch

MOST_SHAPES = 64  # of one event; the dearest are left out
WHOLE_STEP = 4  # quarter tones
BOTTLENECK_FRETS = 36

_Spot = tuple[int, float]  # string and fret


@dataclass(frozen=True)
class Shapes:
    """Arrays over the shapes of an event: positions, costs, strings and frets of its notes, open strings in each."""

    positions: NDArray[np.int16]
    costs: NDArray[np.float64]
    strings: NDArray[np.int16]  # (shapes, notes)
    frets: NDArray[np.float64]  # (shapes, notes)
    opens: NDArray[np.int16]
    trouble: str | None = None  # why its notes stay where they are though no hand plays them there


class Shaper:
    """Makes shapes; events of one kind share theirs."""

    def __init__(self, settings: SoloSettings, hand: Hand) -> None:
        self.settings = settings
        self.hand = hand
        self.frets = BOTTLENECK_FRETS if settings.bottleneck else settings.last_fret - settings.capo
        self.top = max(1, self.frets - SPAN + 2)
        self._known: dict[object, Shapes] = {}
        self._bends: dict[tuple[int, int, int], str | None] = {}

    def shapes(self, event: Event) -> Shapes:
        key = (tuple(one.kind(event.free) for one in event.wanted), len(event.wanted))
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._made(event)
        return found

    def _made(self, event: Event) -> Shapes:
        rows: list[tuple[float, int, tuple[_Spot, ...]]] = []
        spots = [list(self._spots(one, event.free)) for one in event.wanted]
        for chosen in _on_different_strings(spots):
            rows += self._positions(event, chosen)
        if rows:
            return _arrays(sorted(rows, key=lambda row: row[0])[: max(MOST_SHAPES, 2 * self.top)])
        own = tuple(one.own for one in event.wanted)
        stopped = [int(fret) for _, fret in own if fret > 0]
        return _arrays([(0.0, min(self.top, max(1, min(stopped, default=1))), own)], self._why_not(event, spots))

    def _spots(self, one: Wanted, free: frozenset[int]) -> Iterator[_Spot]:
        if one.pinned or one.pitch is None:
            yield one.own
            return
        for string in range(1, len(self.settings.tuning) + 1):
            fret = one.pitch - open_pitch(string, self.settings.tuning, self.settings.capo)
            if string not in free or not 0 <= fret <= self.frets or (fret % 1 and not self.settings.bottleneck):
                continue
            if fret == 0 and one.stopped:
                continue
            if not self.settings.bottleneck and one.bend > 0 and self._bend(string, int(fret), one.bend):
                continue
            yield string, fret

    def _bend(self, string: int, fret: int, quarters: int) -> str | None:
        key = (string, fret, quarters)
        if key not in self._bends:
            self._bends[key] = bend_trouble(self.hand, self.settings, *key)
        return self._bends[key]

    def _positions(self, event: Event, chosen: tuple[_Spot, ...]) -> list[tuple[float, int, tuple[_Spot, ...]]]:
        """Every position from which the hand holds these places at once."""
        held = [fret for one, (_, fret) in zip(event.wanted, chosen, strict=True) if fret > 0 and not one.outside]
        opens = sum(fret == 0 and not one.outside for one, (_, fret) in zip(event.wanted, chosen, strict=True))
        strings = sorted(string for string, _ in chosen)
        base = opens * OPEN_STRING + APART * (strings[-1] - strings[0] - len(strings) + 1)
        base += HIGH_FRET * sum(max(0.0, fret - 12) for fret in held)
        base += THICK * sum(max(0, string - 3) for string in strings)
        if not held:
            return [(base + OPEN_FROM_AFAR * max(0, p - SPAN) * opens, p, chosen) for p in range(1, self.top + 1)]
        if self.settings.bottleneck:
            at = max(1, round(held[0]))
            return [(base, at, chosen)] if max(held) == min(held) else []
        low, high = int(min(held)), int(max(held))
        if sum(fret > low for fret in held) > 3:
            return []  # one finger lies over the lowest fret, three are left
        found = []
        for position in range(max(1, high - SPAN + 1), low + 1):
            reach = stretch_cost(self.hand, self.settings, position if len(held) == 1 else low, high)
            if reach == inf:
                continue
            cost = base + (0.5 * reach if len(held) == 1 else reach) + OPEN_FROM_AFAR * max(0, position - SPAN) * opens
            for one, (string, fret) in zip(event.wanted, chosen, strict=True):
                if one.bend > 1 and fret > 0 and not one.outside:  # a tapped note is bent by the hand that taps it
                    cost += BEND_FINGER[finger_at(position, int(fret))]
                    cost += THICK_BEND * max(0, string - 3) if one.bend >= WHOLE_STEP else 0.0
                if one.partner and not position <= fret + one.partner < position + SPAN:
                    cost = inf
            if cost < inf:
                found.append((cost, position, chosen))
        return found

    def _why_not(self, event: Event, spots: list[list[_Spot]]) -> str:
        for one, places in zip(event.wanted, spots, strict=True):
            if places:
                continue
            string, fret = one.own
            if one.bend > 0 and string <= len(self.settings.tuning):
                why = bend_trouble(self.hand, self.settings, string, int(fret), one.bend)
                if why is not None:
                    return f"no place bends so far: on string {string}, fret {fret:g}, {why}"
            return "no string that is free has this pitch"
        return "no hand reaches all its notes at once"


def _on_different_strings(spots: list[list[_Spot]]) -> Iterator[tuple[_Spot, ...]]:
    if not spots:
        yield ()
        return
    for rest in _on_different_strings(spots[:-1]):
        taken = {string for string, _ in rest}
        for spot in spots[-1]:
            if spot[0] not in taken:
                yield (*rest, spot)


def _arrays(rows: list[tuple[float, int, tuple[_Spot, ...]]], trouble: str | None = None) -> Shapes:
    strings = np.array([[string for string, _ in chosen] for _, _, chosen in rows], np.int16)
    frets = np.array([[fret for _, fret in chosen] for _, _, chosen in rows], np.float64)
    return Shapes(
        positions=np.array([position for _, position, _ in rows], np.int16),
        costs=np.array([cost for cost, _, _ in rows], np.float64),
        strings=strings,
        frets=frets,
        opens=np.asarray((frets == 0).sum(axis=1), np.int16),
        trouble=trouble,
    )
