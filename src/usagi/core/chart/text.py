"""Chart text: the shorthand of handwritten charts, read into a chart and printed from it.

The grammar is in docs/music.md, Chart text. Every fault is listed with its bar (counted in the text), line, column and
piece; a text with a fault gives no chart. Lines and columns count from 1.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from usagi.core.chart.changes import keep_ids, with_first_facts
from usagi.core.chart.model import (
    PUSHES,
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
from usagi.core.errors import UsagiError
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.feel import FeelKind, SwingUnit
from usagi.core.meter.meters import COMMON_TIME, Meter, parse_meter
from usagi.core.pitch.keys import parse_key

MOST_BARS = 2_000


class ChartUnreadable(UsagiError):
    """A chart text with faults; `faults` lists them all."""

    code = "chart-unreadable"

    def __init__(self, faults: list[Fault]) -> None:
        first = faults[0]
        more = f" ({len(faults) - 1} more)" if len(faults) > 1 else ""
        super().__init__(f"{first.sentence}{more}", bar=first.bar, line=first.line, column=first.column)
        self.faults = faults


@dataclass(frozen=True, slots=True)
class Fault:
    sentence: str
    bar: int
    line: int
    column: int
    piece: str


@dataclass(frozen=True, slots=True)
class ChartText:
    """What a text says: the chart, and the pick-up in pulses of the first meter if it names one."""

    chart: Chart
    pickup_pulses: int | None


_TOKEN = re.compile(r"\|{1,2}:|:\|{1,2}\d?|\|\d(?=\s)|\|\||\||\{[^}|]*\}|<{0,2}[^\s|{}:]+|\S")
_HEADING = re.compile(r"\s*([^|{}:]+?)\s*:\s*$")
_TIMES = re.compile(r"\s*(\d+)\s+times\b")
_CHORUSES = re.compile(r"\s*(\d+)\s+chorus(?:es)?\s*$")
_EXCEPTION = re.compile(
    r"\s*(?:chorus\s+(\d+),\s*)?(\d+)(?:st|nd|rd|th)\s+time,\s*(after\s+)?bar\s+(\d+)\s*:\s*(drop\s*$|.*$)"
)
_SWING = re.compile(r"swing(?:\s+(\d+(?:\.\d+)?))?(\s+sixteenths)?$")


def _is_line(token: re.Match[str]) -> bool:
    return token.group().startswith(("|", ":|"))


def read_chart(
    text: str, *, new_id: Callable[[], str], before: Chart | None = None, first_facts: tuple[Fact, ...] = ()
) -> ChartText:
    """Read a chart text; what stands where it stood in `before` keeps its ids.

    `first_facts` hold from the first bar on, unless the text states facts of their kind there.

    Parameters
    ----------
    text : docs/music.md, Charts, has the grammar.
    new_id : gives the ids of what is new.
    before : a chart whose ids are kept.
    first_facts : meter, key, feel or blues from the first bar on.

    Raises : ChartUnreadable, with every fault.

    >>> ids = iter(map(str, range(99)))
    >>> chart = read_chart("| Dm7 A7 | % |", new_id=lambda: next(ids)).chart
    >>> [[c.symbol for c in bar.chords] for bar in chart.sections[0].bars]
    [['Dm7', 'A7'], ['Dm7', 'A7']]
    """
    reader = _Reader(new_id)
    reader.meter = next((fact.meter for fact in first_facts if isinstance(fact, MeterFact)), reader.meter)
    reader.read(text)
    if reader.faults:
        raise ChartUnreadable(sorted(reader.faults, key=lambda fault: (fault.line, fault.column)))
    chart = Chart(
        sections=tuple(draft.section() for draft in reader.sections),
        form=tuple(reader.form),
        choruses=reader.choruses,
        exceptions=in_place_order(reader.exceptions),
    )
    chart = with_first_facts(chart, first_facts, new_id=new_id, replace=False)
    return ChartText(keep_ids(chart, before) if before is not None else chart, reader.pickup_pulses)


@dataclass
class _Draft:
    id: str
    name: str
    bars: list[ChartBar] = field(default_factory=list)
    endings: list[list[ChartBar]] = field(default_factory=list)
    closed: bool = False  # a repeat has ended: what follows is another section

    def section(self) -> Section:
        return Section(id=self.id, name=self.name, bars=tuple(self.bars), endings=tuple(map(tuple, self.endings)))


@dataclass
class _Reader:
    new_id: Callable[[], str]
    sections: list[_Draft] = field(default_factory=list)
    form: list[FormEntry] = field(default_factory=list)
    exceptions: list[ChartException] = field(default_factory=list)
    choruses: int = 1
    pickup_pulses: int | None = None
    faults: list[Fault] = field(default_factory=list)
    meter: Meter = COMMON_TIME
    bar_number: int = 0
    heading: str | None = None  # a name whose bars have not come yet
    heading_line: int = 1
    current: _Draft | None = None
    repeating: tuple[int, int, int] | None = None  # bar, line and column of the |: that is open
    in_ending: bool = False
    opening: bool = True  # the next bar opens a section, a repeat or an ending
    last_bar: ChartBar | None = None

    def read(self, text: str) -> None:
        for line_number, line in enumerate(text.splitlines(), start=1):
            if line.strip():
                self._line(line, line_number)
        self._close_open_repeat("this repeat is not closed by :|")
        self._finish_heading()
        if not self.form and not self.faults:
            self._fault("no bars: write chords between |, like | Cm7 | F9 |", 1, 1, text.strip()[:20])

    def _line(self, line: str, number: int) -> None:
        if (found := _CHORUSES.match(line)) is not None:
            self.choruses = int(found.group(1))
            if not 1 <= self.choruses <= 64:
                self._fault("1 to 64 choruses", number, 1, line.strip())
                self.choruses = 1
            self._finish_heading()
            self.current = None
        elif (found := _EXCEPTION.match(line)) is not None:
            self._exception(found, line, number)
        elif (found := _HEADING.match(line)) is not None:
            self._close_open_repeat("this repeat is not closed by :| before the next section")
            self._finish_heading()
            self.heading, self.current, self.opening = found.group(1), None, True
            self.heading_line = number
            self.in_ending = False
        else:
            self._bars(line, number)
            self.in_ending = False if not self.repeating and self.in_ending else self.in_ending
            if self.current is not None and self.current.endings and not self.repeating:
                self.current.closed = True

    def _finish_heading(self) -> None:
        """A name without bars of its own plays the section of that name again."""
        if self.heading is None:
            return
        again = next((draft for draft in self.sections if draft.name == self.heading), None)
        if again is None:
            self._fault(f"section “{self.heading}” has no bars", self.heading_line, 1, self.heading)
        else:
            first = next(entry for entry in self.form if entry.section == again.id)
            self.form.append(first)
        self.heading = None

    def _start_section(self, line: int) -> _Draft:
        name = self.heading or ""
        if self.heading is not None and any(draft.name == name for draft in self.sections):
            self._fault(f"section “{name}” has bars already", line, 1, name)
        draft = _Draft(self.new_id(), name)
        self.sections.append(draft)
        self.form.append(FormEntry(section=draft.id))
        self.heading, self.current, self.opening = None, draft, True
        return draft

    def _place_for_bars(self, line: int) -> _Draft:
        if self.current is None or self.current.closed:
            return self._start_section(line)
        return self.current

    def _bars(self, line: str, number: int, into: list[ChartBar] | None = None) -> None:
        """Walk the tokens of one line of bars. `into` gathers the bars of an exception instead."""
        tokens = list(_TOKEN.finditer(line))
        if not any(_is_line(token) for token in tokens):
            piece = tokens[0].group() if tokens else line.strip()
            self._fault("bars stand between |, and a section name on its own line ends in a colon", number,
                        tokens[0].start() + 1 if tokens else 1, piece)  # fmt: skip
            return
        inside: list[re.Match[str]] = []
        skip_to = 0
        for i, token in enumerate(tokens):
            if token.start() < skip_to:
                continue
            mark = token.group().replace("||", "|")  # a double bar line is one line
            if not _is_line(token):
                inside.append(token)
                continue
            if inside:
                self._bar(inside, number, into)
                inside = []
            elif i > 0 and not mark.startswith("|:") and not (tokens[i - 1].group().startswith(":|") and mark != "|"):
                self.bar_number += 1
                self.last_bar, self.opening = None, False
                self._fault(
                    "this bar is empty: write its chords, %, or N.C. for silence", number, token.start() + 1, mark
                )
            if into is not None and mark != "|":
                self._fault("no repeats in here", number, token.start() + 1, mark)
            elif mark == "|:":
                self._open_repeat(number, token.start() + 1)
            elif mark.startswith("|") and len(mark) == 2:
                self._ending(int(mark[1]), number, token.start() + 1)
            elif mark.startswith(":|"):
                skip_to = self._close_repeat(mark, line, number, token)
        if inside:
            self._fault("this bar is not closed by |", number, inside[0].start() + 1, inside[0].group())

    def _open_repeat(self, number: int, column: int) -> None:
        if self.repeating:
            self._fault("a repeat inside another", number, column, "|:")
        draft = self._place_for_bars(number)
        if draft.bars or draft.endings:
            draft = self._start_section(number)
        self.repeating, self.opening = (self.bar_number + 1, number, column), True

    def _close_open_repeat(self, what: str) -> None:
        """A repeat that is still open when it cannot be any more is at fault where it stands."""
        if self.repeating is not None:
            bar, line, column = self.repeating
            self._fault(what, line, column, "|:", bar=bar)
            self.repeating = None

    def _ending(self, which: int, number: int, column: int) -> None:
        draft = self.current
        if draft is None or not self.repeating or which != 1:
            self._fault("an ending |1 stands in a repeat |: … |1 … :|2 … |", number, column, f"|{which}")
            return
        draft.endings.append([])
        self.in_ending = self.opening = True

    def _close_repeat(self, mark: str, line: str, number: int, token: re.Match[str]) -> int:
        """Handle `:|`, `:|2` and `:| 3 times`; returns up to where the line has been read."""
        draft = self.current
        end = token.end()
        if draft is None or not self.repeating:
            self._fault("nothing to repeat here: a repeat opens with |:", number, token.start() + 1, mark)
            return end
        if len(mark) == 3:
            if not draft.endings or int(mark[2]) != len(draft.endings) + 1:
                self._fault("endings are numbered in order from |1", number, token.start() + 1, mark)
                self.repeating = None
                return end
            draft.endings.append([])
            self._set_times(draft, len(draft.endings))
            if not self._another_ending_follows(line, end):
                self.repeating = None
            self.opening = self.in_ending = True
            return end
        times = 2
        if (found := _TIMES.match(line, end)) is not None:
            times, end = int(found.group(1)), found.end()
            if not 2 <= times <= 64:
                self._fault("a repeat is played 2 to 64 times", number, token.start() + 1, found.group().strip())
                times = 2
        if draft.endings:
            self._fault("the last ending closes with |, not :|", number, token.start() + 1, mark)
        self._set_times(draft, times)
        self.repeating, draft.closed, self.opening = None, True, True
        return end

    @staticmethod
    def _another_ending_follows(line: str, at: int) -> bool:
        return re.search(r":\|\d", line[at:]) is not None

    def _set_times(self, draft: _Draft, times: int) -> None:
        self.form = [FormEntry(section=e.section, times=times) if e.section == draft.id else e for e in self.form]

    def _exception(self, found: re.Match[str], line: str, number: int) -> None:
        chorus, time, after, bar, rest = found.groups()
        self._finish_heading()
        if not self.form:
            self._fault("an exception stands under the section that it changes", number, 1, line.strip())
            return
        if int(time) > self.form[-1].times:
            played = "once" if self.form[-1].times == 1 else f"{self.form[-1].times} times"
            self._fault(f"this section is played {played} here", number, 1, line.strip())
            return
        drop = rest.strip() == "drop"
        bars: list[ChartBar] = []
        if not drop:
            kept, self.opening = (self.opening, self.last_bar, self.meter), True
            self._bars(" " * found.start(5) + rest, number, bars)
            self.opening, self.last_bar, self.meter = kept
        self.exceptions.append(
            ChartException(
                id=self.new_id(),
                chorus=int(chorus) if chorus else None,
                place=len(self.form) - 1,
                time=max(1, int(time)),
                bar=max(1, int(bar)),
                does="drop" if drop else "add" if after else "replace",
                with_bars=tuple(bars),
            )
        )

    # -- one bar ----------------------------------------------------------------------------------------------

    def _bar(self, tokens: list[re.Match[str]], line: int, into: list[ChartBar] | None) -> None:
        self.bar_number += 1
        if self.bar_number > MOST_BARS:
            self._fault(f"more than {MOST_BARS} bars", line, tokens[0].start() + 1, tokens[0].group())
            return
        facts: list[Fact] = []
        items: list[tuple[str, int, bool]] = []  # text, column, from root
        from_root = False
        for token in tokens:
            text, column = token.group(), token.start() + 1
            if not text.startswith("{"):
                items.append((text, column, from_root))
                from_root = False
            elif " ".join(text[1:-1].split()) == "from root":
                from_root = True
            elif items:
                self._fault("facts stand before the chords of their bar", line, column, text)
            else:
                fact = self._fact(" ".join(text[1:-1].split()), line, column)
                if fact is not None:
                    facts.append(fact)
        chords = self._chords(items, line, tokens[-1].end())
        bar = ChartBar(id=self.new_id(), chords=tuple(chords), facts=tuple(facts))
        if into is not None:
            into.append(bar)
        else:
            draft = self._place_for_bars(line)
            (draft.endings[-1] if draft.endings and self.in_ending else draft.bars).append(bar)
        self.last_bar, self.opening = bar, False

    def _fact(self, text: str, line: int, column: int) -> Fact | None:
        try:
            if text in ("blues", "not blues"):
                return BluesFact(on=text == "blues")
            if text in ("straight", "triplet"):
                return FeelFact(feel=FeelKind(text))
            if (swing := _SWING.match(text)) is not None:
                unit = SwingUnit.SIXTEENTH if swing.group(2) else SwingUnit.EIGHTH
                ratio = float(swing.group(1) or 2.0)
                if not 1.0 <= ratio <= 3.0:
                    self._fault("a swing ratio lies from 1 to 3", line, column, text)
                    return None
                return FeelFact(feel=FeelKind.SWING, unit=unit, ratio=ratio)
            if text.startswith("key "):
                return KeyFact(key=str(parse_key(text[4:])))
            if (pickup := re.fullmatch(r"pick-up (\d+)", text)) is not None:
                self.pickup_pulses = int(pickup.group(1))
                if self.bar_number != 1 or not 1 <= self.pickup_pulses < len(self.meter.pulses):
                    self._fault("a pick-up stands before the first bar and is shorter than it", line, column, text)
                return None
            if re.match(r"\d", text):
                self.meter = parse_meter(text)
                meter = self.meter
                return MeterFact(numerator=meter.numerator, denominator=meter.denominator, groups=meter.groups)
        except UsagiError as fault:
            self._fault(fault.sentence.rstrip("."), line, column, text)
            return None
        known = "{3/4}, {key E minor}, {swing 1.8}, {triplet}, {straight}, {blues}, {not blues}, {pick-up 1}"
        self._fault(f"this is not a fact of a chart (known: {known})", line, column, "{" + text + "}")
        return None

    def _chords(self, items: list[tuple[str, int, bool]], line: int, end: int) -> list[PlacedChord]:
        if not items:
            self._fault("this bar is empty: write its chords, %, or N.C. for silence", line, end + 1, "|")
            return []
        texts = [text for text, _, _ in items]
        if texts == ["%"]:
            if self.opening or self.last_bar is None:
                self._fault("% repeats the bar before and cannot open a section, a repeat or an ending",
                            line, items[0][1], "%")  # fmt: skip
                return []
            return [chord.model_copy(update={"id": self.new_id()}) for chord in self.last_bar.chords]
        places = self._places(texts, line, items[0][1])
        if places is None:
            places = [0] * len(items)
        chords: list[PlacedChord] = []
        for (text, column, from_root), place in zip(items, places, strict=True):
            if text == ".":
                if not chords and self.opening:
                    self._fault("a dot holds the chord before and cannot open a section, a repeat or an ending",
                                line, column, ".")  # fmt: skip
                continue
            if text == "%":
                self._fault("% stands alone in its bar", line, column, text)
                continue
            sign = "<<" if text.startswith("<<") else "<" if text.startswith("<") else ""
            symbol = text[len(sign) :]
            try:
                parse_chord(symbol)
            except UsagiError as fault:
                at = column + len(sign) + int(fault.where.get("column") or 1) - 1
                self._fault(fault.sentence.split(": ", 1)[-1].rstrip("."), line, at, text)
                continue
            if sign and not chords and place == 0 and self.bar_number == 1 and self.pickup_pulses is None:
                self._fault("a chord before bar 1 needs a pick-up to lie in", line, column, text)
                continue
            chords.append(
                PlacedChord(id=self.new_id(), symbol=symbol, place=place, push=PUSHES[sign], from_root=from_root)
            )
        return chords

    def _places(self, texts: list[str], line: int, column: int) -> list[int] | None:
        """Ticks from the bar line of every token: beats once there is a dot, else even shares."""
        meter = self.meter
        if "." in texts:
            if len(texts) == meter.numerator:
                return [i * meter.beat_ticks for i in range(len(texts))]
            if meter.compound and len(texts) == len(meter.pulses):
                return list(meter.pulse_starts)
            beats = f"{meter.numerator}" + (f" or {len(meter.pulses)}" if meter.compound else "")
            self._fault(f"{len(texts)} beats are written where a bar of {meter} has {beats}", line, column,
                        " ".join(texts))  # fmt: skip
            return None
        if meter.bar_ticks % len(texts) == 0:
            share = meter.bar_ticks // len(texts)
            halves = {s + k * p // 2 for s, p in zip(meter.pulse_starts, meter.pulses, strict=True) for k in (0, 1)}
            places = [i * share for i in range(len(texts))]
            if set(places) <= halves:
                return places
        self._fault(f"{len(texts)} chords cannot share a bar of {meter} evenly: write the beats with dots", line,
                    column, " ".join(texts))  # fmt: skip
        return None

    def _fault(self, what: str, line: int, column: int, piece: str, *, bar: int | None = None) -> None:
        bar = max(1, self.bar_number if bar is None else bar)
        sentence = f"Bar {bar}, line {line}, column {column}, “{piece}”: {what.rstrip('.')}."
        self.faults.append(Fault(sentence, bar, line, column, piece))
