"""All that the page draws and says of notes, bars and chords, already in words; it only decides where it goes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from usagi.core.chart.sections import place_in_form
from usagi.core.chart.timeline import Change
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.labels import NoteReading, Role
from usagi.core.degrees.naming import chord_tones
from usagi.core.degrees.solo_readings import Readings, readings
from usagi.core.degrees.spoken import Reader
from usagi.core.degrees.words import other_places, say_note
from usagi.core.document.credits import disputes
from usagi.core.document.loudness import louder_otherwise, loudness_words
from usagi.core.document.pitches import course_stages
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import steps_text
from usagi.core.document.things import Note, Question, Stack
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.fretboard.tension import Gauge, print_gauges
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.counting import School, slot_words, spoken_beat
from usagi.core.meter.meters import Meter
from usagi.core.meter.ticks import EIGHTH, LENGTHS, TUPLETS
from usagi.core.playing.timing import expected_anew, expected_seconds, onsets_of
from usagi.core.values import Value

INLAYS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24, 27, 29, 31, 33, 36)
BEND_SIZES = (1, 2, 4, 6, 8)  # quarter tones, in the order in which the bend key walks them

Shape = Literal["anticipation", "chord tone", "tension", "plain", "key", "none"]


class PlaceMark(Value):
    string: int
    fret: int


class BendMark(Value):
    """The size of a bend where it is reached, `at` ticks into the note."""

    at: int
    quarters: int
    size: str


class HeldMark(Value):
    tick: int
    degree: str


class NoteMark(Value):
    """One note: its place in words, its tablet, its sentence, where it is expected, where else it lies."""

    id: str
    where: str
    name: str
    degrees: tuple[str, ...]  # start → target …, as they stand in the tablet
    degree: str  # the one that it is known by
    other: str  # on an anticipation: the degree against the chord that still sounds, in words
    shape: Shape
    blue: bool
    held: tuple[HeldMark, ...]
    says: str
    more: str
    expected_s: float
    end_s: float
    bends: tuple[BendMark, ...]
    elsewhere: tuple[PlaceMark, ...]


class BeatMark(Value):
    tick: int
    count: str


class BarMark(Value):
    number: int
    tick: int
    end: int
    label: str
    clock: str
    beats: tuple[BeatMark, ...]
    section: str
    meter: str  # where it changes, else empty
    form: str  # which bar of which section, time and chorus it is
    key: str  # what holds here; empty without a key
    blues: bool


class SlotMark(Value):
    """What a pitch class is over a chord: for the neck seen from above."""

    degree: str
    shape: Shape


class ChordMark(Value):
    id: str
    tick: int
    end: int
    shown: str
    symbol: str
    tones: tuple[str, ...]
    slots: tuple[SlotMark, ...]  # by pitch class, 0 to 11; empty for N.C.
    bar: int
    where: str


class TupletMark(Value):
    count: int
    ticks: int


class LengthMark(Value):
    name: str
    short: str
    ticks: int
    dotted: int
    triplet: int
    tuplets: tuple[TupletMark, ...]


class StringMark(Value):
    """A string, its open name, and the pitch class of every fret from the open string on."""

    number: int
    name: str
    classes: tuple[int, ...]


class Tables(Value):
    """What the page needs to walk and draw without computing music."""

    lengths: tuple[LengthMark, ...]
    bend_sizes: tuple[BendMark, ...]
    bend_reached: int  # ticks; a bend is reached after these or half the note, whichever is shorter
    strings: tuple[StringMark, ...]
    frets: int
    inlays: tuple[int, ...]
    disputes: tuple[str, ...]  # who plays what, in sentences
    gauges: str
    strung_for: str  # the tuning that the set is made for, low to high
    highest_fret: float  # that a finger or a bottleneck reaches


class CueMark(Value):
    """Words or another player's entry, at a place."""

    id: str
    tick: int
    words: str
    where: str


class Strip(Value):
    bars: tuple[BarMark, ...]
    cues: tuple[CueMark, ...]
    chords: tuple[ChordMark, ...]
    tempo: str
    key: str
    feel: str


@dataclass(frozen=True)
class Marks:
    """The marks of a solo's notes by id, and what they were made of."""

    readings: Readings
    notes: dict[str, NoteMark]


