"""Pydantic's findings about a stored value, put into a sentence for a person."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

# Fields of a note that a hand can get wrong, with the way on.
WORDS = {
    "string": "There is no string {value}: a guitar here has 4 to 8. Choose another string",
    "fret": "There is no fret {fret}: the longest neck here has 36. Choose another fret",
    "ticks": "A length of {value} ticks is none: it lasts from 1 tick to eight whole notes",
}


def explain(fault: ValidationError) -> str:
    """The first finding as a sentence: the place, what stands there, what may stand there."""
    first = fault.errors(include_url=False)[0]
    more = fault.error_count() - 1
    rest = f" ({more} more)" if more else ""
    place = ".".join(str(part) for part in first["loc"])
    known = _in_words(first)
    if known is not None:
        return f"{known}{f' ({place})' if len(first['loc']) > 1 else ''}{rest}."
    if first["type"] == "missing":
        return f"{place} is missing{rest}."
    if first["type"] == "extra_forbidden":
        return f"{place} is not known here{rest}."
    shown = json.dumps(first.get("input"), ensure_ascii=False, default=str)
    shown = shown if len(shown) <= 60 else shown[:57] + "…"
    return f"{place or 'the top'} is {shown}; {first['msg'][0].lower()}{first['msg'][1:]}{rest}."


def _in_words(first: ErrorDetails) -> str | None:
    value: Any = first.get("input")
    field = str(first["loc"][-1]) if first["loc"] else ""
    if field not in WORDS or not isinstance(value, int | float):
        return None
    return WORDS[field].format(value=value, fret=f"{value / 100:g}")
