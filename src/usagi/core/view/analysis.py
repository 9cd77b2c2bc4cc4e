"""A solo's analysis as the page draws and tells it."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

from usagi.core.chart.timeline import Timeline
from usagi.core.degrees.lines import Role
from usagi.core.degrees.why import Fact, why
from usagi.core.document.elements import Note, TellingChoice
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.harmony.scales import semitones_of
from usagi.core.phrases.analysis import Analysis, PhraseRead
from usagi.core.pitch.names import parse_name
from usagi.core.readings.feel import Feel, Sounded, feel_of
from usagi.core.readings.reading import Reading, ReadingKind
from usagi.core.readings.relations import RelationKind
from usagi.core.readings.tones import CHORD_TYPES
from usagi.core.values import Value

PathKind = Literal["enclosure", "approach", "passing", "guide-tone move", "common tone", "half-step shift", "motif"]


class PathView(Value):
    """Notes that lead somewhere, from tick to tick, in words; of a motif the earlier place as a span of its own."""

    kind: PathKind
    notes: tuple[str, ...]
    goal: str | None
    tick: int
    end: int
    says: str
    before: tuple[int, int] | None = None


class ScoreView(Value):
    hit: int
    of: int
    notes: tuple[str, ...]


class PlaceOnNeck(Value):
    string: int
    fret: int
    degree: str


class ReadingView(Value):
    """One reading: what it covers, what it leaves out in words, and the places of its shape on the neck."""

    kind: ReadingKind
    key: str
    title: str
    covers: int
    of: int
    left: str
    left_out: tuple[str, ...]
    degrees: tuple[str, ...]
    also: str
    picked: bool
    places: tuple[PlaceOnNeck, ...]
    classes: tuple[int, ...]  # pitch classes of a scale or chord


class PlacedView(Value):
    note: str
    ms: float
    percent: float
    off: bool


class BentView(Value):
    note: str
    early_ms: float | None
    arrives_ms: float | None


class FeelView(Value):
    says: str
    notes: tuple[PlacedView, ...]
    bends: tuple[BentView, ...]
    median_ms: float | None
    spread_ms: float | None
    swing: float | None
    density: float


class PulseView(Value):
    tick: int
    pull: float
    release: bool


class PhraseAnalysis(Value):
    """A phrase read: told by the program and in the teacher's words, its readings, its strong beats, its feel."""

    id: str | None
    name: str
    start: int
    end: int
    says: str
    words: str  # the teacher's; empty without
    outdated: bool  # the program tells it otherwise than when the words were written
    motion: str
    strong: ScoreView
    weak: ScoreView
    pulses: tuple[PulseView, ...]
    readings: tuple[ReadingView, ...]
    feel: FeelView


class OfferedChanges(Value):
    """Other changes that most notes of a span fit better than the chart."""

    start: int
    end: int
    symbol: str
    says: str


class Tone(Value):
    pitch_class: int
    degree: str


class GuideView(Value):
    """The third and the seventh of the chord to come, over the span of the one before."""

    start: int
    end: int
    symbol: str
    tones: tuple[Tone, ...]


class AnalysisView(Value):
    versions: dict[str, int]
    phrases: tuple[PhraseAnalysis, ...]
    paths: tuple[PathView, ...]
    offered: tuple[OfferedChanges, ...]
    outside: int  # notes that stand in no phrase
    guides: tuple[GuideView, ...]


class FactView(Value):
    says: str
    rule: str


class WhyView(Value):
    note: str
    facts: tuple[FactView, ...]


def view_analysis(
    read: Analysis, solo: Solo, ground: Ground, heard: Mapping[str, Sounded], versions: Mapping[str, int]
) -> AnalysisView:
    """All that the page shows of an analysis."""
    tellings = {one.phrase: one for one in solo.choices if isinstance(one, TellingChoice)}
    notes = {note.id: note for note in solo.notes}
    onsets = [note.tick for note in solo.notes]
    phrases = tuple(
        _phrase(phrase, tellings.get(phrase.id or ""), solo, ground, heard, read, onsets) for phrase in read.phrases
    )
    inside = sum(bisect_left(onsets, one.end) - bisect_left(onsets, one.start) for one in solo.phrases)
    return AnalysisView(
        versions=dict(versions),
        phrases=phrases,
        paths=tuple(sorted(_paths(read, notes), key=lambda path: (path.tick, path.end))),
        offered=tuple(
            OfferedChanges(
                start=one.start, end=one.end, symbol=one.symbol,
                says=f"{one.fit} of {one.of} notes fit {one.symbol}, {one.why}; {one.fit_chart} fit the chart",
            )
            for one in read.offered
        ),
        outside=len(onsets) - inside,
        guides=tuple(_guides(ground.timeline)),
    )  # fmt: skip


