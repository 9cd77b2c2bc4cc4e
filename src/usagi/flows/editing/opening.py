"""Opening a solo."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.coverage import Progress, coverage, progress
from usagi.core.document.rules import Violation, violations
from usagi.core.document.solo import Ground, Solo
from usagi.core.view.notes import NoteView
from usagi.core.view.strip import Strip, view_strip
from usagi.core.view.tables import Tables, view_tables
from usagi.flows.editing.history import History, history
from usagi.flows.setup.chart import chart_text
from usagi.flows.workspace import Workspace
from usagi.store.database import transaction
from usagi.store.recordings import Recording, recording
from usagi.store.titles import ground_place


@dataclass(frozen=True)
class Bench:
    """All that the page needs to draw and edit a solo."""

    solo_id: UUID
    ground_id: UUID
    person: UUID
    tune: str
    versions: dict[str, int]
    solo: Solo
    ground: Ground
    chart_text: str
    recording: Recording | None
    strip: Strip
    tables: Tables
    views: dict[str, NoteView]
    violations: list[Violation]
    progress: Progress
    history: History


def open_bench(workspace: Workspace, solo_id: UUID, reader: Reader = Reader(), state: int | None = None) -> Bench:
    """A solo as it is, or as it was in an earlier state, on its ground, with everything computed. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        solo, solo_version, ground_id = workspace.solo(db, solo_id, state)
        ground, ground_version = workspace.ground(db, ground_id)
        place = ground_place(db, workspace.scope, ground_id)
        sound = None if place.recording_id is None else recording(db, workspace.scope, place.recording_id)
        past = history(db, workspace, solo_id)
    return Bench(
        solo_id=solo_id,
        ground_id=ground_id,
        person=workspace.scope.person,
        tune=place.tune,
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        solo=solo,
        ground=ground,
        chart_text=chart_text(ground),
        recording=sound,
        strip=view_strip(ground, reader),
        tables=view_tables(solo),
        views=workspace.views((solo_id, solo_version, solo), (ground_id, ground_version, ground), reader).notes,
        violations=violations(solo, ground),
        progress=progress(coverage(solo, ground), solo, ground),
        history=past,
    )


def documents_of(workspace: Workspace, solo_id: UUID) -> frozenset[UUID]:
    """The ids of a solo and its ground. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        _, _, ground_id = workspace.solo(db, solo_id)
    return frozenset({solo_id, ground_id})
