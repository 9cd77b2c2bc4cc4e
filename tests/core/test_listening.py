"""What the listener makes of maps that are known: tracks, bends, vibrato; and of sound that tuned nothing."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from usagi.core.listening import listen as listening
from usagi.core.listening.facts import COUNT, facts_of
from usagi.core.listening.heard import HeardNote, Hearing, hear_notes
from usagi.core.listening.hints import Company, Hints, HintsImpossible, Texture
from usagi.core.listening.listen import EARLY_S, listen, offset_of, span_line
from usagi.core.listening.net import AROUND_S, Said
from usagi.core.listening.notes import ended_by, tracks
from usagi.core.listening.spectrum import FRAMES_PER_S, HOP, KEYS, LOWEST_KEY, PER_KEY, RATE_HZ, spectra
from usagi.core.listening.stored import from_stored, to_stored
from usagi.core.listening.technique import Joined, measured_bend

FRAMES = 300


def maps(*notes: tuple[int, int, int, float], cents: dict[int, np.ndarray] | None = None) -> Said:
    """What a net would say of notes `(MIDI, first frame, last, strength)`; `cents` along some of them, by place."""
    zero = np.zeros((KEYS, FRAMES), np.float32)
    heads = {name: zero.copy() for name in ("onset", "legato", "frame", "vibrato", "bend", "glide")}
    contour = np.zeros((KEYS * PER_KEY, FRAMES), np.float32)
    said = Said(**heads, contour=contour, dead=np.zeros(FRAMES, np.float32))
    for i, (midi, first, last, strength) in enumerate(notes):
        row = midi - LOWEST_KEY
        said.onset[row, first] = max(said.onset[row, first], strength)
        line = np.zeros(last - first) if cents is None or i not in cents else cents[i][: last - first]
        at = np.arange(first, first + len(line))
        bins = np.round(row * PER_KEY + 1 + line / 100 * PER_KEY).astype(int)
        said.contour[bins, at] = 0.9
        said.frame[np.clip(bins // PER_KEY, 0, KEYS - 1), at] = 0.9
    return said


def judge_by_strength(rows: np.ndarray) -> np.ndarray:
    """The onset's strength alone, and no technique."""
    out = np.zeros((len(rows), 6), np.float32)
    out[:, 0] = 1 / (1 + np.exp(-rows[:, 0]))
    return out


def heard_notes(said: Said, judge: object, hints: Hints = Hints()) -> list[HeardNote]:
    return list(hear_notes(said, judge, hints).notes)  # type: ignore[arg-type]


def test_a_note_begins_at_its_onset_and_ends_where_the_contour_does() -> None:
    (note,) = heard_notes(maps((69, 50, 120, 0.9)), judge_by_strength)
    assert note.midi == 69 and note.onset_s == pytest.approx(50 / FRAMES_PER_S, abs=0.006)
    assert note.end_s == pytest.approx(120 / FRAMES_PER_S, abs=0.03)
    assert np.abs(note.cents).max() < 20


def test_silence_has_no_notes() -> None:
    assert heard_notes(maps(), judge_by_strength) == []


def test_what_is_not_sure_enough_is_kept_as_faint() -> None:
    found = hear_notes(maps((60, 50, 100, 0.9), (67, 150, 200, 0.15)), judge_by_strength)
    assert [note.midi for note in found.notes] == [60]
    assert [(one.midi, round(one.confidence, 2)) for one in found.faint] == [(67, 0.15)]
    later = found.moved(1.0)
    assert later.faint[0].onset_s == pytest.approx(found.faint[0].onset_s + 1)
    assert later.between(0.0, 1.0 + 100 / FRAMES_PER_S).faint == ()


def test_a_string_struck_again_ends_the_note_before() -> None:
    first, second = heard_notes(maps((69, 50, 200, 0.9), (69, 120, 200, 0.9)), judge_by_strength)
    assert first.end_s == pytest.approx(second.onset_s, abs=0.02)


def test_a_slide_ends_the_note_that_it_leaves_where_it_arrives() -> None:
    up = np.concatenate([np.zeros(30), np.linspace(0, 300, 6), np.full(60, 300.0)])
    found = tracks(maps((60, 50, 146, 0.9), (63, 86, 146, 0.9), cents={0: up}))
    left = next(track for track in found if track.key == 60)
    assert ended_by(left, found).last == 86


@pytest.mark.parametrize(
    ("texture", "count"), [(Texture.LINE, 1), (Texture.TWO, 2), (Texture.STRUM, 4), (Texture.AUTO, 4)]
)
def test_a_texture_says_how_many_notes_may_start_together(texture: Texture, count: int) -> None:
    chord = maps((52, 50, 150, 0.95), (59, 51, 150, 0.9), (64, 52, 150, 0.85), (68, 53, 150, 0.8))
    assert len(heard_notes(chord, judge_by_strength, Hints(texture=texture))) == count


