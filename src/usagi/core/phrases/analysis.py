"""A whole solo read: the roles of its notes, what connects them, and every phrase with its readings.

Phrases are read apart; one in which nothing changed is taken over from the analysis before.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from usagi.core.degrees.patterns import events_of
from usagi.core.degrees.solo_readings import Readings
from usagi.core.degrees.solo_readings import readings as read_solo
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import ChangesChoice, Note, Phrase, ReadingChoice
from usagi.core.document.solo import Ground, Solo
from usagi.core.harmony.scales import ScaleUnreadable, read_scale
from usagi.core.phrases.motifs import Remembered, motifs
from usagi.core.phrases.telling import tell
from usagi.core.readings.figures import pattern_readings
from usagi.core.readings.grips import grip_readings
from usagi.core.readings.line import Sound, sounds_of
from usagi.core.readings.motion import chord_motion
from usagi.core.readings.pulses import Pulse, Score, pulls, strong_beats, weak_approaches
from usagi.core.readings.reading import Reading, changes_under, figure_of
from usagi.core.readings.relations import Relation, relations
from usagi.core.readings.substitutes import OtherChanges, other_changes
from usagi.core.readings.tones import arpeggio_readings, scale_readings


@dataclass(frozen=True)
class PhraseRead:
    """What is said of a phrase; `id` is None for a solo that has none, which is read as one."""

    id: str | None
    name: str
    start: int
    end: int
    motion: str
    strong: Score
    weak: Score
    pulses: tuple[Pulse, ...]
    says: str
    readings: tuple[Reading, ...]
    picked: frozenset[str]  # keys of readings


@dataclass(frozen=True)
class _Draft:
    """What a phrase says by itself, and what that was made of."""

    span: Phrase
    sounds: tuple[Sound, ...]
    picks: tuple[str, ...]
    scale: frozenset[int] | None
    motion: str
    strong: Score
    pulses: tuple[Pulse, ...]
    readings: tuple[Reading, ...]


@dataclass(frozen=True)
class _Kept:
    """What the next analysis takes over where nothing changed."""

    sounds: Mapping[str, Sound]
    phrases: Mapping[str, _Draft]
    motifs: Remembered


@dataclass(frozen=True)
class Analysis:
    """All that is read of a solo."""

    readings: Readings
    relations: tuple[Relation, ...]
    phrases: tuple[PhraseRead, ...]
    offered: tuple[OtherChanges, ...]
    kept: _Kept = field(repr=False, compare=False)


def analyse(solo: Solo, ground: Ground, reader: Reader = Reader(), before: Analysis | None = None) -> Analysis:
    """Read a solo completely.

    `before` is the analysis of an earlier state: phrases in which nothing changed are taken from it.
    """
    usable = before is not None and before.readings.ground is ground and before.readings.solo.settings == solo.settings
    kept = before.kept if usable and before is not None else _Kept({}, {}, Remembered())
    read = read_solo(solo, ground, reader, None if before is None else before.readings)
    sounds = sounds_of(solo.notes, solo.settings, ground.timeline, read.notes, read.early, kept.sounds)
    by_id = {sound.note.id: sound for sound in sounds}
    events = events_of([read.points[note.id] for note in solo.notes])
    picks = _picks(solo)
    spans = [*solo.phrases] or _whole(solo.notes)
    ticks = [sound.note.tick for sound in sounds]
    drafts = []
    for span in spans:
        own = sounds[bisect_left(ticks, span.start) : bisect_left(ticks, span.end)]
        was = kept.phrases.get(span.id)
        same = was is not None and was.span == span and was.picks == picks.get(span.id, ()) and _same(was.sounds, own)
        drafts.append(was if was is not None and same else _draft(span, own, picks.get(span.id, ()), solo, ground))
    repeated, remembered = motifs(by_id, events, ground, lambda tick: _scale_at(tick, drafts), kept.motifs)
    linked = [*relations(sounds, events), *repeated]
    order = {sound.note.id: sound.note.tick for sound in sounds}
    linked.sort(key=lambda one: (order[one.start[0]], order[one.end[0]], one.kind))
    ends = sorted((order[one.end[0]], i) for i, one in enumerate(linked))
    phrases = []
    for draft in drafts:
        span = draft.span
        own_links = ends[bisect_left(ends, (span.start, -1)) : bisect_left(ends, (span.end, -1))]
        phrases.append(_told(draft, [linked[i] for _, i in own_links], ground))
    now = _Kept(by_id, {draft.span.id: draft for draft in drafts}, remembered)
    return Analysis(read, tuple(linked), tuple(phrases), tuple(_offered(sounds, solo, ground)), now)


def analyse_span(analysis: Analysis, start: int, end: int) -> PhraseRead:
    """A selection read like a phrase, from the notes that begin in `[start, end)`."""
    solo, ground = analysis.readings.solo, analysis.readings.ground
    own = [sound for sound in analysis.kept.sounds.values() if start <= sound.note.tick < end]
    span = Phrase(id=WHOLE, start=start, end=end)
    order = {sound.note.id: sound.note.tick for sound in own}
    mine = [one for one in analysis.relations if one.end[0] in order]
    return _told(_draft(span, sorted(own, key=lambda one: one.note.tick), (), solo, ground), mine, ground)


def _offered(sounds: Sequence[Sound], solo: Solo, ground: Ground) -> Iterator[OtherChanges]:
    """Other changes, where the teacher has laid none."""
    laid = [choice for choice in solo.choices if isinstance(choice, ChangesChoice)]
    for offer in other_changes(sounds, ground.timeline):
        if not any(one.start < offer.end and one.end > offer.start for one in laid):
            yield offer


def _same(one: Sequence[Sound], other: Sequence[Sound]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))


WHOLE = "whole"


def _whole(notes: Sequence[Note]) -> list[Phrase]:
    """All of a solo that has no phrases."""
    if not notes:
        return []
    return [Phrase(id=WHOLE, start=notes[0].tick, end=max(note.end for note in notes))]


def _picks(solo: Solo) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for choice in solo.choices:
        if isinstance(choice, ReadingChoice):
            found[choice.phrase] = (*found.get(choice.phrase, ()), choice.reading)
    return found


def _scale(readings: Sequence[Reading], picks: Sequence[str]) -> frozenset[int] | None:
    """The scale that a phrase is read in: the one picked, else the best."""
    for pick in picks:
        if pick.startswith("scale "):
            try:
                return read_scale(pick.removeprefix("scale "))[2]
            except ScaleUnreadable:
                continue
    return read_scale(readings[0].key.removeprefix("scale "))[2] if readings else None


def _scale_at(tick: int, drafts: Sequence[_Draft]) -> frozenset[int] | None:
    i = bisect_right(drafts, tick, key=lambda draft: draft.span.start) - 1
    return drafts[i].scale if i >= 0 and tick < drafts[i].span.end else None


def _draft(span: Phrase, sounds: Sequence[Sound], picks: tuple[str, ...], solo: Solo, ground: Ground) -> _Draft:
    """All of a phrase that rests on its own notes."""
    timeline = ground.timeline
    figure = figure_of(sounds, timeline)
    scales = scale_readings(figure)
    scale = _scale(scales, picks)
    found = [
        *scales,
        *arpeggio_readings(figure),
        *grip_readings(figure, solo.settings),
        *pattern_readings(figure, scale),
    ]
    return _Draft(
        span,
        tuple(sounds),
        picks,
        scale,
        chord_motion(changes_under(sounds, span.start, span.end, timeline), timeline) if sounds else "",
        strong_beats(sounds, span.start, span.end, ground, solo.settings),
        tuple(pulls(sounds, span.start, span.end, ground)),
        tuple(found),
    )


def _told(draft: _Draft, mine: Sequence[Relation], ground: Ground) -> PhraseRead:
    span, sounds, bars = draft.span, draft.sounds, ground.timeline.bars
    picked = [reading for reading in draft.readings if reading.key in draft.picks]
    return PhraseRead(
        None if span.id == WHOLE else span.id,
        span.name,
        span.start,
        span.end,
        draft.motion,
        draft.strong,
        weak_approaches(sounds, bars),
        draft.pulses,
        tell(sounds, bars, draft.motion, draft.strong, draft.pulses, mine, [*picked, *draft.readings]),
        draft.readings,
        frozenset(draft.picks),
    )
