"""Keys: a tonic and one of the seven modes; degrees and spelling against the tonic."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from usagi.core.errors import UsagiError
from usagi.core.pitch.names import Name, NameUnreadable, parse_name, sharp_name

# One plain name a slot: docs/music.md, Degrees.
PLAIN = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")


class Mode(StrEnum):
    MAJOR = "major"
    DORIAN = "dorian"
    PHRYGIAN = "phrygian"
    LYDIAN = "lydian"
    MIXOLYDIAN = "mixolydian"
    MINOR = "minor"
    LOCRIAN = "locrian"


# Semitones of each mode's seven notes above its tonic.
SCALES: dict[Mode, tuple[int, ...]] = {
    Mode.MAJOR: (0, 2, 4, 5, 7, 9, 11),
    Mode.DORIAN: (0, 2, 3, 5, 7, 9, 10),
    Mode.PHRYGIAN: (0, 1, 3, 5, 7, 8, 10),
    Mode.LYDIAN: (0, 2, 4, 6, 7, 9, 11),
    Mode.MIXOLYDIAN: (0, 2, 4, 5, 7, 9, 10),
    Mode.MINOR: (0, 2, 3, 5, 7, 8, 10),
    Mode.LOCRIAN: (0, 1, 3, 5, 6, 8, 10),
}
OTHER_NAMES = {"ionian": Mode.MAJOR, "aeolian": Mode.MINOR}


class KeyUnreadable(UsagiError):
    """Text that was to be a key is none."""

    code = "key-unreadable"


@dataclass(frozen=True, slots=True)
class Key:
    """A tonic and a mode."""

    tonic: Name
    mode: Mode

    def __str__(self) -> str:
        return f"{self.tonic} {self.mode}"

    def degree(self, pitch_class: int) -> str:
        """The key degree, always plain.

        >>> parse_key("E minor").degree(7)
        'b3'
        """
        return PLAIN[(pitch_class - self.tonic.pitch_class) % 12]

    @property
    def pitch_classes(self) -> frozenset[int]:
        """The seven notes of the key's mode."""
        return frozenset((self.tonic.pitch_class + step) % 12 for step in SCALES[self.mode])

    @property
    def is_minor(self) -> bool:
        """Whether the mode has b3 and 5."""
        return {3, 7} <= set(SCALES[self.mode])

    def diatonic_name(self, pitch_class: int) -> Name | None:
        """The name of a pitch class that belongs to the key, else None."""
        above = (pitch_class - self.tonic.pitch_class) % 12
        scale = SCALES[self.mode]
        return self.tonic.above(scale.index(above), above) if above in scale else None

    def name(self, pitch_class: int) -> Name:
        """Any pitch class spelled by the key: its own notes, else by plain degree, never with a double accidental.

        >>> str(parse_key("Ab major").name(6))
        'Gb'
        """
        own = self.diatonic_name(pitch_class)
        if own is not None:
            return own
        above = (pitch_class - self.tonic.pitch_class) % 12
        spelled = self.tonic.above(int(PLAIN[above][-1]) - 1, above)
        return spelled if abs(spelled.alter) < 2 else sharp_name(pitch_class)


def parse_key(text: str) -> Key:
    """Read `E minor`, `Bb`, `F# dorian`; a tonic alone is major, a small m after it minor.

    Raises : KeyUnreadable.

    >>> str(parse_key("D dorian"))
    'D dorian'
    """
    words = text.replace("♭", "b").replace("♯", "#").split()
    if len(words) == 1 and words[0].endswith("m") and len(words[0]) > 1:
        words = [words[0][:-1], "minor"]
    mode_word = words[1].lower() if len(words) == 2 else "major"
    try:
        mode = OTHER_NAMES.get(mode_word) or Mode(mode_word)
        tonic = parse_name(words[0] if words and len(words) <= 2 else "")
    except (ValueError, NameUnreadable) as fault:
        modes = ", ".join(Mode)
        raise KeyUnreadable(f"“{text}” is not a key: write a tonic and one of {modes}.", key=text) from fault
    if abs(tonic.alter) > 1:
        raise KeyUnreadable(f"“{text}” is not a key: the tonic has at most one accidental.", key=text)
    return Key(tonic, mode)