def mark_notes(solo: Solo, ground: Ground, reader: Reader = Reader(), before: Marks | None = None) -> Marks:
    """The mark of every note. `before` are marks of an earlier state: what did not change is taken from them."""
    read = readings(solo, ground, reader, None if before is None else before.readings)
    anew = list(solo.notes)
    kept: dict[str, NoteMark] = {}
    if before is not None and read.anew is not None:
        was = before.readings.solo
        ids = read.anew | _asked_otherwise(was, solo) | _struck_otherwise(was, solo) | louder_otherwise(was, solo)
        moved = onsets_of(was.notes) ^ onsets_of(solo.notes)
        anew = [note for note in solo.notes if note.id in ids or (moved and expected_anew(note, moved))]
        kept = {note_id: mark for note_id, mark in before.notes.items() if note_id in read.notes}
    asked: dict[str, list[Question]] = {}
    for question in solo.questions:
        if question.answer is None:
            for note_id in question.notes:
                asked.setdefault(note_id, []).append(question)
    stacks = {stack.id: stack for stack in solo.stacks}
    edges = [edge for note in anew for edge in (note.tick, note.end)]
    seconds = dict(zip(edges, expected_seconds(solo, ground, edges), strict=True))
    made = {
        note.id: _mark(
            note,
            read.notes[note.id],
            asked.get(note.id, ()),
            seconds[note.tick],
            seconds[note.end],
            solo.settings,
            None if note.stack is None else stacks.get(note.stack),
            loudness_words(note, solo),
        )
        for note in anew
    }
    return Marks(read, kept | made)


def _asked_otherwise(before: Solo, solo: Solo) -> set[str]:
    """The notes of every question that was put, changed, answered or taken away."""
    if before.questions == solo.questions:
        return set()
    both = [*before.questions, *solo.questions]
    return {note_id for question in both if both.count(question) == 1 for note_id in question.notes}


def _struck_otherwise(before: Solo, solo: Solo) -> set[str]:
    """The notes of every stack that changed."""
    if before.stacks == solo.stacks:
        return set()
    was = {stack.id: stack for stack in before.stacks}
    changed = {stack.id for stack in solo.stacks if was.get(stack.id) != stack}
    return {note.id for note in solo.notes if note.stack in changed}


def _mark(
    note: Note,
    reading: NoteReading,
    asked: Sequence[Question],
    expected_s: float,
    end_s: float,
    settings: SoloSettings,
    stack: Stack | None,
    loudness: Sequence[str],
) -> NoteMark:
    shown = next(line for line in reading.lines if line.shown)
    elsewhere = other_places(note, reading, settings)
    sentence = say_note(note, reading, elsewhere, asked, stack, loudness)
    degrees = tuple(stage.degree for stage in shown.stages if stage.degree is not None)
    known_by = shown.degree or ""
    if not degrees and reading.key_degree is not None:
        degrees, known_by = (reading.key_degree,), reading.key_degree
    return NoteMark(
        id=note.id,
        where=reading.where,
        name=" → ".join(reading.stage_names),
        degrees=degrees,
        degree=known_by,
        other="" if reading.other_degree is None else f"{reading.other_degree} here",
        shape=_shape(shown.role, has_chord=shown.degree is not None, has_key=reading.key_degree is not None),
        blue=shown.blue,
        held=tuple(HeldMark(tick=held.tick, degree=held.degree) for held in reading.held),
        says=sentence.says,
        more=sentence.more,
        expected_s=round(expected_s, 6),
        end_s=round(end_s, 6),
        bends=tuple(
            BendMark(at=at, quarters=quarters, size=steps_text(abs(quarters)))
            for at, quarters, _ in course_stages(note.course, note.ticks)
            if quarters
        ),
        elsewhere=tuple([PlaceMark(string=p.string, fret=p.fret) for p in elsewhere]),
    )


def _shape(role: Role | None, *, has_chord: bool, has_key: bool) -> Shape:
    if role is not None:
        return role.value
    if has_chord:
        return "plain"
    return "key" if has_key else "none"


def clock_text(second: float) -> str:
    """Minutes, seconds and tenths.

    >>> clock_text(72.56), clock_text(-0.5)
    ('1:12.6', '-0:00.5')
    """
    tenths = round(abs(second) * 10)
    sign = "-" if second < 0 and tenths else ""
    return f"{sign}{tenths // 600}:{tenths % 600 // 10:02d}.{tenths % 10}"


