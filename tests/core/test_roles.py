"""Roles, goals and marks: what docs/music.md states, case by case, and what holds of any line."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.notation import cases, written
from strategies import ground_on
from usagi.core.degrees.lines import Mark, Role
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.document.elements import ChangesChoice, Note, OtherChord, Phrase, ReadingChoice, RoleChoice
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.meter.ticks import EIGHTH
from usagi.core.phrases.analysis import analyse

LETTERS = {
    "n": Role.ANTICIPATION, "c": Role.CHORD_TONE, "e": Role.ENCLOSURE, "p": Role.PASSING, "a": Role.APPROACH,
    "d": Role.PEDAL, "b": Role.BLUE, "t": Role.TENSION, "s": Role.SCALE, "o": Role.OUTSIDE, ".": None,
}  # fmt: skip


def roles(parts: list[str]) -> str:
    """The roles of a line in the notation of the table."""
    solo, ground = written(parts)
    letters = {role: letter for letter, role in LETTERS.items()}
    found = []
    for reading in sorted(read_notes(solo, ground), key=lambda reading: int(reading.id[1:])):
        line = reading.lines[0]
        word = letters[line.role] + (f">{line.goal}" if line.goal else "")
        word += "+b" if line.blue else ""
        word += "+o" if Mark.ORNAMENT in line.marks else ""
        found.append(word + ("+f" if Mark.FILLER in line.marks else ""))
    return " ".join(found)


@pytest.mark.parametrize("case", cases("roles.txt"), ids=" : ".join)
def test_what_the_conventions_state_of_roles(case: list[str]) -> None:
    assert roles(case[:-1]) == case[-1]


ROOTS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
CHORDS = ["m7", "7", "maj7", "m7b5", "7(b9)", "6", ""]


def chart(by: int, key: int) -> str:
    bars = [f"{ROOTS[(root + by) % 12]}{kind}" for root, kind in zip((2, 7, 0, 11, 4, 9, 5), CHORDS, strict=True)]
    return f"| {{key {ROOTS[(key + by) % 12]} major}} " + " | ".join(bars) + " |"


def lines(moves: list[tuple[int, int, int]]) -> tuple[Note, ...]:
    """Notes one after the other: string, fret, length in eighths."""
    notes, tick = [], 0
    for i, (string, fret, length) in enumerate(moves):
        notes.append(Note(id=f"n{i}", tick=tick, ticks=length * EIGHTH, string=string, fret=fret * 100))
        tick += length * EIGHTH
    return tuple(notes)


def said(solo: Solo, ground: Ground) -> list[tuple[object, ...]]:
    return [
        (r.id, r.lines[0].role, r.lines[0].goal, r.lines[0].blue, r.lines[0].says) for r in read_notes(solo, ground)
    ]


MOVES = st.lists(
    st.tuples(st.integers(1, 6), st.integers(0, 10), st.sampled_from((1, 1, 1, 2, 3))), min_size=1, max_size=30
)


@given(moves=MOVES, by=st.integers(1, 11))
def test_roles_and_readings_stay_when_chart_and_notes_move_together(moves: list[tuple[int, int, int]], by: int) -> None:
    settings = SoloSettings(last_bar=8)
    notes = lines(moves)
    moved = Solo(settings=settings.model_copy(update={"capo": by}), notes=notes)
    plain, ground, other = Solo(settings=settings, notes=notes), ground_on(chart(0, 0)), ground_on(chart(by, 0))
    assert said(plain, ground) == said(moved, other)
    before, after = analyse(plain, ground), analyse(moved, other)
    for one, two in zip(before.phrases, after.phrases, strict=True):
        assert one.motion == two.motion and one.strong == two.strong and one.pulses == two.pulses
        covered = [(r.kind, r.type, r.covers, r.left_out, r.degrees) for r in one.readings if r.kind != "grip"]
        assert covered == [(r.kind, r.type, r.covers, r.left_out, r.degrees) for r in two.readings if r.kind != "grip"]


@given(moves=MOVES)
def test_roles_do_not_depend_on_strings(moves: list[tuple[int, int, int]]) -> None:
    """The same pitches on the next string down, where they lie on it."""
    notes = lines(moves)
    open_midi = SoloSettings().tuning
    elsewhere = []
    for note in notes:
        fret = (note.fret or 0) + 100 * (open_midi[note.string - 1] - open_midi[min(5, note.string)])
        elsewhere.append(note.model_copy(update={"string": min(6, note.string + 1), "fret": fret}))
    settings = SoloSettings(last_bar=8, last_fret=36)
    assert said(Solo(settings=settings, notes=notes), ground_on(chart(0, 0))) == said(
        Solo(settings=settings, notes=tuple(elsewhere)), ground_on(chart(0, 0))
    )


@given(moves=MOVES, cut=st.integers(1, 29))
def test_what_stands_behind_a_cut_at_a_phrase_keeps_its_roles(moves: list[tuple[int, int, int]], cut: int) -> None:
    notes = lines(moves)
    at = min(cut, len(notes) - 1)
    border = notes[at].tick
    if not border:
        return
    last = notes[-1].end
    phrases = (Phrase(id="a", start=0, end=border), Phrase(id="b", start=border, end=last))
    whole = Solo(settings=SoloSettings(last_bar=8), notes=notes, phrases=phrases)
    behind = whole.model_copy(update={"notes": notes[at:], "phrases": phrases[1:]})
    ground = ground_on(chart(0, 0))
    assert said(whole, ground)[at:] == said(behind, ground)
    read = [one for one in analyse(whole, ground).phrases if one.id == "b"]
    assert [one.readings for one in read] == [one.readings for one in analyse(behind, ground).phrases]


@given(moves=MOVES, seed=st.integers(0, 9))
def test_roles_that_are_read_on_from_an_edit_are_those_read_afresh(
    moves: list[tuple[int, int, int]], seed: int
) -> None:
    notes = lines(moves)
    ground = ground_on(chart(0, 0))
    solo = Solo(settings=SoloSettings(last_bar=8), notes=notes)
    before = analyse(solo, ground)
    i = seed % len(notes)
    other = notes[i].model_copy(update={"fret": ((notes[i].fret or 0) + 100 * (1 + seed)) % 1_200})
    edited = solo.model_copy(update={"notes": (*notes[:i], other, *notes[i + 1 :])})
    now, afresh = analyse(edited, ground, before=before), analyse(edited, ground)
    assert now.readings.notes == afresh.readings.notes
    assert now.relations == afresh.relations and now.phrases == afresh.phrases


def test_enharmonic_charts_are_read_alike() -> None:
    sharp, flat = ground_on("| C#7 | F#maj7 |"), ground_on("| Db7 | Gbmaj7 |")
    notes = lines([(3, 6, 1), (3, 5, 1), (2, 6, 1), (2, 7, 1), (1, 4, 1), (1, 6, 3), (2, 7, 2), (2, 6, 2)])
    solo = Solo(settings=SoloSettings(last_bar=4), notes=notes)
    assert said(solo, sharp) == said(solo, flat)


def test_a_role_that_the_teacher_gives_is_shown_and_the_computed_one_stays_beside() -> None:
    solo, ground = written(["C", "F E"])
    given_role = RoleChoice(id="r", note="n0", role="tension", goal="3")
    first, _ = read_notes(solo.model_copy(update={"choices": (given_role,)}), ground)
    assert (first.lines[0].role, first.lines[0].goal) == (Role.TENSION, "3")
    assert first.overruled is not None and first.overruled.role is Role.APPROACH


def test_the_scale_that_is_picked_decides_what_is_outside() -> None:
    solo, ground = written(["{key C major} C", "C F# C"])
    phrased = solo.model_copy(update={"phrases": (Phrase(id="p", start=0, end=40_320),)})
    picked = ReadingChoice(id="c", phrase="p", reading="scale C lydian")
    roles_of = [
        read_notes(one, ground)[1].lines[0].role for one in (phrased, phrased.model_copy(update={"choices": (picked,)}))
    ]
    assert roles_of == [Role.OUTSIDE, Role.SCALE]


def test_roles_follow_the_line_that_is_shown() -> None:
    solo, ground = written(["C", "C F# C"])
    laid = ChangesChoice(
        id="l", start=0, end=40_320, name="late", chords=(OtherChord(tick=0, symbol="D7"),), shown=True
    )
    lines_of = read_notes(solo.model_copy(update={"choices": (laid,)}), ground)[1].lines
    assert [(one.line, one.role) for one in lines_of[:2]] == [("chart", Role.OUTSIDE), ("late", Role.CHORD_TONE)]


def test_a_chromatic_approach_is_spelled_from_its_goal() -> None:
    solo, ground = written(["{key C major} C", "Gb G Ab G C# D# E"])
    assert [reading.name for reading in read_notes(solo, ground)][:4] == ["F#4", "G4", "Ab4", "G4"]
    assert [reading.name for reading in read_notes(solo, ground)][5] == "D#5"


@given(moves=MOVES, cut=st.integers(1, 29))
def test_a_phrase_that_is_cut_is_read_on_as_it_is_read_afresh(moves: list[tuple[int, int, int]], cut: int) -> None:
    notes = lines(moves)
    border = notes[min(cut, len(notes) - 1)].tick
    if not border:
        return
    ground = ground_on(chart(0, 0))
    solo = Solo(settings=SoloSettings(last_bar=8), notes=notes)
    before = analyse(solo, ground)
    halves = (Phrase(id="a", start=0, end=border), Phrase(id="b", start=border, end=notes[-1].end))
    parted = solo.model_copy(update={"phrases": halves, "choices": (RoleChoice(id="r", note="n0", role="outside"),)})
    now, afresh = analyse(parted, ground, before=before), analyse(parted, ground)
    assert now.readings.notes == afresh.readings.notes and now.phrases == afresh.phrases
