"""Random charts, notes and documents for property tests."""

from __future__ import annotations

from itertools import count

from hypothesis import strategies as st

from usagi.core.chart.text import read_chart
from usagi.core.document.elements import Dynamic, Note, Phrase, Question, Rest, Stack, Swell
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
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


def techniques_of(ticks: int, size: int, fret: int) -> dict[str, dict[str, object]]:
    """Every technique on a note of some length: the fields that it sets."""
    third = ticks // 3
    return {
        "plain": {},
        "bend": {"course": ((0, 0), (ticks // 2, size))},
        "release": {"course": ((0, 0), (third, size), (ticks - third, size), (ticks, 0))},
        "prebend": {"course": ((0, size), (ticks // 2, size), (ticks, 0))},
        "part way": {"course": ((0, 0), (third, size), (2 * third, size // 2))},
        "curl": {"course": ((0, 0), (ticks // 2, 1))},
        "dip": {"course": ((0, 0), (third, -size), (2 * third, 0))},
        "choke": {"course": ((0, 0), (ticks // 2, size)), "ending": {"kind": "choked"}},
        "shake": {"vibrato": {"start": ticks // 2, "width_cents": 40.0, "rate_hz": 5.5}},
        "bar": {"vibrato": {"start": third, "width_cents": 90.0, "rate_hz": 4.5, "by": "bar"}},
        "trill": {"trill": {"fret": fret + 200, "rate_hz": 8.0}},
        "hammer-on": {"attack": {"kind": "hammer-on"}},
        "pull-off": {"attack": {"kind": "pull-off"}},
        "slide": {"attack": {"kind": "slide"}},
        "slide-in": {"attack": {"kind": "slide-in", "start": "far below", "ticks": third}},
        "slide-in from a fret": {"attack": {"kind": "slide-in", "start": 300, "ticks": third}},
        "tapped": {"attack": {"kind": "tapped"}},
        "natural": {"attack": {"kind": "harmonic"}, "fret": 1_200},
        "pinched": {"attack": {"kind": "harmonic", "how": "pinched", "partial": 3}},
        "slide-off": {"ending": {"kind": "slide-off", "to": "far down", "ticks": third}},
        "staccato": {"ending": {"kind": "staccato"}},
        "let ring": {"ending": {"kind": "let ring"}},
        "dead": {"dead": True},
        "ghost": {"ghost": True},
        "accent": {"accent": True},
        "palm mute": {"palm_mute": True},
        "tremolo": {"tremolo": {"rate_hz": 12.0}},
        "rake": {"rake": {"strings": (4, 3)}},
        "hands": {"finger": "3", "pick": "up"},
        "unsure": {"sure": "unsure"},
        "unknown": {"sure": "unknown", "fret": None},
        "heard": {"heard": {"onset_s": 1.25, "end_s": 1.5, "confidence": 0.8, "cents": (0.0, -12.5)}},
    }


@st.composite
def notes(draw: st.DrawFn, string: int, tick: int, number: int) -> Note:
    """One note on a string, with a technique that a hand can play."""
    ticks = draw(st.sampled_from([2520, 3360, 5040, 7560, 10_080]))
    fret = draw(st.integers(0, 17)) * 100
    every = techniques_of(ticks, draw(st.sampled_from([1, 2, 4, 6, 8])), fret)
    fields = every[draw(st.sampled_from(list(every)))]
    return Note.model_validate(
        {"id": f"n{number}", "tick": tick, "ticks": ticks, "string": string, "fret": fret} | fields
    )


@st.composite
def documents(draw: st.DrawFn) -> SoloDocument:
    """A solo of single notes and stacks over a random chart, with loudness, a swell and a question."""
    read = read_chart(draw(chart_texts()), new_id=sequential_ids("c"))
    ground = Ground(
        settings=GroundSettings(bars=16, form=read.chart.form, choruses=read.chart.choruses),
        sections=read.chart.sections,
        exceptions=read.chart.exceptions,
        anchors=(Anchor(id="a0", tick=0, second=0.5), Anchor(id="a1", tick=QUARTER, second=1.0)),
    )
    line: list[Note] = []
    rests: list[Rest] = []
    stacks: list[Stack] = []
    tick = 0
    for number in range(draw(st.integers(0, 12))):
        if draw(st.integers(0, 5)) == 0:
            rests.append(Rest(id=f"r{number}", tick=tick, ticks=5040))
            tick += 5040
        note = draw(notes(draw(st.integers(1, 6)), tick, number))
        if draw(st.integers(0, 6)) == 0:
            other = draw(notes(note.string % 6 + 1, tick, number)).model_copy(
                update={"ticks": note.ticks, "course": ()}
            )
            stroke = draw(st.sampled_from([None, "down", "up", "together"]))
            stacks.append(
                Stack.model_validate({"id": f"s{number}", "stroke": stroke, "spread_ms": 25.0 if stroke else 0.0})
            )
            pair = [
                note.model_copy(update={"stack": f"s{number}"}),
                other.model_copy(update={"id": f"m{number}", "stack": f"s{number}", "vibrato": None}),
            ]
            line += sorted(pair, key=lambda one: one.string)
        else:
            line.append(note)
        tick = note.end
    phrases = (Phrase(id="p0", start=0, end=tick, name="all of it"),) if tick else ()
    tuning = parse_tuning(draw(st.sampled_from(list(KNOWN)))).midi
    settings = SoloSettings(title="a line", player="Somebody", tuning=tuning, last_bar=16)
    return SoloDocument(
        tune="A tune",
        ground=ground,
        solo=Solo(
            settings=settings,
            notes=tuple(line),
            rests=tuple(rests),
            stacks=tuple(sorted(stacks, key=lambda stack: stack.id)),
            phrases=phrases,
            dynamics=(Dynamic(id="d0", tick=0, level="mp"),) if tick else (),
            swells=(Swell(id="w0", start=0, end=tick, to="louder"),) if tick else (),
            questions=(Question(id="q0", start=0, end=tick, notes=(line[0].id,), words="so?"),) if line else (),
        ),
    )


def ground_on(chart: str, *, bars: int = 8, bpm: float = 120) -> Ground:
    """A ground of one chart at a steady tempo, without a recording."""
    read = read_chart(chart, new_id=sequential_ids("c"))
    return Ground(
        settings=GroundSettings(bars=bars, form=read.chart.form, choruses=read.chart.choruses),
        sections=read.chart.sections,
        exceptions=read.chart.exceptions,
        anchors=(Anchor(id="a0", tick=0, second=0.0), Anchor(id="a1", tick=QUARTER, second=60 / bpm)),
    )
