"""The fonts that are printed (making/README.md), by their names."""

from __future__ import annotations

from pathlib import Path
from typing import Final

FOLDER: Final = Path(__file__).parent


def font_file(name: str) -> Path:
    """The TrueType file of a font: Reading, ReadingBold, Naming, Signs."""
    return FOLDER / f"{name}.ttf"
