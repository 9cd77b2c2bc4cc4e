"""Findings: the writing against itself and against what is heard; mends, waivers, and what an edit makes again."""

from __future__ import annotations

from dataclasses import replace
from itertools import count
from typing import Any

import numpy as np
import pytest
from benchmarks.checking import heard_of as sounding
from benchmarks.solos import big_solo
from hypothesis import given, settings
from hypothesis import strategies as st

from usagi.core.audio.chords import ChordHeard
from usagi.core.chart.text import read_chart
from usagi.core.checking.check import Checked, Checker, Sound, stretches
from usagi.core.checking.chords import ChordSpan, chord_findings
from usagi.core.checking.finding import Finding, FindingKind, Group
from usagi.core.checking.heard import HeardOf
from usagi.core.checking.mending import NotMended, mended
from usagi.core.checking.pairing import paired, written_at
from usagi.core.document.elements import Note, Phrase, Question, Rest, WaiverChoice
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import HammerOn, PullOff, Slide, SlideIn, SlideOff, Trill, Vibrato
from usagi.core.document.writing import NewId
from usagi.core.listening.heard import Faint, HeardNote, Hearing
from usagi.core.listening.offers import Band
from usagi.core.listening.spectrum import FRAMES_PER_S
from usagi.core.listening.technique import BendHeard, Joined, Judged, VibratoHeard
from usagi.core.view.findings import view_check, view_closer

QUARTER = 10_080
BAR = 4 * QUARTER
K = FindingKind
GROUND = Ground(
    settings=GroundSettings(bars=8),
    anchors=(Anchor(id="a", tick=0, second=1.0), Anchor(id="b", tick=QUARTER * 60, second=31.0)),
)
LINE = (500, 700, 800, 700, 500, 700, 800, 700)  # on string 2, from E4 on


def ids() -> NewId:
    numbers = count()
    return lambda: f"x{next(numbers)}"


def note(beat: float, fret: int | None, beats: float = 1.0, string: int = 2, **fields: object) -> Note:
    tick = round(beat * QUARTER)
    return Note(id=f"n{tick}-{string}", tick=tick, ticks=round(beats * QUARTER), string=string, fret=fret, **fields)  # type: ignore[arg-type]


def solo_of(*notes: Note, last_bar: int = 2, **fields: object) -> Solo:
    ordered = tuple(sorted(notes, key=lambda one: (one.tick, one.string)))
    return Solo(settings=SoloSettings(last_bar=last_bar), notes=ordered, **fields)  # type: ignore[arg-type]


def line(*changes: Note) -> Solo:
    """Two bars of quarter notes, some of them others."""
    there = {one.tick: one for one in (note(k, fret) for k, fret in enumerate(LINE))}
    return solo_of(*(there | {one.tick: one for one in changes}).values())


def sound_of(solo: Solo, *, late_s: float = 0.005, **changes: HeardNote | None) -> Sound:
    """The line as it is written; what is heard of a note (by its id, `-` as `_`) may be otherwise, or nothing."""
    heard: list[HeardNote] = []
    for one in solo.notes:
        own = changes.get(one.id.replace("-", "_"), heard_of(one, late_s))
        heard += [own] if own is not None else []
    heard += [one for name, one in changes.items() if name.startswith("more") and one is not None]
    return Sound(((0.0, 30.0),), Hearing(tuple(sorted(heard, key=lambda one: one.onset_s))))


def heard_of(one: Note, late_s: float = 0.005, **fields: Any) -> HeardNote:
    begin, end = (GROUND.grid.second(tick) for tick in (one.tick, one.end))
    frames = round((end - begin) * FRAMES_PER_S)
    midi = (64, 59, 55, 50, 45, 40)[one.string - 1] + (one.fret or 0) // 100
    values: dict[str, Any] = {
        "onset_s": begin + late_s, "end_s": end, "midi": midi, "confidence": 0.99, "joined": Joined.PICKED,
        "bend": None, "vibrato": None, "cents": np.zeros(frames), "judged": Judged(0.99, 0.01, 0.01, 0.01, 0.01, 0.01),
    }  # fmt: skip
    top = max((quarters for _, quarters in one.course), default=0)
    if top:
        values |= bent(50.0 * top, frames)
    return HeardNote(**(values | fields))  # type: ignore[arg-type]


