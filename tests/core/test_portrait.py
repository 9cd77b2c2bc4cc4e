"""Players: what is counted over their solos, what differs between two, and the cells they come back to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings

from strategies import documents, ground_on
from usagi.core.document.elements import Note, Phrase
from usagi.core.document.solo import Credit, Solo, SoloSettings, Source
from usagi.core.document.techniques import Vibrato
from usagi.core.formats.document_json import SoloDocument
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE
from usagi.core.phrases.melody import Treatment, treated
from usagi.core.portrait.cells import favourite_cells
from usagi.core.portrait.comparing import compared
from usagi.core.portrait.portrait import PER_NOTE, Portrait, portrait, summed
from usagi.core.portrait.tallies import PhraseTally, Tally, tally
from usagi.core.portrait.words import habits

PLAYER = SoloSettings(player="Ada Moor")
C7 = "| {key C major} C7 |\n30 choruses"


def note(i: int, tick: int, string: int, fret: int, ticks: int = EIGHTH, **fields: Any) -> Note:
    return Note.model_validate(
        {"id": f"n{i}", "tick": tick, "ticks": ticks, "string": string, "fret": fret * 100} | fields
    )


def played(bars: Sequence[Sequence[tuple[int, int]]], chart: str = C7, **fields: Any) -> Tally:
    """A solo of eighths, each bar a phrase from beat 1 on."""
    notes, phrases = [], []
    for bar, places in enumerate(bars):
        phrases.append(Phrase(id=f"p{bar}", start=bar * WHOLE, end=(bar + 1) * WHOLE))
        for i, (string, fret) in enumerate(places):
            notes.append(note(len(notes), bar * WHOLE + i * EIGHTH, string, fret))
    solo = Solo(settings=PLAYER.model_copy(update=fields), notes=tuple(notes), phrases=tuple(phrases))
    return tally(solo, ground_on(chart, bars=30))


def picture_of(*solos: Tally) -> Portrait:
    return portrait([sums for one in solos if (sums := summed(one)) is not None])


def counts(picture: Portrait, group: str) -> dict[str, int]:
    return {one.answer: one.count for one in picture.groups.get(group, ())}


# -- counting ---------------------------------------------------------------------------------------------------------


def test_degrees_are_counted_by_number_and_by_how_long_they_sound() -> None:
    notes = (note(0, 0, 2, 5, QUARTER), note(1, QUARTER, 2, 8, 3 * QUARTER), note(2, WHOLE, 2, 5, QUARTER))
    one = tally(Solo(settings=PLAYER, notes=notes), ground_on(C7))
    figures = {figure.answer: figure for figure in picture_of(one).groups["degrees dominant"]}
    assert (figures["4"].count, figures["7"].count) == (2, 1)  # E is the 3, G the 5: slots 4 and 7
    assert figures["7"].time_share == pytest.approx(3 / 5) and figures["4"].share == pytest.approx(2 / 3)


def test_moves_stay_over_one_chord_and_intervals_do_not() -> None:
    one = played([[(2, 8), (2, 5)], [(2, 5), (2, 6)]], "| {key C major} C7 | F7 |")
    picture = picture_of(one)
    assert counts(picture, "moves dominant") == {"7>4": 1, "11>0": 1}
    assert counts(picture, "intervals") == {"-3": 1, "1": 1}


@settings(deadline=None, max_examples=60)
@given(documents())
def test_every_bin_holds_notes_of_its_phrase_and_questions_of_notes_add_up(document: SoloDocument) -> None:
    solo = document.solo.model_copy(update={"settings": document.solo.settings.model_copy(update={"player": "Ada"})})
    one = tally(solo, document.ground)
    picture = picture_of(one)
    if not one.counts:
        assert not picture.groups and not picture.notes
        return
    for phrase in one.phrases:
        for counted in phrase.bins.values():
            assert set(counted) <= set(phrase.notes)
    sure = [one for one in solo.notes if str(one.sure) == "sure"]
    assert picture.notes == len(sure) == sum(counts(picture, "strings").values())
    assert counts(picture, "strings") == dict(Counter(str(one.string) for one in sure))
    assert sum(counts(picture, "picking").values()) == len(sure)
    for group, figures in picture.groups.items():
        if group not in PER_NOTE:
            assert sum(figure.count for figure in figures) == figures[0].of
            assert sum(figure.share for figure in figures) == pytest.approx(1)
    assert picture.unsure == sum(str(note.sure) == "unsure" for note in solo.notes)


def test_what_was_counted_does_not_depend_on_the_order_of_solos() -> None:
    solos = [played([[(2, 8), (2, 5)]]), played([[(3, 9), (3, 8), (4, 10)]] * 3), played([[(1, 3)]])]
    there, back = picture_of(*solos), picture_of(*solos[::-1])
    assert there.groups == back.groups and there.measures == back.measures and there.notes == 12


@pytest.mark.parametrize(
    "fields",
    [
        {"parent": "another"}, {"melody": True},
        {"sources": (Source(lick="l", name="one"),)},
        {"credits": (Credit(who="Ada Moor", part="lead"), Credit(who="Ines Quarrie", part="lead"))},
    ],
)  # fmt: skip
def test_versions_melodies_quotes_and_disputed_solos_count_for_nobody(fields: dict[str, Any]) -> None:
    assert not played([[(2, 8)]], **fields).counts


def test_unsure_notes_are_told_and_not_counted_and_unknown_ones_do_not_exist() -> None:
    notes = (note(0, 0, 2, 5), note(1, QUARTER, 2, 6, sure="unsure"), note(2, 2 * QUARTER, 2, 8, sure="unknown"))
    picture = picture_of(tally(Solo(settings=PLAYER, notes=notes), ground_on("| C7 |")))
    assert (picture.notes, picture.unsure) == (1, 1) and counts(picture, "strings") == {"2": 1}


def test_a_technique_is_counted_of_all_notes() -> None:
    shaken = Vibrato(width_cents=40, rate_hz=5.5)
    notes = tuple(
        note(i, i * QUARTER, 2, 5).model_copy(update={"vibrato": shaken if i == 3 else None}) for i in range(4)
    )
    picture = picture_of(tally(Solo(settings=PLAYER, notes=notes), ground_on(C7)))
    (figure,) = picture.groups["techniques"]
    assert (figure.answer, figure.count, figure.of, figure.light) == ("vibrato", 1, 4, True)
    assert {one.name: one.median for one in picture.measures}["vibrato width"] == 40


def test_a_habit_is_what_is_done_most_and_opens_its_figure() -> None:
    picture = picture_of(played([[(2, 8), (2, 5), (2, 6)]] * 25))
    found = {habit.says: habit.figure for habit in habits(picture)}
    assert found["starts a phrase on beat 1"].count == 25
    assert found["ends a phrase on the 11"].of == 25 and not found["ends a phrase on the 11"].light


# -- side by side -----------------------------------------------------------------------------------------------------

LINES = ([(2, 8), (2, 5), (2, 6), (2, 8)], [(2, 5), (2, 6), (2, 8), (2, 5)])
ENDS = ((2, 8), (3, 9))


def drawn_solo(seed: int, to_root: float) -> Tally:
    """Twenty phrases of a line picked at random, each ending on the root (slot 0: fret 5 of string 3) or the 5."""
    rng = np.random.default_rng(seed)
    return played([[*LINES[rng.integers(2)], ((3, 5) if rng.random() < to_root else (2, 8))] for _ in range(20)])


def test_a_difference_that_was_planted_is_found_and_the_same_player_does_not_differ() -> None:
    one = [drawn_solo(seed, 0.8) for seed in range(4)]
    other = [drawn_solo(seed, 0.1) for seed in range(10, 14)]
    ends = next(d for d in compared(one, other) if (d.group, d.answer) == ("end degrees", "0"))
    assert 0 < ends.low < ends.one - ends.other < ends.high
    same = [drawn_solo(seed, 0.5) for seed in range(20, 24)], [drawn_solo(seed, 0.5) for seed in range(30, 34)]
    assert len([d for d in compared(*same) if d.nearer_zero > 0.05]) <= 1  # one in ten of the intervals misses zero


def test_the_sides_are_held_against_each_other_the_same_way_whichever_comes_first() -> None:
    one, other = [drawn_solo(1, 0.9)], [drawn_solo(2, 0.1)]
    there, back = compared(one, other, draws=400), compared(other, one, draws=400)
    turned = {(d.group, d.answer): d for d in back}
    both = [(d, turned[d.group, d.answer]) for d in there if (d.group, d.answer) in turned]
    assert len(both) >= 6 and all(d.one == e.other and (d.low > 0) == (e.high < 0) for d, e in both)
    assert compared(one, other, draws=400) == there and compared(one, []) == []


def test_too_few_of_anything_is_not_compared() -> None:
    few = [played([[(3, 5)]] * 19)], [played([[(2, 8)]] * 19)]
    enough = [played([[(3, 5)]] * 20)], [played([[(2, 8)]] * 20)]
    assert compared(*few) == [] and compared(*enough)


# -- favourite cells --------------------------------------------------------------------------------------------------

CELL = ((4, 0, EIGHTH), (3, -1, EIGHTH), (0, -1, EIGHTH), (9, -1, QUARTER))


def phrases_of(rng: np.random.Generator, times: int, planted: int) -> Tally:
    """Random phrases of twelve tokens, the cell planted in the first of them."""
    found = []
    for k in range(times):
        tokens = [(int(rng.integers(12)), int(rng.choice([-1, 1])), EIGHTH) for _ in range(12)]
        if k < planted:
            at = int(rng.integers(8))
            tokens[at : at + len(CELL)] = list(CELL)
        numbers = tuple(range(k * 12, k * 12 + 12))
        found.append(PhraseTally(notes=numbers, tempo_bpm=120, tokens=tuple(tokens), voice=numbers, bins={}))
    return Tally(counts=True, ids=tuple(f"n{i}" for i in range(12 * times)), phrases=tuple(found))


def test_a_planted_cell_is_found_with_its_places() -> None:
    rng = np.random.default_rng(71)
    solos = [phrases_of(rng, 20, 6) for _ in range(2)]
    best, *_ = favourite_cells(solos, sequences=300)
    assert [token[0] for token in best.tokens] == [4, 3, 0, 9]
    assert best.phrases >= 12 and best.expected < best.phrases / 3
    for solo, first, last in best.places:
        assert last - first == 3 and first // 12 == last // 12 and solo in (0, 1)


def test_cells_of_one_solo_among_several_and_of_chance_are_left_out() -> None:
    rng = np.random.default_rng(72)
    alone = [phrases_of(rng, 20, 6), phrases_of(rng, 20, 0)]
    assert all([t[0] for t in cell.tokens] != [4, 3, 0, 9] for cell in favourite_cells(alone, sequences=200))
    by_chance = sum(
        len(favourite_cells([phrases_of(np.random.default_rng(seed), 15, 0)], sequences=200)) for seed in range(12)
    )
    assert by_chance <= 3


# -- the melody -------------------------------------------------------------------------------------------------------

GROUND = ground_on("| {key C major} C7 | F7 |\n2 choruses")
TUNE = Solo(notes=tuple(note(i, i * QUARTER, 2, fret, QUARTER) for i, fret in enumerate((5, 6, 8, 5))))


@pytest.mark.parametrize(
    ("places", "treatment", "says"),
    [
        ([(0, 5), (2, 6), (4, 8), (6, 5)], Treatment.STATES, "states the melody: 4 of its 4 notes"),
        ([(0, 17), (2, 18), (4, 20), (6, 17)], Treatment.STATES, "states the melody: 4 of its 4 notes, an octave higher"),
        ([(0, 5), (1, 7), (2, 6), (3, 7), (4, 9), (5, 7), (6, 5)], Treatment.DECORATES,
         "decorates the melody: 3 of its 4 notes, 4 more between"),
        ([(1, 5), (2, 6), (4, 8), (6, 5)], Treatment.STATES,
         "states the melody: 4 of its 4 notes, 1 late, by an eighth note at most"),
        ([(0, 1), (2, 3), (4, 1)], Treatment.LEAVES, "leaves the melody: it meets 0 of 4 notes"),
    ],
)  # fmt: skip
def test_a_phrase_states_decorates_or_leaves_the_melody_in_whatever_chorus(
    places: list[tuple[int, int]], treatment: Treatment, says: str
) -> None:
    for chorus in (0, 2 * WHOLE):
        notes = tuple(note(i, chorus + at * EIGHTH, 2, fret) for i, (at, fret) in enumerate(places))
        phrase = Phrase(id="p", start=chorus, end=chorus + WHOLE)
        (found,) = treated(Solo(notes=notes, phrases=(phrase,)), TUNE, GROUND)
        assert (found.treatment, found.says) == (treatment, says)


def test_a_phrase_in_the_rests_of_the_melody_answers_it() -> None:
    notes = tuple(note(i, WHOLE + (2 + i) * QUARTER, 3, 5) for i in range(2))
    long = Solo(notes=(note(0, 0, 2, 5, QUARTER), note(1, WHOLE, 2, 6, QUARTER)))
    phrase = Phrase(id="p", start=WHOLE, end=2 * WHOLE)
    (found,) = treated(Solo(notes=notes, phrases=(phrase,)), long, GROUND)
    assert (found.treatment, found.says) == (Treatment.ANSWERS, "answers the melody, in its rests")
