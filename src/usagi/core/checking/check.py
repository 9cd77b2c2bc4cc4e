"""All that does not agree in a solo: made stretch by stretch, and made again only where an edit reaches.

A stretch is a phrase, or up to four bars between phrases. What a stretch says rests on its own notes, on those around
it, and on what is heard there.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final, TypeVar

from usagi.core.checking.chords import ChordSpan, chord_findings
from usagi.core.checking.finding import Finding
from usagi.core.checking.itself import bar_findings, bend_findings, hand_findings, join_findings, place_findings
from usagi.core.checking.pairing import written_at
from usagi.core.checking.sound import Line, sound_findings
from usagi.core.document.elements import Note, Rest, WaiverChoice
from usagi.core.document.solo import Ground, Solo
from usagi.core.fingering.hand import HANDS, HandSize
from usagi.core.fingering.shapes import Shaper
from usagi.core.listening.heard import Hearing
from usagi.core.meter.bars import Bar
from usagi.core.playing.timing import expected_seconds, feels_of

Sounds = TypeVar("Sounds", Note, Rest)

AT_ONCE: Final = 4  # bars of a stretch that is no phrase
AROUND_S: Final = 0.6  # of sound, on both sides of a stretch
AROUND_NOTES: Final = 6
BEFORE: Final = 0.1  # seconds before a stretch that a sound of its own may begin


@dataclass(frozen=True)
class Sound:
    """What was heard of a recording: the seconds that were listened to, all that was heard in them, the chords.

    `banded` says that a band plays along: then less is sure.
    """

    listened: tuple[tuple[float, float], ...] = ()
    hearing: Hearing = field(default_factory=Hearing)
    chords: tuple[ChordSpan, ...] = ()
    banded: bool = False

    def covers(self, start_s: float, end_s: float) -> bool:
        """Whether all of it was listened to."""
        at = start_s
        for begin, end in self.listened:
            if begin <= at + 0.02:
                at = max(at, end)
        return at >= end_s - 0.02


@dataclass(frozen=True, slots=True)
class BarChecked:
    """A bar of the solo: whether it was listened to, and how many findings are open in it."""

    number: int
    listened: bool
    open: int


@dataclass(frozen=True)
class Checked:
    """What does not agree, the heaviest first; what of that is waived; the bars of the solo in order."""

    findings: tuple[Finding, ...]
    waived: tuple[Finding, ...]
    bars: tuple[BarChecked, ...]

    @property
    def done(self) -> float:
        """The share of bars that were listened to and hold nothing open."""
        return sum(bar.listened and not bar.open for bar in self.bars) / len(self.bars) if self.bars else 0.0


@dataclass(frozen=True, slots=True)
class _Made:
    notes: tuple[Note, ...]
    rests: tuple[Rest, ...]
    found: tuple[Finding, ...]


@dataclass(frozen=True, slots=True)
class _Stretch:
    """Ticks, the notes and rests in them and around them, the solo's bars, and the onsets of all its notes."""

    start: int
    end: int
    notes: tuple[Note, ...]
    rests: tuple[Rest, ...]
    bars: Sequence[Bar]
    onsets: Sequence[int]


@dataclass
class Checker:
    """Checks one solo again and again; what an edit does not reach is kept."""

    _under: tuple[object, ...] = ()
    _shaper: Shaper | None = None
    _made: dict[tuple[int, int], _Made] = field(default_factory=dict)

    def check(self, solo: Solo, ground: Ground, sound: Sound, hand: HandSize = HandSize.USUAL) -> Checked:
        """Everything that does not agree. Without `listened` sound, what the writing says by itself."""
        under = (solo.settings, ground, sound, hand)
        if len(self._under) != len(under) or any(a is not b for a, b in zip(self._under, under, strict=True)):
            self._under, self._made, self._shaper = under, {}, None
        self._shaper = self._shaper or Shaper(solo.settings, HANDS[hand])
        before, self._made = self._made, {}
        ticks = [note.tick for note in solo.notes]
        rest_ticks = [rest.tick for rest in solo.rests]
        bars = _bars(solo, ground)
        found: list[Finding] = []
        for start, end in stretches(solo, ground):
            notes = _around(solo.notes, ticks, start, end)
            rests = _around(solo.rests, rest_ticks, start, end)
            kept = before.get((start, end))
            if kept is None or not (_same(kept.notes, notes) and _same(kept.rests, rests)):
                stretch = _Stretch(start, end, notes, rests, bars, ticks)
                kept = _Made(notes, rests, tuple(_of_stretch(stretch, solo, ground, sound, hand, self._shaper)))
            self._made[start, end] = kept
            found += kept.found
        found += place_findings(solo, ground)
        found += chord_findings(sound.chords, ground)
        return _told(found, solo, ground, sound)


