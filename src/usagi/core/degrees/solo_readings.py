"""The readings of a whole solo, computed again only where an edit changes something.

First every note is read by itself, then the line that it stands in gives it a role by where it goes; last comes what
the teacher says of it.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from usagi.core.chart.timeline import Change
from usagi.core.degrees.anticipation import anticipated
from usagi.core.degrees.labels import NoteReading, Overruled, is_curl, read_note
from usagi.core.degrees.lines import Line, Mark, Role
from usagi.core.degrees.marks import marks
from usagi.core.degrees.naming import name_beside
from usagi.core.degrees.patterns import REACH, Pattern, Point, pattern_words, patterns
from usagi.core.degrees.spoken import Reader, Wording
from usagi.core.document.elements import AnticipationChoice, ChangesChoice, Note, ReadingChoice, RoleChoice
from usagi.core.document.pitches import main_stage, stages
from usagi.core.document.solo import Ground, Solo
from usagi.core.harmony.scales import ScaleUnreadable, read_scale
from usagi.core.pitch.names import pitch_text, read_name

MOST_CHANGED = 40  # notes; when more are changed in one go, all are read anew


class Led(NamedTuple):
    """What the line gives a note: a pattern for each of its lines of changes, and its marks."""

    patterns: tuple[Pattern | None, ...] = ()
    marks: tuple[Mark, ...] = ()


_NOT_LED = Led()


@dataclass(frozen=True)
class Readings:
    """The readings of a solo's notes by id, and what they were made of, so that the next are made of what changed."""

    solo: Solo
    ground: Ground
    reader: Reader
    written: Mapping[str, Note]
    early: Mapping[str, Change]
    alone: Mapping[str, NoteReading]  # each note by itself
    points: Mapping[str, Point]  # each note in its line
    led: Mapping[str, Led]
    notes: Mapping[str, NoteReading]
    anew: frozenset[str] | None = None  # the notes that were read anew since the readings before; None for all

    def differing(self, solo: Solo) -> tuple[list[Note], list[Note]] | None:
        """The notes that differ between two states, old and new; None when so many differ that all are read again."""
        written = self.written
        now = [note for note in solo.notes if written.get(note.id) is not note]
        gone = [written[note.id] for note in now if note.id in written]
        if len(written) - len(gone) > len(solo.notes) - len(now):  # some have gone without another in their place
            ids = {note.id for note in solo.notes}
            gone += [note for note_id, note in written.items() if note_id not in ids]
        return None if len(now) + len(gone) > MOST_CHANGED else (gone, now)


def read_notes(solo: Solo, ground: Ground, reader: Reader = Reader()) -> list[NoteReading]:
    """The reading of every note of a solo, in time order: names, degrees on every line, roles, what is held.

    Parameters
    ----------
    solo, ground : the notes, and the chart and grid that they stand on.
    reader : degree style, note names and counting school.
    """
    found = readings(solo, ground, reader).notes
    return [found[note.id] for note in solo.notes]


def readings(solo: Solo, ground: Ground, reader: Reader = Reader(), before: Readings | None = None) -> Readings:
    """The readings of all notes.

    `before` are readings of an earlier state: those of notes for which nothing changed are taken over.
    """
    if before is not None and before.ground is ground and before.reader == reader:
        same = before.solo.settings == solo.settings and _over_notes(before.solo) == _over_notes(solo)
        differing = before.differing(solo) if same else None
        if differing is not None:
            return _read_on(before, solo, *differing)
    early = heard_early(solo.notes, solo, ground)
    line = _Line(solo, ground, reader, early)
    plain = line.alone(solo.notes)
    points = line.points(solo.notes, plain)
    led = line.led(solo.notes, plain, points)
    notes = line.told(solo.notes, plain, led)
    return Readings(solo, ground, reader, {note.id: note for note in solo.notes}, early, plain, points, led, notes)


