"""What `./usagi read` and `./usagi chord` print: scripts rest on these shapes (docs/format.md)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from usagi.core.degrees.labels import RULES, NoteReading
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord

OUTPUT_SCHEMA = 1  # of what `read --json` prints


def fret_number(fret: int | None) -> int | float | None:
    """A fret as it is said: 10, or 3.2 between frets."""
    if fret is None:
        return None
    return fret // HUNDREDTHS if fret % HUNDREDTHS == 0 else fret / HUNDREDTHS


def reading_json(document: SoloDocument, reader: Reader) -> dict[str, Any]:
    """Every note with its place, name, chord and degrees, as plain JSON values."""
    rows = [_row(note, reading) for note, reading in _pairs(document, reader)]
    return {"schema": OUTPUT_SCHEMA, "rules": RULES, "notes": rows}


def _pairs(document: SoloDocument, reader: Reader) -> Iterable[tuple[Note, NoteReading]]:
    return zip(document.solo.notes, read_notes(document.solo, document.ground, reader), strict=True)


def _number(midi: float | None) -> int | float | None:
    return None if midi is None else int(midi) if midi == int(midi) else midi


def _row(note: Note, reading: NoteReading) -> dict[str, Any]:
    lines = [
        line._asdict() | {"stages": [stage._asdict() | {"midi": _number(stage.midi)} for stage in line.stages]}
        for line in reading.lines
    ]
    return {
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


COLUMNS = ("where", "string", "fret", "name", "heard on", "degree", "key", "other")


def reading_table(document: SoloDocument, reader: Reader) -> str:
    """The same as text in columns."""
    rows = [COLUMNS]
    for note, reading in _pairs(document, reader):
        shown = next(line for line in reading.lines if line.shown)
        degrees = " → ".join(stage.degree or "–" for stage in shown.stages) or "–"
        fret = "×" if note.dead else "?" if note.fret is None else f"{note.fret / HUNDREDTHS:g}"
        names = " → ".join(reading.stage_names) or "–"
        rows.append(
            (reading.where, str(note.string), fret, names, shown.heard_on or "–", degrees, reading.key_degree or "–",
             reading.other_degree or "")
        )  # fmt: skip
    widths = [max(len(row[i]) for row in rows) for i in range(len(COLUMNS))]
    return "\n".join("  ".join(cell.ljust(w) for cell, w in zip(row, widths, strict=True)).rstrip() for row in rows)


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
