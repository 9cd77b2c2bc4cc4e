"""JAMS: held to the schema of its own library, chords in colon form, annotations by others."""

from __future__ import annotations

import io
import json
import warnings

import pytest
from hypothesis import given

from core.formats.asking import brought_in, demo_solo
from strategies import chord_symbols
from usagi.core.document.pitches import written_pitch
from usagi.core.formats.jams.chords import KINDS, colon_form, read_colon
from usagi.core.formats.jams.reading import read_jams, read_parts
from usagi.core.formats.jams.writing import write_jams
from usagi.core.formats.score import FileUnreadable
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.ticks import QUARTER


def test_its_own_library_reads_it_and_finds_it_valid() -> None:
    document = demo_solo("lanterns-at-low-water")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import jams

        read = jams.load(io.StringIO(write_jams(document).decode()))
        assert read.validate(strict=True)
        notes = read.search(namespace="note_midi")
        assert [one.annotation_metadata.data_source for one in notes] == ["0", "1", "2", "3", "4", "5"]
        sounding = [n for n in document.solo.notes if written_pitch(n, document.solo.settings) is not None]
        assert sum(len(one.data) for one in notes) == len(sounding)
        assert len(read.search(namespace="pitch_contour")) == 6
        beats = read.search(namespace="beat_position")[0].data
        assert beats[0].value["position"] == 4 and beats[1].value == {
            "position": 1,
            "measure": 1,
            "num_beats": 4,
            "beat_units": 4,
        }


@given(chord_symbols)
def test_a_chord_comes_back_from_its_colon_form(symbol: str) -> None:
    chord = parse_chord(symbol)
    form = colon_form(chord)
    read, whole = read_colon(form)
    assert read is not None and whole, form
    assert parse_chord(read).semitones == chord.semitones
    assert (parse_chord(read).bass or chord.root).pitch_class == (chord.bass or chord.root).pitch_class


@pytest.mark.parametrize(
    ("form", "symbol"),
    [
        ("C", "C"), ("A:min", "Am"), ("G:7", "G7"), ("D:maj7/3", "Dmaj7/F#"), ("E:(1,5)", "E"), ("Bb:hdim7", "Bbm7b5"),
        ("F#:min7(11)", "F#m7(11)"), ("C:9(*5)", "C9"), ("N", "N.C."), ("X", None), ("H:min", None), ("C:quartal", None),
    ],
)  # fmt: skip
def test_chords_of_others(form: str, symbol: str | None) -> None:
    assert read_colon(form)[0] == symbol


def test_every_kind_is_one_that_the_format_has() -> None:
    assert set(KINDS) <= {
        "maj", "min", "dim", "aug", "1", "5", "sus2", "sus4", "maj6", "min6", "7", "maj7", "min7", "dim7", "hdim7", "minmaj7",
        "aug7", "9", "maj9", "min9", "11", "maj11", "min11", "13", "maj13", "min13",
    }  # fmt: skip


def annotated(*annotations: dict[str, object], **more: object) -> bytes:
    return json.dumps(
        {"annotations": list(annotations), "file_metadata": {"title": "a take", "duration": 9.0}, "sandbox": {}} | more
    ).encode()


def annotation(namespace: str, *data: tuple[float, float, object], source: str = "") -> dict[str, object]:
    told = [{"time": t, "duration": d, "value": v, "confidence": None} for t, d, v in data]
    return {"namespace": namespace, "data": told, "annotation_metadata": {"data_source": source}, "sandbox": {}}