def bent(cents: float, frames: int = 43) -> dict[str, Any]:
    curve = np.interp(np.arange(frames), (0, 8, 14), (0, 0, cents))
    judged = Judged(0.99, 0.98, 0.01, 0.01, 0.01, 0.01)
    return {"bend": BendHeard(((0.0, 0.0), (0.09, 0.0), (0.16, cents))), "cents": curve, "judged": judged}


def check(solo: Solo, sound: Sound | None = None) -> Checked:
    return Checker().check(solo, GROUND, Sound() if sound is None else sound)


def kinds(checked: Checked) -> list[FindingKind]:
    return sorted(finding.kind for finding in checked.findings)


def only(checked: Checked) -> Finding:
    (finding,) = checked.findings
    return finding


# -- the writing against itself -----------------------------------------------------------------------------------------

SHAPES = [
    (solo_of(*(note(k, 500) for k in (0, 1, 3)), last_bar=1), K.GAP, "a gap of 1 beat", "Write a rest"),
    (solo_of(note(0, 500), note(1, 500, 1.5), note(3.5, 500, 0.5), last_bar=1), K.GAP, "a gap of 1 beat", "Write a rest"),
    (solo_of(note(0.5, 500, 3.5), last_bar=1), K.BAR, "holds 3½ of 4 beats", "Write rests"),
    (solo_of(note(0, 500, 2), last_bar=1), K.BAR, "holds 2 of 4 beats", "Write rests"),
    (line(note(1, 700, attack=PullOff())), K.JOIN, "a pull-off from fret 5 up to fret 7", "Write a hammer-on"),
    (line(note(3, 700, attack=HammerOn())), K.JOIN, "a hammer-on from fret 8 down to fret 7", "Write a pull-off"),
    (line(note(0, 500, attack=Slide())), K.JOIN, "a slide from nowhere: no note lies before it on string 2", "Write it picked"),
    (line(note(1, 700, attack=SlideIn(start=700, ticks=2_000))), K.SLIDE, "slides in from its own fret", "Write it picked"),
    (line(note(1, 700, ending=SlideOff(to=1_200, ticks=2_000))), K.SLIDE, "slides to fret 12; the next note lies at fret 8", "Slide to fret 8"),
    (line(note(1, 2_300)), K.OFF_NECK, "There is no fret 23", "Put it at string 1, fret 18"),
    (line(note(0, 100, course=((0, 0), (5_040, 8)))), K.BEND_REACH, "a bend of 2 on string 2, fret 1, is out of reach", "Bend it"),
]  # fmt: skip


@pytest.mark.parametrize(("solo", "kind", "says", "mend"), SHAPES)
def test_the_writing_says_what_does_not_agree_and_a_key_mends_it(solo: Solo, kind: K, says: str, mend: str) -> None:
    finding = only(check(solo))
    assert finding.kind is kind and says in finding.says and finding.mend.startswith(mend)
    assert finding.band is Band.SURE
    after = mended(solo, GROUND, finding, ids())
    check_solo(after, GROUND, after.notes)
    assert finding.kind not in kinds(check(after))


def test_a_line_without_a_fault_and_an_empty_bar_say_nothing() -> None:
    assert check(line()).findings == ()
    assert check(solo_of(last_bar=4)).findings == ()
    assert check(solo_of(*(note(k, 500) for k in range(4)), last_bar=3)).findings == ()


def test_a_rest_fills_a_bar_and_a_slide_may_arrive_where_the_next_note_is() -> None:
    rest = Rest(id="r", tick=QUARTER, ticks=3 * QUARTER)
    assert check(solo_of(note(0, 500), last_bar=1, rests=(rest,))).findings == ()
    assert check(line(note(1, 700, ending=SlideOff(to=800, ticks=2_000)))).findings == ()


