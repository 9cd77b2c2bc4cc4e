"""A chart printed as text, four bars a line; reading it gives the same chart."""

from __future__ import annotations

from math import gcd

from usagi.core.chart.model import (
    PUSHES,
    BluesFact,
    Chart,
    ChartBar,
    ChartException,
    Fact,
    FeelFact,
    KeyFact,
    MeterFact,
    PlacedChord,
)
from usagi.core.meter.meters import COMMON_TIME, Meter


def print_chart(chart: Chart, *, pickup_pulses: int | None = None) -> str:
    """The chart as text, four bars a line; reading it gives the same chart.

    The name of a section alone plays it as often as where its bars stand. Where the form plays it more often, the name
    comes more often, and is read back as entries of their own.
    """
    lines: list[str] = []
    meter = COMMON_TIME
    printed: set[str] = set()
    first = True
    at_once = {e.section: gcd(*(other.times for other in chart.form if other.section == e.section)) for e in chart.form}
    for place, entry in enumerate(chart.form):
        section, times = chart.section(entry.section), at_once[entry.section]
        for before in range(0, entry.times, times):
            if section.name:
                lines.append(f"{section.name}:")
            if section.id not in printed:
                printed.add(section.id)
                body: list[str] = []
                for bar in section.bars:
                    text, meter = _bar_text(bar, meter, pickup_pulses if first else None)
                    first = False
                    body.append(text)
                endings: list[list[str]] = []
                for ending in section.endings:
                    endings.append([])
                    for bar in ending:
                        text, meter = _bar_text(bar, meter, None)
                        endings[-1].append(text)
                lines += _section_lines(body, endings, times)
            for exception in chart.exceptions:
                if exception.place == place and before < exception.time <= before + times:
                    here = exception.model_copy(update={"time": exception.time - before})
                    lines.append(_exception_text(here, meter))
    if chart.choruses > 1:
        lines.append(f"{chart.choruses} choruses")
    return "\n".join(lines) + "\n" if lines else ""


def chords_text(bar: ChartBar, meter: Meter) -> str:
    """The chords of one bar as they are written between its bar lines; dots where it holds the chord before.

    >>> chords_text(ChartBar(id="b", chords=(PlacedChord(id="c", symbol="A7", place=0),)), COMMON_TIME)
    'A7'
    """
    return _bar_text(bar.model_copy(update={"facts": ()}), meter, None)[0]


def _section_lines(body: list[str], endings: list[list[str]], times: int) -> list[str]:
    if endings:
        text = "|: " + " | ".join(body)
        for i, ending in enumerate(endings, start=1):
            text += (" |1 " if i == 1 else f" :|{i} ") + " | ".join(ending)
        return [text + " |"]
    rows = [body[i : i + 4] for i in range(0, len(body), 4)]
    lines = ["| " + " | ".join(row) + " |" for row in rows]
    if times > 1 and lines:
        lines[0] = "|: " + lines[0][2:]
        lines[-1] = lines[-1][:-1] + ":|" + (f" {times} times" if times != 2 else "")
    return lines


def _exception_text(exception: ChartException, meter: Meter) -> str:
    suffix = {1: "st", 2: "nd", 3: "rd"}.get(exception.time if exception.time < 20 else exception.time % 10, "th")
    chorus = f"chorus {exception.chorus}, " if exception.chorus is not None else ""
    after = "after " if exception.does == "add" else ""
    head = f"{chorus}{exception.time}{suffix} time, {after}bar {exception.bar}: "
    if exception.does == "drop":
        return head + "drop"
    texts = []
    for bar in exception.with_bars:
        text, meter = _bar_text(bar, meter, None)
        texts.append(text)
    return head + "| " + " | ".join(texts) + " |"


def _bar_text(bar: ChartBar, meter: Meter, pickup_pulses: int | None) -> tuple[str, Meter]:
    words: list[str] = []
    for fact in bar.facts:
        if isinstance(fact, MeterFact):
            meter = fact.meter
        words.append("{" + fact_text(fact) + "}")
    if pickup_pulses is not None:
        words.append(f"{{pick-up {pickup_pulses}}}")
    chords = [_chord_text(chord) for chord in bar.chords]
    places = [chord.place for chord in bar.chords]
    count = len(chords)
    even = count and meter.bar_ticks % count == 0 and places == [i * (meter.bar_ticks // count) for i in range(count)]
    if even:
        return " ".join(words + chords), meter
    starts = [i * meter.beat_ticks for i in range(meter.numerator)]
    if meter.compound and set(places) <= set(meter.pulse_starts):
        starts = list(meter.pulse_starts)
    if not set(places) <= set(starts):
        raise ValueError(f"chords at {places} stand on no beat of {meter}")
    at = dict(zip(places, chords, strict=True))
    return " ".join(words + [at.get(start, ".") for start in starts]), meter


def _chord_text(chord: PlacedChord) -> str:
    sign = next(sign for sign, push in PUSHES.items() if push == chord.push)
    return ("{from root} " if chord.from_root else "") + sign + chord.symbol


def fact_text(fact: Fact) -> str:
    """A fact as it stands in braces."""
    match fact:
        case MeterFact():
            return str(fact.meter)
        case KeyFact():
            return f"key {fact.key}"
        case FeelFact():
            return str(fact.value)
        case BluesFact():
            return "blues" if fact.on else "not blues"
