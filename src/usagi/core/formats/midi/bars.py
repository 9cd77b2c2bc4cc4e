"""The bars of a MIDI file, with the keys, sections and feel that begin in them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from fractions import Fraction

from usagi.core.errors import UsagiError
from usagi.core.formats.midi.tracks import Tracks
from usagi.core.formats.midi.writing import AS_PLAYED
from usagi.core.formats.score import (
    MOST_BARS,
    FileUnreadable,
    ScoreBar,
)
from usagi.core.meter.feel import Feel, parse_feel
from usagi.core.meter.meters import COMMON_TIME, DENOMINATORS, MOST_BEATS, Meter
from usagi.core.pitch.keys import Key, parse_key


def bars_of(file: Tracks, last: float, end: float, to_ticks: Fraction) -> tuple[list[ScoreBar], int]:
    """Bars to the end of the notes, whole ones to the end of the file, and a pick-up.

    A pick-up is one short bar under a meter of its own at the start.
    """
    meters = sorted((round(tick * to_ticks), meter) for tick, meter in file.meters if _counts(meter))
    if not meters or meters[0][0] > 0:
        meters.insert(0, (0, (4, 4)))
    pickup = 0
    if len(meters) > 1:
        first, second = Meter(*meters[0][1]), Meter(*meters[1][1])
        if meters[1][0] == first.bar_ticks < second.bar_ticks and first.denominator == second.denominator:
            pickup = first.bar_ticks
            meters = meters[1:]
    keys = sorted((round(tick * to_ticks), key) for tick, key in file.keys)
    markers = sorted((round(tick * to_ticks), text) for tick, text in file.markers if text)
    feels = [(round(tick * to_ticks), feel) for tick, text in file.texts if (feel := _feel(text)) is not None]
    bars: list[ScoreBar] = []
    at, index = pickup, 0
    meter = COMMON_TIME
    early = [text for tick, text in markers if tick < pickup]
    while at < last or not bars or at + meter.bar_ticks <= end:
        while index < len(meters) and meters[index][0] <= at:
            meter = Meter(*meters[index][1])
            index += 1
        stop = at + meter.bar_ticks
        if index < len(meters) and meters[index][0] < stop:
            short = meters[index][0] - at
            beat = meter.beat_ticks
            if short > 0 and short % beat == 0:
                meter = Meter(short // beat, meter.denominator)
                stop = at + short
        named = [text for tick, text in markers if at <= tick < stop - meter.beat_ticks // 2]
        section = next(iter(early or named), None)
        early = [text for tick, text in markers if stop - meter.beat_ticks // 2 <= tick < stop]
        bars.append(ScoreBar(meter, _key_at(keys, at), section, _feel_at(feels, at, pickup)))
        at = stop
        if len(bars) > MOST_BARS:
            raise FileUnreadable(f"This MIDI file is more than {MOST_BARS} bars long. Take a part of it.")
    return bars, pickup


def _counts(meter: tuple[int, int]) -> bool:
    return 1 <= meter[0] <= MOST_BEATS and meter[1] in DENOMINATORS


def _key_at(keys: Sequence[tuple[int, str]], tick: int) -> Key | None:
    index = bisect_right(keys, (tick, "~")) - 1
    if index < 0:
        return None
    try:
        return parse_key(keys[index][1])
    except UsagiError:
        return None


def _feel(text: str) -> Feel | None:
    """A feel as our own files say it in words."""
    word, _, rest = text.removesuffix(AS_PLAYED).partition(" ")
    try:
        return parse_feel(rest) if word == "feel" else None
    except UsagiError:
        return None


def _feel_at(feels: Sequence[tuple[int, Feel]], tick: int, pickup: int) -> Feel | None:
    """The feel that begins with a bar; what a pick-up begins with is that of bar 1."""
    return next((feel for at, feel in reversed(feels) if at == tick or (tick == pickup and at <= tick)), None)
