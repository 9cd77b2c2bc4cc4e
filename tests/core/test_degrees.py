"""Degrees, names and anticipation over chords."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import QUARTER, chord_symbols, documents, sequential_ids
from usagi.core.chart.text import read_chart
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.naming import name_pitch
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import AnticipationChoice, ChangesChoice, Note, OtherChord
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.pitch.keys import parse_key

EIGHTH = QUARTER // 2

# Chord, style, blues, and the twelve degrees from the root upwards.
DEGREES = [
    ("C", Style.DEFAULT, False, "1 b2 2 b3 3 4 b5 5 b6 6 b7 7"),
    ("C7", Style.DEFAULT, False, "1 b9 9 b3 3 11 #11 5 b13 13 b7 7"),
    ("C7", Style.DEFAULT, True, "1 b9 9 b3 3 11 b5 5 b13 13 b7 7"),
    ("C7", Style.EXTENDED, False, "1 b9 9 #9 3 11 #11 5 b13 13 b7 7"),
    ("C7", Style.PLAIN, False, "1 b2 2 b3 3 4 b5 5 b6 6 b7 7"),
    ("C7(b9)", Style.DEFAULT, False, "1 b9 9 #9 3 11 #11 5 b13 13 b7 7"),
    ("C7alt", Style.DEFAULT, False, "1 b9 9 #9 3 11 b5 5 #5 13 b7 7"),
    ("C+", Style.DEFAULT, False, "1 b2 2 b3 3 4 b5 5 #5 6 b7 7"),
    ("C+", Style.PLAIN, False, "1 b2 2 b3 3 4 b5 5 #5 6 b7 7"),
    ("Cm7", Style.DEFAULT, False, "1 b9 9 b3 3 11 b5 5 b13 13 b7 7"),
    ("Cm6", Style.DEFAULT, False, "1 b9 9 b3 3 11 b5 5 b6 6 b7 7"),
    ("C6", Style.DEFAULT, False, "1 b9 9 b3 3 11 #11 5 b13 6 b7 7"),
    ("Cdim7", Style.DEFAULT, False, "1 b9 9 b3 3 11 b5 5 b13 bb7 b7 7"),
    ("Csus4", Style.DEFAULT, False, "1 b2 2 b3 3 4 b5 5 b6 6 b7 7"),
    ("Csus2", Style.EXTENDED, False, "1 b9 2 b3 3 4 #11 5 b13 6 b7 7"),
    ("C(add9)", Style.DEFAULT, False, "1 b2 9 b3 3 4 b5 5 b6 6 b7 7"),
    ("C(#11)", Style.DEFAULT, False, "1 b2 2 b3 3 4 #11 5 b6 6 b7 7"),
    ("D/C", Style.DEFAULT, False, "1 b9 9 b3 3 11 #11 5 b13 13 b7 7"),
    ("C/F#", Style.DEFAULT, False, "1 b9 9 #9 3 11 b5 5 b13 13 b7 7"),
    ("Eb/F", Style.DEFAULT, False, "1 b9 9 b3 3 4 #11 5 b13 13 b7 7"),
]


@pytest.mark.parametrize(("symbol", "style", "blues", "twelve"), DEGREES)
def test_the_twelve_degrees_over_a_chord(symbol: str, style: Style, blues: bool, twelve: str) -> None:
    heard = hear(parse_chord(symbol))
    assert heard is not None
    assert [degree(heard, slot, style=style, blues=blues) for slot in range(12)] == twelve.split()


# Pitch class, chord, key, name: docs/music.md, Names.
NAMES = [
    (7, "E7#9", None, "G"),
    (3, "B7", "E minor", "D#"),
    (10, "C7", "E minor", "Bb"),
    (0, "E+", None, "B#"),
    (6, "Cm7", "Eb major", "Gb"),
    (1, "A7", None, "C#"),
    (8, None, "Eb major", "Ab"),
    (8, None, None, "G#"),
    (3, "G7alt", "C minor", "Eb"),
    (3, "G7alt", None, "Eb"),
    (9, "Ab7b9", None, "A"),
    (7, "B7#5", None, "F##"),
]


@pytest.mark.parametrize(("pitch_class", "symbol", "key", "name"), NAMES)
def test_a_pitch_takes_the_letter_of_its_degree_or_its_key(
    pitch_class: int, symbol: str | None, key: str | None, name: str
) -> None:
    heard = hear(parse_chord(symbol)) if symbol else None
    assert str(name_pitch(pitch_class, heard, parse_key(key) if key else None)) == name


@given(chord_symbols)
def test_every_name_sounds_its_pitch(symbol: str) -> None:
    heard = hear(parse_chord(symbol))
    assert all(name_pitch(pc, heard, None).pitch_class == pc for pc in range(12))


def ground(chart: str, bars: int = 4) -> Ground:
    read = read_chart(chart, new_id=sequential_ids("c"))
    return Ground(
        settings=GroundSettings(bars=bars, form=read.chart.form, choruses=read.chart.choruses),
        sections=read.chart.sections,
        anchors=(Anchor(id="a", tick=0, second=0.0), Anchor(id="b", tick=QUARTER, second=0.5)),
    )


def line(*places: tuple[int, int, int, int], **fields: object) -> tuple[Note, ...]:
    """Notes from (tick, ticks, string, fret)."""
    return tuple(
        Note.model_validate({"id": f"n{i}", "tick": t, "ticks": d, "string": s, "fret": f * 100} | fields)
        for i, (t, d, s, f) in enumerate(places)
    )


def shown(notes: tuple[Note, ...], chart: str, **fields: object) -> list[tuple[str | None, str | None, str | None]]:
    """(heard on, degree, other degree) of every note."""
    solo = Solo.model_validate({"settings": SoloSettings(last_bar=4), "notes": notes} | fields)
    found = read_notes(solo, ground(chart))
    return [(r.lines[0].heard_on, r.degree, r.other_degree) for r in found]


BAR = 4 * QUARTER


def test_a_note_that_sounds_longer_after_the_change_is_heard_against_the_next_chord() -> None:
    assert shown(line((BAR - EIGHTH, QUARTER, 2, 5)), "| Em7 | A7 |") == [("A7", "5", "1")]


def test_a_note_that_ends_sooner_and_fits_stays_with_its_chord() -> None:
    assert shown(line((BAR - EIGHTH, EIGHTH, 2, 5)), "| Em7 | A7 |") == [("Em7", "1", None)]


def test_a_note_that_only_fits_the_next_chord_leads_over() -> None:
    assert shown(line((BAR - EIGHTH, EIGHTH, 3, 6)), "| Em7 | A7 |") == [("A7", "3", "13")]


def test_a_later_note_that_does_not_fit_the_next_chord_keeps_both_here() -> None:
    places = ((BAR - EIGHTH, EIGHTH // 2, 3, 6), (BAR - EIGHTH // 2, EIGHTH // 2, 3, 8))
    assert [row[0] for row in shown(line(*places), "| Em7 | A7 |")] == ["Em7", "Em7"]


def test_more_than_the_window_before_a_change_nothing_is_anticipated() -> None:
    assert shown(line((BAR - EIGHTH - 1, BAR, 2, 5)), "| Em7 | A7 |")[0][0] == "Em7"


def test_the_window_is_never_more_than_half_a_pulse() -> None:
    notes = line((3 * EIGHTH - EIGHTH, BAR, 2, 5))  # an eighth before bar 2 of 3/8, which taps eighths
    assert shown(notes, "| {3/8} Em7 | A7 |")[0][0] == "Em7"


def test_a_change_to_the_same_harmony_is_no_change() -> None:
    assert shown(line((BAR - EIGHTH, QUARTER, 2, 5)), "| Em7 | Em9 |") == [("Em7", "1", None)]


def test_the_teacher_overrules_an_anticipation_both_ways() -> None:
    early, late = line((BAR - EIGHTH, QUARTER, 2, 5)), line((BAR - EIGHTH, EIGHTH, 2, 5))
    here = (AnticipationChoice(id="x", note="n0", heard="here"),)
    following = (AnticipationChoice(id="x", note="n0", heard="next"),)
    assert shown(early, "| Em7 | A7 |", choices=here) == [("Em7", "1", None)]
    assert shown(late, "| Em7 | A7 |", choices=following) == [("A7", "5", "1")]


def test_against_no_chord_there_is_only_a_key_degree_and_nothing_leads_in_or_out() -> None:
    notes = line((0, QUARTER, 2, 5), (BAR - EIGHTH, QUARTER, 2, 5))
    found = read_notes(Solo(settings=SoloSettings(last_bar=4), notes=notes), ground("| {key E minor} N.C. | A7 |"))
    assert [(r.degree, r.key_degree) for r in found] == [(None, "1"), (None, "1")]


def test_after_the_last_written_bar_there_is_no_chord_yet() -> None:
    found = read_notes(
        Solo(settings=SoloSettings(last_bar=4), notes=line((BAR, QUARTER, 2, 5))), ground("| {key E minor} Em7 |")
    )
    assert (found[0].lines[0].chord, found[0].degree, found[0].key_degree) == (None, None, "1")


def test_a_bend_has_a_degree_at_its_start_and_its_target_against_the_chord_that_sounds_then() -> None:
    notes = line((BAR - QUARTER, 2 * QUARTER, 2, 10), course=((0, 0), (QUARTER, 4)))
    (found,) = read_notes(Solo(settings=SoloSettings(last_bar=4), notes=notes), ground("| Em7 | A7 |"))
    assert [(s.chord, s.degree, s.midi) for s in found.lines[0].stages] == [("Em7", "11", 69), ("A7", "9", 71)]
    assert (found.name, found.midi, found.degree) == ("A4", 69, "9")


def test_a_quarter_tone_is_the_slot_below_with_a_plus_and_is_blue() -> None:
    notes = line((0, QUARTER, 1, 8), course=((0, 0), (EIGHTH, 1)))
    (found,) = read_notes(Solo(settings=SoloSettings(last_bar=4), notes=notes), ground("| A7 |"))
    assert [s.degree for s in found.lines[0].stages] == ["b3", "b3+"]
    assert found.lines[0].blue


def test_a_held_note_takes_a_new_degree_under_a_new_chord() -> None:
    (found,) = read_notes(
        Solo(settings=SoloSettings(last_bar=4), notes=line((0, 2 * BAR, 2, 5))), ground("| Em7 | A7 |")
    )
    assert [(held.chord, held.degree) for held in found.held] == [("A7", "5")]


def test_dead_notes_have_no_degree_and_ghost_notes_have() -> None:
    dead, ghost = line((0, QUARTER, 2, 5), dead=True), line((0, QUARTER, 2, 5), ghost=True)
    assert shown(dead, "| Em7 |")[0][1] is None
    assert shown(ghost, "| Em7 |")[0][1] == "1"


def test_other_changes_over_a_span_are_shown_first_and_the_chart_stays() -> None:
    layer = ChangesChoice(id="x", start=0, end=BAR, name="tritone", chords=(OtherChord(tick=0, symbol="Bb7"),))
    solo = Solo(settings=SoloSettings(last_bar=4), notes=line((0, QUARTER, 2, 5)), choices=(layer,))
    (found,) = read_notes(solo, ground("| {key A major} E7 |"))
    assert [(one.line, one.shown, one.degree) for one in found.lines] == [
        ("chart", False, "1"),
        ("tritone", True, "#11"),
        ("key", False, "5"),
    ]


def test_fixed_do_syllables_are_the_readers_choice() -> None:
    solo = Solo(settings=SoloSettings(last_bar=4), notes=line((0, QUARTER, 3, 3)))
    (found,) = read_notes(solo, ground("| Gm |"), Reader(syllables=True))
    assert found.name == "tib3"


ROOTS = ["C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"]
CHORDS: list[tuple[int, str, int | None]] = [
    (9, "m7", None),
    (2, "7", None),
    (10, "", 0),
    (4, "7(b9)", None),
    (0, "m7b5", None),
    (7, "maj7", 11),
    (5, "6", None),
]


def chart_moved(by: int) -> str:
    """A chart in G, with a foreign bass and an inversion in it, so many semitones higher."""
    bars = [
        f"{ROOTS[(root + by) % 12]}{quality}" + ("" if bass is None else f"/{ROOTS[(bass + by) % 12]}")
        for root, quality, bass in CHORDS
    ]
    return f"| {{key {ROOTS[(7 + by) % 12]} major}} " + " | ".join(bars) + " |"


@given(
    frets=st.lists(st.tuples(st.integers(1, 6), st.integers(0, 11)), min_size=1, max_size=28),
    by=st.integers(1, 11),
)
def test_degrees_stay_when_capo_chart_and_key_move_together(frets: list[tuple[int, int]], by: int) -> None:
    notes = line(*((i * QUARTER, QUARTER, string, fret) for i, (string, fret) in enumerate(frets)))
    settings = SoloSettings(last_bar=7)
    before = read_notes(Solo(settings=settings, notes=notes), ground(chart_moved(0)))
    raised = Solo(settings=settings.model_copy(update={"capo": by}), notes=notes)
    after = read_notes(raised, ground(chart_moved(by)))
    assert [(r.degree, r.key_degree, r.other_degree) for r in after] == [
        (r.degree, r.key_degree, r.other_degree) for r in before
    ]
    assert [(b.midi or 0) - (a.midi or 0) for a, b in zip(before, after, strict=True)] == [by] * len(frets)


@given(documents())
def test_degrees_stay_an_octave_higher(document: SoloDocument) -> None:
    """A capo at 12 sounds everything an octave higher: names of letters stay, and so do all degrees."""
    moved = document.solo.model_copy(update={"settings": document.solo.settings.model_copy(update={"capo": 12})})
    before, after = read_notes(document.solo, document.ground), read_notes(moved, document.ground)
    assert [(r.degree, r.key_degree) for r in before] == [(r.degree, r.key_degree) for r in after]
    assert all((a.midi or 0) - (b.midi or 0) in (0, 12) for a, b in zip(after, before, strict=True))
