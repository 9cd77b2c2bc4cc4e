"""Other strings under a solo: what is kept, what becomes impossible, and how hard the strings pull."""

from __future__ import annotations

import pytest
from hypothesis import given

from strategies import documents
from usagi.core.document.pitches import written_pitch
from usagi.core.document.regrid import hold_seconds
from usagi.core.document.retuning import keep_frets, keep_pitches
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.fretboard.tension import Gauge, cautions, pounds, tension_n, turn
from usagi.core.fretboard.tunings import parse_tuning
from usagi.core.meter.ticks import QUARTER


def note(note_id: str, beat: int, string: int, fret: int, **more: object) -> dict[str, object]:
    return {"id": note_id, "tick": beat * QUARTER, "ticks": QUARTER, "string": string, "fret": 100 * fret} | more


def solo(*notes: dict[str, object]) -> Solo:
    return Solo.model_validate({"notes": notes})


def tuned(name: str, **more: object) -> SoloSettings:
    return SoloSettings.model_validate({"tuning": parse_tuning(name).midi} | more)


def test_kept_pitches_are_found_again_and_what_lies_too_low_is_named() -> None:
    was = solo(note("a", 0, 6, 0), note("b", 1, 5, 2), note("c", 2, 1, 3))
    found = keep_pitches(was, tuned("drop D"))
    assert [(n.string, n.fret) for n in found.solo.notes] == [(6, 200), (5, 200), (1, 300)]
    assert (found.changed, found.impossible) == (1, ())
    high = keep_pitches(was, tuned("standard", capo=2))
    assert [i.sentence for i in high.impossible] == ["E2 lies below the lowest string."]
    assert [(n.string, n.fret) for n in high.solo.notes][:2] == [(6, 0), (5, 0)]


def test_what_is_joined_stays_on_one_string() -> None:
    was = solo(note("a", 0, 2, 5), note("b", 1, 2, 7, attack={"kind": "hammer-on"}))
    found = keep_pitches(was, tuned("open G"))
    assert len({n.string for n in found.solo.notes}) == 1


def test_two_that_sound_together_keep_two_strings() -> None:
    was = solo(note("a", 0, 1, 0), note("b", 0, 2, 5))  # the same pitch twice
    found = keep_pitches(was, tuned("standard", capo=1))
    assert [i.id for i in found.impossible] in (["a"], ["b"], [])
    assert len({n.string for n in found.solo.notes}) == 2


def test_kept_frets_change_the_pitches_and_list_what_the_neck_lacks() -> None:
    was = solo(note("a", 0, 1, 20), note("b", 1, 6, 3))
    found = keep_frets(was, tuned("drop D", capo=4))
    assert [i.id for i in found.impossible] == ["a"]
    assert found.changed == 1


@given(documents())
def test_pitches_are_the_same_wherever_they_are_possible(document) -> None:
    was = document.solo
    settings = was.settings.model_copy(update={"capo": 0, "tuning": parse_tuning("whole step down").midi})
    found = keep_pitches(was, settings)
    bad = {one.id for one in found.impossible}
    old = {n.id: written_pitch(n, was.settings) for n in was.notes}
    for one in found.solo.notes:
        assert one.id in bad or written_pitch(one, settings) == old[one.id]
    assert {n.id for n in found.solo.notes} == set(old)


# A plain .010 at E4 on 648 mm: 4 · 0.648² · 329.63² · 7850 · π/4 · 0.000254² = 72.6 N; string makers' charts say 16.2 lb.
@pytest.mark.parametrize(("inch", "midi", "newton"), [(0.010, 64, 72.6), (0.013, 59, 68.9), (0.017, 55, 74.2)])
def test_plain_strings_pull_as_the_formula_says(inch: float, midi: int, newton: float) -> None:
    assert tension_n(Gauge(inch), 0.648, midi) == pytest.approx(newton, rel=0.01)


