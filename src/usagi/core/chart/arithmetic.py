"""How figures and forms fit into each other, counted in bars."""

from __future__ import annotations

from dataclasses import dataclass
from math import gcd

from usagi.core.errors import UsagiError

MOST_BARS = 10_000


class CountImpossible(UsagiError):
    """Bars that cannot be counted."""

    code = "count-impossible"


@dataclass(frozen=True, slots=True)
class Fit:
    """A figure of some bars, repeated over a form: whole times, bars left over, and when both begin together again."""

    figure: int
    form: int
    times: int
    left_over: int
    round_bars: int
    round_figures: int
    round_forms: int
    sentence: str


def fit(figure: int, form: int) -> Fit:
    """How a figure fits a form. Raises : CountImpossible.

    >>> fit(3, 8).sentence
    'Goes 2 times into 8 bars, 2 bars are left over; both begin together again after 24 bars, 8 figures, 3 forms.'
    >>> fit(4, 12).left_over
    0
    """
    if not 1 <= figure <= MOST_BARS or not 1 <= form <= MOST_BARS:
        raise CountImpossible(f"A figure and a form have 1 to {MOST_BARS} bars.")
    times, left = divmod(form, figure)
    together = figure * form // gcd(figure, form)
    often = "once" if times == 1 else f"{times} times"
    first = f"Goes {often} into {form} bars" if times else f"Is longer than {form} bars"
    if times and left:
        first += f", {left} {'bar is' if left == 1 else 'bars are'} left over"
    rest = ""
    if together != form:
        rest = f"; both begin together again after {together} bars"
        rest += f", {together // figure} figures, {together // form} forms"
    return Fit(figure, form, times, left, together, together // figure, together // form, f"{first}{rest}.")
