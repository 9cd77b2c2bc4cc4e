"""What was heard, hints by span, what is no note, and what is kept for scoring: in a real PostgreSQL."""

from __future__ import annotations

from uuid import UUID, uuid4

import pytest

from usagi.flows.listening.hearing import keep
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.store import hearing
from usagi.store.database import Pool, transaction
from usagi.store.recordings import Recording, add_recording
from usagi.store.studios import tune_titled


@pytest.fixture
def recording(pool: Pool, workspace: Workspace) -> UUID:
    with transaction(pool) as db:
        tune = tune_titled(db, workspace.scope, "Tin Roof")
        item = Recording(uuid4(), tune, uuid4().hex * 2, "reel", "reel.wav", 1, 48_000, 1, 1.0)
        add_recording(db, workspace.scope, item, decoded_by="test")
    return item.id


def test_what_was_not_used_for_longest_makes_room(pool: Pool, workspace: Workspace, recording: UUID) -> None:
    studio = workspace.scope.studio
    for key in ("first", "second", "third"):
        with transaction(pool) as db:
            hearing.keep_heard(db, studio, recording, key, [key, "x" * 90], most=250)
            hearing.heard(db, studio, recording, "first")  # it is used again and again
    with transaction(pool) as db:
        found = {key: hearing.heard(db, studio, recording, key) for key in ("first", "second", "third")}
    assert {key for key, kept in found.items() if kept is not None} == {"first", "third"}


def test_what_was_heard_goes_first_when_the_disk_is_short_of_room(
    pool: Pool, workspace: Workspace, recording: UUID, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio = workspace.scope.studio
    keep(workspace, recording, "first", ["x" * 900])
    monkeypatch.setattr(Cache, "free_bytes", 100_000)
    keep(workspace, recording, "second", ["x" * 900])
    with transaction(pool) as db:
        assert hearing.heard(db, studio, recording, "first") is None
        assert hearing.heard(db, studio, recording, "second") == ["x" * 900]


def test_no_notes_are_found_between_seconds_and_can_be_notes_again(
    pool: Pool, workspace: Workspace, recording: UUID
) -> None:
    studio = workspace.scope.studio
    ones = [hearing.NoNote(uuid4(), second, midi) for second, midi in ((1.0, 60), (2.0, None), (3.0, 64))]
    with transaction(pool) as db:
        for one in (*ones, ones[0]):
            hearing.add_no_note(db, studio, recording, one)
        assert list(hearing.no_notes(db, studio, recording, 0.5, 2.5)) == ones[:2]
        assert hearing.notes_again(db, studio, recording, 0.5, 2.5) == 2
        assert list(hearing.no_notes(db, studio, recording, 0.0, 9.0)) == ones[2:]


def test_nobody_is_asked_about_corrections_at_first(pool: Pool, workspace: Workspace) -> None:
    with transaction(pool) as db:
        assert hearing.keeps_corrections(db, workspace.scope.studio) is None
        hearing.set_keeps_corrections(db, workspace.scope.studio, keeps=False)
        assert hearing.keeps_corrections(db, workspace.scope.studio) is False
        assert hearing.keeps_corrections(db, uuid4()) is None
