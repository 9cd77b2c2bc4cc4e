"""The index of phrases in PostgreSQL: it finds what a hand finds, and is made again from the solos."""

from __future__ import annotations

from uuid import UUID

import numpy as np
import pytest

from by_hand import NAMES, matches
from strategies import ground_on
from usagi.core.document.elements import Note, Phrase
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument, write_document
from usagi.core.meter.ticks import EIGHTH, WHOLE
from usagi.flows.licks.book import search
from usagi.flows.licks.indexing import index_stale, reindex
from usagi.flows.studio.importing import import_json
from usagi.flows.workspace import Workspace
from usagi.store import found as stored
from usagi.store.database import transaction
from usagi.store.found import Narrowed

OPEN = {1: 64, 2: 59, 3: 55, 4: 50}
BARS = 24


def random_solo(seed: int) -> tuple[SoloDocument, list[list[set[int | None]]]]:
    """A solo of one phrase a bar over C7, and what each phrase plays: the degrees of each onset, counted from C."""
    rng = np.random.default_rng(seed)
    notes, phrases, played = [], [], []
    for bar in range(BARS):
        events: list[set[int | None]] = []
        for i in range(int(rng.integers(2, 8))):
            stack = rng.choice([1, 2, 3, 4], size=2 if rng.random() < 0.15 else 1, replace=False)
            slots: set[int | None] = set()
            for string in (int(one) for one in stack):
                fret = int(rng.integers(3, 15))
                place = {"tick": bar * WHOLE + i * EIGHTH, "ticks": EIGHTH, "string": string, "fret": fret * 100}
                notes.append(Note.model_validate({"id": f"n{len(notes)}"} | place))
                slots.add((OPEN[string] + fret) % 12)
            events.append(slots)
        phrases.append(Phrase(id=f"p{bar}", start=bar * WHOLE, end=(bar + 1) * WHOLE))
        played.append(events)
    ground = ground_on(f"| {{key C major}} C7 |\n{BARS} choruses", bars=BARS)
    solo = Solo(settings=SoloSettings(player=f"Player {seed}"), notes=tuple(notes), phrases=tuple(phrases))
    return SoloDocument(tune=f"Tune {seed}", ground=ground, solo=solo), played


@pytest.fixture
def played(workspace: Workspace) -> list[list[set[int | None]]]:
    """The phrases of six solos that the index holds."""
    found = []
    for seed in range(6):
        document, phrases = random_solo(seed)
        import_json(workspace, write_document(document))
        found += phrases
    assert index_stale(workspace) == 6
    return found


def test_a_search_counts_what_a_hand_counts(workspace: Workspace, played: list[list[set[int | None]]]) -> None:
    rng = np.random.default_rng(99)
    tried = some = 0
    for _ in range(120):
        length = int(rng.integers(1, 6))
        source = played[rng.integers(len(played))]
        words = []
        for i in range(length):
            draw = rng.random()
            slots = sorted(source[i % len(source)], key=str)
            words.append("?" if draw < 0.1 else "." if draw < 0.25 and 0 < i < length - 1 and words[-1] != "." else
                         NAMES[slots[0] or 0] if draw < 0.9 else NAMES[rng.integers(12)])  # fmt: skip
        hits = search(workspace, " ".join(words))
        fewest = [matches(words, phrase) for phrase in played]
        expected = [one for one in fewest if one is not None]
        assert hits.count == len(expected), words
        assert hits.exact == sum(one == 0 for one in expected), words
        assert len(hits.licks) == min(20, hits.count)
        tried, some = tried + 1, some + bool(expected)
    assert tried == 120 and 40 < some < 120


def test_the_pages_of_a_search_hold_each_phrase_once(workspace: Workspace, played: list[list[set[int | None]]]) -> None:
    count = search(workspace, "").count
    seen: list[int] = []
    for skip in range(0, count, 20):
        seen += [one.span for one in search(workspace, "", skip=skip).licks]
    assert len(seen) == len(set(seen)) == count == len(played)


def test_an_index_made_again_holds_the_same(workspace: Workspace, played: list[list[set[int | None]]]) -> None:
    def held() -> list[tuple[object, ...]]:
        with transaction(workspace.pool) as db:
            columns = "solo_id, first_note, last_note, line, steps, stacks, motion, tempo"
            query = f"SELECT {columns} FROM found_span WHERE studio_id = %s ORDER BY solo_id, tick"
            return db.execute(query, (workspace.scope.studio,)).fetchall()

    before = held()
    assert len(before) == len(played) and reindex(workspace) == 6 and held() == before


def test_the_spans_of_a_solo_go_with_it_and_narrowing_to_nobody_finds_nothing(
    workspace: Workspace, played: list[list[set[int | None]]]
) -> None:
    assert search(workspace, "", Narrowed(player=UUID(int=0))).count == 0
    with transaction(workspace.pool) as db:
        stored.forget_all(db, workspace.scope.studio)
    assert search(workspace, "").count == 0 and index_stale(workspace) == 6
    assert search(workspace, "").count == len(played)
