"""Licks: lines without a key, searches, nearness, drawings, places elsewhere, joins and quotes."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from itertools import count, permutations
from math import log2

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from by_hand import NAMES, matches
from strategies import documents, ground_on
from usagi.core.document.elements import Note, Phrase
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Ground, Solo, SoloSettings, Source
from usagi.core.formats.document_json import SoloDocument
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.licks.anywhere import (
    Anywhere,
    LickFeel,
    LickImpossible,
    Order,
    all_twelve,
    carry,
    options,
    respelled,
    twelve_in_a_row,
)
from usagi.core.licks.drawn import Drawn, short, with_gaps
from usagi.core.licks.entries import Kept, entries_of, notes_between, spans_of
from usagi.core.licks.joins import End, judge
from usagi.core.licks.kin import Place, shared
from usagi.core.licks.letters import line_letters, read_letters, stack_letters, step_letters
from usagi.core.licks.likeness import differences
from usagi.core.licks.line import KeyFree
from usagi.core.licks.nearness import distance, distances, marks, nearest, packed, tokens_of
from usagi.core.licks.quoting import QuoteImpossible, Wanted, better_orders, quote
from usagi.core.licks.searching import SearchUnreadable, find, motion_marks, print_search, read_search
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE
from usagi.core.phrases.elsewhere import FAMILIES, Elsewhere, Quality
from usagi.core.phrases.motifs import Change
from usagi.core.phrases.piece import Piece, cut
from usagi.core.phrases.transforming import Direction, FigureImpossible
from usagi.core.pitch.keys import parse_key
from usagi.core.pitch.names import parse_name

SETTINGS = SoloSettings()


def note(note_id: str, tick: int, string: int, fret: int, ticks: int = EIGHTH, **fields: object) -> Note:
    return Note.model_validate(
        {"id": note_id, "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


def line_of(*places: tuple[int, int], start: int = 0, ticks: int = EIGHTH) -> tuple[Note, ...]:
    return tuple(note(f"n{i}", start + i * ticks, string, fret, ticks) for i, (string, fret) in enumerate(places))


def piece_of(chart: str, *places: tuple[int, int], start: int = 0, settings: SoloSettings = SETTINGS) -> Piece:
    ground = ground_on(chart)
    notes = line_of(*places, start=start)
    return cut(Solo(settings=settings, notes=notes), ground, notes)


def pitches(piece: Piece) -> list[float | None]:
    return [written_pitch(one, piece.solo.settings) for one in sorted(piece.solo.notes, key=lambda one: one.tick)]


def degrees(piece: Piece) -> list[str]:
    (entry,) = entries_of(piece.solo.model_copy(update={"phrases": (_all(piece),)}), piece.ground)
    return [one.degrees[0][-1] for one in entry.drawn.notes]


def _all(piece: Piece) -> Phrase:
    return Phrase(id="all", start=piece.start, end=piece.end)


# -- lines, letters, searches ---------------------------------------------------------------------------------------------

slots = st.one_of(st.none(), st.integers(0, 11))
gaps = st.sampled_from([1, 2_520, 3_360, 5_040, 10_080, 15_120, 40_320])


@st.composite
def lines(draw: st.DrawFn, least: int = 0, most: int = 9, stacks: bool = True) -> KeyFree:
    size = draw(st.integers(least, most))
    several = (
        st.lists(slots, min_size=1, max_size=3, unique=True) if stacks else st.lists(slots, min_size=1, max_size=1)
    )
    return KeyFree(
        tuple(tuple(draw(several)) for _ in range(size)),
        tuple(draw(st.integers(40, 80)) for _ in range(size)),
        tuple(draw(gaps) for _ in range(size)),
    )


@given(lines())
def test_a_line_is_read_back_from_its_letters(line: KeyFree) -> None:
    back = read_letters(line_letters(line), stack_letters(line), step_letters(line))
    assert back.steps == line.steps and [set(a) for a in back.slots] == [set(b) for b in line.slots]


@given(lines(least=1), st.lists(st.sampled_from([*NAMES, "?", "."]), min_size=1, max_size=5))
def test_a_search_finds_what_a_hand_would_find(line: KeyFree, items: list[str]) -> None:
    text = " ".join(items)
    try:
        search = read_search(text)
    except SearchUnreadable:
        assume(False)
    plain = print_search(search).replace("·", ".").split()
    assume(bool(plain))
    found = find(search, line)
    assert (None if found is None else found.more) == matches(plain, [set(event) for event in line.slots])


@given(st.lists(st.sampled_from([*NAMES, "?", "·"]), max_size=6))
def test_a_search_is_printed_as_it_is_typed(items: list[str]) -> None:
    try:
        search = read_search(" ".join(items))
    except SearchUnreadable:
        assume(False)
    assert read_search(print_search(search)) == search


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("3 x", "“x” is no degree"), ("+3 b3", "“b3” is no step"), ("9/3 1/2", "“9/3” is no place"),
        ("1 . 2 . 3 . 4 . 5", "3 gaps at most"), ("1 " * 25, "24 notes at most"), ("+3 +200", "“+200” is no step"),
    ],
)  # fmt: skip
def test_what_is_no_search_says_why(text: str, sentence: str) -> None:
    with pytest.raises(SearchUnreadable) as refused:
        read_search(text)
    assert sentence in refused.value.sentence


@pytest.mark.parametrize(
    ("typed", "written", "found"),
    [
        ("I7 to IV7", "I7 to IV7 to I7", True), ("i7 → iv7", "I7 to IV7", True), ("IV7", "bIV7 to I7", False),
        ("ii7 - V7", "ii7 to V7(b9)", False), ("V7(b9)", "ii7 to V7(b9)", True), ("IIm7 to V7", "ii7 to V7 to I", True),
        ("7, up a fourth, 7", "7, up a fourth, 7", True),
    ],
)  # fmt: skip
def test_a_motion_is_found_in_either_case(typed: str, written: str, found: bool) -> None:
    assert (motion_marks(typed) in motion_marks(written)) is found


# -- nearness -------------------------------------------------------------------------------------------------------------


def by_hand(one: KeyFree, other: KeyFree) -> float:
    """The distance from the rule alone."""
    a, b = one.tokens, other.tokens

    @cache
    def least(i: int, j: int) -> float:
        if not i or not j:
            return float(i + j)
        (s, d, g), (t, e, h) = a[i - 1], b[j - 1]
        swapped = 0.5 * (s != t) + 0.25 * (d != e) + 0.25 * min(1.0, abs(log2(g) - log2(h)))
        return min(least(i - 1, j - 1) + swapped, least(i - 1, j) + 1, least(i, j - 1) + 1)

    cost = least(len(a), len(b))
    return 2 * cost / (len(a) + len(b) + cost) if a or b else 0.0


@given(lines(), lines())
def test_nearness_is_what_the_rule_says_and_the_same_both_ways(one: KeyFree, other: KeyFree) -> None:
    assert distance(one, other) == pytest.approx(by_hand(one, other), abs=2e-3)
    assert distance(one, other) == pytest.approx(distance(other, one), abs=1e-4)


@given(lines(), lines(), lines())
def test_nearness_is_a_metric_on_tokens(one: KeyFree, other: KeyFree, third: KeyFree) -> None:
    assert distance(one, one) == 0
    assert (distance(one, other) < 1e-4) == (one.tokens == other.tokens)
    assert distance(one, third) <= distance(one, other) + distance(other, third) + 1e-3


@given(st.lists(lines(least=1), min_size=1, max_size=8), lines(least=1))
def test_the_nearest_are_those_that_brute_force_finds(many: list[KeyFree], one: KeyFree) -> None:
    found = nearest(one, b"".join(map(marks, many)), b"".join(map(packed, many)), 3)
    every = sorted(distance(one, other) for other in many)[:3]
    assert [far for _, far in found] == pytest.approx(every, abs=1e-4)
    assert distances(one, tokens_of(many))[found[0][0]] == pytest.approx(found[0][1])


@given(st.integers(0, 2**32), lines(least=4, most=12, stacks=False))
def test_few_are_missed_where_only_those_with_like_marks_are_compared(seed: int, one: KeyFree) -> None:
    """Whatever the sieve lets through, a copy of the line itself is always among it."""
    rng = np.random.default_rng(seed)
    many = [
        KeyFree(
            tuple((int(x),) for x in rng.integers(12, size=8)), tuple(map(int, rng.integers(40, 80, 8))), (5_040,) * 8
        )
        for _ in range(20)
    ]
    many.insert(7, one)
    assert nearest(one, b"".join(map(marks, many)), b"".join(map(packed, many)), 1)[0] == (7, 0.0)


def test_what_differs_is_said() -> None:
    falls = KeyFree(((4,), (3,), (0,)), (64, 63, 60), (EIGHTH,) * 3)
    for other, words in (
        (KeyFree(((4,), (2,), (0,)), (64, 62, 60), (EIGHTH,) * 3), "the 2 for the b3"),
        (KeyFree(((4,), (3,)), (64, 63), (EIGHTH,) * 2), "one note fewer, the 1"),
        (KeyFree(((4,), (3,), (0,)), (64, 63, 72), (EIGHTH,) * 3), "the same degrees, in another octave"),
        (KeyFree(((4,), (3,), (0,)), (64, 63, 60), (QUARTER, EIGHTH, EIGHTH)), "the same degrees, one other length"),
        (KeyFree(((9,), (7,), (5,)), (64, 63, 60), (EIGHTH,) * 3), "three other degrees"),
    ):
        assert differences(falls, other) == words


def test_a_run_that_two_phrases_share_is_named_as_a_motif_is() -> None:
    climb = KeyFree(((0,), (3,), (5,), (7,)), (60, 63, 65, 67), (EIGHTH,) * 4)
    moved = KeyFree(((0,), (4,), (5,), (7,)), (65, 69, 70, 72), (EIGHTH,) * 4)
    for other, pitch, change in (
        (climb, 60, Change.REPEATED), (climb, 65, Change.MOVED),
        (KeyFree(((7,), (10,), (0,), (2,)), climb.pitches, climb.gaps), 55, Change.TRANSPOSED),
        (KeyFree(climb.slots, climb.pitches, (QUARTER,) * 4), 60, Change.STRETCHED),
    ):  # fmt: skip
        found = shared(Place(climb, 60, 2), Place(other, pitch, 2))
        assert found is not None and found.change is change and found.length == 4
    assert shared(Place(climb, 60, 2), Place(moved, 65, 2)) is None  # its second degree is another, its steps are too
    assert shared(Place(KeyFree(((0,),) * 5, (60,) * 5, (1,) * 5), 60, 2), Place(climb, 60, 2)) is None


# -- entries and drawings -------------------------------------------------------------------------------------------------


@given(documents())
def test_a_drawing_is_read_back_as_it_was(document: SoloDocument) -> None:
    for entry in entries_of(document.solo, document.ground):
        assert Drawn.model_validate(short(entry.drawn)) == entry.drawn
        letters = line_letters(entry.line), stack_letters(entry.line), step_letters(entry.line)
        assert with_gaps(read_letters(*letters), entry.drawn).gaps == entry.line.gaps


@given(documents())
def test_every_note_stands_in_one_span_and_a_lick_takes_the_place_of_its_phrase(document: SoloDocument) -> None:
    solo = document.solo
    spans = spans_of(solo, document.ground)
    assert sorted(one.id for span in spans for one in span.notes) == sorted(one.id for one in solo.notes)
    if spans:
        first, last = spans[0].notes[0].id, spans[0].notes[-1].id
        with_lick = spans_of(solo, document.ground, [Kept("l", first, last)])
        assert len(with_lick) == len(spans) and with_lick[0].lick == "l"
        assert notes_between(solo, first, "gone") == ()


# -- to anywhere ----------------------------------------------------------------------------------------------------------

BLUES = "| {key C major} {blues} C7 | F7 | C7 | G7 |"
places = st.lists(st.tuples(st.integers(1, 4), st.integers(3, 12)), min_size=3, max_size=8)
keys = st.sampled_from(["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"])


@given(places, keys)
def test_a_key_moves_all_pitches_alike_keeps_the_degrees_and_leads_back(line: list[tuple[int, int]], key: str) -> None:
    piece = piece_of(BLUES, *line)
    there = carry(piece, Anywhere(Elsewhere(key=parse_key(key))))
    by = {b - a for a, b in zip(pitches(piece), pitches(there.piece), strict=True) if a is not None and b is not None}
    (step,) = by
    assert abs(step) <= 6 and degrees(there.piece) == degrees(piece)
    way = Direction.DOWN if step > 0 else Direction.UP if step < 0 else Direction.NEAREST
    back = carry(there.piece, Anywhere(Elsewhere(key=parse_key("C"), direction=way)))
    assert pitches(back.piece) == pitches(piece) and degrees(back.piece) == degrees(piece)


@given(places, st.integers(0, 14))
def test_a_position_keeps_the_pitches_and_holds_every_note_or_says_what_does(
    line: list[tuple[int, int]], position: int
) -> None:
    piece = piece_of(BLUES, *line)
    try:
        there = carry(piece, Anywhere(Elsewhere(position=position))).piece
    except LickImpossible as refused:
        if refused.instead is not None:
            assert pitches(carry(piece, Anywhere(refused.instead)).piece) == pitches(piece)
        assert position not in options(piece).positions
        return
    assert pitches(there) == pitches(piece) and position in options(piece).positions
    for one in there.solo.notes:
        fret = (one.fret or 0) // 100
        assert max(1, position) <= fret <= max(1, position) + 4 or (fret == 0 and position <= 1)


@given(places, st.integers(1, 6), st.integers(1, 6))
def test_a_string_set_and_a_tuning_keep_the_pitches(line: list[tuple[int, int]], a: int, b: int) -> None:
    piece = piece_of(BLUES, *line)
    for there in (
        Elsewhere(strings=(min(a, b), max(a, b))), Elsewhere(tuning=parse_tuning("drop D").midi),
        Elsewhere(tuning=parse_tuning("all fourths").midi),
    ):  # fmt: skip
        try:
            found = carry(piece, Anywhere(there)).piece
        except FigureImpossible:
            continue
        assert pitches(found) == pitches(piece)
        if there.strings is not None:
            assert all(there.strings[0] <= one.string <= there.strings[1] for one in found.solo.notes)


@given(places)
def test_each_family_keeps_the_pitch_classes_and_lies_where_its_shape_lies(line: list[tuple[int, int]]) -> None:
    piece = piece_of(BLUES, *line)
    for family in FAMILIES:
        try:
            found = carry(piece, Anywhere(Elsewhere(family=family))).piece
        except FigureImpossible:
            continue
        by = {b - a for a, b in zip(pitches(piece), pitches(found), strict=True) if a is not None and b is not None}
        assert len(by) == 1 and by <= {-12, 0, 12}


def test_the_five_families_lie_one_above_the_other() -> None:
    piece = piece_of(BLUES, (3, 5), (2, 5), (1, 3))  # C E G
    lowest = {
        family: min((one.fret or 0) // 100 for one in carry(piece, Anywhere(Elsewhere(family=family))).piece.solo.notes)
        for family in FAMILIES
    }
    assert lowest == {"C": 0, "A": 3, "G": 5, "E": 8, "D": 10}


def test_another_quality_moves_third_fifth_and_seventh_alone() -> None:
    piece = piece_of("| {key C major} C7 |", (3, 5), (2, 5), (1, 3), (1, 6), (2, 3), (2, 10))  # 1 3 5 b7 9 13
    minor = carry(piece, Anywhere(Elsewhere(quality=Quality.MINOR)))
    assert degrees(minor.piece) == ["1", "b3", "5", "b7", "9", "13"]
    assert minor.says[0] == "Over minor chords the 3 becomes the b3."
    major = carry(piece, Anywhere(Elsewhere(quality=Quality.MAJOR)))
    assert degrees(major.piece) == ["1", "3", "5", "7", "9", "13"]


def test_a_bend_keeps_its_degree_over_another_quality() -> None:
    ground = ground_on("| {key C major} C7 |")
    notes = (note("a", 0, 2, 3, QUARTER, course=((0, 0), (EIGHTH, 4))), note("b", QUARTER, 2, 5))  # D bent to the 3; E
    minor = carry(cut(Solo(notes=notes), ground, notes), Anywhere(Elsewhere(quality=Quality.MINOR))).piece
    assert [one.course for one in minor.solo.notes] == [((0, 0), (EIGHTH, 2)), ()]


@given(st.lists(st.sampled_from([0, EIGHTH]), min_size=2, max_size=8))
def test_triplets_and_back_is_the_same_and_swing_moves_nothing(offsets: list[int]) -> None:
    notes = tuple(note(f"n{i}", i * QUARTER + offset, 2, 5 + i) for i, offset in enumerate(offsets))
    piece = cut(Solo(notes=notes), ground_on(BLUES), notes)
    triplets = carry(piece, Anywhere(feel=LickFeel.TRIPLETS)).piece
    assert [one.tick - i * QUARTER for i, one in enumerate(triplets.solo.notes)] == [
        0 if not offset else 2 * QUARTER // 3 for offset in offsets
    ]
    back = carry(triplets, Anywhere(feel=LickFeel.STRAIGHT)).piece
    swing = carry(piece, Anywhere(feel=LickFeel.SWING)).piece
    assert [one.tick for one in back.solo.notes] == [one.tick for one in swing.solo.notes] == [n.tick for n in notes]
    assert swing.ground.timeline.facts_at(0).feel.ratio == 1.8


def test_all_twelve_keys_are_played_in_a_row() -> None:
    piece = piece_of(BLUES, (3, 5), (2, 5), (1, 3), start=EIGHTH)
    found, faults = all_twelve(piece, Anywhere(), Order.FOURTHS)
    tonics = [str(one.piece.ground.timeline.facts_at(0).key) for one in found]
    assert tonics[:4] == ["C major", "F major", "Bb major", "Eb major"] and len(found) == 12 and not faults
    row = twelve_in_a_row(found)
    assert row.ground.timeline.bars.bars[-1].number == 12 and len(row.solo.notes) == 36
    check_solo(row.solo, row.ground, row.solo.notes)


def test_what_cannot_be_carried_is_named() -> None:
    ground = ground_on(BLUES)
    notes = (note("h", 0, 3, 12, attack={"kind": "harmonic"}), note("a", EIGHTH, 2, 5))
    with pytest.raises(LickImpossible, match="is a natural harmonic: it lies where it lies"):
        carry(cut(Solo(notes=notes), ground, notes), Anywhere(Elsewhere(key=parse_key("D"))))
    open_g = SoloSettings(tuning=parse_tuning("open G").midi)
    with pytest.raises(LickImpossible, match="five families of grips are those of standard tuning"):
        carry(piece_of(BLUES, (2, 5), (1, 3), (1, 5), settings=open_g), Anywhere(Elsewhere(family="A")))
    with pytest.raises(FigureImpossible, match="key here is not known"):
        all_twelve(piece_of("| C7 |", (2, 5), (1, 3), (1, 5)), Anywhere(), Order.HALF_STEPS)


@pytest.mark.parametrize(
    ("symbol", "old", "new", "there"),
    [
        ("Gm7/C", "C", "Eb", "Bbm7/Eb"),
        ("N.C.", "C", "D", "N.C."),
        ("B7(b9)", "E", "Ab", "Eb7(b9)"),
        ("F#dim7", "G", "C", "Bdim7"),
    ],
)
def test_chords_are_spelled_from_the_new_tonic(symbol: str, old: str, new: str, there: str) -> None:
    assert respelled(symbol, parse_name(old), parse_name(new)) == there


# -- joins and quotes -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("last", "first", "cost", "words"),
    [
        ((65, "C7"), (64, "C7"), 0.0, "a step into the 3"),  # 4 to 3
        ((70, "C7"), (69, "F7"), 0.0, "the b7 leads into the 3 of the next chord"),
        ((60, "C7"), (64, "C7"), 0.3 * 0.25 + 0.3 * 0.25, "from the 1 to the 3"),
        ((60, "C7"), (73, "C7"), 0.3 + 0.3, "it does not start on a chord tone"),
        ((66, "C7"), (72, "C7"), 0.3 * (0.25 + 0.25 * 2 / 3) + 0.3, "it comes from no chord tone"),
    ],
)
def test_a_join_costs_what_the_rule_says(
    last: tuple[int, str], first: tuple[int, str], cost: float, words: str
) -> None:
    ends = [End(midi, hear(parse_chord(symbol))) for midi, symbol in (last, first)]
    join = judge(ends[0], ends[1], 0.0, moved=False)
    assert join.cost == pytest.approx(cost, abs=1e-3) and words in join.says
    assert judge(ends[0], ends[1], 1.0, moved=True).cost == pytest.approx(cost + 0.2 + 0.2, abs=1e-3)


def wanted(*lines: tuple[tuple[int, int], ...], bars: tuple[int | None, ...] = ()) -> list[Wanted]:
    return [
        Wanted(piece_of(BLUES, *line), Source(lick=f"l{i}", name=f"lick {i}"), bars[i] if i < len(bars) else None)
        for i, line in enumerate(lines)
    ]


CLIMB, FALL, LEAP = ((3, 5), (2, 5), (1, 3)), ((1, 3), (2, 5), (3, 5)), ((1, 12), (2, 13), (4, 2))
FORM = ground_on("| {key C major} {blues} C7 | F7 | C7 | C7 |\n2 choruses")


def ids() -> Callable[[], str]:
    numbers = count()
    return lambda: f"q{next(numbers)}"


def test_a_quote_sets_licks_in_the_forms_key_each_at_its_place_in_the_bar() -> None:
    ground = ground_on("| {key F major} F7 | Bb7 | F7 | F7 |", bars=4)
    made = quote(wanted(CLIMB, FALL), ground, ids(), "two")
    assert [one.bar for one in made.sets] == [1, 2] and [one.start for one in made.sets] == [0, WHOLE]
    assert written_pitch(made.solo.notes[0], made.solo.settings) == 65  # C4 went up a fourth
    assert [source.lick for source in made.solo.settings.sources] == ["l0", "l1"]
    assert [phrase.name for phrase in made.solo.phrases] == ["lick 0", "lick 1"]
    check_solo(made.solo, ground, made.solo.notes)
    sounding = sum(one.ticks for one in made.solo.notes) + sum(one.ticks for one in made.solo.rests)
    assert sounding == ground.timeline.bars.end_tick  # every tick is a note or a rest


def test_what_would_overlap_moves_by_whole_pulses_and_bars_left_out_are_rests() -> None:
    made = quote(wanted(CLIMB, FALL, LEAP, bars=(1, 1, 6)), FORM, ids())
    assert [(one.start, one.moved) for one in made.sets] == [(0, False), (2 * QUARTER, True), (5 * WHOLE, False)]
    assert made.joins[0] is not None and made.joins[0].beat == 1 and made.joins[1] is None
    with pytest.raises(QuoteImpossible, match="would end after the last bar, 8"):
        quote(wanted(CLIMB, FALL, bars=(1, 9)), FORM, ids())


def test_the_orders_that_are_offered_are_the_best_of_all() -> None:
    licks = wanted(LEAP, CLIMB, FALL)
    worst = max(permutations(range(3)), key=lambda order: quote([licks[i] for i in order], FORM, ids()).cost)
    row = [licks[i] for i in worst]
    made = quote(row, FORM, ids())
    every = {order: quote([row[i] for i in order], FORM, ids()).cost for order in permutations(range(3))}
    offered = better_orders(row, FORM)
    assert offered and all(every[one.places] == one.cost < made.cost for one in offered)
    assert offered[0].cost == min(every.values())


def _ground_without_chart() -> Ground:
    return ground_on("| N.C. |")


def test_a_lick_without_a_chord_can_still_be_found_by_its_steps() -> None:
    notes = line_of((2, 5), (2, 8), (1, 5))
    (entry,) = entries_of(Solo(notes=notes), _ground_without_chart())
    assert line_letters(entry.line) == "mmm" and find(read_search("+3 +2"), entry.line) is not None
