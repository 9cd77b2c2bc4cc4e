"""The shelf, and what was removed from it."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from usagi.api.workspace import TheWorkspace
from usagi.flows.studio.shelf import read_shelf, remove, rename
from usagi.media.decode import ENDINGS
from usagi.store.shelf import SoloRow

router = APIRouter(prefix="/api")


class BarMiniature(BaseModel):
    bar: int
    filled: float
    doubtful: bool


class CheckMiniature(BaseModel):
    """Findings that are open, and the share of bars that is done."""

    open: int
    done: float


class ShelfSolo(BaseModel):
    id: UUID
    tune: str
    title: str
    player: str | None
    has_sound: bool
    bars: list[BarMiniature]
    written: str
    next: str
    check: CheckMiniature | None  # none: not checked since it changed
    doubtful: bool
    questions: int  # that are open
    disputed: bool
    touched_at: datetime
    removed: bool


class Shelf(BaseModel):
    """Every solo, and the endings of the sound files that a picker offers."""

    solos: list[ShelfSolo]
    sound_endings: tuple[str, ...] = ENDINGS


class NewNames(BaseModel):
    tune: str = Field(min_length=1, max_length=200)
    title: str = Field(max_length=200)
    player: str = Field(max_length=200)


@router.get("/shelf")
def get_shelf(workspace: TheWorkspace) -> Shelf:
    return Shelf(
        solos=[
            ShelfSolo(
                id=row.id,
                tune=row.tune,
                title=row.title,
                player=row.player,
                has_sound=row.has_sound,
                bars=[BarMiniature(bar=b, filled=f, doubtful=d) for b, f, d in row.summary["bars"]],
                written=f"{row.summary['full']} of {len(row.summary['bars'])} bars",
                next=row.summary["next"],
                check=_check(row),
                doubtful=row.summary["doubtful"],
                questions=row.summary.get("questions", 0),
                disputed=row.summary.get("disputed", False),
                touched_at=row.touched_at,
                removed=row.removed_at is not None,
            )
            for row in read_shelf(workspace)
        ]
    )


def _check(row: SoloRow) -> CheckMiniature | None:
    if row.open_findings is None or row.checked is None:
        return None
    return CheckMiniature(open=row.open_findings, done=row.checked)


@router.post("/solos/{solo_id}/rename", status_code=204)
def rename_solo(workspace: TheWorkspace, solo_id: UUID, names: NewNames) -> None:
    rename(workspace, solo_id, tune=names.tune, title=names.title, player=names.player)


@router.post("/solos/{solo_id}/remove", status_code=204)
def remove_solo(workspace: TheWorkspace, solo_id: UUID) -> None:
    remove(workspace, solo_id, removed=True)


@router.post("/solos/{solo_id}/fetch-back", status_code=204)
def fetch_back_solo(workspace: TheWorkspace, solo_id: UUID) -> None:
    remove(workspace, solo_id, removed=False)
