"""Pictures as files: SVG with the outlines of its signs, so that it looks alike everywhere, and PNG."""

from __future__ import annotations

import io
from collections.abc import Iterator
from functools import cache
from typing import Final, Literal
from xml.sax.saxutils import escape, quoteattr

import pypdfium2
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont

from usagi.core.degrees.spoken import Reader
from usagi.core.formats.document_json import SoloDocument
from usagi.core.handout.marks import Box, Curve, Face, Line, Mark, Text
from usagi.core.handout.pictures import Picture, neck_picture, tab_picture
from usagi.core.handout.type import WIDTHS
from usagi.media.fonts import font_file
from usagi.media.pdf import CAP, FONTS, KNOCKED_PT, SIGNS, pdf_of_picture

DOTS: Final = 2.5  # pixels a point: sharp on paper at the size of the picture
MOST_DOTS: Final = 24_000_000  # pixels of one picture

What = Literal["tab", "neck"]


def picture_file(
    document: SoloDocument,
    kind: str,
    *,
    what: What = "tab",
    span: tuple[int, int] | None = None,
    title: str = "",
    reader: Reader = Reader(),
) -> bytes:
    """A span of a solo (all of it without one) as a picture file. Raises : PictureImpossible."""
    bars = document.ground.timeline.bars
    start, end = span if span is not None else (bars.first_tick, bars.end_tick)
    draw = neck_picture if what == "neck" else tab_picture
    picture = draw(document.solo, document.ground, start, end, title=title, reader=reader)
    return svg_of(picture) if kind == "svg" else png_of(picture)


def png_of(picture: Picture) -> bytes:
    """The picture in pixels, on white."""
    scale = min(DOTS, (MOST_DOTS / (picture.width * picture.height)) ** 0.5)
    pdf = pypdfium2.PdfDocument(pdf_of_picture(picture))
    page = pdf[0]
    try:
        out = io.BytesIO()
        page.render(scale=scale).to_pil().save(out, "PNG", optimize=True)
        return out.getvalue()
    finally:
        page.close()
        pdf.close()


def svg_of(picture: Picture) -> bytes:
    """The picture as SVG. The same picture gives the same bytes."""
    title = f"<title>{escape(picture.title)}</title>\n" if picture.title else ""
    size = f'width="{picture.width:.1f}pt" height="{picture.height:.1f}pt"'
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" {size} '
        f'viewBox="0 0 {picture.width:.2f} {picture.height:.2f}">\n{title}'
        '<rect width="100%" height="100%" fill="#fff"/>\n'
    )
    body = "\n".join(part for mark in picture.marks for part in _drawn(mark))
    return f"{head}{body}\n</svg>\n".encode()


def _drawn(mark: Mark) -> Iterator[str]:
    match mark:
        case Text():
            yield from _text(mark)
        case Line():
            dash = ' stroke-dasharray="3 2"' if mark.dashed else ""
            yield (
                f'<line x1="{mark.x1:.2f}" y1="{mark.y1:.2f}" x2="{mark.x2:.2f}" y2="{mark.y2:.2f}" '
                f'stroke="#000" stroke-width="{mark.width:.2f}" stroke-linecap="round"{dash}/>'
            )
        case Box():
            fill = "#000" if mark.filled else "#fff"
            dash = ' stroke-dasharray="2.5 1.8"' if mark.dashed else ""
            yield (
                f'<rect x="{mark.x:.2f}" y="{mark.y:.2f}" width="{mark.width:.2f}" height="{mark.height:.2f}" '
                f'rx="{mark.radius:.2f}" fill="{fill}" stroke="#000" stroke-width="0.9"{dash}/>'
            )
        case Curve():
            fill = "#000" if mark.filled else "none"
            yield (
                f'<path d={quoteattr(mark.path)} fill="{fill}" stroke="#000" stroke-width="{mark.width:.2f}" '
                'stroke-linecap="round"/>'
            )


def _text(mark: Text) -> Iterator[str]:
    x = mark.x - {"start": 0.0, "middle": mark.across / 2, "end": mark.across}[mark.anchor]
    if mark.knocked:
        tall = mark.size * CAP
        yield (
            f'<rect x="{x - KNOCKED_PT:.2f}" y="{mark.y - tall - KNOCKED_PT:.2f}" '
            f'width="{mark.across + 2 * KNOCKED_PT:.2f}" height="{tall + 2 * KNOCKED_PT:.2f}" fill="#fff"/>'
        )
    parts = []
    for sign in mark.text:
        outline, advance, units = _outline(mark.face, sign)
        scale = mark.size / units
        if outline:
            parts.append(
                f'<path d="{outline}" transform="translate({x:.2f} {mark.y:.2f}) scale({scale:.5f} {-scale:.5f})"/>'
            )
        x += advance * scale
    colour = "#fff" if mark.inverse else "#000"
    yield f'<g fill="{colour}" aria-label={quoteattr(mark.text)}>{"".join(parts)}</g>'


@cache
def _font(name: str) -> TTFont:
    return TTFont(str(font_file(name)))


@cache
def _outline(face: Face, sign: str) -> tuple[str, float, float]:
    """The outline of a sign, its advance and the units of its em; from the font of signs where its own has none."""
    font = _font(FONTS[face] if sign in WIDTHS[face] else SIGNS)
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    name = names.get(ord(sign)) or names.get(ord("?")) or ".notdef"
    pen = SVGPathPen(glyphs, ntos=lambda number: f"{number:g}")
    glyphs[name].draw(pen)
    return pen.getCommands(), float(glyphs[name].width), float(font["head"].unitsPerEm)
