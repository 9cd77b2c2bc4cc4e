"""A chord as its symbol says it, and the symbol printed in our one spelling."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from usagi.core.pitch.names import Name

# Slot and usual name of every extension that a symbol can say: number, accidental -> slot.
EXTENSION_SLOTS = {
    (9, -1): 1, (9, 0): 2, (9, 1): 3, (11, 0): 5, (11, 1): 6, (13, -1): 8, (13, 0): 9, (6, -1): 8, (10, 0): 4,
}  # fmt: skip
FIFTH_NAMES = {6: "b5", 7: "5", 8: "#5"}
SIGNS = {-1: "b", 0: "", 1: "#"}


@dataclass(frozen=True)
class Chord:
    """What one symbol says. `root` is None for N.C. (no chord)."""

    symbol: str
    root: Name | None
    bass: Name | None = None
    third: int | None = None  # 3 or 4; None for a suspension and a power chord
    suspension: int | None = None  # 2 or 5
    fifths: frozenset[int] = frozenset()
    sixth: bool = False
    seventh: int | None = None  # 9 (diminished), 10 or 11
    figure: int | None = None  # 7, 9, 11 or 13 as written
    extensions: frozenset[tuple[int, int]] = frozenset()  # (number, accidental) said or implied
    added: frozenset[tuple[int, int]] = field(default=frozenset(), compare=False)  # of those, what parentheses say
    alt: bool = False

    @cached_property
    def core_names(self) -> dict[int, str]:
        """Core tones: slot to degree name."""
        if self.root is None:
            return {}
        names = {0: "1"}
        if self.third is not None:
            names[self.third] = "b3" if self.third == 3 else "3"
        if self.suspension is not None:
            names[self.suspension] = "2" if self.suspension == 2 else "4"
        if not self.alt:
            names |= {slot: FIFTH_NAMES[slot] for slot in self.fifths}
        if self.seventh is not None:
            names[self.seventh] = {9: "bb7", 10: "b7", 11: "7"}[self.seventh]
        elif self.sixth:
            names[9] = "6"
        return names

    @cached_property
    def extension_names(self) -> dict[int, str]:
        """Named extensions: slot to the name that the symbol gives."""
        names: dict[int, str] = {}
        if self.alt:
            names |= {slot: FIFTH_NAMES[slot] for slot in self.fifths}
        for number, sign in sorted(self.extensions):
            slot = EXTENSION_SLOTS[number, sign]
            if slot not in self.core_names:
                names.setdefault(slot, "3" if number == 10 else SIGNS[sign] + str(number))
        if self.sixth and self.seventh is not None:
            names.setdefault(9, "13")
        return names

    @property
    def semitones(self) -> list[int]:
        """Slots above the root as written, sorted, the bass left out; empty for N.C."""
        return sorted({*self.core_names, *self.extension_names})

    @property
    def altered(self) -> bool:
        return self.alt or (9, -1) in self.extensions or (9, 1) in self.extensions

    @cached_property
    def shown(self) -> str:
        """The symbol in our spelling; reading it gives the same chord.

        >>> from usagi.core.harmony.symbols import parse_chord
        >>> [parse_chord(text).shown for text in ("C-7", "Co7", "C7-9+11", "CΔ", "C69", "NC")]
        ['Cm7', 'Cdim7', 'C7(b9,#11)', 'Cmaj7', 'C6/9', 'N.C.']
        """
        if self.root is None:
            return "N.C."
        said = self._said()
        quality, spent = self._quality(said)
        triad = self.seventh is None and not (self.sixth and quality.endswith(("6", "6/9")))
        rest = [
            ("add" if triad and sign == 0 else "") + SIGNS[sign] + str(3 if number == 10 else number)
            for number, sign in sorted(said - spent)
        ]
        if "dim" in quality and self.seventh == 11:
            rest.append("maj7")
        bass = f"/{self.bass}" if self.bass is not None else ""
        return f"{self.root}{quality}{'(' + ','.join(rest) + ')' if rest else ''}{bass}"

    def _said(self) -> frozenset[tuple[int, int]]:
        """What has to be said beyond third, seventh and figure: altered fifths, additions, alterations."""
        fifths = set() if self.alt else {(5, slot - 7) for slot in self.fifths if slot != 7}
        thirteenth = {(13, 0)} if self.sixth and self.seventh is not None else set()
        chosen = () if self.alt else self.added
        return frozenset({*chosen, *fifths, *thirteenth})

    def _quality(self, said: frozenset[tuple[int, int]]) -> tuple[str, frozenset[tuple[int, int]]]:
        """The part before the parentheses, and what of `said` it already says."""
        minor = "m" if self.third == 3 else ""
        sus = {2: "sus2", 5: "sus4", None: ""}[self.suspension]
        if self.alt:
            return "7alt", said
        if self.third is None and not sus:
            return "5", frozenset()
        if self.third == 3 and self.fifths == {6} and self.figure in (None, 7) and not self.sixth:
            flat = frozenset({(5, -1)})
            return {None: "dim", 9: "dim7", 10: "m7b5", 11: "dim"}[self.seventh], flat
        if self.seventh is not None:
            major = ("Maj" if minor else "maj") if self.seventh == 11 else ""
            return f"{minor}{major}{self.figure}{sus}", frozenset()
        if self.sixth:
            ninth = frozenset({(9, 0)})
            return (f"{minor}6/9{sus}", ninth) if ninth <= said else (f"{minor}6{sus}", frozenset())
        if self.third == 4 and self.fifths == {8}:
            return "+", frozenset({(5, 1)})
        return minor + sus, frozenset()
