"""When notes are expected, what strings do, and where loops and count-ins fall."""

from __future__ import annotations

import pytest
from hypothesis import given

from strategies import QUARTER, chord_symbols, documents, ground_on, sequential_ids
from usagi.core.audio import RATE_HZ
from usagi.core.chart.text import read_chart
from usagi.core.document.elements import ChangesChoice, Dynamic, Note, OtherChord, Phrase
from usagi.core.document.pitches import stages, written_pitch
from usagi.core.document.solo import Anchor, Ground, GroundSettings, OwnFeel, Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.playing.chord_line import chord_events, voicing
from usagi.core.playing.loops import count_in, loop_span, whole_bars
from usagi.core.playing.strings import string_events
from usagi.core.playing.timing import expected_seconds

BAR = 4 * QUARTER
EIGHTH = QUARTER // 2


def ground(chart: str = "| Em7 | A7 |", seconds: float = 0.5) -> Ground:
    read = read_chart(chart, new_id=sequential_ids("c"))
    return Ground(
        settings=GroundSettings(bars=8, form=read.chart.form),
        sections=read.chart.sections,
        anchors=(Anchor(id="a", tick=0, second=1.0), Anchor(id="b", tick=QUARTER, second=1.0 + seconds)),
    )


def note(**fields: object) -> Note:
    return Note.model_validate({"id": "n", "tick": 0, "ticks": QUARTER, "string": 2, "fret": 1000} | fields)


def solo(*notes: Note, **settings: object) -> Solo:
    return Solo(settings=SoloSettings.model_validate({"last_bar": 8} | settings), notes=notes)


def test_a_loop_starts_30_ms_before_the_earlier_of_grid_and_heard_onset() -> None:
    late = note(heard={"onset_s": 3.05, "end_s": 3.4, "confidence": 0.9}, tick=BAR)
    early = note(heard={"onset_s": 2.97, "end_s": 3.4, "confidence": 0.9}, tick=BAR)
    on_grid = loop_span(solo(late), ground(), BAR, 2 * BAR)
    ahead = loop_span(solo(early), ground(), BAR, 2 * BAR)
    assert on_grid.start == round(2.97 * RATE_HZ) and ahead.start == round(2.94 * RATE_HZ)
    assert on_grid.end - on_grid.start == ahead.end - ahead.start == 2 * RATE_HZ


def test_a_phrase_loops_from_the_bar_line_at_or_before_it_for_whole_bars() -> None:
    assert whole_bars(Phrase(id="p", start=BAR + 100, end=2 * BAR), ground()) == (BAR, 2 * BAR)
    assert whole_bars(Phrase(id="p", start=BAR, end=2 * BAR + 1), ground()) == (BAR, 3 * BAR)


@pytest.mark.parametrize(
    ("chart", "clicks"), [("| Em7 |", 4), ("| {6/8} Em7 |", 2), ("| {7/8 2+2+3} Em7 |", 3), ("| {3/8} Em7 |", 3)]
)
def test_a_count_in_is_one_bar_with_a_click_on_every_pulse_the_first_higher(chart: str, clicks: int) -> None:
    wanted = count_in(ground(chart), 0, speed_permille=500)
    bar_s = ground(chart).timeline.bars.bars[0].ticks / QUARTER * 0.5
    assert [high for _, high in wanted.at_s] == [True] + [False] * (clicks - 1)
    assert wanted.length_s == pytest.approx(2 * bar_s)
    assert all(0 <= second < wanted.length_s for second, _ in wanted.at_s)


def test_a_solo_may_hold_its_own_feel_over_the_bands() -> None:
    straight, swung = solo(note(tick=EIGHTH)), solo(note(tick=EIGHTH), feel=OwnFeel(feel="swing", ratio=2.0))
    assert expected_seconds(straight, ground(), [EIGHTH]) == [pytest.approx(1.25)]
    assert expected_seconds(swung, ground(), [EIGHTH]) == [pytest.approx(1 + 0.5 * 2 / 3)]


@given(documents())
def test_expected_seconds_keep_the_order_of_the_line(document: SoloDocument) -> None:
    ticks = [n.tick for n in document.solo.notes]
    seconds = expected_seconds(document.solo, document.ground, ticks)
    assert seconds == sorted(seconds)


# Attack or fret, and the pitch that is written: open string 2 is 59.
HARMONICS = [
    ({"attack": {"kind": "harmonic", "how": "natural"}, "fret": 1200}, 71),
    ({"attack": {"kind": "harmonic", "how": "natural"}, "fret": 700}, 78),
    ({"attack": {"kind": "harmonic", "how": "natural"}, "fret": 500}, 83),
    ({"attack": {"kind": "harmonic", "how": "natural"}, "fret": 320}, 90),
    ({"attack": {"kind": "harmonic", "how": "pinched", "partial": 3}, "fret": 500}, 83),
    ({"attack": {"kind": "harmonic", "how": "tapped", "partial": 2}, "fret": 500}, 76),
    ({"fret": 1000}, 69),
    ({"fret": None, "dead": True}, None),
]


@pytest.mark.parametrize(("fields", "midi"), HARMONICS)
def test_harmonics_sound_where_they_sound(fields: dict[str, object], midi: int | None) -> None:
    assert written_pitch(note(**fields), SoloSettings()) == midi
    above = written_pitch(note(**fields), SoloSettings(capo=2))
    assert above == (None if midi is None else midi + 2)


