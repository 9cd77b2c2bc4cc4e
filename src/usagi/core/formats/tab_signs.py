"""The signs of a note in text tablature, written and read; docs/format.md lists them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from usagi.core.document.elements import Note
from usagi.core.document.faults import explain
from usagi.core.document.pitches import course_stages
from usagi.core.document.techniques import (
    By,
    Choked,
    Harmonic,
    HarmonicHow,
    LetRing,
    Rake,
    SlideIn,
    SlideOff,
    Staccato,
    Sure,
    Tremolo,
    Trill,
    Vibrato,
    steps_text,
)
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.ticks import QUARTER

ATTACKS = {"hammer-on": "h", "pull-off": "p", "tapped": "t"}
ENDINGS = {"staccato": ".", "choked": "c", "let ring": "="}
HOW = {HarmonicHow.PINCHED: "p", HarmonicHow.TAPPED: "t"}
MOST_STEPS = 3  # a larger number after `b` or `r` is a fret, as others write it
BETWEEN = ","  # two notes of one string in one slot
QUARTERS = 4  # of a whole step
IN, OFF = 0.25, 0.34  # the share of its note that a slide from nowhere, or away, takes when only the sign is known


class SignUnreadable(UsagiError):
    """Signs on a string of a tablature that mean nothing, at their column from 0."""

    code = "sign-unreadable"

    def __init__(self, column: int, sentence: str) -> None:
        super().__init__(sentence)
        self.column = column


def cell(note: Note, before: Note | None) -> str:
    """One note in signs; `before` is the one before it on its string, which tells where a slide comes from."""
    body = "x" if note.dead else "?" if note.fret is None else _fret(note.fret)
    if isinstance(note.attack, Harmonic) and body not in ("x", "?"):
        how = HOW.get(note.attack.how)
        body = f"<{body}{how}{note.attack.partial}>" if how else f"<{body}>"
    if note.ghost:
        body = f"({body})"
    return "".join((
        f"k{''.join(map(str, note.rake.strings))}:" if note.rake is not None else "",
        "!" if note.accent else "",
        _attack(note, before),
        body,
        _course(note),
        "" if note.vibrato is None else "w" if note.vibrato.by is By.BAR else "~",
        f"tr{_fret(note.trill.fret)}" if note.trill is not None else "",
        "z" if note.tremolo is not None else "",
        "m" if note.palm_mute else "",
        _ending(note),
        "?" if note.sure is not Sure.SURE and body != "?" else "",
    ))  # fmt: skip


def _fret(hundredths: int) -> str:
    return f"{hundredths / HUNDREDTHS:g}"


def _attack(note: Note, before: Note | None) -> str:
    if isinstance(note.attack, SlideIn):
        start = note.attack.start
        if isinstance(start, str):
            return "\\\\" if start == "far above" else "//"
        return _fret(start) + ("\\\\" if start > (note.fret or 0) else "//")
    if note.attack.kind == "slide":
        # The text of a dead note says no fret that it could fall from.
        falling = before is not None and not before.dead and (before.fret or 0) > (note.fret or 0)
        return "\\" if falling else "/"
    return ATTACKS.get(note.attack.kind, "")


def _course(note: Note) -> str:
    text, level = "", 0
    for at, quarters, _ in course_stages(note.course, note.ticks):
        steps = steps_text(abs(quarters))
        if quarters < 0:
            text += ("V" if at == 0 else "v") + steps
        elif at == 0:
            text += f"B{steps}" if quarters else ""
        elif level < 0:
            text += "^" + (f"b{steps}" if quarters else "")
        elif quarters > level:
            text += f"b{steps}"
        elif quarters < level:
            text += "r" + (steps if quarters else "")
        level = quarters
    return text


def _ending(note: Note) -> str:
    if not isinstance(note.ending, SlideOff):
        return ENDINGS[note.ending.kind] if note.ending is not None else ""
    to = note.ending.to
    return f">{_fret(to)}" if isinstance(to, int) else "/" if to == "far up" else "\\"


# What a legend says of the signs that a tablature uses, in the order of a note's own time.
LEGEND: tuple[tuple[str, str, Callable[[Note], bool]], ...] = (
    ("k43:9", "raked over strings 4 and 3", lambda note: note.rake is not None),
    ("!9", "accented", lambda note: note.accent),
    ("h9", "hammered on", lambda note: note.attack.kind == "hammer-on"),
    ("p7", "pulled off", lambda note: note.attack.kind == "pull-off"),
    ("t9", "tapped", lambda note: note.attack.kind == "tapped"),
    ("/9 \\7", "slid up to, down to, from the note before", lambda note: note.attack.kind == "slide"),
    ("//9 \\\\9 7//9", "slid in from below, from above, from a fret", lambda note: note.attack.kind == "slide-in"),
    ("<12> <5p3>", "harmonic; pinched, with its partial", lambda note: note.attack.kind == "harmonic"),
    ("x", "dead", lambda note: note.dead),
    ("(9)", "ghosted", lambda note: note.ghost),
    ("B1", "bent before it is struck", lambda note: bool(note.course) and note.course[0][1] > 0),
    ("b1½", "bent by so many whole steps", lambda note: any(q > 0 for _, q in note.course[1:])),
    ("r", "released, r½ to so many", lambda note: "r" in _course(note)),
    ("v1^", "dipped with the bar and brought back", lambda note: any(q < 0 for _, q in note.course)),
    ("~ w", "vibrato, with the bar", lambda note: note.vibrato is not None),
    ("tr9", "trilled to a fret", lambda note: note.trill is not None),
    ("z", "picked fast again and again", lambda note: note.tremolo is not None),
    ("m", "palm muted", lambda note: note.palm_mute),
    ("9/ 9\\ 9>5", "slid off up, down, to a fret", lambda note: isinstance(note.ending, SlideOff)),
    (".", "short", lambda note: isinstance(note.ending, Staccato)),
    ("c", "cut off", lambda note: isinstance(note.ending, Choked)),
    ("=", "left to ring", lambda note: isinstance(note.ending, LetRing)),
    ("?", "not sure", lambda note: note.sure is not Sure.SURE),
)


def legend(notes: Iterable[Note]) -> list[str]:
    """`sign words` of every sign that the notes use."""
    all_of_them = list(notes)
    return [f"{sign} {words}" for sign, words, used in LEGEND if any(used(note) for note in all_of_them)]


@dataclass(frozen=True)
class Cell:
    """One note as its signs say it, without place and length."""

    fields: dict[str, Any]
    levels: tuple[int, ...]  # quarter tones that its pitch goes to in turn, the first is where it starts

    @property
    def rings(self) -> bool:
        return self.fields.get("ending") == {"kind": "let ring"}

    def note(self, note_id: str, tick: int, ticks: int, string: int) -> Note:
        """The note; what signs leave open (how fast, how wide, when within the note) is usual."""
        fields: dict[str, Any] = {"id": note_id, "tick": tick, "ticks": ticks, "string": string} | self.fields
        fields["course"] = evenly(self.levels, ticks)
        if "slide-in" in fields:
            fields["attack"] = SlideIn(start=fields.pop("slide-in"), ticks=max(1, round(ticks * IN)))
        if "slide-off" in fields:
            fields["ending"] = SlideOff(to=fields.pop("slide-off"), ticks=max(1, round(ticks * OFF)))
        return Note.model_validate(fields)


def evenly(levels: tuple[int, ...], ticks: int) -> tuple[tuple[int, int], ...]:
    """The pitch course through levels (quarter tones) of a note `ticks` long, when nothing says how fast they come.

    Every level of a bend takes the same time. A prebend is held first; another bend begins at once."""
    if len(levels) == 1:
        return ((0, levels[0]),) if levels[0] else ()
    held = [quarters for quarters in levels for _ in (0, 1)]
    if levels[0] == 0:
        del held[0]
    points = [(ticks * i // (len(held) - 1), quarters) for i, quarters in enumerate(held)]
    kept: list[tuple[int, int]] = []
    for at, quarters in points[:-1]:
        if not kept or at > kept[-1][0]:
            kept.append((at, quarters))
    return tuple(kept)


_NUMBER = r"\d{1,2}(?:\.\d{1,2})?"
_STEPS = r"\d{1,2}[¼½¾]?|[¼½¾]"
_NOTE = re.compile(
    rf"(?:k(?P<rake>[1-8]+):)?(?P<accent>!)?"
    rf"(?:(?P<start>{_NUMBER})?(?P<nowhere>//|\\\\)|(?P<attack>[hpt/\\]))?"
    rf"(?P<ghost>\()?(?:<(?P<harmonic>{_NUMBER})(?:(?P<how>[pt])(?P<partial>[2-8]))?>|(?P<body>{_NUMBER}|[xX?]))(?(ghost)\))"
    rf"(?P<course>(?:[bBvV](?:{_STEPS})?|r(?:{_STEPS})?|\^)*)(?P<shaken>~+|w)?(?:tr(?P<trill>{_NUMBER}))?"
    rf"(?P<tremolo>z)?(?P<palm>m)?(?:(?P<ending>[.c=])|>(?P<to>{_NUMBER})|(?P<off>[/\\])(?![\d(<xX/\\]))?(?P<unsure>\?)?"
)
_MOVE = re.compile(rf"([bBvVr^])({_STEPS})?")
_PARTS = {"¼": 1, "½": 2, "¾": 3}


def read_cells(text: str) -> Iterator[tuple[int, Cell]]:
    """The notes of a stretch of a string, each with its column; dashes and blanks hold the others apart.

    Raises : SignUnreadable.

    >>> [(at, one.fields["fret"], one.levels) for at, one in read_cells("--7b1r-h9")]
    [(2, 700, (0, 4, 0)), (7, 900, (0,))]
    """
    at = 0
    while at < len(text):
        if text[at] in "- \t" + BETWEEN:
            at += 1
            continue
        found = _NOTE.match(text, at)
        if found is None:
            rest = re.split(r"[-\s]", text[at:], maxsplit=1)[0]
            raise SignUnreadable(at, f"“{rest}” is no sign of a note.")
        one = _read(found)
        try:
            one.note("tried", 0, QUARTER, 1)
        except UsagiError as fault:
            raise SignUnreadable(at, f"“{found.group()}”: {fault}") from None
        except ValidationError as fault:
            raise SignUnreadable(at, f"“{found.group()}”: {explain(fault)}") from None
        yield at, one
        at = found.end()


def _hundredths(number: str) -> int:
    return round(float(number) * HUNDREDTHS)


def _read(found: re.Match[str]) -> Cell:
    matched = found.groupdict()
    stopped = matched["harmonic"] or matched["body"]
    fields: dict[str, Any] = {"dead": stopped in "xX"} if stopped in ("x", "X") else {}
    if stopped not in ("x", "X", "?"):
        fields["fret"] = _hundredths(stopped)
    if stopped == "?":
        fields["sure"] = Sure.UNKNOWN
    elif matched["unsure"]:
        fields["sure"] = Sure.UNSURE
    if matched["harmonic"]:
        how = next((how for how, sign in HOW.items() if sign == matched["how"]), HarmonicHow.NATURAL)
        fields["attack"] = Harmonic(how=how, partial=int(matched["partial"] or 2))
    elif matched["nowhere"]:
        far = "far above" if matched["nowhere"] == "\\\\" else "far below"
        fields["slide-in"] = _hundredths(matched["start"]) if matched["start"] else far
    elif matched["attack"]:
        kinds = {sign: kind for kind, sign in ATTACKS.items()} | {"/": "slide", "\\": "slide"}
        fields["attack"] = {"kind": kinds[matched["attack"]]}
    if matched["to"]:
        fields["slide-off"] = _hundredths(matched["to"])
    elif matched["off"]:
        fields["slide-off"] = "far up" if matched["off"] == "/" else "far down"
    elif matched["ending"]:
        fields["ending"] = {"kind": next(kind for kind, sign in ENDINGS.items() if sign == matched["ending"])}
    for name, sign in (("ghost", "ghost"), ("accent", "accent"), ("palm_mute", "palm")):
        if matched[sign]:
            fields[name] = True
    if matched["shaken"]:
        fields["vibrato"] = Vibrato(by=By.BAR if matched["shaken"] == "w" else By.FINGER)
    if matched["trill"]:
        fields["trill"] = Trill(fret=_hundredths(matched["trill"]))
    if matched["tremolo"]:
        fields["tremolo"] = Tremolo()
    if matched["rake"]:
        fields["rake"] = Rake(strings=tuple(int(string) for string in matched["rake"]))
    return Cell(fields, tuple(_levels(matched["course"] or "", fields.get("fret", 0))))


def _levels(signs: str, fret: int) -> list[int]:
    levels = [0]
    for sign, steps in _MOVE.findall(signs):
        quarters = _quarters(steps, fret, sign)
        match sign:
            case "B" | "V":
                levels = [quarters if sign == "B" else -quarters]
            case "^":
                levels.append(0)
            case _:
                levels.append(-quarters if sign == "v" else quarters)
    return levels


def _quarters(steps: str, fret: int, sign: str) -> int:
    if not steps:
        return 0 if sign == "r" else QUARTERS
    whole = int(steps.rstrip("¼½¾") or 0)
    if whole > MOST_STEPS and sign in "bBr":
        return max(0, whole * HUNDREDTHS - fret) * 2 // HUNDREDTHS
    return whole * QUARTERS + _PARTS.get(steps[-1], 0)
