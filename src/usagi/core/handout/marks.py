"""What a page is made of: texts, lines, curves, boxes. One colour, and the white of the paper behind numbers."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Final, Literal

from pydantic import Field

from usagi.core.handout.staff import StaffLine
from usagi.core.values import Value

SMALLEST: Final = 9.0


class Face(StrEnum):
    READING = "reading"
    BOLD = "bold"
    NAMING = "naming"


class Paper(StrEnum):
    A4 = "a4"
    LETTER = "letter"


SIZES: Final = {Paper.A4: (595.28, 841.89), Paper.LETTER: (612.0, 792.0)}


class Text(Value):
    """A line of text, `across` points long; `knocked` whitens the paper behind it, `inverse` is white on a box."""

    kind: Literal["text"] = "text"
    x: float
    y: float
    text: str
    size: Annotated[float, Field(ge=SMALLEST)]
    face: Face = Face.READING
    across: float = 0.0
    anchor: Literal["start", "middle", "end"] = "start"
    knocked: bool = False
    inverse: bool = False


class Line(Value):
    kind: Literal["line"] = "line"
    x1: float
    y1: float
    x2: float
    y2: float
    width: float = 0.6
    dashed: bool = False


class Curve(Value):
    """A path of absolute M, L, C and Z, as in SVG."""

    kind: Literal["curve"] = "curve"
    path: str
    width: float = 1.0
    filled: bool = False


class Box(Value):
    kind: Literal["box"] = "box"
    x: float
    y: float
    width: float
    height: float
    radius: float = 2.0
    filled: bool = False
    dashed: bool = False


Mark = Annotated[Text | Line | Curve | Box, Field(discriminator="kind")]


class SheetPage(Value):
    marks: tuple[Mark, ...]


class Entry(Value):
    """A place that the outline names: which page, from 0, and how far down."""

    title: str
    page: int
    y: float


class StaffPlace(Value):
    """Where staff notation stands on a page, and what it says; `places` are how far right each of its notes lies,
    `bars` its bar lines."""

    page: int
    x: float
    y: float
    width: float
    height: float
    scale: float
    line: StaffLine
    places: tuple[float, ...]
    bars: tuple[float, ...]


class Handout(Value):
    """All pages of a handout."""

    title: str
    paper: Paper
    width: float
    height: float
    pages: tuple[SheetPage, ...]
    outline: tuple[Entry, ...]
    staves: tuple[StaffPlace, ...] = ()


def moved(mark: Mark, dx: float, dy: float) -> Mark:
    """A mark somewhere else on the page."""
    match mark:
        case Line():
            ends = {"x1": mark.x1 + dx, "y1": mark.y1 + dy, "x2": mark.x2 + dx, "y2": mark.y2 + dy}
            return mark.model_copy(update=ends)
        case Curve():
            return mark.model_copy(update={"path": _path_moved(mark.path, dx, dy)})
        case _:
            return mark.model_copy(update={"x": mark.x + dx, "y": mark.y + dy})


def path(*parts: str | float) -> str:
    """A path from its commands and numbers.

    >>> path("M", 1, 2.0049, "L", 3, 4)
    'M 1 2 L 3 4'
    """
    return " ".join(part if isinstance(part, str) else f"{part:.2f}".rstrip("0").rstrip(".") for part in parts)


def _path_moved(old: str, dx: float, dy: float) -> str:
    parts: list[str | float] = []
    across = True
    for part in old.split():
        if part.isalpha():
            parts.append(part)
            across = True
        else:
            parts.append(float(part) + (dx if across else dy))
            across = not across
    return path(*parts)


def scaled(mark: Mark, by: float) -> Mark:
    """A mark drawn larger, from the upper left corner."""
    match mark:
        case Line():
            numbers = {name: getattr(mark, name) * by for name in ("x1", "y1", "x2", "y2", "width")}
        case Curve():
            sizes = [part if part.isalpha() else float(part) * by for part in mark.path.split()]
            return mark.model_copy(update={"path": path(*sizes), "width": mark.width * by})
        case Text():
            numbers = {name: getattr(mark, name) * by for name in ("x", "y", "size", "across")}
        case _:
            numbers = {name: getattr(mark, name) * by for name in ("x", "y", "width", "height", "radius")}
    return mark.model_copy(update=numbers)
