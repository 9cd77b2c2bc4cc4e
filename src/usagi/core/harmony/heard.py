"""The root that a chord is heard on: inversions are counted from their root, a foreign bass becomes the root.

Source: docs/music.md, Slash chords.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

from usagi.core.harmony.chord import FIFTH_NAMES, Chord
from usagi.core.pitch.names import Name


@dataclass(frozen=True)
class Heard:
    """A chord as it is heard. Slots count from `root`, names are degree names. It can be a key of a dictionary."""

    root: Name
    core: dict[int, str]
    extensions: dict[int, str]
    understood: frozenset[int]  # core tones that nobody plays
    third: int | None
    suspended: bool
    seventh: int | None  # 9 is a diminished seventh here, never a sixth
    sixth: bool
    altered: bool
    on_bass: bool  # the bass is foreign and counts as the root
    by_alt: frozenset[int] = frozenset()  # tones that only the word alt brings

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.root, *self.core.items(), *self.extensions.items()))

    @cached_property
    def names(self) -> dict[int, str]:
        """Every tone that the symbol names, with its name."""
        return self.extensions | self.core

    @property
    def semitones(self) -> list[int]:
        """Slots that sound above the root, sorted."""
        return sorted({*self.core, *self.extensions} - self.understood)

    @property
    def dominant(self) -> bool:
        return self.seventh == 10 and self.third != 3

    @property
    def minor(self) -> bool:
        return self.third == 3

    @property
    def augmented(self) -> bool:
        """The chord's own fifth is raised."""
        return 8 in self.names and self.names[8] == "#5"

    def same_harmony(self, other: Heard) -> bool:
        """The same root and the same core tones."""
        same_root = self.root.pitch_class == other.root.pitch_class
        return same_root and self.core_pitch_classes == other.core_pitch_classes

    @cached_property
    def core_pitch_classes(self) -> frozenset[int]:
        return frozenset((self.root.pitch_class + slot) % 12 for slot in self.core)


def hear(chord: Chord, *, from_root: bool = False) -> Heard | None:
    """How a chord is heard; None for N.C. `from_root` is the teacher's mark that the bass does not count.

    >>> from usagi.core.harmony.symbols import parse_chord
    >>> str(hear(parse_chord("C/A")).root), hear(parse_chord("D/C")).semitones
    ('A', [0, 4, 7, 10])
    """
    return _hear(chord, from_root)


@lru_cache(maxsize=4096)
def _hear(chord: Chord, from_root: bool) -> Heard | None:
    if chord.root is None:
        return None
    if chord.bass is None or from_root:
        return _from_root(chord, {})
    bass = (chord.bass.pitch_class - chord.root.pitch_class) % 12
    is_added_sixth = bass == 9 and chord.core_names.get(9) == "6"
    if bass in chord.core_names and not is_added_sixth:
        return _from_root(chord, {})
    if bass in (10, 11):
        return _from_root(chord, {bass: "b7" if bass == 10 else "7"})
    if chord.third is None and bass in (3, 4):
        return _from_root(chord, {bass: "b3" if bass == 3 else "3"})
    return _on_bass(chord, chord.bass, bass)


def _from_root(chord: Chord, bass: dict[int, str]) -> Heard:
    assert chord.root is not None
    core = chord.core_names | bass
    seventh = chord.seventh
    extensions = {slot: name for slot, name in chord.extension_names.items() if slot not in core}
    for slot, name in bass.items():
        if name in ("b7", "7") and seventh is None:
            seventh = slot
            if core.get(9) == "6":  # a 6 beside a 7 is a 13
                del core[9]
                extensions[9] = "13"
    third = chord.third if chord.third is not None else next((s for s in bass if s in (3, 4)), None)
    said_elsewhere = {slot for slot in chord.extension_names if not chord.alt}
    return Heard(
        root=chord.root,
        core=core,
        extensions=extensions,
        understood=frozenset(),
        third=third,
        suspended=chord.suspension is not None,
        seventh=seventh,
        sixth=core.get(9) == "6",
        altered=chord.altered,
        on_bass=False,
        by_alt=frozenset(extensions) - said_elsewhere if chord.alt else frozenset(),
    )


def _on_bass(chord: Chord, bass: Name, above_root: int) -> Heard:
    tones = {(slot - above_root) % 12 for slot in chord.semitones} - {0}
    core = {0: "1"}
    third = 4 if 4 in tones else 3 if 3 in tones else None
    suspended = third is None and 5 in tones
    seventh = 10 if 10 in tones else 11 if 11 in tones else None
    sixth = seventh is None and 9 in tones
    understood: set[int] = set()
    if third is None and not suspended and seventh == 11:
        third = 4
        understood.add(4)
    if third is not None:
        core[third] = "3" if third == 4 else "b3"
    if suspended:
        core[5] = "4"
    if seventh is not None:
        core[seventh] = "b7" if seventh == 10 else "7"
    elif sixth:
        core[9] = "6"
    fifths = tones & {6, 7, 8}
    if 7 in fifths:
        core[7] = "5"
    elif (fifths == {8} and third == 4) or (fifths == {6} and (third == 3 or (third is None and seventh == 10))):
        slot = fifths.pop()
        core[slot] = FIFTH_NAMES[slot]
    else:  # no fifth sounds: the natural one is understood
        core[7] = "5"
        understood.add(7)
    usual = {1: "b9", 2: "9", 3: "#9" if third == 4 else "b3", 4: "3", 5: "4" if suspended else "11", 6: "#11",
             8: "b13", 9: "6" if seventh is None else "13", 10: "b7", 11: "7"}  # fmt: skip
    extensions = {slot: usual[slot] for slot in sorted(tones) if slot not in core}
    dominant = seventh == 10 and third != 3
    return Heard(
        root=bass,
        core=core,
        extensions=extensions,
        understood=frozenset(understood),
        third=third,
        suspended=suspended,
        seventh=seventh,
        sixth=sixth,
        altered=dominant and 1 in tones,
        on_bass=True,
    )
