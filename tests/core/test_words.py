"""The sentence of a note, and the lists that must stay in step with the techniques."""

from __future__ import annotations

from typing import Any, get_args

import pytest

from strategies import QUARTER, sequential_ids
from usagi.core.chart.text import read_chart
from usagi.core.degrees.spoken import Reader
from usagi.core.degrees.words import course_words, steps_words, technique_words
from usagi.core.document import techniques
from usagi.core.document.elements import Note, Question
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import Attack, Ending, steps_text
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.tab_signs import cell
from usagi.core.formats.text_tab import write_tab
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.clock import clock_text
from usagi.core.meter.counting import School
from usagi.core.meter.ticks import LENGTHS, length_words
from usagi.core.view.notes import view_notes
from usagi.core.view.strip import view_strip
from usagi.core.view.tables import view_tables

EIGHTH = QUARTER // 2


def note(**fields: object) -> Note:
    return Note.model_validate({"id": "n", "tick": 0, "ticks": QUARTER, "string": 2, "fret": 1000} | fields)


# Fields of a note, the words of its techniques, its sign in tablature.
TECHNIQUES: list[tuple[dict[str, Any], list[str], str]] = [
    ({}, [], "10"),
    ({"attack": {"kind": "hammer-on"}}, ["hammered on"], "h10"),
    ({"attack": {"kind": "pull-off"}}, ["pulled off"], "p10"),
    ({"attack": {"kind": "slide"}}, ["slid into"], "/10"),
    ({"attack": {"kind": "tapped"}}, ["tapped"], "t10"),
    ({"attack": {"kind": "slide-in", "start": "far below", "ticks": 1000}}, ["slid in from far below"], "//10"),
    ({"attack": {"kind": "slide-in", "start": 1200, "ticks": 1000}}, ["slid in from fret 12"], "12\\\\10"),
    ({"attack": {"kind": "harmonic", "how": "natural"}, "fret": 1200}, ["natural harmonic"], "<12>"),
    ({"attack": {"kind": "harmonic", "how": "pinched", "partial": 3}}, ["pinched harmonic"], "<10p3>"),
    ({"course": [[0, 0], [EIGHTH, 4]]}, ["bent up a whole step"], "10b1"),
    ({"course": [[0, 0], [EIGHTH, 6]]}, ["bent up 1½ steps"], "10b1½"),
    ({"course": [[0, 0], [EIGHTH, 1]]}, ["curled a quarter"], "10b¼"),
    ({"course": [[0, 0], [2000, 4], [6000, 4], [QUARTER, 0]]}, ["bent up a whole step", "released"], "10b1r"),
    ({"course": [[0, 4], [EIGHTH, 4], [QUARTER, 0]]}, ["bent beforehand a whole step", "released"], "10B1r"),
    (
        {"course": [[0, 0], [2000, 2], [4000, 2], [6000, 4]]},
        ["bent up a half step", "bent on to a whole step"],
        "10b½b1",
    ),
    (
        {"course": [[0, 0], [2000, 4], [4000, 4], [6000, 2]]},
        ["bent up a whole step", "released to a half step"],
        "10b1r½",
    ),
    ({"course": [[0, 0], [2000, -4], [4000, 0]]}, ["dipped a whole step with the bar", "brought back"], "10v1^"),
    (
        {"course": [[0, 0], [EIGHTH, 4]], "ending": {"kind": "choked"}},
        ["bent up a whole step", "choked at the top"],
        "10b1c",
    ),
    ({"vibrato": {"width_cents": 40}}, ["vibrato"], "10~"),
    ({"vibrato": {"width_cents": 80}}, ["wide vibrato"], "10~"),
    ({"vibrato": {"width_cents": 20, "by": "bar"}}, ["narrow vibrato with the bar"], "10w"),
    ({"trill": {"fret": 1200}}, ["trilled to fret 12"], "10tr12"),
    ({"tremolo": {"rate_hz": 9}}, ["tremolo picked"], "10z"),
    ({"rake": {"strings": [4, 3]}}, ["raked into"], "k43:10"),
    ({"ending": {"kind": "slide-off", "to": "far down", "ticks": 1000}}, ["slid off far down"], "10\\"),
    ({"ending": {"kind": "slide-off", "to": 1200, "ticks": 1000}}, ["slid off to fret 12"], "10>12"),
    ({"ending": {"kind": "staccato"}}, ["short"], "10."),
    ({"ending": {"kind": "choked"}}, ["choked"], "10c"),
    ({"ending": {"kind": "let ring"}}, ["left to ring"], "10="),
    ({"dead": True}, ["dead"], "x"),
    ({"dead": True, "fret": None}, ["dead"], "x"),
    ({"ghost": True}, ["ghosted"], "(10)"),
    ({"accent": True, "palm_mute": True}, ["accented", "palm muted"], "!10m"),
    ({"sure": "unsure"}, [], "10?"),
    ({"sure": "unknown", "fret": None}, [], "?"),
]


