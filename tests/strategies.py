"""Random charts, notes and documents for property tests."""

from __future__ import annotations

from itertools import count

from hypothesis import strategies as st

from usagi.core.chart.text import read_chart
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.things import Note, Phrase, Rest
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.tunings import KNOWN, parse_tuning

ROOTS = ["C", "C#", "Db", "D", "Eb", "E", "F", "F#", "Gb", "G", "Ab", "A", "Bb", "B"]
QUALITIES = [
    *("", "m", "7", "maj7", "m7", "m7b5", "dim7", "6", "m6", "9", "13", "7(b9)", "7(#9)", "7alt", "sus4", "7sus4"),
    *("maj9(#11)", "mMaj7", "+", "5", "dim", "(add9)", "6/9", "7(#5)", "m11", "sus2", "7(b5)"),
]
QUARTER = 10_080

chord_symbols = st.builds(
    lambda root, quality, bass: root + quality + (f"/{bass}" if bass and bass != root else ""),
    st.sampled_from(ROOTS),
    st.sampled_from(QUALITIES),
    st.sampled_from(["", "", "", *ROOTS]),
)


def sequential_ids(prefix: str):
    numbers = count()
    return lambda: f"{prefix}{next(numbers)}"


bars = st.one_of(
    chord_symbols,
    st.builds(lambda a, b: f"{a} {b}", chord_symbols, chord_symbols),
    st.builds(lambda a, b: f"{a} . . {b}", chord_symbols, chord_symbols),
    st.builds(lambda a: f"<{a} .  . .", chord_symbols),
)


@st.composite
def chart_texts(draw: st.DrawFn) -> str:
    """Sections in 4/4 with repeats and endings; the first chord is never pushed before bar 1."""
    lines = []
    names = draw(st.lists(st.sampled_from(["A", "Verse", "Out", "Bridge 2"]), min_size=1, max_size=3, unique=True))
    for i, name in enumerate(names):
        lines.append(f"{name}:")
        body = [draw(chord_symbols)] if i == 0 else []
        body += draw(st.lists(bars, min_size=1, max_size=5))
        kind = draw(st.sampled_from(["plain", "repeat", "times", "endings"]))
        text = " | ".join(body)
        if kind == "endings":
            lines.append(f"|: {text} |1 {draw(chord_symbols)} :|2 {draw(chord_symbols)} |")
        elif kind == "plain":
            lines.append(f"| {text} |")
        else:
            lines.append(f"|: {text} :|" + (" 3 times" if kind == "times" else ""))
    if draw(st.booleans()):
        lines.append(f"{names[0]}:")
    if draw(st.booleans()):
        lines.append("2 choruses")
    return "\n".join(lines)


@st.composite
def notes(draw: st.DrawFn, string: int, tick: int, number: int) -> Note:
    """One note on a string, with techniques that a hand can play."""
    ticks = draw(st.sampled_from([2520, 3360, 5040, 7560, 10_080]))
    kind = draw(
        st.sampled_from(["plain", "bend", "release", "prebend", "dead", "shake", "slide", "hammer-on", "unsure"])
    )
    fields: dict[str, object] = {}
    size = draw(st.sampled_from([1, 2, 4, 6, 8]))
    if kind == "bend":
        fields["course"] = ((0, 0), (ticks // 2, size))
    elif kind == "release":
        fields["course"] = ((0, 0), (ticks // 3, size), (ticks - ticks // 3, size), (ticks, 0))
    elif kind == "prebend":
        fields["course"] = ((0, size), (ticks // 2, size), (ticks, 0))
    elif kind == "dead":
        fields["dead"] = True
    elif kind == "shake":
        fields["vibrato"] = {"start": ticks // 2, "width_cents": 40.0, "rate_hz": 5.5}
    elif kind in ("slide", "hammer-on"):
        fields["attack"] = {"kind": kind}
    elif kind == "unsure":
        fields["sure"] = "unsure"
    fret = draw(st.integers(0, 17)) * 100
    return Note.model_validate(
        {"id": f"n{number}", "tick": tick, "ticks": ticks, "string": string, "fret": fret} | fields
    )


@st.composite
def documents(draw: st.DrawFn) -> SoloDocument:
    """A solo of a single line over a random chart."""
    read = read_chart(draw(chart_texts()), new_id=sequential_ids("c"))
    ground = Ground(
        settings=GroundSettings(bars=16, form=read.chart.form, choruses=read.chart.choruses),
        sections=read.chart.sections,
        exceptions=read.chart.exceptions,
        anchors=(Anchor(id="a0", tick=0, second=0.5), Anchor(id="a1", tick=QUARTER, second=1.0)),
    )
    line: list[Note] = []
    rests: list[Rest] = []
    tick = 0
    for number in range(draw(st.integers(0, 12))):
        if draw(st.integers(0, 5)) == 0:
            rests.append(Rest(id=f"r{number}", tick=tick, ticks=5040))
            tick += 5040
        note = draw(notes(draw(st.integers(1, 6)), tick, number))
        line.append(note)
        tick = note.end
    phrases = (Phrase(id="p0", start=0, end=tick, name="all of it"),) if tick else ()
    tuning = parse_tuning(draw(st.sampled_from(list(KNOWN)))).midi
    settings = SoloSettings(title="a line", player="Somebody", tuning=tuning, last_bar=16)
    return SoloDocument(
        tune="A tune",
        ground=ground,
        solo=Solo(settings=settings, notes=tuple(line), rests=tuple(rests), phrases=phrases),
    )