def _read_on(before: Readings, solo: Solo, gone: list[Note], now: list[Note]) -> Readings:
    """Read the changed notes again, those just before them, which may be heard against the same chord, and those whose
    role rests on them."""
    reach = solo.settings.window
    ticks = {note.tick for note in (*gone, *now)}
    near = {note.id: note for tick in ticks for note in _between(solo.notes, tick - reach, tick + reach)}
    early_now = heard_early(sorted(near.values(), key=lambda note: note.tick), solo, before.ground)
    written, early = dict(before.written), dict(before.early)
    plain, points, led = dict(before.alone), dict(before.points), dict(before.led)
    notes = dict(before.notes)
    for note in gone:
        early.pop(note.id, None)
        led.pop(note.id, None)
        del written[note.id], plain[note.id], points[note.id], notes[note.id]
    anew = []
    for note in near.values():
        leads = any(note.tick <= tick <= note.tick + reach for tick in ticks)
        if note.id not in written or (leads and early.get(note.id) is not early_now.get(note.id)):
            anew.append(note)
            written[note.id] = note
            early.pop(note.id, None)
            if note.id in early_now:
                early[note.id] = early_now[note.id]
    line = _Line(solo, before.ground, before.reader, early)
    plain |= line.alone(anew)
    ticks |= {note.tick for note in anew} | _moved_borders(before.solo, solo)
    told = {note.id: note for note in anew}
    for outer, inner in _windows(solo.notes, ticks):
        points |= line.points(outer, plain)
        leads_now = line.led(outer, plain, points)
        for note in inner:
            if leads_now.get(note.id, _NOT_LED) != led.get(note.id, _NOT_LED):
                told[note.id] = note
                led.pop(note.id, None)
                if note.id in leads_now:
                    led[note.id] = leads_now[note.id]
    for note_id in _overruled_otherwise(before.solo, solo):
        if note_id in written:
            told[note_id] = written[note_id]
    notes |= line.told(told.values(), plain, led)
    return Readings(solo, before.ground, before.reader, written, early, plain, points, led, notes, frozenset(told))


