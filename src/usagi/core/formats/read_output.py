"""What `./usagi read` and `./usagi chord` print: scripts rest on these shapes (docs/format.md)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from usagi.core.degrees.labels import RULES, NoteReading
from usagi.core.degrees.lines import Line, Role
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.phrases.analysis import PhraseRead, analyse
from usagi.core.readings.reading import Reading, ReadingKind
from usagi.core.readings.relations import Relation

OUTPUT_SCHEMA = 1  # of what `read --json` prints


def fret_number(fret: int | None) -> int | float | None:
    """A fret as it is said: 10, or 3.2 between frets."""
    if fret is None:
        return None
    return fret // HUNDREDTHS if fret % HUNDREDTHS == 0 else fret / HUNDREDTHS


def reading_json(document: SoloDocument, reader: Reader) -> dict[str, Any]:
    """Every note with its place, name, chord, degrees and roles, what connects them, and the phrases with their
    readings, as plain JSON values."""
    solo = document.solo
    read = analyse(solo, document.ground, reader)
    return {
        "schema": OUTPUT_SCHEMA,
        "rules": RULES,
        "notes": [_row(note, read.readings.notes[note.id]) for note in solo.notes],
        "relations": [_relation(relation) for relation in read.relations],
        "phrases": [_phrase(phrase) for phrase in read.phrases],
        "other_changes": [offer._asdict() for offer in read.offered],
    }


def _relation(relation: Relation) -> dict[str, Any]:
    row = {
        "kind": str(relation.kind),
        "from": list(relation.start),
        "to": list(relation.end),
        "degrees": list(relation.degrees),
        "says": relation.says,
    }
    return row | {"change": relation.change} if relation.change else row


def _phrase(phrase: PhraseRead) -> dict[str, Any]:
    return {
        "id": phrase.id,
        "name": phrase.name,
        "start": phrase.start,
        "end": phrase.end,
        "motion": phrase.motion,
        "strong_beats": {"hit": phrase.strong.hit, "of": phrase.strong.of},
        "weak_approaches": {"hit": phrase.weak.hit, "of": phrase.weak.of},
        "tension": [{"tick": p.tick, "pull": round(p.pull, 4), "release": p.release} for p in phrase.pulses],
        "says": phrase.says,
        "readings": [_reading(reading, phrase) for reading in phrase.readings],
    }


def _reading(reading: Reading, phrase: PhraseRead) -> dict[str, Any]:
    row: dict[str, Any] = {
        "kind": str(reading.kind),
        "key": reading.key,
        "covers": reading.covers,
        "of": reading.of,
        "left_out": list(reading.left_out),
        "degrees": list(reading.degrees),
        "picked": reading.key in phrase.picked,
        "type": reading.type,
    }
    match reading.kind:
        case ReadingKind.SCALE:
            row |= {"root": reading.root, "pair": reading.pair or None, "roots": list(reading.roots) or [reading.root]}
        case ReadingKind.ARPEGGIO:
            row |= {"root": reading.root, "pair": reading.pair or None}
        case ReadingKind.GRIP:
            offsets = [list(offset) for offset in reading.offsets]
            row |= {"root": reading.root, "family": reading.family, "fret": reading.fret, "offsets": offsets}
        case ReadingKind.PATTERN:
            row["figure_length"] = reading.figure_length
            if reading.interval is not None:
                row["interval"] = reading.interval
            if reading.scale_steps is not None:
                row["scale_steps"] = reading.scale_steps
            if reading.cell:
                row["offsets"] = list(reading.cell)
    return row


def _pairs(document: SoloDocument, reader: Reader) -> Iterable[tuple[Note, NoteReading]]:
    return zip(document.solo.notes, read_notes(document.solo, document.ground, reader), strict=True)


def _number(midi: float | None) -> int | float | None:
    return None if midi is None else int(midi) if midi == int(midi) else midi


def _row(note: Note, reading: NoteReading) -> dict[str, Any]:
    lines = [
        line._asdict()
        | {
            "marks": [str(mark) for mark in line.marks],
            "stages": [stage._asdict() | {"midi": _number(stage.midi)} for stage in line.stages],
        }
        for line in reading.lines
    ]
    row = {
        "id": note.id,
        "where": reading.where,
        "tick": note.tick,
        "ticks": note.ticks,
        "string": note.string,
        "fret": fret_number(note.fret),
        "name": reading.name,
        "midi": _number(reading.midi),
        "lines": lines,
        "degree": reading.degree,
        "key_degree": reading.key_degree,
        "other_degree": reading.other_degree,
    }
    return row if reading.overruled is None else row | {"overruled": reading.overruled._asdict()}


COLUMNS = ("where", "string", "fret", "name", "heard on", "degree", "key", "other", "role")


def reading_table(document: SoloDocument, reader: Reader) -> str:
    """Every note as a row of text, and the phrases in words."""
    rows = [COLUMNS]
    for note, reading in _pairs(document, reader):
        shown = next(line for line in reading.lines if line.shown)
        degrees = " → ".join(stage.degree or "–" for stage in shown.stages) or "–"
        fret = "×" if note.dead else "?" if note.fret is None else f"{note.fret / HUNDREDTHS:g}"
        names = " → ".join(reading.stage_names) or "–"
        rows.append(
            (reading.where, str(note.string), fret, names, shown.heard_on or "–", degrees, reading.key_degree or "–",
             reading.other_degree or "", _role_words(shown))
        )  # fmt: skip
    widths = [max(len(row[i]) for row in rows) for i in range(len(COLUMNS))]
    table = "\n".join("  ".join(cell.ljust(w) for cell, w in zip(row, widths, strict=True)).rstrip() for row in rows)
    return "\n\n".join([table, *_phrases_told(document, reader)])


def _role_words(line: Line) -> str:
    words = [] if line.role is None else [line.role if line.says.startswith("the ") else line.says]
    return ", ".join([*words, *line.marks, *(["blue"] if line.blue and line.role is not Role.BLUE else [])])


def _phrases_told(document: SoloDocument, reader: Reader) -> list[str]:
    read = analyse(document.solo, document.ground, reader)
    told = []
    for phrase in read.phrases:
        lines = [f"{phrase.name}: {phrase.says}" if phrase.name else phrase.says]
        for reading in phrase.readings:
            picked = ", picked" if reading.key in phrase.picked else ""
            lines.append(f"  {reading.key}: {reading.covers} of {reading.of} notes{picked}")
        told.append("\n".join(lines))
    return told


def chord_json(symbol: str) -> dict[str, Any]:
    """How a symbol is read, or its leftmost fault."""
    try:
        chord = parse_chord(symbol)
    except UsagiError as fault:
        return {"symbol": symbol, "error": fault.sentence, "at": fault.where.get("column", 1)}
    heard = hear(chord)
    return {
        "symbol": symbol,
        "shown": chord.shown,
        "root": None if chord.root is None else str(chord.root),
        "bass": None if chord.bass is None else str(chord.bass),
        "semitones": chord.semitones,
        "heard_on": {
            "root": None if heard is None else str(heard.root),
            "semitones": [] if heard is None else heard.semitones,
        },
    }


def chord_line(symbol: str) -> str:
    """How a symbol is read, in one line of words."""
    read = chord_json(symbol)
    if "error" in read:
        return str(read["error"])
    if read["root"] is None:
        return f"{symbol}: no chord"
    chord = parse_chord(symbol)
    heard = hear(chord)
    assert heard is not None
    tones = " ".join([*chord.core_names.values(), *chord.extension_names.values()])
    text = f"{symbol}: {chord.shown}, {tones}"
    if heard.on_bass:
        names = " ".join(heard.names[slot] for slot in heard.semitones)
        text += f"; heard on {heard.root}: {names}"
    return text
