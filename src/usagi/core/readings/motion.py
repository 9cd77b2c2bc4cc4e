"""How the chords move under a phrase: by Roman numerals in a key, else by roots and intervals (docs/music.md)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.harmony.heard import Heard
from usagi.core.pitch.keys import Key

ROMAN: Final = ("", "I", "II", "III", "IV", "V", "VI", "VII")
MOVES: Final = {
    1: "up a half step", 2: "up a whole step", 3: "up a minor third", 4: "up a major third", 5: "up a fourth",
    6: "up a tritone", 7: "down a fourth", 8: "down a major third", 9: "down a minor third", 10: "down a whole step",
    11: "down a half step",
}  # fmt: skip


def chord_motion(changes: Sequence[Change], timeline: Timeline) -> str:
    """The chords in words, one that comes again at once left out.

    Parameters
    ----------
    changes : in time order; N.C. among them is passed over.
    """
    keys = [timeline.facts_at(change.tick).key for change in changes]
    if any(key is None for key in keys):
        return _by_roots([change for change in changes if change.heard is not None])
    said: list[str] = []
    for change, key in zip(changes, keys, strict=True):
        if change.heard is None or key is None:
            continue
        word = numeral(change, key)
        if not said or said[-1] != word:
            said.append(word)
    return " to ".join(said)


def numeral(change: Change, key: Key) -> str:
    """A chord as it is heard, by the plain key degree of its root, lower case over a minor third, with its figures.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> from usagi.core.pitch.keys import parse_key
    >>> def in_e_minor(symbol):
    ...     chord = parse_chord(symbol)
    ...     return numeral(Change(0, "c", chord, hear(chord), 1), parse_key("E minor"))
    >>> [in_e_minor(symbol) for symbol in ("Em7", "A7", "D/C", "F#m7b5", "B7(b9)")]
    ['i7', 'IV7', 'bVII7', 'ii7b5', 'V7(b9)']
    """
    assert change.heard is not None
    degree = key.degree(change.heard.root.pitch_class)
    sign, number = degree.rstrip("1234567"), int(degree.lstrip("b#"))
    word = ROMAN[number].lower() if change.heard.third == 3 else ROMAN[number]
    return f"{sign}{word}{figures(change)}"


def figures(change: Change) -> str:
    """What stands behind a numeral: the symbol without its root, its bass and the m that lower case says."""
    heard = change.heard
    assert heard is not None
    if heard.on_bass or (change.chord.bass is not None and heard.seventh is not None and change.chord.seventh is None):
        return heard_figures(heard)
    suffix = change.shown.partition("/")[0] if change.chord.bass is not None else change.shown
    assert change.chord.root is not None
    suffix = suffix.removeprefix(str(change.chord.root))
    if suffix.startswith("mMaj7"):
        return suffix.removeprefix("m").replace("Maj7", "maj7", 1)
    return suffix.removeprefix("m") if suffix.startswith("m") and not suffix.startswith("maj") else suffix


def heard_figures(heard: Heard) -> str:
    """The figures of a chord that is heard on its bass, from its tones.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> [heard_figures(hear(parse_chord(symbol))) for symbol in ("Eb/F", "C/F", "C/A")]
    ['9sus4', 'maj9', '7']
    """
    names = heard.names.values()
    top = next((n for n in ("13", "11", "9") if n in names and heard.seventh in (10, 11)), None)
    maj = "maj" if heard.seventh == 11 else ""
    number = top or {10: "7", 11: "7", 9: "dim7"}.get(heard.seventh or 0, "6" if heard.sixth else "")
    text = f"{maj}{number}"
    if heard.suspended:
        text += "sus4"
    altered = [n for n in names if n in ("b5", "#5", "b9", "#9", "#11", "b13")]
    return text + (f"({','.join(sorted(altered, key=lambda n: int(n.lstrip('b#'))))})" if altered else "")


def _by_roots(changes: Sequence[Change]) -> str:
    said: list[str] = []
    root = None
    for change in changes:
        assert change.heard is not None
        word = figures(change)
        if change.heard.third == 3 and not word.startswith("dim"):
            word = f"m{word}" if word else "minor"
        word = word or "major"
        if root is not None:
            move = (change.heard.root.pitch_class - root) % 12
            if not move:
                if said[-1] != word:
                    said.append(word)
                continue
            said.append(MOVES[move])
        said.append(word)
        root = change.heard.root.pitch_class
    return ", ".join(said)