@pytest.mark.parametrize(("fields", "words", "sign"), TECHNIQUES, ids=[str(fields)[:50] for fields, _, _ in TECHNIQUES])
def test_a_technique_has_words_and_a_sign(fields: dict[str, object], words: list[str], sign: str) -> None:
    written = note(**fields)
    assert technique_words(written) == words
    assert cell(written, None) == sign


def test_no_technique_is_without_a_row_in_this_table() -> None:
    kinds = {
        get_args(one.model_fields["kind"].annotation)[0]
        for union in (Attack, Ending)
        for one in get_args(get_args(union)[0])
    }
    seen = {
        fields.get(place, {}).get("kind", "picked") for fields, _, _ in TECHNIQUES for place in ("attack", "ending")
    }
    assert kinds <= seen
    shaping = {"course", "vibrato", "trill", "dead", "ghost", "accent", "palm_mute", "tremolo", "rake", "sure"}
    assert shaping <= {name for fields, _, _ in TECHNIQUES for name in fields}


def test_sizes_of_bends_in_figures_and_words() -> None:
    assert [steps_text(q) for q in (1, 2, 3, 4, 6, 8, 12)] == ["¼", "½", "¾", "1", "1½", "2", "3"]
    assert [steps_words(q) for q in (1, 2, 4, 8)] == ["a quarter step", "a half step", "a whole step", "2 steps"]
    assert course_words(note()) == []


@pytest.mark.parametrize("length", LENGTHS, ids=lambda one: one.name)
def test_every_length_has_words_plain_dotted_and_in_a_triplet(length) -> None:
    assert length_words(length.ticks).endswith(length.name)
    assert length_words(length.dotted) == f"a dotted {length.name}"
    assert length_words(length.triplet).endswith(f"{length.name} in a triplet")


def ground(chart: str = "| {key E minor} Em7 | A7 |", **settings: object) -> Ground:
    read = read_chart(chart, new_id=sequential_ids("c"))
    pickup = (read.pickup_pulses or 0) * QUARTER
    return Ground(
        settings=GroundSettings.model_validate(
            {"bars": 4, "form": read.chart.form, "choruses": read.chart.choruses, "pickup_ticks": pickup} | settings
        ),
        sections=read.chart.sections,
        anchors=(Anchor(id="a", tick=0, second=1.0), Anchor(id="b", tick=QUARTER, second=1.5)),
    )


def says(*notes: Note, chart: str = "| {key E minor} Em7 | A7 |", **fields: object) -> list[tuple[str, str]]:
    solo = Solo.model_validate({"settings": SoloSettings(last_bar=4), "notes": notes} | fields)
    return [(view.says, view.more) for view in view_notes(solo, ground(chart)).notes.values()]


def test_the_sentence_says_place_technique_and_degree() -> None:
    ((sentence, more),) = says(note(tick=QUARTER, course=[[0, 0], [EIGHTH, 4]], vibrato={"width_cents": 80}))
    assert sentence == "String 2, fret 10, bent up a whole step, wide vibrato: the 5 of Em7."
    assert more.startswith(
        "A4 → B4, reached an eighth note after the pick, a quarter note at 1:2. Same pitch elsewhere: "
    )
    assert "string 1 fret 5, string 3 fret 14, string 4 fret 19" in more


def test_the_sentence_of_an_anticipation_names_both_chords() -> None:
    ((sentence, more),) = says(note(tick=4 * QUARTER - EIGHTH, fret=500))
    assert sentence == "String 2, fret 5: the 5 of A7."
    assert "It anticipates A7; over Em7 it is the 1." in more


def test_the_sentence_of_a_note_without_a_chord_speaks_of_the_key_or_says_so() -> None:
    ((in_key, _),) = says(note(tick=12 * QUARTER, fret=0))
    ((bare, _),) = says(note(tick=12 * QUARTER, fret=0), chart="| Em7 | A7 |")
    assert in_key == "String 2, open: the 5 of E minor, no chord here."
    assert bare == "String 2, open. No chord here."


def test_a_doubt_is_said_at_the_end_with_its_question() -> None:
    question = Question(
        id="q", start=0, end=QUARTER, notes=("n",), words="Open, or fret 5 on 3?", answers=("open", "5 on 3")
    )
    ((sentence, more),) = says(note(sure="unsure"), questions=(question,))
    assert sentence.endswith("Unsure.") and "Question: Open, or fret 5 on 3? (open, or 5 on 3?)" in more
    ((closed, unasked),) = says(note(), questions=(question.model_copy(update={"answer": "open"}),))
    assert "Question" not in unasked and "Unsure" not in closed


