"""A solo written as MusicXML 4.0: one part, bars unrolled as they are recorded, strings and frets at the notes."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from fractions import Fraction
from functools import reduce
from math import gcd
from typing import Final

from lxml import etree

from usagi.core.degrees.labels import NoteReading
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.joins import sources
from usagi.core.document.techniques import Stroke, Sure
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.musicxml.beams import beams_of
from usagi.core.formats.musicxml.chords import harmony_of
from usagi.core.formats.musicxml.techniques import notations_of
from usagi.core.formats.notated import Piece, Struck, Written, bar_pieces, bars_of_solo, voices_of
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.bars import Bar
from usagi.core.meter.feel import Feel, FeelKind
from usagi.core.meter.meters import Meter
from usagi.core.meter.ticks import LENGTHS, QUARTER
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import LETTERS, Name, read_name, sharp_name
from usagi.core.playing.timing import feels_of

DOCTYPE: Final = (
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN"'
    ' "http://www.musicxml.org/dtds/partwise.dtd">'
)
_UNIT_NAMES: Final = ("whole", "half", "quarter", "eighth", "16th", "32nd", "64th")
UNITS: Final = {length.ticks: name for length, name in zip(LENGTHS, _UNIT_NAMES, strict=True)}
PLACES: Final = 9  # digits of a tempo, so that the seconds of a whole recording come back


def write_musicxml(document: SoloDocument, *, degrees: bool = False, reader: Reader = Reader()) -> bytes:
    """The solo of a document.

    Parameters
    ----------
    document : the solo on its ground.
    degrees : whether each note has its degree under it, as a lyric.
    reader : the style of the degrees.

    Returns : UTF-8; the same document gives the same bytes.
    """
    root = _Writer(document, degrees, reader).score()
    etree.indent(root, space=" ")
    written: bytes = etree.tostring(root, encoding="UTF-8", xml_declaration=True, doctype=DOCTYPE)
    return written + b"\n"


class _Writer:
    """One document on its way; durations are filled in at the end, when their common measure is known."""

    def __init__(self, document: SoloDocument, degrees: bool, reader: Reader) -> None:
        self.document, self.degrees = document, degrees
        self.solo, self.ground = document.solo, document.ground
        self.timeline = self.ground.timeline
        self.readings = {one.id: one for one in read_notes(self.solo, self.ground, reader)}
        self.sources = sources(self.solo.notes)
        self.joined = {source.id: note_id for note_id, source in self.sources.items()}
        self.by_id = {note.id: note for note in self.solo.notes}
        self.stacks = {stack.id: stack for stack in self.solo.stacks}
        self.members: dict[str, list[Note]] = {}  # of each stack, the highest string first
        for note in sorted(self.solo.notes, key=lambda one: one.string):
            if note.stack is not None:
                self.members.setdefault(note.stack, []).append(note)
        self.durations: list[tuple[etree._Element, int]] = []
        bars = self.timeline.bars
        first, last = bars_of_solo(self.solo, bars)
        self.bars = [bar for bar in bars.bars if first <= bar.number <= last] or list(bars.bars)

    def score(self) -> etree._Element:
        settings = self.solo.settings
        root = etree.Element("score-partwise", version="4.0")
        if self.document.tune:
            _text(etree.SubElement(root, "work"), "work-title", self.document.tune)
        if settings.title:
            _text(root, "movement-title", settings.title)
        identification = etree.SubElement(root, "identification")
        if settings.player:
            _text(identification, "creator", settings.player).set("type", "performer")
        _text(etree.SubElement(identification, "encoding"), "software", "Usagi")
        parts = etree.SubElement(root, "part-list")
        score_part = etree.SubElement(parts, "score-part", id="P1")
        _text(score_part, "part-name", "Guitar")
        part = etree.SubElement(root, "part", id="P1")
        voices = voices_of(self.solo.notes)
        for bar in self.bars:
            self._bar(part, bar, voices)
        measure = reduce(gcd, (ticks for _, ticks in self.durations), QUARTER)
        for element, ticks in self.durations:
            element.text = str(ticks // measure)
        part.find("measure/attributes/divisions").text = str(QUARTER // measure)
        return root

    # -- bars ----------------------------------------------------------------------------------------------------

    def _bar(self, part: etree._Element, bar: Bar, voices: list[list[Struck]]) -> None:
        measure = etree.SubElement(part, "measure", number=str(bar.number))
        if bar.number == 0:
            measure.set("implicit", "yes")
        self._attributes(measure, bar)
        waiting = sorted(self._beside(bar), key=lambda one: one[0])
        at = bar.tick
        for number, voice in enumerate(voices, start=1):
            here = _sounding(voice, bar)
            if number > 1 and not here:
                continue
            if at > bar.tick:
                self._move(measure, "backup", at - bar.tick)
                at = bar.tick
            rests = self.solo.rests if number == 1 else ()
            written = list(bar_pieces(bar, here, [r for r in rests if r.tick < bar.end and bar.tick < r.end]))
            for piece, beams in zip(written, beams_of(written, bar), strict=True):
                value = piece.written
                if number == 1:
                    until = value.tick + value.ticks
                    while waiting and (waiting[0][0] < until or until == bar.end):
                        tick, element = waiting.pop(0)
                        self._offset(element, tick - value.tick)
                        measure.append(element)
                if number > 1 and piece.struck is None:
                    self._move(measure, "forward", value.ticks)
                else:
                    self._piece(measure, piece, str(number), beams, whole=value.ticks == bar.ticks)
                at = value.tick + value.ticks

    def _move(self, measure: etree._Element, name: str, ticks: int) -> None:
        self.durations.append((etree.SubElement(etree.SubElement(measure, name), "duration"), ticks))

    def _offset(self, element: etree._Element, ticks: int) -> None:
        if not ticks:
            return
        offset = etree.Element("offset")
        self.durations.append((offset, ticks))
        sound = element.find("sound")
        if sound is not None:
            sound.addprevious(offset)
        else:
            element.append(offset)

    def _attributes(self, measure: etree._Element, bar: Bar) -> None:
        first = bar is self.bars[0]
        facts = self.timeline.facts[bar.number]
        before = None if first else self.timeline.facts[bar.number - 1]
        attributes = etree.Element("attributes")
        if first:
            etree.SubElement(attributes, "divisions")
        if facts.key is not None and (before is None or before.key != facts.key):
            attributes.append(_key(facts.key))
        if before is None or before.meter != facts.meter:
            attributes.append(_time(facts.meter))
        if first:
            clef = etree.SubElement(attributes, "clef")
            _text(clef, "sign", "G")
            _text(clef, "line", "2")
            _text(clef, "clef-octave-change", "-1")
            attributes.append(self._staff())
        if len(attributes):
            measure.append(attributes)

    def _staff(self) -> etree._Element:
        """The strings beside a staff of five lines: with as many lines as strings others take it for tablature."""
        settings = self.solo.settings
        staff = etree.Element("staff-details")
        tuning = tuning_of(settings.tuning)
        lowest_first = list(zip(reversed(tuning.names), reversed(tuning.midi), strict=True))
        for line, (name, midi) in enumerate(lowest_first, start=1):
            one = etree.SubElement(staff, "staff-tuning", line=str(line))
            _text(one, "tuning-step", LETTERS[name.letter])
            if name.alter:
                _text(one, "tuning-alter", str(name.alter))
            _text(one, "tuning-octave", str(name.octave_of(midi)))
        if settings.capo:
            _text(staff, "capo", str(settings.capo))
        return staff

    # -- what stands beside the notes ----------------------------------------------------------------------------

    def _beside(self, bar: Bar) -> Iterator[tuple[int, etree._Element]]:
        """Sections, tempo, feel, words, chords and loudness of a bar, each at its tick."""
        first = bar is self.bars[0]
        played = self.timeline.played.get(bar.number)
        if played is not None and played.index == 1 and played.section:
            yield bar.tick, _direction("rehearsal", played.section)
        yield from self._tempo(bar, first)
        feels = feels_of(self.solo, self.ground)
        feel, before = feels[bar.number], None if first else feels[bar.number - 1]
        if feel != before and not (first and feel.kind is FeelKind.STRAIGHT):
            yield bar.tick, _swing(feel)
        for cue in self.ground.cues:
            if bar.tick <= cue.tick < bar.end:
                yield cue.tick, _direction("words", cue.words)
        changes = [c for c in self.timeline.changes if bar.tick <= c.tick < min(bar.end, self.timeline.written_end)]
        held = self.timeline.chord_at(bar.tick) if first else None
        if held is not None and held.tick < bar.tick:
            yield bar.tick, harmony_of(held.chord)
        for change in changes:
            yield change.tick, harmony_of(change.chord)
        for dynamic in self.solo.dynamics:
            if bar.tick <= dynamic.tick < bar.end:
                direction = etree.Element("direction", placement="below")
                etree.SubElement(
                    etree.SubElement(etree.SubElement(direction, "direction-type"), "dynamics"), dynamic.level.value
                )
                yield dynamic.tick, direction
        for swell in self.solo.swells:
            kind = "crescendo" if swell.to == "louder" else "diminuendo"
            for tick, what in ((swell.start, kind), (swell.end, "stop")):
                if bar.tick <= tick < bar.end or (what == "stop" and tick == bar.end == self.bars[-1].end):
                    direction = etree.Element("direction", placement="below")
                    etree.SubElement(etree.SubElement(direction, "direction-type"), "wedge", type=what)
                    yield tick, direction

    def _tempo(self, bar: Bar, first: bool) -> Iterator[tuple[int, etree._Element]]:
        grid = self.ground.grid
        ticks = [tick for tick in grid.ticks[1:-1] if bar.tick <= tick < bar.end and not (first and tick == bar.tick)]
        if first:
            ticks.insert(0, bar.tick)
        for tick in ticks:
            quarter_s = (grid.second(tick + 1) - grid.second(tick)) * QUARTER
            tempo = f"{round(60.0 / quarter_s, PLACES):g}" if quarter_s > 60 else _decimal(60.0 / quarter_s)
            sound = etree.Element("sound", tempo=tempo)
            if not (first and tick == bar.tick):
                yield tick, sound
                continue
            direction = etree.Element("direction", placement="above")
            metronome = etree.SubElement(etree.SubElement(direction, "direction-type"), "metronome")
            pulse = bar.meter.pulses[0]
            unit = next((ticks for ticks in UNITS if pulse in (ticks, ticks * 3 // 2)), QUARTER)
            _text(metronome, "beat-unit", UNITS[unit])
            dotted = pulse == unit * 3 // 2
            if dotted:
                etree.SubElement(metronome, "beat-unit-dot")
            _text(metronome, "per-minute", f"{60.0 / quarter_s * QUARTER / (unit * 3 // 2 if dotted else unit):.0f}")
            direction.append(sound)
            yield tick, direction

    # -- notes ---------------------------------------------------------------------------------------------------

    def _piece(
        self, measure: etree._Element, piece: Piece, voice: str, beams: list[etree._Element], *, whole: bool
    ) -> None:
        if piece.struck is None:
            note = etree.SubElement(measure, "note")
            if not piece.rest:
                note.set("print-object", "no")
            rest = etree.SubElement(note, "rest")
            if whole:
                rest.set("measure", "yes")
            self._timed(note, piece.written, voice, tied=(False, False), typed=not whole)
            self._notations(note, [*_tuplets(piece.written)])
            return
        for i, one in enumerate(piece.struck.notes):
            note = etree.SubElement(measure, "note")
            if i:
                etree.SubElement(note, "chord")
            self._pitch(note, one)
            self._timed(note, piece.written, voice, tied=(not piece.first, not piece.last), typed=True, of=one)
            if i == 0:
                note.extend(beams)
            ties = (("stop", not piece.first), ("start", not piece.last))
            tied = [etree.Element("tied", type=kind) for kind, on in ties if on]
            notations: list[etree._Element] = tied + (list(_tuplets(piece.written)) if i == 0 else [])
            notations += self._said(one, piece, leads=i == 0)
            self._notations(note, notations)
            if piece.first:
                degree = self.readings[one.id].degree
                if self.degrees and degree is not None:
                    lyric = etree.SubElement(note, "lyric", number="1")
                    _text(lyric, "text", degree)
                if one.palm_mute:
                    _text(etree.SubElement(note, "play"), "mute", "palm")

    def _pitch(self, parent: etree._Element, note: Note) -> None:
        reading: NoteReading = self.readings[note.id]
        if note.fret is None and note.sure is Sure.UNKNOWN:
            unpitched = etree.SubElement(parent, "unpitched")
            _text(unpitched, "display-step", "B")
            _text(unpitched, "display-octave", "3")
            return
        if reading.name is None or reading.midi is None:
            midi: float = open_pitch(note.string, self.solo.settings.tuning, self.solo.settings.capo)
            midi += (note.fret or 0) // HUNDREDTHS
            name = sharp_name(int(midi))
        else:
            midi, name = reading.midi, read_name(reading.name)
        pitch = etree.SubElement(parent, "pitch")
        whole = int(midi // 1)
        _text(pitch, "step", LETTERS[name.letter])
        alter = name.alter + (midi - whole)
        if alter:
            _text(pitch, "alter", f"{alter:g}")
        _text(pitch, "octave", str(name.octave_of(whole)))

    def _timed(
        self,
        note: etree._Element,
        value: Written,
        voice: str,
        *,
        tied: tuple[bool, bool],
        typed: bool,
        of: Note | None = None,
    ) -> None:
        self.durations.append((etree.SubElement(note, "duration"), value.ticks))
        for kind, on in (("stop", tied[0]), ("start", tied[1])):
            if on:
                etree.SubElement(note, "tie", type=kind)
        _text(note, "voice", voice)
        if typed:
            _text(note, "type", value.name)
            for _ in range(value.dots):
                etree.SubElement(note, "dot")
            if value.ratio != (1, 1):
                modified = etree.SubElement(note, "time-modification")
                _text(modified, "actual-notes", str(value.ratio[0]))
                _text(modified, "normal-notes", str(value.ratio[1]))
        if of is not None and (of.dead or of.ghost):
            head = _text(note, "notehead", "x" if of.dead else "normal")
            if of.ghost:
                head.set("parentheses", "yes")

    def _said(self, note: Note, piece: Piece, *, leads: bool) -> list[etree._Element]:
        after = self.by_id.get(self.joined.get(note.id, ""))
        found: list[etree._Element] = notations_of(
            note, self.sources.get(note.id), after, first=piece.first, last=piece.last, midi=self.readings[note.id].midi
        )
        stack = self.stacks.get(note.stack or "")
        if stack is None or not piece.first:
            return found
        _without_bows(found)
        if stack.stroke is Stroke.TOGETHER:
            top, bottom = self.members[stack.id][0], self.members[stack.id][-1]
            if note is top or note is bottom:
                found.append(etree.Element("non-arpeggiate", type="top" if note is top else "bottom"))
        elif stack.stroke is not None:
            if stack.spread_ms:
                found.append(etree.Element("arpeggiate", direction="up" if stack.stroke is Stroke.DOWN else "down"))
            if leads and note is self.members[stack.id][-1]:
                technical = next((one for one in found if one.tag == "technical"), None)
                if technical is None:
                    technical = etree.Element("technical")
                    found.append(technical)
                technical.insert(0, etree.Element("down-bow" if stack.stroke is Stroke.DOWN else "up-bow"))
        elif stack.spread_ms:
            found.append(etree.Element("arpeggiate"))
        return found

    @staticmethod
    def _notations(note: etree._Element, parts: list[etree._Element]) -> None:
        if parts:
            etree.SubElement(note, "notations").extend(parts)


def _without_bows(notations: list[etree._Element]) -> None:
    """Notes of a stack: a stroke at one of them would be that of all."""
    for technical in [one for one in notations if one.tag == "technical"]:
        for bow in technical.findall("down-bow") + technical.findall("up-bow"):
            technical.remove(bow)
        if not len(technical):
            notations.remove(technical)


def _sounding(voice: list[Struck], bar: Bar) -> list[Struck]:
    """What of a voice sounds in a bar; strokes of a voice do not overlap, so both ends rise."""
    first = bisect_left(voice, bar.tick + 1, key=lambda struck: struck.end)
    last = bisect_left(voice, bar.end, key=lambda struck: struck.tick)
    return voice[first:last]


def _tuplets(value: Written) -> Iterator[etree._Element]:
    for kind, on in (("start", value.opens), ("stop", value.closes)):
        if on and not (value.opens and value.closes):
            yield etree.Element("tuplet", type=kind)


def _text(parent: etree._Element, name: str, text: str) -> etree._Element:
    child = etree.SubElement(parent, name)
    child.text = "".join(sign for sign in text if sign == "\t" or ord(sign) >= 32)
    return child


def _direction(kind: str, words: str) -> etree._Element:
    direction = etree.Element("direction", placement="above")
    _text(etree.SubElement(direction, "direction-type"), kind, words)
    return direction


def _decimal(number: float) -> str:
    return f"{number:.{PLACES}f}".rstrip("0").rstrip(".")


def _key(key: Key) -> etree._Element:
    element = etree.Element("key")
    names = [key.diatonic_name(pitch) for pitch in key.pitch_classes]
    _text(element, "fifths", str(sum(name.alter for name in names if isinstance(name, Name))))
    _text(element, "mode", key.mode.value)
    return element


def _time(meter: Meter) -> etree._Element:
    element = etree.Element("time")
    _text(element, "beats", "+".join(map(str, meter.groups)) if meter.groups else str(meter.numerator))
    _text(element, "beat-type", str(meter.denominator))
    return element


def _swing(feel: Feel) -> etree._Element:
    """A feel, as sound alone: MusicXML has a ratio of whole numbers."""
    direction = etree.Element("direction", placement="above")
    _text(etree.SubElement(direction, "direction-type"), "words", str(feel))
    swing = etree.SubElement(etree.SubElement(direction, "sound"), "swing")
    if feel.kind is FeelKind.STRAIGHT:
        etree.SubElement(swing, "straight")
        return direction
    ratio = Fraction(2.0 if feel.kind is FeelKind.TRIPLET else feel.ratio).limit_denominator(100)
    _text(swing, "first", str(ratio.numerator))
    _text(swing, "second", str(ratio.denominator))
    _text(swing, "swing-type", "16th" if feel.unit.value == "sixteenth" else "eighth")
    _text(swing, "swing-style", feel.kind.value)
    return direction
