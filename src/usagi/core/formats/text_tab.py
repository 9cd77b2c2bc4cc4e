"""Monospaced text tablature with a count line of fixed slots, chords above and degrees below.

Each pulse is divided by the grid that its onsets tell (core/meter/counting); a slot is a column as wide as its widest
entry. Signs: `h` hammered on, `p` pulled off, `t` tapped, `/` and `\\` slid up and down, `b½` bent by so many steps,
`r` let down, `v1` dipped with the bar and `^` brought back, `~` shaken, `x` dead, `( )` ghost, `?` unsure, `<12>`
harmonic. String 1 is the topmost line.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from usagi.core.degrees.labels import NoteReading, Reader, read_notes
from usagi.core.document.pitches import course_stages
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.techniques import Harmonic, SlideIn, SlideOff, Sure, steps_text
from usagi.core.document.things import Note
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import School, parts_of, slot_of, slot_words, spoken_beat

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
    head = [part for part in (document.tune, solo.settings.title, solo.settings.player) if part]
    lines = [" · ".join(head), _setting_line(solo, ground), ""]
    bars = ground.timeline.bars
    numbers = range(solo.settings.first_bar, solo.settings.last_bar + 1)
    columns = [(bar, _columns(bar, solo, ground, readings, school))
               for bar in (bars.number(n) for n in numbers) if bar is not None]  # fmt: skip
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
    return "\n".join(line.rstrip() for line in lines)


def _setting_line(solo: Solo, ground: Ground) -> str:
    tuning = tuning_of(solo.settings.tuning)
    name = f"{tuning.known_as} " if tuning.known_as else ""
    capo = f", capo {solo.settings.capo}" if solo.settings.capo else ""
    meter = ground.timeline.facts_at(0).meter
    tempo = ground.grid.tempo_bpm(0, meter.pulses[0])
    feel = solo.settings.feel.value if solo.settings.feel is not None else ground.timeline.facts_at(0).feel
    return f"{name}({tuning.text()}){capo}, {meter.tempo_unit} = {tempo:.0f}, {feel}"


def _columns(bar: Bar, solo: Solo, ground: Ground, readings: dict[str, NoteReading], school: School) -> list[_Column]:
    columns: list[_Column] = []
    notes = [note for note in solo.notes if bar.tick <= note.tick < bar.end]
    changes = [
        c for c in ground.timeline.changes if bar.tick <= c.tick < bar.end and c.tick < ground.timeline.written_end
    ]
    rests = [rest for rest in solo.rests if bar.tick <= rest.tick < bar.end]
    carried: list[Note] = []  # notes that lie nearest to the 1 of the next pulse
    meter = bar.meter
    for beat, start in bar.pulse_ticks():
        pulse = meter.pulses[beat - 1]
        here = [note for note in notes if start <= note.tick < start + pulse]
        silent = [rest.tick - start for rest in rests if start <= rest.tick < start + pulse]
        parts = parts_of([note.tick - start for note in here] + silent, pulse, compound=meter.compound)
        words = slot_words(
            spoken_beat(meter, beat), parts, compound=meter.compound, groups=bool(meter.groups), school=school
        )
        slots = [_Column(word) for word in words]
        for note in carried:
            _enter(slots[0], note, solo, readings, exact=False)
        carried = []
        for note in here:
            slot, exact = slot_of(note.tick - start, pulse, parts)
            if slot == parts:
                carried.append(note)
            else:
                _enter(slots[slot], note, solo, readings, exact=exact)
        for change in changes:
            if start <= change.tick < start + pulse:
                slots[min(slot_of(change.tick - start, pulse, parts)[0], parts - 1)].chord = change.shown
        columns += slots
    for note in carried:  # past the last slot of the bar: written there, marked as off the grid
        _enter(columns[-1], note, solo, readings, exact=False)
    return columns


def _enter(column: _Column, note: Note, solo: Solo, readings: dict[str, NoteReading], *, exact: bool) -> None:
    if not exact and not column.word.endswith("~"):
        column.word += "~"
    text = cell(note, solo)
    column.cells[note.string] = column.cells.get(note.string, "") + text
    said = degree_text(readings[note.id])
    if said:
        column.degree = f"{column.degree},{said}" if column.degree else said


def degree_text(reading: NoteReading) -> str:
    """The degrees of a note on its shown line: a bend with start and target, an anticipation with both."""
    shown = next(line for line in reading.lines if line.shown)
    degrees = [stage.degree for stage in shown.stages if stage.degree is not None]
    text = ">".join(degrees)
    if reading.other_degree is not None:
        text += f"({reading.other_degree})"
    return text or (reading.key_degree or "")


def cell(note: Note, solo: Solo) -> str:
    """One note in signs."""
    if note.dead:
        text = "x"
    elif note.fret is None:
        text = "?"
    else:
        text = f"{note.fret / HUNDREDTHS:g}"
    if isinstance(note.attack, Harmonic):
        text = f"<{text}>"
    if note.ghost:
        text = f"({text})"
    before = next((n for n in reversed(solo.notes) if n.string == note.string and n.tick < note.tick), None)
    text = _attack_sign(note, before) + text + _course_signs(note)
    if note.vibrato is not None:
        text += "~"
    if isinstance(note.ending, SlideOff):
        text += "/" if note.ending.to == "far up" or _higher(note.ending.to, note.fret) else "\\"
    return text + ("?" if note.sure is not Sure.SURE and note.fret is not None else "")


def _higher(to: int | str, fret: int | None) -> bool:
    return isinstance(to, int) and fret is not None and to > fret


def _attack_sign(note: Note, before: Note | None) -> str:
    if isinstance(note.attack, SlideIn):
        from_above = note.attack.start == "far above" or _higher(note.attack.start, note.fret)
        return "\\" if from_above else "/"
    if note.attack.kind == "slide":
        falling = before is not None and _higher(before.fret or 0, note.fret)
        return "\\" if falling else "/"
    return {"hammer-on": "h", "pull-off": "p", "tapped": "t"}.get(note.attack.kind, "")


def _course_signs(note: Note) -> str:
    text = ""
    level = 0
    for _, quarters, _ in course_stages(note.course, note.ticks):
        if quarters < 0:
            text += f"v{steps_text(-quarters)}"
        elif level < 0:
            text += "^"
        elif quarters > level:
            text += f"b{steps_text(quarters)}"
        elif quarters < level:
            text += "r" + (steps_text(quarters) if quarters > 0 else "")
        level = quarters
    return text


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
