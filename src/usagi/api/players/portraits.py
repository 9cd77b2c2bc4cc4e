"""Players and what is counted over their solos."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Query
from fastapi.responses import PlainTextResponse

from usagi.api.workspace import TheReader, TheWorkspace
from usagi.flows.players.places import PlacesView, notes_of
from usagi.flows.players.portraits import PlayerView, PortraitView, figures_csv, read_players, read_portrait
from usagi.flows.players.sides import Side

router = APIRouter(prefix="/api/players")
Year = Annotated[int | None, Query(ge=1860, le=2200)]
Setting = Annotated[Literal["studio", "live"] | None, Query()]


def the_side(
    player_id: UUID, tune: UUID | None = None, since: Year = None, until: Year = None, setting: Setting = None
) -> Side:
    """Which of a player's solos are counted."""
    return Side(player_id, tune, since, until, setting)


def the_other_side(
    beside: UUID | None = None,
    beside_tune: UUID | None = None,
    beside_since: Year = None,
    beside_until: Year = None,
    beside_setting: Setting = None,
) -> Side | None:
    """What stands beside it, if anything."""
    return None if beside is None else Side(beside, beside_tune, beside_since, beside_until, beside_setting)


TheSide = Annotated[Side, Depends(the_side)]
TheOtherSide = Annotated[Side | None, Depends(the_other_side)]


@router.get("")
def get_players(workspace: TheWorkspace) -> list[PlayerView]:
    return read_players(workspace)


@router.get("/{player_id}")
def get_player(workspace: TheWorkspace, reader: TheReader, side: TheSide, beside: TheOtherSide) -> PortraitView:
    return read_portrait(workspace, side, beside, reader)


@router.get("/{player_id}/notes")
def get_player_notes(
    workspace: TheWorkspace,
    reader: TheReader,
    side: TheSide,
    group: Annotated[str, Query(max_length=40)],
    answer: Annotated[str, Query(max_length=120)],
) -> PlacesView:
    return notes_of(workspace, side, group, answer, reader)


@router.get("/{player_id}/figures.csv", response_class=PlainTextResponse)
def get_player_figures(
    workspace: TheWorkspace, reader: TheReader, side: TheSide, beside: TheOtherSide
) -> PlainTextResponse:
    return PlainTextResponse(
        figures_csv(workspace, side, beside, reader),
        media_type="text/csv",
        headers={"content-disposition": 'attachment; filename="figures.csv"'},
    )
