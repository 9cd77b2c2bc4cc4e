"""The nets that ship with the project, as bytes."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Final

FOLDER: Final = Path(__file__).parent


@cache
def model(name: str) -> bytes:
    """A net's ONNX file by its name."""
    return (FOLDER / f"{name}.onnx").read_bytes()