def mark_strip(ground: Ground, reader: Reader = Reader()) -> Strip:
    """Bars and chords of a ground in words."""
    timeline, school = ground.timeline, reader.school
    bars: list[BarMark] = []
    meter_before = section_before = None
    for bar in timeline.bars.bars:
        played = timeline.played.get(bar.number)
        section = "" if played is None else played.section
        numbered = section
        if played is not None and ground.settings.choruses > 1 and played.index == 1 and played.time == 1:
            numbered = f"{section or 'chorus'} {played.chorus}".strip()
        starts = played is not None and played.index == 1
        meter = str(bar.meter)
        bars.append(
            BarMark(
                number=bar.number,
                tick=bar.tick,
                end=bar.end,
                label=str(bar.number),
                clock=clock_text(ground.grid.second(bar.tick)),
                beats=tuple(
                    BeatMark(tick=tick, count=_count(bar.meter, beat, school)) for beat, tick in bar.pulse_ticks()
                ),
                section=numbered if starts or section != section_before else "",
                meter=meter if meter != meter_before else "",
                form=place_in_form(ground.chart, played),
                key="" if (key := timeline.facts_at(bar.tick).key) is None else str(key),
                blues=timeline.facts_at(bar.tick).blues,
            )
        )
        meter_before, section_before = meter, section
    first = timeline.facts_at(0)
    tempo = ground.grid.tempo_bpm(0, first.meter.pulses[0])
    return Strip(
        bars=tuple(bars),
        cues=tuple(
            CueMark(id=cue.id, tick=cue.tick, words=cue.words, where=timeline.bars.place(cue.tick))
            for cue in ground.cues
        ),
        chords=tuple(_chords(ground, reader.style)),
        tempo=f"{first.meter.tempo_unit} = {tempo:.4g}",
        key="" if first.key is None else str(first.key),
        feel=str(first.feel),
    )


def _count(meter: Meter, beat: int, school: School) -> str:
    parts = 3 if meter.compound else 2
    return slot_words(
        spoken_beat(meter, beat), parts, compound=meter.compound, groups=bool(meter.groups), school=school
    )[0]


def _slots(change: Change, blues: bool, style: Style) -> tuple[SlotMark, ...]:
    heard = change.heard
    if heard is None:
        return ()
    marks = []
    for pitch_class in range(12):
        slot = (pitch_class - heard.root.pitch_class) % 12
        shape: Shape = "chord tone" if slot in heard.core else "tension" if slot in heard.extensions else "plain"
        marks.append(SlotMark(degree=degree(heard, slot, style=style, blues=blues), shape=shape))
    return tuple(marks)


def _chords(ground: Ground, style: Style) -> list[ChordMark]:
    timeline = ground.timeline
    marks = []
    known: dict[tuple[int, bool], tuple[SlotMark, ...]] = {}  # a form comes round many times with the same chords
    for i, change in enumerate(timeline.changes):
        end = timeline.end_of(i)
        if end <= change.tick:
            continue
        tones = () if change.heard is None else tuple(str(name) for name in chord_tones(change.heard))
        blues = timeline.facts_at(change.tick).blues
        slots = known.get((id(change.heard), blues)) or known.setdefault(
            (id(change.heard), blues), _slots(change, blues, style)
        )
        marks.append(
            ChordMark(
                id=change.id,
                tick=change.tick,
                end=end,
                shown=change.shown,
                symbol=change.chord.symbol,
                tones=tones,
                slots=slots,
                bar=change.bar,
                where=timeline.bars.place(change.tick),
            )
        )
    return marks


def mark_tables(solo: Solo) -> Tables:
    """Lengths, bends, strings and frets for the keys and the neck."""
    settings = solo.settings
    tuning = tuning_of(settings.tuning)
    names = [str(name) for name in tuning.names]
    return Tables(
        lengths=tuple(
            LengthMark(
                name=n.name,
                short=n.short,
                ticks=n.ticks,
                dotted=n.dotted,
                triplet=n.triplet,
                tuplets=tuple(TupletMark(count=count, ticks=n.tuplet(count)) for count in TUPLETS),
            )
            for n in LENGTHS
        ),
        bend_sizes=tuple(BendMark(at=0, quarters=q, size=steps_text(q)) for q in BEND_SIZES),
        bend_reached=EIGHTH,
        strings=tuple(
            StringMark(
                number=i,
                name=name,
                classes=tuple(
                    (open_pitch(i, settings.tuning, settings.capo) + fret) % 12
                    for fret in range(settings.last_fret - settings.capo + 1)
                ),
            )
            for i, name in enumerate(names, start=1)
        ),
        frets=settings.last_fret - settings.capo,
        inlays=INLAYS,
        disputes=disputes(settings.credits),
        gauges=print_gauges(Gauge(gauge.gauge_inch, gauge.wound) for gauge in settings.gauges),
        strung_for=" ".join(str(name) for name in reversed(tuning_of(settings.strung_for or settings.tuning).names)),
        highest_fret=settings.highest_fret / HUNDREDTHS,
    )