def test_one_line_has_no_note_under_another() -> None:
    notes = heard_notes(maps((60, 50, 200, 0.9), (67, 100, 200, 0.9)), judge_by_strength, Hints(texture=Texture.LINE))
    assert notes[0].end_s <= notes[1].onset_s + 0.02


def test_the_lowest_and_the_highest_note_leave_out_what_lies_beyond() -> None:
    said = maps((45, 50, 100, 0.9), (60, 110, 150, 0.9), (80, 160, 200, 0.9))
    assert [n.midi for n in heard_notes(said, judge_by_strength, Hints(lowest=50, highest=70))] == [60]
    with pytest.raises(HintsImpossible, match="below the lowest"):
        Hints(lowest=70, highest=50)


def test_more_and_fewer_move_what_is_enough() -> None:
    said = maps((60, 50, 100, 0.25), (64, 120, 180, 0.5))
    heard = {more: len(heard_notes(said, judge_by_strength, Hints(more=more))) for more in (-2, 0, 2)}
    assert heard == {-2: 0, 0: 1, 2: 2}


def test_with_a_band_a_second_note_must_be_surer() -> None:
    said = maps((60, 50, 100, 0.9), (67, 50, 100, 0.55))
    assert len(heard_notes(said, judge_by_strength)) == 2
    assert len(heard_notes(said, judge_by_strength, Hints(company=Company.BAND))) == 1


def test_other_likely_pitches_come_before_octaves() -> None:
    said = maps((60, 50, 100, 0.9))
    said.onset[67 - LOWEST_KEY, 50] = 0.2
    (note,) = heard_notes(said, judge_by_strength)
    assert note.others == (67, 72, 48)


def test_a_dead_note_is_a_guess() -> None:
    said = maps((60, 50, 100, 0.9))
    said.dead[[50, 150]] = 0.95  # the first lies on a note with a pitch
    dead = [note for note in heard_notes(said, judge_by_strength) if note.dead]
    assert [round(note.onset_s * FRAMES_PER_S) for note in dead] == [150] and dead[0].confidence <= 0.5


@pytest.mark.parametrize(("strokes", "raked"), [((), 0), ((47,), 0), ((45, 47), 2), ((42, 45, 47), 3), ((30, 33), 0)])
def test_strings_brushed_on_the_way_to_a_note_are_a_rake(strokes: tuple[int, ...], raked: int) -> None:
    said = maps((60, 50, 100, 0.9))
    for stroke in strokes:
        said.dead[stroke - 1 : stroke + 2] = np.maximum(said.dead[stroke - 1 : stroke + 2], (0.75, 0.95, 0.75))
    heard = heard_notes(said, judge_by_strength)
    (note,) = [one for one in heard if not one.dead]
    assert note.raked == raked
    assert from_stored(to_stored(Hearing((note,)))).notes[0].raked == raked
    if raked:
        assert not any(one.dead for one in heard)


def test_facts_are_numbers_of_every_track() -> None:
    found = tracks(maps((60, 50, 100, 0.9), (64, 0, 10, 0.5), (91, 295, 300, 0.5)))
    cut, rows = facts_of(found, maps((60, 50, 100, 0.9)))
    assert rows.shape == (len(cut), COUNT) and np.isfinite(rows).all()


# Bends, measured on a pitch that is known ------------------------------------------------------------------------------


def curve(points: list[tuple[float, float]], seconds: float, seed: int = 0) -> np.ndarray:
    t = np.arange(round(seconds * FRAMES_PER_S)) / FRAMES_PER_S
    line = np.interp(t, [at for at, _ in points], [cents for _, cents in points])
    return np.asarray(line + np.random.default_rng(seed).normal(0, 3, len(t)))


@settings(max_examples=60)
@given(
    size=st.sampled_from([50.0, 100.0, 200.0, 300.0]),
    wait=st.floats(0.0, 0.3),
    over=st.floats(0.08, 0.3),
    seed=st.integers(0, 99),
)
def test_a_bend_has_the_size_and_the_moment_at_which_it_arrives(
    size: float, wait: float, over: float, seed: int
) -> None:
    bend, off = measured_bend(curve([(0, 0), (wait + 0.02, 0), (wait + 0.02 + over, size)], 1.2, seed))
    assert bend is not None and off == 0
    assert bend.size_cents == pytest.approx(size, abs=12)
    assert bend.points[-1][0] == pytest.approx(wait + 0.02 + over, abs=0.06)


