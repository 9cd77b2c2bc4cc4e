"""The program's guitar, heard by a pitch tracker of other make (autocorrelation, as phoneticians use)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

import numpy as np
import parselmouth
import pytest
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ
from usagi.core.audio.voice import guitar
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import read_document
from usagi.core.playing.strings import string_events
from usagi.settings import project_root

Track = tuple[NDArray[np.float64], NDArray[np.float64]]
DEMOS = ("lanterns-at-low-water", "gull-weather")
STEP_S = 0.002


def heard(line: NDArray[np.float64], low_hz: float = 70.0) -> Track:
    """Times and frequencies where the tracker hears a pitch."""
    pitch = parselmouth.Sound(line, RATE_HZ).to_pitch_ac(
        time_step=STEP_S, pitch_floor=low_hz, pitch_ceiling=1_500.0, very_accurate=True
    )
    hz = pitch.selected_array["frequency"]
    return pitch.xs()[hz > 0], hz[hz > 0]


def rate(hz: NDArray[np.float64]) -> float:
    """How fast a pitch swings around a straight line: the rate of the sinusoid that leaves least over."""
    cents = 1_200 * np.log2(hz)
    t = np.arange(len(cents)) * STEP_S
    rates = np.arange(3.0, 9.0, 0.02)
    left = []
    for one in rates:
        basis = np.stack([np.ones_like(t), t, np.sin(2 * np.pi * one * t), np.cos(2 * np.pi * one * t)], axis=1)
        left.append(np.sum((cents - basis @ np.linalg.lstsq(basis, cents)[0]) ** 2))
    return float(rates[np.argmin(left)])


def stages(note: Note) -> Iterator[tuple[float, float, float]]:
    """`(from, to, half steps)` of what is held, in shares of the note's length."""
    points = [*note.course, (note.ticks, note.course[-1][1])]
    for (start, low), (end, high) in pairwise(points):
        if low == high and end > start:
            yield start / note.ticks, end / note.ticks, low / 2


@pytest.mark.parametrize("demo", DEMOS)
def test_bends_and_vibrato_of_the_demo(demo: str) -> None:
    document = read_document((project_root() / "demo" / f"{demo}.json").read_bytes())
    solo = document.solo
    sounding = [note for note in solo.notes if note.fret is not None and not note.dead]
    bends, shakes = 0, 0
    events = [event for event in string_events(solo, document.ground) if not event.muted]
    for note, event in zip(sounding, events, strict=True):
        if not note.course and note.vibrato is None:
            continue
        line = guitar([replace(event, onset_s=0.1)], event.sounding_s + 0.5)[:, 0]
        at, hz = heard(line.astype(np.float64), 140.0)
        for start, end, half_steps in stages(note) if note.vibrato is None else ():
            begin, until = (0.1 + share * event.sounding_s for share in (start, end))
            held = (at > begin + 0.03) & (at < until - 0.03)
            if np.sum(held) < 0.04 / STEP_S:
                continue
            true = solo.settings.tuning[note.string - 1] + solo.settings.capo + (note.fret or 0) / 100 + half_steps
            cents = 1_200 * np.log2(np.median(hz[held]) / (440 * 2 ** ((true - 69) / 12)))
            assert abs(cents) < 5, (note.id, half_steps, cents)
            bends += 1
        if note.vibrato is not None and not note.course:
            begins = 0.1 + event.sounding_s * note.vibrato.start / note.ticks
            shaking = (at > begins + 0.1) & (at < 0.1 + event.sounding_s - 0.02)
            if np.sum(shaking) * STEP_S > 1.8 / note.vibrato.rate_hz:
                assert rate(hz[shaking]) == pytest.approx(note.vibrato.rate_hz, abs=0.3), note.id
                shakes += 1
    assert bends + shakes >= (3 if demo == DEMOS[0] else 1)


