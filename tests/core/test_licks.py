"""Licks: lines without a key, searches, nearness, drawings, places elsewhere, joins and quotes."""

from __future__ import annotations

from hypothesis import given

from strategies import documents
from usagi.core.formats.document_json import SoloDocument
from usagi.core.licks.drawn import Drawn, short
from usagi.core.licks.entries import entries_of


@given(documents())
def test_a_drawing_is_read_back_as_it_was(document: SoloDocument) -> None:
    for entry in entries_of(document.solo, document.ground):
        assert Drawn.model_validate(short(entry.drawn)) == entry.drawn