@dataclass(frozen=True)
class _Line:
    """A solo's notes as a line over the chords."""

    solo: Solo
    ground: Ground
    reader: Reader
    early: Mapping[str, Change]

    def alone(self, notes: Sequence[Note]) -> dict[str, NoteReading]:
        layers = [c for c in self.solo.choices if isinstance(c, ChangesChoice)]
        wording = Wording(self.ground.timeline, self.reader)
        scales = _picked_scales(self.solo)
        return {
            note.id: read_note(
                note,
                stages(note, self.solo.settings),
                self.ground.timeline,
                self.early.get(note.id),
                layers,
                wording,
                next((scale for start, end, scale in scales if start <= note.tick < end), None),
            )
            for note in notes
        }

    def led(
        self, notes: Sequence[Note], plain: Mapping[str, NoteReading], points: Mapping[str, Point]
    ) -> dict[str, Led]:
        """What the line gives to some notes that follow each other."""
        chart = [points[note.id] for note in notes]
        by_line = [patterns(chart)]
        layers = [c for c in self.solo.choices if isinstance(c, ChangesChoice)]
        by_layer = {}
        for layer in layers:
            if notes and layer.start <= notes[-1].tick and layer.end > notes[0].tick:
                by_layer[layer.id] = patterns(list(self.points(notes, plain, layer).values()))
        midi = {point.id: point.midi for point in chart if point.midi is not None}
        cores = frozenset(point.id for point in chart if point.core)
        marked = marks(notes, midi, cores, self.ground.timeline.bars)
        found = {}
        for note in notes:
            own: list[Pattern | None] = [by_line[0].get(note.id)]
            if by_layer:
                laid = [layer for layer in layers if layer.start <= note.tick < layer.end]
                own += [by_layer.get(layer.id, {}).get(note.id) for layer in laid]
            if note.id in marked or any(own):
                found[note.id] = Led(tuple(own), marked.get(note.id, ()))
        return found

    def points(
        self, notes: Sequence[Note], plain: Mapping[str, NoteReading], over: ChangesChoice | None = None
    ) -> dict[str, Point]:
        """The notes as points of a line of changes: the chart, and `over` it a layer where it lies."""
        bars = self.ground.timeline.bars
        starts = [phrase.start for phrase in self.solo.phrases]
        layers = [c for c in self.solo.choices if isinstance(c, ChangesChoice)] if over is not None else []
        found = {}
        for note in notes:
            reading = plain[note.id]
            line = reading.lines[0]
            if over is not None and over.start <= note.tick < over.end:
                laid = [layer.id for layer in layers if layer.start <= note.tick < layer.end]
                line = reading.lines[1 + laid.index(over.id)]
            i = bisect_right(starts, note.tick) - 1
            inside = i >= 0 and note.tick < self.solo.phrases[i].end
            rest = bars.at(note.tick).pulse_at(note.tick)[2]
            midi, core, is_open = self._standing(note, reading, line)
            phrase = 2 * i + (not inside)
            found[note.id] = Point(note.id, note.tick, note.end, midi, core, is_open, line.degree or "", rest, phrase)
        return found

    def _standing(self, note: Note, reading: NoteReading, line: Line) -> tuple[float | None, bool, bool]:
        """The main pitch of a note, whether that is a core tone, and whether its line may give it a role."""
        if reading.midi is None:
            return None, False, False
        midi = line.stages[0].midi
        if len(line.stages) > 1:
            main = main_stage(stages(note, self.solo.settings))
            assert main is not None
            midi = main.midi
        if line.role is Role.CHORD_TONE:
            return midi, True, False
        if line.role is Role.ANTICIPATION:
            heard = self.early[note.id].heard
            core = heard is not None and midi % 1 == 0 and (int(midi) - heard.root.pitch_class) % 12 in heard.core
            return midi, core, False
        return midi, False, line.role is not None and midi % 1 == 0 and not is_curl(note)

    def told(
        self, notes: Iterable[Note], plain: Mapping[str, NoteReading], led: Mapping[str, Led]
    ) -> dict[str, NoteReading]:
        """The notes with what their line gives them, and what the teacher says of them."""
        overruled = {c.note: c for c in self.solo.choices if isinstance(c, RoleChoice)}
        found = {}
        for note in notes:
            reading = plain[note.id]
            if note.id in led:
                reading = self._with(note, reading, led[note.id], plain)
            if note.id in overruled:
                reading = _overruled(reading, overruled[note.id])
            found[note.id] = reading
        return found

    def _with(self, note: Note, reading: NoteReading, led: Led, plain: Mapping[str, NoteReading]) -> NoteReading:
        lines = list(reading.lines)
        for i, pattern in enumerate(led.patterns):
            if pattern is not None:
                says = pattern_words(pattern, lines[i].degree or "")
                lines[i] = lines[i]._replace(role=pattern.role, goal=pattern.goal, says=says)
        lines[:-1] = [line._replace(marks=led.marks) for line in lines[:-1]]
        changed = reading._replace(lines=tuple(lines))
        pattern = led.patterns[0] if led.patterns else None
        goal = None if pattern is None or pattern.goal_id is None else plain.get(pattern.goal_id)
        if pattern is None or goal is None or pattern.role not in (Role.APPROACH, Role.ENCLOSURE):
            return changed
        return self._spelled(note, changed, pattern, goal)

    def _spelled(self, note: Note, reading: NoteReading, pattern: Pattern, goal: NoteReading) -> NoteReading:
        """A chromatic approach takes the letter next to its goal."""
        change, key = self.ground.timeline.chord_at(note.tick), self.ground.timeline.facts_at(note.tick).key
        if len(reading.stage_names) != 1 or reading.midi is None or abs(pattern.steps) > 2 or change is None:
            return reading
        pitch_class = int(reading.midi) % 12
        assert change.heard is not None
        named = (pitch_class - change.heard.root.pitch_class) % 12 in change.heard.names
        if named or (key is not None and key.diatonic_name(pitch_class) is not None):
            return reading
        name = name_beside(read_name(goal.stage_names[-1]), pitch_class, below=pattern.steps > 0)
        if name is None:
            return reading
        text = pitch_text(name, reading.midi, syllables=self.reader.syllables)
        return reading._replace(name=text, stage_names=(text,))