def test_a_slide_in_and_a_slide_off_have_both_their_ends() -> None:
    fields = {
        "attack": {"kind": "slide-in", "start": 700, "ticks": 2520},
        "ending": {"kind": "slide-off", "to": 500, "ticks": 2520},
    }
    assert [(s.tick, s.midi) for s in stages(note(**fields), SoloSettings())] == [(0, 66), (2520, 69), (QUARTER, 64)]


def test_strings_do_what_is_written() -> None:
    line = solo(
        note(id="a"),
        note(id="b", tick=QUARTER, fret=1200, attack={"kind": "slide"}),
        note(
            id="c",
            tick=2 * QUARTER,
            course=[[0, 0], [EIGHTH, 4]],
            vibrato={"start": EIGHTH, "width_cents": 60, "rate_hz": 5},
        ),
        note(id="d", tick=3 * QUARTER, dead=True),
        note(id="e", tick=BAR, attack={"kind": "pull-off"}, ending={"kind": "staccato"}),
    ).model_copy(update={"dynamics": (Dynamic(id="x", tick=0, level="p"), Dynamic(id="y", tick=BAR, level="ff"))})
    picked, slid, bent, dead, pulled = string_events(line, ground(), late_s=0.02)
    assert [event.onset_s for event in (picked, slid, bent)] == [
        pytest.approx(1.02),
        pytest.approx(1.52),
        pytest.approx(2.02),
    ]
    assert slid.curve[0] == (0.0, 69) and slid.curve[1][1] == 71 and not slid.picked
    assert bent.curve == ((0.0, 69.0), (pytest.approx(0.25), 71.0)) and bent.vibrato == (pytest.approx(0.25), 60, 5)
    assert dead.muted and not pulled.picked
    assert pulled.sounding_s == pytest.approx(0.25) and pulled.loud > picked.loud


def test_far_slides_come_from_far_and_go_far() -> None:
    (event,) = string_events(
        solo(
            note(
                attack={"kind": "slide-in", "start": "far below", "ticks": 2520},
                ending={"kind": "slide-off", "to": "far down", "ticks": 2520},
            )
        ),
        ground(),
    )
    assert event.curve[0][1] < 69 and event.curve[1][1] == 69 and event.curve[-1][1] < 69
    assert [t for t, _ in event.curve] == sorted(t for t, _ in event.curve)


# Fret of the slide, and how many semitones above the open string what is left behind it sounds. By hand: half of the
# string lies behind fret 12, .25085 of it behind fret 5 and .33258 behind fret 7.
@pytest.mark.parametrize(("fret", "semitones"), [(1200, 12.0), (500, 23.94), (700, 19.06)])
def test_the_string_rings_behind_a_slide_that_nothing_mutes(fret: int, semitones: float) -> None:
    written = note(fret=fret)
    own = {"bottleneck": True, "muted_behind": False}
    behind, stopped = string_events(solo(written, **own), ground())
    assert stopped == string_events(solo(written, bottleneck=True), ground())[0]
    assert behind.curve[0][1] - 59 == pytest.approx(semitones, abs=0.005)
    assert behind.loud < stopped.loud / 4 and behind.onset_s == stopped.onset_s
    assert len(string_events(solo(note(fret=0), **own), ground())) == 1
    assert len(string_events(solo(written, muted_behind=False), ground())) == 1


def test_what_rings_behind_a_slide_falls_while_the_slide_climbs() -> None:
    line = (note(fret=500, ticks=EIGHTH), note(id="m", tick=EIGHTH, fret=1200, attack={"kind": "slide"}))
    events = string_events(solo(*line, bottleneck=True, muted_behind=False), ground())
    climbing = [midi for _, midi in events[2].curve]
    assert climbing[0] == pytest.approx(59 + 23.9, abs=0.1) and climbing[-1] == pytest.approx(59 + 12)
    assert climbing == sorted(climbing, reverse=True) and len(climbing) > 10


@given(chord_symbols)
def test_a_chord_under_a_line_holds_its_own_tones_with_its_root_below(symbol: str) -> None:
    heard = hear(parse_chord(symbol))
    if heard is None:
        return
    low, *upper = voicing(heard)
    assert low % 12 == heard.root.pitch_class and all(low < midi for midi in upper)
    assert {(midi - low) % 12 for midi in upper} <= set(heard.semitones)
    assert len(upper) <= 4


def test_chords_are_struck_at_changes_and_bar_lines_and_other_changes_take_their_place() -> None:
    ground = ground_on("| C Am | F |", bars=2)
    laid = ChangesChoice(id="l", start=40_320, end=80_640, name="late", chords=(OtherChord(tick=40_320, symbol="D7"),))
    solo = Solo(settings=SoloSettings(last_bar=2))

    def roots(one: Solo) -> list[tuple[float, int]]:
        strokes: dict[float, int] = {}
        for event in chord_events(one, ground):
            if event.curve[0][1] < 52:
                strokes[round(event.onset_s, 3)] = int(event.curve[0][1]) % 12
        return sorted(strokes.items())

    assert roots(solo) == [(0.0, 0), (1.0, 9), (2.0, 5)]
    assert roots(solo.model_copy(update={"choices": (laid,)})) == [(0.0, 0), (1.0, 9), (2.0, 2)]
