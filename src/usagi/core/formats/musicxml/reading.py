"""MusicXML by any program read into a score: one part, its repeats played out, every voice of it.

Pitches are taken as they sound (transposing instruments); strings and frets where the file has them. A staff of
tablature that doubles a staff of notes is read instead of it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import groupby
from math import isfinite
from typing import Final

from lxml import etree

from usagi.core.document.techniques import LONGEST, Loudness, Stroke
from usagi.core.formats.musicxml.chords import chord_of
from usagi.core.formats.musicxml.container import root_of
from usagi.core.formats.musicxml.techniques import Played
from usagi.core.formats.musicxml.unroll import Marks, ending_numbers, unrolled
from usagi.core.formats.score import (
    MOST_NOTES,
    FileUnreadable,
    Part,
    Score,
    ScoreBar,
    ScoreNote,
    anchors_of,
    chosen_part,
)
from usagi.core.fretboard.tunings import FEWEST, HIGHEST_MIDI, LOWEST_MIDI, MOST
from usagi.core.meter.feel import Feel, FeelKind, SwingUnit
from usagi.core.meter.meters import COMMON_TIME, DENOMINATORS, MOST_BEATS, Meter, MeterImpossible
from usagi.core.meter.ticks import QUARTER, WHOLE
from usagi.core.pitch.keys import OTHER_NAMES, Key, Mode
from usagi.core.pitch.names import LETTERS, NATURALS, Name

GRACE: Final = QUARTER // 8  # ticks of a grace note, a thirty-second
DOUBLED: Final = 0.7  # of a staff's onsets: where so many stand on a staff of tablature, too, it says them again
SPREAD_MS: Final = 25.0
LONGEST_BAR: Final = 64 * QUARTER
FLATTEST: Final = -7
UNITS: Final = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25, "32nd": 0.125}
LOUD: Final = {"ppp": "pp", "pppp": "pp", "fff": "ff", "ffff": "ff", "sf": "f", "sfz": "f", "fp": "f", "fz": "f"}


def parts_of(root: etree._Element) -> list[Part]:
    """The parts of a score with their notes counted."""
    names = {
        one.get("id", ""): " ".join((one.findtext("part-name") or "").split())
        for one in root.iterfind("part-list/score-part")
    }
    found = []
    for part in root.findall("part"):
        part_id = part.get("id", "")
        notes = sum(1 for note in part.iter("note") if note.find("pitch") is not None)
        fretted = next(part.iter("fret"), None) is not None
        found.append(Part(part_id, names.get(part_id) or part_id or "part", notes, fretted))
    return found


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file, for a person to choose from. Raises : FileUnreadable."""
    return parts_of(root_of(data))


def read_musicxml(data: bytes, *, part: str | None = None) -> Score:
    """One part of a file.

    Parameters
    ----------
    data : the file's bytes.
    part : its id, its name or its number; None takes the likeliest for a guitar.

    Raises : FileUnreadable, PartUnknown.
    """
    root = root_of(data)
    parts = parts_of(root)
    if not parts:
        raise FileUnreadable("This score has no parts.")
    chosen = chosen_part(parts, part)
    element = next(one for one in root.findall("part") if one.get("id", "") == chosen.id)
    reader = _Reader(element)
    score = reader.score()
    said = [f"The part “{chosen.name}” of {len(parts)}."] if len(parts) > 1 else []
    title = (root.findtext("movement-title") or "").strip()
    tune = (root.findtext("work/work-title") or "").strip()
    player = next(
        (
            (one.text or "").strip()
            for one in root.iterfind("identification/creator")
            if one.get("type") in ("performer", "arranger")
        ),
        "",
    )
    return replace(
        score, tune=tune or title, title=title if tune else "", player=player, messages=(*said, *score.messages)
    )


