"""The vamp: what a bass, keys and drums play under a solo, from its chart or over one chord, exactly on its grid.

Patterns are tables of our own, in parts of a pulse. The off-beats of a swung style lie where the feel puts them; all
places become seconds through the ground's grid, so that a vamp follows the recording's own tempo.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

from usagi.core.audio.band import BandEvent, Instrument
from usagi.core.chart.timeline import Timeline
from usagi.core.document.solo import Ground
from usagi.core.harmony.heard import Heard
from usagi.core.meter.bars import Bar
from usagi.core.meter.feel import Feel, FeelKind
from usagi.core.playing.voicing import led

LOW_E: Final = 28  # MIDI: bass roots lie in the octave from here
TRIPLET: Final = 2.0
I = Instrument  # noqa: E741 - the tables below are read by it


class VampStyle(StrEnum):
    STRAIGHT = "straight"
    SHUFFLE = "shuffle"
    SWING = "swing"
    SIX_EIGHT = "6/8"
    TWELVE_EIGHT = "12/8"


@dataclass(frozen=True, slots=True)
class Hit:
    """A drum in every pulse, in odd or in even ones; `at` in pulses: ½ is the off-beat, wherever it lies."""

    drum: Instrument
    at: float
    loud: float
    pulses: str = "all"  # all, odd, even


DRUMS: Final[dict[VampStyle, tuple[Hit, ...]]] = {
    VampStyle.STRAIGHT: (
        Hit(I.HAT, 0.0, 0.8), Hit(I.HAT, 0.5, 0.5), Hit(I.KICK, 0.0, 0.9, "odd"), Hit(I.SNARE, 0.0, 0.8, "even"),
    ),
    VampStyle.SHUFFLE: (
        Hit(I.HAT, 0.0, 0.8), Hit(I.HAT, 0.5, 0.55), Hit(I.KICK, 0.0, 0.85), Hit(I.SNARE, 0.0, 0.8, "even"),
    ),
    VampStyle.SWING: (
        Hit(I.RIDE, 0.0, 0.8), Hit(I.RIDE, 0.5, 0.5, "even"), Hit(I.HAT, 0.0, 0.7, "even"), Hit(I.KICK, 0.0, 0.3),
    ),
    VampStyle.SIX_EIGHT: (
        Hit(I.HAT, 0.0, 0.8), Hit(I.HAT, 1 / 3, 0.45), Hit(I.HAT, 2 / 3, 0.5), Hit(I.KICK, 0.0, 0.9, "odd"),
        Hit(I.SNARE, 0.0, 0.75, "even"),
    ),
    VampStyle.TWELVE_EIGHT: (
        Hit(I.HAT, 0.0, 0.8), Hit(I.HAT, 1 / 3, 0.45), Hit(I.HAT, 2 / 3, 0.5), Hit(I.KICK, 0.0, 0.9, "odd"),
        Hit(I.KICK, 2 / 3, 0.5, "even"), Hit(I.SNARE, 0.0, 0.8, "even"),
    ),
}  # fmt: skip
# Where keys strike: which pulses, at which part of them, for how many pulses they are held, how loud.
KEYS: Final[dict[VampStyle, tuple[tuple[str, float, float, float], ...]]] = {
    VampStyle.STRAIGHT: (("odd", 0.0, 0.9, 0.7), ("even", 0.5, 0.45, 0.6)),
    VampStyle.SHUFFLE: (("even", 0.0, 0.3, 0.75), ("odd", 0.5, 0.3, 0.5)),
    VampStyle.SWING: (("odd", 0.0, 0.5, 0.7), ("even", 0.5, 0.4, 0.65)),
    VampStyle.SIX_EIGHT: (("odd", 0.0, 0.9, 0.65), ("even", 0.0, 0.6, 0.6)),
    VampStyle.TWELVE_EIGHT: (("all", 0.0, 0.3, 0.6), ("all", 2 / 3, 0.3, 0.45)),
}
BASS_LOUD: Final = 0.85
WALKS: Final = {VampStyle.SWING}
AGAIN: Final = {
    VampStyle.SHUFFLE: 0.5,
    VampStyle.TWELVE_EIGHT: 2 / 3,
    VampStyle.SIX_EIGHT: 2 / 3,
}  # the bass once more in a pulse


_BY_FEEL: Final = {
    FeelKind.STRAIGHT: VampStyle.STRAIGHT,
    FeelKind.SWING: VampStyle.SWING,
    FeelKind.TRIPLET: VampStyle.SHUFFLE,
}


def style_of(feel: Feel, bar: Bar) -> VampStyle:
    """The style that a bar's meter and feel ask for.

    Parameters
    ----------
    feel, bar : as the chart has them.
    """
    if bar.meter.compound:
        return VampStyle.SIX_EIGHT if len(bar.meter.pulses) <= 2 else VampStyle.TWELVE_EIGHT
    return {
        FeelKind.STRAIGHT: VampStyle.STRAIGHT,
        FeelKind.SWING: VampStyle.SWING,
        FeelKind.TRIPLET: VampStyle.SHUFFLE,
    }[feel.kind]


def vamp(
    ground: Ground, start: int, end: int, *, style: VampStyle | None = None, over: Heard | None = None
) -> list[BandEvent]:
    """What the band plays from one bar line to another, in seconds of the ground's grid.

    Parameters
    ----------
    ground : its chart, meters, feels and grid.
    start, end : ticks; whole bars around them are played.
    style : over what the chart asks for; a style of three to a beat swings a simple meter as triplets.
    over : one chord for all of it, instead of the chart's.

    Returns : strokes in time order; where there is no chord the drums play alone.
    """
    timeline = ground.timeline
    bars = list(_bars(timeline, start, end))
    stretches = _stretches(timeline, bars, over)
    chords = [heard for _, _, heard in stretches if heard is not None]
    voiced = iter(led(chords))
    hands = [(begin, until, heard, next(voiced) if heard is not None else ()) for begin, until, heard in stretches]
    events = []
    for bar in bars:
        feel = timeline.feels.get(bar.number, Feel())
        own = style or style_of(feel, bar)
        part = _off_beat(own, feel, bar)
        pulses = [(n, tick, length) for n, (tick, length) in enumerate(_pulses(bar), start=1)]
        events += list(_drums(own, pulses, part))
        events += list(_keys(own, pulses, part, hands))
        events += list(_bass(own, pulses, part, hands))
    second = ground.grid.second
    placed = [
        BandEvent(second(tick), instrument, midi, second(tick + held) - second(tick) if held else 0.0, loud)
        for tick, instrument, midi, held, loud in events
    ]
    return sorted(placed, key=lambda event: (event.second, event.instrument, event.midi))


def played_at(events: Sequence[BandEvent], speed: float, semitones: float = 0.0) -> list[BandEvent]:
    """The strokes slower or faster, the pitched ones in another key.

    Parameters
    ----------
    events : in seconds of the recorded tempo.
    speed : as a share of it.
    semitones : how far the key moves.
    """
    pitched = (Instrument.BASS, Instrument.KEYS)
    return [
        replace(
            event,
            second=event.second / speed,
            held_s=event.held_s / speed,
            midi=event.midi + (semitones if event.instrument in pitched else 0),
        )
        for event in events
    ]


Stroke = tuple[float, Instrument, int, float, float]  # tick, what, pitch, ticks held, loudness
Stretch = tuple[int, int, Heard | None]
Hands = tuple[int, int, Heard | None, tuple[int, ...]]
Pulse = tuple[int, int, int]


def _bars(timeline: Timeline, start: int, end: int) -> Iterator[Bar]:
    tick = timeline.bars.at(start).tick
    while tick < end:
        bar = timeline.bars.at(tick)
        yield bar
        tick = bar.end


def _pulses(bar: Bar) -> list[tuple[int, int]]:
    """First tick and length of each pulse that the bar holds."""
    at = [tick for _, tick in bar.pulse_ticks()]
    return [(tick, bar.pulse_at(tick)[2]) for tick in at]


def _stretches(timeline: Timeline, bars: Sequence[Bar], over: Heard | None) -> list[Stretch]:
    """Which chord holds from where to where."""
    if not bars:
        return []
    first, last = bars[0].tick, bars[-1].end
    if over is not None:
        return [(first, last, over)]
    here = timeline.chord_at(first)
    found = [(first, None if here is None else here.heard)]
    found += [(change.tick, change.heard) for change in timeline.changes if first < change.tick < last]
    ends = [*(tick for tick, _ in found[1:]), last]
    return [(tick, end, heard) for (tick, heard), end in zip(found, ends, strict=True)]


def _off_beat(style: VampStyle, feel: Feel, bar: Bar) -> float:
    """Where ½ of a pulse is played, in pulses."""
    if bar.meter.compound or style is VampStyle.STRAIGHT:
        return 0.5
    ratio = feel.ratio if style is VampStyle.SWING and feel.kind is FeelKind.SWING else TRIPLET
    return ratio / (1 + ratio)


def _moved(at: float, part: float) -> float:
    return part if at == 0.5 else at


def _in(which: str, number: int) -> bool:
    return which == "all" or (number % 2 == 1) == (which == "odd")


def _drums(style: VampStyle, pulses: Sequence[Pulse], part: float) -> Iterator[Stroke]:
    for number, tick, length in pulses:
        for hit in DRUMS[style]:
            if _in(hit.pulses, number):
                yield tick + _moved(hit.at, part) * length, hit.drum, 0, 0.0, hit.loud


def _keys(style: VampStyle, pulses: Sequence[Pulse], part: float, hands: Sequence[Hands]) -> Iterator[Stroke]:
    """The table's strikes, and one where a chord comes that the table would miss until it is over."""
    struck: set[int] = set()
    strikes = []
    for number, tick, length in pulses:
        for which, at, held, loud in KEYS[style]:
            if _in(which, number):
                strikes.append((tick + _moved(at, part) * length, held * length, loud))
    for place, held, loud in strikes:
        for i, (begin, until, _, voices) in enumerate(hands):
            if begin <= place < until:
                struck.add(i)
                for midi in voices:
                    yield place, Instrument.KEYS, midi, min(held, until - place), loud
    first, last = pulses[0][1], pulses[-1][1] + pulses[-1][2]
    for i, (begin, until, _, voices) in enumerate(hands):
        if i not in struck and first <= begin < last:
            for midi in voices:
                yield float(begin), Instrument.KEYS, midi, float(min(until, last) - begin) * 0.8, 0.65


