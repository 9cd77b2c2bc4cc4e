"""MusicXML: held to the schema of 4.0, read by another library, and files by others with everything that they may have."""

from __future__ import annotations

import io
import warnings
import zipfile
from functools import cache
from pathlib import Path

import pytest
from hypothesis import given
from lxml import etree

from core.formats.asking import brought_in, demo_solo, playable, there_and_back
from strategies import chord_symbols, documents, ground_on
from usagi.core.document.elements import Note, Stack, Swell
from usagi.core.document.joins import sources
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.techniques import Pick
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.musicxml.chords import KINDS, chord_of, harmony_of
from usagi.core.formats.musicxml.container import packed
from usagi.core.formats.musicxml.reading import read_musicxml, read_parts
from usagi.core.formats.musicxml.unroll import Marks, unrolled
from usagi.core.formats.musicxml.writing import write_musicxml
from usagi.core.formats.score import FileUnreadable, PartUnknown
from usagi.core.harmony.symbols import parse_chord

GOLDEN = Path(__file__).parents[2] / "golden"
SCHEMA = Path(__file__).parents[2] / "fixtures/musicxml"
QUARTER = 10_080


@cache
def schema():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import xmlschema

        places = [
            ("http://www.w3.org/XML/1998/namespace", str(SCHEMA / "xml.xsd")),
            ("http://www.w3.org/1999/xlink", str(SCHEMA / "xlink.xsd")),
        ]
        return xmlschema.XMLSchema(str(SCHEMA / "musicxml.xsd"), locations=places, allow="local")


def faults(data: bytes) -> list[str]:
    return [f"{fault.path}: {fault.reason}" for fault in schema().iter_errors(etree.parse(io.BytesIO(data)))]


@pytest.mark.parametrize("name", ["gull-weather", "ferry-bell", "the-salt-road"])
def test_the_demo_keeps_the_schema(name: str) -> None:
    assert faults(write_musicxml(demo_solo(name), degrees=True)) == []


@given(documents())
def test_any_solo_keeps_the_schema(document: SoloDocument) -> None:
    assert faults(write_musicxml(document, degrees=True)) == []


def test_the_schema_refuses_what_is_wrong() -> None:
    data = write_musicxml(demo_solo("gull-weather"))
    assert faults(data.replace(b"<step>E</step>", b"<step>H</step>", 1))
    assert faults(data.replace(b"<voice>1</voice>", b"", 1).replace(b"<duration>", b"<voice>1</voice><duration>", 1))


def test_it_is_the_golden_file(request: pytest.FixtureRequest) -> None:
    made = write_musicxml(demo_solo("gull-weather"), degrees=True)
    golden = GOLDEN / "gull-weather.musicxml"
    if request.config.getoption("--rewrite-golden"):
        golden.write_bytes(made)
    assert made == golden.read_bytes()


