"""A player's figures over some solos: how often each answer is given, of how many times it could have been.

Counting does not depend on the order of solos; the bins of a group add up to what the group counts. A figure of fewer
than twenty is in light ink and is no habit.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Final

from usagi.core.portrait.tallies import PHRASE_GROUPS, Group, PhraseTally, Tally
from usagi.core.values import Value

FEWEST: Final = 20  # opportunities, for a figure that says something of a player
SLOW, FAST = 90.0, 140.0  # beats a minute, between which a tempo is medium
BANDS: Final = ("slow", "medium", "fast")
PER_NOTE: Final = frozenset({Group.TECHNIQUES})  # of all notes, however many of them have none


@dataclass(frozen=True, slots=True)
class Figure:
    """One answer: how often it was given, of how often one was, its share by sounding time, and whether it is light."""

    group: str
    answer: str
    count: int
    of: int
    time_share: float

    @property
    def share(self) -> float:
        return self.count / self.of if self.of else 0.0

    @property
    def light(self) -> bool:
        return self.of < FEWEST


@dataclass(frozen=True, slots=True)
class Measure:
    """Something measured: how many values, their median and the middle half of them."""

    name: str
    count: int
    median: float
    low: float
    high: float

    @property
    def light(self) -> bool:
        return self.count < FEWEST


@dataclass(frozen=True)
class Portrait:
    """What is counted over some solos."""

    solos: int
    phrases: int
    notes: int
    unsure: int
    groups: Mapping[str, tuple[Figure, ...]]
    measures: tuple[Measure, ...]

    def figure(self, group: str, answer: str) -> Figure | None:
        """An answer of a group; one that nobody gave counts none, and a group that was never asked has none."""
        figures = self.groups.get(group, ())
        found = next((one for one in figures if one.answer == answer), None)
        return found or (Figure(group, answer, 0, figures[0].of, 0.0) if figures else None)


class Sums(Value):
    """What one solo adds to its player's figures.

    `bins` hold for `group:answer` how often it was given and for how many seconds its notes sound; `measured` holds
    the values of each measure.
    """

    phrases: int
    notes: int
    unsure: int
    bins: dict[str, tuple[int, float]]
    measured: dict[str, tuple[float, ...]]


def summed(one: Tally) -> Sums | None:
    """The sums of a solo; None of one that counts for nobody."""
    if not one.counts:
        return None
    times: dict[str, int] = {}
    seconds: dict[str, float] = {}
    for phrase in one.phrases:
        for name, own in phrase.bins.items():
            times[name] = times.get(name, 0) + times_counted(name.partition(":")[0], own)
            seconds[name] = seconds.get(name, 0.0) + sum(one.seconds[note] for note in own)
    return Sums(
        phrases=len(one.phrases),
        notes=sum(len(phrase.notes) for phrase in one.phrases),
        unsure=len(one.unsure),
        bins={name: (count, round(seconds[name], 3)) for name, count in times.items()},
        measured=_measured(one.phrases),
    )


def portrait(solos: Collection[Sums]) -> Portrait:
    """The figures of some solos."""
    counts: dict[str, dict[str, int]] = {}
    times: dict[str, dict[str, float]] = {}
    values: dict[str, list[float]] = {}
    for solo in solos:
        for name, (count, seconds) in solo.bins.items():
            group, _, answer = name.partition(":")
            counted, timed = counts.setdefault(group, {}), times.setdefault(group, {})
            counted[answer] = counted.get(answer, 0) + count
            timed[answer] = timed.get(answer, 0.0) + seconds
        for name, measured in solo.measured.items():
            values.setdefault(name, []).extend(measured)
    notes = sum(solo.notes for solo in solos)
    groups = {}
    for group, answers in counts.items():
        of = notes if group in PER_NOTE else sum(answers.values())
        whole = sum(times[group].values())
        groups[group] = tuple(
            Figure(group, answer, count, of, times[group][answer] / whole if whole else 0.0)
            for answer, count in sorted(answers.items(), key=lambda one: (-one[1], one[0]))
        )
    return Portrait(
        solos=len(solos),
        phrases=sum(solo.phrases for solo in solos),
        notes=notes,
        unsure=sum(solo.unsure for solo in solos),
        groups=groups,
        measures=tuple(_measure(name, sorted(found)) for name, found in sorted(values.items())),
    )


def times_counted(group: str, notes: Sequence[int]) -> int:
    """How often a group counts an answer in a phrase: once a phrase, once a pair, or once a note."""
    if group in PHRASE_GROUPS:
        return 1
    if group == Group.INTERVALS or group.startswith(Group.MOVES):
        return len(notes) // 2
    return len(notes)


def band_of(tempo_bpm: float) -> str:
    return BANDS[(tempo_bpm >= SLOW) + (tempo_bpm > FAST)]


def _measured(phrases: Sequence[PhraseTally]) -> dict[str, tuple[float, ...]]:
    values: dict[str, list[float]] = {}
    for phrase in phrases:
        own = phrase.measured
        for _, quarters, cents in own.bend_cents:
            values.setdefault(f"bend heard {quarters}", []).append(cents)
        for _, width, rate in own.vibrato:
            values.setdefault("vibrato width", []).append(width)
            values.setdefault("vibrato rate", []).append(rate)
        for name, value in (("placement", own.placement_ms), ("swing", own.swing)):
            if value is not None:
                values.setdefault(name, []).append(value)
                values.setdefault(f"{name} {band_of(phrase.tempo_bpm)}", []).append(value)
    return {name: tuple(found) for name, found in values.items()}


def _measure(name: str, ordered: Sequence[float]) -> Measure:
    quarter = len(ordered) // 4
    return Measure(name, len(ordered), median(ordered), ordered[quarter], ordered[-1 - quarter])
