"""Feel: where notes were played against grid and swing, and when bends leave and arrive."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import ground_on
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.techniques import HammerOn
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.playing.timing import expected_seconds
from usagi.core.readings.feel import Feel, Sounded, feel_of

GROUND = ground_on("| Am7 | D7 |")  # 120 beats a minute: a pulse of half a second


def quarters(count: int, **fields: object) -> list[Note]:
    return [
        Note.model_validate({"id": f"n{i}", "tick": i * QUARTER, "ticks": QUARTER, "string": 2, "fret": 500} | fields)
        for i in range(count)
    ]


def feel(notes: list[Note], late_ms: list[float], ground=GROUND, **heard: Sounded) -> Feel:  # type: ignore[no-untyped-def]
    """Of notes that were played so many milliseconds behind where they are expected."""
    solo = Solo(settings=SoloSettings(last_bar=8), notes=tuple(notes))
    expected = expected_seconds(solo, ground, [note.tick for note in notes])
    sounded = {
        note.id: Sounded(at + late / 1_000, at + 0.4) for note, at, late in zip(notes, expected, late_ms, strict=False)
    }
    return feel_of(notes, sounded | heard, solo, ground)


@pytest.mark.parametrize(
    ("late_ms", "says"),
    [
        ([22, 20, 24, 21, 23, 22], "Played 22 ms behind, evenly."),
        ([-30, -28, -31, -29, -30, -30], "Played 30 ms ahead, evenly."),
        ([8, 10, 9, 10, 9, 8], "Played on the beat, evenly."),
        ([0, 40, 10, 50, 20, 60], "Played 30 ms behind, loosely, within 35 ms."),
        ([22, 20, 24], "Too little was heard to tell."),
        ([], "These notes were not listened to."),
    ],
)
def test_a_phrase_is_said_to_lie_behind_ahead_or_on_the_beat(late_ms: list[float], says: str) -> None:
    assert feel(quarters(6), late_ms).says == says


def test_only_picked_notes_tell() -> None:
    joined = quarters(6, attack=HammerOn().model_dump())
    assert feel(joined, [20] * 6).says == "These notes were not listened to."


def test_a_note_is_off_beyond_twice_the_looseness_of_its_phrase() -> None:
    found = feel(quarters(8), [16, 18, 20, 22, 22, 26, 28, 60])
    assert found.median_ms == pytest.approx(22) and [one.note for one in found.notes if one.off] == ["n7"]
    assert found.notes[7].percent == pytest.approx(12)  # 60 ms of a pulse of half a second


@given(st.floats(1.2, 3.0))
def test_the_swing_that_was_played_is_measured_and_expected_swing_is_no_lateness(ratio: float) -> None:
    notes = [Note(id=f"n{i}", tick=i * EIGHTH, ticks=EIGHTH, string=2, fret=500) for i in range(9)]
    swung = ground_on("| {swing " + f"{ratio:.2f}" + "} Am7 | D7 |")
    found = feel(notes, [5.0] * 9, swung)
    assert found.swing == pytest.approx(ratio, abs=0.02)
    assert found.median_ms == pytest.approx(5, abs=0.1) and found.spread_ms == pytest.approx(0, abs=0.1)


@pytest.mark.parametrize(
    ("leaves_s", "arrives_s", "early"),
    [(0.25, 0.35, False), (0.05, 0.15, True), (0.25, None, False)],
)
def test_a_bend_says_when_it_arrives_and_whether_it_left_early(
    leaves_s: float, arrives_s: float | None, early: bool
) -> None:
    """Written to leave its fret after a quarter of a second, up a whole step."""
    bend = Note(
        id="b", tick=4 * QUARTER, ticks=2 * QUARTER, string=2, fret=500, course=((0, 0), (5_040, 0), (7_560, 4))
    )
    at = np.linspace(0, 1.0, 32)
    top = 200.0 if arrives_s is not None else 150.0
    cents = np.interp(at, (0, leaves_s, arrives_s or 0.35), (0, 0, top))
    heard = Sounded(2.0, 3.0, tuple(float(one) for one in cents))
    (found,) = feel([*quarters(4), bend], [0] * 4, b=heard).bends
    assert (found.early_ms is not None) == early
    if arrives_s is None:
        assert found.arrives_ms is None
    else:
        assert found.arrives_ms == pytest.approx(1_000 * arrives_s, abs=45)


def test_density_counts_onsets_a_second() -> None:
    assert feel(quarters(8), []).density == pytest.approx(2.0)