def stretches(solo: Solo, ground: Ground) -> list[tuple[int, int]]:
    """Phrases, and the bars of the solo between them, four at most at once; ticks, in order."""
    bars = _bars(solo, ground)
    if not bars:
        return []
    phrases = sorted((phrase.start, phrase.end) for phrase in solo.phrases)
    found: list[tuple[int, int]] = []
    at, last = bars[0].tick, bars[-1].end
    edges = [bar.tick for bar in bars[AT_ONCE::AT_ONCE]] + [last]
    for start, end in [*phrases, (last, last)]:
        while at < min(start, last):
            until = min(start, next((edge for edge in edges if edge > at), last))
            found.append((at, until))
            at = until
        if end > at and start < last:
            found.append((max(at, start), end))
            at = end
    return found


def _bars(solo: Solo, ground: Ground) -> list[Bar]:
    numbers = range(solo.settings.first_bar, solo.settings.last_bar + 1)
    return [bar for bar in map(ground.timeline.bars.number, numbers) if bar is not None]


def _around(things: Sequence[Sounds], ticks: Sequence[int], start: int, end: int) -> tuple[Sounds, ...]:
    """Those that begin in a stretch, and some on both sides."""
    first, last = bisect_left(ticks, start), bisect_left(ticks, end)
    return tuple(things[max(0, first - AROUND_NOTES) : last + AROUND_NOTES])


def _same(one: Sequence[object], other: Sequence[object]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))


def _of_stretch(
    stretch: _Stretch, solo: Solo, ground: Ground, sound: Sound, hand: HandSize, shaper: Shaper
) -> Iterator[Finding]:
    settings, notes, start, end = solo.settings, stretch.notes, stretch.start, stretch.end
    inside = [note for note in notes if start <= note.tick < end]
    sounds: list[Note | Rest] = sorted([*notes, *stretch.rests], key=lambda one: one.tick)
    for bar in stretch.bars:
        if start <= bar.tick < end:
            yield from bar_findings(bar, sounds)
    edges = sorted({tick for note in notes for tick in (note.tick, note.end)})
    second = dict(zip(edges, expected_seconds(solo, ground, edges, stretch.onsets), strict=True))
    for finding in (*join_findings(notes), *hand_findings(notes, settings, second, shaper)):
        if start <= finding.tick < end:
            yield finding
    yield from bend_findings(inside, settings, hand)
    start_s, end_s = ground.grid.second(start), ground.grid.second(end)
    if not sound.covers(max(0.0, start_s), end_s):
        return
    written = [written_at(note, settings, second[note.tick], second[note.end]) for note in notes]
    known = [one for one in written if one is not None]
    line = Line(
        written=tuple(known),
        own=frozenset(i for i, one in enumerate(known) if start <= one.note.tick < end),
        hearing=sound.hearing.between(start_s - AROUND_S, end_s + AROUND_S),
        start_s=start_s - BEFORE,
        end_s=end_s - BEFORE if end < stretch.bars[-1].end else end_s,
        ground=ground,
        feels=feels_of(solo, ground),
        banded=sound.banded,
    )
    yield from sound_findings(line)


def _told(found: Sequence[Finding], solo: Solo, ground: Ground, sound: Sound) -> Checked:
    """One finding a thing, the waived ones apart, in order of weight."""
    single: dict[str, Finding] = {}
    for finding in found:
        single.setdefault(finding.id, finding)
    waivers = {
        (choice.finding, choice.notes, choice.judged) for choice in solo.choices if isinstance(choice, WaiverChoice)
    }
    ordered = sorted(single.values(), key=lambda finding: (-finding.weight, finding.tick, finding.id))
    waived = tuple(f for f in ordered if (str(f.kind), f.notes, f.judged) in waivers)
    apart = {f.id for f in waived}
    findings = tuple(f for f in ordered if f.id not in apart)
    open_at: dict[int, int] = {}
    bars = ground.timeline.bars
    for finding in findings:
        number = bars.at(finding.tick).number
        open_at[number] = open_at.get(number, 0) + 1
    states = tuple(
        BarChecked(
            bar.number,
            sound.covers(max(0.0, ground.grid.second(bar.tick)), ground.grid.second(bar.end)),
            open_at.get(bar.number, 0),
        )
        for bar in _bars(solo, ground)
    )
    return Checked(findings, waived, states)
