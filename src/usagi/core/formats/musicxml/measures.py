"""Written measures of a part: what stands in each, at its ticks, before repeats and ties are looked at.

Pitches are taken as they sound (transposing instruments), to the quarter tone.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from math import isfinite
from typing import Final

from lxml import etree

from usagi.core.document.techniques import Loudness
from usagi.core.formats.musicxml.chords import chord_of
from usagi.core.formats.musicxml.unroll import Marks, ending_numbers
from usagi.core.formats.score import (
    FileUnreadable,
)
from usagi.core.fretboard.tunings import FEWEST, HIGHEST_MIDI, LOWEST_MIDI, MOST
from usagi.core.meter.feel import Feel, FeelKind, SwingUnit
from usagi.core.meter.meters import COMMON_TIME, DENOMINATORS, Meter, MeterImpossible
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import OTHER_NAMES, Key, Mode
from usagi.core.pitch.names import LETTERS, NATURALS, Name

LONGEST_BAR: Final = 64 * QUARTER
FLATTEST: Final = -7
UNITS: Final = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25, "32nd": 0.125}
LOUD: Final = {"ppp": "pp", "pppp": "pp", "fff": "ff", "ffff": "ff", "sf": "f", "sfz": "f", "fp": "f", "fz": "f"}


@dataclass
class WrittenSound:
    """A note of a measure as it is written, before ties and repeats are looked at."""

    at: int  # ticks from the measure's start
    ticks: int
    midi: float | None
    voice: str
    staff: int
    grace: bool
    chord: bool
    tied_on: bool
    tied_from: bool
    element: etree._Element


@dataclass
class Measure:
    """One written measure."""

    number: str
    implicit: bool
    length: int = 0  # as far as its voices reach
    meter: Meter | None = COMMON_TIME  # None is free time
    key: Key | None = None
    sounds: list[WrittenSound] = field(default_factory=list)
    rests: list[tuple[int, int]] = field(default_factory=list)
    chords: list[tuple[int, str]] = field(default_factory=list)
    tempos: list[tuple[int, float]] = field(default_factory=list)
    dynamics: list[tuple[int, Loudness]] = field(default_factory=list)
    wedges: list[tuple[int, str]] = field(default_factory=list)
    section: str | None = None
    feel: Feel | None = None
    marks: Marks = field(default_factory=Marks)


class MeasureReader:
    """Walks the measures of a part with what holds in them: divisions, meter, key, transposition, strings."""

    def __init__(self) -> None:
        self.divisions = Fraction(1)
        self.meter: Meter | None = COMMON_TIME
        self.key: Key | None = None
        self.steps = self.semitones = 0  # from what is written to what sounds
        self.tuning: tuple[int, ...] | None = None
        self.capo = 0
        self.tab_staves: set[int] = set()
        self.unread_chords: list[str] = []

    def read(self, element: etree._Element) -> Measure:
        """The next measure."""
        number = element.get("number", "")
        measure = Measure(number, element.get("implicit") == "yes" or number == "0")
        cursor, onset = Fraction(0), Fraction(0)
        for one in element:
            match one.tag:
                case "attributes":
                    self._attributes(one)
                case "backup":
                    cursor = max(Fraction(0), cursor - self._ticks(one))
                case "forward":
                    cursor += self._ticks(one)
                case "note":
                    cursor, onset = self._note(one, measure, cursor, onset)
                case "direction" | "sound":
                    self._direction(one, measure, self._at(one, cursor))
                case "harmony":
                    self._harmony(one, measure, self._at(one, cursor))
                case "barline":
                    _barline(one, measure.marks)
            measure.length = max(measure.length, round(cursor))
        if measure.length > LONGEST_BAR:
            raise FileUnreadable(f"Measure {number or '?'} is longer than 64 quarter notes: it cannot be counted.")
        measure.meter, measure.key = self.meter, self.key
        return measure

    def _ticks(self, element: etree._Element) -> Fraction:
        return self._length(element.findtext("duration"))

    def _length(self, text: str | None) -> Fraction:
        number = number_of(text)
        if number is None or number < 0:
            return Fraction(0)
        return min(Fraction(number).limit_denominator(10_000) * QUARTER / self.divisions, Fraction(LONGEST_BAR * 4))

    def _at(self, element: etree._Element, cursor: Fraction) -> int:
        """Where something stands: at the cursor, moved by its offset."""
        offset = number_of(element.findtext("offset"))
        if offset is None:
            return round(cursor)
        return max(0, round(cursor + Fraction(offset).limit_denominator(10_000) * QUARTER / self.divisions))

    def _attributes(self, element: etree._Element) -> None:
        divisions = number_of(element.findtext("divisions"))
        if divisions is not None and 1e-3 <= divisions < 1e6:
            self.divisions = Fraction(divisions).limit_denominator(10_000)
        transpose = element.find("transpose")
        if transpose is not None:
            octaves = whole_number(transpose.findtext("octave-change"), 0)
            chromatic = whole_number(transpose.findtext("chromatic"), 0)
            self.semitones = chromatic + 12 * octaves if abs(chromatic) < 48 and abs(octaves) < 6 else 0
            self.steps = whole_number(transpose.findtext("diatonic"), _steps(chromatic))
        time = element.find("time")
        if time is not None:
            self.meter = _meter(time, self.meter)
        key = element.find("key")
        if key is not None:
            self.key = _key(key, self.steps, self.semitones)
        for clef in element.findall("clef"):
            if (clef.findtext("sign") or "").strip().upper() == "TAB":
                self.tab_staves.add(whole_number(clef.get("number"), 1))
        for details in element.findall("staff-details"):
            self._strings(details)

    def _strings(self, details: etree._Element) -> None:
        lines = []
        for one in details.findall("staff-tuning"):
            step = (one.findtext("tuning-step") or "").strip().upper()
            alter, octave = (
                whole_number(one.findtext("tuning-alter"), 0),
                whole_number(one.findtext("tuning-octave"), -9),
            )
            if len(step) == 1 and step in LETTERS:
                lines.append(
                    (whole_number(one.get("line"), 0), NATURALS[LETTERS.index(step)] + alter + 12 * (octave + 1))
                )
        pitches = tuple(midi for _, midi in sorted(lines, reverse=True))
        if FEWEST <= len(pitches) <= MOST and all(LOWEST_MIDI <= midi <= HIGHEST_MIDI for midi in pitches):
            self.tuning = pitches
        capo = whole_number(details.findtext("capo"), 0)
        if 0 < capo <= 12:
            self.capo = capo

    def _note(
        self, element: etree._Element, measure: Measure, cursor: Fraction, onset: Fraction
    ) -> tuple[Fraction, Fraction]:
        """Take in a note or a rest; returns where the cursor stands, and where a chord would be joined."""
        grace = element.find("grace") is not None
        ticks = Fraction(0) if grace else self._ticks(element)
        chord = element.find("chord") is not None
        at = onset if chord else cursor
        if element.find("cue") is not None:
            return (cursor if chord else cursor + ticks), at
        if element.find("rest") is not None:
            if element.get("print-object") != "no" and not chord:
                begin, end = round(cursor), round(cursor + ticks)
                measure.rests.append((begin, end - begin))
            return cursor + ticks, cursor
        ties = {tie.get("type") for tie in element.findall("tie")} or {
            tied.get("type") for tied in element.iterfind("notations/tied")
        }
        begin, end = round(at), round(at + ticks)
        written = self._pitch(element.find("pitch"))
        if (written is not None or element.find("unpitched") is not None) and (grace or end > begin):
            measure.sounds.append(
                WrittenSound(
                    at=begin,
                    ticks=end - begin,
                    midi=written,
                    voice=(element.findtext("voice") or "1").strip(),
                    staff=whole_number(element.findtext("staff"), 1),
                    grace=grace,
                    chord=chord,
                    tied_on="start" in ties or "continue" in ties,
                    tied_from="stop" in ties or "continue" in ties,
                    element=element,
                )
            )
        return (cursor if chord else cursor + ticks), at

    def _pitch(self, pitch: etree._Element | None) -> float | None:
        """What a written pitch sounds, to the quarter tone."""
        if pitch is None:
            return None
        step = (pitch.findtext("step") or "").strip().upper()
        octave, alter = whole_number(pitch.findtext("octave"), -9), number_of(pitch.findtext("alter")) or 0.0
        if len(step) != 1 or step not in LETTERS or not -1 <= octave <= 10 or abs(alter) > 4:
            return None
        midi = NATURALS[LETTERS.index(step)] + 12 * (octave + 1) + self.semitones + round(alter * 2) / 2
        return midi if 0 <= midi < 128 else None

    def _direction(self, element: etree._Element, measure: Measure, at: int) -> None:
        sound = element if element.tag == "sound" else element.find("sound")
        tempo = number_of(sound.get("tempo")) if sound is not None else None
        for kind in element.iterfind("direction-type/*"):
            words = " ".join("".join(kind.itertext()).split())
            match kind.tag:
                case "rehearsal" if words:
                    measure.section = words
                case "dynamics":
                    for level in kind:
                        name = LOUD.get(str(level.tag), str(level.tag))
                        if name in list(Loudness):
                            measure.dynamics.append((at, Loudness(name)))
                case "wedge":
                    measure.wedges.append((at, kind.get("type", "")))
                case "segno":
                    measure.marks.segno = measure.marks.segno or ""
                case "coda":
                    measure.marks.coda = measure.marks.coda or ""
                case "words":
                    _words(words, measure.marks)
                case "metronome" if tempo is None:
                    tempo = _metronome(kind)
        if tempo is not None and 5 <= tempo <= 1_000:
            measure.tempos.append((at, tempo))
        if sound is not None:
            _order(sound, measure.marks)
            swing = sound.find("swing")
            if swing is not None:
                measure.feel = _feel(swing)

    def _harmony(self, element: etree._Element, measure: Measure, at: int) -> None:
        symbol, whole = chord_of(element, steps=self.steps, semitones=self.semitones)
        if not whole:
            kind = element.find("kind")
            words = "" if kind is None else kind.get("text") or kind.text or ""
            self.unread_chords.append(f"{element.findtext('root/root-step') or '?'}{words}"[:30])
        if symbol is not None:
            measure.chords.append((at, symbol))


def number_of(text: str | None) -> float | None:
    try:
        number = float(text) if text else None
    except ValueError:
        return None
    return number if number is not None and isfinite(number) and abs(number) < 1e9 else None


def whole_number(text: str | None, otherwise: int) -> int:
    number = number_of(text)
    return otherwise if number is None or abs(number) > 1_000 else round(number)


def _steps(chromatic: int) -> int:
    """How many letter names a transposition moves, when the file does not say."""
    octaves, rest = divmod(abs(chromatic), 12)
    steps = octaves * 7 + (0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6)[rest]
    return steps if chromatic >= 0 else -steps


def _meter(time: etree._Element, before: Meter | None) -> Meter | None:
    if time.find("senza-misura") is not None:
        return None
    counts = [(one.text or "").strip() for one in time.findall("beats")]
    units = [whole_number(one.text, 0) for one in time.findall("beat-type")]
    try:
        groups = tuple(int(part) for text in counts for part in text.split("+"))
    except ValueError:
        return before
    unit = max(units, default=0)
    if not groups or unit not in DENOMINATORS or len(set(units)) > 1:
        return before
    try:
        return Meter(sum(groups), unit, groups if len(groups) > 1 else ())
    except MeterImpossible:
        return before


def _key(element: etree._Element, steps: int, semitones: int) -> Key | None:
    """The key of a signature; a mode that is not named is major."""
    text = element.findtext("fifths")
    fifths = whole_number(text, 99)
    if not FLATTEST <= fifths <= -FLATTEST:
        return None
    word = (element.findtext("mode") or "major").strip().lower()
    mode = OTHER_NAMES.get(word) or (Mode(word) if word in list(Mode) else Mode.MAJOR)
    # The tonic of the major scale with this signature, and from there to the mode's own.
    letter = (fifths * 4) % 7
    alter = (fifths * 7 - NATURALS[letter] + 6) % 12 - 6
    place = (Mode.MAJOR, Mode.DORIAN, Mode.PHRYGIAN, Mode.LYDIAN, Mode.MIXOLYDIAN, Mode.MINOR, Mode.LOCRIAN).index(mode)
    tonic = Name(letter, alter).above(place, NATURALS[place])
    if steps or semitones % 12:
        tonic = tonic.above(steps % 7, semitones % 12)
    return Key(tonic, mode) if abs(tonic.alter) <= 1 else None


def _barline(element: etree._Element, marks: Marks) -> None:
    repeat = element.find("repeat")
    if repeat is not None and repeat.get("direction") == "forward":
        marks.forward = True
    elif repeat is not None:
        marks.backward = min(max(whole_number(repeat.get("times"), 2), 2), 32)
    for ending in element.findall("ending"):
        if ending.get("type") == "start":
            marks.endings = ending_numbers(ending.get("number", "")) or None
        else:
            marks.ends = True
    if element.find("segno") is not None:
        marks.segno = marks.segno or ""
    if element.find("coda") is not None:
        marks.coda = marks.coda or ""


def _order(sound: etree._Element, marks: Marks) -> None:
    """Jumps told by a sound element."""
    marks.da_capo = marks.da_capo or sound.get("dacapo") == "yes"
    marks.fine = marks.fine or sound.get("fine") is not None
    for attribute, name in (("dalsegno", "dal_segno"), ("tocoda", "to_coda"), ("segno", "segno"), ("coda", "coda")):
        if sound.get(attribute) is not None:
            setattr(marks, name, sound.get(attribute))


def _words(words: str, marks: Marks) -> None:
    """Jumps told by printed words only."""
    plain = words.casefold().replace(".", "").strip()
    if plain.startswith(("dc", "da capo")):
        marks.da_capo = True
    elif plain.startswith(("ds", "dal segno")):
        marks.dal_segno = marks.dal_segno or ""
    elif plain == "to coda":
        marks.to_coda = marks.to_coda or ""
    elif plain == "fine":
        marks.fine = True


def _metronome(element: etree._Element) -> float | None:
    """Quarter notes a minute of a metronome mark."""
    unit = UNITS.get((element.findtext("beat-unit") or "").strip())
    rate = number_of("".join(sign for sign in element.findtext("per-minute") or "" if sign in "0123456789."))
    if unit is None or rate is None:
        return None
    return rate * unit * (1.5 if element.find("beat-unit-dot") is not None else 1.0)


def _feel(swing: etree._Element) -> Feel | None:
    if swing.find("straight") is not None:
        return Feel()
    first, second = whole_number(swing.findtext("first"), 0), whole_number(swing.findtext("second"), 0)
    if first <= 0 or second <= 0 or not 1 <= first / second <= 3:
        return None
    unit = SwingUnit.SIXTEENTH if (swing.findtext("swing-type") or "").strip() == "16th" else SwingUnit.EIGHTH
    kind = FeelKind.TRIPLET if (swing.findtext("swing-style") or "").strip() == "triplet" else FeelKind.SWING
    return Feel(kind, unit, first / second)
