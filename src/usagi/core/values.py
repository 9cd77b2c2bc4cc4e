"""The base of all stored values: frozen and closed, so that a misspelled field is refused and not carried along."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A value that exists is a value that is right; unknown fields are refused, and JSON Schema says so too."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="constants", allow_inf_nan=False)
