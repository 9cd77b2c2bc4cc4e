"""Stock forms and bar arithmetic: questions about form that need no solo."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from usagi.core.chart.arithmetic import MOST_BARS, Fit, fit
from usagi.core.chart.forms import Cadence, Form, Turnaround, Variant, form_text
from usagi.core.pitch.keys import parse_key

router = APIRouter(prefix="/api")
Bars = Annotated[int, Query(ge=0, le=MOST_BARS)]


class FormText(BaseModel):
    """A form as chart text."""

    text: str


@router.get("/forms")
def get_form(
    form: Form,
    key: Annotated[str, Query(max_length=40)],
    quick_change: bool = False,
    sharp_four: bool = False,
    cadence: Cadence = Cadence.V_IV,
    turnaround: Turnaround = Turnaround.NONE,
    minor_two: bool = False,
    choruses: Annotated[int, Query(ge=1, le=64)] = 1,
) -> FormText:
    variant = Variant(quick_change, sharp_four, cadence, turnaround, minor_two, choruses)
    return FormText(text=form_text(form, parse_key(key), variant))


@router.get("/fit")
def get_fit(figure: Bars, form: Bars) -> Fit:
    return fit(figure, form)
