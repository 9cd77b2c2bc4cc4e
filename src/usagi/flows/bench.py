"""Opening a solo, and the shelf."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.edits import Edit, Kind
from usagi.core.document.fill import Progress, fill, progress
from usagi.core.document.rules import Misfit, misfits
from usagi.core.document.solo import Ground, Solo
from usagi.core.playing.marks import NoteMark, Strip, Tables, mark_strip, mark_tables
from usagi.flows.desk import Desk, NotThere, new_id, now_text
from usagi.flows.edits import accept
from usagi.flows.grounds import chart_text
from usagi.flows.history import History, history
from usagi.store import shelf as stored
from usagi.store.database import transaction
from usagi.store.recordings import Recording, recording
from usagi.store.studios import tune_titled
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
    marks: dict[str, NoteMark]
    misfits: list[Misfit]
    progress: Progress
    history: History


def open_bench(desk: Desk, solo_id: UUID, reader: Reader = Reader(), state: int | None = None) -> Bench:
    """A solo as it is, or as it was in an earlier state, on its ground, with everything computed. Raises : NotThere."""
    with transaction(desk.pool) as db:
        solo, solo_version, ground_id = desk.solo(db, solo_id, state)
        ground, ground_version = desk.ground(db, ground_id)
        place = ground_place(db, desk.scope, ground_id)
        sound = None if place.recording_id is None else recording(db, desk.scope, place.recording_id)
        past = history(db, desk, solo_id)
    return Bench(
        solo_id=solo_id,
        ground_id=ground_id,
        person=desk.scope.person,
        tune=place.tune,
        versions={str(solo_id): solo_version, str(ground_id): ground_version},
        solo=solo,
        ground=ground,
        chart_text=chart_text(ground),
        recording=sound,
        strip=mark_strip(ground, reader),
        tables=mark_tables(solo),
        marks=desk.marks.of(solo, ground, reader).notes,
        misfits=misfits(solo, ground),
        progress=progress(fill(solo, ground), ground),
        history=past,
    )


def documents_of(desk: Desk, solo_id: UUID) -> frozenset[UUID]:
    """The ids of a solo and its ground. Raises : NotThere."""
    with transaction(desk.pool) as db:
        _, _, ground_id = desk.solo(db, solo_id)
    return frozenset({solo_id, ground_id})


def read_shelf(desk: Desk) -> list[stored.SoloRow]:
    """Every solo of the studio; what has lain in the drawer too long goes first."""
    with transaction(desk.pool) as db:
        stored.empty_drawer(db, desk.scope)
        return stored.shelf(db, desk.scope)


def remove(desk: Desk, solo_id: UUID, *, removed: bool) -> None:
    """Put a solo in the drawer, or fetch it back. Raises : NotThere."""
    with transaction(desk.pool) as db:
        if not stored.set_removed(db, desk.scope, solo_id, removed=removed):
            raise NotThere("This solo is not here any more.", solo=str(solo_id))


def rename(desk: Desk, solo_id: UUID, *, tune: str, title: str, player: str) -> None:
    """Rename a solo; its title and player are an edit of the document and can be undone."""
    with transaction(desk.pool) as db:
        solo, version, _ = desk.solo(db, solo_id)
        stored.set_tune(db, desk.scope, solo_id, tune_titled(db, desk.scope, tune))
    changes: list[dict[str, Any]] = [
        {"kind": Kind.SETTING, "id": name, "before": before, "after": after}
        for name, before, after in (
            ("title", solo.settings.title, title.strip()),
            ("player", solo.settings.player, player.strip()),
        )
        if before != after
    ]
    if changes:
        edit = Edit.model_validate(
            {
                "id": new_id(),
                "act": new_id(),
                "document": str(solo_id),
                "made_in": str(solo_id),
                "person": str(desk.scope.person),
                "at": now_text(),
                "label": "rename",
                "changes": changes,
            }
        )
        accept(desk, solo_id, {str(solo_id): version}, [edit])