@pytest.mark.parametrize("rate_hz", [4.5, 5.5, 6.5])
@pytest.mark.parametrize(("string", "fret"), [(2, 8), (3, 7), (5, 5)])
def test_a_bend_is_followed_all_the_way_and_vibrato_keeps_its_rate(string: int, fret: int, rate_hz: float) -> None:
    ground = Ground.model_validate(
        {"anchors": [{"id": "a", "tick": 0, "second": 0.2}, {"id": "b", "tick": 10_080, "second": 0.7}]}
    )
    bent = {"id": "n", "tick": 0, "ticks": 40_320, "string": string, "fret": 100 * fret}
    solo = Solo.model_validate(
        {
            "notes": [
                bent | {"course": [(0, 0), (10_080, 4), (20_160, 4), (30_240, 2)]},
                bent | {"id": "m", "tick": 40_320, "vibrato": {"start": 0, "width_cents": 60, "rate_hz": rate_hz}},
            ]
        }
    )
    line = guitar(string_events(solo, ground), 5.0)[:, 0]
    at, hz = heard(line.astype(np.float64))
    open_midi = (64, 59, 55, 50, 45, 40)[string - 1]
    cents = 1_200 * np.log2(hz / (440 * 2 ** ((open_midi + fret - 69) / 12)))
    bending = (at > 0.26) & (at < 2.1)
    true = np.interp(at[bending] - 0.2, [0, 0.5, 1.0, 1.5, 2.0], [0, 200, 200, 100, 100])
    assert np.sqrt(np.mean((cents[bending] - true) ** 2)) < 5
    shaking = (at > 2.5) & (at < 4.1)
    assert rate(hz[shaking]) == pytest.approx(rate_hz, abs=0.3)
    assert np.percentile(cents[shaking], 99) - np.percentile(cents[shaking], 1) == pytest.approx(60, abs=5)


GROUND = Ground.model_validate(
    {"anchors": [{"id": "a", "tick": 0, "second": 0.5}, {"id": "b", "tick": 10_080, "second": 1.0}]}
)
HELD = {"id": "n", "tick": 0, "ticks": 20_160, "string": 2, "fret": 800}


def played(*notes: dict[str, object], **others: object) -> NDArray[np.float64]:
    solo = Solo.model_validate({"notes": list(notes), **others})
    return np.asarray(guitar(string_events(solo, GROUND), 3.0)[:, 0], np.float64)


# Every technique, on a note that is otherwise plain, and what is before it.
TECHNIQUES: dict[str, dict[str, object]] = {
    "hammer-on": {"attack": {"kind": "hammer-on"}},
    "slide": {"attack": {"kind": "slide"}},
    "slide from nowhere": {"attack": {"kind": "slide-in", "start": "far below", "ticks": 2_520}},
    "slide from a fret": {"attack": {"kind": "slide-in", "start": 500, "ticks": 2_520}},
    "tapped": {"attack": {"kind": "tapped"}},
    "natural harmonic": {"attack": {"kind": "harmonic"}, "fret": 1_200},
    "pinched harmonic": {"attack": {"kind": "harmonic", "how": "pinched", "partial": 3}},
    "bend": {"course": [[0, 0], [5_040, 4]]},
    "dip": {"course": [[0, 0], [5_040, -4], [10_080, 0]]},
    "vibrato": {"vibrato": {"start": 0}},
    "trill": {"trill": {"fret": 1_000}},
    "slide off": {"ending": {"kind": "slide-off", "to": "far down", "ticks": 5_040}},
    "staccato": {"ending": {"kind": "staccato"}},
    "choked": {"ending": {"kind": "choked"}},
    "let ring": {"ending": {"kind": "let ring"}},
    "dead": {"dead": True},
    "ghost": {"ghost": True},
    "accent": {"accent": True},
    "palm mute": {"palm_mute": True},
    "tremolo": {"tremolo": {}},
    "rake": {"rake": {"strings": [4, 3]}},
    "finger": {"pick": "finger"},
    "up": {"pick": "up"},
}


