"""Bounds of numbers that routes of several subjects take."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query
from pydantic import Field

MOST_VERSIONS = 2**31 - 1
StateNumber = Annotated[int, Query(ge=0, le=MOST_VERSIONS)]
BarNumber = Annotated[int, Path(ge=0, le=10_000)]
Second = Annotated[float, Field(ge=-3_600, le=36_000)]