def test_a_shift_that_no_hand_makes_in_its_time_is_told() -> None:
    quick = [note(0, 100, 0.125, 2), note(0.125, 1_500, 0.875, 2), *(note(k, 1_500) for k in (1, 2, 3))]
    finding = only(check(solo_of(*quick, last_bar=1)))
    assert finding.kind is K.SHIFT and "in 0.06 s" in finding.says and finding.group is Group.HAND and not finding.mend
    slow = [note(0, 100), *(note(k, 1_500) for k in (1, 2, 3))]
    assert check(solo_of(*slow, last_bar=1)).findings == ()


def test_what_no_hand_holds_at_once_is_told() -> None:
    wide = [note(0, 100, 4, 3, stack="s"), note(0, 1_200, 4, 2, stack="s")]
    assert K.REACH in kinds(check(solo_of(*wide, last_bar=1)))


def test_a_note_and_a_phrase_outside_the_bars_are_told() -> None:
    solo = solo_of(note(20, 500), last_bar=2, phrases=(Phrase(id="p", start=7 * BAR, end=9 * BAR, name="late"),))
    assert kinds(check(solo)) == [K.OUTSIDE, K.OUTSIDE]
    beyond = next(f for f in check(solo).findings if f.notes)
    assert "outside the bars of the solo" in beyond.says and beyond.mend == ""


# -- the writing against the sound --------------------------------------------------------------------------------------

BENT = line(note(2, 800, course=((0, 0), (5_040, 4))))
SHAKEN = line(note(2, 800, vibrato=Vibrato()))
N1, N2 = line().notes[1], line().notes[2]
HEARD = [
    (line(), {"n10080_2": heard_of(N1, midi=65)}, K.PITCH, "heard a half step lower than written"),
    (line(), {"n10080_2": heard_of(N1, midi=69)}, K.PITCH, "heard 3 half steps higher than written"),
    (line(), {"n10080_2": heard_of(N1, midi=78)}, K.OCTAVE, "heard an octave higher than written"),
    (BENT, {"n20160_2": heard_of(BENT.notes[2], **bent(140))}, K.BEND, "bent 140 cents; a whole step is written"),
    (BENT, {"n20160_2": heard_of(N2)}, K.BEND, "not bent; a whole step is written"),
    (line(), {"n20160_2": heard_of(N2, **bent(100))}, K.BEND, "bent 100 cents; no bend is written"),
    (line(), {"n10080_2": None}, K.NOT_HEARD, "7 on string 2 is not heard"),
    (line(), {"more": heard_of(note(1.5, 500, 0.5, 1))}, K.NOT_WRITTEN, "a sound is not written"),
    (line(), {"n10080_2": heard_of(N1, 0.125)}, K.ONSET, "begins 120 ms after the phrase's own place"),
    (line(), {"n10080_2": heard_of(N1, -0.095)}, K.ONSET, "begins 100 ms before the phrase's own place"),
]


@pytest.mark.parametrize(("solo", "heard", "kind", "says"), HEARD)
def test_the_sound_says_what_does_not_agree_and_a_key_writes_what_is_heard(
    solo: Solo, heard: dict[str, Any], kind: K, says: str
) -> None:
    sound = sound_of(solo, **heard)
    finding = only(check(solo, sound))
    assert finding.kind is kind and finding.says == says and finding.band in (Band.SURE, Band.LIKELY)
    after = mended(solo, GROUND, finding, ids())
    check_solo(after, GROUND, after.notes)
    left = check(after, sound)
    assert finding.id not in {one.id for one in left.findings} and kind not in kinds(left)


def test_a_line_that_is_played_as_written_says_nothing_however_late_it_lies() -> None:
    for late in (-0.03, 0.0, 0.04):
        assert check(line(), sound_of(line(), late_s=late)).findings == ()
    assert check(BENT, sound_of(BENT)).findings == ()


