"""The handout: what stands on a page, where lines and pages break, how notes are put on a staff."""

from __future__ import annotations

import itertools
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from strategies import documents, ground_on
from usagi.core.document.elements import Dynamic, Note, Phrase, Swell
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import OnPhrase, Remark
from usagi.core.document.techniques import Loudness
from usagi.core.formats.document_json import SoloDocument, read_document
from usagi.core.handout.marks import SMALLEST, Box, Curve, Handout, Line, Mark, Paper, Text, moved, scaled
from usagi.core.handout.pages import Facts, Wanted, lay_handout
from usagi.core.handout.pictures import neck_picture
from usagi.core.handout.spacing import natural_width, spaced
from usagi.core.handout.staff import StaffNote, staff_line
from usagi.core.handout.type import shortened, signs, width, wrapped
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE
from usagi.core.pitch.names import parse_pitch
from usagi.settings import project_root

DEMO = project_root() / "demo"
CHART = "| {key C major} C7 | F7 |\n15 choruses"
VALUE = {name: Fraction(4, int(name)) for name in ("1", "2", "4", "8", "16", "32")}


def note(i: int, tick: int, string: int = 2, fret: int = 5, ticks: int = EIGHTH, **fields: Any) -> Note:
    return Note.model_validate(
        {"id": f"n{i}", "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


def demo(name: str) -> SoloDocument:
    return read_document((DEMO / f"{name}.json").read_bytes())


def laid(document: SoloDocument, **wanted: Any) -> Handout:
    return lay_handout(document.solo, document.ground, Facts(document.tune, "Ines Quarrie"), Wanted(**wanted))


def texts(sheet: Handout, page: int) -> list[Text]:
    return [mark for mark in sheet.pages[page].marks if isinstance(mark, Text)]


def said(sheet: Handout) -> list[str]:
    return [text.text for page in range(len(sheet.pages)) for text in texts(sheet, page)]


def extent(mark: Mark) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of a mark."""
    match mark:
        case Text():
            left = mark.x - {"start": 0, "middle": mark.across / 2, "end": mark.across}[mark.anchor]
            return left, mark.y - mark.size * 0.75, left + mark.across, mark.y + mark.size * 0.1
        case Line():
            return min(mark.x1, mark.x2), min(mark.y1, mark.y2), max(mark.x1, mark.x2), max(mark.y1, mark.y2)
        case Curve():
            numbers = [float(part) for part in mark.path.split() if not part.isalpha()]
            return min(numbers[::2]), min(numbers[1::2]), max(numbers[::2]), max(numbers[1::2])
        case _:
            return mark.x, mark.y, mark.x + mark.width, mark.y + mark.height


# -- pages --------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("paper", list(Paper))
@pytest.mark.parametrize("large", [False, True])
@pytest.mark.parametrize("name", sorted(path.stem for path in DEMO.glob("*.json")))
def test_nothing_is_cut_too_small_or_over_other_words(name: str, paper: Paper, large: bool) -> None:
    sheet = laid(demo(name), paper=paper, large=large)
    for page in range(len(sheet.pages)):
        for mark in sheet.pages[page].marks:
            left, top, right, bottom = extent(mark)
            assert left >= 20 and top >= 20 and right <= sheet.width - 20 and bottom <= sheet.height - 20, mark
        words = [text for text in texts(sheet, page) if not text.knocked]
        assert all(text.size >= SMALLEST for text in texts(sheet, page))
        for i, one in enumerate(words):
            for other in words[i + 1 :]:
                a, b = extent(one), extent(other)
                apart = a[2] <= b[0] + 0.3 or b[2] <= a[0] + 0.3 or a[3] <= b[1] + 0.3 or b[3] <= a[1] + 0.3
                assert apart, (one.text, other.text)


@settings(max_examples=25)
@given(document=documents(), large=st.booleans(), staff=st.booleans())
def test_every_note_and_chord_of_a_solo_is_on_paper(document: SoloDocument, large: bool, staff: bool) -> None:
    sheet = laid(document, large=large, staff=staff)
    numbers = said(sheet)
    pitched = [one for one in document.solo.notes if one.fret is not None and not one.dead and not one.ghost]
    for fret in {f"{one.fret / 100:g}" for one in pitched if one.fret is not None}:
        assert numbers.count(fret) >= sum(f"{one.fret / 100:g}" == fret for one in pitched if one.fret is not None)
    assert all(entry.page < len(sheet.pages) for entry in sheet.outline)


def test_lines_break_at_phrases_and_the_outline_names_them() -> None:
    document = demo("lanterns-at-low-water")
    sheet = laid(document)
    assert [entry.title for entry in sheet.outline] == [
        *(f"{letter} · {phrase.name}" for letter, phrase in zip("abcdefgh", document.solo.phrases, strict=True)), "Plan",
    ]  # fmt: skip
    assert len(sheet.pages) == 3 and any(text.startswith("page 3 of 3") for text in said(sheet))
    for entry in sheet.outline:
        assert any(text.text == entry.title and abs(text.y - entry.y) < 30 for text in texts(sheet, entry.page))


def test_no_bend_goes_over_a_page_turn() -> None:
    """Ten bars of which every second ends in a bend that sounds on: the two lines of each lie on one page."""
    notes = []
    for bar in range(0, 60, 2):
        notes += [
            note(100 * bar + i, bar * WHOLE + i * EIGHTH // 2, fret=7 + i % 3, ticks=EIGHTH // 2) for i in range(15)
        ]
        course = ((0, 0), (EIGHTH // 2, 4))
        notes.append(note(100 * bar + 50, bar * WHOLE + 15 * EIGHTH // 2, fret=9, ticks=WHOLE, course=course))
    ground = ground_on("| C7 |\n64 choruses", bars=64)
    solo = Solo(notes=tuple(notes), phrases=(Phrase(id="p", start=0, end=60 * WHOLE, name="long"),))
    sheet = lay_handout(solo, ground, Facts("Long"), Wanted(plan=False))
    assert len(sheet.pages) > 2
    for page in range(len(sheet.pages)):
        bars = [int(text.text) for text in texts(sheet, page) if text.size == 9 and text.text.isdigit()
                and text.anchor == "start"]  # fmt: skip
        assert bars[0] % 2 == 1 and bars[-1] % 2 == 0  # a pair of bars is never parted


def test_remarks_stand_under_their_phrase_with_their_second_way() -> None:
    notes = tuple(note(i, i * QUARTER, ticks=QUARTER) for i in range(4))
    second = (note(90, 0, 3, 17, QUARTER),)
    remark = Remark(id="r", on=OnPhrase(phrase="p"), words="Lay back a little.", second=second)
    solo = Solo(notes=notes, phrases=(Phrase(id="p", start=0, end=WHOLE, name="one"),), remarks=(remark,))
    words = said(lay_handout(solo, ground_on(CHART), Facts("Short"), Wanted()))
    at = words.index("Phrase a: Lay back a little.")
    assert words.index("a · one") < at and words[at + 1] == "second way" and "17" in words[at:]


def test_loudness_and_what_has_no_sign_are_said_over_their_notes() -> None:
    notes = (note(0, 0, palm_mute=True), note(1, QUARTER, trill={"fret": 700}), note(2, 2 * QUARTER, accent=True))
    louder = Swell(id="s", start=2 * QUARTER, end=WHOLE, to="louder")
    solo = Solo(notes=notes, dynamics=(Dynamic(id="d", tick=0, level=Loudness.MF),), swells=(louder,))
    words = said(lay_handout(solo, ground_on(CHART), Facts("Short"), Wanted(plan=False)))
    assert {"mf mute", "tr", "louder >"} <= set(words)


def test_what_is_said_of_copies_and_hands_is_always_there() -> None:
    words = " ".join(said(laid(demo("gull-weather"), plan=False)))
    assert "depends on your local law" in words and "Stop when it hurts" in words and "Plan" not in words


# -- type ---------------------------------------------------------------------------------------------------------------


@given(text=st.text("abc defg hij", max_size=120), room=st.floats(20, 300))
def test_lines_fit_and_lose_no_letter(text: str, room: float) -> None:
    lines = wrapped(text, 10, room)
    assert "".join("".join(lines).split()) == "".join(text.split())
    assert all(width(line, 10) <= room + 1e-6 for line in lines if len(line) > 1)


@pytest.mark.parametrize(
    ("text", "drawn"),
    [("b7", "♭7"), ("Bb7(#9)", "B♭7(♯9)"), ("Ebmaj7", "E♭maj7"), ("bb7", "♭♭7"), ("bar 4", "bar 4"), ("Abm", "A♭m")],
)
def test_accidentals_are_printed_as_signs(text: str, drawn: str) -> None:
    assert signs(text) == drawn


def test_what_is_too_long_is_shortened() -> None:
    assert shortened("short", 10, 200) == "short"
    assert shortened("a phrase with a long name", 10, 60).endswith(" …")
    assert width(shortened("a phrase with a long name", 10, 60), 10) <= 60


@given(gaps=st.lists(st.integers(420, WHOLE), min_size=1, max_size=20), room=st.floats(100, 600))
def test_a_line_fills_its_room_in_order(gaps: list[int], room: float) -> None:
    ticks = [sum(gaps[:i]) for i in range(len(gaps) + 1)]
    found = spaced(ticks, ticks, room)
    assert list(found.places) == sorted(found.places) and found.places[-1] == pytest.approx(room)
    loose = spaced(ticks, ticks, room, fill=False)
    assert loose.places[-1] == pytest.approx(min(room, natural_width(ticks, ticks)))


@given(x=st.floats(-50, 50), y=st.floats(-50, 50))
def test_marks_move_there_and_back(x: float, y: float) -> None:
    marks: list[Mark] = [
        Line(x1=1, y1=2, x2=3, y2=4),
        Curve(path="M 1 2 C 3 4 5 6 7 8 Z"),
        Box(x=1, y=2, width=3, height=4),
    ]
    for mark in marks:
        assert extent(moved(moved(mark, x, y), -x, -y)) == pytest.approx(extent(mark), abs=0.02)
        assert extent(scaled(mark, 2)) == pytest.approx(tuple(2 * one for one in extent(mark)))


# -- staff --------------------------------------------------------------------------------------------------------------


def written(solo: Solo, ground: Ground, start: int = 0, end: int = WHOLE) -> tuple[StaffNote, ...]:
    return staff_line(solo, ground, start, end, meter=True).notes


def length(one: StaffNote) -> Fraction:
    """In quarter notes."""
    whole = VALUE[one.value] * (2 - Fraction(1, 2**one.dots))
    return whole * one.space / one.count if one.count else whole


def test_a_bar_of_syncopation_is_split_at_its_beats_and_tied() -> None:
    notes = (note(0, 0, ticks=EIGHTH), note(1, EIGHTH, ticks=QUARTER), note(2, 3 * EIGHTH, ticks=EIGHTH))
    found = written(Solo(notes=notes), ground_on(CHART))
    assert [(one.value, one.tied, bool(one.heads)) for one in found] == [
        ("8", False, True), ("8", True, True), ("8", False, True), ("8", False, True), ("2", False, False),
    ]  # fmt: skip


def test_triplets_are_three_in_the_time_of_two() -> None:
    third = QUARTER // 3
    notes = tuple(note(i, i * third, ticks=third) for i in range(3))
    found = written(Solo(notes=notes), ground_on(CHART))
    assert [(one.value, one.count, one.space) for one in found[:3]] == [("8", 3, 2)] * 3
    assert len({one.tuplet for one in found[:3]}) == 1 and found[3].tuplet is None


def test_signs_hold_for_a_bar_and_the_signature_for_all() -> None:
    ground = ground_on("| {key G major} G | G |")  # F sharp in the signature
    frets = (2, 1, 1, 2)  # on string 1: F#, F, F, F#
    notes = tuple(note(i, i * QUARTER, 1, fret, QUARTER) for i, fret in enumerate(frets))
    line = staff_line(Solo(notes=notes), ground, 0, WHOLE, meter=True)
    assert line.signature == "G" and line.meter == "4/4"
    assert [one.heads[0].sign for one in line.notes] == ["", "n", "", "#"]
    assert [(one.heads[0].letter, one.heads[0].octave) for one in line.notes] == [("f", 5)] * 4  # an octave up


@settings(max_examples=40)
@given(document=documents())
def test_a_line_is_as_long_as_its_bars_and_sounds_what_is_written(document: SoloDocument) -> None:
    ground = document.ground
    if not document.solo.notes:
        return
    end = ground.timeline.bars.at(document.solo.notes[-1].tick).end
    found = written(document.solo, ground, 0, end)
    assert abs(sum(length(one) for one in found) - Fraction(end, QUARTER)) <= Fraction(len(found), 8)
    for one in found:
        for head in one.heads:
            assert head.letter in "abcdefg" and head.sign in ("", "n", "#", "b", "##", "bb")


def test_heads_sound_the_pitch_an_octave_lower() -> None:
    notes = (note(0, 0, 3, 7, QUARTER),)  # D4
    head = written(Solo(notes=notes), ground_on(CHART))[0].heads[0]
    assert parse_pitch(f"{head.letter.upper()}{head.octave}") - 12 == parse_pitch("D4")


def test_demo_files_are_there() -> None:
    assert len(list(Path(DEMO).glob("*.json"))) >= 7


def test_every_fret_of_a_neck_has_its_number() -> None:
    document = demo("gull-weather")
    picture = neck_picture(document.solo, document.ground, 0, 8 * WHOLE)
    lines = sorted({mark.x1 for mark in picture.marks if isinstance(mark, Line) and mark.x1 == mark.x2})
    between = [(left + right) / 2 for left, right in itertools.pairwise(lines)]
    lowest = max(mark.y1 for mark in picture.marks if isinstance(mark, Line))
    numbers = {mark.x: mark.text for mark in picture.marks if isinstance(mark, Text) and mark.y > lowest}
    assert len(between) >= 4
    named = [int(text) for at in between for x, text in numbers.items() if abs(x - at) < 12]
    assert named == list(range(named[0], named[0] + len(between)))
