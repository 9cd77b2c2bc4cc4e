"""Roles that a note has by where it goes: enclosure, passing, approach, pedal (docs/music.md, Roles).

Notes that start together are one event, their pitches counted from the top: each goes on to the note of its rank in the
next event, the lowest where there is none. What a note comes from is sought in its own phrase only, what it leads to in
the next as well; so a cut at a phrase border changes nothing behind it.
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from itertools import pairwise
from typing import Final, NamedTuple

from usagi.core.degrees.lines import Role

LONGEST_PASSING: Final = 3
LONGEST_ENCLOSURE: Final = 8
PEDAL_STRIKES: Final = 3
PEDAL_BETWEEN: Final = 2  # other notes between two strikes of a pedal, at most
REACH: Final = 12  # events on both sides of a note that can decide its role


class Point(NamedTuple):
    """A note of the line: its main pitch and whether that is a core tone of the chord that it is heard on.

    Only an `open` note may take a role from its line: no core tone, no anticipation, no curl. `rest` is the shortest
    silence that ends a line here (a pulse), `phrase` tells stretches apart. Dead notes have no pitch, and only fill
    time.
    """

    id: str
    tick: int
    end: int
    midi: float | None
    core: bool
    open: bool
    degree: str
    rest: int
    phrase: int


class Kind(StrEnum):
    """How a note leads to its goal."""

    FROM_ABOVE = "from above"
    FROM_BELOW = "from below"
    UPPER_NEIGHBOUR = "upper neighbour"
    LOWER_NEIGHBOUR = "lower neighbour"
    DOUBLE = "double"
    STEP = "step"
    PASSING = "passing"
    PEDAL = "pedal"


class Pattern(NamedTuple):
    """A role found in the line; `steps` are the semitones up to the goal, negative downwards."""

    role: Role
    kind: Kind
    goal: str | None = None
    goal_id: str | None = None
    steps: int = 0


class Events(NamedTuple):
    """Points by onset, highest first; whether a line ends before each, and whether a phrase begins with it."""

    of: list[list[Point]]
    broken: list[bool]
    begins: list[bool]

    def after(self, i: int, rank: int) -> tuple[int, int] | None:
        if i + 1 >= len(self.of) or self.broken[i + 1]:
            return None
        return i + 1, min(rank, len(self.of[i + 1]) - 1)

    def before(self, i: int, rank: int) -> tuple[int, int] | None:
        """Within the phrase."""
        if i == 0 or self.broken[i] or self.begins[i]:
            return None
        return i - 1, min(rank, len(self.of[i - 1]) - 1)


def patterns(points: Sequence[Point]) -> dict[str, Pattern]:
    """The roles that notes have by where they go, by note id; only for notes that are no core tones.

    Parameters
    ----------
    points : in time order, dead notes among them.

    >>> line = [Point(str(i), i * 5_040, i * 5_040 + 5_040, midi, core, not core, degree, 10_080, 0)
    ...         for i, (midi, core, degree) in enumerate([(65, False, "4"), (62, False, "2"), (64, True, "3")])]
    >>> [(found.role.value, found.kind.value, found.goal) for found in patterns(line).values()]
    [('enclosure', 'from above', '3'), ('enclosure', 'from above', '3')]
    """
    events = events_of(points)
    takers = {point.id for point in points if point.open}
    found: dict[str, Pattern] = {}
    for search in (_enclosures, _passing, _approaches, _pedals):
        for note_id, pattern in search(events).items():
            if note_id in takers:
                found.setdefault(note_id, pattern)
    return found


def events_of(points: Sequence[Point]) -> Events:
    of: list[list[Point]] = []
    broken: list[bool] = []
    until, silent = None, False
    for point in points:
        silent = silent or (until is not None and point.tick - until >= point.rest)
        until = point.end if until is None else max(until, point.end)
        if point.midi is None:
            continue
        if of and of[-1][0].tick == point.tick:
            of[-1].append(point)
            continue
        of.append([point])
        broken.append(silent)
        silent = False
    for event in of:
        event.sort(key=lambda point: -(point.midi or 0))
    begins = [False, *(after[0].phrase != before[0].phrase for before, after in pairwise(of))]
    return Events(of, broken, begins)


def _enclosures(events: Events) -> dict[str, Pattern]:
    found: dict[str, Pattern] = {}
    for j, event in enumerate(events.of):
        if not j or events.broken[j]:
            continue
        for rank, goal in enumerate(event):
            if not goal.core or goal.midi is None:
                continue
            run: list[tuple[Point, float]] = []
            at: tuple[int, int] | None = (j - 1, min(rank, len(events.of[j - 1]) - 1))
            while at is not None and len(run) < LONGEST_ENCLOSURE:
                point = events.of[at[0]][at[1]]
                off = (point.midi or 0) - goal.midi
                if point.core or off not in (-2, -1, 1, 2):
                    break
                run.append((point, off))
                at = events.before(*at)
            if not (any(off > 0 for _, off in run) and any(off < 0 for _, off in run)):
                continue
            kind = Kind.FROM_ABOVE if run[-1][1] > 0 else Kind.FROM_BELOW
            for point, off in run:
                found[point.id] = Pattern(Role.ENCLOSURE, kind, goal.degree, goal.id, -int(off))
    return found


def _passing(events: Events) -> dict[str, Pattern]:
    found: dict[str, Pattern] = {}
    for i, event in enumerate(events.of):
        for rank, start in enumerate(event):
            if not start.core:
                continue
            between: list[Point] = []
            last, direction = start, 0
            at = events.after(i, rank)
            while at is not None and len(between) <= LONGEST_PASSING:
                point = events.of[at[0]][at[1]]
                step = (point.midi or 0) - (last.midi or 0)
                if step not in (-2, -1, 1, 2) or step * direction < 0:
                    break
                if point.core:
                    for one in between:
                        steps = int((point.midi or 0) - (one.midi or 0))
                        found[one.id] = Pattern(Role.PASSING, Kind.PASSING, point.degree, point.id, steps)
                    break
                if point.phrase != start.phrase:
                    break
                between.append(point)
                last, direction = point, 1 if step > 0 else -1
                at = events.after(*at)
    return found


def _approaches(events: Events) -> dict[str, Pattern]:
    found: dict[str, Pattern] = {}
    for i, event in enumerate(events.of):
        for rank, point in enumerate(event):
            at = events.after(i, rank)
            if point.core or at is None or point.midi is None:
                continue
            goal = events.of[at[0]][at[1]]
            step = (goal.midi or 0) - point.midi
            if not goal.core or step not in (-2, -1, 1, 2):
                continue
            kind = Kind.STEP
            came = events.before(i, rank)
            before = None if came is None else events.of[came[0]][came[1]]
            if before is not None and before.core and before.midi == goal.midi:
                kind = Kind.UPPER_NEIGHBOUR if step < 0 else Kind.LOWER_NEIGHBOUR
            elif came is not None and before is not None and _is_first_of_two(before, point, step, came, events):
                kind = Kind.DOUBLE
                steps = int((goal.midi or 0) - (before.midi or 0))
                found[before.id] = Pattern(Role.APPROACH, Kind.DOUBLE, goal.degree, goal.id, steps)
            found[point.id] = Pattern(Role.APPROACH, kind, goal.degree, goal.id, int(step))
    return found


def _is_first_of_two(first: Point, second: Point, step: float, at: tuple[int, int], events: Events) -> bool:
    """Whether a note opens two steps in one direction: it is no core tone, and reached by a leap or from nothing."""
    own = (second.midi or 0) - (first.midi or 0)
    if first.core or own not in (-2, -1, 1, 2) or own * step < 0:
        return False
    came = events.before(*at)
    if came is None:
        return True
    return abs((first.midi or 0) - (events.of[came[0]][came[1]].midi or 0)) > 2


def _pedals(events: Events) -> dict[str, Pattern]:
    found: dict[str, Pattern] = {}
    chains: dict[float, list[tuple[int, Point]]] = {}
    for i, event in enumerate(events.of):
        if events.broken[i] or events.begins[i]:
            chains = {}
        for point in event:
            if point.core or point.midi is None:
                continue
            chain = chains.get(point.midi, [])
            if not chain or not 2 <= i - chain[-1][0] <= PEDAL_BETWEEN + 1:
                chain = []
            chain.append((i, point))
            chains[point.midi] = chain
            if len(chain) >= PEDAL_STRIKES:
                for _, one in chain:
                    found[one.id] = Pattern(Role.PEDAL, Kind.PEDAL)
    return found


def step_words(steps: int) -> str:
    """Semitones as a step: `half step up`, `whole step down`.

    >>> step_words(1), step_words(-2), step_words(3)
    ('half step up', 'whole step down', '3 half steps up')
    """
    size = {1: "half step", 2: "whole step"}.get(abs(steps), f"{abs(steps)} half steps")
    return f"{size} {'up' if steps > 0 else 'down'}"


def pattern_words(pattern: Pattern, degree: str) -> str:
    """What a pattern says of its note."""
    goal = f"the {pattern.goal}"
    match pattern.kind:
        case Kind.FROM_ABOVE | Kind.FROM_BELOW:
            return f"encloses {goal} {pattern.kind}"
        case Kind.PASSING:
            return f"passes {'up' if pattern.steps > 0 else 'down'} to {goal}"
        case Kind.UPPER_NEIGHBOUR | Kind.LOWER_NEIGHBOUR:
            return f"{pattern.kind} of {goal}"
        case Kind.DOUBLE:
            return f"double approach {'up' if pattern.steps > 0 else 'down'} to {goal}"
        case Kind.PEDAL:
            return f"pedal on the {degree}"
        case Kind.STEP:
            return f"{step_words(pattern.steps)} to {goal}"