def test_a_little_late_is_no_other_place_of_the_grid_so_no_key_mends_it() -> None:
    finding = only(check(line(), sound_of(line(), n10080_2=heard_of(N1, 0.06))))
    assert finding.kind is K.ONSET and finding.mend == ""
    with pytest.raises(NotMended, match="waive it"):
        mended(line(), GROUND, finding, ids())


def test_vibrato_is_told_only_where_it_is_clearly_there_or_clearly_not() -> None:
    shaking: dict[str, Any] = {
        "vibrato": VibratoHeard(0.1, 60.0, 5.5),
        "judged": Judged(0.99, 0.01, 0.97, 0.01, 0.01, 0.01),
    }
    there = sound_of(line(), n20160_2=heard_of(N2, **shaking))
    assert only(check(line(), there)).says == "vibrato of 60 cents is heard; none is written"
    assert only(check(SHAKEN, sound_of(SHAKEN))).says == "vibrato is written; none is heard"
    assert check(SHAKEN, sound_of(SHAKEN, n20160_2=heard_of(N2, **shaking))).findings == ()
    perhaps = replace(heard_of(N2), judged=Judged(0.99, 0.01, 0.4, 0.01, 0.01, 0.01))
    assert check(SHAKEN, sound_of(SHAKEN, n20160_2=perhaps)).findings == ()


def test_a_slide_heard_as_a_bend_and_a_bend_heard_as_a_slide_are_no_faults() -> None:
    slid = line(note(2, 700), note(3, 900, attack=Slide()))
    up = np.concatenate([np.zeros(40), np.full(46, 200.0)])
    one = replace(
        heard_of(slid.notes[2]), cents=up, end_s=GROUND.grid.second(BAR), bend=BendHeard(((0.0, 0.0), (0.5, 200.0)))
    )
    assert K.NOT_HEARD not in kinds(check(slid, sound_of(slid, n20160_2=one, n30240_2=None)))
    two = heard_of(note(2.5, 1_000, 0.5), joined=Joined.SLID)
    assert kinds(check(BENT, sound_of(BENT, more=two))) == []


def test_a_trill_explains_the_notes_that_are_heard_in_it() -> None:
    solo = line(note(2, 800, trill=Trill(fret=1_000)))
    more: dict[str, Any] = {f"more{k}": heard_of(note(2 + k / 8, 1_000 if k % 2 else 800, 0.125)) for k in range(1, 6)}
    assert K.NOT_WRITTEN not in kinds(check(solo, sound_of(solo, **more)))


def test_what_is_faint_speaks_for_a_note_that_was_not_heard() -> None:
    sound = sound_of(line(), n10080_2=None)
    plain = only(check(line(), sound))
    faint = Hearing(sound.hearing.notes, (Faint(1.5, 66, 0.3),))
    less = only(check(line(), replace(sound, hearing=faint)))
    assert plain.band is Band.SURE and less.band is Band.GUESS and less.confidence < plain.confidence


def test_where_nobody_listened_the_sound_says_nothing() -> None:
    sound = replace(sound_of(line(), n10080_2=None), listened=((0.0, 3.0),))
    checked = Checker().check(solo_of(*line().notes, last_bar=8), GROUND, sound)
    assert [bar.listened for bar in checked.bars] == [True, *[False] * 7] and checked.findings == ()
    nothing = check(line())
    assert nothing.done == 0.0 and not any(bar.listened for bar in nothing.bars)


def test_bars_are_done_that_were_listened_to_and_hold_nothing_open() -> None:
    assert check(line(), sound_of(line())).done == 1.0
    checked = check(line(), sound_of(line(), n10080_2=None))
    assert checked.done == 0.5 and [bar.open for bar in checked.bars] == [1, 0]


