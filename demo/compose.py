"""The demo's solos, composed for it, written in a shorthand and turned into the documents that ship.

The island of Hallow Ness, its dance band the Harbour Nine, and the reels of Radio Fennick do not exist.

    python demo/compose.py [NAME]      writes demo/*.json (without their recordings; demo/render.py adds those)

Shorthand: `string.fret:length` and marks; `r:length` rests; `3.9+2.8:4` is a stack. Lengths: 1 2 4 8 16, a dot, `t`
for a triplet; `m` behind a fret lies half-way to the next, under a bottleneck. NoteViews: h p / = hammer-on, pull-off,
slide; b4 = bent by 4 quarter tones; r = let down again; P2 = bent beforehand and let down; ~ and w = shaken, shaken
wide; x g > = dead, ghost, accent; ^ v = slid in, slid off; o s = left to ring, short; ? = unsure.
"""

from __future__ import annotations

import re
import sys
from itertools import count, pairwise
from pathlib import Path

from usagi.core.chart.text import read_chart
from usagi.core.document.elements import Dynamic, Note, Phrase, Question, Rest, Stack
from usagi.core.document.solo import Anchor, Cue, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import Stroke
from usagi.core.formats.document_json import SoloDocument, read_document, write_document
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.grid import Grid, grid_at_tempo
from usagi.core.meter.ticks import QUARTER, WHOLE

FOLDER = Path(__file__).parent
BAR = 4 * QUARTER
TOKEN = re.compile(r"(r|[\d.+m]+):(\d+)(\.?)(t?)(.*)$")


def write_line(text: str, start: int, prefix: str) -> tuple[list[Note], list[Rest], list[Stack]]:
    """Notes, rests and stacks of a line that starts at a tick."""
    notes: list[Note] = []
    rests: list[Rest] = []
    stacks: list[Stack] = []
    tick = start
    for number, token in enumerate(text.replace("|", " ").split()):
        found = TOKEN.match(token)
        if found is None:
            raise ValueError(token)
        what, length, dot, triplet, marks = found.groups()
        ticks = WHOLE // int(length)
        ticks = ticks * 3 // 2 if dot else ticks * 2 // 3 if triplet else ticks
        if what == "r":
            rests.append(Rest(id=f"{prefix}r{number}", tick=tick, ticks=ticks))
        else:
            places = what.split("+")
            stack = f"{prefix}s{number}" if len(places) > 1 else None
            if stack is not None:
                stacks.append(Stack(id=stack))
            for place in places:
                string, fret = place.split(".")
                values = {
                    "id": f"{prefix}n{number}" + (f"-{string}" if stack else ""),
                    "tick": tick,
                    "ticks": ticks,
                    "string": int(string),
                    "fret": int(fret.removesuffix("m")) * 100 + (50 if fret.endswith("m") else 0),
                    "stack": stack,
                }
                notes.append(Note.model_validate(values | techniques(marks, ticks)))
        tick += ticks
    return notes, rests, stacks


