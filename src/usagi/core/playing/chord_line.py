"""The chords under a line, for the program's own guitar: the chart, and other changes where they are shown."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from usagi.core.audio.voice import StringEvent
from usagi.core.document.elements import ChangesChoice
from usagi.core.document.solo import Ground, Solo
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord

LOW_E: Final = 40  # MIDI: roots lie in the octave from here
UPPER: Final = 52  # and the other tones from here up
MOST_UPPER: Final = 4
STROKE_S: Final = 0.012  # from string to string
LOUD: Final = 0.32
FIRST_SEED: Final = 1_000_000


def chord_events(solo: Solo, ground: Ground) -> list[StringEvent]:
    """A stroke at every change and every bar line, from the solo's first bar to its last.

    Parameters
    ----------
    solo : whose shown other changes count where they lie.
    """
    events: list[StringEvent] = []
    for start, end, heard in _strokes(solo, ground):
        begin, until = ground.grid.second(start), ground.grid.second(end)
        for i, midi in enumerate(voicing(heard)):
            onset = begin + i * STROKE_S
            sounding = max(0.05, until - onset)
            curve = ((0.0, float(midi)), (sounding, float(midi)))
            events.append(StringEvent(onset, sounding, curve, loud=LOUD, seed=FIRST_SEED + 16 * start + i))
    return events


def voicing(heard: Heard) -> list[int]:
    """MIDI pitches of a chord: its root low, then its third, seventh and what else it holds, rising.

    >>> voicing(hear(parse_chord("Am7")))
    [45, 52, 55, 60]
    """
    root = heard.root.pitch_class
    low = LOW_E + (root - LOW_E) % 12
    slots = [slot for slot in heard.semitones if slot]
    if len(slots) > MOST_UPPER:
        slots = [slot for slot in slots if slot != 7][-MOST_UPPER:]
    return [low, *sorted(UPPER + (root + slot - UPPER) % 12 for slot in slots)]


def _strokes(solo: Solo, ground: Ground) -> Iterator[tuple[int, int, Heard]]:
    """Start, end and chord of each stroke."""
    timeline = ground.timeline
    bars = [bar for bar in timeline.bars.bars if solo.settings.first_bar <= bar.number <= solo.settings.last_bar]
    if not bars:
        return
    layers = [one for one in solo.choices if isinstance(one, ChangesChoice) and one.shown]
    edges = {bar.tick for bar in bars} | {change.tick for change in timeline.changes}
    for layer in layers:
        edges |= {layer.start, layer.end, *(chord.tick for chord in layer.chords)}
    first, last = bars[0].tick, bars[-1].end
    inside = sorted({tick for tick in edges if first <= tick < last} | {first})
    for start, end in zip(inside, [*inside[1:], last], strict=True):
        heard = _sounding(start, layers, ground)
        if heard is not None:
            yield start, end, heard


def _sounding(tick: int, layers: list[ChangesChoice], ground: Ground) -> Heard | None:
    for layer in layers:
        before = [chord for chord in layer.chords if layer.start <= tick < layer.end and chord.tick <= tick]
        if before:
            return hear(parse_chord(max(before, key=lambda chord: chord.tick).symbol))
    change = ground.timeline.chord_at(tick)
    return None if change is None else change.heard
