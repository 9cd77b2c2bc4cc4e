"""Documents, charts and symbols that were changed at random are read, or refused in a sentence; nothing else."""

from __future__ import annotations

import copy
import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from benchmarks.solos import CHART, big_solo

from usagi.core.chart.text import read_chart
from usagi.core.document.rules import check_solo, violations
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import read_document, write_document
from usagi.core.formats.text_tab import write_tab
from usagi.core.harmony.symbols import parse_chord
from usagi.core.playing.strings import string_events
from usagi.core.view.notes import view_notes
from usagi.core.view.strip import view_strip

DEMO = Path(__file__).parents[2] / "demo"
ODD: list[Any] = [None, True, -1, 0, 1, 3.5, 10**6, 10**12, -(10**12), 1e308, "", "x", "\u0000", "ø🎸", [], {}, [[]],
                  {"id": "x"}, "4/4", "Am7", "n1"]  # fmt: skip
EACH = 250


def places(tree: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    yield path
    children = tree.items() if isinstance(tree, dict) else enumerate(tree) if isinstance(tree, list) else ()
    for key, child in children:
        yield from places(child, (*path, key))


def mutated(tree: Any, chance: random.Random) -> Any:
    """The tree with one to three places, most often one, replaced, taken out, doubled or swapped."""
    tree = copy.deepcopy(tree)
    for _ in range(chance.choice((1, 1, 2, 3))):
        path = chance.choice([p for p in places(tree) if p])
        holder = tree
        for key in path[:-1]:
            holder = holder[key]
        key = path[-1]
        match chance.randrange(5):
            case 0:
                holder[key] = copy.deepcopy(chance.choice(ODD))
            case 1:
                del holder[key]
            case 2 if isinstance(holder, list):
                holder.append(copy.deepcopy(holder[key]))
            case 3 if isinstance(holder[key], int | float):
                holder[key] = holder[key] * chance.choice([-1, 2, 1_000, 0.5]) + chance.choice([0, 1, -1])
            case _ if isinstance(holder, list) and len(holder) > 1:
                other = chance.randrange(len(holder))
                holder[key], holder[other] = holder[other], holder[key]
            case _:
                holder[key] = [holder[key]]
    return tree


def use(data: bytes) -> None:
    """Everything that the program does with a document."""
    document = read_document(data)
    solo, ground = document.solo, document.ground
    violations(solo, ground)
    view_notes(solo, ground)
    view_strip(ground)
    string_events(solo, ground)
    write_tab(document)
    assert read_document(write_document(document)) == document
    check_solo(solo, ground, ())


def run(count: int, seed: int) -> tuple[int, int]:
    chance = random.Random(seed)
    sources = [json.loads(path.read_bytes()) for path in sorted(DEMO.glob("*.json"))]
    sources.append(json.loads(write_document(big_solo(30, 16, 0.5, seed))))
    read = refused = 0
    for _ in range(count):
        source = chance.choice(sources)
        data = json.dumps(mutated(source, chance)).encode()
        if chance.random() < 0.1:
            at = chance.randrange(len(data))
            data = data[:at] if chance.random() < 0.5 else data[:at] + bytes([chance.randrange(256)]) + data[at + 1 :]
        try:
            use(data)
            read += 1
        except UsagiError as refusal:
            refused += 1
            assert len(str(refusal)) > 10 and "Traceback" not in str(refusal) and "validation error" not in str(refusal)
    return read, refused


@pytest.mark.parametrize("seed", range(2))
def test_changed_documents_are_read_or_refused(seed: int) -> None:
    read, refused = run(EACH, seed)
    assert read > EACH / 20 and refused > EACH / 4


@pytest.mark.long
def test_five_thousand_changed_documents() -> None:
    read, refused = run(5_000, 77)
    assert read + refused == 5_000 and read > 250


def test_changed_charts_and_symbols_are_read_or_refused() -> None:
    chance = random.Random(5)
    signs = "|:%{}()#b7m9/ \n.<>ABCDEFGNH0123456789°øΔ♭♯times barchorus"
    for _ in range(600):
        text = list(CHART)
        for _ in range(chance.randint(1, 6)):
            at = chance.randrange(len(text))
            text[at : at + chance.randint(0, 3)] = [chance.choice(signs) for _ in range(chance.randint(0, 3))]
        for reads in (lambda t: read_chart(t, new_id=lambda: str(chance.random())), lambda t: parse_chord(t[:14])):
            try:
                reads("".join(text))
            except UsagiError as refusal:
                assert str(refusal)