def techniques(marks: str, ticks: int) -> dict[str, object]:
    """The fields that the marks of a token stand for."""
    fields: dict[str, object] = {}
    reach = min(QUARTER // 2, ticks // 2)
    if (bent := re.search(r"b(\d)(r?)", marks)) is not None:
        size = int(bent.group(1))
        course = [(0, 0), (reach, size)]
        if bent.group(2):
            course += [(ticks - ticks // 3, size), (ticks, 0)]
        fields["course"] = course
    if (before := re.search(r"P(\d)", marks)) is not None:
        size = int(before.group(1))
        fields["course"] = [(0, size), (ticks // 2, size), (ticks // 2 + reach // 2, 0)]
    attacks = {"h": "hammer-on", "p": "pull-off", "/": "slide"}
    for mark, kind in attacks.items():
        if mark in marks:
            fields["attack"] = {"kind": kind}
    if "^" in marks:
        fields["attack"] = {"kind": "slide-in", "start": "far below", "ticks": min(ticks // 2, 2520)}
    if "~" in marks:
        wide = "w" in marks
        fields["vibrato"] = {
            "start": min(ticks // 2, 7560 if "b" in marks else 3780),
            "width_cents": 70 if wide else 36,
            "rate_hz": 5.2 if wide else 5.6,
        }
    endings = {
        "v": {"kind": "slide-off", "to": "far down", "ticks": min(ticks // 2, 2520)},
        "o": {"kind": "let ring"},
        "s": {"kind": "staccato"},
    }
    for mark, ending in endings.items():
        if mark in marks:
            fields["ending"] = ending
    flags = {"x": "dead", "g": "ghost", ">": "accent"}
    fields |= {name: True for mark, name in flags.items() if mark in marks}
    if "?" in marks:
        fields["sure"] = "unsure"
    return fields


def drifting(bar_one_s: float, bar_ticks: int, pulses: int, tempos: tuple[tuple[int, float], ...]) -> Grid:
    """A grid whose tempo changes at bars: `(bar, pulses a minute from there on)`."""
    ticks, seconds = [0], [bar_one_s]
    for (bar, bpm), (after, _) in pairwise((*tempos, (tempos[-1][0] + 1, 0.0))):
        ticks.append((after - 1) * bar_ticks)
        seconds.append(round(seconds[-1] + (after - bar) * pulses * 60 / bpm, 6))
    return Grid(tuple(ticks), tuple(seconds))


def ground_of(chart: str, grid: Grid, bars: int, prefix: str) -> Ground:
    ids = count()
    read = read_chart(chart, new_id=lambda: f"{prefix}c{next(ids)}")
    return Ground(
        settings=GroundSettings(
            bars=bars,
            pickup_ticks=(read.pickup_pulses or 0) * QUARTER,
            form=read.chart.form,
            choruses=read.chart.choruses,
        ),
        anchors=tuple(
            Anchor(id=f"{prefix}a{i}", tick=t, second=s)
            for i, (t, s) in enumerate(zip(grid.ticks, grid.seconds, strict=True))
        ),
        sections=read.chart.sections,
        exceptions=read.chart.exceptions,
    )


def at(bar: int, eighths: int = 0) -> int:
    return (bar - 1) * BAR + eighths * QUARTER // 2


LANTERNS_CHART = """
Lantern:
| {4/4} {key E minor} {swing 1.8} {pick-up 1} Em7 | Am9 | Em7 C7 | B7(b9) |
| Em7 A7 | D7sus4 D7 |
Tide:
| Gmaj7 | F#m7b5 B7(b9) | Cmaj9 | Am6 . <B7(#5) . |
Lantern:
Out:
| Em7 A7 | Em6 |
"""
LANTERNS_LINE = """
3.7:8 3.9:8h |
2.8:8 2.10:4.b4~ 2.8:8 3.9:8 3.7:8p r:8 |
r:8 2.10:8 1.8:8 1.7:8p 2.10:8 2.8:8p 3.9:4~ |
3.7:8t 3.9:8th 2.8:8t 2.8:8 2.12:8/ 2.11:4 1.8:8 1.6:8 |
1.7:8 1.8:8h 1.7:8p 2.10:8 2.7:8 3.7:2b2~ | 3.9:8 2.8:8 2.10:8h 1.8:4b1 2.10:8 3.9:8 |
2.8:8 2.10:8 1.8:8 1.10:8 2.7:4~ 3.11:8x 3.7:8 |
1.7:8 1.10:8 1.14:4^ 1.15:4.b4r> 2.15:8 |
2.13:8 1.12:8 1.8:8 2.10:8 2.7:8 3.8:8 4.10:8 4.9:8v |
3.9+2.8:4 3.9+2.8:8s 1.7:8 1.10:2~w |
1.8:8t 1.10:8th 1.8:8tp 2.10:8 2.8:8 1.10:4.P2~ 1.7:8 |
1.12:8 2.15:4.b8~w> 1.12:8 1.15:8 2.15:8 2.12:8p |
2.13:8 2.12:8p 3.14:8 3.12:8p 4.14:8 3.12:8 3.14:4/~ |
3.14:4b4r 3.12:4~ 2.13:8 1.12:4.b6~ |
1.14:8t 1.11:8t 2.13:8t 2.12:8 2.10:8p 3.11:8 3.8:8p 4.10:8 4.9:8p |
4.9:8 3.7:8 3.9:8h 2.8:8 2.10:8 2.8:8p 3.6:4~ |
2.8:4 2.10:8h 1.8:8 2.7:8 1.5:8 1.7:8h 1.10:8 |
2.8:8t 2.10:8th 2.8:8tp 3.9:4~ 1.9:8 2.10:8 3.9:8g 3.6:8 |
3.9+2.8+1.7:1o~
"""
LANTERNS_PHRASES = (
    ("the lamp is lit", at(1, -2), at(2, 8)),
    ("down to the leading note", at(3), at(5, 1)),
    ("two quays", at(5, 1), at(6, 8)),
    ("the tide turns", at(7), at(8, 8)),
    ("low water", at(9), at(10, 8)),
    ("the lamp again, higher", at(11), at(12, 8)),
    ("down the steps", at(13), at(14, 8)),
    ("home, and out", at(15), at(18, 8)),
)

GULL_CHART = """
Quay:
| {4/4} {key A dorian} {straight} Am7 | G/A | D/F# | Fmaj7 |
| Am7 . G . | Dsus4 D | Esus4 | E7(#9) |
Open water:
|: Am9 | D6/9 :|
"""
GULL_LINE = """
3.2:8 3.5:8/ 2.5:8 2.8:4b4 2.5:8 3.7:8 3.5:8p |
4.7:8 3.4:8 3.5:4h~ r:8 2.5:8 2.8:8 1.5:8 |
1.2:8^ 1.5:8 2.7:4~ 3.7:8 2.5:8? 2.3:4? |
r:4 3.2:8 2.1:8 1.0:4.o 2.1:8 |
1.5:8 1.8:8h 1.5:8p 2.8:8 2.8:8x 2.3:8 1.3:4b2~ |
2.3+1.3:4 2.3+1.2:4 r:2
"""

SALT_BAR = 12 * QUARTER // 2
SALT_CHART = """
Verse:
| {12/8} {key G mixolydian} {blues} G7 | C9 | G7 | G7 . Dm7 G7 |
| C9 | C#dim7 | G7 | Bm7b5 E7(b9) |
| D9 | C9 | G7 C7 | G6 D7(#5) |
"""
SALT_LINE = """
3.3:8 3.4:8h 2.3:8 1.3:4.b4~ 1.0:8 2.3:8 2.1:8p 2.0:4. |
r:8 2.1:8 2.3:8h 1.0:8 1.3:4b1 1.0:4 2.3:8 2.1:4.~ |
4.9:8 3.7:8 3.10:8 2.8:4.~ 2.8:8 2.6:8p 3.7:8 3.10:4 3.7:8 |
3.4:4./~ r:4. 2.0:8o 1.0:8o 1.5:8 1.8:4.b1 |
1.10:4 1.8:8p 2.10:8 2.8:8p 1.8:8 1.10:4.b4~ 1.8:8 2.11:8 2.10:8 |
2.8:8 2.11:8/ 1.11:8 1.8:4 1.5:8 2.8:8 2.5:8p 3.6:8 3.9:4.~ |
3.7:8 3.10:8 2.8:8 1.12:4.^~ 1.15:8b4r 1.12:4 2.12:8 2.8:8 3.10:8 |
3.12:4.~w 2.12+1.12:8 2.12+1.12:8g 2.12+1.12:8 2.13+1.12:4. r:4. |
1.7:8 1.10:8h 1.7:8p 2.10:4.b1~ 2.7:8 2.10:8 1.7:8 1.4:4.v |
1.5:8 1.8:8 1.10:8h 2.13:4.b1 2.11:8 2.8:8p 3.12:8 3.9:4. |
3.4:8 2.0:8 1.0:8 2.3:8 1.3:8b2 1.0:8p 2.3:8 2.0:8p 3.3:8 3.4:4h 3.0:8 |
4.0:8 4.5:8 3.2:8 2.1:4. 2.3+1.4:2.o~ |
"""
SALT_PHRASES = (
    ("salt on the road", 0, 2),
    ("the cart", 2, 4),
    ("over the causeway", 4, 8),
    ("home by the sluice", 8, 12),
)


def salt_road() -> SoloDocument:
    """Slow and in twelve, on open strings, pulling ahead as it goes."""
    notes, rests, stacks = write_line(SALT_LINE, 0, "s")
    tempos = ((1, 55.0), (3, 55.6), (5, 56.5), (7, 57.2), (9, 58.0), (11, 58.9), (13, 58.9))
    claims = (
        {"who": "Mirren Oake", "part": "lead guitar", "according_to": "the box of reel 31", "sure": 1.0},
        {"who": "Ilse Tarn", "part": "piano", "according_to": "her own list of sessions", "sure": 0.7},
        {"who": "The Harbour Nine", "part": "band", "according_to": "the box of reel 31", "sure": 1.0},
    )
    rig = (("guitar", "hollow body, neck pick-up"), ("amplifier", "one loudspeaker, volume half up, no treble"))
    settings = SoloSettings.model_validate(
        {
            "title": "verse, reel 31",
            "player": "Mirren Oake",
            "credits": claims,
            "rig": [{"name": name, "value": value} for name, value in rig],
            "tuning": parse_tuning("open G").midi,
            "gauges": [{"gauge_inch": g / 1_000, "wound": g >= 24} for g in (12, 16, 20, 32, 42, 54)],
            "last_bar": 12,
        }
    )
    ground = ground_of(SALT_CHART, drifting(1.1, SALT_BAR, 4, tempos), 12, "s")
    cues = (
        Cue(id="sq0", tick=0, words="“who walks the salt road …”"),
        Cue(id="sq1", tick=8 * SALT_BAR, words="piano in"),
    )
    return SoloDocument(
        tune="The Salt Road",
        ground=ground.model_copy(update={"cues": cues}),
        solo=Solo(
            settings=settings,
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=tuple(stacks),
            phrases=tuple(
                Phrase(id=f"sp{i}", name=name, start=start * SALT_BAR, end=end * SALT_BAR)
                for i, (name, start, end) in enumerate(SALT_PHRASES)
            ),
        ),
    )


FERRY_CHART = """
bell:
| {4/4} {key D major} {swing 1.5} {blues} D | D7 | G7 | D |
| A7 | G7 | D | A7 |
"""
FERRY_LINE = """
r:8 1.12:8^~ 1.12:8 1.10:8/ 1.12:4.~ r:8 |
1.10:8 1.8:8/ 2.8:8 1.3m:8^ 1.3:8/ 1.0:8 2.3:4~ |
1.5+2.5+3.5:4^ 1.5:8 1.8:8/ 1.8:4.~ 2.5:8 |
3.5:8 3.3m:8/ 3.0:8 4.3:8^ 4.0:2o |
1.7+2.7:4^~ 1.7:8 1.10:8/ 1.7:8/ 2.10:8 2.7:4~ |
1.5:4^ 1.3m:8/ 1.5:8/ 1.3:8/ 1.0:8 2.3m:8^ 2.5:8/ |
1.12+2.12:2^~w 1.10:8 1.8:8/ 1.3:8^ 1.3m:8/ |
1.0:8 2.3:8^ 2.0:8 3.3m:8^ 4.0+3.0+2.0+1.0:2o |
"""


def ferry_bell() -> SoloDocument:
    """A bottleneck on open D: slides are the rule, and some thirds lie between the frets."""
    notes, rests, stacks = write_line(FERRY_LINE, 0, "f")
    rig = (("guitar", "steel body, high action"), ("slide", "glass, on the little finger, muting behind it"))
    settings = SoloSettings.model_validate(
        {
            "title": "eight bars by the slip, reel 40",
            "player": "Wenna Tolliver",
            "rig": [{"name": name, "value": value} for name, value in rig],
            "tuning": parse_tuning("open D").midi,
            "gauges": [{"gauge_inch": g / 1_000, "wound": g >= 26} for g in (15, 18, 26, 36, 46, 56)],
            "bottleneck": True,
            "last_bar": 8,
        }
    )
    stroked = tuple(
        s.model_copy(update={"stroke": Stroke.DOWN, "spread_ms": 90.0}) if s == stacks[-1] else s for s in stacks
    )
    return SoloDocument(
        tune="Ferry Bell",
        ground=ground_of(FERRY_CHART, grid_at_tempo(0.9, 84.0), 8, "f"),
        solo=Solo(
            settings=settings,
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=stroked,
            phrases=(
                Phrase(id="fp0", name="the bell", start=0, end=at(3)),
                Phrase(id="fp1", name="across", start=at(3), end=at(5)),
                Phrase(id="fp2", name="made fast", start=at(5), end=at(9)),
            ),
        ),
    )


HEARD_ON = {"lanterns-melody": "lanterns-at-low-water"}  # on another's recording
MELODY_LINE = """
2.8:2 2.10:4 3.9:4 | 2.10:2. 2.8:4 | 3.9:2 2.8:4 3.9:4 | 2.7:1~ |
2.8:2 2.10:2 | 2.8:2 2.7:2~ |
1.7:2 1.10:4 1.7:4 | 1.8:2 2.10:2 | 2.8:2 3.9:2 | 2.10:2 2.7:2~ |
"""

SLACK_CHART = """
Tide table:
| {4/4} {key A major} {swing 1.7} {blues} A7 | D7 | A7 | A7 |
| D7 | D7 | A7 | A7 |
| E7 | D7 | A7 | E7 |
"""
SLACK_LINE = """
r:8 3.5:8 3.6:8h 2.5:8 1.5:4 2.8:8 2.5:8 | r:8 1.8:8 1.7:8p 1.5:8 2.7:4~ 2.5:8 3.7:8 |
r:8 3.5:8 3.6:8h 2.5:8 2.8:8 2.5:8p 3.6:4~ | r:2 r:4 1.3:8 1.4:8 |
1.5:4 1.8:8b2 1.5:8 2.7:8 2.5:8p 3.7:8 3.5:8p | r:8 3.5:8 3.7:8h 2.5:8 2.7:4.b2~ r:8 |
r:8 3.5:8 3.6:8h 2.5:8 1.5:8 1.8:8 1.5:4~ | 2.8:8 2.5:8p 3.6:8 3.5:8p 4.7:2~ |
r:8 1.7:8 1.10:8h 1.7:8p 2.9:4b1~ 2.7:8 2.5:8p | r:8 1.8:8 1.7:8p 1.5:8 2.7:4~ 2.5:8 3.7:8 |
r:8 3.5:8 3.6:8h 2.5:8 1.5:8t 2.8:8t 2.5:8tp 3.6:4~ | r:8 4.6:8 4.7:8h 3.4:8 2.5:2o~ |
"""
SLACK_PHRASES = (
    ("slack water", 1, 3), ("before the turn", 3, 5), ("the flood", 5, 7), ("over the bar", 7, 9),
    ("the ebb", 9, 11), ("made fast", 11, 13),
)  # fmt: skip

LOFT_CHART = """
Loft:
| {4/4} {key A dorian} {straight} Am7 | D7 | Am7 | D7 |
| Am7 | Em7 | Fmaj7 | E7(#9) |
"""
LOFT_LINE = """
3.5:8 3.7:8h 2.5:8 2.8:4b4~ 2.5:8 3.7:8 3.5:8p | r:8 3.7:8 2.5:8 2.7:8h 1.5:4b2~ 2.7:8 2.5:8p |
3.5:8 3.7:8h 2.5:8 2.8:8 1.5:8 2.8:8 2.5:4~ | r:4 4.7:8 3.5:8 3.7:2~ |
1.5:8 1.8:8h 1.5:8p 2.8:8 2.5:8p 2.8:8x 2.5:8 3.7:8 | 3.9:4b2r 3.7:8 3.5:8p 4.7:2~ |
r:8 2.6:8 1.5:8 1.8:8h 1.7:8p 1.5:8p 2.6:4~ | 2.5:8 2.3:8p 3.4:8 3.1:8 4.2:2o~ |
"""
LOFT_PHRASES = (("up the ladder", 1, 3), ("the loft door", 3, 5), ("hanging nets", 5, 7), ("down again", 7, 9))


def lanterns_melody() -> SoloDocument:
    """The tune of the lanterns by itself, over its first two sections; solos on the reel are held against it."""
    notes, rests, stacks = write_line(MELODY_LINE, 0, "m")
    return SoloDocument(
        tune="Lanterns at Low Water",
        ground=ground_of(LANTERNS_CHART, grid_at_tempo(1.5, 104.0), 18, "l"),
        solo=Solo(
            settings=SoloSettings(title="melody", first_bar=1, last_bar=10, melody=True),
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=tuple(stacks),
        ),
    )


def in_four(
    tune: str, title: str, player: str, chart: str, line: str, phrases: tuple[tuple[str, int, int], ...], prefix: str,
    bpm: float,
) -> SoloDocument:  # fmt: skip
    """A solo in four-four from bar 1 on, in standard tuning; phrases from bar to bar."""
    notes, rests, stacks = write_line(line, 0, prefix)
    bars = phrases[-1][2] - 1
    return SoloDocument(
        tune=tune,
        ground=ground_of(chart, grid_at_tempo(1.0, bpm), bars, prefix),
        solo=Solo(
            settings=SoloSettings(title=title, player=player, last_bar=bars),
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=tuple(stacks),
            phrases=tuple(
                Phrase(id=f"{prefix}p{i}", name=name, start=at(start), end=at(end))
                for i, (name, start, end) in enumerate(phrases)
            ),
        ),
    )


def lanterns_questions(notes: list[Note]) -> tuple[Question, ...]:
    """Three doubts that the reel leaves open."""

    def over(start: int, end: int) -> list[Note]:
        return [note for note in notes if start <= note.tick < end]

    slid, double, last = over(at(3), at(3) + QUARTER), over(at(7), at(7) + 2 * QUARTER), over(at(16), at(17))
    return (
        Question(
            id="lq0", start=slid[0].tick, end=slid[-1].end, notes=tuple(n.id for n in slid),
            words="Hammered, or picked twice?", answers=("hammered", "picked"),
        ),
        Question(
            id="lq1", start=double[0].tick, end=double[-1].end, notes=tuple(n.id for n in double),
            words="On these strings, or a position lower?", answers=("as written", "a position lower"),
        ),
        Question(id="lq2", start=last[0].tick, end=last[-1].end, words="Is the organ on top of the last note here?"),
    )  # fmt: skip


def documents() -> dict[str, SoloDocument]:
    """All solos by the name of their files."""
    notes, rests, stacks = write_line(LANTERNS_LINE, -QUARTER, "l")
    lanterns = SoloDocument(
        tune="Lanterns at Low Water",
        ground=ground_of(LANTERNS_CHART, grid_at_tempo(1.5, 104.0), 18, "l"),
        solo=Solo(
            settings=SoloSettings(title="second chorus, reel 14", player="Ines Quarrie", first_bar=0, last_bar=18),
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=tuple(stacks),
            phrases=tuple(Phrase(id=f"lp{i}", name=n, start=s, end=e) for i, (n, s, e) in enumerate(LANTERNS_PHRASES)),
            questions=lanterns_questions(notes),
            dynamics=(
                Dynamic(id="ld0", tick=-QUARTER, level="mf"),
                Dynamic(id="ld1", tick=at(11), level="f"),
                Dynamic(id="ld2", tick=at(17), level="mp"),
            ),
        ),
    )
    notes, rests, stacks = write_line(GULL_LINE, 0, "g")
    doubtful = [note for note in notes if note.sure != "sure"]
    gull = SoloDocument(
        tune="Gull Weather",
        ground=ground_of(GULL_CHART, grid_at_tempo(0.8, 92.0), 12, "g"),
        solo=Solo(
            settings=SoloSettings(
                title="fills and solo, reel 22",
                player="Teodor Vasse",
                tuning=parse_tuning("drop D").midi,
                last_bar=12,
            ),
            notes=tuple(notes),
            rests=tuple(rests),
            stacks=tuple(stacks),
            phrases=(
                Phrase(id="gp0", name="the gull", start=0, end=at(3)),
                Phrase(id="gp1", name="under the eaves", start=at(3), end=at(5)),
            ),
            questions=(
                Question(
                    id="gq0",
                    start=doubtful[0].tick,
                    end=doubtful[1].end,
                    notes=tuple(n.id for n in doubtful),
                    words="Where does the hand lie here?",
                    answers=("2.5 and 2.3", "3.9 and 3.7"),
                ),
                Question(id="gq1", start=at(7), end=at(8), words="Does he come in on 2, or is that the piano?"),
            ),
        ),
    )
    return {
        "lanterns-at-low-water": lanterns,
        "gull-weather": gull,
        "the-salt-road": salt_road(),
        "ferry-bell": ferry_bell(),
        "lanterns-melody": lanterns_melody(),
        "slack-tide": in_four(
            "Slack Tide", "one chorus, reel 52", "Ines Quarrie", SLACK_CHART, SLACK_LINE, SLACK_PHRASES, "t", 116.0
        ),
        "the-net-loft": in_four(
            "The Net Loft", "eight bars, reel 55", "Teodor Vasse", LOFT_CHART, LOFT_LINE, LOFT_PHRASES, "n", 100.0
        ),
    }


def main() -> None:
    for name, document in documents().items():
        if sys.argv[1:] and name not in sys.argv[1:]:
            continue
        ordered = read_document(write_document(document))  # reading checks it, and brings it into order
        path, heard = FOLDER / f"{name}.json", FOLDER / f"{HEARD_ON.get(name, name)}.json"
        if heard.exists():  # its sound stays; demo/render.py makes it anew
            ordered = ordered.model_copy(update={"recording": read_document(heard.read_bytes()).recording})
        path.write_bytes(write_document(ordered))


if __name__ == "__main__":
    main()
