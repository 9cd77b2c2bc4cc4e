"""Offers: heard notes on the grid and under the hand, beside what is written; what the ear puts right of them."""

from __future__ import annotations

from itertools import count

import numpy as np
import pytest

from usagi.core.document.elements import Note
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo
from usagi.core.document.techniques import Sure
from usagi.core.document.writing import NewId
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.laying import laid, together
from usagi.core.listening.mending import At, Mend, Moving, mended
from usagi.core.listening.offers import Band, as_heard_there, course_as_heard, offers, taken
from usagi.core.listening.technique import BendHeard, Joined, VibratoHeard
from usagi.core.view.offers import view_offers

QUARTER = 10_080
GROUND = Ground(
    settings=GroundSettings(bars=8),
    anchors=(Anchor(id="a", tick=0, second=1.0), Anchor(id="b", tick=QUARTER * 60, second=31.0)),
)


def ids() -> NewId:
    numbers = count()
    return lambda: f"x{next(numbers)}"


def at(beat: float) -> float:
    return 1.0 + beat / 2


def heard(beat: float, midi: int, beats: float = 1.0, confidence: float = 0.99, **fields: object) -> HeardNote:
    values = {"joined": Joined.PICKED, "bend": None, "vibrato": None, "cents": np.zeros(int(beats * 43))} | fields
    return HeardNote(at(beat) + 0.004, at(beat + beats), midi, confidence, **values)  # type: ignore[arg-type]


def test_notes_struck_together_share_a_step_and_a_line_lasts_from_note_to_note() -> None:
    notes = [heard(0, 64), heard(0.02, 60), heard(1, 62, 0.8), heard(2, 60, 0.3), heard(3.5, 57, 0.5)]
    assert together(notes) == [[0, 1], [2], [3], [4]]
    places = laid(notes, GROUND, {})
    assert [one.tick for one in places] == [0, 0, QUARTER, 2 * QUARTER, 35_280]
    assert [one.ticks for one in places] == [QUARTER, QUARTER, QUARTER, 2_520, 5_040]


def test_a_note_that_rings_on_keeps_its_end() -> None:
    places = laid([heard(0, 52, 3.0), heard(1, 59), heard(2, 64)], GROUND, {})
    assert places[0].ticks == 3 * QUARTER


def test_a_rake_is_a_guess_over_the_strings_below_and_plain_without_it() -> None:
    note = heard(0, 64, raked=3)
    (offer,) = offers([note], Solo(), GROUND, new_id=ids())
    assert offer.band is Band.GUESS and offer.note.rake is not None
    strings = [offer.note.string + k for k in (3, 2, 1) if offer.note.string + k <= 6]
    assert list(offer.note.rake.strings) == strings
    written = taken(Solo(), [offer], ids())
    check_solo(written, GROUND, written.notes)
    (plain,) = offers([note], Solo(), GROUND, new_id=ids(), mends={0: Mend(number=0, moving=Moving.PLAIN)})
    assert plain.note.rake is None and plain.band is Band.SURE
    (low,) = offers([heard(0, 40, raked=2)], Solo(), GROUND, new_id=ids())
    assert low.note.string == 6 and low.note.rake is None