def test_another_library_reads_the_same_notes() -> None:
    """Pitches, onsets and lengths in quarter notes, ties joined: what music21 makes of our files."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import music21

        for name in ("lanterns-at-low-water", "the-salt-road"):
            document = demo_solo(name)
            score = music21.converter.parse(write_musicxml(document), format="musicxml").stripTies()
            theirs = []
            for found in score.parts[0].recurse().notes:
                if isinstance(found, music21.harmony.ChordSymbol) or found.duration.isGrace:
                    continue
                at = found.getOffsetInHierarchy(score.parts[0])
                for pitch in found.pitches:
                    theirs.append((round(float(at), 4), int(pitch.ps), round(float(found.duration.quarterLength), 4)))
            ground = document.ground
            first = ground.timeline.bars.number(document.solo.settings.first_bar)
            start = first.tick if first is not None else 0
            from usagi.core.document.pitches import written_pitch

            ours = [
                (round((note.tick - start) / QUARTER, 4), int(pitch), round(note.ticks / QUARTER, 4))
                for note in document.solo.notes
                if (pitch := written_pitch(note, document.solo.settings)) is not None
            ]
            dead = sum(note.dead for note in document.solo.notes)
            assert len(theirs) == len(ours) + dead
            assert set(ours) <= set(theirs)
            symbols = [c.figure for c in score.recurse().getElementsByClass(music21.harmony.ChordSymbol)]
            assert len(symbols) == sum(c.tick < ground.timeline.written_end for c in ground.timeline.changes)


def test_another_library_sees_beams_by_pulse_slurs_over_hammer_ons_and_a_staff_of_five_lines() -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import music21

        for name, pulse in (("lanterns-at-low-water", 1.0), ("the-salt-road", 1.5)):
            document = demo_solo(name)
            data = write_musicxml(document)
            assert b"staff-lines" not in data and data.count(b"<staff-tuning") == 6
            score = music21.converter.parse(data, format="musicxml")
            opened, beamed = 0, 0
            for found in score.parts[0].recurse().notes:
                if isinstance(found, music21.harmony.ChordSymbol) or not found.beams.beamsList:
                    continue
                says = found.beams.beamsList[0].type
                assert says in ("start", "continue", "stop") and found.duration.quarterLength < 1
                pulse_now = found.offset // pulse
                if says == "start":
                    assert opened == 0
                    opened, inside = 1, pulse_now
                else:
                    assert opened == 1 and pulse_now == inside, (name, found.measureNumber, found.offset)
                    opened = says != "stop"
                beamed += 1
            assert opened == 0 and beamed > 20
            joins = [n.id for n in document.solo.notes if n.attack.kind in ("hammer-on", "pull-off")]
            joined = sources(document.solo.notes)
            chains = sum(joined[one].attack.kind not in ("hammer-on", "pull-off") for one in joins if one in joined)
            assert len(score.recurse().getElementsByClass(music21.spanner.Slur)) == chains > 0


@given(chord_symbols)
def test_a_chord_comes_back_by_its_kind_and_degrees_alone(symbol: str) -> None:
    """Without the words that are written beside the kind, it sounds the same."""
    chord = parse_chord(symbol)
    harmony = harmony_of(chord)
    kind = harmony.find("kind")
    assert kind is not None and kind.text in {*KINDS, "none"}
    del kind.attrib["text"]
    read, whole = chord_of(harmony)
    assert read is not None and whole, symbol
    assert parse_chord(read).semitones == chord.semitones and parse_chord(read).bass == chord.bass


def test_bars_from_within_a_form_bring_the_chord_that_is_held_and_all_notes() -> None:
    """A solo from bar 3 on, with a note before and behind it: nothing of it is left out."""
    ground = ground_on("| Am7 | . . . . | . . . . | D7 | . . . . | . . . . | G7 | . . . . |")
    notes = [Note(id=f"n{bar}", tick=bar * 40_320, ticks=10_080, string=2, fret=500) for bar in (1, 2, 3, 5)]
    solo = Solo(settings=SoloSettings(first_bar=3, last_bar=4), notes=tuple(notes))
    swollen = solo.model_copy(update={"swells": (Swell(id="s", start=80_640, end=241_920, to="louder"),)})
    data = write_musicxml(SoloDocument(ground=ground, solo=swollen))
    assert faults(data) == []
    read = read_musicxml(data)
    assert [n.tick // 40_320 for n in read.notes] == [0, 1, 2, 4]
    assert [(tick // 40_320, symbol) for tick, symbol in read.chords] == [(0, "Am7"), (2, "D7")]
    assert read.swells == ((40_320, 201_600, "louder"),)


# -- files by others ---------------------------------------------------------------------------------------------


def score(body: str, *, head: str = "", before: str = "") -> bytes:
    """A file of one part; `body` is its measures."""
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>{before}<score-partwise version="3.1">{head}<part-list>'
        '<score-part id="P1"><part-name>Lead</part-name></score-part></part-list>'
        f'<part id="P1">{body}</part></score-partwise>'
    ).encode()


def note(step: str, octave: int, quarters: float, inside: str = "", before: str = "", alter: int = 0) -> str:
    altered = f"<alter>{alter}</alter>" if alter else ""
    pitch = f"<pitch><step>{step}</step>{altered}<octave>{octave}</octave></pitch>"
    return f"<note>{before}{pitch}<duration>{int(quarters * 24)}</duration>{inside}</note>"


def measure(number: int, *content: str, attributes: str = "", implicit: bool = False) -> str:
    told = f"<attributes><divisions>24</divisions>{attributes}</attributes>" if attributes or number <= 1 else ""
    mark = ' implicit="yes"' if implicit else ""
    return f'<measure number="{number}"{mark}>{told}{"".join(content)}</measure>'


FOUR = "<time><beats>4</beats><beat-type>4</beat-type></time>"
FORWARD = '<barline location="left"><repeat direction="forward"/></barline>'
BACKWARD = '<barline location="right"><repeat direction="backward"/></barline>'


def bar_of(step: str, number: int, *marks: str, attributes: str = "") -> str:
    left = [mark for mark in marks if 'location="left"' in mark]
    right = [mark for mark in marks if mark not in left]
    return measure(number, *left, *(note(step, 4, 1) for _ in range(4)), *right, attributes=attributes)


def heard(data: bytes, part: str | None = None) -> list[tuple[float, float, float | None]]:
    """Onset and length in quarter notes, and the pitch, of every note as it is read."""
    return [(n.tick / QUARTER, n.ticks / QUARTER, n.midi) for n in read_musicxml(data, part=part).notes]


def test_a_pick_up_and_a_repeat_make_whole_bars() -> None:
    """The last bar is short by the pick-up; played again, both make one bar."""
    body = measure(0, FORWARD, note("E", 4, 1), attributes=FOUR, implicit=True)
    body += bar_of("G", 1) + measure(2, *(note("A", 4, 1) for _ in range(3)), BACKWARD)
    read = read_musicxml(score(body))
    assert read.pickup_ticks == QUARTER
    assert [n.tick // QUARTER for n in read.notes] == [-1, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14]
    assert [str(bar.meter) for bar in read.bars] == ["4/4"] * 4
    assert "Its repeats are played out." in read.messages


@pytest.mark.parametrize(
    ("marks", "played"),
    [
        ([Marks(), Marks(), Marks()], [0, 1, 2]),
        ([Marks(forward=True), Marks(backward=2), Marks()], [0, 1, 0, 1, 2]),
        ([Marks(), Marks(backward=3), Marks()], [0, 1, 0, 1, 0, 1, 2]),
        ([Marks(forward=True, backward=2), Marks(forward=True, backward=2)], [0, 0, 1, 1]),
        (
            [
                Marks(forward=True),
                Marks(endings=frozenset({1}), ends=True, backward=2),
                Marks(endings=frozenset({2}), ends=True),
                Marks(),
            ],
            [0, 1, 0, 2, 3],
        ),
        (
            [
                Marks(forward=True),
                Marks(endings=frozenset({1, 2}), ends=True, backward=2),
                Marks(endings=frozenset({3}), ends=True),
                Marks(),
            ],
            [0, 1, 0, 1, 0, 2, 3],
        ),
        ([Marks(), Marks(fine=True), Marks(), Marks(da_capo=True)], [0, 1, 2, 3, 0, 1]),
        ([Marks(), Marks(segno=""), Marks(fine=True), Marks(dal_segno="")], [0, 1, 2, 3, 1, 2]),
        ([Marks(segno=""), Marks(to_coda=""), Marks(dal_segno=""), Marks(coda="")], [0, 1, 2, 0, 1, 3]),
        ([Marks(forward=True), Marks(backward=2, da_capo=True), Marks()], [0, 1, 0, 1, 0, 1, 2]),
    ],
)
def test_the_order_of_play(marks: list[Marks], played: list[int]) -> None:
    assert unrolled(marks) == played


def test_repeats_without_end_are_refused() -> None:
    with pytest.raises(FileUnreadable, match="more than 2000 bars"):
        unrolled([Marks(forward=True), *[Marks(backward=32) for _ in range(100)]])


def test_meters_and_keys_change_where_they_are_written() -> None:
    six = "<key><fifths>-1</fifths><mode>minor</mode></key><time><beats>6</beats><beat-type>8</beat-type></time>"
    seven = "<time><beats>2+2+3</beats><beat-type>8</beat-type></time>"
    body = bar_of("C", 1, attributes="<key><fifths>2</fifths></key>" + FOUR)
    body += measure(2, *(note("D", 4, 0.5) for _ in range(6)), attributes=six)
    body += measure(3, *(note("E", 4, 0.5) for _ in range(7)), attributes=seven)
    read = read_musicxml(score(body))
    assert [str(bar.meter) for bar in read.bars] == ["4/4", "6/8", "7/8 2+2+3"]
    assert [str(bar.key) for bar in read.bars] == ["D major", "D minor", "D minor"]


def test_a_transposing_instrument_is_read_as_it_sounds() -> None:
    """A clarinet in B flat, chords and key with it; a guitar written an octave higher."""
    clarinet = "<key><fifths>2</fifths></key>" + FOUR
    clarinet += "<transpose><diatonic>-1</diatonic><chromatic>-2</chromatic></transpose>"
    harmony = "<harmony><root><root-step>D</root-step></root><kind>dominant</kind></harmony>"
    read = read_musicxml(score(measure(1, harmony, note("D", 5, 4), attributes=clarinet)))
    assert read.notes[0].midi == 72 and read.chords == ((0, "C7"),) and str(read.bars[0].key) == "C major"
    guitar = FOUR + "<transpose><chromatic>0</chromatic><octave-change>-1</octave-change></transpose>"
    assert heard(score(measure(1, note("E", 5, 4), attributes=guitar))) == [(0, 4, 64)]


def test_voices_chords_ties_and_tuplets() -> None:
    tie = '<tie type="start"/>'
    body = measure(
        1,
        *(note("C", 5, 1 / 3) for _ in range(3)),
        note("D", 5, 1),
        note("E", 5, 2, tie),
        "<backup><duration>96</duration></backup>",
        note("C", 4, 2, "<voice>2</voice>"),
        note("E", 4, 2, "<voice>2</voice>", "<chord/>"),
        attributes=FOUR,
    )
    body += measure(2, note("E", 5, 4, '<tie type="stop"/>'))
    assert sorted(heard(score(body)), key=str) == sorted([
        (0, 1 / 3, 72), (0, 2, 60), (0, 2, 64), (1 / 3, 1 / 3, 72), (2 / 3, 1 / 3, 72), (1, 1, 74), (2, 6, 76),
    ], key=str)  # fmt: skip


def test_grace_notes_take_a_little_of_what_comes_before() -> None:
    grace = "<note><grace/><pitch><step>D</step><octave>5</octave></pitch></note>"
    body = measure(1, note("C", 5, 2), grace, note("E", 5, 2), attributes=FOUR)
    assert heard(score(body)) == [(0, 1.875, 72), (1.875, 0.125, 74), (2, 2, 76)]


@pytest.mark.parametrize("pickup", [0, 1])
def test_grace_notes_before_the_first_note_get_a_beat_of_pick_up(pickup: int) -> None:
    grace = "<note><grace/><pitch><step>D</step><octave>5</octave></pitch></note>"
    first = measure(0, grace, note("C", 5, 1), attributes=FOUR) if pickup else ""
    opening = (note("C", 5, 4),) if pickup else (grace, note("C", 5, 4))
    laid = brought_in(score(first + measure(1, *opening, attributes=FOUR)), "musicxml")
    settings = laid.document.ground.settings
    assert (settings.pickup_ticks, laid.listed) == ((pickup + 1) * QUARTER, ())
    assert sorted(n.tick / QUARTER for n in laid.document.solo.notes)[:2] == [-pickup - 0.125, -pickup]


def test_a_staff_of_tablature_stands_for_the_notes_that_it_doubles() -> None:
    staves = FOUR + '<staves>2</staves><clef number="2"><sign>TAB</sign></clef>'
    places = [(1, 0), (1, 3), (2, 5), (2, 8)]
    upper = [note(step, octave, 1, "<staff>1</staff>") for step, octave in (("E", 4), ("G", 4), ("E", 4), ("G", 4))]
    lower = [
        note(
            step,
            4,
            1,
            f"<staff>2</staff><notations><technical><string>{s}</string><fret>{f}</fret></technical></notations>",
        )
        for step, (s, f) in zip("EGEG", places, strict=True)
    ]
    data = score(measure(1, *upper, "<backup><duration>96</duration></backup>", *lower, attributes=staves))
    notes = brought_in(data, "musicxml").document.solo.notes
    assert [(n.string, n.fret) for n in notes] == [(s, f * 100) for s, f in places]


def test_a_place_that_does_not_sound_what_is_written_is_not_kept() -> None:
    place = "<notations><technical><string>1</string><fret>{}</fret></technical></notations>"
    data = score(measure(1, note("A", 4, 2, place.format(5)), note("G", 4, 2, place.format(7)), attributes=FOUR))
    laid = brought_in(data, "musicxml")
    assert next(n.fret for n in laid.document.solo.notes) == 500
    assert laid.document.solo.notes[1].string * 10_000 + (laid.document.solo.notes[1].fret or 0) in (
        10_300,
        20_800,
        31_200,
        41_700,
    )
    assert "1 note had no place on the neck: the position search gave one." in laid.messages


def test_frets_that_all_sound_an_octave_lower_are_kept() -> None:
    """Many write a guitar in treble clef and forget to say that it sounds an octave lower."""
    place = "<notations><technical><string>1</string><fret>{}</fret></technical></notations>"
    data = score(
        measure(
            1, *(note(s, 5, 1, place.format(f)) for s, f in (("E", 0), ("G", 3), ("A", 5), ("B", 7))), attributes=FOUR
        )
    )
    laid = brought_in(data, "musicxml")
    assert [n.fret for n in laid.document.solo.notes] == [0, 300, 500, 700]
    assert any("octave lower" in message for message in laid.messages)


def test_what_is_not_on_the_neck_is_listed_by_its_bar() -> None:
    data = score(bar_of("E", 1, attributes=FOUR) + measure(2, note("C", 1, 2), note("E", 4, 2)))
    laid = brought_in(data, "musicxml")
    assert laid.listed == ("Bar 2: C1 is not on this neck and is left out.",)
    assert len(laid.document.solo.notes) == 5


def test_what_cannot_be_held_is_cut_and_listed() -> None:
    place = "<voice>{}</voice><notations><technical><string>3</string><fret>{}</fret></technical></notations>"
    data = score(
        measure(
            1, note("D", 4, 4, place.format(1, 7)), "<backup><duration>96</duration></backup>",
            "<forward><duration>48</duration></forward>", note("E", 4, 2, place.format(2, 9)), attributes=FOUR,
        )
    )  # fmt: skip
    laid = brought_in(data, "musicxml")
    assert laid.listed == ("Bar 1: D4 cannot be held: its string plays on.",)
    assert [n.ticks // QUARTER for n in laid.document.solo.notes] == [2, 2]


@pytest.mark.parametrize(
    ("bends", "levels"),
    [
        ("<bend><bend-alter>2</bend-alter></bend>", [0, 4]),
        ("<bend><bend-alter>2</bend-alter></bend><bend><bend-alter>-2</bend-alter><release/></bend>", [0, 4, 0]),
        ("<bend><bend-alter>2</bend-alter></bend><bend><bend-alter>0</bend-alter><release/></bend>", [0, 4, 0]),
        ("<bend><bend-alter>2</bend-alter></bend><bend><bend-alter>2</bend-alter><release/></bend>", [0, 4, 0]),
        ("<bend><bend-alter>1.5</bend-alter><pre-bend/></bend><bend><bend-alter>-1.5</bend-alter><release/></bend>", [3, 0]),
        ("<bend><bend-alter>0.5</bend-alter></bend>", [0, 1]),
        ("<bend><bend-alter>-2</bend-alter><with-bar>dip</with-bar></bend>", [0, -4]),
    ],
)  # fmt: skip
def test_bends_as_others_write_them(bends: str, levels: list[int]) -> None:
    inside = f"<notations><technical>{bends}<string>2</string><fret>8</fret></technical></notations>"
    laid = brought_in(score(measure(1, note("G", 4, 4, inside), attributes=FOUR)), "musicxml")
    course = laid.document.solo.notes[0].course
    assert list(dict.fromkeys(quarters for _, quarters in course)) == list(dict.fromkeys(levels))
    assert course[0][1] == levels[0] and course[-1][1] == levels[-1]


def test_a_hammer_on_that_only_its_first_note_says_is_read() -> None:
    start = '<notations><technical><hammer-on type="start">H</hammer-on><string>3</string><fret>5</fret></technical></notations>'
    end = "<notations><technical><string>3</string><fret>7</fret></technical></notations>"
    data = score(measure(1, note("C", 4, 2, start), note("D", 4, 2, end), attributes=FOUR))
    assert [n.attack.kind for n in brought_in(data, "musicxml").document.solo.notes] == ["picked", "hammer-on"]


def test_free_time_and_short_bars_are_counted_as_they_are_played() -> None:
    body = measure(1, *(note("C", 4, 1) for _ in range(5)), attributes="<time><senza-misura/></time>")
    body += measure(2, *(note("D", 4, 1) for _ in range(4)), attributes=FOUR)
    body += measure(3, *(note("E", 4, 1) for _ in range(3)), implicit=True) + bar_of("F", 4)
    read = read_musicxml(score(body))
    assert [str(bar.meter) for bar in read.bars] == ["5/4", "4/4", "3/4", "4/4"]
    assert "Bar 3 has 3/4, as it is played." in read.messages


def test_one_part_is_chosen() -> None:
    data = (
        '<score-partwise version="4.0"><part-list><score-part id="P1"><part-name>Flute</part-name></score-part>'
        '<score-part id="P2"><part-name>Lead Guitar</part-name></score-part></part-list>'
        f'<part id="P1">{bar_of("C", 1, attributes=FOUR)}{bar_of("C", 2)}</part><part id="P2">{bar_of("E", 1, attributes=FOUR)}</part>'
        "</score-partwise>"
    ).encode()
    assert [(part.name, part.notes) for part in read_parts(data)] == [("Flute", 8), ("Lead Guitar", 4)]
    assert {midi for _, _, midi in heard(data)} == {64}
    for wanted in ("Flute", "1", "P1"):
        assert {midi for _, _, midi in heard(data, part=wanted)} == {60}
    with pytest.raises(PartUnknown, match="“Horn” in this file; it has 1 “Flute”, 2 “Lead Guitar”"):
        read_musicxml(data, part="Horn")


def test_it_comes_timewise_compressed_and_in_other_encodings() -> None:
    plain = score(bar_of("E", 1, attributes=FOUR))
    timewise = plain.replace(b"score-partwise", b"score-timewise").replace(b'<part id="P1"><measure number="1">', b'<measure number="1"><part id="P1">').replace(b"</measure></part>", b"</part></measure>")  # fmt: skip
    wide = plain.decode().replace("UTF-8", "UTF-16").encode("utf-16")
    for data, format in ((timewise, "musicxml"), (packed(plain), "mxl"), (wide, "musicxml")):
        assert [n.fret is not None for n in brought_in(data, format).document.solo.notes] == [True] * 4


BOMB = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">' + "".join(f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True)) + "]>"  # fmt: skip


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (score("<measure/>", before=BOMB, head="<work><work-title>&i;</work-title></work>"), "entities of its own|no XML"),
        (score(bar_of("E", 1), before='<!DOCTYPE x [<!ENTITY file SYSTEM "file:///etc/passwd">]>', head="<work><work-title>&file;</work-title></work>"), "entities of its own"),
        (b"<html><body/></html>", "begins with <html>"),
        (b"<score-partwise", "no XML"),
        (b"<score-partwise/>", "no parts"),
        (score(""), "This file has no notes with a pitch"),
        (score(measure(1, "<note><rest/><duration>96</duration></note>")), "This file has no notes with a pitch"),
        (score(measure(1, note("E", 4, 400))), "longer than 64 quarter notes"),
        (zipped({"a.txt": b"x"}), "holds no score"),
        (zipped({"score.xml": b" " * 20_000_000}), "too long"),
        (zipped({f"{i}.xml": b"<a/>" for i in range(300)}), "too many files"),
        (zipped({"score.xml": score(bar_of("E", 1))})[:-30], "damaged"),
    ],
)  # fmt: skip
def test_what_is_no_score_is_refused_in_a_sentence(data: bytes, sentence: str) -> None:
    with pytest.raises(FileUnreadable, match=sentence):
        read_musicxml(data)


def test_a_whole_solo_reads_as_it_was_written() -> None:
    document = playable(demo_solo("slack-tide"))
    laid = brought_in(write_musicxml(document), "musicxml")
    check_solo(laid.document.solo, laid.document.ground, laid.document.solo.notes)
    assert laid.messages == () and laid.listed == ()


def test_a_stroke_of_one_note_is_not_that_of_its_stack() -> None:
    notes = [Note(id=f"n{s}", tick=0, ticks=QUARTER, string=s, fret=500, stack="s") for s in (1, 2)]
    for picked in range(2):
        own = tuple(note.model_copy(update={"pick": Pick.UP}) if i == picked else note for i, note in enumerate(notes))
        solo = Solo(settings=SoloSettings(), notes=own, stacks=(Stack(id="s"),))
        back = there_and_back(SoloDocument(ground=ground_on("| Am7 |\n8 choruses"), solo=solo), "musicxml")
        assert [stack.stroke for stack in back.solo.stacks] == [None]


def harmony(step: str, alter: int, kind: str, bass: str = "") -> str:
    under = f"<bass><bass-step>{bass}</bass-step></bass>" if bass else ""
    root = f"<root><root-step>{step}</root-step><root-alter>{alter}</root-alter></root>"
    return f"<harmony>{root}<kind>{kind}</kind>{under}</harmony>"


def test_a_chord_that_cannot_be_read_is_listed_and_the_rest_comes_in() -> None:
    body = measure(1, harmony("F", -2, "dominant", "C"), *(note("C", 4, 1) for _ in range(4)), attributes=FOUR)
    body += measure(2, harmony("G", 0, "dominant"), *(note("D", 4, 1) for _ in range(4)))
    laid = brought_in(score(body), "musicxml")
    assert len(laid.document.solo.notes) == 8
    symbols = [
        chord.symbol for section in laid.document.ground.sections for bar in section.bars for chord in bar.chords
    ]
    assert "G7" in symbols
    assert any("chord symbols" in words and "F" in words for words in (*laid.messages, *laid.listed))


def test_a_bar_is_as_long_as_it_is_in_the_file() -> None:
    """Three beats in 4/4 change the meter there, and what follows is on time."""
    body = bar_of("C", 1, attributes=FOUR) + measure(2, *(note("D", 4, 1) for _ in range(3)))
    body += bar_of("E", 3) + bar_of("F", 4)
    read = read_musicxml(score(body))
    assert [str(bar.meter) for bar in read.bars] == ["4/4", "3/4", "4/4", "4/4"]
    assert [n.tick // QUARTER for n in read.notes] == list(range(15))
    assert [words for words in read.messages if words.startswith("Bar ")] == ["Bar 2 has 3/4, as it is played."]


def test_a_bar_that_an_implicit_one_completes_is_one_bar() -> None:
    body = bar_of("C", 1, attributes=FOUR) + measure(2, *(note("D", 4, 1) for _ in range(3)), BACKWARD)
    body += measure(3, note("D", 4, 1), implicit=True) + bar_of("E", 4)
    read = read_musicxml(score(body))
    last = [n.tick // QUARTER for n in read.notes][-5:]
    assert [str(bar.meter) for bar in read.bars][-2:] == ["4/4", "4/4"]
    assert last == [last[0] + k for k in range(5)]
    body = bar_of("C", 1, attributes=FOUR) + measure(2, *(note("D", 4, 1) for _ in range(3)))
    body += measure(3, note("D", 4, 1), implicit=True) + bar_of("E", 4)
    read = read_musicxml(score(body))
    assert [str(bar.meter) for bar in read.bars] == ["4/4", "4/4", "4/4"]
    assert [n.tick // QUARTER for n in read.notes] == list(range(12)) and not read.messages


def test_techniques_that_cannot_be_kept_are_listed() -> None:
    """A hammer-on to the same pitch, and a harmonic of which no fret is said."""
    start = '<notations><technical><hammer-on type="start">H</hammer-on></technical></notations>'
    stop = '<notations><technical><hammer-on type="stop"/></technical></notations>'
    harmonic = "<notations><technical><harmonic><natural/></harmonic></technical></notations>"
    body = measure(
        1,
        note("C", 4, 1, inside=start),
        note("C", 4, 1, inside=stop),
        note("E", 5, 1, inside=harmonic),
        note("D", 4, 1),
        attributes=FOUR,
    )
    laid = brought_in(score(body), "musicxml")
    assert [one.attack.kind for one in laid.document.solo.notes] == ["picked"] * 4
    assert any("hammer-on to C4" in words for words in laid.listed), laid.listed
    assert any("E5 is a harmonic without its fret" in words for words in laid.listed)
