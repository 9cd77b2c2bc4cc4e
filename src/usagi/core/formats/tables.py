"""What a solo and its ground say as tables with commas and a head: notes, beats, sections."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Final

from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.played import played
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.read_output import fret_number
from usagi.core.playing.timing import expected_seconds

NOTES: Final = (
    "place", "second", "seconds", "tick", "ticks", "string", "fret", "name", "midi", "chord", "degree", "key degree",
    "role", "played", "sure",
)  # fmt: skip
BEATS: Final = ("bar", "beat", "second", "tick", "meter", "section")
SECTIONS: Final = ("start", "end", "name", "first bar", "last bar")
DIGITS: Final = 4  # of a second
FORMULAS: Final = ("=", "+", "-", "@", "\t", "\r")

Row = Sequence[object]


def written_table(head: Sequence[str], rows: Iterable[Row]) -> bytes:
    """A table as text: UTF-8, commas, quotes where they are needed, one newline a row.

    Text that a spreadsheet would work out as a formula stands behind an apostrophe.

    >>> written_table(["name"], [["=1+1"], ["Ada"], [-3]])
    b"name\\n'=1+1\\nAda\\n-3\\n"
    """
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(head)
    write.writerows([_plain(cell) for cell in row] for row in rows)
    return out.getvalue().encode()


def _plain(cell: object) -> object:
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in FORMULAS else cell


def notes_table(document: SoloDocument, reader: Reader = Reader()) -> bytes:
    """A row a note, in time order, with its degree on the shown line."""
    return written_table(NOTES, _notes(document, reader))


def _notes(document: SoloDocument, reader: Reader) -> Iterator[Row]:
    solo, ground = document.solo, document.ground
    edges = [edge for note in solo.notes for edge in (note.tick, note.end)]
    seconds = expected_seconds(solo, ground, edges)
    for i, (note, reading) in enumerate(zip(solo.notes, read_notes(solo, ground, reader), strict=True)):
        shown = next((line for line in reading.lines if line.shown), None)
        start, end = seconds[2 * i], seconds[2 * i + 1]
        yield (
            reading.where,
            round(start, DIGITS),
            round(end - start, DIGITS),
            note.tick,
            note.ticks,
            note.string,
            _blank(fret_number(note.fret)),
            _blank(reading.name),
            _blank(reading.midi),
            _blank(None if shown is None else shown.chord),
            _blank(reading.degree),
            _blank(reading.key_degree),
            _blank(None if shown is None else shown.role),
            " ".join(str(one).replace(" ", "-") for one in played(note)),
            note.sure.value,
        )


def _blank(value: object) -> object:
    return "" if value is None else value


def beats_table(document: SoloDocument) -> bytes:
    """A row a pulse of the recording."""
    return written_table(BEATS, _beats(document))


def _beats(document: SoloDocument) -> Iterator[Row]:
    timeline, grid = document.ground.timeline, document.ground.grid
    for bar in timeline.bars.bars:
        played_bar = timeline.played.get(bar.number)
        section = "" if played_bar is None else played_bar.section
        for beat, tick in bar.pulse_ticks():
            yield bar.number, beat, round(grid.second(tick), DIGITS), tick, str(bar.meter), section


def sections_table(document: SoloDocument) -> bytes:
    """A row a section as it is played."""
    timeline, grid = document.ground.timeline, document.ground.grid
    starts = [(n, one.section) for n, one in sorted(timeline.played.items()) if one.index == 1]
    rows = []
    for i, (first, name) in enumerate(starts):
        last = starts[i + 1][0] - 1 if i + 1 < len(starts) else max(timeline.played)
        begin, stop = timeline.bars.number(first), timeline.bars.number(last)
        if begin is not None and stop is not None:
            rows.append(
                (round(grid.second(begin.tick), DIGITS), round(grid.second(stop.end), DIGITS), name, first, last)
            )
    return written_table(SECTIONS, rows)
