"""What is heard in a recording as soon as it comes in, before any solo stands on it: beat, offset, swing, chords.

Each is a job of its own; what is found is kept with the recording, so that it is heard once. Bars are of four beats
here: whoever opens Setup hears again in the meter that is true.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Final, TypeAlias
from uuid import UUID

import numpy as np

from usagi.core.audio import RATE_HZ
from usagi.core.audio.chords import CLEARLY_TWO, ChordHeard, hear_chords, two_in_bar
from usagi.core.audio.onsets import onsets_of
from usagi.core.audio.swing import hear_swing
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.document.solo import Anchor, Ground, Solo
from usagi.flows.listening.found import EstimateKind, Found, beats_found, chord_symbol, key_heard, offset_found
from usagi.flows.listening.hearing import keep
from usagi.flows.sound.pieces import Source, frames_of, mono_parts, the_recording
from usagi.flows.workspace import Workspace
from usagi.store import hearing as kept
from usagi.store.database import transaction

Heard: TypeAlias = Sequence[ChordHeard]

PULSES: Final = 4
NUMBER: Final = 3  # of this way of hearing; rises when it finds otherwise
KINDS: Final = (EstimateKind.BEATS, EstimateKind.OFFSET, EstimateKind.SWING, EstimateKind.CHORDS)
AT_ONCE: Final = 16  # bars
DOUBTS: Final = ("", "perhaps", "a guess")
SWUNG_S: Final = 120.0  # of the middle tell the swing


def key_of_first(kind: EstimateKind) -> str:
    return f"first {kind} {NUMBER}"


def hear_recording(workspace: Workspace, recording_id: UUID, kind: EstimateKind, report: Report) -> Found:
    """What a worker hears of one kind; kept. Raises : NotThere, when nothing is to be heard."""
    found = _heard(workspace, recording_id, kind, report)
    keep(workspace, recording_id, key_of_first(kind), found.model_dump(mode="json"))
    return found


def _heard(workspace: Workspace, recording_id: UUID, kind: EstimateKind, report: Report) -> Found:
    sound = the_recording(workspace, recording_id)
    ground = Ground(anchors=(Anchor(id="a", tick=0, second=0.0), Anchor(id="b", tick=10_080, second=0.5)))
    source = Source(sound, Solo(), ground, sound.sha256, "")
    if kind is EstimateKind.OFFSET:
        return offset_found(workspace, source)
    if kind is EstimateKind.BEATS:
        return beats_found(workspace, source, PULSES, report)
    with transaction(workspace.pool) as db:
        known = kept.heard(db, workspace.scope.studio, recording_id, key_of_first(EstimateKind.BEATS))
    found = (
        Found.model_validate(known)
        if known is not None
        else hear_recording(workspace, recording_id, EstimateKind.BEATS, unreported)
    )
    if kind is EstimateKind.SWING:
        return _swing(workspace, source, found)
    return _chords(workspace, source, found.paces[0].beats, report)


def _swing(workspace: Workspace, source: Source, found: Found) -> Found:
    """On the beats that were heard: no surer than they are."""
    beats = found.paces[0].beats
    middle = (beats[0] + beats[-1]) / 2
    inside = [beat for beat in beats if abs(beat - middle) <= SWUNG_S / 2]
    begin, end = round(inside[0] * RATE_HZ), round(inside[-1] * RATE_HZ)
    struck = onsets_of(mono_parts(workspace, source, begin, end)) / RATE_HZ + begin / RATE_HZ
    heard = hear_swing(struck, np.array(inside))
    doubt = max(heard.doubt, found.doubt, key=DOUBTS.index)
    return Found(sentence=heard.said(doubt), ratio=heard.ratio, count=heard.count, straight=heard.straight, doubt=doubt)


def _chords(workspace: Workspace, source: Source, beats: tuple[float, ...], report: Report) -> Found:
    """A chart's text of bars of four beats: what is likeliest in each, a repeat sign where that stays."""
    lines = [*beats[::PULSES]]
    bars: list[tuple[ChordHeard, ...]] = []
    for first in range(0, len(lines) - 1, AT_ONCE):
        edges = lines[first : first + AT_ONCE + 1]
        begin = max(0, round((edges[0] - 0.1) * RATE_HZ))
        sound = frames_of(workspace, source, begin, round((edges[-1] + 0.1) * RATE_HZ), mono=True)
        at = begin / RATE_HZ
        spans = [(a - at, b - at) for a, b in pairwise(edges)]
        halves = [half for a, b in spans for half in ((a, (a + b) / 2), ((a + b) / 2, b))]
        heard = hear_chords(sound, [*spans, *halves])
        bars += [_bar(heard[i], heard[len(spans) + 2 * i], heard[len(spans) + 2 * i + 1]) for i in range(len(spans))]
        report(min(1.0, (first + AT_ONCE) / len(lines)))
    text = _chart_text(bars)
    return Found(
        sentence=f"{len(bars)} bars of chords, a guess: your ear has the last word.", text=text, doubt="a guess"
    )


def _bar(whole: Heard, first: Heard, second: Heard) -> tuple[ChordHeard, ...]:
    two = two_in_bar(whole, first, second, margin=CLEARLY_TWO)
    return two[:2] if two is not None else tuple(whole[:1])


def _chart_text(bars: Sequence[tuple[ChordHeard, ...]]) -> str:
    """The heard chords as chart text, four bars a line: spelled in the key that they suggest, % for a repeated bar."""
    key = key_heard(chord for bar in bars for chord in bar)
    symbols = [" ".join(chord_symbol(chord, key) for chord in bar) for bar in bars]
    written: list[str] = []
    last = ""
    for symbol in symbols:
        written.append("%" if written and symbol in ("", last) else symbol or "N.C.")
        last = symbol or last or "N.C."
    rows = [" | ".join(written[i : i + 4]) for i in range(0, len(written), 4)]
    return "\n".join(f"| {row} |" for row in rows)