def _overruled(reading: NoteReading, choice: RoleChoice) -> NoteReading:
    """A note with the teacher's role on its shown line; what was computed stays beside it."""
    shown = next(i for i, line in enumerate(reading.lines) if line.shown)
    line = reading.lines[shown]
    says = choice.role if choice.goal is None else f"{choice.role} to the {choice.goal}"
    own = line._replace(role=Role(choice.role), goal=choice.goal, says=says)
    lines = (*reading.lines[:shown], own, *reading.lines[shown + 1 :])
    return reading._replace(lines=lines, overruled=Overruled(line.role, line.goal, line.says))


def _windows(notes: Sequence[Note], ticks: Iterable[int]) -> list[tuple[Sequence[Note], Sequence[Note]]]:
    """Stretches of notes around some ticks: all that decides roles, and inside it those whose role may change."""
    onsets = sorted({note.tick for note in notes})
    inner: list[tuple[int, int]] = []
    for tick in sorted(ticks):
        first = max(0, bisect_left(onsets, tick) - REACH)
        last = min(len(onsets), bisect_right(onsets, tick) + REACH)
        if inner and first <= inner[-1][1] + 2 * REACH:
            inner[-1] = (inner[-1][0], max(last, inner[-1][1]))
        else:
            inner.append((first, last))
    found = []
    for first, last in inner:
        if first < last:
            around = onsets[max(0, first - REACH)], onsets[min(len(onsets), last + REACH) - 1]
            found.append((_between(notes, *around), _between(notes, onsets[first], onsets[last - 1])))
    return found


def _between(notes: Sequence[Note], first: int, last: int) -> Sequence[Note]:
    """The notes, in time order, that begin at one of two ticks or between them."""
    return notes[bisect_left(notes, first, key=_tick) : bisect_right(notes, last, key=_tick)]


def _tick(note: Note) -> int:
    return note.tick


def heard_early(notes: Sequence[Note], solo: Solo, ground: Ground) -> dict[str, Change]:
    overruled = {c.note: c for c in solo.choices if isinstance(c, AnticipationChoice)}
    return anticipated(notes, solo.settings, ground.timeline, choices=overruled)


def _over_notes(solo: Solo) -> list[object]:
    """The choices on which the reading of many notes rests, and where the phrases lie of which a scale is picked."""
    scales = [choice for choice in solo.choices if isinstance(choice, ReadingChoice) and _is_scale(choice)]
    picked = {choice.phrase for choice in scales}
    spans = [(phrase.id, phrase.start, phrase.end) for phrase in solo.phrases if phrase.id in picked]
    others = [choice for choice in solo.choices if isinstance(choice, AnticipationChoice | ChangesChoice)]
    return [*others, *scales, *spans]


def _is_scale(choice: ReadingChoice) -> bool:
    return choice.reading.startswith("scale ")


def _picked_scales(solo: Solo) -> list[tuple[int, int, frozenset[int]]]:
    """Start, end and pitch classes of each phrase that the teacher reads in one scale."""
    spans = {phrase.id: phrase for phrase in solo.phrases}
    found = []
    for choice in solo.choices:
        if isinstance(choice, ReadingChoice) and _is_scale(choice) and choice.phrase in spans:
            try:
                scale = read_scale(choice.reading.removeprefix("scale "))[2]
            except ScaleUnreadable:  # a document of other hands
                continue
            found.append((spans[choice.phrase].start, spans[choice.phrase].end, scale))
    return found


def _moved_borders(before: Solo, solo: Solo) -> set[int]:
    if before.phrases is solo.phrases or before.phrases == solo.phrases:
        return set()
    was = {(phrase.start, phrase.end) for phrase in before.phrases}
    now = {(phrase.start, phrase.end) for phrase in solo.phrases}
    return {tick for span in was ^ now for tick in span}


def _overruled_otherwise(before: Solo, solo: Solo) -> set[str]:
    if before.choices == solo.choices:
        return set()
    was = {choice for choice in before.choices if isinstance(choice, RoleChoice)}
    now = {choice for choice in solo.choices if isinstance(choice, RoleChoice)}
    return {choice.note for choice in was ^ now}
