"""Stock forms and bar arithmetic."""

from __future__ import annotations

from itertools import product

import pytest

from strategies import sequential_ids
from usagi.core.chart.arithmetic import CountImpossible, fit
from usagi.core.chart.forms import Cadence, Form, Turnaround, Variant, form_text
from usagi.core.chart.text import read_chart
from usagi.core.chart.timeline import play, unroll
from usagi.core.pitch.keys import parse_key

BARS = {Form.TWELVE: 12, Form.MINOR_TWELVE: 12, Form.EIGHT: 8, Form.SIXTEEN: 16}
TONICS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


def played(text: str) -> list[str]:
    """Bar by bar the symbols that a text plays."""
    chart = read_chart(text, new_id=sequential_ids("x")).chart
    return [" ".join(chord.symbol for chord in bar.written.chords) for bar in play(chart)]


@pytest.mark.parametrize("form", list(Form))
@pytest.mark.parametrize("tonic", TONICS)
def test_every_form_reads_in_every_key_with_all_variants(form: Form, tonic: str) -> None:
    key = parse_key(f"{tonic} {'minor' if form is Form.MINOR_TWELVE else 'major'}")
    for quick, sharp, cadence, turn in product((False, True), (False, True), Cadence, Turnaround):
        text = form_text(form, key, Variant(quick, sharp, cadence, turn, minor_two=sharp))
        chart = read_chart(text, new_id=sequential_ids("x")).chart
        timeline = unroll(chart, bars=BARS[form])
        assert len(play(chart)) == BARS[form]
        assert timeline.facts_at(0).blues and str(timeline.facts_at(0).key) == str(key)


@pytest.mark.parametrize(
    ("form", "key", "variant", "bars"),
    [
        (Form.TWELVE, "A major", Variant(), "A7 A7 A7 A7 D7 D7 A7 A7 E7 D7 A7 A7"),
        (
            Form.TWELVE, "Bb major",
            Variant(True, True, Cadence.II_V, Turnaround.I_VI_II_V),
            "Bb7 Eb7 Bb7 Bb7 Eb7 Edim7 Bb7 Bb7 Cm7 F7 Bb7+G7 Cm7+F7",
        ),
        (Form.MINOR_TWELVE, "C minor", Variant(), "Cm7 Cm7 Cm7 Cm7 Fm7 Fm7 Cm7 Cm7 Ab7 G7 Cm7 G7"),
        (Form.SIXTEEN, "E major", Variant(), "E7 E7 E7 E7 A7 A7 E7 E7 B7 A7 B7 A7 B7 A7 E7 E7"),
        (Form.EIGHT, "D major", Variant(), "D7 A7 G7 G7 D7 A7 D7 A7"),
    ],
)  # fmt: skip
def test_forms_are_what_players_mean_by_them(form: Form, key: str, variant: Variant, bars: str) -> None:
    assert played(form_text(form, parse_key(key), variant)) == [bar.replace("+", " ") for bar in bars.split()]


def test_choruses_play_the_form_again() -> None:
    assert len(played(form_text(Form.TWELVE, parse_key("G major"), Variant(choruses=3)))) == 36


@pytest.mark.parametrize(
    ("figure", "form", "times", "left", "together"),
    [
        (3, 12, 4, 0, 12),
        (3, 8, 2, 2, 24),
        (2, 12, 6, 0, 12),
        (5, 12, 2, 2, 60),
        (16, 12, 0, 12, 48),
        (12, 12, 1, 0, 12),
    ],
)
def test_figures_over_forms(figure: int, form: int, times: int, left: int, together: int) -> None:
    found = fit(figure, form)
    assert (found.times, found.left_over, found.round_bars) == (times, left, together)
    assert found.round_figures * figure == found.round_forms * form == together


def test_counting_needs_bars() -> None:
    with pytest.raises(CountImpossible):
        fit(0, 12)
