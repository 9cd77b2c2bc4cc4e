"""A solo or a lick on paper: as marks for the page, and as a PDF."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.handout.marks import Handout
from usagi.core.handout.pages import Facts, Wanted, lay_handout
from usagi.core.practice.cautions import of_strings
from usagi.flows.editing.changing import load
from usagi.flows.licks.pieces import Which, take
from usagi.flows.workspace import NotThere, Workspace
from usagi.media.pdf import pdf_of
from usagi.store.database import transaction
from usagi.store.recordings import recording
from usagi.store.titles import ground_place


def solo_sheet(workspace: Workspace, solo_id: UUID, wanted: Wanted, reader: Reader = Reader()) -> Handout:
    """A whole solo on paper. Raises : NotThere, for one in which nothing is written."""
    loaded = load(workspace, solo_id)
    if not loaded.solo.notes:
        raise NotThere("Nothing is written yet that could be printed.", solo=str(solo_id))
    with transaction(workspace.pool) as db:
        place = ground_place(db, workspace.scope, loaded.ground_id)
        sound = None if place.recording_id is None else recording(db, workspace.scope, place.recording_id)
    settings = loaded.solo.settings
    facts = Facts(
        tune=place.tune,
        player=settings.player,
        title=settings.title,
        recording="" if sound is None else sound.title,
        care=of_strings(settings),
    )
    return lay_handout(loaded.solo, loaded.ground, facts, wanted, reader)


def lick_sheet(workspace: Workspace, which: Which, wanted: Wanted, reader: Reader = Reader()) -> Handout:
    """One lick on one page. Raises : NotThere."""
    taken = take(workspace, which)
    solo = taken.piece.solo
    facts = Facts(
        tune=taken.name or "A lick",
        player=solo.settings.player,
        title=taken.tune,
        recording="" if taken.reference is None else taken.reference.title,
        care=of_strings(solo.settings),
    )
    wanted = replace(wanted, plan=False)
    return lay_handout(solo, taken.piece.ground, facts, wanted, reader)


def as_pdf(sheet: Handout) -> bytes:
    """The sheet as a PDF file."""
    return pdf_of(sheet)
