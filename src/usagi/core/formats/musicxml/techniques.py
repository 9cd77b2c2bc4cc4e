"""How a note is played, in MusicXML's notations, and read from them. What MusicXML has no sign for stands in words."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from lxml import etree

from usagi.core.document.elements import Note
from usagi.core.document.techniques import (
    By,
    Choked,
    Finger,
    HammerOn,
    Harmonic,
    HarmonicHow,
    LetRing,
    Pick,
    PullOff,
    Slide,
    SlideIn,
    SlideOff,
    Staccato,
    Sure,
    Tapped,
)
from usagi.core.fretboard.places import HUNDREDTHS

PERCENT: Final = 100
# Words in `other-technical`, for what MusicXML has no sign for: written and read.
CHOKED, BAR, SWEEP, UNSURE, PINCHED = "choked", "with the bar", "sweep", "unsure", "pinched"
RAKE: Final = "rake"
FRET: Final = "fret"  # one between two frets
IN, OFF = 0.25, 0.34  # the share of its note that a slide from nowhere, or away, takes when only the sign is known


def notations_of(
    note: Note, source: Note | None, after: Note | None, *, first: bool, last: bool, midi: float | None
) -> list[etree._Element]:
    """The notations of one written value of a note.

    Parameters
    ----------
    note : the note.
    source, after : the notes before and after it on its string.
    first, last : whether this value is the first, the last of the note.
    midi : its fretted pitch; of a harmonic the one that sounds.
    """
    found: list[etree._Element] = []
    ornaments, technical, articulations = (etree.Element(n) for n in ("ornaments", "technical", "articulations"))
    number = str(note.string)
    if first and isinstance(note.attack, Slide) and source is not None:
        found.append(etree.Element("slide", type="stop", number=number))
    if last and after is not None and isinstance(after.attack, Slide):
        found.append(etree.Element("slide", {"type": "start", "number": number, "line-type": "solid"}))
    found += _slurs(note, source, after, first=first)
    if first:
        _ornaments(ornaments, note)
        _technical(technical, note)
        _articulations(articulations, note)
    if first and isinstance(note.attack, HammerOn | PullOff):
        etree.SubElement(technical, note.attack.kind, type="stop", number=number)
    if last and after is not None and isinstance(after.attack, HammerOn | PullOff):
        joined = etree.SubElement(technical, after.attack.kind, type="start", number=number)
        joined.text = "H" if isinstance(after.attack, HammerOn) else "P"
    if last and note.vibrato is not None:
        etree.SubElement(ornaments, "wavy-line", type="stop")
    if last and isinstance(note.ending, SlideOff):
        etree.SubElement(articulations, "doit" if _up(note) else "falloff")
    if last and isinstance(note.ending, LetRing):
        found.append(etree.Element("tied", type="let-ring"))
    return [*found, *(one for one in (ornaments, technical, articulations) if len(one))]


def _slurs(note: Note, source: Note | None, after: Note | None, *, first: bool) -> Iterator[etree._Element]:
    """One slur over what is joined by hammer-ons and pull-offs, as others draw no line for those."""
    joined = source is not None and isinstance(note.attack, HammerOn | PullOff)
    joins = after is not None and isinstance(after.attack, HammerOn | PullOff)
    if first and joined != joins:
        yield etree.Element("slur", type="start" if joins else "stop", number=str(note.string))


def _up(note: Note) -> bool:
    to = note.ending.to if isinstance(note.ending, SlideOff) else 0
    return to == "far up" or (isinstance(to, int) and to > (note.fret or 0))


def _ornaments(ornaments: etree._Element, note: Note) -> None:
    if note.trill is not None:
        above = (note.trill.fret - (note.fret or 0)) / HUNDREDTHS
        etree.SubElement(ornaments, "trill-mark", {"trill-step": "half" if above == 1 else "whole"})
    if note.vibrato is not None:
        etree.SubElement(ornaments, "wavy-line", type="start")
    if note.tremolo is not None:
        etree.SubElement(ornaments, "tremolo", type="single").text = "3"


def _technical(technical: etree._Element, note: Note) -> None:
    if note.pick in (Pick.DOWN, Pick.UP):
        etree.SubElement(technical, "down-bow" if note.pick is Pick.DOWN else "up-bow")
    if note.pick is Pick.FINGER:
        etree.SubElement(technical, "pluck")
    if isinstance(note.attack, Harmonic):
        harmonic = etree.SubElement(technical, "harmonic")
        etree.SubElement(harmonic, "natural" if note.attack.how is HarmonicHow.NATURAL else "artificial")
        etree.SubElement(harmonic, "sounding-pitch")
    if note.finger is not None:
        etree.SubElement(technical, "fingering").text = note.finger.value
    if note.fret is not None and (note.fret % HUNDREDTHS == 0 or isinstance(note.attack, Harmonic)):
        etree.SubElement(technical, "fret").text = str(note.fret // HUNDREDTHS)
    etree.SubElement(technical, "string").text = str(note.string)
    if isinstance(note.attack, Tapped) or (isinstance(note.attack, Harmonic) and note.attack.how is HarmonicHow.TAPPED):
        etree.SubElement(technical, "tap")
    technical.extend(_bends(note))
    words = [
        (BAR, note.vibrato is not None and note.vibrato.by is By.BAR),
        (CHOKED, isinstance(note.ending, Choked)),
        (SWEEP, note.pick is Pick.SWEEP),
        (PINCHED, isinstance(note.attack, Harmonic) and note.attack.how is HarmonicHow.PINCHED),
        (UNSURE, note.sure is Sure.UNSURE),
    ]
    if note.fret is not None and note.fret % HUNDREDTHS and not isinstance(note.attack, Harmonic):
        words.append((f"{FRET} {note.fret / HUNDREDTHS:g}", True))
    if note.rake is not None:
        words.append((" ".join((RAKE, *map(str, note.rake.strings))), True))
    for word, holds in words:
        if holds:
            etree.SubElement(technical, "other-technical").text = word


def _articulations(articulations: etree._Element, note: Note) -> None:
    if note.accent:
        etree.SubElement(articulations, "accent")
    if isinstance(note.ending, Staccato):
        etree.SubElement(articulations, "staccato")
    if isinstance(note.attack, SlideIn):
        start = note.attack.start
        below = start == "far below" or (isinstance(start, int) and start < (note.fret or 0))
        etree.SubElement(articulations, "scoop" if below else "plop")


def _bends(note: Note) -> list[etree._Element]:
    """A bend element for every move of the pitch course, from and to per cent of the note."""
    found = []
    at, level = 0, 0
    for i, (tick, quarters) in enumerate(note.course):
        if i == 0 and quarters:
            found.append(_bend(quarters, 0, 0, note.ticks, "pre-bend"))
        elif quarters != level:
            found.append(_bend(quarters - level, at, tick, note.ticks, "release" if _eases(level, quarters) else ""))
        at, level = tick, quarters
    if any(quarters < 0 for _, quarters in note.course):
        for bend in found:
            etree.SubElement(bend, "with-bar").text = "dip"
    return found


def _eases(before: int, after: int) -> bool:
    return after < before and before > 0


def _bend(quarters: int, start: int, end: int, ticks: int, how: str) -> etree._Element:
    share = {"first-beat": _percent(start, ticks), "last-beat": _percent(end, ticks)} if end else {}
    bend = etree.Element("bend", share)
    etree.SubElement(bend, "bend-alter").text = f"{quarters / 2:g}"
    if how:
        etree.SubElement(bend, how)
    return bend


def _percent(tick: int, ticks: int) -> str:
    return f"{tick * PERCENT / ticks:.7f}".rstrip("0").rstrip(".")


# -- reading -----------------------------------------------------------------------------------------------------


class Played:
    """What the notations of a note say, gathered over its tied values."""

    def __init__(self) -> None:
        self.fields: dict[str, Any] = {}
        self.string: int | None = None
        self.fret: int | None = None
        self.levels: list[int] = []
        self.moves: list[tuple[float, float, int]] = []  # from and to (share of the note), level reached
        self.timed = True
        self.joins: list[tuple[str, str]] = []  # kind and number of hammer-ons, pull-offs, slides that start here
        self.joined: list[tuple[str, str]] = []  # and of those that end here
        self.bow: str | None = None
        self.spread = False
        self.spread_down = False
        self.together = False
        self.harmonic: str | None = None
        self.slid_in: str | None = None
        self.slid_off: str | None = None

    def read(self, note: etree._Element) -> None:
        """Take in one note element."""
        head = note.find("notehead")
        if head is not None:
            if (head.text or "").strip() in ("x", "cross"):
                self.fields["dead"] = True
            if head.get("parentheses") == "yes":
                self.fields["ghost"] = True
        if any((mute.text or "").strip() == "palm" for mute in note.iterfind("play/mute")):
            self.fields["palm_mute"] = True
        for notations in note.iterfind("notations"):
            for one in notations:
                if isinstance(one.tag, str):
                    self._notation(one)

    def _notation(self, one: etree._Element) -> None:
        match one.tag:
            case "slide" | "glissando":
                self._joined("slide", one)
            case "tied" if one.get("type") == "let-ring":
                self.fields["ending"] = {"kind": "let ring"}
            case "arpeggiate":
                self.spread, self.spread_down = True, one.get("direction") == "down"
            case "non-arpeggiate":
                self.together = True
            case "ornaments":
                self._ornaments(one)
            case "technical":
                for sign in one:
                    self._sign(sign)
            case "articulations":
                for sign in one:
                    self._articulation(sign)

    def _joined(self, kind: str, one: etree._Element) -> None:
        if one.get("type") == "start":
            self.joins.append((kind, one.get("number", "1")))
        elif one.get("type") == "stop":
            self.joined.append((kind, one.get("number", "1")))
            self.fields["attack"] = {"kind": kind}

    def _ornaments(self, ornaments: etree._Element) -> None:
        trill = ornaments.find("trill-mark")
        if trill is not None:
            self.fields["trill by"] = 1 if trill.get("trill-step") == "half" else 2
        elif any(line.get("type") == "start" for line in ornaments.iterfind("wavy-line")):
            self.fields["vibrato"] = {}
        if any((one.text or "").strip().casefold() == "vibrato" for one in ornaments.iterfind("other-ornament")):
            self.fields["vibrato"] = {}
        tremolo = ornaments.find("tremolo")
        if tremolo is not None and tremolo.get("type", "single") == "single":
            self.fields["tremolo"] = {}

    def _sign(self, sign: etree._Element) -> None:
        text = (sign.text or "").strip()
        match sign.tag:
            case "string":
                self.string = _whole(text, 1, 16)
            case "fret":
                fret = _whole(text, 0, 40)
                self.fret = None if fret is None else fret * HUNDREDTHS
            case "hammer-on" | "pull-off":
                self._joined(sign.tag, sign)
            case "bend":
                self._bend(sign)
            case "tap":
                self.fields.setdefault("attack", {"kind": "tapped"})
            case "harmonic":
                self.harmonic = "artificial" if sign.find("artificial") is not None else "natural"
            case "fingering":
                if text.upper() in list(Finger):
                    self.fields["finger"] = text.upper()
            case "down-bow" | "up-bow":
                self.bow = sign.tag.removesuffix("-bow")
            case "pluck":
                self.fields["pick"] = Pick.FINGER
            case "other-technical":
                self._words(text)

    def _words(self, text: str) -> None:
        words = text.casefold().split()
        if text == BAR:
            self.fields["vibrato"] = {"by": By.BAR}
        elif text == CHOKED:
            self.fields["ending"] = {"kind": "choked"}
        elif text == SWEEP:
            self.fields["pick"] = Pick.SWEEP
        elif text == PINCHED:
            self.harmonic = "pinched"
        elif text == UNSURE:
            self.fields["sure"] = Sure.UNSURE
        elif words[:1] == [RAKE] and all(word in "12345678" and len(word) == 1 for word in words[1:]) and words[1:]:
            self.fields["rake"] = {"strings": tuple(int(word) for word in words[1:8])}
        elif len(words) == 2 and words[0] == FRET and (fret := _number(words[1])) is not None and 0 <= fret <= 36:
            self.fret = round(fret * HUNDREDTHS)
        elif words[:2] == ["palm", "mute"] or words == ["p.m."]:
            self.fields["palm_mute"] = True

    def _articulation(self, sign: etree._Element) -> None:
        match sign.tag:
            case "accent" | "strong-accent":
                self.fields["accent"] = True
            case "staccato" | "staccatissimo":
                self.fields["ending"] = {"kind": "staccato"}
            case "scoop":
                self.slid_in = "far below"
            case "plop":
                self.slid_in = "far above"
            case "doit":
                self.slid_off = "far up"
            case "falloff":
                self.slid_off = "far down"

    def _bend(self, bend: etree._Element) -> None:
        alter = _number(bend.findtext("bend-alter"))
        if alter is None or abs(alter) > 12:
            return
        quarters = round(alter * 2)
        if not self.levels:
            self.levels.append(0)
        if bend.find("pre-bend") is not None:
            self.levels = [abs(quarters)] if len(self.levels) == 1 else [*self.levels, abs(quarters)]
            if bend.find("with-bar") is not None:
                self.levels[-1] = quarters
            return
        release = bend.find("release") is not None
        # Some write what a release reaches, some (as 4.0 says) by how much it falls.
        falls = -quarters if release and quarters > 0 else quarters
        level = 0 if release and quarters == 0 else self.levels[-1] + falls
        if release and level < 0 <= self.levels[-1] and bend.find("with-bar") is None:
            level = 0
        first, last = _number(bend.get("first-beat")), _number(bend.get("last-beat"))
        if first is None or last is None or not 0 <= first < last <= PERCENT:
            self.timed = False
        else:
            self.moves.append((first / PERCENT, last / PERCENT, level))
        self.levels.append(level)

    def course(self, ticks: int) -> tuple[tuple[int, int], ...]:
        """The pitch course where every move says when it comes; else none."""
        if not self.levels or not self.timed:
            return ()
        points = [(0, self.levels[0])]
        for first, last, level in self.moves:
            start, end = round(first * ticks), round(last * ticks)
            if start > points[-1][0]:
                points.append((start, points[-1][1]))
            if end > points[-1][0]:
                points.append((end, level))
        return tuple(points) if any(quarters for _, quarters in points) else ()

    def note_fields(self, ticks: int, midi: float | None) -> dict[str, Any]:
        """The fields of the note, once its length is known."""
        fields = dict(self.fields)
        by = fields.pop("trill by", None)
        if by is not None and self.fret is not None:
            fields["trill"] = {"fret": self.fret + by * HUNDREDTHS}
        if self.harmonic is not None:
            fields["attack"] = self._harmonic(midi, fields)
        if self.slid_in is not None:
            fields["attack"] = {"kind": "slide-in", "start": self.slid_in, "ticks": max(1, round(ticks * IN))}
        if self.slid_off is not None:
            fields["ending"] = {"kind": "slide-off", "to": self.slid_off, "ticks": max(1, round(ticks * OFF))}
        return fields

    def _harmonic(self, midi: float | None, fields: dict[str, Any]) -> dict[str, Any]:
        if self.harmonic == "natural":
            return {"kind": "harmonic"}
        tapped = fields.get("attack", {}).get("kind") == "tapped"
        return {"kind": "harmonic", "how": HarmonicHow.TAPPED if tapped else HarmonicHow.PINCHED}


def _number(text: str | None) -> float | None:
    try:
        number = float(text) if text else None
    except ValueError:
        return None
    return number if number is not None and abs(number) < 1e6 else None


def _whole(text: str, least: int, most: int) -> int | None:
    number = _number(text)
    return int(number) if number is not None and least <= number <= most else None
