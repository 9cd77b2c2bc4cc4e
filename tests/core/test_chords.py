"""Chord symbols: what is written, what it names, what it is heard on."""

from __future__ import annotations

import pytest
from hypothesis import given

from strategies import chord_symbols, ground_on
from usagi.core.formats.read_output import chord_json
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import ChordUnreadable, parse_chord

# Written symbol, the symbol as it is shown, semitones above the root.
SYMBOLS = [
    ("C", "C", [0, 4, 7]),
    ("CM", "C", [0, 4, 7]),
    ("Cm", "Cm", [0, 3, 7]),
    ("C-", "Cm", [0, 3, 7]),
    ("Cmin", "Cm", [0, 3, 7]),
    ("Cmi7", "Cm7", [0, 3, 7, 10]),
    ("C-7", "Cm7", [0, 3, 7, 10]),
    ("CΔ", "Cmaj7", [0, 4, 7, 11]),
    ("C^", "Cmaj7", [0, 4, 7, 11]),
    ("Cma7", "Cmaj7", [0, 4, 7, 11]),
    ("CM7", "Cmaj7", [0, 4, 7, 11]),
    ("CMaj7", "Cmaj7", [0, 4, 7, 11]),
    ("CmMaj7", "CmMaj7", [0, 3, 7, 11]),
    ("Cm(maj7)", "CmMaj7", [0, 3, 7, 11]),
    ("C-Δ7", "CmMaj7", [0, 3, 7, 11]),
    ("Cm+7", "CmMaj7", [0, 3, 7, 11]),
    ("Cm#7", "CmMaj7", [0, 3, 7, 11]),
    ("Cdom7", "C7", [0, 4, 7, 10]),
    ("Cm7b5", "Cm7b5", [0, 3, 6, 10]),
    ("Cø", "Cm7b5", [0, 3, 6, 10]),
    ("Cdim", "Cdim", [0, 3, 6]),
    ("C°7", "Cdim7", [0, 3, 6, 9]),
    ("Co7", "Cdim7", [0, 3, 6, 9]),
    ("Caug", "C+", [0, 4, 8]),
    ("C+", "C+", [0, 4, 8]),
    ("C+7", "C7(#5)", [0, 4, 8, 10]),
    ("C7+", "C7(#5)", [0, 4, 8, 10]),
    ("Csus", "Csus4", [0, 5, 7]),
    ("Csus2", "Csus2", [0, 2, 7]),
    ("C9sus4", "C9sus4", [0, 2, 5, 7, 10]),
    ("Cadd2", "C(add9)", [0, 2, 4, 7]),
    ("Cadd4", "C(add11)", [0, 4, 5, 7]),
    ("C69", "C6/9", [0, 2, 4, 7, 9]),
    ("C6/9", "C6/9", [0, 2, 4, 7, 9]),
    ("C7-9", "C7(b9)", [0, 1, 4, 7, 10]),
    ("C7+11", "C7(#11)", [0, 4, 6, 7, 10]),
    ("Cm7-5", "Cm7b5", [0, 3, 6, 10]),
    ("Cm-5", "Cdim", [0, 3, 6]),
    ("C7(9)", "C7(9)", [0, 2, 4, 7, 10]),
    ("Calt", "C7alt", [0, 1, 3, 4, 6, 8, 10]),
    ("C13", "C13", [0, 2, 4, 7, 9, 10]),
    ("Cm13", "Cm13", [0, 2, 3, 5, 7, 9, 10]),
    ("C11", "C11", [0, 2, 4, 5, 7, 10]),
    ("C13(b9)", "C13(b9)", [0, 1, 4, 7, 9, 10]),
    ("C7(b9)(#11)", "C7(b9,#11)", [0, 1, 4, 6, 7, 10]),
    ("C7b5", "C7(b5)", [0, 4, 6, 10]),
    ("Csus4(add3)", "Csus4(add3)", [0, 4, 5, 7]),
    ("C(b6)", "C(b6)", [0, 4, 7, 8]),
    ("A5", "A5", [0, 7]),
    ("Ab5", "Ab5", [0, 7]),
    ("A(b5)", "A(b5)", [0, 4, 6]),
    ("F♯m7", "F#m7", [0, 3, 7, 10]),
    ("N.C.", "N.C.", []),
]


@pytest.mark.parametrize(("written", "shown", "semitones"), SYMBOLS)
def test_a_symbol_is_read_and_shown(written: str, shown: str, semitones: list[int]) -> None:
    chord = parse_chord(written)
    assert (chord.shown, chord.semitones) == (shown, semitones)