def test_a_bend_that_is_let_down_ends_at_its_fret() -> None:
    bend, _ = measured_bend(curve([(0, 0), (0.1, 0), (0.3, 200), (0.7, 200), (0.9, 0)], 1.2))
    assert bend is not None and bend.points[-1][1] == 0.0 and len(bend.points) == 5
    assert bend.points[-2][0] == pytest.approx(0.7, abs=0.05)


def test_a_string_bent_before_it_sounds_is_fretted_below_what_is_heard_first() -> None:
    bend, off = measured_bend(curve([(0, 0), (0.4, 0), (0.55, -200)], 1.0))
    assert bend is not None and off == 2 and bend.points[0] == (0.0, pytest.approx(200, abs=12))


def test_a_steady_pitch_is_no_bend() -> None:
    assert measured_bend(curve([(0, 5)], 0.6)) == (None, 0)


# Sound -----------------------------------------------------------------------------------------------------------------


@given(midi=st.integers(40, 84), cents=st.floats(-45, 45))
@settings(max_examples=12, deadline=None)
def test_a_tone_lies_in_the_bin_of_its_pitch_however_the_recording_is_tuned(midi: int, cents: float) -> None:
    t = np.arange(RATE_HZ) / RATE_HZ
    tone = np.sin(2 * np.pi * 440 * 2 ** ((midi - 69 + cents / 100) / 12) * t).astype(np.float32)
    long = spectra(tone, cents=cents)[0, :, 40]
    assert abs(int(long.argmax()) - (36 + (midi - LOWEST_KEY) * PER_KEY + 1)) <= 1


def test_how_loud_a_take_is_makes_no_difference() -> None:
    sound = np.random.default_rng(3).normal(0, 0.1, RATE_HZ).astype(np.float32)
    assert np.allclose(spectra(sound), spectra(sound * 0.05), atol=1e-3)


def test_a_span_has_sound_or_silence_around_it() -> None:
    line = np.arange(10 * HOP, dtype=np.float32)
    around = round(AROUND_S * FRAMES_PER_S) * HOP
    part = span_line(line, 2 * HOP, 5 * HOP)
    assert len(part) == 3 * HOP + 2 * around and part[around] == 2 * HOP and part[0] == 0 == part[-1]


def test_a_stated_offset_stands_and_another_is_measured() -> None:
    t = np.arange(48_000) / 48_000
    sound = np.sum([np.sin(2 * np.pi * 446 * k * t) / k for k in range(1, 5)], axis=0).astype(np.float32)[:, None]
    assert offset_of(sound, -12.0) == -12.0
    assert offset_of(sound, 0.0) == pytest.approx(1_200 * np.log2(446 / 440), abs=3)
    assert offset_of(np.zeros((0, 1), np.float32), 0.0) == 0.0


def test_what_is_kept_of_a_note_comes_back() -> None:
    (note,) = heard_notes(maps((69, 50, 120, 0.9)), judge_by_strength)
    slid = replace(note, joined=Joined.SLID_IN, slid_from=2, slid_s=0.1)
    (again,) = from_stored(to_stored(Hearing((slid,)).moved(3.0))).notes
    assert again.onset_s == pytest.approx(note.onset_s + 3, abs=1e-4) and again.slid_from == 2
    assert again.judged is not None and note.judged is not None
    assert again.judged.right == pytest.approx(note.judged.right, abs=1e-3)
    assert np.abs(again.cents - note.cents).max() <= 0.5


def test_a_long_span_is_heard_in_pieces_as_if_at_once(nets, monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(11)
    line = np.zeros(RATE_HZ * 16, np.float32)
    for number in range(28):
        at, hz = round((0.4 + 0.55 * number) * RATE_HZ), 220 * 2 ** (rng.integers(0, 20) / 12)
        t = np.arange(RATE_HZ // 2) / RATE_HZ
        line[at : at + len(t)] += sum(np.sin(2 * np.pi * hz * k * t) / k for k in range(1, 7)) * np.exp(-4 * t) * 0.2
    around = np.zeros(round(AROUND_S * FRAMES_PER_S) * HOP, np.float32)
    span = np.concatenate([around, line, around])
    shares: list[float] = []
    in_pieces = listen(span, nets, report=shares.append).notes
    assert len(shares) == 2 and shares[-1] == 1.0
    monkeypatch.setattr(listening, "PIECE_S", 60.0)
    at_once = listen(span, nets).notes
    assert len(at_once) > 20 and all(-EARLY_S <= note.onset_s < 16 for note in at_once)
    assert [(n.midi, round(n.onset_s, 2)) for n in in_pieces] == [(n.midi, round(n.onset_s, 2)) for n in at_once]