BEATS = annotation("beat_position", *((0.5 + 0.5 * i, 0.0, {"position": i % 4 + 1, "measure": i // 4 + 1, "num_beats": 4, "beat_units": 4}) for i in range(9)))  # fmt: skip


def test_notes_are_laid_on_the_beats_of_the_file() -> None:
    """Six strings by their sources, 10 ms beside the beat; a contour that rises is a bend."""
    low = annotation("note_midi", (0.51, 0.48, 45.0), source="0")
    high = annotation("note_midi", (1.0, 0.24, 69.0), (1.26, 0.2, 71.0), (1.49, 0.9, 69.0), source="5")
    contour = annotation(
        "pitch_contour",
        *(
            (1.49 + 0.01 * i, 0.0, {"index": 0, "frequency": 440 * 2 ** (min(i, 30) / 30 * 2 / 12), "voiced": True})
            for i in range(80)
        ),
        source="5",
    )
    chord = annotation("chord", (0.5, 2.0, "A:min7"), (2.5, 2.0, "D:7"))
    laid = brought_in(annotated(low, high, contour, BEATS, chord), "jams")
    notes = laid.document.solo.notes
    assert [(n.tick // 5_040, n.string, n.fret) for n in notes] == [(0, 6, 500), (2, 1, 500), (3, 1, 700), (4, 1, 500)]
    assert notes[3].course[-1][1] == 4 and laid.document.ground.grid.second(0) == 0.5
    assert [(c.tick // QUARTER, c.shown) for c in laid.document.ground.timeline.changes][:2] == [(0, "Am7"), (4, "D7")]


def test_beats_without_places_in_the_bar_are_counted_in_four_and_none_at_a_tempo() -> None:
    notes = annotation("note_hz", (1.0, 0.5, 440.0), (1.5, 0.5, 493.88))
    plain = annotation("beat", *((1.0 + 0.5 * i, 0.0, None) for i in range(8)))
    assert [n.tick // QUARTER for n in read_jams(annotated(notes, plain)).notes] == [0, 1]
    slow = read_jams(annotated(notes, annotation("tempo", (0.0, 9.0, 60.0))))
    assert [n.tick * 2 // QUARTER for n in slow.notes] == [2, 3] and "counted from its tempo" in slow.messages[0]


def test_dense_data_in_lists_and_single_annotations_are_read() -> None:
    dense: dict[str, object] = {
        "namespace": "note_midi",
        "data": {"time": [0.5, 1.0], "duration": [0.5, 0.5], "value": [64, 67], "confidence": [1, 1]},
    }
    assert [p.name for p in read_parts(annotated(dense, BEATS))] == ["note_midi"]
    assert [n.midi for n in read_jams(annotated(dense, BEATS)).notes] == [64, 67]


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"{", "no JSON"), (b"[]", "not a JAMS file"), (b'{"annotations": 3}', "not a JAMS file"),
        (annotated(BEATS), "annotates no notes"), (annotated(annotation("note_midi", (0, 0, 64))), "no notes with a pitch"),
        (b"{" * 100_000, "no JSON"), (b'{"annotations": []}' + b" " * 25_000_000, "too long"),
    ],
)  # fmt: skip
def test_what_is_no_solo_is_refused_in_a_sentence(data: bytes, sentence: str) -> None:
    with pytest.raises(FileUnreadable, match=sentence):
        read_jams(data)


@pytest.mark.parametrize(("missing", "pickup"), [(2, 0), (5, 1)])
def test_beats_are_counted_back_to_notes_that_come_before_them(missing: int, pickup: int) -> None:
    """The first beats are wanting: the notes stand where they would with all of them."""
    notes = annotation("note_midi", *((0.5 * i, 0.4, 64 + i % 5) for i in range(8)))
    start = 0.0 if pickup == 0 else 0.5
    beats = [
        (start + 0.5 * i, 0.0, {"position": i % 4 + 1, "measure": 1, "num_beats": 4, "beat_units": 4})
        for i in range(12)
    ]
    score = read_jams(annotated(notes, annotation("beat_position", *beats[missing:])))
    assert score.pickup_ticks == pickup * QUARTER
    assert [n.tick for n in score.notes] == [(i - pickup) * QUARTER for i in range(8)]


def test_notes_that_cannot_be_read_are_counted() -> None:
    notes = annotation("note_midi", (0.0, 0.5, 64), (0.5, 0.0, 64), (1.0, 0.5, "high"), (1e9, 0.5, 64))
    assert "3 notes have no time, length or pitch that can be read: left out." in read_jams(annotated(notes)).messages
    dense: dict[str, object] = {"namespace": "note_midi", "data": {"time": [0.5, 1.0, 1.5], "value": [64, 67, 69]}}
    partly: dict[str, object] = {
        "namespace": "note_midi",
        "data": {"time": [0.5, 1.0], "duration": [0.5], "value": [64, 67]},
    }
    assert "1 note has no time, length or pitch" in " ".join(read_jams(annotated(partly, BEATS)).messages)
    with pytest.raises(FileUnreadable):
        read_jams(annotated(dense, BEATS))


def test_kinds_of_annotations_that_are_not_read_are_said() -> None:
    notes = annotation("note_midi", (0.5, 0.5, 64))
    told = read_jams(annotated(notes, BEATS, annotation("lyrics", (0.0, 1.0, "la")), annotation("onset"))).messages
    assert "These kinds of annotations are not read: lyrics." in told