def _bass(style: VampStyle, pulses: Sequence[Pulse], part: float, hands: Sequence[Hands]) -> Iterator[Stroke]:
    """A note on every pulse: the root where a chord comes, then fifth and root by turns, or a walk to the next root."""
    for number, tick, length in pulses:
        i = next((i for i, one in enumerate(hands) if one[0] <= tick < one[1]), None)
        if i is None or hands[i][2] is None:
            continue
        begin, until, heard, _ = hands[i]
        assert heard is not None
        root = LOW_E + (heard.root.pitch_class - LOW_E) % 12
        steps = sum(1 for _, other, _ in pulses if begin <= other < tick)
        following = hands[i + 1][2] if i + 1 < len(hands) else heard
        near = until - tick <= length and following is not None
        midi = _bass_note(style, heard, root, steps, following if near else None)
        if style is VampStyle.STRAIGHT and number % 2 == 0 and not near:
            continue
        yield float(tick), Instrument.BASS, midi, 0.9 * length, BASS_LOUD
        if style in AGAIN and not near:
            at = _moved(AGAIN[style], part)
            yield tick + at * length, Instrument.BASS, midi, 0.9 * (1 - at) * length, 0.6 * BASS_LOUD


def _bass_note(style: VampStyle, heard: Heard, root: int, steps: int, following: Heard | None) -> int:
    fifth = next((slot for slot in (7, 6, 8) if slot in heard.core), 12)
    if following is not None and steps:
        goal = LOW_E + (following.root.pitch_class - LOW_E) % 12
        if goal != root:
            return goal + 1 if root > goal else goal - 1  # a half step from the side that it comes from
    if style not in WALKS:
        return root if steps % 2 == 0 else root + fifth
    third = next((slot for slot in (4, 3, 5, 2) if slot in heard.core), 12)
    return root + (0, third, fifth, 12)[steps % 4]
