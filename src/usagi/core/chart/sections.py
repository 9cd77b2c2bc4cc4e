"""Sections named over the bars that are played: from a list of times, and their order as counts.

A list has one section a line, `1:07 second chorus` or tab-separated `start second, end second, name`. Cutting unrolls
the chart at those bars and folds it again: sections of one name that are alike become one section played twice, single
bars that differ become exceptions of their place in the form.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeAlias

from usagi.core.chart.model import (
    BluesFact,
    Chart,
    ChartBar,
    ChartException,
    Fact,
    FeelFact,
    FormEntry,
    KeyFact,
    MeterFact,
    PlacedChord,
    Section,
    in_place_order,
)
from usagi.core.chart.timeline import Facts, PlayedBar, play
from usagi.core.errors import UsagiError

MOST_SECTIONS = 200
_CLOCK = re.compile(r"(?:(\d+):)?(\d+):(\d{1,2}(?:[.,]\d+)?)$|(\d+(?:[.,]\d+)?)$")


class SectionsUnreadable(UsagiError):
    """A list of sections, or an order of them, that cannot be read."""

    code = "sections-unreadable"


@dataclass(frozen=True, slots=True)
class Named:
    """A section that starts at a second of the recording."""

    second: float
    name: str


def read_times(text: str) -> list[Named]:
    """The sections of a list, in time order; none of an empty one. Raises : SectionsUnreadable, naming the line.

    >>> read_times("0:05 head" + chr(10) + "1:07,5 second chorus")
    [Named(second=5.0, name='head'), Named(second=67.5, name='second chorus')]
    >>> read_times("12.5" + chr(9) + "30" + chr(9) + "bridge")
    [Named(second=12.5, name='bridge')]
    """
    found: list[Named] = []
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        parts = line.split("\t") if "\t" in line else line.split(maxsplit=1)
        second = _second(parts[0].strip())
        name = parts[-1].strip().rstrip(":") if len(parts) > 1 else ""
        if second is None:
            raise SectionsUnreadable(
                f"Line {number}, “{line.strip()[:40]}”, does not begin with a time: write 1:07 second chorus.",
                line=number,
            )
        if ":" in parts[0] and not float(parts[0].strip().rpartition(":")[2].replace(",", ".")) < 60:
            raise SectionsUnreadable(
                f"Line {number}: {parts[0].strip()} is no time, as a minute has 60 seconds.", line=number
            )
        twin = next((one for one in found if one.second == second), None)
        if twin is not None:
            raise SectionsUnreadable(
                f"Line {number}: “{twin.name}” begins at {parts[0].strip()} already. Keep one of the two.", line=number
            )
        if not name or len(name) > 60 or "|" in name or name[0] in "{<%":
            raise SectionsUnreadable(f"Line {number} needs a name of 1 to 60 letters after its time.", line=number)
        found.append(Named(second, name))
    if len(found) > MOST_SECTIONS:
        raise SectionsUnreadable(f"{len(found)} sections are too many: {MOST_SECTIONS} at most.")
    return sorted(found, key=lambda named: named.second)


def _second(text: str) -> float | None:
    match = _CLOCK.match(text)
    if match is None:
        return None
    hours, minutes, seconds, plain = match.groups()
    if plain is not None:
        return float(plain.replace(",", "."))
    return int(hours or 0) * 3_600 + int(minutes) * 60 + float(seconds.replace(",", "."))


def print_times(spans: Sequence[tuple[float, float, str]]) -> str:
    """Sections as tab-separated columns: start second, end second, name.

    >>> print_times([(5.0, 12.25, "head")])
    '5.000\\t12.250\\thead\\n'
    """
    return "".join(f"{start:.3f}\t{end:.3f}\t{name}\n" for start, end, name in spans)


def cut(chart: Chart, starts: Sequence[tuple[int, str]], bars: int, new_id: Callable[[], str]) -> Chart:
    """The chart with sections that start at given bars. What sounds in every bar stays.

    Parameters
    ----------
    chart : as it is played now.
    starts : `(bar number, name)`, rising; bars before the first become a section without a name.
    bars : how many bars of the recording the sections cover; those that had no chord yet are written N.C.
    new_id : gives ids for sections, bars, chords and exceptions.

    Sections of one name that are alike in more bars than not become one section; the bars that differ are exceptions.
    """
    played = play(chart)
    edges = [number for number, _ in starts] + [max(len(played), bars, starts[-1][0]) + 1]
    names = [name for _, name in starts]
    if edges[0] > 1:
        edges, names = [1, *edges], ["", *names]
    sounding = _sounding(played, edges[-1] - 1)
    sections: list[Section] = []
    resolved: dict[str, list[_Heard]] = {}
    form: list[FormEntry] = []
    exceptions: list[ChartException] = []
    last = Facts()
    for name, start, end in zip(names, edges[:-1], edges[1:], strict=True):
        own = sounding[start - 1 : end - 1]
        same = next((s for s in sections if s.name == name and _alike(resolved[s.id], own)), None)
        if same is None:
            taken = {section.name for section in sections}
            free = name if name not in taken else next(n for i in range(2, 999) if (n := f"{name} ({i})") not in taken)
            body, last = _written(own, last, new_id)
            same = Section(id=new_id(), name=free, bars=body)
            sections.append(same)
            resolved[same.id] = own
        if form and form[-1].section == same.id:
            form[-1] = FormEntry(section=same.id, times=form[-1].times + 1)
        else:
            form.append(FormEntry(section=same.id))
        for index, (model, heard) in enumerate(zip(resolved[same.id], own, strict=True), start=1):
            if model.chords != heard.chords:
                bar = ChartBar(id=new_id(), chords=_fresh(heard.chords, new_id))
                exceptions.append(
                    ChartException(id=new_id(), place=len(form) - 1, time=form[-1].times, bar=index, with_bars=(bar,))
                )
    return Chart(sections=tuple(sections), form=tuple(form), exceptions=in_place_order(exceptions))


_Chord: TypeAlias = tuple[str, int, int, bool]  # symbol, place, push, counted from its root


@dataclass(frozen=True, slots=True)
class _Heard:
    """What is written in a bar, without ids, and the facts that hold there."""

    chords: tuple[_Chord, ...]
    facts: Facts


def _sounding(played: list[PlayedBar], count: int) -> list[_Heard]:
    found: list[_Heard] = []
    last: _Chord | None = None
    facts = played[-1].facts if played else Facts()
    for number in range(count):
        bar = played[number] if number < len(played) else None
        chords: tuple[_Chord, ...] = (("N.C.", 0, 0, False),)
        if bar is not None:
            chords = tuple((c.symbol, c.place, c.push, c.from_root) for c in bar.written.chords)
        if not chords or chords[0][1] > 0:  # it holds what came before, which another section may not do
            held = ("N.C.", 0, 0, False) if last is None else (last[0], 0, 0, last[3])
            chords = (held, *chords)
        last = chords[-1]
        found.append(_Heard(chords, facts if bar is None else bar.facts))
    return found


def _alike(one: list[_Heard], other: list[_Heard]) -> bool:
    """As long, under the same facts, and alike in more bars than not."""
    if len(one) != len(other) or any(a.facts != b.facts for a, b in zip(one, other, strict=True)):
        return False
    return 2 * sum(a.chords != b.chords for a, b in zip(one, other, strict=True)) < len(one)


def _fresh(chords: tuple[_Chord, ...], new_id: Callable[[], str]) -> tuple[PlacedChord, ...]:
    return tuple(
        PlacedChord.model_validate({"id": new_id(), "symbol": s, "place": p, "push": push, "from_root": root})
        for s, p, push, root in chords
    )


def _written(own: list[_Heard], last: Facts, new_id: Callable[[], str]) -> tuple[tuple[ChartBar, ...], Facts]:
    bars = []
    for heard in own:
        bars.append(ChartBar(id=new_id(), chords=_fresh(heard.chords, new_id), facts=new_facts(last, heard.facts)))
        last = heard.facts
    return tuple(bars), last


def new_facts(before: Facts, now: Facts) -> tuple[Fact, ...]:
    """The facts to write on a bar so that `now` holds from it on, where `before` held."""
    facts: list[Fact] = []
    if now.meter != before.meter:
        meter = now.meter
        facts.append(MeterFact(numerator=meter.numerator, denominator=meter.denominator, groups=meter.groups))
    if now.key != before.key and now.key is not None:
        facts.append(KeyFact(key=str(now.key)))
    if now.feel != before.feel:
        facts.append(FeelFact(feel=now.feel.kind, unit=now.feel.unit, ratio=now.feel.ratio))
    if now.blues != before.blues:
        facts.append(BluesFact(on=now.blues))
    return tuple(facts)


def print_order(chart: Chart) -> str:
    """The order in which sections are played, with their counts.

    >>> riff = Section(id="s", name="riff", bars=(ChartBar(id="b"),))
    >>> print_order(Chart(sections=(riff,), form=(FormEntry(section="s", times=3),)))
    'riff 3'
    """
    return ", ".join(f"{chart.section(entry.section).name or 'unnamed'} {entry.times}" for entry in chart.form)


def _counted(count: int, one: str) -> str:
    return f"{count} {one}" if count == 1 else f"{count} {one}s"


def with_order(chart: Chart, text: str) -> Chart:
    """The chart played in another order: `verse 2, riff 4, verse`, or counts alone, `1-3-2`, for what is there.

    Exceptions go with their place in the form; those whose place is gone are dropped. Raises : SectionsUnreadable.
    """
    text = text.strip()
    if re.fullmatch(r"\d+(\s*-\s*\d+)*", text):
        counts = [int(count) for count in text.split("-")]
        if len(counts) != len(chart.form):
            raise SectionsUnreadable(
                f"The form has {_counted(len(chart.form), 'part')}, and {_counted(len(counts), 'number')} "
                f"{'is' if len(counts) == 1 else 'are'} written: {print_order(chart) or 'no part yet'}."
            )
        form = [entry.model_copy(update={"times": n}) for entry, n in zip(chart.form, counts, strict=True)]
    else:
        by_name = {(section.name or "unnamed").casefold(): section for section in chart.sections}
        form = []
        for part in filter(None, (part.strip() for part in text.split(","))):
            match = re.fullmatch(r"(.*?)(?:\s+[x×]?(\d+))?", part)
            name, count = (part, None) if part.casefold() in by_name or match is None else match.groups()
            section = by_name.get(name.strip().casefold())
            if section is None:
                known = ", ".join(one.name or "unnamed" for one in chart.sections)
                raise SectionsUnreadable(f"There is no section “{name}” here; there are: {known or 'none'}.")
            form.append(FormEntry.model_construct(section=section.id, times=int(count or 1)))
    nameless = [e for e in form if not chart.section(e.section).name]
    if len({e.section for e in form}) > 1 and len(nameless) > 1:
        raise SectionsUnreadable(
            "A section without a name cannot come again: the chart text has no way to say so. Name it."
        )
    if not form or any(not 1 <= entry.times <= 64 for entry in form):
        raise SectionsUnreadable("Every part is played 1 to 64 times.")

    def stays(e: ChartException) -> bool:
        there = form[e.place] if e.place < len(form) else None
        return there is not None and there.section == chart.form[e.place].section and e.time <= there.times

    kept = [exception for exception in chart.exceptions if stays(exception)]
    changed = {"form": tuple(FormEntry(section=e.section, times=e.times) for e in form), "exceptions": tuple(kept)}
    return chart.model_copy(update=changed)


def place_in_form(chart: Chart, played: PlayedBar | None) -> str:
    """Which bar of which section, time and chorus a bar is; empty where the chart does not reach."""
    if played is None:
        return ""
    entry = chart.form[played.place]
    section = chart.section(entry.section)
    words = [f"bar {played.index} of {len(section.played_bars(played.time))}"]
    if section.name:
        words[0] += f" in “{section.name}”"
    if entry.times > 1:
        words.append(f"time {played.time} of {entry.times}")
    if chart.choruses > 1:
        words.append(f"chorus {played.chorus} of {chart.choruses}")
    if any(
        (e.chorus in (None, played.chorus)) and (e.place, e.time, e.bar) == (played.place, played.time, played.index)
        for e in chart.exceptions
    ):
        words.append("otherwise than the form")
    left = len(section.played_bars(played.time)) - played.index
    words.append("comes round after it" if left == 0 else f"{left} more till it comes round")
    return ", ".join(words)
