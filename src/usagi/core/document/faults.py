"""Pydantic's findings about a value, put into a sentence for a person: what stands there and what may stand there."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import ValidationError

# Fields of a note that a hand can get wrong, with the way on.
WORDS = {
    "string": "There is no string {value}: a guitar here has 4 to 8. Choose another string",
    "fret": "There is no fret {fret}: the longest neck here has 36. Choose another fret",
    "ticks": "A length of {value} ticks is none: it lasts from 1 tick to eight whole notes",
}
# What a person calls the fields of a form.
NAMES = {
    "bars": "The number of bars",
    "first_bar": "The solo's first bar",
    "last_bar": "The solo's last bar",
    "tempo_bpm": "The tempo",
    "bar_one_s": "The start of bar 1",
    "capo": "The capo",
    "last_fret": "The last fret",
    "offset_cents": "The offset in cents",
    "pickup_pulses": "The pick-up",
    "swing_ratio": "The swing ratio",
    "ratio": "The swing ratio",
    "scale_length_mm": "The scale length",
    "choruses": "The number of choruses",
    "tune": "The name of the tune",
    "title": "The title",
    "player": "The player's name",
    "second": "The place in seconds",
}
LIMITS = {
    "greater_than_equal": "the lowest is {ge:g}",
    "greater_than": "it is more than {gt:g}",
    "less_than_equal": "the highest is {le:g}",
    "less_than": "it is less than {lt:g}",
}
WHOLE = ("int_parsing", "int_type", "int_from_float", "int_parsing_size")
LONGEST_SHOWN = 40  # letters
FORMS = {
    "model_type": "object with fields",
    "model_attributes_type": "object with fields",
    "dict_type": "object with fields",
    "list_type": "list",
    "tuple_type": "list",
    "string_type": "text",
    "bool_type": "yes or no",
    "bool_parsing": "yes or no",
}
NUMBERS = (*WHOLE, "float_parsing", "float_type", "finite_number")


def explain(fault: ValidationError) -> str:
    """The first finding as a sentence, and how many more there are."""
    return explain_finding(fault.errors(include_url=False)[0], more=fault.error_count() - 1)


def explain_finding(first: Mapping[str, Any], *, more: int = 0) -> str:
    """One finding of Pydantic's (`ErrorDetails`, or FastAPI's dict of it) as a sentence."""
    rest = f" ({more} more)" if more else ""
    parts: Sequence[Any] = first["loc"]
    place = ".".join(str(part) for part in parts)
    value, field = first.get("input"), str(parts[-1]) if parts else ""
    name = NAMES.get(field) or place or "What was sent"
    if field in WORDS and isinstance(value, int | float):
        words = WORDS[field].format(value=_shown(value), fret=_hundredths(value))
        return f"{words}{f' ({place})' if len(parts) > 1 else ''}{rest}."
    kind, context = str(first["type"]), first.get("ctx") or {}
    if kind == "missing":
        return f"{place} is missing{rest}."
    if kind == "string_unicode":
        return f"{place or 'a text'} holds half a character (a lone surrogate): write it again{rest}."
    if kind == "extra_forbidden":
        return f"{place} is not known here{rest}."
    if kind in LIMITS:
        return f"{name} cannot be {_shown(value)}: {LIMITS[kind].format(**context)}{rest}."
    if kind in NUMBERS:
        whole = " whole" if kind in WHOLE else ""
        return f"{name} is a{whole} number; {_shown(value)} is not{rest}."
    if kind == "string_too_long":
        return f"{name} is too long: at most {context['max_length']} characters{rest}."
    if kind == "string_too_short":
        return f"{name} is empty: write something{rest}."
    if kind.startswith("uuid"):
        return f"{name} is no id of anything here{rest}."
    if kind in FORMS:
        return f"{name} is no {FORMS[kind]}{rest}."
    if kind in ("literal_error", "enum"):
        return f"{name} cannot be {_shown(value)}: it is one of {context['expected']}{rest}."
    if kind == "value_error":
        return f"{str(context.get('error', first['msg'])).rstrip('.')}{rest}."
    if isinstance(value, bytes | bytearray):
        return f"{name} cannot be read{rest}."
    return f"{name} cannot be {_shown(value)}{rest}."


def _shown(value: Any) -> str:
    """A value as a person would write it, cut where it is long."""
    if isinstance(value, float) and math.isfinite(value):
        text = f"{value:.6g}" if abs(value) < 1e15 else f"{value:.0e}"
    elif isinstance(value, bytes | bytearray):
        text = "such bytes"
    else:
        text = json.dumps(value, ensure_ascii=False, default=str).encode("utf-8", "replace").decode()
    return text if len(text) <= LONGEST_SHOWN else text[: LONGEST_SHOWN - 1] + "…"


def _hundredths(value: float) -> str:
    return f"{value / 100:g}" if abs(value) < 1e15 else _shown(value)
