"""Lines in short notation, as the tables under tests/core/tables have them (the head of roles.txt explains it)."""

import re
from math import ceil
from pathlib import Path

from usagi.core.chart.text import read_chart
from usagi.core.document.elements import Note
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import HammerOn, PullOff, Slide
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.names import parse_name

TABLES = Path(__file__).parent / "tables"
LENGTHS = {"w": 4.0, "h": 2.0, "q": 1.0, "e": 0.5, "s": 0.25, "x": 0.125, "t": 1 / 3}
ATTACKS = {"h": HammerOn(), "p": PullOff(), "l": Slide()}
OPEN = (64, 59, 55, 50, 45, 40)
NOTE = re.compile(r"([A-G][b#]*)([',]*)(~?)(?:\^([A-G][b#]*))?")


def cases(table: str) -> list[list[str]]:
    """The rows of a table, cut at their colons."""
    lines = (TABLES / table).read_text().splitlines()
    return [[part.strip() for part in line.split(" : ")] for line in lines if line and not line.startswith("#")]


def written(parts: list[str]) -> tuple[Solo, Ground]:
    """A solo and its ground of `{facts} chord`, `notes | chord`, …, `notes`."""
    facts = "".join(re.findall(r"\{[^}]*\}", parts[0]))
    chords = [re.sub(r"\{[^}]*\}", "", parts[0]).strip()]
    bodies = []
    for part in parts[1:]:
        body, _, chord = part.partition("|")
        bodies.append(body)
        if chord:
            chords.append(chord.strip())
    notes: list[Note] = []
    tick, at = 0, 69
    bars: list[int] = []
    for body in bodies:
        for word in group(body):
            tick, at = add(word, notes, tick, at)
        counted = tick / (4 * QUARTER) - sum(bars)  # a last note may be tied over the bar line
        bars.append(max(1, round(counted) if len(bars) + 1 < len(bodies) else ceil(counted)))
    row = [bar for chord, count in zip(chords, bars, strict=True) for bar in [chord, *["%"] * (count - 1)]]
    ids = iter(f"c{i}" for i in range(1_000))
    chart = read_chart("| " + facts + " " + " | ".join(row) + " |", new_id=lambda: next(ids)).chart
    settings = GroundSettings(bars=len(row) + 1, form=chart.form)
    anchors = (Anchor(id="a", tick=0, second=0.0), Anchor(id="b", tick=QUARTER, second=0.5))
    ground = Ground(settings=settings, anchors=anchors, sections=chart.sections)
    ordered = sorted(notes, key=lambda note: (note.tick, note.string))
    return Solo(settings=SoloSettings(last_bar=len(row) + 1, last_fret=36), notes=tuple(ordered)), ground


def group(text: str) -> list[str]:
    return re.findall(r"\([^)]*\)\S*|\S+", text)


def add(word: str, notes: list[Note], tick: int, at: int) -> tuple[int, int]:
    """One word of the notation; the tick after it and the pitch that the next is nearest to."""
    body, _, tail = word.partition("/")
    flags = re.findall(r"!(\w)", word)
    tail, body = tail.split("!")[0], body.split("!")[0]
    beats = LENGTHS[tail[0]] * (1.5 if "." in tail else 1.0) if tail else 0.5
    ticks = round(beats * QUARTER)
    if body == "-":
        return tick + ticks, at
    number = len(notes)
    if body == "x":
        notes.append(Note(id=f"n{number}", tick=tick, ticks=ticks, string=6, dead=True))
        return tick + ticks, at
    taken: set[int] = set()
    inner = body.strip("()").split()
    for one in inner:
        match = NOTE.fullmatch(one)
        assert match is not None, one
        name, octaves, curl, bent = match.groups()
        at = near(name, at) + 12 * (octaves.count("'") - octaves.count(","))
        if number == 0 and one == inner[0] and not notes:
            at = parse_name(name).pitch_class + 60 + 12 * (octaves.count("'") - octaves.count(","))
        string, fret = place(at, taken, is_open="o" in flags)
        if notes and not set(flags).isdisjoint(ATTACKS):  # joined: on the string of the note before
            string, fret = notes[-1].string, at - OPEN[notes[-1].string - 1]
        taken.add(string)
        course = ((0, 0), (ticks // 2, 1)) if curl else ()
        if bent:
            course = ((0, 0), (ticks // 4, 2 * (near(bent, at) - at)))
            after = near(bent, at)
        notes.append(
            Note(
                id=f"n{len(notes)}",
                tick=tick,
                ticks=ticks,
                string=string,
                fret=fret * HUNDREDTHS,
                course=course,
                attack=next((ATTACKS[flag] for flag in flags if flag in ATTACKS), Note.model_fields["attack"].default),
            )
        )
        if bent:
            at = after
    return tick + ticks, at


def near(name: str, at: int) -> int:
    """The octave of a name that lies nearest; a tritone goes up."""
    up = (parse_name(name).pitch_class - at) % 12
    return at + (up if up <= 6 else up - 12)


def place(midi: int, taken: set[int], *, is_open: bool) -> tuple[int, int]:
    """A string that is free and the fret of a pitch on it; no open string unless it is asked for."""
    for string, open_midi in enumerate(OPEN, start=1):
        if string not in taken and (midi == open_midi if is_open else midi > open_midi):
            return string, midi - open_midi
    raise AssertionError(f"{midi} lies nowhere")
