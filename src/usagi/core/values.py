"""The base of all stored values: frozen and closed, so that a misspelled field is refused and not carried along."""

from __future__ import annotations

import unicodedata

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A value that exists is a value that is right; unknown fields are refused, and JSON Schema says so too."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="constants", allow_inf_nan=False)


JOINERS = "\u200c\u200d"  # that letters of some scripts need


def one_line(text: str) -> str:
    """A title or a name as it is kept: one line, without signs that nobody sees or that turn the writing round.

    >>> one_line("  Gull \\u202e Weather\\n")
    'Gull Weather'
    """
    seen = (
        " " if unicodedata.category(sign) in ("Cc", "Cf", "Zl", "Zp") and sign not in JOINERS else sign for sign in text
    )
    return " ".join("".join(seen).split())
