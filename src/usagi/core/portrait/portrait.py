"""A player's figures over some solos: how often each answer is given, of how many times it could have been.

Counting does not depend on the order of solos; the bins of a group add up to what the group counts. A figure of fewer
than twenty is in light ink and is no habit.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Final

from usagi.core.portrait.tallies import PHRASE_GROUPS, Group, PhraseTally, Tally

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
    seconds: float
    groups: Mapping[str, tuple[Figure, ...]]
    measures: tuple[Measure, ...]


def portrait(tallies: Iterable[Tally]) -> Portrait:
    """Count over all solos that count."""
    counted = [one for one in tallies if one.counts]
    counts: dict[str, dict[str, int]] = {}
    times: dict[str, dict[str, float]] = {}
    for one in counted:
        for phrase in one.phrases:
            for name, own in phrase.bins.items():
                group, _, answer = name.partition(":")
                counts.setdefault(group, {}).setdefault(answer, 0)
                counts[group][answer] += times_counted(group, own)
                times.setdefault(group, {}).setdefault(answer, 0.0)
                times[group][answer] += sum(one.seconds[note] for note in own)
    notes = sum(len(phrase.notes) for one in counted for phrase in one.phrases)
    groups = {}
    for group, answers in counts.items():
        of = notes if group in PER_NOTE else sum(answers.values())
        seconds = sum(times[group].values())
        groups[group] = tuple(
            Figure(group, answer, count, of, times[group][answer] / seconds if seconds else 0.0)
            for answer, count in sorted(answers.items(), key=lambda one: (-one[1], one[0]))
        )
    return Portrait(
        solos=len(counted),
        phrases=sum(len(one.phrases) for one in counted),
        notes=notes,
        unsure=sum(len(one.unsure) for one in counted),
        seconds=sum(sum(one.seconds) for one in counted),
        groups=groups,
        measures=tuple(_measures([phrase for one in counted for phrase in one.phrases])),
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


def _measures(phrases: Sequence[PhraseTally]) -> Iterable[Measure]:
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
    for name, found in sorted(values.items()):
        ordered = sorted(found)
        quarter = len(ordered) // 4
        yield Measure(name, len(ordered), median(ordered), ordered[quarter], ordered[-1 - quarter])
