"""Labels made of what changed are those made afresh; big solos are ordinary documents."""

import numpy as np
import pytest
from benchmarks.solos import big_solo

from usagi.core.degrees.degree import Style
from usagi.core.degrees.spoken import Reader
from usagi.core.document.coverage import coverage
from usagi.core.document.edits import Content, DocumentKind, Kind, put_together, take_apart
from usagi.core.document.elements import Dynamic, Swell
from usagi.core.document.rules import check_solo, violations
from usagi.core.document.solo import Solo
from usagi.core.document.techniques import Loudness
from usagi.core.formats.document_json import read_document, write_document
from usagi.core.meter.ticks import EIGHTH
from usagi.core.view.notes import view_notes


def changed(solo: Solo, rng: np.random.Generator) -> Solo:
    """One element of a solo is changed, taken away or put beside, at random."""
    content = take_apart(solo)
    elements = {kind: dict(by_id) for kind, by_id in content.elements.items()}
    notes, settings = elements[Kind.NOTE], solo.settings
    chosen = str(rng.choice(list(notes)))
    note = notes[chosen]
    match int(rng.integers(9)):
        case 0:
            notes[chosen] = note.model_copy(update={"fret": int(rng.integers(1, 18)) * 100})
        case 1:
            notes[chosen] = note.model_copy(update={"tick": note.tick + int(rng.choice([-EIGHTH, 840, EIGHTH]))})
        case 2:
            del notes[chosen]
        case 3:
            question = elements[Kind.QUESTION]["q0"]
            elements[Kind.QUESTION]["q0"] = question.model_copy(
                update={"notes": (chosen,), "words": f"is it {chosen}?"}
            )
        case 4:
            choice = elements[Kind.CHOICE]["h0"]
            elements[Kind.CHOICE]["h0"] = choice.model_copy(update={"note": chosen})
        case 5:
            settings = settings.model_copy(update={"capo": int(rng.integers(0, 3))})
        case 6:
            level = str(rng.choice(list(Loudness)))
            elements[Kind.DYNAMIC]["d"] = Dynamic.model_validate({"id": "d", "tick": note.tick, "level": level})
        case 7:
            to = str(rng.choice(["louder", "softer"]))
            end = note.tick + int(rng.integers(1, 9)) * EIGHTH
            elements[Kind.SWELL]["w"] = Swell.model_validate({"id": "w", "start": note.tick, "end": end, "to": to})
        case _:
            notes["new"] = note.model_copy(update={"id": "new", "string": 6, "tick": note.tick + 420})
    made = put_together(Content(DocumentKind.SOLO, settings, elements))
    assert isinstance(made, Solo)
    return made


@pytest.mark.parametrize("seed", range(8))
def test_views_of_what_changed_are_those_made_afresh(seed: int) -> None:
    rng = np.random.default_rng(seed)
    document = big_solo(120, 16, 1.0, seed)
    solo, ground = document.solo, document.ground
    reader = Reader(Style.PLAIN) if seed % 2 else Reader()
    views = view_notes(solo, ground, reader)
    kept = 0
    for _ in range(12):
        solo = changed(solo, rng)
        now = view_notes(solo, ground, reader, views)
        assert now.notes == view_notes(solo, ground, reader).notes
        kept += sum(now.notes[i] is mark for i, mark in views.notes.items() if i in now.notes)
        views = now
    assert kept > 100


def test_a_generated_solo_is_an_ordinary_document_that_keeps_every_rule() -> None:
    document = read_document(write_document(big_solo(200, 48, 2.0)))
    assert len(document.solo.notes) == 200
    check_solo(document.solo, document.ground, document.solo.notes)
    assert violations(document.solo, document.ground) == []


def test_bars_fill_as_counted_tick_by_tick() -> None:
    document = big_solo(60, 16, 1.0, 3)
    step = 420
    spans = [(t.tick, t.end) for of in (document.solo.notes, document.solo.rests) for t in of]
    for bar in coverage(document.solo, document.ground):
        laid = document.ground.timeline.bars.number(bar.bar)
        assert laid is not None
        ticks = range(laid.tick, laid.end, step)
        counted = sum(any(start <= tick < end for start, end in spans) for tick in ticks) / len(ticks)
        assert bar.filled == pytest.approx(counted, abs=step / laid.ticks * 2)