@given(st.lists(st.sampled_from(LINE), min_size=1, max_size=14), st.floats(-0.05, 0.05), st.data())
def test_a_line_pairs_with_itself_and_with_what_is_left_of_it(
    frets: list[int], late: float, data: st.DataObject
) -> None:
    notes = [note(k / 2, fret, 0.5) for k, fret in enumerate(frets)]
    written = [
        written_at(one, SoloSettings(), GROUND.grid.second(one.tick), GROUND.grid.second(one.end)) for one in notes
    ]
    known = [one for one in written if one is not None]
    heard = [heard_of(one, late) for one in notes]
    assert paired(known, heard).pairs == tuple((i, i) for i in range(len(notes)))
    if len(set(frets)) == len(frets) > 3:
        gone = data.draw(st.integers(0, len(frets) - 1))
        left = [one for i, one in enumerate(heard) if i != gone]
        assert gone not in {i for i, _ in paired(known, left).pairs}


# -- chords -------------------------------------------------------------------------------------------------------------


def charted(text: str) -> Ground:
    numbers = count()
    chart = read_chart(text, new_id=lambda: f"c{next(numbers)}").chart
    return Ground(
        settings=GroundSettings(bars=8, form=chart.form, choruses=chart.choruses),
        anchors=GROUND.anchors,
        sections=chart.sections,
        exceptions=chart.exceptions,
    )


@pytest.mark.parametrize(
    ("symbol", "heard", "says"),
    [
        ("Am7", [(2, "7", 0.8)], "sounds like D7; the chart has Am7"),
        ("Am7", [(9, "m", 0.8)], None),
        ("Am7", [(0, "", 0.8)], None),  # its upper tones alone
        ("A7", [(9, "m", 0.8)], "sounds like Am; the chart has A7"),
        ("C9", [(0, "7", 0.7)], None),
        ("Am7", [(2, "7", 0.5)], None),  # nobody is sure
        ("Am7", [(2, "7", 0.7), (9, "m7", 0.2)], None),
    ],
)
def test_a_chord_is_told_when_bass_and_pitch_classes_contradict_it(
    symbol: str, heard: list[tuple[int, str, float]], says: str | None
) -> None:
    span = ChordSpan(0, BAR, tuple(ChordHeard(*one) for one in heard))
    found = list(chord_findings([span], charted(f"| {symbol} | G |")))
    assert [finding.says for finding in found] == ([] if says is None else [says])


# -- again and again ----------------------------------------------------------------------------------------------------


def waiver(finding: Finding, reason: str = "as played") -> WaiverChoice:
    return WaiverChoice(id="w", finding=str(finding.kind), notes=finding.notes, judged=finding.judged, reason=reason)


def test_a_waived_finding_stays_waived_until_its_note_or_its_sound_changes() -> None:
    solo, sound = line(), sound_of(line(), n10080_2=heard_of(N1, midi=65))
    finding = only(check(solo, sound))
    waived = solo.model_copy(update={"choices": (waiver(finding),)})
    checked = check(waived, sound)
    assert checked.findings == () and [one.id for one in checked.waived] == [finding.id] and checked.done == 1.0
    longer = waived.model_copy(
        update={"notes": (*solo.notes[:1], N1.model_copy(update={"ticks": 5_000}), *solo.notes[2:])}
    )
    assert finding.id in {one.id for one in check(longer, sound).findings}
    lower = sound_of(line(), n10080_2=heard_of(N1, midi=64))
    assert [one.id for one in check(waived, lower).findings] == [finding.id]
    again = sound_of(line(), n10080_2=heard_of(N1, 0.006, midi=65, confidence=0.98))
    assert check(waived, again).findings == ()


@settings(max_examples=25)
@given(st.lists(st.tuples(st.integers(0, 31), st.sampled_from((500, 700, 900, None))), min_size=1, max_size=6))
def test_what_is_made_again_after_an_edit_is_what_would_be_made_anew(edits: list[tuple[int, int | None]]) -> None:
    whole = solo_of(*(note(k, LINE[k % 8]) for k in range(32)), last_bar=8)
    sound = sound_of(whole, n10080_2=heard_of(N1, midi=65), n50400_2=None)
    checker = Checker()
    checker.check(whole, GROUND, sound)
    for at, fret in edits:
        notes = [one for one in whole.notes if one.tick != at * QUARTER]
        whole = solo_of(*notes, *([] if fret is None else [note(at, fret)]), last_bar=8)
        assert checker.check(whole, GROUND, sound) == Checker().check(whole, GROUND, sound)


