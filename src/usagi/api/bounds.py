"""Bounds of numbers that routes of several subjects take."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query, UploadFile
from pydantic import Field

MOST_VERSIONS = 2**31 - 1
StateNumber = Annotated[int, Query(ge=0, le=MOST_VERSIONS)]
BarNumber = Annotated[int, Path(ge=0, le=10_000)]
Second = Annotated[float, Field(ge=-3_600, le=36_000)]
MOST_DOCUMENT_BYTES = 50_000_000


def read_document_file(file: UploadFile) -> bytes:
    """The bytes of a document that was brought; of one that is too long not all, so that it does not read."""
    return file.file.read(MOST_DOCUMENT_BYTES)
