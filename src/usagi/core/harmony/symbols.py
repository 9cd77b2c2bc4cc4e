"""Reading chord symbols as they are written by hand (docs/music.md, Chords).

Many spellings of one chord are taken; a spelling of two chords is refused with both offers, never guessed. Columns
count from 1. The grammar: a root, a quality directly after it, one figure, then alterations and additions in any
order, set apart by nothing, commas or parentheses, then a bass.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from functools import lru_cache

from usagi.core.errors import UsagiError
from usagi.core.harmony.chord import EXTENSION_SLOTS, Chord
from usagi.core.pitch.names import Name, parse_name

NO_CHORD = ("N.C.", "NC", "N.C", "n.c.")

_ROOT = re.compile(r"[A-G][b#]?")
_MAJOR = re.compile(r"(?:maj|Maj|MAJ|ma(?!dd)|Ma(?!j)|M(?!a|in|i)|Δ|\^)")
_MINOR = re.compile(r"(?:min|Min|mi|m)")
_DIMINISHED = re.compile(r"(?:dim|°|o)")
_FIGURE = re.compile(r"(?:6/9|69|6|7|9|11|13)(?!\d)")
_ADD = re.compile(r"add([b#]?)(\d+)")
_SUS = re.compile(r"sus([24]?)(?!\d)")
_ALTERATION = re.compile(r"([b#+-])(\d+)")
_NUMBER = re.compile(r"\d+")


class ChordUnreadable(UsagiError):
    """A chord symbol that cannot be read; `where["column"]` is the place of its leftmost fault, from 1."""

    code = "chord-unreadable"


MOST_LETTERS = 40  # of a symbol that a document holds


def is_chord(symbol: str) -> bool:
    """Whether a document can hold it as a chord: it can be read and is not too long.

    >>> is_chord("F9"), is_chord("H7")
    (True, False)
    """
    try:
        parse_chord(symbol)
    except ChordUnreadable:
        return False
    return len(symbol) <= MOST_LETTERS


def parse_chord(symbol: str) -> Chord:
    """Read a chord symbol.

    Raises : ChordUnreadable, with the column of the piece at fault.

    >>> parse_chord("E7#9").semitones
    [0, 3, 4, 7, 10]
    >>> parse_chord("C13").core_names
    {0: '1', 4: '3', 7: '5', 10: 'b7'}
    """
    return _parse(symbol)


@lru_cache(maxsize=4096)
def _parse(symbol: str) -> Chord:
    if symbol.strip() in NO_CHORD:
        return Chord(symbol.strip(), None)
    return _Reader(symbol).read()


def _plain(symbol: str) -> str:
    """One sign for each meaning, every character kept in its column."""
    table = str.maketrans({"♭": "b", "♯": "#", "△": "Δ", "−": "-", "–": "-", "º": "°", "Ø": "ø"})
    return symbol.translate(table)


@dataclass
class _Reader:
    """Walks one symbol from left to right, gathering what it says."""

    symbol: str
    text: str = ""
    at: int = 0
    third: int | None = 4
    suspension: int | None = None
    fifth_signs: set[int] = field(default_factory=set)
    sixth: bool = False
    seventh: int | None = None
    figure: int | None = None
    added: set[tuple[int, int]] = field(default_factory=set)
    alt: bool = False
    power: bool = False
    diminished: bool = False
    half_diminished: bool = False
    minor_sign: bool = False  # m, min, mi or - was written

    def read(self) -> Chord:
        self.text = _plain(self.symbol)
        self._spaces()
        root_text = self._root()
        root = parse_name(root_text)
        self._quality(root_text)
        open_at = self._rest(root_text)
        if open_at is not None:
            raise self._fault("the parenthesis is not closed", open_at)
        bass = self._bass()
        if self.at != len(self.text):
            raise self._fault(f"“{self.text[self.at :]}” is not understood")
        return self._chord(root, bass)

    # -- the pieces, in order ---------------------------------------------------------------------------------

    def _spaces(self) -> None:
        stripped = self.text.rstrip()
        self.at = len(stripped) - len(stripped.lstrip())
        self.text = stripped

    def _root(self) -> str:
        found = _ROOT.match(self.text, self.at)
        if found is None:
            if self.text[self.at : self.at + 1] == "H":
                rest = self.text[self.at + 1 :]
                raise self._fault(f"H is B in some countries and B♭ in others: write B{rest} or Bb{rest}")
            raise self._fault("a chord starts with its root, a letter from A to G, or is N.C.")
        self.at = found.end()
        return found.group()

    def _quality(self, root: str) -> None:
        """What stands directly after the root, and the figure."""
        if self._take("ø"):
            self.third, self.half_diminished, self.seventh, self.figure = 3, True, 10, 7
            self.fifth_signs.add(-1)
            self._figure(root)
        elif self._match(_DIMINISHED):
            self.third, self.diminished = 3, True
            self.fifth_signs.add(-1)
            self._diminished_figure(root)
        elif self._take("dom"):
            if not re.compile(r"(?:7|9|11|13)(?!\d)").match(self.text, self.at):
                raise self._fault("dom is followed by 7, 9, 11 or 13")
            self._figure(root)
        elif self._take("aug"):
            self.fifth_signs.add(1)
            self._figure(root)
        elif self.text.startswith("+", self.at):
            self.at += 1
            self.fifth_signs.add(1)
            if not (self.text.startswith("5", self.at) and not self.text[self.at + 1 : self.at + 2].isdigit()):
                self._figure(root)
            else:
                self.at += 1  # C+5 is C+: both say the raised fifth
        elif (found := _MAJOR.match(self.text, self.at)) is not None:
            self.at = found.end()
            self._major(found.group(), root)
        elif self.text.startswith("-", self.at):
            if re.compile(r"-5(?!\d)").match(self.text, self.at):
                raise self._fault(f"two meanings: write {root}(b5) or {root}m(b5)")
            self.at += 1
            self._minor(root)
        elif self._match(_MINOR):
            self._minor(root)
        elif re.compile(r"5(?!\d)").match(self.text, self.at):
            self.at += 1
            self.third, self.power = None, True
        else:
            self._figure(root)

    def _minor(self, root: str) -> None:
        self.third, self.minor_sign = 3, True
        if re.compile(r"[+#]7(?!\d)").match(self.text, self.at):
            self.at += 2
            self._seventh(11, 7)
        elif (found := _MAJOR.match(self.text, self.at)) is not None:
            self.at = found.end()
            self._major(found.group(), root, always=True)
        else:
            self._figure(root)

    def _major(self, sign: str, root: str, *, always: bool = False) -> None:
        """`maj` and its like, before a figure or alone; a triangle alone is a major seventh, a word alone a triad."""
        found = _FIGURE.match(self.text, self.at)
        if found is not None and found.group() in ("6", "69", "6/9"):
            if sign in ("Δ", "^") or always:
                raise self._fault(f"“{sign}{found.group()}” is not understood", self.at - len(sign))
            self._figure(root)
        elif found is not None:
            self.at = found.end()
            self._seventh(11, int(found.group()))
        elif sign in ("Δ", "^"):
            self._seventh(11, 7)
        elif always:
            raise self._fault(f"“{sign}” after minor is followed by 7, 9, 11 or 13", self.at - len(sign))

    def _diminished_figure(self, root: str) -> None:
        if re.compile(r"7(?!\d)").match(self.text, self.at):
            self.at += 1
            self._seventh(9, 7)
        elif (found := _MAJOR.match(self.text, self.at)) is not None:
            self.at = found.end()
            self._major(found.group(), root, always=True)
            if self.figure != 7:
                raise self._fault("a diminished chord takes 7 or maj7 and adds the rest in parentheses")
        elif _FIGURE.match(self.text, self.at):
            raise self._fault("a diminished chord takes 7 or maj7 and adds the rest in parentheses")

    def _figure(self, root: str) -> None:
        found = _FIGURE.match(self.text, self.at)
        if found is None:
            two = re.compile(r"([24])(?!\d)").match(self.text, self.at)
            if two is not None:
                self._two_or_four(root, int(two.group(1)))
            return
        figure = found.group()
        self.at = found.end()
        if figure.startswith("6"):
            self.sixth = True
            if figure != "6":
                self.added.add((9, 0))
        else:
            self._seventh(10, int(figure))

    def _two_or_four(self, root: str, number: int) -> None:
        minor = "m" if self.third == 3 else ""
        offers = f"{root}{minor}(add{9 if number == 2 else 11}) or {root}sus{number}"
        raise self._fault(f"two meanings: write {offers}")

    def _rest(self, root: str) -> int | None:
        """Alterations, additions and suspensions up to the bass; returns the place of a parenthesis left open."""
        open_at: int | None = None
        apart = False
        while self.at < len(self.text) and not self.text.startswith("/", self.at):
            here = self.at
            sign = self.text[here]
            if sign == "(":
                if open_at is not None:
                    raise self._fault("a parenthesis inside another")
                open_at, apart = here, True
                self.at += 1
            elif sign == ")":
                if open_at is None or self.text[here - 1] == "(":
                    raise self._fault("this parenthesis closes nothing")
                open_at, apart = None, True
                self.at += 1
            elif sign == ",":
                apart = True
                self.at += 1
                if self.at == len(self.text):
                    raise self._fault("nothing follows the comma", here)
            else:
                self._item(root, apart=apart)
                apart = False
        return open_at

    def _item(self, root: str, *, apart: bool) -> None:
        if (sus := self._match(_SUS)) is not None:
            self._suspend(5 if sus.group(1) != "2" else 2, sus.start())
        elif (add := self._match(_ADD)) is not None:
            self._add(int(add.group(2)), {"b": -1, "#": 1, "": 0}[add.group(1)], add.start())
        elif self._take("alt"):
            if self.figure not in (None, 7) or self.third != 4 or self.fifth_signs or self.added or self.sixth:
                raise self._fault("alt stands alone or after 7", self.at - 3)
            self.alt = True
            self._seventh(10, 7, again=True)
        elif (change := self._match(_ALTERATION)) is not None:
            self._alter(change)
        elif self.text.startswith("+", self.at) and self.text[self.at + 1 : self.at + 2] in ("", ")", ",", "/"):
            self.at += 1
            self._fifth(1)
        elif (major := _MAJOR.match(self.text, self.at)) is not None and self.figure is None and not self.power:
            self.at = major.end()
            self._major(major.group(), root, always=True)
        elif apart and (number := self._match(_NUMBER)) is not None:
            self._number(root, number)
        else:
            piece = re.split(r"[(),/]", self.text[self.at :])[0]
            raise self._fault(f"“{piece}” is not understood")

    def _number(self, root: str, found: re.Match[str]) -> None:
        """A bare figure set apart: after a figure it adds; without one it is the figure, or has two meanings."""
        number, at = int(found.group()), found.start()
        minor = "m" if self.third == 3 else ""
        if number in (9, 11, 13) and (self.figure is not None or self.sixth):
            self._add(number, 0, at)
        elif number in (9, 11, 13):
            raise self._fault(f"two meanings: write {root}{minor}{number} or {root}{minor}(add{number})", at)
        elif number in (2, 4) and self.figure is None:
            self.at = at
            self._two_or_four(root, number)
        elif number == 6 and self.figure is not None:
            self._add(13, 0, at)
        elif number == 6 and not self.sixth:
            self.sixth = True
        elif number == 7 and self.figure is None and not self.sixth and not self.power:
            self._seventh(9 if self.diminished else 10, 7)
        else:
            raise self._fault(f"“{number}” is not understood", at)

    def _alter(self, found: re.Match[str]) -> None:
        sign, number, at = found.group(1), int(found.group(2)), found.start()
        if sign in "+-" and self.figure is None and not self.sixth:
            after_minor = self.minor_sign and number == 5
            if not after_minor and not (self.minor_sign and sign == "+" and number == 7):
                raise self._fault(f"“{sign}{number}” is not understood: write b or #", at)
        step = 1 if sign in "+#" else -1
        if number == 7 and step == 1 and self.minor_sign and self.seventh is None:
            self._seventh(11, 7)
        elif number == 5:
            self._fifth(step, at)
        elif number == 6 and step == -1 and self.figure is None and not self.sixth:
            self.added.add((6, -1))
        elif (number, step) in EXTENSION_SLOTS and number != 6:
            self.added.add((number, step))
        else:
            known = "b5, #5, b9, #9, #11 and b13"
            hint = "; over a seventh it is written b13" if (number, step) == (6, -1) else ""
            raise self._fault(f"“{found.group()}” is not an alteration of this chord{hint} (known: {known})", at)

    def _add(self, number: int, step: int, at: int) -> None:
        number = {2: 9, 4: 11, 3: 10}.get(number, number)
        if number == 10 and step == 0:
            if self.suspension is None:
                raise self._fault("a third is added to a suspended chord only", at)
            self.added.add((10, 0))
        elif number in (6, 13) and step == 0:
            if number == 6 and self.figure is None:
                self.sixth = True
            else:
                self.added.add((13, 0))
        elif (number, step) in EXTENSION_SLOTS and number != 6:
            self.added.add((number, step))
        else:
            raise self._fault("only 9, 11, 13 and their alterations are added", at)

    def _suspend(self, slot: int, at: int) -> None:
        if self.suspension is not None:
            raise self._fault("one suspension is enough", at)
        if self.third != 4 or (self.fifth_signs == {-1} and self.figure is None):
            raise self._fault("a suspension takes the place of a major third", at)
        self.third, self.suspension = None, slot

    def _fifth(self, step: int, at: int | None = None) -> None:
        if self.power:
            raise self._fault("a power chord has a plain fifth", at)
        self.fifth_signs.add(step)

    def _seventh(self, slot: int, figure: int, *, again: bool = False) -> None:
        if self.seventh is not None and not self.half_diminished and not again:
            raise self._fault("the chord has a seventh already")
        self.seventh, self.figure = slot, figure

    def _bass(self) -> str | None:
        if not self.text.startswith("/", self.at):
            return None
        self.at += 1
        found = re.compile(r"[A-G](?:##|bb|#|b)?$").match(self.text, self.at)
        if found is None:
            if self.text.startswith("H", self.at):
                raise self._fault("H is B in some countries and B♭ in others: write B or Bb")
            raise self._fault("after the stroke comes a bass, a letter from A to G")
        self.at = found.end()
        return found.group()

    # -- the result -------------------------------------------------------------------------------------------

    def _chord(self, root: Name, bass: str | None) -> Chord:
        from_figure: set[tuple[int, int]] = set()
        if self.figure in (9, 11, 13):
            from_figure.add((9, 0))
        if self.figure == 11 or (self.figure == 13 and self.third == 3):
            from_figure.add((11, 0))
        if self.figure == 13:
            from_figure.add((13, 0))
        changed = {number for number, sign in self.added if sign != 0}
        kept = {(number, sign) for number, sign in from_figure if number not in changed}
        if self.alt:
            kept |= {(9, -1), (9, 1)}
        fifths = {7 + step for step in self.fifth_signs} or {7}
        return Chord(
            symbol=self.symbol.strip(),
            root=root,
            bass=parse_name(bass) if bass is not None else None,
            third=self.third,
            suspension=self.suspension,
            fifths=frozenset({6, 8} if self.alt else fifths),
            sixth=self.sixth,
            seventh=self.seventh,
            figure=self.figure,
            extensions=frozenset(kept | self.added),
            added=frozenset(self.added),
            alt=self.alt,
        )

    def _take(self, word: str) -> bool:
        if self.text.startswith(word, self.at):
            self.at += len(word)
            return True
        return False

    def _match(self, pattern: re.Pattern[str]) -> re.Match[str] | None:
        found = pattern.match(self.text, self.at)
        if found is not None:
            self.at = found.end()
        return found

    def _fault(self, what: str, at: int | None = None) -> ChordUnreadable:
        column = (self.at if at is None else at) + 1
        return ChordUnreadable(
            f"“{self.symbol.strip()}” cannot be read at column {column}: {what}.", symbol=self.symbol, column=column
        )
