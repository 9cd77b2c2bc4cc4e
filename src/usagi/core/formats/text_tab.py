"""Monospaced text tablature with a count line of fixed slots, chords above and degrees below.

Each pulse is divided by the grid that its onsets tell (core/meter/counting); a slot is a column as wide as its widest
entry. String 1 is the topmost line. The signs that occur are explained at the end (formats/tab_signs).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from usagi.core.degrees.labels import NoteReading
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.tab_signs import BETWEEN, cell, legend
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import School, parts_of, slot_of, slot_words, spoken_beat
from usagi.core.meter.meters import Meter

WIDTH = 100  # a system breaks before a bar that would pass this column


@dataclass
class _Column:
    """One slot: its counting word and what starts in it."""

    word: str
    chord: str = ""
    degree: str = ""
    cells: dict[int, str] = field(default_factory=dict)

    @property
    def width(self) -> int:
        texts = [self.word, self.degree, *self.cells.values()]
        return max(len(text) for text in texts) + 1


def write_tab(document: SoloDocument, *, school: School = School.A, reader: Reader = Reader()) -> str:
    """The tablature of a whole solo."""
    solo, ground = document.solo, document.ground
    readings = {reading.id: reading for reading in read_notes(solo, ground, reader)}
    signs = signs_of(solo.notes)
    head = [part for part in (document.tune, solo.settings.title, solo.settings.player) if part]
    lines = [" · ".join(head), _setting_line(solo, ground), ""]
    bars = ground.timeline.bars
    numbers = range(solo.settings.first_bar, solo.settings.last_bar + 1)
    columns: list[tuple[Bar, list[_Column]]] = []
    carried: list[Note] = []  # notes just before a bar line: they belong to 1 of the next bar
    for bar in (bar for n in numbers if (bar := bars.number(n)) is not None):
        slots, carried = _columns(bar, carried, solo, ground, readings, signs, school)
        columns.append((bar, slots))
    for note in carried:  # there is no next bar
        _enter(columns[-1][1][-1], note, signs, readings, exact=False)
    system: list[tuple[Bar, list[_Column]]] = []
    used = 0
    for bar, slots in columns:
        width = sum(c.width for c in slots) + 2
        if system and used + width > WIDTH:
            lines += [*_system(system, solo), ""]
            system, used = [], 0
        system.append((bar, slots))
        used += width
    if system:
        lines += [*_system(system, solo), ""]
    lines += _legend_lines(solo)
    return "\n".join(line.rstrip() for line in lines)


def _setting_line(solo: Solo, ground: Ground) -> str:
    tuning = tuning_of(solo.settings.tuning)
    name = f"{tuning.known_as} " if tuning.known_as else ""
    capo = f", capo {solo.settings.capo}" if solo.settings.capo else ""
    meter = ground.timeline.facts_at(0).meter
    tempo = ground.grid.tempo_bpm(0, meter.pulses[0])
    feel = solo.settings.feel.value if solo.settings.feel is not None else ground.timeline.facts_at(0).feel
    return f"{name}({tuning.text()}){capo}, {meter.tempo_unit} = {tempo:.0f}, {feel}"


def signs_of(notes: Sequence[Note]) -> dict[str, str]:
    """The signs of every note by its id; notes in order of time."""
    last: dict[int, Note] = {}
    signs = {}
    for note in notes:
        signs[note.id] = cell(note, last.get(note.string))
        last[note.string] = note
    return signs


def _legend_lines(solo: Solo) -> list[str]:
    lines: list[str] = []
    for word in legend(solo.notes):
        if lines and len(lines[-1]) + len(word) + 3 <= WIDTH:
            lines[-1] += f" · {word}"
        else:
            lines.append(word)
    return [*lines, ""] if lines else []


def tab_pulses(bar: Bar) -> list[tuple[int, int, int]]:
    """`(beat from 1, tick, ticks)` of the pulses that a bar is counted in; a pick-up may begin within its first."""
    starts = bar.meter.pulse_starts
    return [(beat, bar.counted_from + start, pulse)
            for beat, (start, pulse) in enumerate(zip(starts, bar.meter.pulses, strict=True), start=1)
            if bar.counted_from + start + pulse > bar.tick]  # fmt: skip


def pulse_words(meter: Meter, beat: int, parts: int, school: School) -> list[str]:
    """What the count line says of one pulse, a word a slot."""
    groups = bool(meter.groups)
    return slot_words(spoken_beat(meter, beat), parts, compound=meter.compound, groups=groups, school=school)


def _columns(
    bar: Bar,
    carried: list[Note],
    solo: Solo,
    ground: Ground,
    readings: dict[str, NoteReading],
    signs: dict[str, str],
    school: School,
) -> tuple[list[_Column], list[Note]]:
    """The columns of a bar, and the notes at its end that lie nearest to 1 of the next; `carried` are those before."""
    columns: list[_Column] = []
    notes = [note for note in solo.notes if bar.tick <= note.tick < bar.end]
    changes = [
        c for c in ground.timeline.changes if bar.tick <= c.tick < bar.end and c.tick < ground.timeline.written_end
    ]
    rests = [rest for rest in solo.rests if bar.tick <= rest.tick < bar.end]
    meter = bar.meter
    for beat, start, pulse in tab_pulses(bar):
        here = [note for note in notes if start <= note.tick < start + pulse]
        silent = [rest.tick - start for rest in rests if start <= rest.tick < start + pulse]
        parts = parts_of([note.tick - start for note in here] + silent, pulse, compound=meter.compound)
        slots = [_Column(word) for word in pulse_words(meter, beat, parts, school)]
        for note in carried:
            _enter(slots[0], note, signs, readings, exact=False)
        carried = []
        for note in here:
            slot, exact = slot_of(note.tick - start, pulse, parts)
            if slot == parts:
                carried.append(note)
            else:
                _enter(slots[slot], note, signs, readings, exact=exact)
        for change in changes:
            if start <= change.tick < start + pulse:
                slots[min(slot_of(change.tick - start, pulse, parts)[0], parts - 1)].chord = change.shown
        columns += slots
    return columns, carried


def _enter(
    column: _Column, note: Note, signs: dict[str, str], readings: dict[str, NoteReading], *, exact: bool
) -> None:
    if not exact and not column.word.endswith("~"):
        column.word += "~"
    there = column.cells.get(note.string)
    column.cells[note.string] = signs[note.id] if there is None else there + BETWEEN + signs[note.id]
    word = degree_text(readings[note.id])
    if word:
        column.degree = f"{column.degree},{word}" if column.degree else word


def degree_text(reading: NoteReading) -> str:
    """The degrees of a note on its shown line: a bend with start and target, an anticipation with both."""
    shown = next(line for line in reading.lines if line.shown)
    degrees = [stage.degree for stage in shown.stages if stage.degree is not None]
    text = ">".join(degrees)
    if reading.other_degree is not None:
        text += f"({reading.other_degree})"
    return text or (reading.key_degree or "")


def _system(system: list[tuple[Bar, list[_Column]]], solo: Solo) -> list[str]:
    tuning = tuning_of(solo.settings.tuning)
    names = [str(name) for name in tuning.names]
    margin = max(len(name) for name in names) + 1
    chords, counts, degrees = [" " * margin] * 3
    strings = {string: names[string - 1].ljust(margin) for string in range(1, tuning.strings + 1)}
    numbers = " " * margin
    for bar, columns in system:
        width = sum(column.width for column in columns)
        numbers += f" {bar.number}".ljust(width + 2)[: width + 2]
        counts, degrees = counts + "  ", degrees + "  "
        chord_text = "  "
        for column in columns:
            if column.chord:  # a symbol may run over slots without one; it never touches the next
                chord_text = (
                    chord_text.rstrip() + " " if len(chord_text.rstrip()) >= len(counts) - len(chords) else chord_text
                )
                chord_text = chord_text.ljust(len(counts) - len(chords)) + column.chord
            counts += column.word.ljust(column.width)
            degrees += column.degree.ljust(column.width)
        chords += chord_text.ljust(width + 2)
        if len(chords) > len(counts):
            extra = len(chords) - len(counts)
            counts, degrees, numbers = counts + " " * extra, degrees + " " * extra, numbers + " " * extra
            width += extra
        for string in strings:
            body = "|-" + "".join(c.cells.get(string, "").ljust(c.width, "-") for c in columns)
            strings[string] += body.ljust(width + 2, "-")
    return [numbers, chords, counts, *(line + "|" for line in strings.values()), degrees]