def test_n_semitones_change_the_pull_by_two_to_the_sixth() -> None:
    down = turn(1, 64, 61, Gauge(0.010), 0.648)
    assert down.after_n / down.before_n == pytest.approx(2 ** (-3 / 6))
    assert down.restoring_inch == pytest.approx(0.012)
    assert tension_n(Gauge(down.restoring_inch or 0), 0.648, 61) == pytest.approx(down.before_n, rel=0.06)
    assert down.way == "lower by 3 semitones"
    assert any("flap" in words for words in cautions([down]))
    up = turn(2, 59, 60, Gauge(0.013), 0.648)
    assert any("eye" in words for words in cautions([up]))
    assert cautions([turn(3, 55, 55, Gauge(0.017), 0.648)]) == []


def test_what_is_safe_is_judged_against_the_tuning_that_the_set_is_strung_for() -> None:
    """A baritone set tuned up to standard pulls too hard, though the guitar was in standard before."""
    back = turn(1, 61, 64, Gauge(0.010), 0.648, strung_for_midi=64)  # from lowered back to what it is made for
    assert back.against_set == 0 and back.restoring_inch is None
    over = turn(1, 64, 64, Gauge(0.014), 0.648, strung_for_midi=59)
    assert over.against_set == 5 and over.restoring_inch is not None and over.restoring_inch < 0.014
    assert "can break" in cautions([over])[0]
    slack = turn(1, 60, 60, Gauge(0.010), 0.648, strung_for_midi=64)
    assert "will flap" in cautions([slack])[0]


def test_the_density_of_wound_strings_is_a_setting_and_force_is_said_in_pounds_too() -> None:
    usual, heavy = (tension_n(Gauge(0.046, wound=True, wound_kg_m3=density), 0.648, 40) for density in (6_300, 6_930))
    assert heavy == pytest.approx(1.1 * usual)
    assert tension_n(Gauge(0.010, wound_kg_m3=9_000), 0.648, 64) == pytest.approx(tension_n(Gauge(0.010), 0.648, 64))
    assert pounds(tension_n(Gauge(0.010), 0.648, 64)) == pytest.approx(16.4, abs=0.1)


def ground(*anchors: tuple[int, float]) -> Ground:
    named = [{"id": str(i), "tick": tick, "second": second} for i, (tick, second) in enumerate(anchors)]
    return Ground.model_validate({"anchors": named})


def test_notes_hold_their_seconds_when_the_grid_is_laid_anew() -> None:
    was = solo(note("a", 0, 1, 5), note("b", 1, 1, 7), note("c", 4, 2, 5))
    # Bar 1 was put a beat too early: what stood on beat 2 stands on beat 1 now.
    before, after = ground((0, 1.0), (60 * QUARTER, 31.0)), ground((0, 1.5), (60 * QUARTER, 31.5))
    held, outliers = hold_seconds(was, before, after)
    assert [n.tick // QUARTER for n in held.notes] == [-1, 0, 3]
    assert outliers == []


def test_a_note_between_the_steps_is_listed() -> None:
    was = solo(note("a", 3, 1, 5))
    before, after = ground((0, 1.0), (60 * QUARTER, 31.0)), ground((0, 1.06), (60 * QUARTER, 31.06))
    held, outliers = hold_seconds(was, before, after)
    assert held.notes[0].tick == 3 * QUARTER
    assert [one.sentence for one in outliers] == ["The note now at 1:4 lies 60 ms before its step."]


@given(documents())
def test_the_same_grid_moves_nothing_that_lies_on_a_step(document) -> None:
    held, outliers = hold_seconds(document.solo, document.ground, document.ground)
    listed = {one.id for one in outliers}
    bars = document.ground.timeline.bars

    def on_step(tick: int) -> bool:
        _, start, length = bars.at(tick).pulse_at(tick)
        return any((tick - start) * parts % length == 0 for parts in (3, 4))

    for was, now in zip(document.solo.notes, held.notes, strict=True):
        if on_step(was.tick) and on_step(was.end):
            assert now.id in listed or (now.tick, now.end) == (was.tick, was.end)
