"""Every format brings back what it is said to hold, of any solo; the table of the docs is the one that is tested."""

from __future__ import annotations

import pytest
from hypothesis import assume, given

from core.formats.asking import SOLOS, demo_solo, playable, there_and_back
from strategies import documents
from usagi.core.document.pitches import written_pitch
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.files import KINDS, kind_named, left_behind
from usagi.core.formats.holds import ALWAYS, TRAITS, Symbolic, Trait, not_held, table
from usagi.settings import project_root

IN_TIME = (Symbolic.MUSICXML, Symbolic.MIDI, Symbolic.JAMS)
SOUNDS = (Symbolic.MIDI, Symbolic.JAMS)  # what sounds is read, so more may come back than was written


def lost(document: SoloDocument, back: SoloDocument, kind: Symbolic) -> dict[str, object]:
    """By trait, what a file is said to hold and did not bring back."""
    found: dict[str, object] = {}
    for trait in TRAITS:
        if kind in trait.held:
            before, after = taken(trait, document, kind), taken(trait, back, kind)
            missing = [one for one in before if one not in after]
            more = [] if kind in SOUNDS else [one for one in after if one not in before]
            if missing or more or len(before) > len(after):
                found[trait.says] = (missing, more)
    return found


def taken(trait: Trait, document: SoloDocument, kind: Symbolic) -> list[object]:
    """Of a tablature without places in time, as its notes stand on the nearest slot; of sounds without shaken bends."""
    items = list(trait.take(document))
    if kind is Symbolic.TAB:
        return sorted((item[1:] if isinstance(item, tuple) and len(item) == 3 else item for item in items), key=str)
    if kind in SOUNDS and "bend" in trait.says:
        shaken = {(note.tick, note.string) for note in document.solo.notes if note.vibrato is not None}
        return [item for item in items if item[:2] not in shaken]
    return items


@pytest.mark.parametrize("kind", list(Symbolic))
@given(document=documents())
def test_what_a_format_holds_comes_back(kind: Symbolic, document: SoloDocument) -> None:
    document = playable(document)
    assume(any(written_pitch(note, document.solo.settings) is not None for note in document.solo.notes))
    assert lost(document, there_and_back(document, kind.value), kind) == {}


@pytest.mark.parametrize("name", SOLOS)
@pytest.mark.parametrize("kind", list(Symbolic))
def test_the_demo_comes_back(kind: Symbolic, name: str) -> None:
    document = playable(demo_solo(name))
    found = lost(document, there_and_back(document, kind.value), kind)
    assert found == {}


def test_what_is_not_held_is_said_with_how_much_there_is() -> None:
    document = demo_solo("slack-tide")
    said = left_behind(document, kind_named("midi"))
    assert f"pull-offs: {sum(note.attack.kind == 'pull-off' for note in document.solo.notes)}" in said
    assert any(line.startswith("phrases, questions, choices, remarks and the plan: ") for line in said)
    assert left_behind(document, kind_named("document")) == []
    assert not_held(document, Symbolic.MUSICXML) != said


def test_the_table_in_the_docs_is_this_one() -> None:
    text = (project_root() / "docs/format.md").read_text()
    assert table() in text
    assert all(words in text for words in ALWAYS)


def test_every_format_has_a_name_and_an_ending_of_its_own() -> None:
    assert len({kind.name for kind in KINDS}) == len(KINDS)
    endings = [ending for kind in KINDS for ending in kind.endings]
    assert len(set(endings)) == len(endings)
    held = [kind.holds for kind in KINDS if kind.holds is not None]
    assert set(held) == set(Symbolic)
