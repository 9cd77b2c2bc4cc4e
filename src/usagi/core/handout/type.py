"""How long a text is on paper, and how it breaks into lines."""

from __future__ import annotations

import re
from typing import Final

from usagi.core.handout.marks import Face, Mark, Text
from usagi.core.handout.widths import BOLD, NAMING, READING, SIGNS

WIDTHS: Final = {Face.READING: READING, Face.BOLD: BOLD, Face.NAMING: NAMING}
UNKNOWN: Final = 600  # of a sign that no font has; it is printed as a question mark


def signs(text: str) -> str:
    """Accidentals as they are printed: `b` and `#` before a figure or behind a letter of a chord become ♭ and ♯.

    >>> signs("b7"), signs("Bbmaj7"), signs("F#m7b5"), signs("a bend")
    ('♭7', 'B♭maj7', 'F♯m7♭5', 'a bend')
    """
    for pattern in (r"b+(?=\d)", r"(?<=[A-G])b+(?=$|[^a-z]|m|d|a|s)"):
        text = re.sub(pattern, lambda found: "♭" * len(found[0]), text)
    return text.replace("#", "♯")


def width(text: str, size: float, face: Face = Face.READING) -> float:
    """Points that a line of text takes.

    Parameters
    ----------
    text : as it is printed.
    size : of the type, in points.
    face : its kind.
    """
    own = WIDTHS[face]
    return size / 1_000 * sum(own.get(sign, SIGNS.get(sign, UNKNOWN)) for sign in text)


def measured(mark: Mark) -> Mark:
    """A mark that knows how long it is, where it is a text."""
    if not isinstance(mark, Text):
        return mark
    return mark.model_copy(update={"across": round(width(mark.text, mark.size, mark.face), 2)})


def wrapped(text: str, size: float, room: float, face: Face = Face.READING) -> list[str]:
    """The text in lines that fit; a word that is longer than a line is cut.

    Parameters
    ----------
    text, size, face : as in `width`.
    room : points of a line.

    >>> wrapped("Third finger bends, with two behind it.", 10, 120)
    ['Third finger bends, with', 'two behind it.']
    """
    lines: list[str] = []
    line = ""
    for word in text.split():
        while width(word, size, face) > room:
            cut = next(n for n in range(len(word), 0, -1) if n == 1 or width(word[:n], size, face) <= room)
            lines += [one for one in (line, word[:cut]) if one]
            line, word = "", word[cut:]
        longer = f"{line} {word}" if line else word
        if line and width(longer, size, face) > room:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line] if line else lines


def shortened(text: str, size: float, room: float, face: Face = Face.READING) -> str:
    """The text, or as much of it as fits with an ellipsis.

    Parameters
    ----------
    text, size, room, face : as in `wrapped`.
    """
    if width(text, size, face) <= room:
        return text
    shorter = (f"{text[:n].rstrip()} …" for n in range(len(text), 0, -1))
    return next((one for one in shorter if width(one, size, face) <= room), "")
