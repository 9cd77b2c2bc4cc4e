"""Chord symbols in colon form (`C:min7`, `E:7(#9)`, `D:min/b3`) and read from it.

Source: Harte, Sandler, Abdallah and Gómez, Symbolic Representation of Musical Chords, ISMIR 2005, with the kinds that
JAMS adds. Degrees count from the major scale; `*` leaves one out; the bass is a degree.
"""

from __future__ import annotations

import re
from typing import Final

from usagi.core.formats.chord_kinds import nearest_kind, number_of, sounds, words_for
from usagi.core.harmony.chord import Chord
from usagi.core.pitch.names import NATURALS, Name, parse_name

KINDS: Final = {
    "maj": "", "min": "m", "dim": "dim", "aug": "+", "sus2": "sus2", "sus4": "sus4", "maj6": "6", "min6": "m6",
    "7": "7", "maj7": "maj7", "min7": "m7", "dim7": "dim7", "hdim7": "m7b5", "minmaj7": "mMaj7", "aug7": "7(#5)",
    "9": "9", "maj9": "maj9", "min9": "m9", "11": "11", "maj11": "maj11", "min11": "m11", "13": "13", "maj13": "maj13",
    "min13": "m13", "5": "5",
}  # fmt: skip
NO_CHORD, UNKNOWN = "N", "X"
_FORM: Final = re.compile(
    r"(?P<root>[A-G](?:b*|#*))(?::(?P<kind>[a-z0-9]+)?(?:\((?P<degrees>[^()]*)\))?)?(?:/(?P<bass>[b#]*\d{1,2}))?"
)
_SINGLE: Final = "1"  # the root alone


def colon_form(chord: Chord) -> str:
    """A chord in colon form.

    >>> from usagi.core.harmony.symbols import parse_chord
    >>> colon_form(parse_chord("E7#9")), colon_form(parse_chord("Am/C")), colon_form(parse_chord("N.C."))
    ('E:7(#9)', 'A:min/b3', 'N')
    """
    if chord.root is None:
        return NO_CHORD
    nearest = nearest_kind(chord, KINDS)
    degrees = [*nearest.added, *(f"*{label}" for label in nearest.gone)]
    inside = f"({','.join(degrees)})" if degrees else ""
    bass = "" if chord.bass is None else f"/{_degree(chord.root, chord.bass)}"
    return f"{chord.root}:{nearest.kind}{inside}{bass}"


def _degree(root: Name, bass: Name) -> str:
    """The degree of a bass above its root, by its letter."""
    number = (bass.letter - root.letter) % 7
    above = (bass.pitch_class - root.pitch_class - NATURALS[number] + 6) % 12 - 6
    return ("#" * above if above > 0 else "b" * -above) + str(number + 1)


def read_colon(text: str) -> tuple[str | None, bool]:
    """The symbol of a chord in colon form, and whether it says all of it; None where no chord is known.

    >>> read_colon("C:min7"), read_colon("D:min/b3"), read_colon("X")
    (('Cm7', True), ('Dm/F', True), (None, True))
    """
    plain = text.strip()
    if plain == NO_CHORD:
        return "N.C.", True
    if plain == UNKNOWN:
        return None, True
    found = _FORM.fullmatch(plain)
    if found is None or len(found["root"]) > 2:
        return None, False
    root = parse_name(found["root"])
    kind = found["kind"] or "maj"
    if kind == _SINGLE:
        return str(root), False
    if kind not in KINDS:
        return None, False
    slots = _slots(KINDS[kind], found["degrees"] or "")
    words = None if slots is None else words_for(slots)
    bass = _bass(root, found["bass"])
    symbol = f"{root}{KINDS[kind] if words is None else words}"
    return (f"{symbol}/{bass}" if bass is not None else symbol), words is not None


def _slots(base: str, degrees: str) -> frozenset[int] | None:
    """The semitones that a kind and its degrees mean; None for a degree that is none."""
    found = set(sounds(base))
    for part in filter(None, (part.strip() for part in degrees.split(","))):
        label = part.lstrip("*")
        if not re.fullmatch(r"[b#]*\d{1,2}", label) or not 1 <= number_of(label)[0] <= 13:
            return None
        number, alter = number_of(label)
        slot = (NATURALS[(number - 1) % 7] + alter) % 12
        if part.startswith("*"):
            found.discard(slot)
        else:
            found.add(slot)
    return frozenset(found)


def _bass(root: Name, degree: str | None) -> Name | None:
    if degree is None:
        return None
    number, alter = number_of(degree)
    if not 1 <= number <= 13:
        return None
    bass = root.above((number - 1) % 7, (NATURALS[(number - 1) % 7] + alter) % 12)
    return bass if bass != root and abs(bass.alter) < 2 else None