def view_span(
    span: PhraseRead, solo: Solo, ground: Ground, heard: Mapping[str, Sounded], read: Analysis
) -> PhraseAnalysis:
    """A selection as the page shows a phrase."""
    return _phrase(span, None, solo, ground, heard, read, [note.tick for note in solo.notes])


def view_why(note: Note, read: Analysis) -> WhyView:
    """Why a note is called what it is."""
    facts: Sequence[Fact] = why(note, read.readings)
    return WhyView(note=note.id, facts=tuple(FactView(says=fact.says, rule=fact.rule) for fact in facts))


def _phrase(
    phrase: PhraseRead,
    telling: TellingChoice | None,
    solo: Solo,
    ground: Ground,
    heard: Mapping[str, Sounded],
    read: Analysis,
    onsets: Sequence[int],
) -> PhraseAnalysis:
    own = solo.notes[bisect_left(onsets, phrase.start) : bisect_left(onsets, phrase.end)]
    return PhraseAnalysis(
        id=phrase.id,
        name=phrase.name,
        start=phrase.start,
        end=phrase.end,
        says=phrase.says,
        words="" if telling is None else telling.words,
        outdated=telling is not None and telling.told != phrase.says,
        motion=phrase.motion,
        strong=ScoreView(hit=phrase.strong.hit, of=phrase.strong.of, notes=phrase.strong.notes),
        weak=ScoreView(hit=phrase.weak.hit, of=phrase.weak.of, notes=phrase.weak.notes),
        pulses=tuple(PulseView(tick=p.tick, pull=round(p.pull, 3), release=p.release) for p in phrase.pulses),
        readings=tuple(_reading(reading, phrase, solo.settings, read) for reading in phrase.readings),
        feel=_feel(feel_of(own, heard, solo, ground, onsets)),
    )


def _feel(feel: Feel) -> FeelView:
    return FeelView(
        says=feel.says,
        notes=tuple(
            PlacedView(note=one.note, ms=round(one.ms, 1), percent=round(one.percent, 1), off=one.off)
            for one in feel.notes
        ),
        bends=tuple(BentView(note=one.note, early_ms=one.early_ms, arrives_ms=one.arrives_ms) for one in feel.bends),
        median_ms=feel.median_ms,
        spread_ms=feel.spread_ms,
        swing=feel.swing,
        density=round(feel.density, 2),
    )


def _reading(reading: Reading, phrase: PhraseRead, settings: SoloSettings, read: Analysis) -> ReadingView:
    places: tuple[PlaceOnNeck, ...] = ()
    classes: tuple[int, ...] = ()
    if reading.kind is ReadingKind.GRIP:
        root = parse_name(reading.root).pitch_class
        names = dict(zip(CHORD_TYPES[reading.type], _chord_degrees(reading.type), strict=True))
        fret = reading.fret or 0
        places = tuple(
            PlaceOnNeck(
                string=string, fret=fret + above,
                degree=names.get((settings.tuning[string - 1] + settings.capo + fret + above - root) % 12, ""),
            )
            for string, above in reading.offsets
        )  # fmt: skip
    elif reading.kind is ReadingKind.SCALE:
        root = parse_name(reading.root).pitch_class
        classes = tuple((root + step) % 12 for step in semitones_of(reading.type))
    elif reading.type in CHORD_TYPES:
        root = parse_name(reading.root).pitch_class
        classes = tuple((root + step) % 12 for step in CHORD_TYPES[reading.type])
    return ReadingView(
        kind=reading.kind,
        key=reading.key,
        title=_title(reading),
        covers=reading.covers,
        of=reading.of,
        left=_left(reading, read),
        left_out=reading.left_out,
        degrees=reading.degrees,
        also=_also(reading),
        picked=reading.key in phrase.picked,
        places=places,
        classes=classes,
    )