def test_offers_lie_under_the_hand_and_their_bands_follow_their_confidence() -> None:
    found = offers(
        [heard(0, 69, confidence=0.99), heard(1, 72, confidence=0.8), heard(2, 71, confidence=0.4)],
        Solo(), GROUND, new_id=ids(),
    )  # fmt: skip
    assert [offer.band for offer in found] == [Band.SURE, Band.LIKELY, Band.GUESS]
    frets = [offer.note.fret // 100 for offer in found if offer.note.fret is not None]
    assert max(frets) - min(frets) <= 4
    assert all(offer.blocked == "" for offer in found)


def test_what_is_written_as_it_is_heard_is_offered_no_more_and_nothing_is_replaced() -> None:
    written = Note(id="w", tick=0, ticks=QUARTER, string=2, fret=1_000)  # A4
    notes = [heard(0, 69), heard(1, 71)]
    solo = Solo(notes=(written,))
    assert [offer.midi for offer in offers(notes, solo, GROUND, new_id=ids())] == [71]
    other = [heard(0, 67), heard(1, 71)]
    found = offers(other, solo, GROUND, new_id=ids(), mends={0: Mend(number=0, at=At(string=2, fret=8))})
    assert "A note is written there" in found[0].blocked
    assert taken(solo, found, ids()).notes[0] == written


def test_taken_notes_keep_the_hard_rules_and_silence_between_them_is_rest() -> None:
    notes = [heard(0, 69), heard(0, 64), heard(1, 71, 0.3, 0.5), heard(3, 72)]
    found = offers(notes, Solo(), GROUND, new_id=ids())
    solo = taken(Solo(), found, ids())
    check_solo(solo, GROUND, solo.notes)
    assert len(solo.stacks) == 1 and {note.stack for note in solo.notes if note.tick == 0} == {solo.stacks[0].id}
    assert [(rest.tick, rest.ticks) for rest in solo.rests] == [(QUARTER + 2_520, 2 * QUARTER - 2_520)]
    assert [note.sure for note in solo.notes] == [Sure.SURE, Sure.SURE, Sure.UNSURE, Sure.SURE]
    assert all(note.heard is not None for note in solo.notes)


def test_techniques_are_written_in_ticks() -> None:
    bend = BendHeard(((0.0, 0.0), (0.1, 0.0), (0.25, 196.0)))
    notes = [
        heard(0, 69, bend=bend),
        heard(1, 71),
        heard(2, 72, joined=Joined.HAMMERED),
        heard(3, 71, joined=Joined.PULLED),
        heard(4, 74, joined=Joined.SLID),
        heard(5, 74, joined=Joined.SLID_IN, slid_from=2, slid_s=0.08),
        heard(6, 76, vibrato=VibratoHeard(0.2, 44.6, 5.52)),
        heard(7, 0, 0.1, 0.4, dead=True),
    ]
    found = [offer.note for offer in offers(notes, Solo(), GROUND, new_id=ids())]
    assert found[0].course == ((0, 0), (2_016, 0), (5_040, 4))
    assert [note.attack.kind for note in found] == [
        "picked", "picked", "hammer-on", "pull-off", "slide", "slide-in", "picked", "picked"
    ]  # fmt: skip
    assert len({note.string for note in found[1:5]}) == 1  # what is joined lies on one string
    assert found[6].vibrato is not None and (found[6].vibrato.width_cents, found[6].vibrato.rate_hz) == (45, 5.5)
    assert found[7].dead and found[7].fret is None


def test_a_bend_becomes_a_slide_and_back() -> None:
    bend = BendHeard(((0.0, 0.0), (0.2, 0.0), (0.3, 200.0)))
    whole = heard(0, 69, bend=bend, cents=np.concatenate([np.zeros(20), np.full(23, 200.0)]))
    (_, first), (_, second) = mended([whole], {0: Mend(number=0, moving=Moving.SLIDE)})
    assert (first.midi, second.midi, second.joined) == (69, 71, Joined.SLID) and first.bend is None
    assert second.onset_s == pytest.approx(whole.onset_s + 0.3) and first.end_s == second.onset_s
    ((number, again),) = mended([first, second], {1: Mend(number=1, moving=Moving.BEND)})
    assert number == 0 and again.bend is not None and again.bend.size_cents == 200 and again.end_s == second.end_s


def test_another_pitch_moves_the_note_and_what_was_heard_comes_back_last() -> None:
    one = heard(0, 69, others=(64, 81, 57))
    found = offers([one], Solo(), GROUND, new_id=ids(), mends={0: Mend(number=0, midi=64)})
    assert found[0].midi == 64
    view = view_offers(found, [one], Solo(), GROUND, mends={0: Mend(number=0, midi=64)}, left_out=0).offers[0]
    assert view.name == "E4" and [other.midi for other in view.others] == [81, 57, 69]


def test_an_offer_says_what_it_is() -> None:
    bend = BendHeard(((0.0, 0.0), (0.25, 200.0)))
    notes = [heard(0, 69, bend=bend), heard(2, 72, confidence=0.8)]
    view = view_offers(offers(notes, Solo(), GROUND, new_id=ids()), notes, Solo(), GROUND, mends={}, left_out=2)
    assert view.sentence == "2 notes are offered: 1 sure, 1 likely."
    assert "bent up a whole step" in view.offers[0].says and view.offers[0].says.endswith(": sure")
    assert view.offers[0].moving is Moving.SLIDE and view.left_out == 2
    assert len(view.curves) == 2 and view.curves[0].string == view.offers[0].note.string
    assert {(p.string, p.fret) for p in view.offers[1].places} >= {(1, 8), (2, 13)}


def test_the_course_of_a_written_bend_follows_what_was_heard() -> None:
    note = Note(id="w", tick=QUARTER, ticks=QUARTER, string=2, fret=1_000, course=((0, 0), (5_040, 2)))
    one = heard(1, 69, bend=BendHeard(((0.0, 0.0), (0.1, 0.0), (0.35, 205.0))))
    own = as_heard_there([heard(0, 67), one], note, GROUND)
    assert own is one
    assert course_as_heard(note, one, GROUND) == ((0, 0), (2_016, 0), (7_056, 4))
    assert as_heard_there([heard(5, 67)], note, GROUND) is None


def test_what_lies_outside_the_bars_or_off_the_neck_is_not_offered() -> None:
    notes = [heard(-3, 69), heard(0, 20), heard(40, 69), heard(1, 69)]
    assert [offer.note.tick for offer in offers(notes, Solo(), GROUND, new_id=ids())] == [QUARTER]


def test_a_note_that_was_put_right_is_not_offered_again_as_it_was_heard() -> None:
    notes = [heard(0, 69), heard(0, 64)]
    found = offers(notes, Solo(), GROUND, new_id=ids(), mends={0: Mend(number=0, midi=71)})
    solo = taken(Solo(), found, ids())
    assert offers(notes, solo, GROUND, new_id=ids()) == []
    only = taken(Solo(), [offer for offer in found if offer.number == 1], ids())
    assert [offer.midi for offer in offers(notes, only, GROUND, new_id=ids())] == [69]


def test_a_slide_that_was_made_a_bend_by_mistake_becomes_a_slide_again() -> None:
    notes = [heard(0, 69), heard(1, 71, joined=Joined.SLID)]
    bend = {1: Mend(number=1, moving=Moving.BEND)}
    assert len(mended(notes, bend)) == 1
    again = mended(notes, bend | {0: Mend(number=0, moving=Moving.SLIDE)})
    assert [(number, note.midi, note.joined) for number, note in again] == [
        (0, 69, Joined.PICKED),
        (1, 71, Joined.SLID),
    ]


def test_the_key_for_octaves_goes_up_then_down_then_back() -> None:
    one, midi, seen = heard(0, 69, others=(64, 81, 57)), 69, []
    for _ in range(3):
        mends = {0: Mend(number=0, midi=midi)} if seen else {}
        found = offers([one], Solo(), GROUND, new_id=ids(), mends=mends)
        octave = view_offers(found, [one], Solo(), GROUND, mends=mends, left_out=0).offers[0].octave
        assert octave is not None
        midi = octave.midi
        seen.append(midi)
    assert seen == [81, 57, 69]