def test_stretches_are_phrases_and_four_bars_at_most_between_them() -> None:
    phrases = (Phrase(id="p", start=BAR + QUARTER, end=3 * BAR), Phrase(id="q", start=3 * BAR, end=4 * BAR))
    solo = solo_of(last_bar=8, phrases=phrases)
    assert stretches(solo, GROUND) == [
        (0, BAR + QUARTER), (BAR + QUARTER, 3 * BAR), (3 * BAR, 4 * BAR), (4 * BAR, 8 * BAR),
    ]  # fmt: skip
    assert stretches(solo_of(last_bar=8), GROUND) == [(0, 4 * BAR), (4 * BAR, 8 * BAR)]


# -- as it is shown -----------------------------------------------------------------------------------------------------


def test_findings_are_listed_by_weight_with_their_place_in_words() -> None:
    sound = sound_of(BENT, n20160_2=heard_of(BENT.notes[2], **bent(140)), more=heard_of(note(5.5, 500, 0.5, 1)))
    checked = check(BENT, sound)
    view = view_check(checked, sound, BENT, GROUND, {"s": 3})
    assert [(one.bar, one.says, one.group) for one in view.findings] == [
        ("bar 2", "A4 is heard and not written", Group.MISSING),
        ("bar 1", "bent 140 cents; a whole step is written", Group.BENDS),
    ]
    assert view.findings[1].title == "Bar 1, string 2, fret 8" and view.sentence == "2 findings."
    assert view.listened == 1.0 and view.done == 0.0 and view.versions == {"s": 3}
    assert "has not been listened to" in view_check(check(BENT), Sound(), BENT, GROUND, {}).sentence


def test_an_open_question_has_what_is_heard_as_an_answer() -> None:
    asked = Question(id="q", start=2 * QUARTER, end=3 * QUARTER, words="how far?", notes=("n20160-2",))
    solo = BENT.model_copy(update={"questions": (asked, asked.model_copy(update={"id": "r", "answer": "whole"}))})
    sound = sound_of(BENT, n20160_2=heard_of(BENT.notes[2], **bent(105)))
    (answer,) = view_check(check(solo, sound), sound, solo, GROUND, {}).answers
    assert (answer.question, answer.words) == ("q", "heard: G4 bent a half step")
    assert view_check(check(solo), Sound(), solo, GROUND, {}).answers == ()


def test_a_bend_is_drawn_close_with_what_it_lacks() -> None:
    sound = sound_of(BENT, n20160_2=heard_of(BENT.notes[2], **bent(140)))
    close = view_closer(only(check(BENT, sound)), sound, BENT, GROUND)
    assert close.gap_says == "60 cents short" and close.gap is not None
    assert close.gap[1] == pytest.approx(69.0) and close.gap[2] == pytest.approx(68.4)
    assert [one.label for one in close.lines] == ["8", "9", "10"]
    assert max(midi for _, midi in close.heard) == pytest.approx(68.4)
    assert close.written[0][0] == pytest.approx(2.0) and max(midi for _, midi in close.written) == pytest.approx(69.0)
    late = sound_of(line(), n10080_2=heard_of(N1, 0.125))
    moved = view_closer(only(check(line(), late)), late, line(), GROUND)
    assert moved.onset_written_s == pytest.approx(1.5) and moved.onset_heard_s == pytest.approx(1.625)
    missing = sound_of(line(), n10080_2=None)
    assert view_closer(only(check(line(), missing)), missing, line(), GROUND).heard == ()