# Refused, with the column of the fault and a word of what is offered instead.
REFUSED = [
    ("C(9)", 3, "C9 or C\\(add9\\)"),
    ("Cm(9)", 4, "Cm9 or Cm\\(add9\\)"),
    ("C2", 2, "C\\(add9\\) or Csus2"),
    ("C4", 2, "C\\(add11\\) or Csus4"),
    ("C-5", 2, "C\\(b5\\) or Cm\\(b5\\)"),
    ("Hm7", 1, "Bm7 or Bbm7"),
    ("c7", 1, "from A to G"),
    ("Cx", 2, "not understood"),
    ("C7(b9", 3, "not closed"),
    ("C7)", 3, "closes nothing"),
    ("C/H", 3, "B or Bb"),
    ("C7b6", 3, "b13"),
    ("Cadd3", 2, "suspended chord"),
    ("Cmsus4", 3, "major third"),
    ("", 1, "N.C."),
]


@pytest.mark.parametrize(("written", "column", "words"), REFUSED)
def test_a_symbol_with_two_meanings_or_none_is_refused_with_its_place(written: str, column: int, words: str) -> None:
    with pytest.raises(ChordUnreadable, match=words) as refusal:
        parse_chord(written)
    assert refusal.value.where["column"] == column
    assert chord_json(written)["at"] == column


# Slash chords: what each is heard on, from docs/music.md.
HEARD = [
    ("Eb/F", "F", {0: "1", 2: "9", 5: "4", 7: "5", 10: "b7"}),
    ("Gm7/C", "C", {0: "1", 2: "9", 5: "4", 7: "5", 10: "b7"}),
    ("C/A", "A", {0: "1", 3: "b3", 7: "5", 10: "b7"}),
    ("C6/A", "A", {0: "1", 3: "b3", 7: "5", 10: "b7"}),
    ("C/F", "F", {0: "1", 2: "9", 4: "3", 7: "5", 11: "7"}),
    ("E°7/C", "C", {0: "1", 1: "b9", 4: "3", 7: "5", 10: "b7"}),
    ("C/F#", "F#", {0: "1", 1: "b9", 6: "b5", 10: "b7"}),
    ("Em/F", "F", {0: "1", 2: "9", 4: "3", 6: "#11", 7: "5", 11: "7"}),
    ("F/G", "G", {0: "1", 2: "9", 5: "4", 7: "5", 10: "b7"}),
    ("D/C", "D", {0: "1", 4: "3", 7: "5", 10: "b7"}),
    ("A5/C#", "A", {0: "1", 4: "3", 7: "5"}),
    ("C/E", "C", {0: "1", 4: "3", 7: "5"}),
    ("C/B", "C", {0: "1", 4: "3", 7: "5", 11: "7"}),
]


@pytest.mark.parametrize(("symbol", "root", "names"), HEARD)
def test_a_slash_chord_is_heard_on_its_root_or_its_bass(symbol: str, root: str, names: dict[int, str]) -> None:
    heard = hear(parse_chord(symbol))
    assert heard is not None
    assert (str(heard.root), heard.names) == (root, names)


def test_an_altered_dominant_on_its_bass_is_altered_and_a_mark_counts_from_the_root() -> None:
    heard, marked = hear(parse_chord("C/F#")), hear(parse_chord("C/F#"), from_root=True)
    assert heard is not None and marked is not None
    assert heard.altered and heard.dominant
    assert str(marked.root) == "C" and not marked.altered


@given(chord_symbols)
def test_a_shown_symbol_reads_as_the_same_chord(symbol: str) -> None:
    chord = parse_chord(symbol)
    again = parse_chord(chord.shown)
    assert again.shown == chord.shown
    assert (again.core_names, again.extension_names, again.bass) == (
        chord.core_names,
        chord.extension_names,
        chord.bass,
    )


@given(chord_symbols)
def test_what_is_heard_sounds_every_tone_that_is_written_and_the_bass(symbol: str) -> None:
    chord, heard = parse_chord(symbol), hear(parse_chord(symbol))
    assert chord.root is not None and heard is not None
    written = {(chord.root.pitch_class + slot) % 12 for slot in chord.semitones}
    if chord.bass is not None:
        written.add(chord.bass.pitch_class)
    assert {(heard.root.pitch_class + slot) % 12 for slot in heard.semitones} == written


def test_no_chord_has_nulls() -> None:
    assert chord_json("N.C.") == {
        "symbol": "N.C.", "shown": "N.C.", "root": None, "bass": None, "semitones": [],
        "heard_on": {"root": None, "semitones": []},
    }  # fmt: skip


@pytest.mark.parametrize(("slash", "plain"), [("Eb/F", "F9sus4"), ("F/G", "G9sus4"), ("Gm7/C", "C9sus4")])
def test_a_fifth_that_nobody_plays_is_understood_so_the_harmony_does_not_change(slash: str, plain: str) -> None:
    one, other = hear(parse_chord(slash)), hear(parse_chord(plain))
    assert one is not None and other is not None
    assert one.core_pitch_classes == other.core_pitch_classes
    assert (7 in one.semitones) == (slash == "Gm7/C")  # what is understood does not sound
    changes = ground_on(f"| {slash} | {plain} |").timeline.changes
    assert len(changes) == 2 and changes[0].same_harmony(changes[1])
