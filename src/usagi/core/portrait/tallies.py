"""What a player does in one solo, counted phrase by phrase (docs/music.md, Habits).

A tally is kept as JSON: for each phrase the notes that each bin of each group counts, so that every figure can open
them. A group is a question (on which beat do phrases start?), a bin one answer to it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum
from itertools import groupby, pairwise
from typing import Final

from usagi.core.degrees.lines import Role
from usagi.core.degrees.solo_readings import Readings
from usagi.core.document.credits import counts_for
from usagi.core.document.elements import Note
from usagi.core.document.joins import sources
from usagi.core.document.played import played
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.techniques import Slide, SlideIn, SlideOff, Sure
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.harmony.heard import Heard
from usagi.core.licks.entries import Span, beat_place, sounds_by_id, spans_of
from usagi.core.licks.line import key_free
from usagi.core.playing.timing import expected_seconds
from usagi.core.readings.feel import Sounded, feel_of
from usagi.core.readings.grips import grip_readings
from usagi.core.readings.line import Sound, slot_of
from usagi.core.readings.reading import figure_of
from usagi.core.values import Value

WIDEST: Final = 12  # semitones of an interval that is counted by itself
OPENING: Final = 3  # notes of a section's first phrase


class Group(StrEnum):
    """The questions that are counted. Degrees and moves are counted for each quality of chord apart."""

    DEGREES = "degrees"
    MOVES = "moves"
    ROLES = "roles"
    PATHS = "paths"
    INTERVALS = "intervals"
    CONTOURS = "contours"
    STARTS = "starts"
    ENDS = "ends"
    START_DEGREES = "start degrees"
    END_DEGREES = "end degrees"
    LENGTHS = "lengths"
    RESTS = "rests"
    STRINGS = "strings"
    FRETS = "frets"
    PLACES = "places"
    GRIPS = "grips"
    TECHNIQUES = "techniques"
    BENDS = "bends"
    SLIDES = "slides"
    PICKING = "picking"
    LAST_NOTES = "last notes"
    OPENINGS = "openings"


PHRASE_GROUPS: Final = frozenset(
    {Group.CONTOURS, Group.STARTS, Group.ENDS, Group.START_DEGREES, Group.END_DEGREES, Group.LENGTHS, Group.RESTS,
     Group.GRIPS, Group.LAST_NOTES, Group.OPENINGS}
)  # fmt: skip
DOMINANT, MAJOR, MINOR, DIMINISHED, OTHER = "dominant", "major", "minor", "diminished", "other"
QUALITIES: Final = (DOMINANT, MINOR, MAJOR, DIMINISHED, OTHER)


class Measured(Value):
    """What is measured in a phrase rather than counted: each value with the note that it belongs to."""

    bend_cents: tuple[tuple[int, int, float], ...] = ()  # note, quarters written, cents heard
    vibrato: tuple[tuple[int, float, float], ...] = ()  # note, width in cents, rate
    placement_ms: float | None = None
    swing: float | None = None


class PhraseTally(Value):
    """A phrase: its notes (by their number in the solo), and for `group:bin` the notes that it counts.

    `tokens` are those of its voice, each with the note that it stands for in `voice`.
    """

    notes: tuple[int, ...]
    tempo_bpm: float
    tokens: tuple[tuple[int | None, int, int], ...]
    voice: tuple[int, ...]
    bins: dict[str, tuple[int, ...]]
    measured: Measured = Measured()


class Tally(Value):
    """A solo. `ids` and `seconds` go by a note's number; `unsure` notes are in no bin, unknown ones nowhere."""

    counts: bool
    ids: tuple[str, ...] = ()
    seconds: tuple[float, ...] = ()
    unsure: tuple[str, ...] = ()
    phrases: tuple[PhraseTally, ...] = ()


def tally(
    solo: Solo, ground: Ground, heard: Mapping[str, Sounded] | None = None, read: Readings | None = None
) -> Tally:
    """Count a solo. Versions, quotes, melodies and disputed solos count for nobody.

    `heard` is what was heard of its notes, by id; `read` its readings, where they are known.
    """
    settings = solo.settings
    out = settings.parent is not None or settings.sources or settings.melody
    if out or not counts_for(settings.player, settings.credits):
        return Tally(counts=False)
    sounds = sounds_by_id(solo, ground, read)
    sure = [note for note in solo.notes if note.sure is Sure.SURE]
    number = {note.id: i for i, note in enumerate(sure)}
    edges = [edge for note in sure for edge in (note.tick, note.end)]
    at = dict(zip(edges, expected_seconds(solo, ground, edges), strict=True))
    spans = spans_of(solo, ground)
    counter = _Counter(solo, ground, sounds, number, heard or {})
    return Tally(
        counts=True,
        ids=tuple(note.id for note in sure),
        seconds=tuple(round(at[note.end] - at[note.tick], 3) for note in sure),
        unsure=tuple(note.id for note in solo.notes if note.sure is Sure.UNSURE),
        phrases=tuple(
            found
            for before, span, after in zip([None, *spans], spans, [*spans[1:], None], strict=False)
            if (found := counter.phrase(span, after, before)) is not None
        ),
    )


