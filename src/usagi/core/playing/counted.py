"""Counting aloud: which word is spoken when, over the pulses and over what is played between them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Final

from usagi.core.document.solo import Ground, Solo
from usagi.core.meter.bars import Bar
from usagi.core.meter.counting import School, parts_of, slot_of, slot_words, spoken_beat
from usagi.core.playing.timing import expected_seconds

ROOM_S: Final = 0.2  # a word between two pulses is spoken where it has so much time on either side


@dataclass(frozen=True, slots=True)
class Word:
    """A word of `core/meter/counting.py`, and the second at which it is spoken."""

    second: float
    word: str


def counted(
    solo: Solo, ground: Ground, start: int, end: int, *, speed: float = 1.0, school: School = School.A
) -> list[Word]:
    """The words of a span: every pulse its number, and every note between two pulses its own word where there is time.

    Parameters
    ----------
    solo, ground : what is counted; seconds are of the recording.
    start, end : ticks.
    speed : at which it sounds, as a share of the recorded tempo; it decides what there is time for.
    school : the words that the reader counts with.
    """
    bars = ground.timeline.bars
    places: list[tuple[int, str, bool]] = []
    onsets = sorted({note.tick for note in solo.notes if start <= note.tick < end})
    bar = bars.at(start)
    while bar.tick < end:
        places += [one for one in words_of(bar, onsets, school) if start <= one[0] < end]
        bar = bars.at(bar.end)
    seconds = expected_seconds(solo, ground, [tick for tick, _, _ in places])
    kept: list[Word] = []
    for i, ((_, word, on_pulse), second) in enumerate(zip(places, seconds, strict=True)):
        before = second - seconds[i - 1] if i else ROOM_S * 2
        after = seconds[i + 1] - second if i + 1 < len(seconds) else ROOM_S * 2
        if on_pulse or min(before, after) / speed >= ROOM_S:
            kept.append(Word(second, word))
    return kept


def words_of(bar: Bar, onsets: Iterable[int], school: School = School.A) -> Iterator[tuple[int, str, bool]]:
    """Tick, word, and whether it is a pulse, for every place of a bar that is counted: its pulses and its onsets."""
    onsets = sorted(onsets)
    meter = bar.meter
    for beat, tick in bar.pulse_ticks():
        length = bar.pulse_at(tick)[2]
        inside = [onset - tick for onset in onsets if tick < onset < tick + length]
        parts = parts_of(inside, length, compound=meter.compound) if inside else (3 if meter.compound else 2)
        words = slot_words(
            spoken_beat(meter, beat), parts, compound=meter.compound, groups=bool(meter.groups), school=school
        )
        yield tick, words[0], True
        for onset in inside:
            slot, exact = slot_of(onset, length, parts)
            if exact and slot < len(words) and words[slot] != "~":
                yield tick + onset, words[slot], False
