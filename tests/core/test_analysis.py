"""Relations, strong beats, tension, motion, motifs and other changes: what docs/music.md states, case by case."""

import re

import pytest

from core.notation import cases, written
from strategies import ground_on
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.meter.ticks import EIGHTH
from usagi.core.phrases.analysis import Analysis, analyse
from usagi.core.phrases.suggesting import suggest_phrases
from usagi.core.readings.motion import chord_motion
from usagi.core.readings.reading import Reading


def rows(kind: str) -> list[list[str]]:
    return [row[1:] for row in cases("spans.txt") if row[0] == kind]


def read(parts: list[str]) -> Analysis:
    return analyse(*written(parts))


def numbers(ids: tuple[str, ...]) -> str:
    return ",".join(one.removeprefix("n") for one in ids)


@pytest.mark.parametrize("row", rows("rel"), ids=" : ".join)
def test_relations(row: list[str]) -> None:
    found = [
        f"{one.kind} {numbers(one.start)}>{numbers(one.end)} " + (one.change or " ".join(one.degrees))
        for one in read(row[:-1]).relations
    ]
    expected = [] if row[-1] == "-" else [row[-1]]
    assert found == expected


@pytest.mark.parametrize("row", rows("motif"), ids=" : ".join)
def test_motifs(row: list[str]) -> None:
    found = [
        f"{numbers(one.start)}>{numbers(one.end)} {one.change}"
        for one in read(row[:-1]).relations
        if one.kind == "motif"
    ]
    assert found == [row[-1]]


@pytest.mark.parametrize("row", rows("beats"), ids=" : ".join)
def test_strong_beats_and_approaches_off_the_pulse(row: list[str]) -> None:
    (phrase,) = read(row[:-1]).phrases
    assert [phrase.strong.hit, phrase.strong.of, phrase.weak.hit, phrase.weak.of] == [int(n) for n in row[-1].split()]


@pytest.mark.parametrize("row", rows("tension"), ids=" : ".join)
def test_tension_of_each_pulse_and_where_it_is_released(row: list[str]) -> None:
    (phrase,) = read(row[:-2]).phrases
    assert [pulse.pull for pulse in phrase.pulses] == [float(n) for n in row[-2].split()]
    assert [i for i, pulse in enumerate(phrase.pulses) if pulse.release] == [
        int(n) for n in re.findall(r"\d+", row[-1])
    ]


@pytest.mark.parametrize("row", rows("motion"), ids=" : ".join)
def test_chord_motion(row: list[str]) -> None:
    facts = "".join(re.findall(r"\{[^}]*\}", row[0]))
    chords = re.sub(r"\{[^}]*\}", "", row[0]).split()
    timeline = ground_on("| " + facts + " " + " | ".join(chords) + " |").timeline
    assert chord_motion(timeline.changes, timeline) == row[1]


@pytest.mark.parametrize("row", rows("offer"), ids=" : ".join)
def test_other_changes_are_offered_where_most_notes_fit_them_better(row: list[str]) -> None:
    found = [f"{one.symbol} {one.fit} {one.fit_chart}" for one in read(row[:-1]).offered]
    assert found == ([] if row[-1] == "-" else [row[-1]])


def reading_rows() -> list[list[str]]:
    return cases("readings.txt")


def told(kind: str, found: Reading) -> str:
    if kind != "pattern":
        return f"{found.root} {found.type} {found.covers} {found.of} {found.pair}".strip()
    by = f"interval {found.interval}" if found.interval is not None else f"steps {found.scale_steps}"
    return f"{found.type} {found.figure_length} {by}"


@pytest.mark.parametrize("row", reading_rows(), ids=" : ".join)
def test_the_best_reading_of_each_kind(row: list[str]) -> None:
    (phrase,) = read(row[1:-1]).phrases
    best = next((one for one in phrase.readings if one.kind == row[0]), None)
    assert ("-" if best is None else told(row[0], best)) == row[-1]


FRETS = [
    ([(5, 7), (4, 7), (3, 6), (2, 8), (1, 7)], "| {key E minor} B7 |", ""),
    ([(6, 5), (5, 7), (4, 5), (3, 6), (2, 5), (1, 5)], "| {key D major} A7 |", "A 7 E 5"),
    ([(5, 7), (4, 9), (3, 7), (2, 8), (1, 7)], "| {key E minor} Em7 |", "E m7 A 7"),
    ([(4, 5), (3, 7), (2, 8), (1, 7)], "| {key G major} G |", "G major D 5"),
    ([(5, 8), (4, 7), (3, 5), (2, 6), (1, 5)], "| {key F major} F |", "F major C 5"),
    ([(6, 8), (5, 7), (4, 5), (3, 5), (2, 5), (1, 8)], "| {key C major} C |", "C major G 5"),
    ([(3, 5), (2, 5), (1, 3)], "| {key C major} C |", "C major A 3"),
]


@pytest.mark.parametrize(("places", "chart", "expected"), FRETS)
def test_the_grip_under_the_hand(places: list[tuple[int, int]], chart: str, expected: str) -> None:
    notes = tuple(
        Note(id=f"n{i}", tick=i * EIGHTH, ticks=EIGHTH, string=string, fret=fret * 100)
        for i, (string, fret) in enumerate(places)
    )
    (phrase,) = analyse(Solo(settings=SoloSettings(last_bar=2), notes=notes), ground_on(chart)).phrases
    grips = [f"{one.root} {one.type} {one.family} {one.fret}" for one in phrase.readings if one.kind == "grip"]
    assert (expected in grips[:1]) if expected else "B 7 A 7" not in grips


def test_the_same_frets_on_every_string_are_a_pattern() -> None:
    notes = tuple(
        Note(id=f"n{i}", tick=i * EIGHTH, ticks=EIGHTH, string=6 - i // 3, fret=(2, 3, 5)[i % 3] * 100)
        for i in range(12)
    )
    (phrase,) = analyse(Solo(settings=SoloSettings(last_bar=4), notes=notes), ground_on("| Am7 | % |")).phrases
    best = next(one for one in phrase.readings if one.kind == "pattern")
    assert (best.type, best.figure_length, best.cell, best.covers) == ("per-string cell", 3, (2, 3, 5), 12)


def suggested(parts: list[str]) -> list[tuple[str, str, int]]:
    """Name, first note and number of notes of each phrase that is suggested."""
    solo, ground = written(parts)
    ids = (f"p{i}" for i in range(99))
    found = suggest_phrases(solo, ground, lambda: next(ids))
    inside = [[note.id for note in solo.notes if one.start <= note.tick < one.end] for one in found]
    assert sorted(note for own in inside for note in own) == sorted(note.id for note in solo.notes)
    return [(one.name, ids[0], len(ids)) for one, ids in zip(found, inside, strict=True)]


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        (["C", "C E G -/q G E C"], [("a", "n0", 3), ("b", "n3", 3)]),
        (["C", "C E G -/e G E C"], [("a", "n0", 6)]),
        (["C", "C E G/h G E C"], [("a", "n0", 3), ("b", "n3", 3)]),
        (["C", "C E -/q G E C"], [("a", "n0", 5)]),
        (["C", " ".join(["C E G E"] * 4 + ["-/e"] + ["C E G E"] * 6)], [("a", "n0", 16), ("b", "n16", 24)]),
    ],
)
def test_phrases_are_suggested_at_rests_long_notes_and_before_they_grow_too_long(
    parts: list[str], expected: list[tuple[str, str, int]]
) -> None:
    assert suggested(parts) == expected
