"""Tunings: the known ones, and typed ones read low to high."""

from __future__ import annotations

import re
from dataclasses import dataclass

from usagi.core.errors import UsagiError
from usagi.core.pitch.names import NATURALS, Name, parse_name, pitch_text, sharp_name

FEWEST, MOST = 4, 8
LOWEST_MIDI, HIGHEST_MIDI = 16, 84  # E0 to C6: lower or higher is no string of a guitar


class TuningUnreadable(UsagiError):
    """A tuning that is not known and cannot be read."""

    code = "tuning-unreadable"


# Low to high, as players say them.
KNOWN: dict[str, str] = {
    "standard": "E2 A2 D3 G3 B3 E4",
    "half step down": "Eb2 Ab2 Db3 Gb3 Bb3 Eb4",
    "whole step down": "D2 G2 C3 F3 A3 D4",
    "drop D": "D2 A2 D3 G3 B3 E4",
    "drop C": "C2 G2 C3 F3 A3 D4",
    "double drop D": "D2 A2 D3 G3 B3 D4",
    "open D": "D2 A2 D3 F#3 A3 D4",
    "open E": "E2 B2 E3 G#3 B3 E4",
    "open G": "D2 G2 D3 G3 B3 D4",
    "open A": "E2 A2 E3 A3 C#4 E4",
    "D A D G A D": "D2 A2 D3 G3 A3 D4",
    "all fourths": "E2 A2 D3 G3 C4 F4",
    "bass six": "E1 A1 D2 G2 B2 E3",
    "baritone B": "B1 E2 A2 D3 F#3 B3",
    "baritone A": "A1 D2 G2 C3 E3 A3",
    "drop A": "A1 E2 A2 D3 F#3 B3",
}
# What letters without octaves are nearest to, low to high.
REFERENCES = {6: (40, 45, 50, 55, 59, 64), 7: (35, 40, 45, 50, 55, 59, 64), 8: (30, 35, 40, 45, 50, 55, 59, 64)}

_STRING = re.compile(r"([A-Ga-g][b#♭♯]?)(-?\d)?")


@dataclass(frozen=True)
class Tuning:
    """Open pitches from string 1 on, in MIDI numbers, and how each open string is spelled."""

    midi: tuple[int, ...]
    names: tuple[Name, ...]

    def __post_init__(self) -> None:
        if not FEWEST <= len(self.midi) <= MOST:
            raise TuningUnreadable(f"A tuning has {FEWEST} to {MOST} strings; this one has {len(self.midi)}.")

    @property
    def strings(self) -> int:
        return len(self.midi)

    @property
    def known_as(self) -> str | None:
        return next((name for name, text in KNOWN.items() if _read_exact(text)[0] == self.midi), None)

    def text(self) -> str:
        """Low to high with octaves.

        >>> parse_tuning("drop D").text()
        'D2 A2 D3 G3 B3 E4'
        """
        pairs = zip(reversed(self.names), reversed(self.midi), strict=True)
        return " ".join(pitch_text(name, midi) for name, midi in pairs)


def tuning_of(midi: tuple[int, ...]) -> Tuning:
    """A tuning from its pitches alone, spelled as the known tuning with these pitches, else with sharps."""
    for text in KNOWN.values():
        pitches, names = _read_exact(text)
        if pitches == midi:
            return Tuning(pitches, names)
    return Tuning(midi, tuple(sharp_name(pitch) for pitch in midi))


def _read_exact(text: str) -> tuple[tuple[int, ...], tuple[Name, ...]]:
    names, midi = [], []
    for word in reversed(text.split()):
        name = parse_name(word[:-1])
        names.append(name)
        midi.append(NATURALS[name.letter] + name.alter + 12 * (int(word[-1]) + 1))
    return tuple(midi), tuple(names)


def parse_tuning(text: str) -> Tuning:
    """Read a known name or strings low to high (`drop D`, `DADGAD`, `C2 G2 C3 F3 A3 D4`).

    Without octave numbers the letters of a known tuning mean it; else each string takes the octave nearest the
    reference. A tritone tie, or a string that would rise by more than two semitones, is asked back.

    Raises : TuningUnreadable.

    >>> parse_tuning("DADGAD").midi
    (62, 57, 55, 50, 45, 38)
    """
    wanted = " ".join(text.split())
    for known, pitches in KNOWN.items():
        if wanted.lower() == known.lower():
            return Tuning(*_read_exact(pitches))
    pieces = _split(wanted)
    if not FEWEST <= len(pieces) <= MOST:
        raise TuningUnreadable(f"“{text}” has {len(pieces)} strings; a tuning has {FEWEST} to {MOST}, low to high.")
    names = [parse_name(letter[0].upper() + letter[1:]) for letter, _ in pieces]
    octaves = [octave for _, octave in pieces]
    if all(octave is not None for octave in octaves):
        midi = [NATURALS[n.letter] + n.alter + 12 * (int(o or 0) + 1) for n, o in zip(names, octaves, strict=True)]
    elif any(octave is not None for octave in octaves):
        raise TuningUnreadable(f"“{text}” gives octaves for some strings only: give all of them or none.")
    else:
        midi = _by_reference(text, names)
    for name, pitch in zip(names, midi, strict=True):
        if not LOWEST_MIDI <= pitch <= HIGHEST_MIDI:
            raise TuningUnreadable(f"{pitch_text(name, pitch)} in “{text}” is out of a guitar string's reach.")
    return Tuning(tuple(reversed(midi)), tuple(reversed(names)))


def _split(text: str) -> list[tuple[str, int | None]]:
    pieces: list[tuple[str, int | None]] = []
    at = 0
    while at < len(text):
        if text[at] in " ,-":
            at += 1
            continue
        found = _STRING.match(text, at)
        if found is None:
            raise TuningUnreadable(
                f"“{text}” is neither a known tuning nor strings low to high: “{text[at:]}” is not a string.",
                column=at + 1,
            )
        pieces.append((found.group(1), int(found.group(2)) if found.group(2) is not None else None))
        at = found.end()
    return pieces


def _by_reference(text: str, names: list[Name]) -> list[int]:
    for pitches in KNOWN.values():
        known_midi, known_names = _read_exact(pitches)
        if [n.pitch_class for n in reversed(known_names)] == [n.pitch_class for n in names]:
            return list(reversed(known_midi))
    reference = REFERENCES.get(len(names))
    if reference is None:
        raise TuningUnreadable(f"“{text}”: with {len(names)} strings write the octaves too, like E1 A1 D2 G2.")
    midi = []
    for name, usual in zip(names, reference, strict=True):
        rise = (name.pitch_class - usual + 6) % 12 - 6
        if rise == -6:
            low, high = pitch_text(name, usual - 6), pitch_text(name, usual + 6)
            raise TuningUnreadable(f"“{text}”: is {name} {low} or {high}? Write the octave numbers.")
        if rise > 2:
            up, down = pitch_text(name, usual + rise), pitch_text(name, usual + rise - 12)
            raise TuningUnreadable(
                f"“{text}”: {up} would be {rise} semitones above the usual string. Write the octaves "
                f"({up}, or {down} if it goes down)."
            )
        midi.append(usual + rise)
    return midi
