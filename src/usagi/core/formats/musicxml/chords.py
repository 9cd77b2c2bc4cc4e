"""Chord symbols as MusicXML's harmony elements, and read from them.

A kind and degrees that are added, altered or left out; an added seventh is the minor one unless it is raised (the
`degree-alter` of MusicXML 4.0 counts from a dominant chord).
"""

from __future__ import annotations

from typing import Final

from lxml import etree

from usagi.core.formats.chord_kinds import nearest_kind, number_of, words_for
from usagi.core.harmony.chord import EXTENSION_SLOTS, Chord
from usagi.core.harmony.symbols import is_chord, parse_chord
from usagi.core.pitch.names import LETTERS, Name

# Every kind of MusicXML 4.0 that a symbol can say, with the symbol's words after the root.
KINDS: Final = {
    "major": "", "minor": "m", "augmented": "+", "diminished": "dim", "dominant": "7", "major-seventh": "maj7",
    "minor-seventh": "m7", "diminished-seventh": "dim7", "augmented-seventh": "7(#5)", "half-diminished": "m7b5",
    "major-minor": "mMaj7", "major-sixth": "6", "minor-sixth": "m6", "dominant-ninth": "9", "major-ninth": "maj9",
    "minor-ninth": "m9", "dominant-11th": "11", "major-11th": "maj11", "minor-11th": "m11", "dominant-13th": "13",
    "major-13th": "maj13", "minor-13th": "m13", "suspended-second": "sus2", "suspended-fourth": "sus4", "power": "5",
}  # fmt: skip
# Of functional kinds, what they sound.
SOUNDING: Final = {"Neapolitan": "", "Italian": "7", "French": "7(b5)", "German": "7"}
# Semitones of a degree above the root, its seventh being the minor one.
DEGREE_SLOTS: Final = {1: 0, 2: 2, 3: 4, 4: 5, 5: 7, 6: 9, 7: 10, 8: 12, 9: 14, 10: 16, 11: 17, 12: 19, 13: 21}
SIGNS: Final = {-2: "bb", -1: "b", 0: "", 1: "#", 2: "##"}


def harmony_of(chord: Chord) -> etree._Element:
    """The harmony element of a chord."""
    harmony = etree.Element("harmony")
    if chord.root is None:
        root = etree.SubElement(harmony, "root")
        step = etree.SubElement(root, "root-step", text="")
        step.text = "C"
        kind = etree.SubElement(harmony, "kind", text="N.C.")
        kind.text = "none"
        return harmony
    root = etree.SubElement(harmony, "root")
    _named(root, "root", chord.root)
    kind_name, edits = _kind(chord)
    kind = etree.SubElement(harmony, "kind", text=_words(chord))
    kind.text = kind_name
    if chord.bass is not None:
        _named(etree.SubElement(harmony, "bass"), "bass", chord.bass)
    for value, alter, how in edits:
        degree = etree.SubElement(harmony, "degree", **{"print-object": "no"})
        for name, text in (("value", str(value)), ("alter", str(alter)), ("type", how)):
            etree.SubElement(degree, f"degree-{name}").text = text
    return harmony


def _named(parent: etree._Element, prefix: str, name: Name) -> None:
    etree.SubElement(parent, f"{prefix}-step").text = LETTERS[name.letter]
    if name.alter:
        etree.SubElement(parent, f"{prefix}-alter").text = str(name.alter)


def _words(chord: Chord) -> str:
    """The symbol without its root and its bass."""
    words = chord.shown.removeprefix(str(chord.root))
    return words if chord.bass is None else words.removesuffix(f"/{chord.bass}")


