"""The search: the cheapest way of a hand through a line, and ways that differ from it in kind.

A shortest path over the shapes of each event (Sayegh, Computer Music Journal 13/3, 1989, describes the method): the
cost of a shape, and between two events that of the shift, of the strings crossed, and of what has to stay on one
string.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median_low

import numpy as np
from numpy.typing import NDArray

from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.fingering.events import Event, events_of
from usagi.core.fingering.hand import (
    CROSSING,
    GUIDED,
    HANDS,
    HURRY_S,
    ROLLED,
    SHIFT,
    SHIFT_FRET,
    HandSize,
    finger_at,
)
from usagi.core.fingering.shapes import Shaper, Shapes
from usagi.core.fretboard.places import HUNDREDTHS

BEST = 3
APART_FRETS = 3  # positions that differ by as many are of another kind
ZONES = (1, 3, 5, 7, 9, 12, 15)
ZONE = 0.35  # each fret away from a zone, beyond the hand's own five
MANY = 300  # events; with more, a solo is searched for low, high and open ways only

Floats = NDArray[np.float64]
Leaning = Callable[[Shapes], Floats]


@dataclass(frozen=True, slots=True)
class Fingered:
    """A note under the hand. `fret` is in hundredths, `finger` 0 for an open string, None where the hand is free."""

    note: str
    string: int
    fret: int
    finger: int | None
    position: int


@dataclass(frozen=True, slots=True)
class Shift:
    """The hand moves to another position at a tick, with so many seconds for it, at a cost."""

    tick: int
    before: int
    after: int
    time_s: float
    cost: float


@dataclass(frozen=True)
class Way:
    """One way through a line: where each note lies, what it costs, and where the hand moves."""

    places: tuple[Fingered, ...]
    cost: float
    shifts: tuple[Shift, ...]
    troubles: tuple[tuple[int, str], ...]  # ticks of what no hand plays, and why
    costs: tuple[tuple[int, float], ...] = ()  # by tick, of what is held there and of getting to it

    @property
    def position(self) -> int:
        """Where the hand is most of the time; 1 when it is never needed."""
        return median_low([place.position for place in self.places if place.fret] or [1])

    @property
    def opens(self) -> int:
        return sum(place.fret == 0 for place in self.places)

    @property
    def strings(self) -> frozenset[int]:
        return frozenset(place.string for place in self.places)

    def differs(self, other: Way) -> bool:
        """In kind: by three frets of position, in open strings, or in the strings used; never with the same places."""
        if [(p.string, p.fret) for p in self.places] == [(p.string, p.fret) for p in other.places]:
            return False
        return (
            abs(self.position - other.position) >= APART_FRETS
            or (self.opens > 0) != (other.opens > 0)
            or self.strings != other.strings
        )


class Search:
    """A line made ready to be searched."""

    def __init__(
        self,
        notes: Sequence[Note],
        settings: SoloSettings,
        seconds: Mapping[int, float],
        *,
        pinned: Collection[str] = (),
        hand: HandSize = HandSize.USUAL,
        reported: Collection[str] | None = None,
        shaper: Shaper | None = None,
    ) -> None:
        """`seconds` says when each tick sounds; `pinned` notes stay; only `reported` notes stand in the ways.

        A `shaper` of the same settings and hand is used again, so that shapes are made once for many searches.
        """
        self.reported = reported
        shaper = Shaper(settings, HANDS[hand]) if shaper is None else shaper
        self.events = events_of(notes, settings, seconds, pinned)
        self.shapes = [shaper.shapes(event) for event in self.events]
        self.moves = [
            _moves(before, after, one, other)
            for (before, after), (one, other) in zip(pairwise(self.events), pairwise(self.shapes), strict=True)
        ]

    def best(self) -> Way:
        """The cheapest way."""
        return self._cheapest([_as_it_is])[0]

    def _cheapest(self, leanings: Sequence[Leaning]) -> list[Way]:
        """The cheapest way under each preference; what the preference adds to the cost is not reported."""
        if not self.events:
            return [Way((), 0.0, (), ()) for _ in leanings]
        costs = [np.stack([shapes.costs + lean(shapes) for lean in leanings]) for shapes in self.shapes]
        total = costs[0]  # all leanings go through the line at once: a row each
        back: list[NDArray[np.intp]] = []
        for move, cost in zip(self.moves, costs[1:], strict=True):
            all_of_them = total[:, :, None] + move
            back.append(all_of_them.argmin(axis=1))
            total = all_of_them.min(axis=1) + cost
        ways = []
        for row, at in enumerate(total.argmin(axis=1)):
            path = [int(at)]
            for chosen in reversed(back):
                path.append(int(chosen[row, path[-1]]))
            ways.append(self._told(path[::-1]))
        return ways

    def _told(self, path: list[int]) -> Way:
        places = []
        cost = 0.0
        shifts = []
        costs = []
        for i, (event, shapes, at) in enumerate(zip(self.events, self.shapes, path, strict=True)):
            position = int(shapes.positions[at])
            own = float(shapes.costs[at]) + (float(self.moves[i - 1][path[i - 1], at]) if i else 0.0)
            cost += own
            costs.append((event.tick, own))
            if i:
                before = int(self.shapes[i - 1].positions[path[i - 1]])
                if before != position:
                    time_s = event.second - self.events[i - 1].second
                    shifts.append(
                        Shift(event.tick, before, position, time_s, _shift_cost(event, before - position, time_s))
                    )
            for one, string, fret in zip(event.wanted, shapes.strings[at], shapes.frets[at], strict=True):
                if self.reported is not None and one.note not in self.reported:
                    continue
                finger = None if one.outside else finger_at(position, int(fret))
                places.append(Fingered(one.note, int(string), round(float(fret) * HUNDREDTHS), finger, position))
        troubles = tuple((e.tick, s.trouble) for e, s in zip(self.events, self.shapes, strict=True) if s.trouble)
        return Way(tuple(places), round(cost, 3), tuple(shifts), troubles, tuple(costs))

    def ways(self) -> list[Way]:
        """The best way and up to two that differ from it, and from one another, in kind; the cheapest first."""
        if not self.events:
            return []
        zones = ZONES if len(self.events) <= MANY else ZONES[::3]
        found = self._cheapest([_as_it_is, *(_towards(zone) for zone in zones), _to_open_strings, _to_stopped_strings])
        kept: list[Way] = []
        for way in sorted(found, key=lambda way: way.cost):
            if all(way.differs(other) for other in kept):
                kept.append(way)
        return kept[:BEST]


def _as_it_is(shapes: Shapes) -> Floats:
    return np.zeros(len(shapes.costs))


def _towards(zone: int) -> Leaning:
    return lambda shapes: np.asarray(ZONE * np.maximum(0, np.abs(shapes.positions - zone) - 1), np.float64)


def _to_open_strings(shapes: Shapes) -> Floats:
    return np.asarray(-1.2 * shapes.opens, np.float64)


def _to_stopped_strings(shapes: Shapes) -> Floats:
    return np.asarray(5.0 * shapes.opens, np.float64)


def _shift_cost(event: Event, by: int, time_s: float) -> float:
    hurry = max(1.0, HURRY_S / max(time_s, 0.02))
    return (SHIFT + SHIFT_FRET * abs(by)) * hurry * (GUIDED if event.guided else 1.0)


# By distance in frets, before the time there is for it.
_SHIFTS = np.array([0.0] + [SHIFT + SHIFT_FRET * frets for frets in range(1, 64)])


def _moves(before: Event, after: Event, one: Shapes, other: Shapes) -> Floats:
    """Costs from every shape of an event (rows) to every shape of the next."""
    hurry = max(1.0, HURRY_S / max(after.second - before.second, 0.02)) * (GUIDED if after.guided else 1.0)
    costs: Floats = _SHIFTS[np.abs(one.positions[:, None] - other.positions[None, :])] * hurry
    from_, to = one.strings[:, :1], other.strings[:, 0]
    costs += CROSSING * np.abs(from_ - to)
    if len(before.wanted) == len(after.wanted) == 1:
        rolled = (from_ != to) & (one.frets[:, :1] == other.frets[:, 0]) & (other.frets[:, 0] > 0)
        costs += ROLLED * rolled
    for k, j in after.apart:
        costs[one.strings[:, k : k + 1] == other.strings[:, j]] = np.inf
    for k, j in after.same:
        costs[one.strings[:, k : k + 1] != other.strings[:, j]] = np.inf
        if after.guided:
            costs[one.frets[:, k] == 0, :] = np.inf
    if not np.isfinite(costs).any():  # what is written cannot be held together: it is told, not refused
        return np.zeros_like(costs)
    return costs


def written_way(
    notes: Sequence[Note],
    settings: SoloSettings,
    seconds: Mapping[int, float],
    hand: HandSize = HandSize.USUAL,
    shaper: Shaper | None = None,
) -> Way:
    """The way as it is written: every place pinned, the hand as cheap as it can be.

    Parameters
    ----------
    notes : in time order.
    settings : of the solo's strings.
    seconds : by tick, when it sounds.
    hand : how far it reaches.
    shaper : of the same settings and hand, to be used again.
    """
    return Search(notes, settings, seconds, pinned=[note.id for note in notes], hand=hand, shaper=shaper).best()
