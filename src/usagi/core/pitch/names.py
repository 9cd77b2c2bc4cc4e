"""Note names: a letter and an accidental, and what they sound."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.errors import UsagiError

LETTERS = "CDEFGAB"
NATURALS = (0, 2, 4, 5, 7, 9, 11)  # semitones of C D E F G A B above C
SYLLABLES = ("do", "re", "mi", "fa", "sol", "la", "ti")  # fixed-do, for readers who hold it

_SHARPS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


class NameUnreadable(UsagiError):
    """Text that was to be a note name is none."""

    code = "name-unreadable"


@dataclass(frozen=True, slots=True, order=True)
class Name:
    """A letter (0 = C … 6 = B) and its accidental in semitones (-1 flat, +1 sharp)."""

    letter: int
    alter: int = 0

    def __post_init__(self) -> None:
        if not 0 <= self.letter <= 6:
            raise ValueError(f"letter {self.letter}")

    @property
    def pitch_class(self) -> int:
        return (NATURALS[self.letter] + self.alter) % 12

    def __str__(self) -> str:
        return LETTERS[self.letter] + ("#" * self.alter if self.alter > 0 else "b" * -self.alter)

    def syllable(self) -> str:
        """The fixed-do name.

        >>> parse_name("Bb").syllable()
        'tib'
        """
        return SYLLABLES[self.letter] + str(self)[1:]

    def above(self, steps: int, semitones: int) -> Name:
        """The name that lies `steps` letters and `semitones` above this one, so an augmented fifth stays a fifth.

        >>> str(parse_name("E").above(4, 8))
        'B#'
        """
        letter = (self.letter + steps) % 7
        alter = (self.pitch_class + semitones - NATURALS[letter] + 6) % 12 - 6
        return Name(letter, alter)

    def octave_of(self, midi: int) -> int:
        """The octave number in which this name sounds MIDI pitch `midi`.

        >>> parse_name("B#").octave_of(60)
        3
        """
        return (midi - self.alter) // 12 - 1


def parse_name(text: str) -> Name:
    """Read a letter with at most two accidentals of one kind; ♭ and ♯ are read as b and #.

    Raises : NameUnreadable.

    >>> parse_name("F♯")
    Name(letter=3, alter=1)
    """
    plain = text.strip().replace("♭", "b").replace("♯", "#")
    letter, accidental = plain[:1].upper(), plain[1:]
    if letter not in LETTERS or not letter or accidental not in ("", "b", "#", "bb", "##"):
        raise NameUnreadable(f"“{text}” is not a note name: write a letter from A to G, with b or # if needed.")
    return Name(LETTERS.index(letter), len(accidental) * (-1 if "b" in accidental else 1))


def parse_pitch(text: str) -> int:
    """The MIDI number of a name with its octave, from E0 to C8. Raises : NameUnreadable.

    >>> parse_pitch("A4"), parse_pitch("Bb3")
    (69, 58)
    """
    word = text.strip()
    name = parse_name(word[:-1] if word[-1:].isdigit() else word)
    if not word[-1:].isdigit():
        raise NameUnreadable(f"“{text}” has no octave: write A4 for the A of 440.")
    midi = NATURALS[name.letter] + name.alter + 12 * (int(word[-1]) + 1)
    if not 16 <= midi <= 108:
        raise NameUnreadable(f"“{text}” is out of reach: from E0 to C8.")
    return midi


def sharp_name(pitch_class: int) -> Name:
    """The name with sharps: what is left when neither chord nor key says how to spell."""
    return parse_name(_SHARPS[pitch_class % 12])


def single_name(pitch_class: int, *, upwards: bool) -> Name:
    """The natural of a pitch class, else its sharp (`upwards`) or its flat.

    >>> str(single_name(10, upwards=False))
    'Bb'
    """
    pc = pitch_class % 12
    if pc in NATURALS:
        return Name(NATURALS.index(pc))
    return Name(NATURALS.index(pc - 1), 1) if upwards else Name(NATURALS.index((pc + 1) % 12), -1)


def pitch_text(name: Name, midi: float, *, syllables: bool = False) -> str:
    """A name with its octave, `+` for a quarter tone above.

    >>> pitch_text(parse_name("Bb"), 70)
    'Bb4'
    >>> pitch_text(parse_name("A"), 69.5)
    'A4+'
    """
    whole = int(midi // 1)
    word = name.syllable() if syllables else str(name)
    return f"{word}{name.octave_of(whole)}{'+' if midi != whole else ''}"


def read_name(text: str) -> Name:
    """The name in what `pitch_text` wrote.

    >>> str(read_name("Bb4")), str(read_name("tib4+"))
    ('Bb', 'Bb')
    """
    word = text.rstrip("+").rstrip("-0123456789")
    syllable = next((i for i, one in enumerate(SYLLABLES) if word.startswith(one)), None)
    return parse_name(word if syllable is None else LETTERS[syllable] + word.removeprefix(SYLLABLES[syllable]))