def _kind(chord: Chord) -> tuple[str, list[tuple[int, int, str]]]:
    """The kind that leaves the fewest degrees to name, and these: value, alteration, how."""
    nearest = nearest_kind(chord, KINDS)
    gone = [_number(label) for label in nearest.gone]
    edits = []
    for label in nearest.added:
        number, alter = _number(label)
        same = next((one for one in gone if one[0] == number), None)
        if same is not None:
            gone.remove(same)
        edits.append((number, alter, "add" if same is None else "alter"))
    return nearest.kind, edits + [(*one, "subtract") for one in gone]


def _number(label: str) -> tuple[int, int]:
    """A degree's number and its alteration, the seventh counted from the minor one."""
    number, alter = number_of(label)
    return number, alter + 1 if number == 7 else alter


def chord_of(harmony: etree._Element, *, steps: int = 0, semitones: int = 0) -> tuple[str | None, bool]:
    """The symbol of a harmony element, and whether it says all of it; None for one that names no chord.

    `steps` and `semitones` lead from what is written to what sounds.
    """
    kind_at = harmony.find("kind")
    kind = (kind_at.text or "").strip() if kind_at is not None else ""
    if kind == "none":
        return "N.C.", True
    root = _name(harmony.find("root"), "root", steps, semitones)
    if root is None or kind_at is None:
        return None, False
    bass = _name(harmony.find("bass"), "bass", steps, semitones)
    after = f"/{bass}" if bass is not None and bass != root else ""
    said = " ".join((kind_at.get("text") or "").split())
    base = KINDS.get(kind, SOUNDING.get(kind))
    if base is None:
        found = _readable(f"{root}{said}{after}")
        return (found, True) if found is not None else (_readable(f"{root}{after}"), False)
    wanted, words = _edited(base, harmony)
    for text in (said, words, words_for(wanted)):
        found = None if text is None else _readable(f"{root}{text}")
        if found is not None and frozenset(parse_chord(found).semitones) == wanted:
            return f"{found}{after}", True
    found = _readable(f"{root}{words}{after}")
    return found or _readable(f"{root}{base}{after}") or _readable(f"{root}{base}"), False


def _edited(base: str, harmony: etree._Element) -> tuple[frozenset[int], str]:
    """The semitones that kind and degrees mean, and the words that say so."""
    chord = parse_chord(f"C{base}")
    slots = set(chord.semitones)
    seventh = chord.seventh is not None
    words = []
    for degree in harmony.findall("degree"):
        number, alter = _whole(degree.findtext("degree-value"), 0), _whole(degree.findtext("degree-alter"), 0)
        how = (degree.findtext("degree-type") or "").strip()
        if number not in DEGREE_SLOTS or abs(alter) > 2:
            continue
        slot = (DEGREE_SLOTS[number] + alter) % 12
        if how == "subtract":
            slots.discard(slot)
            continue
        if how == "alter":
            slots.discard(DEGREE_SLOTS[number] % 12)
        slots.add(slot)
        if number == 7:
            words.append("maj7" if alter == 1 else "7")
        elif number in (5, 9, 11, 13) and alter:
            words.append(f"{SIGNS[alter]}{number}")
        else:
            tension = (number, alter) in EXTENSION_SLOTS and seventh
            words.append(f"{'' if tension else 'add'}{SIGNS[alter]}{number}")
    return frozenset(slots), base + (f"({','.join(words)})" if words else "")


def _whole(text: str | None, otherwise: int) -> int:
    try:
        return round(float(text or otherwise))
    except (ValueError, OverflowError):
        return otherwise


def _name(parent: etree._Element | None, prefix: str, steps: int, semitones: int) -> Name | None:
    if parent is None:
        return None
    step = (parent.findtext(f"{prefix}-step") or "").strip().upper()
    alter = _whole(parent.findtext(f"{prefix}-alter"), 0)
    if step not in LETTERS or len(step) != 1 or abs(alter) > 2:
        return None
    name = Name(LETTERS.index(step), alter)
    return name.above(steps % 7, semitones % 12) if steps or semitones else name


def _readable(symbol: str) -> str | None:
    return symbol if is_chord(symbol) else None