def _chord_degrees(kind: str) -> list[str]:
    plain = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "#5", "6", "b7", "7")
    return [plain[step] for step in CHORD_TYPES[kind]]


def _title(reading: Reading) -> str:
    match reading.kind:
        case ReadingKind.GRIP if reading.family in ("shell", "triad"):
            return f"{_chord(reading)} {reading.family}, fret {reading.fret}"
        case ReadingKind.GRIP:
            return f"{_chord(reading)}, {reading.family} shape, fret {reading.fret}"
        case ReadingKind.PATTERN:
            return reading.key.removeprefix("pattern ")
        case _ if reading.type == "triad pair":
            return reading.key.removeprefix("arpeggio ").replace(" + ", " and ")
        case ReadingKind.ARPEGGIO:
            return _chord(reading)
        case _:
            return f"{reading.root} {reading.type}"


def _also(reading: Reading) -> str:
    """Other names for the same notes."""
    if len(reading.roots) > 1:
        return "the same notes from " + ", ".join(reading.roots[1:])
    return "" if reading.type == "triad pair" else reading.pair


def _chord(reading: Reading) -> str:
    """A chord as it is written: D9, Am7; triads in words."""
    spaced = reading.type in ("major", "minor", "augmented", "dim")
    return f"{reading.root} {reading.type}" if spaced else f"{reading.root}{reading.type}"


def _left(reading: Reading, read: Analysis) -> str:
    """The degrees that a reading leaves out, each once, in the order of the line."""
    degrees = dict.fromkeys(read.readings.notes[note_id].degree or "?" for note_id in reading.left_out)
    return "" if not degrees else f"leaves out {', '.join(degrees)}"


def _paths(read: Analysis, notes: Mapping[str, Note]) -> Iterator[PathView]:
    groups: dict[tuple[Role, str], list[str]] = {}
    says: dict[tuple[Role, str], str] = {}
    for note_id, led in read.readings.led.items():
        reading = read.readings.notes[note_id]
        shown = next(i for i, line in enumerate(reading.lines) if line.shown)
        pattern = led.patterns[shown] if shown < len(led.patterns) else None
        if pattern is None or pattern.goal_id is None or reading.lines[shown].role is not pattern.role:
            continue
        groups.setdefault((pattern.role, pattern.goal_id), []).append(note_id)
        says.setdefault((pattern.role, pattern.goal_id), reading.lines[shown].says)
    for (role, goal), ids in groups.items():
        if goal in notes:
            ordered = tuple(sorted(ids, key=lambda one: notes[one].tick))
            yield PathView(
                kind=role.value, notes=ordered, goal=goal, tick=notes[ordered[0]].tick, end=notes[goal].tick,
                says=says[role, goal],
            )  # fmt: skip
    for relation in read.relations:
        motif = relation.kind is RelationKind.MOTIF
        first, last = notes[relation.end[0] if motif else relation.start[0]], notes[relation.end[-1]]
        end = last.end if motif or relation.start == relation.end else last.tick
        before = (notes[relation.start[0]].tick, notes[relation.start[-1]].end) if motif else None
        yield PathView(
            kind=relation.kind.value,
            notes=(*(() if motif else relation.start), *relation.end),
            goal=None if motif else relation.end[-1],
            tick=first.tick,
            end=end,
            says=relation.says,
            before=before,
        )


def _guides(timeline: Timeline) -> Iterator[GuideView]:
    for i, change in enumerate(timeline.changes):
        after = timeline.changes[i + 1] if i + 1 < len(timeline.changes) else None
        if after is None or after.heard is None:
            continue
        heard = after.heard
        tones = tuple(
            Tone(pitch_class=(heard.root.pitch_class + slot) % 12, degree=name)
            for slot, name in heard.core.items()
            if name in ("3", "b3", "4", "b7", "7", "6", "bb7")
        )
        yield GuideView(start=change.tick, end=after.tick, symbol=after.shown, tones=tones)
