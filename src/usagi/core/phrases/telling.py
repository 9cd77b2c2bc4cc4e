"""A phrase told in a few plain sentences, from what was computed of it alone."""

from __future__ import annotations

from collections.abc import Sequence

from usagi.core.degrees.lines import Role
from usagi.core.meter.bars import Bars
from usagi.core.meter.ticks import length_words
from usagi.core.readings.line import Sound
from usagi.core.readings.pulses import Pulse, Score
from usagi.core.readings.reading import Reading
from usagi.core.readings.relations import Relation, RelationKind

SLIGHT = 0.85  # of a phrase's notes that a reading must cover to be told


def tell(
    sounds: Sequence[Sound],
    bars: Bars,
    motion: str,
    strong: Score,
    pulses: Sequence[Pulse],
    relations: Sequence[Relation],
    readings: Sequence[Reading],
) -> str:
    """Where the phrase starts and lands, over which chords, on which notes, and what stands out; with bar numbers."""
    if not sounds:
        return "Nothing is written here."
    first, last = sounds[0], sounds[-1]
    said = [_where(sounds, bars, motion), f"It starts {_start(first, bars)} and {_landing(last, bars)}."]
    if strong.of:
        said.append(_strong(strong))
    said += _moves(relations, sounds, bars)
    release = next((pulse for pulse in pulses if pulse.release), None)
    if release is not None:
        said.append(f"The tension is released at {bars.place(release.tick)}.")
    best = next((reading for reading in readings if reading.kind == "scale"), None)
    if best is not None and best.covers >= SLIGHT * best.of:
        left = best.of - best.covers
        rest = "" if not left else f", all but {left} note" + ("s" if left > 1 else "")
        said.append(f"Its notes are those of {best.root} {best.type}{rest}.")
    return " ".join(said)


def _where(sounds: Sequence[Sound], bars: Bars, motion: str) -> str:
    first = bars.at(sounds[0].note.tick).number
    last = bars.at(max(sound.note.end for sound in sounds) - 1).number
    bars_told = f"bar {last}" if max(first, 1) == last else f"bars {max(first, 1)}–{last}"
    place = "The pick-up" if last == 0 else f"The pick-up and {bars_told}" if first == 0 else bars_told.capitalize()
    return f"{place}, over {motion}." if motion else f"{place}."


def _start(sound: Sound, bars: Bars) -> str:
    index, pulse, length = bars.at(sound.note.tick).pulse_at(sound.note.tick)
    off = sound.note.tick - pulse
    if not off:
        return f"on beat {index + 1}" + _degree(sound)
    if off * 2 >= length:
        return f"{length_words(length - off)} before the next beat{_degree(sound)}"
    return f"{length_words(off)} after beat {index + 1}{_degree(sound)}"


def _degree(sound: Sound) -> str:
    return f" with the {sound.degree} of {sound.symbol}" if sound.degree and sound.symbol else ""


def _landing(sound: Sound, bars: Bars) -> str:
    what = f"the {sound.degree} of {sound.symbol}" if sound.degree and sound.symbol else "a note without a chord"
    if sound.role is Role.ANTICIPATION:
        return f"lands early on {what}"
    index, pulse, _ = bars.at(sound.note.tick).pulse_at(sound.note.tick)
    number = bars.at(sound.note.tick).number
    place = f"on beat {index + 1} of bar {number}" if pulse == sound.note.tick else f"off the beat in bar {number}"
    return f"lands on {what}, {place}"


def _strong(strong: Score) -> str:
    if strong.hit == strong.of:
        return "Every strong beat carries a chord tone."
    if not strong.hit:
        return "No strong beat carries a chord tone."
    return f"{strong.hit} of {strong.of} strong beats carry a chord tone."


def _moves(relations: Sequence[Relation], sounds: Sequence[Sound], bars: Bars) -> list[str]:
    """Guide-tone moves and motifs, each told once."""
    ticks = {sound.note.id: sound.note.tick for sound in sounds}
    said = []
    for relation in relations:
        if relation.end[0] not in ticks:
            continue
        place = bars.place(ticks[relation.end[0]])
        if relation.kind is RelationKind.GUIDE_TONE:
            said.append(f"At {place} {relation.says}.")
        elif relation.kind is RelationKind.MOTIF:
            said.append(f"From {place} on {relation.says}.")
    return said[:3]