@dataclass
class _Sound:
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
class _Measure:
    """One written measure."""

    number: str
    implicit: bool
    length: int = 0  # as far as its voices reach
    meter: Meter | None = COMMON_TIME  # None is free time
    key: Key | None = None
    sounds: list[_Sound] = field(default_factory=list)
    rests: list[tuple[int, int]] = field(default_factory=list)
    chords: list[tuple[int, str]] = field(default_factory=list)
    tempos: list[tuple[int, float]] = field(default_factory=list)
    dynamics: list[tuple[int, Loudness]] = field(default_factory=list)
    wedges: list[tuple[int, str]] = field(default_factory=list)
    section: str | None = None
    feel: Feel | None = None
    marks: Marks = field(default_factory=Marks)


@dataclass
class _Open:
    """A note that sounds on into a tie."""

    index: int
    end: int


_TieKey = tuple[str, float | None, int]  # voice, pitch, staff
_Ties = dict[_TieKey, list[_Open]]


class _Reader:
    """One part on its way."""

    def __init__(self, part: etree._Element) -> None:
        self.part = part
        self.divisions = Fraction(1)
        self.meter: Meter | None = COMMON_TIME
        self.key: Key | None = None
        self.steps = self.semitones = 0  # from what is written to what sounds
        self.tuning: tuple[int, ...] | None = None
        self.capo = 0
        self.tab_staves: set[int] = set()
        self.unread_chords: list[str] = []
        self.graces = 0

    def score(self) -> Score:
        measures = [self._measure(one) for one in self.part.findall("measure")]
        if not measures:
            raise FileUnreadable("This part has no bars.")
        self._one_staff(measures)
        order = unrolled([measure.marks for measure in measures])
        bars, starts, pickup, odd = _bars(measures, order)
        laid = list(zip(order, starts, strict=True))
        notes = self._notes(measures, laid)
        tempos = [(start + at, bpm) for i, start in laid for at, bpm in measures[i].tempos]
        messages = list(odd)
        if len(order) > len(measures):
            messages.append("Its repeats are played out.")
        if self.graces:
            one = self.graces == 1
            messages.append(
                f"{self.graces} grace note{'' if one else 's'} stand{'s' if one else ''} as short notes before "
                "what they lead to."
            )
        if self.unread_chords:
            messages.append(f"These chord symbols were not read whole: {', '.join(dict.fromkeys(self.unread_chords))}.")
        return Score(
            bars=tuple(bars),
            notes=tuple(notes),
            pickup_ticks=pickup,
            rests=tuple((start + at, ticks) for i, start in laid for at, ticks in measures[i].rests if ticks > 0),
            chords=tuple((start + at, symbol) for i, start in laid for at, symbol in measures[i].chords),
            anchors=anchors_of(tempos, -pickup),
            dynamics=tuple((start + at, level) for i, start in laid for at, level in measures[i].dynamics),
            swells=tuple(_swells([(start + at, kind) for i, start in laid for at, kind in measures[i].wedges])),
            tuning=self.tuning,
            capo=self.capo,
            messages=tuple(messages),
        )

    # -- a measure -----------------------------------------------------------------------------------------------

    def _measure(self, element: etree._Element) -> _Measure:
        number = element.get("number", "")
        measure = _Measure(number, element.get("implicit") == "yes" or number == "0")
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
        number = _number(text)
        if number is None or number < 0:
            return Fraction(0)
        return min(Fraction(number).limit_denominator(10_000) * QUARTER / self.divisions, Fraction(LONGEST_BAR * 4))

    def _at(self, element: etree._Element, cursor: Fraction) -> int:
        """Where something stands: at the cursor, moved by its offset."""
        offset = _number(element.findtext("offset"))
        if offset is None:
            return round(cursor)
        return max(0, round(cursor + Fraction(offset).limit_denominator(10_000) * QUARTER / self.divisions))

    def _attributes(self, element: etree._Element) -> None:
        divisions = _number(element.findtext("divisions"))
        if divisions is not None and 1e-3 <= divisions < 1e6:
            self.divisions = Fraction(divisions).limit_denominator(10_000)
        transpose = element.find("transpose")
        if transpose is not None:
            octaves = _int(transpose.findtext("octave-change"), 0)
            chromatic = _int(transpose.findtext("chromatic"), 0)
            self.semitones = chromatic + 12 * octaves if abs(chromatic) < 48 and abs(octaves) < 6 else 0
            self.steps = _int(transpose.findtext("diatonic"), _steps(chromatic))
        time = element.find("time")
        if time is not None:
            self.meter = _meter(time, self.meter)
        key = element.find("key")
        if key is not None:
            self.key = _key(key, self.steps, self.semitones)
        for clef in element.findall("clef"):
            if (clef.findtext("sign") or "").strip().upper() == "TAB":
                self.tab_staves.add(_int(clef.get("number"), 1))
        for details in element.findall("staff-details"):
            self._strings(details)

    def _strings(self, details: etree._Element) -> None:
        lines = []
        for one in details.findall("staff-tuning"):
            step = (one.findtext("tuning-step") or "").strip().upper()
            alter, octave = _int(one.findtext("tuning-alter"), 0), _int(one.findtext("tuning-octave"), -9)
            if len(step) == 1 and step in LETTERS:
                lines.append((_int(one.get("line"), 0), NATURALS[LETTERS.index(step)] + alter + 12 * (octave + 1)))
        pitches = tuple(midi for _, midi in sorted(lines, reverse=True))
        if FEWEST <= len(pitches) <= MOST and all(LOWEST_MIDI <= midi <= HIGHEST_MIDI for midi in pitches):
            self.tuning = pitches
        capo = _int(details.findtext("capo"), 0)
        if 0 < capo <= 12:
            self.capo = capo

    def _note(
        self, element: etree._Element, measure: _Measure, cursor: Fraction, onset: Fraction
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
                _Sound(
                    at=begin,
                    ticks=end - begin,
                    midi=written,
                    voice=(element.findtext("voice") or "1").strip(),
                    staff=_int(element.findtext("staff"), 1),
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
        octave, alter = _int(pitch.findtext("octave"), -9), _number(pitch.findtext("alter")) or 0.0
        if len(step) != 1 or step not in LETTERS or not -1 <= octave <= 10 or abs(alter) > 4:
            return None
        midi = NATURALS[LETTERS.index(step)] + 12 * (octave + 1) + self.semitones + round(alter * 2) / 2
        return midi if 0 <= midi < 128 else None

    def _direction(self, element: etree._Element, measure: _Measure, at: int) -> None:
        sound = element if element.tag == "sound" else element.find("sound")
        tempo = _number(sound.get("tempo")) if sound is not None else None
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

    def _harmony(self, element: etree._Element, measure: _Measure, at: int) -> None:
        symbol, whole = chord_of(element, steps=self.steps, semitones=self.semitones)
        if not whole:
            kind = element.find("kind")
            words = "" if kind is None else kind.get("text") or kind.text or ""
            self.unread_chords.append(f"{element.findtext('root/root-step') or '?'}{words}"[:30])
        if symbol is not None:
            measure.chords.append((at, symbol))

    # -- staves, ties and joins ----------------------------------------------------------------------------------

    def _one_staff(self, measures: Sequence[_Measure]) -> None:
        """Of a staff of notes and one of tablature that says the same, only the tablature is read."""
        onsets: dict[int, set[tuple[int, int]]] = {}
        for i, measure in enumerate(measures):
            for sound in measure.sounds:
                onsets.setdefault(sound.staff, set()).add((i, sound.at))
        for tab in sorted(self.tab_staves & onsets.keys()):
            for staff in sorted(onsets.keys() - self.tab_staves):
                if len(onsets[staff] & onsets[tab]) >= DOUBLED * max(len(onsets[staff]), len(onsets[tab])):
                    for measure in measures:
                        measure.sounds = [sound for sound in measure.sounds if sound.staff != staff]

    def _notes(self, measures: Sequence[_Measure], laid: Sequence[tuple[int, int]]) -> list[ScoreNote]:
        found: list[_Note] = []
        open_ties: _Ties = {}
        graces: list[tuple[int, _Sound]] = []
        for i, start in laid:
            for sound in sorted(measures[i].sounds, key=lambda one: one.at):
                if len(found) > MOST_NOTES:
                    raise FileUnreadable(f"This part has more than {MOST_NOTES} notes. Take a part of it.")
                if sound.grace:
                    graces.append((start + sound.at, sound))
                    continue
                before = [grace for grace in graces if grace[1].voice == sound.voice and grace[0] == start + sound.at]
                if before and not sound.chord:
                    self._graces(found, before, start + sound.at)
                    graces = [grace for grace in graces if grace not in before]
                self._sound(found, open_ties, sound, start)
        for at, grace in graces:  # what they lead to is not written: they stand where they are
            found.append(_Note(max(at - GRACE, laid[0][1]), GRACE, grace, [grace.element]))
            self.graces += 1
        return list(_scored(found))

    def _sound(self, found: list[_Note], open_ties: _Ties, sound: _Sound, start: int) -> None:
        at = start + sound.at
        key = (sound.voice, sound.midi, sound.staff)
        before = self._tied_from(open_ties, key, at) if sound.tied_from else None
        if before is not None:
            note = found[before.index]
            note.ticks += sound.ticks
            note.elements.append(sound.element)
            index = before.index
        else:
            index = len(found)
            found.append(_Note(at, sound.ticks, sound, [sound.element]))
        if sound.tied_on:
            open_ties.setdefault(key, []).append(_Open(index, at + sound.ticks))

    @staticmethod
    def _tied_from(open_ties: _Ties, key: _TieKey, at: int) -> _Open | None:
        """The note that is tied to here: of the same voice, else of another; of several the first."""
        for own in (key, *(other for other in open_ties if other != key and other[1] == key[1])):
            for one in open_ties.get(own, []):
                if one.end == at:
                    open_ties[own].remove(one)
                    return one
        return None

    def _graces(self, found: list[_Note], graces: Sequence[tuple[int, _Sound]], at: int) -> None:
        """Grace notes as short notes before the note that they lead to; what sounds there gives way."""
        groups: list[list[_Sound]] = []
        for _, sound in graces:
            if sound.chord and groups:
                groups[-1].append(sound)
            else:
                groups.append([sound])
        begin = at - GRACE * len(groups)
        for note in found:
            if note.tick < at and note.end > begin and note.sound.voice == graces[0][1].voice:
                begin = max(begin, note.tick + (at - note.tick) // 2)
        each = max(1, (at - begin) // len(groups))
        for note in found:
            if note.tick < begin < note.end and note.sound.voice == graces[0][1].voice:
                note.ticks = begin - note.tick
        for i, group in enumerate(groups):
            tick = begin + i * each
            until = at if i + 1 == len(groups) else tick + each
            for sound in group:
                found.append(_Note(tick, until - tick, sound, [sound.element]))
                self.graces += 1


@dataclass
class _Note:
    """A note as it sounds: its tied values together."""

    tick: int
    ticks: int
    sound: _Sound
    elements: list[etree._Element]

    @property
    def end(self) -> int:
        return self.tick + self.ticks


def _scored(notes: Sequence[_Note]) -> Iterator[ScoreNote]:
    """Notes with what is said of how they are played; a join that only its first note says is carried on."""
    ordered = sorted(notes, key=lambda note: note.tick)
    told: list[Played] = []
    for note in ordered:
        played = Played()
        for element in note.elements:
            played.read(element)
        told.append(played)
    strokes = _strokes(ordered, told)
    for i, kind in _carried_on(ordered, told):
        told[i].fields.setdefault("attack", {"kind": kind})
    for i, (note, played) in enumerate(zip(ordered, told, strict=True)):
        ticks = max(1, min(note.ticks, LONGEST))
        fields = played.note_fields(ticks, note.sound.midi)
        stroke, spread, pick = strokes[i]
        if pick is not None:
            fields.setdefault("pick", pick)
        midi = None if fields.get("dead") or note.sound.midi is None else note.sound.midi
        course = played.course(ticks)
        yield ScoreNote(
            tick=note.tick,
            ticks=note.ticks,
            midi=midi,
            string=played.string,
            fret=played.fret,
            levels=() if course or not any(played.levels) else tuple(played.levels),
            course=course,
            fields=fields,
            stroke=stroke,
            spread_ms=spread,
        )


def _carried_on(notes: Sequence[_Note], told: Sequence[Played]) -> Iterator[tuple[int, str]]:
    """Of each join that only its first note says: the next note of its voice, and the kind of the join."""
    waiting: dict[tuple[str, str], int] = {}
    open_ends: list[tuple[int, str]] = []
    for i, played in enumerate(told):
        for join in played.joined:
            waiting.pop(join, None)
        for join in played.joins:
            if join in waiting:
                open_ends.append((waiting[join], join[0]))
            waiting[join] = i
    open_ends += [(i, kind) for (kind, _), i in waiting.items()]
    for i, kind in open_ends:
        voice, tick = notes[i].sound.voice, notes[i].tick
        for j in range(i + 1, len(notes)):
            if notes[j].sound.voice == voice and notes[j].tick > tick:
                yield j, kind
                break


def _strokes(notes: Sequence[_Note], told: Sequence[Played]) -> list[tuple[Stroke | None, float, str | None]]:
    """For each note the stroke and the spread of its stack, else the stroke of its own."""
    found: list[tuple[Stroke | None, float, str | None]] = [(None, 0.0, None)] * len(notes)
    for _, together in groupby(range(len(notes)), key=lambda i: (notes[i].tick, notes[i].sound.voice)):
        group = list(together)
        bows = [told[i].bow for i in group]
        spread = SPREAD_MS if any(told[i].spread for i in group) else 0.0
        stroke: Stroke | None = None
        own = bows
        if len(group) > 1:
            if any(told[i].together for i in group):
                stroke = Stroke.TOGETHER
            elif sum(bow is not None for bow in bows) == 1 and bows[0] is not None:
                stroke, own = Stroke(bows[0]), [None] * len(group)
            elif spread:
                stroke = Stroke.UP if any(told[i].spread_down for i in group) else Stroke.DOWN
        for i, bow in zip(group, own, strict=True):
            found[i] = (stroke, spread, bow)
    return found


# -- bars --------------------------------------------------------------------------------------------------------


def _bars(measures: Sequence[_Measure], order: Sequence[int]) -> tuple[list[ScoreBar], list[int], int, list[str]]:
    """Bars as they are played, where each played measure starts, the pick-up, and what is odd about them.

    A short measure that is no bar of its own (implicit, or the pick-up that comes again) joins the one before it when
    both together make a bar.
    """
    odd: list[str] = []
    first = measures[order[0]]
    pickup = 0
    if first.meter is not None and 0 < first.length < first.meter.bar_ticks and len(order) > 1:
        pickup = first.length
    bars: list[ScoreBar] = []
    starts: list[int] = []
    begin, filled, meter = -pickup, 0, COMMON_TIME  # of the bar that is being filled

    def close() -> None:
        nonlocal begin, filled
        if bars and filled < meter.bar_ticks:
            bars[-1] = replace(bars[-1], meter=_of_length(filled, meter))
            odd.append(f"Bar {len(bars)} has {bars[-1].meter}, as it is played.")
        begin += bars[-1].meter.bar_ticks if bars else pickup
        filled = 0

    section, feel = (first.section, first.feel) if pickup else (None, None)
    for place, index in enumerate(order):
        measure = measures[index]
        length = pickup if pickup and index == order[0] else _length(measure)
        if measure.marks.backward and pickup and measure.length + pickup == length:
            length = measure.length  # it is short by the pick-up, which is played behind it
        if place == 0 and pickup:
            starts.append(begin)
            continue
        shares = measure.implicit or (pickup > 0 and index == order[0])
        if bars and filled and shares and filled + length <= meter.bar_ticks:
            starts.append(begin + filled)
            filled += length
            continue
        close()
        starts.append(begin)
        meter = measure.meter if measure.meter is not None else _of_length(length, COMMON_TIME)
        if length > meter.bar_ticks:
            meter = _of_length(length, meter)
            odd.append(f"Bar {len(bars) + 1} is longer than its meter: it has {meter} here.")
        filled = length
        bars.append(ScoreBar(meter, measure.key, measure.section or section, measure.feel or feel))
        section = feel = None
    if not bars:
        raise FileUnreadable("This part has no whole bar.")
    filled = max(filled, meter.bar_ticks)  # a last bar that is short is left unfilled
    close()
    return bars, starts, pickup, odd


def _length(measure: _Measure) -> int:
    """The ticks that a measure takes: what is written in it, or its meter where it is left unfilled."""
    if measure.meter is None:
        return max(measure.length, QUARTER)
    if measure.implicit and 0 < measure.length < measure.meter.bar_ticks:
        return measure.length
    return max(measure.length, measure.meter.bar_ticks)


def _of_length(ticks: int, like: Meter) -> Meter:
    """A meter of a length, over the denominator of `like` where that can be; else to the next thirty-second."""
    for denominator in (like.denominator, *(d for d in DENOMINATORS if d >= 4)):
        beat = WHOLE // denominator
        if ticks % beat == 0 and 1 <= ticks // beat <= MOST_BEATS:
            return Meter(ticks // beat, denominator)
    for denominator in (32, 16, 8, 4, 2, 1):
        count = -(-ticks // (WHOLE // denominator))
        if count <= MOST_BEATS:
            return Meter(count, denominator)
    raise FileUnreadable("A measure of this part is too long to be counted.")


# -- small things ------------------------------------------------------------------------------------------------


def _number(text: str | None) -> float | None:
    try:
        number = float(text) if text else None
    except ValueError:
        return None
    return number if number is not None and isfinite(number) and abs(number) < 1e9 else None


def _int(text: str | None, otherwise: int) -> int:
    number = _number(text)
    return otherwise if number is None or abs(number) > 1_000 else round(number)


def _steps(chromatic: int) -> int:
    """Letters that a transposition moves by, where the file does not say."""
    octaves, rest = divmod(abs(chromatic), 12)
    steps = octaves * 7 + (0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6)[rest]
    return steps if chromatic >= 0 else -steps


def _meter(time: etree._Element, before: Meter | None) -> Meter | None:
    if time.find("senza-misura") is not None:
        return None
    counts = [(one.text or "").strip() for one in time.findall("beats")]
    units = [_int(one.text, 0) for one in time.findall("beat-type")]
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
    fifths = _int(text, 99)
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
        marks.backward = min(max(_int(repeat.get("times"), 2), 2), 32)
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
    """Jumps as a sound element says them."""
    marks.da_capo = marks.da_capo or sound.get("dacapo") == "yes"
    marks.fine = marks.fine or sound.get("fine") is not None
    for attribute, name in (("dalsegno", "dal_segno"), ("tocoda", "to_coda"), ("segno", "segno"), ("coda", "coda")):
        if sound.get(attribute) is not None:
            setattr(marks, name, sound.get(attribute))


def _words(words: str, marks: Marks) -> None:
    """Jumps as they are only written."""
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
    rate = _number("".join(sign for sign in element.findtext("per-minute") or "" if sign in "0123456789."))
    if unit is None or rate is None:
        return None
    return rate * unit * (1.5 if element.find("beat-unit-dot") is not None else 1.0)


def _feel(swing: etree._Element) -> Feel | None:
    if swing.find("straight") is not None:
        return Feel()
    first, second = _int(swing.findtext("first"), 0), _int(swing.findtext("second"), 0)
    if first <= 0 or second <= 0 or not 1 <= first / second <= 3:
        return None
    unit = SwingUnit.SIXTEENTH if (swing.findtext("swing-type") or "").strip() == "16th" else SwingUnit.EIGHTH
    kind = FeelKind.TRIPLET if (swing.findtext("swing-style") or "").strip() == "triplet" else FeelKind.SWING
    return Feel(kind, unit, first / second)


def _swells(wedges: Sequence[tuple[int, str]]) -> Iterator[tuple[int, int, str]]:
    start: tuple[int, str] | None = None
    for tick, kind in wedges:
        if kind in ("crescendo", "diminuendo"):
            start = tick, "louder" if kind == "crescendo" else "softer"
        elif kind == "stop" and start is not None:
            if tick > start[0]:
                yield start[0], tick, start[1]
            start = None
