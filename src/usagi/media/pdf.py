"""A handout as a PDF: the marks of its pages, in static fonts that ship with the project, with an outline."""

from __future__ import annotations

import io
from collections.abc import Iterator
from functools import cache
from itertools import groupby
from typing import Final

from reportlab import rl_config
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from usagi.core.handout.marks import Box, Curve, Face, Handout, Line, Mark, Text
from usagi.core.handout.pictures import Picture
from usagi.core.handout.type import WIDTHS
from usagi.media.fonts import font_file

FONTS: Final = {Face.READING: "Reading", Face.BOLD: "ReadingBold", Face.NAMING: "Naming"}
SIGNS: Final = "Signs"
KNOCKED_PT: Final = 0.8  # of white around a number on its string
CAP: Final = 0.68  # height of figures, of the size of the type


@cache
def _register() -> None:
    rl_config.invariant = 1
    for name in (*FONTS.values(), SIGNS):
        pdfmetrics.registerFont(TTFont(name, str(font_file(name))))


def pdf_of(sheet: Handout) -> bytes:
    """The pages as a PDF. The same sheet gives the same bytes; its text can be found and copied."""
    _register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(sheet.width, sheet.height), invariant=1, pageCompression=1)
    canvas.setTitle(sheet.title)
    canvas.setCreator("Usagi")
    canvas.setLineCap(1)
    for number, page in enumerate(sheet.pages):
        for i, entry in enumerate(sheet.outline):
            if entry.page == number:
                canvas.bookmarkHorizontal(f"part-{i}", 0, sheet.height - entry.y)
                canvas.addOutlineEntry(entry.title, f"part-{i}", level=0)
        for mark in page.marks:
            _draw(canvas, mark, sheet.height)
        canvas.showPage()
    canvas.showOutline()
    canvas.save()
    return out.getvalue()


def pdf_of_picture(picture: Picture) -> bytes:
    """One page of the size of a picture."""
    _register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(picture.width, picture.height), invariant=1, pageCompression=1)
    canvas.setLineCap(1)
    for mark in picture.marks:
        _draw(canvas, mark, picture.height)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw(canvas: Canvas, mark: Mark, height: float) -> None:
    match mark:
        case Text():
            _text(canvas, mark, height)
        case Line():
            canvas.setLineWidth(mark.width)
            canvas.setDash(*((3, 2) if mark.dashed else ()))
            canvas.line(mark.x1, height - mark.y1, mark.x2, height - mark.y2)
        case Box():
            canvas.setLineWidth(0.9)
            canvas.setDash(*((2.5, 1.8) if mark.dashed else ()))
            y = height - mark.y - mark.height
            canvas.roundRect(mark.x, y, mark.width, mark.height, mark.radius, stroke=1, fill=int(mark.filled))
        case Curve():
            canvas.setLineWidth(mark.width)
            canvas.setDash()
            _curve(canvas, mark, height)


def _curve(canvas: Canvas, mark: Curve, height: float) -> None:
    path = canvas.beginPath()
    for command, numbers in _steps(mark.path):
        points = [(x, height - y) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
        match command:
            case "M":
                path.moveTo(*points[0])
            case "L":
                path.lineTo(*points[0])
            case "C":
                path.curveTo(*points[0], *points[1], *points[2])
            case _:
                path.close()
    canvas.drawPath(path, stroke=1, fill=int(mark.filled))


def _steps(path: str) -> Iterator[tuple[str, list[float]]]:
    command = ""
    numbers: list[float] = []
    for part in path.split():
        if part.isalpha():
            if command:
                yield command, numbers
            command, numbers = part, []
        else:
            numbers.append(float(part))
    if command:
        yield command, numbers


def _text(canvas: Canvas, mark: Text, height: float) -> None:
    """The text in runs: what its font does not have comes from the font of signs, else as a question mark."""
    own = WIDTHS[mark.face]
    across = mark.across
    x = mark.x - {"start": 0.0, "middle": across / 2, "end": across}[mark.anchor]
    y = height - mark.y
    if mark.knocked:
        canvas.setFillGray(1)
        tall = mark.size * CAP
        canvas.rect(x - KNOCKED_PT, y - KNOCKED_PT, across + 2 * KNOCKED_PT, tall + 2 * KNOCKED_PT, stroke=0, fill=1)
    canvas.setFillGray(1 if mark.inverse else 0)
    line = canvas.beginText(x, y)
    for has, signs in groupby(mark.text, key=lambda sign: sign in own):
        name = FONTS[mark.face] if has else SIGNS
        run = "".join(signs)
        line.setFont(name, mark.size)
        line.textOut(run)
    canvas.drawText(line)
    canvas.setFillGray(0)
