"""Which letter a pitch takes: by the chord it is heard on, by the key, by its degree (docs/music.md, Names)."""

from __future__ import annotations

from usagi.core.degrees.degree import degree
from usagi.core.harmony.heard import Heard
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import NATURALS, Name, sharp_name, single_name


def name_pitch(pitch_class: int, heard: Heard | None, key: Key | None, *, blues: bool = False) -> Name:
    """The name of a pitch class over a chord and in a key, either of which may be missing.

    Always by the default degree style, whatever the reader holds.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> str(name_pitch(7, hear(parse_chord("E7#9")), None)), str(name_pitch(8, hear(parse_chord("E7")), None))
    ('G', 'G#')
    """
    own = key.diatonic_name(pitch_class) if key is not None else None
    if heard is None:
        return key.name(pitch_class) if key is not None else sharp_name(pitch_class)
    slot = (pitch_class - heard.root.pitch_class) % 12
    label = degree(heard, slot, blues=blues)
    if slot in heard.by_alt:
        if own is not None:
            return own
        label = {1: "b9", 3: "#9", 6: "b5", 8: "b13"}[slot]
    elif slot not in heard.names and own is not None:
        return own
    spelled = spell_degree(heard.root, label, slot)
    if abs(spelled.alter) < 2 or slot in heard.core:
        return spelled
    return own if own is not None else single_name(pitch_class, upwards=spelled.alter > 0)


def name_beside(goal: Name, pitch_class: int, *, below: bool) -> Name | None:
    """The name of a chromatic approach: the letter beneath its goal or the one above it; None for a double accidental.

    >>> str(name_beside(Name(2), 3, below=True)), str(name_beside(Name(4), 8, below=False))
    ('D#', 'Ab')
    """
    letter = (goal.letter + (-1 if below else 1)) % 7
    alter = (pitch_class - NATURALS[letter] + 6) % 12 - 6
    return Name(letter, alter) if abs(alter) < 2 else None


def spell_degree(root: Name, label: str, slot: int) -> Name:
    """The letter that a degree name means above a root.

    >>> str(spell_degree(Name(2), "#5", 8))
    'B#'
    """
    number = int(label.lstrip("b#"))
    return root.above((number - 1) % 7, slot)


def chord_tones(heard: Heard) -> list[Name]:
    """The tones of a chord from its heard root upwards, spelled: what stands under the symbol."""
    order = sorted(heard.names, key=lambda slot: (int(heard.names[slot].lstrip("b#")), slot))
    sounding = [slot for slot in order if slot not in heard.understood]
    return [name_pitch((heard.root.pitch_class + slot) % 12, heard, None) for slot in sounding]