class _Counter:
    """Counts one solo, phrase by phrase."""

    def __init__(
        self,
        solo: Solo,
        ground: Ground,
        sounds: Mapping[str, Sound],
        number: Mapping[str, int],
        heard: Mapping[str, Sounded],
    ) -> None:
        self.solo, self.ground, self.sounds, self.number, self.heard = solo, ground, sounds, number, heard
        self.bins: dict[str, list[int]] = {}
        self._before = sources(solo.notes)

    def phrase(self, span: Span, after: Span | None, before: Span | None) -> PhraseTally | None:
        """A span counted; None when none of its notes is sure."""
        notes = [note for note in span.notes if note.id in self.number]
        if not notes:
            return None
        self.bins = {}
        own = [self.sounds[note.id] for note in notes if note.id in self.sounds]
        for note in notes:
            self._of_note(note)
        for sound in own:
            self._of_sound(sound)
        voice = [max(group, key=lambda sound: sound.midi) for _, group in groupby(own, key=lambda one: one.note.tick)]
        for one, other in pairwise(voice):
            self._of_pair(one, other)
        if own:
            self._of_ends(voice, own)
            self._of_section(span, before, voice)
        self._of_length(span, after)
        bars = self.ground.timeline.bars
        pulse = bars.at(notes[0].tick).pulse_at(notes[0].tick)[2]
        return PhraseTally(
            notes=tuple(self.number[note.id] for note in notes),
            tempo_bpm=round(self.ground.grid.tempo_bpm(notes[0].tick, pulse), 1),
            tokens=tuple((one.slot, one.direction, one.gap) for one in key_free(own).tokens),
            voice=tuple(self.number[sound.note.id] for sound in voice),
            bins={name: tuple(found) for name, found in self.bins.items()},
            measured=self._measured(notes),
        )

    def _count(self, group: str, answer: object, *notes: Note) -> None:
        self.bins.setdefault(f"{group}:{answer}", []).extend(self.number[note.id] for note in notes)

    def _of_note(self, note: Note) -> None:
        self._count(Group.STRINGS, note.string, note)
        if note.fret is not None and not note.dead:
            fret = note.fret // HUNDREDTHS
            self._count(Group.FRETS, fret, note)
            self._count(Group.PLACES, f"{note.string}/{fret}", note)
        for technique in played(note):
            self._count(Group.TECHNIQUES, technique, note)
        top = max((quarters for _, quarters in note.course), default=0)
        if top > 0:
            self._count(Group.BENDS, top, note)
        if isinstance(note.attack, SlideIn):
            below = note.attack.start == "far below" or (
                isinstance(note.attack.start, int) and note.attack.start < (note.fret or 0)
            )
            self._count(Group.SLIDES, "in from below" if below else "in from above", note)
        if isinstance(note.ending, SlideOff):
            down = note.ending.to == "far down" or (
                isinstance(note.ending.to, int) and note.ending.to < (note.fret or 0)
            )
            self._count(Group.SLIDES, "off downwards" if down else "off upwards", note)
        source = self._before.get(note.id)
        if isinstance(note.attack, Slide) and source is not None and None not in (source.fret, note.fret):
            by = ((note.fret or 0) - (source.fret or 0)) // HUNDREDTHS
            self._count(Group.SLIDES, f"{'up' if by > 0 else 'down'} {abs(by)}", note)
        if note.attack.kind in ("hammer-on", "pull-off", "slide"):
            self._count(Group.PICKING, note.attack.kind, note)
        elif note.pick is not None:
            self._count(Group.PICKING, f"{note.pick} stroke" if note.pick in ("down", "up") else note.pick, note)
        else:
            self._count(Group.PICKING, "picked", note)

    def _of_sound(self, sound: Sound) -> None:
        slot = slot_of(sound)
        if slot is not None and sound.heard is not None:
            self._count(f"{Group.DEGREES} {quality_of(sound.heard)}", slot, sound.note)
        if sound.role is not None:
            self._count(Group.ROLES, sound.role, sound.note)
            line = next(line for line in sound.reading.lines if line.shown)
            if sound.role in (Role.ENCLOSURE, Role.APPROACH, Role.PASSING) and line.says:
                self._count(Group.PATHS, line.says, sound.note)

    def _of_pair(self, one: Sound, other: Sound) -> None:
        step = int(other.midi // 1 - one.midi // 1)
        self._count(Group.INTERVALS, max(-WIDEST, min(WIDEST, step)), one.note, other.note)
        first, second = slot_of(one), slot_of(other)
        if None not in (first, second) and first != second and one.heard is other.heard and one.heard is not None:
            self._count(f"{Group.MOVES} {quality_of(one.heard)}", f"{first}>{second}", one.note, other.note)

    def _of_ends(self, voice: Sequence[Sound], own: Sequence[Sound]) -> None:
        bars = self.ground.timeline.bars
        first, last = voice[0], voice[-1]
        self._count(Group.STARTS, beat_place(first.note.tick, bars), first.note)
        self._count(Group.ENDS, beat_place(last.note.tick, bars), last.note)
        for group, sound in ((Group.START_DEGREES, first), (Group.END_DEGREES, last)):
            slot = slot_of(sound)
            if slot is not None:
                self._count(group, slot, sound.note)
        self._count(Group.CONTOURS, contour_of([sound.midi for sound in voice]), *[sound.note for sound in own])
        shaken = last.note.vibrato is not None
        self._count(Group.LAST_NOTES, "with vibrato" if shaken else "without vibrato", last.note)
        grips = grip_readings(figure_of(own, self.ground.timeline), self.solo.settings)
        self._count(Group.GRIPS, grips[0].family if grips else "none", *[sound.note for sound in own])

    def _of_section(self, span: Span, before: Span | None, own: Sequence[Sound]) -> None:
        """The first phrase of a section says how the player opens it."""
        here = self._section(span.notes[0].tick)
        if here is None or (before is not None and self._section(before.notes[0].tick) == here):
            return
        slots = [slot_of(sound) for sound in own[:OPENING]]
        if len(slots) == OPENING and None not in slots:
            degrees = " ".join(str(slot) for slot in slots)
            self._count(Group.OPENINGS, f"{here[1]}|{degrees}", *[sound.note for sound in own[:OPENING]])

    def _section(self, tick: int) -> tuple[tuple[int, int, int], str] | None:
        played_bar = self.ground.timeline.played.get(self.ground.timeline.bars.at(tick).number)
        if played_bar is None:
            return None
        return (played_bar.chorus, played_bar.place, played_bar.time), played_bar.section

    def _of_length(self, span: Span, after: Span | None) -> None:
        bars = self.ground.timeline.bars
        start, end = span.notes[0].tick, max(note.end for note in span.notes)
        own = [note for note in span.notes if note.id in self.number]
        bar = bars.at(start).meter.bar_ticks
        self._count(Group.LENGTHS, _binned((end - start) / bar, LENGTH_BINS), *own)
        if after is not None:
            _, _, pulse = bars.at(end).pulse_at(end)
            rest = max(0, after.notes[0].tick - end) / pulse
            self._count(Group.RESTS, _binned(rest, REST_BINS), own[-1])

    def _measured(self, notes: Sequence[Note]) -> Measured:
        bends, shaken = [], []
        for note in notes:
            sounded = self.heard.get(note.id)
            top = max((quarters for _, quarters in note.course), default=0)
            if top > 0 and sounded is not None and len(sounded.cents) > 1:
                bends.append((self.number[note.id], top, round(max(sounded.cents), 1)))
            if note.vibrato is not None:
                shaken.append((self.number[note.id], note.vibrato.width_cents, note.vibrato.rate_hz))
        feel = feel_of(notes, self.heard, self.solo, self.ground)
        return Measured(
            bend_cents=tuple(bends),
            vibrato=tuple(shaken),
            placement_ms=None if feel.median_ms is None else round(feel.median_ms, 1),
            swing=None if feel.swing is None else round(feel.swing, 3),
        )


LENGTH_BINS: Final = ((1.0, "up to 1 bar"), (2.0, "1 to 2 bars"), (4.0, "2 to 4 bars"))
REST_BINS: Final = ((0.0, "no rest"), (1.0, "up to 1 beat"), (2.0, "1 to 2 beats"), (4.0, "2 to 4 beats"))


def _binned(value: float, bins: tuple[tuple[float, str], ...]) -> str:
    unit = bins[-1][1].split()[-1]
    return next((name for most, name in bins if value <= most + 1e-9), f"more than {bins[-1][0]:.0f} {unit}")


def quality_of(heard: Heard) -> str:
    """The quality under which degrees over a chord are counted.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> [quality_of(hear(parse_chord(symbol))) for symbol in ("C9sus4", "Cm7b5", "Cm", "C6", "C5")]
    ['dominant', 'diminished', 'minor', 'major', 'other']
    """
    if heard.dominant:
        return DOMINANT
    if heard.third == 3:
        return DIMINISHED if 6 in heard.core else MINOR
    return MAJOR if heard.third == 4 else OTHER


def contour_of(pitches: Sequence[float]) -> str:
    """The shape of a line: by where its highest and lowest notes lie.

    >>> [contour_of(line) for line in ([1, 3, 5], [5, 1, 6], [1, 6, 2], [4, 4], [1, 5, 2, 6, 3])]
    ['rises', 'dips', 'arches', 'stays', 'rises and falls by turns']
    """
    top, bottom = max(pitches), min(pitches)
    if top == bottom:
        return "stays"
    first, last = pitches[0], pitches[-1]
    turns = [b > a for a, b in pairwise(pitches) if b != a]
    changes = sum(a != b for a, b in pairwise(turns))
    if changes > 2:
        return "rises and falls by turns"
    if top > max(first, last) and (top - max(first, last)) >= (min(first, last) - bottom):
        return "arches"
    if bottom < min(first, last):
        return "dips"
    return "rises" if last > first else "falls" if last < first else "stays"
