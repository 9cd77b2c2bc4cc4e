"""The notes that a figure counts, phrase by phrase, to be opened and heard."""

from __future__ import annotations

from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.portrait.words import label, title
from usagi.core.values import Value
from usagi.flows.players.cells import cell_label
from usagi.flows.players.sides import Side, counted, solos_of, tallies
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import players as stored
from usagi.store.database import transaction
from usagi.store.players import ReadSolo

MOST_PLACES = 60
CELLS = "cells"


class PlaceView(Value):
    """Some notes of a figure: where they are, and from which note to which they can be heard."""

    solo: UUID
    tune: str
    title: str
    phrase: int  # its number in the solo
    first: str
    last: str
    notes: tuple[str, ...]
    has_sound: bool


class PlacesView(Value):
    """The notes that a figure counts, phrase by phrase."""

    title: str
    label: str
    count: int
    places: tuple[PlaceView, ...]


def notes_of(workspace: Workspace, side: Side, group: str, answer: str, reader: Reader = Reader()) -> PlacesView:
    """The notes that a figure counts. Raises : NotThere."""
    if group == CELLS:
        return _places_of_cell(workspace, side, answer, reader)
    figure = counted(workspace, side).picture.figure(group, answer)
    if figure is None:
        raise NotThere("Nothing is counted there.")
    places = []
    for solo, one in tallies(workspace, side):
        for number, phrase in enumerate(one.phrases, start=1):
            notes = phrase.bins.get(f"{group}:{answer}", ())
            if notes:
                ids = tuple(one.ids[note] for note in dict.fromkeys(notes))
                places.append(_place(solo, number, one.ids[phrase.notes[0]], one.ids[phrase.notes[-1]], ids))
    return PlacesView(
        title=title(group),
        label=label(group, answer, reader.style),
        count=figure.count,
        places=tuple(places[:MOST_PLACES]),
    )


def _place(solo: ReadSolo, number: int, first: str, last: str, notes: tuple[str, ...]) -> PlaceView:
    return PlaceView(
        solo=solo.id, tune=solo.tune, title=solo.title, phrase=number, first=first, last=last, notes=notes,
        has_sound=solo.has_sound,
    )  # fmt: skip


def _places_of_cell(workspace: Workspace, side: Side, answer: str, reader: Reader) -> PlacesView:
    with transaction(workspace.pool) as db:
        kept = stored.cells(db, workspace.scope, side.player)
        solos = {str(solo.id): solo for solo in solos_of(db, workspace, Side(side.player), stored.SUMS)}
    found = kept[1] if kept is not None else []
    if not answer.isdigit() or int(answer) >= len(found):
        raise NotThere("This cell is not there any more.")
    cell = found[int(answer)]
    places = [
        _place(solos[solo], number, first, last, (first, last))
        for number, (solo, first, last) in enumerate(cell["places"], start=1)
        if solo in solos
    ]
    return PlacesView(
        title="Comes again and again",
        label=cell_label(cell["slots"], reader),
        count=cell["phrases"],
        places=tuple(places),
    )
