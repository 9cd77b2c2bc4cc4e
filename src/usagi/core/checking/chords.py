"""Chords of the chart that bass and pitch classes of the recording contradict."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.audio.chords import QUALITIES, ChordHeard
from usagi.core.chart.timeline import Change
from usagi.core.checking.finding import SIZES, Finding, FindingKind, digest
from usagi.core.degrees.naming import name_pitch
from usagi.core.document.solo import Ground

MOST_SURE: Final = 0.9  # the ear for chords is coarser than that for notes
BELIEVED: Final = 0.6  # of the root that is heard, whatever stands on it
ENOUGH: Final = 0.12  # of belief in a chord that agrees, to leave the chart alone


@dataclass(frozen=True, slots=True)
class ChordSpan:
    """Ticks over which one chord of the chart holds, and what they sound like, likeliest first."""

    tick: int
    end: int
    heard: tuple[ChordHeard, ...]


def chord_findings(spans: Sequence[ChordSpan], ground: Ground) -> Iterator[Finding]:
    """Where another chord is heard than the chart has."""
    for span in spans:
        change = ground.timeline.chord_at(span.tick)
        if change is None or change.heard is None or not span.heard:
            continue
        likely = span.heard[0]
        against = [chord for chord in span.heard if chord.root == likely.root and not agrees(chord, change)]
        believed = sum(chord.belief for chord in against)
        agreeing = sum(chord.belief for chord in span.heard if agrees(chord, change))
        if likely not in against or believed < BELIEVED or agreeing >= ENOUGH:
            continue
        root = name_pitch(likely.root, None, ground.timeline.facts_at(span.tick).key, blues=False)
        symbol = f"{root}{likely.quality}"
        yield Finding(
            FindingKind.CHORD, span.tick, span.end, f"sounds like {symbol}; the chart has {change.shown}",
            SIZES[FindingKind.CHORD], min(MOST_SURE, believed),
            digest(FindingKind.CHORD, other=[change.shown, symbol]), mend=f"Write {symbol} here",
            symbol=symbol,
        )  # fmt: skip


def agrees(heard: ChordHeard, change: Change) -> bool:
    """Whether a heard chord may be the written one: on its root with its third, or made of its tones alone."""
    assert change.heard is not None
    root = change.heard.root.pitch_class
    tones = {(root + step) % 12 for step in change.heard.semitones}
    own = {(heard.root + step) % 12 for step in QUALITIES[heard.quality]}
    if own <= tones:
        return True
    if heard.root != root:
        return False
    thirds = {(heard.root + step) % 12 for step in (3, 4)}
    return not (own & thirds) or not (tones & thirds) or bool(own & tones & thirds)