def test_a_bend_that_is_heard_twice_at_once_is_one_sound() -> None:
    written = line(note(1, 700, course=((0, 0), (2_520, 2))))
    own = heard_of(written.notes[1], confidence=0.6, **bent(150.0, 43))
    twin = heard_of(
        written.notes[1], midi=own.midi + 2, confidence=0.7, joined=Joined.SLID_IN, cents=np.full(43, -50.0)
    )
    twin = replace(twin, cents=np.concatenate([np.full(10, -150.0), np.full(33, -50.0)]))
    finding = only(check(written, sound_of(written, n10080_2=own, more=twin)))
    assert finding.says == "bent 150 cents; a half step is written" and finding.band is not Band.GUESS


def test_a_bend_that_is_heard_in_pieces_is_as_it_is_written() -> None:
    written = line(note(1, 700, course=((0, 0), (2_520, 4))))
    own = written.notes[1]
    first = replace(heard_of(own, bend=None, cents=np.zeros(10)), end_s=GROUND.grid.second(own.tick) + 0.13)
    begin = first.end_s
    rest = replace(heard_of(own, bend=None, cents=np.zeros(30)), onset_s=begin, midi=first.midi + 2, confidence=0.5)
    assert check(written, sound_of(written, n10080_2=first, more=rest)).findings == ()


def test_a_low_note_whose_octave_is_heard_with_it_is_an_octave() -> None:
    solo = line()
    own = heard_of(solo.notes[2], confidence=0.8)
    finding = only(check(solo, sound_of(solo, n20160_2=own, more=replace(own, midi=own.midi - 12, confidence=0.99))))
    assert finding.kind is K.OCTAVE and finding.says == "heard an octave lower than written"
    surer = replace(own, confidence=0.995)
    assert kinds(check(solo, sound_of(solo, n20160_2=surer, more=replace(own, midi=own.midi - 12)))) == [K.NOT_WRITTEN]


def test_sounds_that_change_places_within_a_moment_are_the_notes_that_they_fit() -> None:
    quick = [note(0, 500, 0.0625), note(0.0625, 900, 0.9375), *(note(k, 500) for k in (1, 2, 3))]
    solo = solo_of(*quick, last_bar=1)
    first, second = (heard_of(one) for one in solo.notes[:2])
    later, sooner = replace(first, onset_s=second.onset_s), replace(second, onset_s=first.onset_s)
    found = check(solo, sound_of(solo, n0_2=later, n630_2=sooner)).findings
    assert not [one for one in found if one.kind in (K.PITCH, K.NOT_HEARD, K.NOT_WRITTEN)]


def test_a_stroke_of_the_band_does_not_cut_a_note_that_began_early() -> None:
    solo = line()
    own = heard_of(solo.notes[3], confidence=0.8)
    early = replace(own, onset_s=own.onset_s - 0.11, end_s=own.onset_s, confidence=0.99, cents=np.zeros(9))
    before = replace(heard_of(solo.notes[2]), end_s=own.onset_s - 0.11)
    heard = sound_of(solo, n20160_2=before, n30240_2=own, more=early)
    finding = only(check(solo, replace(heard, banded=True)))
    assert finding.kind is K.ONSET and "before the phrase's own place" in finding.says
    assert K.NOT_WRITTEN in kinds(check(solo, heard))  # alone it is a note of its own


def test_what_is_heard_of_each_note_is_kept_where_no_note_changed() -> None:
    document = big_solo(120, 16, 1.0)
    solo, ground = document.solo, document.ground
    sound = sounding(solo, ground, np.random.default_rng(3))
    pairs = HeardOf()
    first = pairs.notes(solo, ground, sound)
    assert len(first) > 0.9 * sum(not note.dead and note.fret is not None for note in solo.notes)
    assert all(abs(one.onset_s - ground.grid.second(note.tick)) < 0.2
               for note in solo.notes if (one := first.get(note.id)) is not None)  # fmt: skip
    gone = solo.model_copy(update={"notes": solo.notes[:40] + solo.notes[41:]})
    assert pairs.notes(gone, ground, sound) == HeardOf().notes(gone, ground, sound)
    assert HeardOf().notes(solo, ground, Sound()) == {}
