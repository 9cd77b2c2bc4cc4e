"""What the tests of formats share: demo solos, a file there and back, ids in order."""

from __future__ import annotations

from itertools import count

from usagi.core.document.joins import agrees, sources
from usagi.core.document.rules import check_solo
from usagi.core.document.techniques import Picked
from usagi.core.formats.document_json import SoloDocument, read_document, write_document
from usagi.core.formats.files import Coming, Going, kind_named, read_in, written
from usagi.core.formats.laid.laying import Laid
from usagi.core.formats.other_tabs.times import Lengths
from usagi.settings import project_root

SOLOS = ("gull-weather", "lanterns-at-low-water", "slack-tide", "ferry-bell", "the-net-loft", "the-salt-road")


def demo_solo(name: str) -> SoloDocument:
    return read_document((project_root() / f"demo/{name}.json").read_bytes())


def ids(prefix: str = "i"):
    numbers = count()
    return lambda: f"{prefix}{next(numbers)}"


def brought_in(data: bytes, format: str, *, lengths: Lengths | None = None, way: int = 0) -> Laid:
    """A file as it comes in; what it makes keeps the hard rules, and is a document that can be written and read."""
    laid = read_in(data, kind_named(format), Coming(lengths=lengths, way=way), ids())
    check_solo(laid.document.solo, laid.document.ground, laid.document.solo.notes)
    assert read_document(write_document(laid.document)) == laid.document
    return laid


def there_and_back(document: SoloDocument, format: str) -> SoloDocument:
    """A document written as a file of some format, and read again; as it is written, not as it swings."""
    data = written(document, kind_named(format), Going(as_played=False))
    return brought_in(data, format, lengths=Lengths.SPACING).document


def playable(document: SoloDocument) -> SoloDocument:
    """The same solo, in which only what can be joined is joined: a file may not say what no hand can do."""
    before = sources(document.solo.notes)
    notes = [
        note
        if agrees(note, before.get(note.id)) and (note.attack.kind != "hammer-on" or note.id in before)
        else note.model_copy(update={"attack": Picked()})
        for note in document.solo.notes
    ]
    return document.model_copy(update={"solo": document.solo.model_copy(update={"notes": tuple(notes)})})
