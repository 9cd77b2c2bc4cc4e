"""The position search: what must hold of every way, the cheapest against brute force, bends, grips and the hand map."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import documents, ground_on
from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.techniques import Picked, PullOff, Slide
from usagi.core.fingering.bends import Instead, bend_out_of_reach
from usagi.core.fingering.events import joined_to
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.hand_map import grip, hand_map
from usagi.core.fingering.search import BEST, Search, Way, written_way
from usagi.core.fingering.words import reasons, title
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.ticks import QUARTER

STANDARD = SoloSettings()


def line(*places: tuple[int, int], ticks: int = QUARTER // 2, **fields: object) -> list[Note]:
    return [
        Note.model_validate({"id": f"n{i}", "tick": i * ticks, "ticks": ticks, "string": s, "fret": f * 100} | fields)
        for i, (s, f) in enumerate(places)
    ]


def seconds(notes: list[Note] | tuple[Note, ...], bpm: float = 120) -> dict[int, float]:
    return {note.tick: note.tick / QUARTER * 60 / bpm for note in notes}


def moved(notes: list[Note], way: Way) -> list[Note]:
    at = {place.note: place for place in way.places}
    return [n.model_copy(update={"string": at[n.id].string, "fret": at[n.id].fret}) for n in notes]


@given(documents())
def test_every_way_sounds_the_same_and_can_be_written(document) -> None:
    solo = document.solo
    search = Search(solo.notes, solo.settings, seconds(solo.notes))
    held = {one.note for event in search.events for one in event.wanted if one.pinned}  # to what sounds on around it
    for way in search.ways():
        assert [place.note for place in way.places] == [note.id for note in solo.notes]
        taken = moved(list(solo.notes), way)
        for before, after in zip(solo.notes, taken, strict=True):
            if before.fret is not None and before.fret % HUNDREDTHS == 0:
                assert written_pitch(after, solo.settings) == written_pitch(before, solo.settings)
        troubled = {tick for tick, _ in way.troubles}
        for note, place in zip(taken, way.places, strict=True):
            if note.tick in troubled or place.finger is None:
                continue
            if place.fret:
                assert place.position <= place.fret // HUNDREDTHS < place.position + 5
            shaken = note.vibrato is not None and note.vibrato.by == "finger"
            bent = any(quarters > 0 for _, quarters in note.course)
            assert place.fret or note.id in held or not (shaken or bent)


@given(documents(), st.sets(st.integers(0, 11)))
def test_pinned_notes_stay(document, pinned: set[int]) -> None:
    solo = document.solo
    chosen = [note for i, note in enumerate(solo.notes) if i in pinned]
    search = Search(solo.notes, solo.settings, seconds(solo.notes), pinned=[note.id for note in chosen])
    for way in search.ways():
        at = {place.note: (place.string, place.fret) for place in way.places}
        for note in chosen:
            assert at[note.id] == (note.string, note.fret or 0)


@given(st.lists(st.tuples(st.integers(1, 3), st.integers(3, 9)), min_size=1, max_size=4), st.sampled_from([60, 240]))
def test_no_way_is_cheaper_than_the_best(places: list[tuple[int, int]], bpm: int) -> None:
    notes = line(*places)
    search = Search(notes, STANDARD, seconds(notes, bpm))
    found = search.best()
    cheapest = min(
        sum(float(s.costs[i]) for s, i in zip(search.shapes, path, strict=True))
        + sum(float(m[a, b]) for m, (a, b) in zip(search.moves, itertools.pairwise(path), strict=True))
        for path in itertools.product(*(few(shapes.costs) for shapes in search.shapes))
    )
    assert found.cost <= cheapest + 1e-6
    reported = sum(shift.cost for shift in found.shifts)
    assert reported <= found.cost + 1e-6


def few(costs: np.ndarray) -> list[int]:
    return [int(i) for i in np.argsort(costs)[:9]]


def test_what_is_slurred_moves_together() -> None:
    """A pull-off and its source on string 1, a slide on from it, and a picked note that stays by itself."""
    attacks = (Picked(), PullOff(), Slide(), Picked(), Slide())
    plain = line((1, 8), (1, 7), (1, 9), (1, 8), (2, 10))
    notes = [note.model_copy(update={"attack": attack}) for note, attack in zip(plain, attacks, strict=True)]
    assert joined_to(notes, {"n1"}) == joined_to(notes, {"n2"}) == {"n0", "n1", "n2"}
    assert joined_to(notes, {"n3"}) == {"n3"} and joined_to(notes, {"n4"}) == {"n4"}


def test_three_ways_differ_in_kind_and_fewer_are_shown_where_there_are_no_more() -> None:
    notes = line((2, 8), (1, 5), (1, 8), (2, 5), (3, 7), (3, 5))
    ways = Search(notes, STANDARD, seconds(notes)).ways()
    assert len(ways) == BEST
    for one, other in itertools.combinations(ways, 2):
        apart = abs(one.position - other.position) >= 3
        assert apart or (one.opens > 0) != (other.opens > 0) or one.strings != other.strings
    assert [way.cost for way in ways] == sorted(way.cost for way in ways)
    lowest = line((6, 0), (6, 1))  # E2 and F2 lie nowhere else
    assert len(Search(lowest, STANDARD, seconds(lowest)).ways()) == 1


def test_a_shift_costs_less_with_time_for_it_and_nothing_is_moved_an_octave() -> None:
    notes = line((1, 3), (1, 15))
    slow, fast = (Search(notes, STANDARD, seconds(notes, bpm), pinned=["n0", "n1"]).best() for bpm in (40, 400))
    assert len(slow.shifts) == len(fast.shifts) == 1 and slow.cost < fast.cost
    unreachable = [*line((6, 0)), Note(id="high", tick=QUARTER, ticks=QUARTER, string=6, fret=None, sure="unknown")]
    assert written_way(unreachable, STANDARD, seconds(unreachable)).places[0].fret == 0


def test_slides_and_pull_offs_stay_on_one_string() -> None:
    for kind in ("slide", "pull-off", "hammer-on"):
        notes = line((2, 10), (2, 8), (1, 8))
        notes[1] = Note.model_validate(notes[1].model_dump() | {"attack": {"kind": kind}})
        for way in Search(notes, STANDARD, seconds(notes)).ways():
            assert way.places[0].string == way.places[1].string


def test_what_sounds_together_lies_on_different_strings_and_is_told_when_no_hand_reaches_it() -> None:
    chord = [
        Note(id=f"c{s}", tick=0, ticks=QUARTER, string=s, fret=f * 100) for s, f in ((4, 7), (3, 7), (2, 6), (1, 5))
    ]
    for way in Search(chord, STANDARD, seconds(chord)).ways():
        assert len(way.strings) == 4
        stopped = [place.fret for place in way.places if place.fret]
        assert max(stopped, default=0) - min(stopped, default=0) <= 400
    wide = [
        Note(id="low", tick=0, ticks=QUARTER, string=6, fret=100),
        Note(id="high", tick=0, ticks=QUARTER, string=1, fret=1500),
    ]
    way = Search(wide, STANDARD, seconds(wide)).best()
    assert way.troubles == ((0, "no hand reaches all its notes at once"),)
    assert [(place.string, place.fret) for place in way.places] == [(6, 100), (1, 1500)]
    held = [
        Note(id="pedal", tick=0, ticks=QUARTER, string=5, fret=0),
        Note(id="over", tick=QUARTER // 2, ticks=QUARTER // 2, string=4, fret=200),
    ]
    for way in Search(held, STANDARD, seconds(held)).ways():
        assert way.places[0].string != way.places[1].string


def test_a_smaller_hand_reaches_less() -> None:
    chord = [
        Note(id="a", tick=0, ticks=QUARTER, string=5, fret=100),
        Note(id="b", tick=0, ticks=QUARTER, string=4, fret=500),
    ]
    assert written_way(chord, STANDARD, seconds(chord), HandSize.LARGE).troubles == ()
    assert written_way(chord, STANDARD, seconds(chord), HandSize.SMALL).troubles != ()


@pytest.mark.parametrize(
    ("string", "fret", "quarters", "reached"),
    [
        (1, 12, 4, True),
        (2, 10, 4, True),
        (3, 7, 4, True),
        (1, 1, 4, False),
        (6, 3, 8, False),
        (2, 0, 2, False),
        (1, 8, 12, False),
    ],
)
def test_a_bend_is_in_reach_or_not(string: int, fret: int, quarters: int, reached: bool) -> None:
    note = Note(id="b", tick=0, ticks=QUARTER, string=string, fret=fret * 100, course=((0, 0), (5040, quarters)))
    assert (bend_out_of_reach(note, STANDARD) is None) == reached


def test_a_bend_out_of_reach_comes_with_what_players_do_and_each_sounds_its_target() -> None:
    note = Note(id="b", tick=0, ticks=QUARTER, string=1, fret=100, course=((0, 0), (5040, 4)))
    found = bend_out_of_reach(note, STANDARD)
    assert found is not None and "out of reach" in found.sentence and "so near the nut" in found.sentence
    assert {offer.way for offer in found.offers} == {Instead.OTHER_STRING, Instead.SLIDE, Instead.PREBENT}
    for offer in found.offers:
        assert bend_out_of_reach(offer.note, STANDARD) is None
        start = open_pitch(offer.note.string, STANDARD.tuning, 0) + (offer.note.fret or 0) / 100
        top = start + max((q for _, q in offer.note.course), default=0) / 2
        if offer.way is not Instead.PREBENT:
            assert top == 64 + 1 + 2


def test_in_words_a_way_says_its_kind_its_shifts_and_what_it_costs() -> None:
    notes = line((2, 8), (1, 5), (1, 12), (1, 10))
    search = Search(notes, STANDARD, seconds(notes), pinned=[note.id for note in notes])
    way = search.best()
    ground = ground_on("| Am7 | D7 |")
    assert title(way).endswith("strings 1–2")
    said = reasons(way, way, ground.timeline.bars.place)
    assert any("the hand goes" in one and "1:2" in one for one in said)
    assert said[-1] == f"It costs {way.cost:.1f}; as written, {way.cost:.1f}."


def test_the_hand_map_names_positions_grips_and_moves() -> None:
    notes = line((3, 5), (2, 5), (1, 5), (1, 12), (1, 15))
    ground = ground_on("| Am7 | D7 |")
    found = hand_map(notes, written_way(notes, STANDARD, seconds(notes)), STANDARD, ground.timeline)
    assert found.moves == 1
    assert [stay.grip for stay in found.stays] == ["E grip of Am7", "A grip of Am7"]
    assert (found.stays[0].lowest, found.stays[0].notes, found.stays[-1].highest) == (5, 3, 15)
    assert found.sentence.endswith("the hand moves once.")
    assert hand_map([], Way((), 0.0, (), ()), STANDARD, ground.timeline).sentence.startswith("Nothing")


@pytest.mark.parametrize(
    ("tuning", "capo", "position", "chord", "said"),
    [
        ("standard", 0, 3, "G7", "E grip of G7"),
        ("whole step down", 0, 5, "G7", "E grip of G7"),
        ("standard", 2, 3, "A7", "E grip of A7"),
        ("drop D", 0, 10, "G", "A grip of G"),  # the thin five strings lie as usual
        ("drop D", 0, 3, "G", ""),
        ("double drop D", 0, 10, "G", ""),
        ("open G", 0, 5, "C", "barre grip of C"),
        ("open G", 0, 17, "C7", "barre grip of C7"),
        ("open G", 0, 5, "Cm", ""),  # the open strings sound a major third
        ("D A D F A D", 0, 5, "Gm7", "barre grip of Gm7"),
        ("open D", 2, 5, "A", "barre grip of A"),
        ("D A D G A D", 0, 5, "G", ""),
    ],
)
def test_a_grip_is_known_where_its_strings_lie_as_it_needs(
    tuning: str, capo: int, position: int, chord: str, said: str
) -> None:
    settings = SoloSettings(tuning=parse_tuning(tuning).midi, capo=capo)
    change = ground_on(f"| {chord} |").timeline.chord_at(0)
    assert grip(position, change, settings) == said


def test_a_bottleneck_stops_between_frets_on_every_string_that_has_the_pitch() -> None:
    settings = SoloSettings(bottleneck=True, tuning=parse_tuning("open D").midi)
    notes = [
        Note(id="a", tick=0, ticks=QUARTER, string=1, fret=350),
        Note(id="b", tick=QUARTER, ticks=QUARTER, string=1, fret=500),
    ]
    ways = Search(notes, settings, seconds(notes)).ways()
    assert ways and all(place.fret % 50 == 0 for way in ways for place in way.places)
    assert Solo(settings=settings, notes=tuple(moved(notes, ways[0]))).notes[0].fret is not None


def test_a_tapped_note_is_bent_by_the_hand_that_taps_it() -> None:
    """It lies below the position of the other hand, whose fingers have nothing to do with the bend."""
    low = Note(
        id="t", tick=0, ticks=QUARTER, string=1, fret=100, attack={"kind": "tapped"}, course=((0, 0), (5_040, 4))
    )
    high = Note(id="h", tick=0, ticks=QUARTER, string=2, fret=1_200)
    way = written_way([low, high], SoloSettings(), {0: 0.0})
    assert {(place.note, place.fret) for place in way.places} == {("t", 100), ("h", 1_200)}
