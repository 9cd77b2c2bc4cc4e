"""The handout as a PDF: its text, its pictures, its fonts, against a golden file."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from reportlab.pdfbase import pdfmetrics

from usagi.core.document.elements import Phrase
from usagi.core.formats.document_json import read_document
from usagi.core.handout.marks import Face, Handout, Paper
from usagi.core.handout.pages import Facts, Wanted, lay_handout
from usagi.core.handout.type import WIDTHS
from usagi.media.pdf import FONTS, pdf_of
from usagi.settings import project_root

GOLDEN = Path(__file__).parents[1] / "golden/lanterns-handout.pdf"
MOST_UNLIKE = 0.01  # of the pixels' range, on average over a page


def sheet(paper: Paper = Paper.A4) -> Handout:
    document = read_document((project_root() / "demo/lanterns-at-low-water.json").read_bytes())
    facts = Facts(document.tune, document.solo.settings.player, document.solo.settings.title, "reel 14")
    return lay_handout(document.solo, document.ground, facts, Wanted(paper))


def drawn(page: pypdfium2.PdfPage) -> np.ndarray:
    return np.asarray(page.render(scale=1.5).to_pil().convert("L"), np.float64) / 255


def text(page: pypdfium2.PdfPage) -> str:
    return page.get_textpage().get_text_range()


def test_it_looks_and_reads_as_the_golden_file(request: pytest.FixtureRequest) -> None:
    made = pdf_of(sheet())
    if request.config.getoption("--rewrite-golden"):
        GOLDEN.write_bytes(made)
    now, then = pypdfium2.PdfDocument(made), pypdfium2.PdfDocument(GOLDEN.read_bytes())
    assert len(now) == len(then) == 3
    for page, before in zip(now, then, strict=True):
        assert text(page) == text(before)
        assert np.abs(drawn(page) - drawn(before)).mean() <= MOST_UNLIKE


def test_another_picture_is_told_from_the_golden_one() -> None:
    """The tolerance is not so wide that a page of other music passes."""
    document = read_document((project_root() / "demo/slack-tide.json").read_bytes())
    other = pypdfium2.PdfDocument(pdf_of(lay_handout(document.solo, document.ground, Facts("Slack Tide"))))
    golden = pypdfium2.PdfDocument(GOLDEN.read_bytes())
    assert np.abs(drawn(other[0]) - drawn(golden[0])).mean() > MOST_UNLIKE


@pytest.mark.parametrize("paper", list(Paper))
def test_text_can_be_found_and_parts_by_their_names(paper: Paper) -> None:
    found = pypdfium2.PdfDocument(pdf_of(sheet(paper=paper)))
    assert found[0].get_size() == pytest.approx({"a4": (595.28, 841.89), "letter": (612, 792)}[paper], abs=0.1)
    whole = "".join(text(page) for page in found)
    for words in ("Lanterns at Low Water", "a · the lamp is lit", "B7(♭9)", "F♯m7♭5", "♭3", "50 to 100 % by 10"):
        assert words in whole
    titles = [entry.get_title() for entry in found.get_toc()]
    assert titles[0] == "a · the lamp is lit" and titles[-1] == "Plan" and len(titles) == 9


def test_the_same_sheet_gives_the_same_bytes() -> None:
    assert pdf_of(sheet()) == pdf_of(sheet())


def test_nothing_but_black_and_white_is_printed() -> None:
    page = pypdfium2.PdfDocument(pdf_of(sheet()))[0].render(scale=1).to_numpy()
    assert (page[..., :3].max(axis=2) - page[..., :3].min(axis=2)).max() <= 2


@pytest.mark.parametrize("face", list(Face))
def test_widths_are_those_of_the_fonts(face: Face) -> None:
    pdf_of(sheet())  # registers the fonts
    for sign, width in WIDTHS[face].items():
        assert pdfmetrics.stringWidth(sign, FONTS[face], 1_000) == pytest.approx(width, abs=1), sign


def test_signs_that_a_font_lacks_come_from_the_font_of_signs() -> None:
    document = read_document((project_root() / "demo/gull-weather.json").read_bytes())
    named = document.solo.model_copy(
        update={"phrases": (Phrase(id="p", start=0, end=40_320, name="B♭ and F♯"), *document.solo.phrases[1:])}
    )
    made = pdf_of(lay_handout(named, document.ground, Facts("♭ Gull ♯")))
    assert "B♭ and F♯" in text(pypdfium2.PdfDocument(io.BytesIO(made))[0])
