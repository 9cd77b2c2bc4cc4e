"""Recordings that are uploaded, and new solos with or without one."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Request, UploadFile
from pydantic import BaseModel, Field

from usagi.api.sound.waiting import while_awaited
from usagi.api.workspace import TheWorkspace
from usagi.core.fretboard.tunings import KNOWN
from usagi.core.harmony.symbols import ChordUnreadable, parse_chord
from usagi.core.pitch.keys import Mode
from usagi.core.pitch.names import parse_pitch
from usagi.core.values import one_line
from usagi.flows.setup.basics import Basics
from usagi.flows.studio.new_solo import NewSolo, check_tuning, start_solo
from usagi.flows.studio.recordings import Brought, bring_recording

router = APIRouter(prefix="/api")


class NewSoloRequest(BaseModel):
    id: UUID | None = None
    tune: str = Field(min_length=1, max_length=200)
    title: str = Field(default="", max_length=200)
    player: str = Field(default="", max_length=200)
    recording_id: UUID | None = None
    chart: str = Field(default="", max_length=100_000)
    basics: Basics = Basics()


class Started(BaseModel):
    solo_id: UUID


class Offers(BaseModel):
    """What the forms offer to choose from."""

    tunings: list[str]
    modes: list[str]
    meters: list[str]


class TuningText(BaseModel):
    text: str = Field(max_length=100)


class ChordText(BaseModel):
    text: str = Field(max_length=40)


class PitchText(BaseModel):
    text: str = Field(max_length=10)


class PitchRead(BaseModel):
    """A pitch as it was typed, and its number of MIDI."""

    midi: int
    name: str


@router.get("/offers")
def get_offers() -> Offers:
    return Offers(
        tunings=list(KNOWN),
        modes=list(Mode),
        meters=["4/4", "3/4", "2/4", "5/4", "6/8", "9/8", "12/8", "7/8 2+2+3", "2/2"],
    )


@router.post("/check/tuning")
def post_check_tuning(body: TuningText) -> TuningText:
    return TuningText(text=check_tuning(body.text))


@router.post("/check/chord")
def post_check_chord(body: ChordText) -> ChordText:
    """A chord as it is typed, for a vamp that plays it, read back."""
    chord = parse_chord(body.text.strip())
    if chord.root is None:
        raise ChordUnreadable(f"“{body.text.strip()}” is no chord that a vamp could play.")
    return ChordText(text=chord.symbol)


@router.post("/check/pitch")
def post_check_pitch(body: PitchText) -> PitchRead:
    """A pitch as it is typed, `E3`, read back."""
    midi = parse_pitch(body.text.strip())
    return PitchRead(midi=midi, name=body.text.strip()[:1].upper() + body.text.strip()[1:])


@router.post("/recordings")
async def post_recording(request: Request, workspace: TheWorkspace, file: Annotated[UploadFile, File()]) -> Brought:
    """Take in a recording; when the page goes away meanwhile, the work ends and nothing is kept."""
    name = one_line(file.filename or "")
    if Path(name).suffix == "" and name[:1] in ("", "."):  # nothing, or an ending only
        name = f"file without a name{name}"
    return await while_awaited(request, lambda gone: bring_recording(workspace, name, file.file, gone))


@router.post("/solos")
def post_solo(workspace: TheWorkspace, body: NewSoloRequest) -> Started:
    new = NewSolo(
        tune=body.tune,
        title=body.title,
        player=body.player,
        basics=body.basics,
        chart=body.chart,
        recording_id=body.recording_id,
        id=body.id,
    )
    return Started(solo_id=start_solo(workspace, new))