@pytest.mark.parametrize("name", TECHNIQUES)
def test_every_technique_is_heard(name: str) -> None:
    before = HELD | {"id": "b", "tick": -5_040, "ticks": 5_040, "fret": 600}
    plain, shaped = played(before, HELD), played(before, HELD | TECHNIQUES[name])
    assert np.isfinite(shaped).all() and np.abs(shaped).max() > 0.01
    assert np.sqrt(np.mean((plain - shaped) ** 2)) > 0.01 * np.sqrt(np.mean(plain**2))


def test_strokes_dynamics_and_swells_are_heard() -> None:
    chord = [HELD | {"id": f"c{s}", "string": s, "stack": "k"} for s in (4, 3, 2, 1)]
    down, up, together = (
        played(*chord, stacks=[{"id": "k", "stroke": stroke, "spread_ms": 60}]) for stroke in ("down", "up", "together")
    )
    assert np.abs(down - up).max() > 0.05 and np.abs(down - together).max() > 0.05
    soft = played(HELD, dynamics=[{"id": "d", "tick": 0, "level": "pp"}])
    assert np.abs(soft).max() < 0.8 * np.abs(played(HELD)).max()
    louder = {"id": "s", "start": 0, "end": 20_160, "to": "louder"}
    swelling = played(HELD, swells=[louder])
    late = slice(round(1.2 * RATE_HZ), round(1.4 * RATE_HZ))
    assert np.abs(swelling[late]).max() > 1.1 * np.abs(played(HELD)[late]).max()
    # The level written at its end is where it leads to, unless that lies the other way.
    heights = [
        np.abs(played(HELD, swells=[louder], dynamics=[{"id": "d", "tick": 20_160, "level": level}])[late]).max()
        for level in ("p", "f", "ff")
    ]
    assert heights[0] == np.abs(swelling[late]).max() and heights[1] < heights[2]


def test_onsets_lie_where_they_are_written() -> None:
    """An onset is where the line first reaches a tenth of what it reaches within 30 ms."""
    notes = [HELD | {"id": f"n{i}", "tick": i * 5_040, "ticks": 2_520, "string": 1 + i % 3} for i in range(7)]
    line = np.abs(played(*notes))
    for i in range(7):
        true = 0.5 + i * 0.25
        window = line[round((true - 0.03) * RATE_HZ) : round((true + 0.03) * RATE_HZ)]
        onset = true - 0.03 + int(np.argmax(window > 0.1 * window.max())) / RATE_HZ
        assert abs(onset - true) < 0.002


def test_a_slide_goes_from_one_fret_to_the_other_and_a_trill_turns_at_its_rate() -> None:
    at, hz = heard(played(HELD | {"attack": {"kind": "slide-in", "start": 500, "ticks": 10_080}}))
    midi = 69 + 12 * np.log2(hz / 440)
    sliding = (at > 0.56) & (at < 0.94)
    assert np.abs(midi[sliding] - np.interp(at[sliding], [0.5, 1.0], [64, 67])).max() < 0.05
    at, hz = heard(played(HELD | {"trill": {"fret": 1_000, "rate_hz": 5.0}}))
    midi = 69 + 12 * np.log2(hz / 440)
    inside = (at > 0.52) & (at < 1.48)
    crossings = np.sum(np.diff(midi[inside] > 68) != 0)
    assert crossings == pytest.approx(2 * 5.0 * 0.96, abs=1.1)
    assert midi[inside].min() == pytest.approx(67, abs=0.1) and midi[inside].max() == pytest.approx(69, abs=0.1)


def test_a_string_that_rings_on_falls_silent_when_it_is_struck_again_or_a_rest_comes() -> None:
    ringing = HELD | {"ticks": 5_040, "ending": {"kind": "let ring"}}
    late = slice(round(1.1 * RATE_HZ), round(1.4 * RATE_HZ))
    assert np.abs(played(ringing)[late]).max() > 0.05
    assert np.abs(played(ringing, rests=[{"id": "r", "tick": 5_040, "ticks": 5_040}])[late]).max() < 0.005