def test_the_sentence_says_where_a_level_begins_and_in_which_swell_a_note_sounds() -> None:
    loudness: dict[str, Any] = {
        "dynamics": ({"id": "d", "tick": QUARTER, "level": "f"},),
        "swells": ({"id": "w", "start": 2 * QUARTER, "end": 3 * QUARTER, "to": "softer"},),
    }
    said = says(*(note(id=f"n{i}", tick=i * QUARTER, fret=500) for i in range(4)), **loudness)
    heads = [sentence.partition(":")[0].removeprefix("String 2, fret 5") for sentence, _ in said]
    assert heads == ["", ", f from here", ", growing softer", ""]


def test_views_carry_the_shape_of_every_role() -> None:
    places = [(0, 3, 7), (QUARTER, 2, 7), (2 * QUARTER, 2, 5), (4 * QUARTER - EIGHTH, 2, 5), (12 * QUARTER, 2, 5)]
    notes = [note(id=f"n{i}", tick=t, string=s, fret=f * 100) for i, (t, s, f) in enumerate(places)]
    solo = Solo(settings=SoloSettings(last_bar=4), notes=tuple(notes))
    views = view_notes(solo, ground("| {key E minor} Em9 | A7 |")).notes
    assert [m.shape for m in views.values()] == ["chord tone", "approach", "chord tone", "anticipation", "key"]
    assert views["n3"].other == "1 here" and views["n4"].degree == "1"


def test_the_strip_has_bars_with_counts_clocks_and_sections() -> None:
    strip = view_strip(ground("A:\n| {6/8} {pick-up 1} Em7 | A7 |\nB:\n| {4/4} D |\n2 choruses", bars=6))
    assert [bar.number for bar in strip.bars] == [0, 1, 2, 3, 4, 5, 6]
    assert [beat.count for beat in strip.bars[1].beats] == ["1", "4"]
    assert [bar.meter for bar in strip.bars] == ["6/8", "", "", "4/4", "6/8", "", "4/4"]
    assert [bar.section for bar in strip.bars] == ["", "A 1", "", "B 1", "A 2", "", "B 2"]
    assert strip.bars[1].clock == "0:01.0" and clock_text(-1.25) == "-0:01.2"
    assert [(c.shown, c.where, c.tones) for c in strip.chords[:2]] == [
        ("Em7", "1:1", ("E", "G", "B", "D")),
        ("A7", "2:1", ("A", "C#", "E", "G")),
    ]
    assert [slot.degree for slot in strip.chords[1].slots][:3] == ["b3", "3", "11"]  # C, C#, D over A7
    grouped = view_strip(ground("| {7/8 2+2+3} Em7 |"), Reader(school=School.B))
    assert [beat.count for beat in grouped.bars[0].beats] == ["1", "3", "5"]


def test_tables_tell_the_strings_and_what_every_fret_sounds() -> None:
    settings = SoloSettings(tuning=parse_tuning("drop D").midi, capo=2, last_fret=20)
    tables = view_tables(Solo(settings=settings))
    assert [string.name for string in tables.strings] == ["E", "B", "G", "D", "A", "D"]
    assert tables.frets == 18 and len(tables.strings[0].classes) == 19
    assert tables.strings[5].classes[:3] == (4, 5, 6)  # the low D above a capo at 2 is E


def test_a_stack_and_a_note_off_the_grid_stand_in_the_tablature() -> None:
    notes = (
        note(id="a", stack="s"),
        note(id="b", string=3, fret=900, stack="s"),
        note(id="c", tick=QUARTER + 111, ticks=500),
        note(id="d", tick=2 * QUARTER - 20, ticks=10, string=1),
    )
    solo = Solo.model_validate({"settings": SoloSettings(last_bar=1), "notes": notes, "stacks": [{"id": "s"}]})
    lines = write_tab(SoloDocument(ground=ground("| Em7 |", bars=1), solo=solo)).splitlines()
    count = next(line for line in lines if "&" in line)
    assert "~" in count
    assert any(line.startswith("G |-9") for line in lines)


def test_bounds_of_techniques_are_closed() -> None:
    for name in ("Vibrato", "Trill", "Tremolo", "SlideIn", "SlideOff", "Rake", "Harmonic", "Heard"):
        assert getattr(techniques, name).model_config["extra"] == "forbid"
    for wrong in (
        {"vibrato": {"width_cents": 4_000}},
        {"trill": {"fret": 5_000}},
        {"rake": {"strings": []}},
        {"attack": {"kind": "kicked"}},
    ):
        with pytest.raises(ValueError):
            note(**wrong)
