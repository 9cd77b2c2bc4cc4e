"""Figures, typed pitches, tablature, chords and taps that the server writes."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field, model_validator

from usagi.api.bounds import Second
from usagi.api.workspace import TheReader, TheWorkspace
from usagi.core.document.by_ear import Tap
from usagi.core.document.elements import Tick
from usagi.core.document.techniques import LONGEST
from usagi.core.fingering.hand import HandSize
from usagi.core.phrases.figures import Copy
from usagi.core.phrases.transforming import Direction, Pulse
from usagi.flows.editing.accepting import Answer
from usagi.flows.notes.writing import (
    copy_figure,
    enter_pitches,
    enter_tab,
    lay_other_changes,
    write_by_ear,
    write_shape,
)

router = APIRouter(prefix="/api/solos/{solo_id}")


StringNumber = Annotated[int, Field(ge=1, le=8)]


class CopyRequest(BaseModel):
    """A span to copy, where its start goes, and how it changes on the way: by one operation at a time."""

    start: Tick
    end: Tick
    to: Tick
    frets: Annotated[int, Field(ge=-36, le=36)] = 0
    strings: Annotated[int, Field(ge=-7, le=7)] = 0
    to_chord: bool = False
    key: Annotated[str, Field(max_length=40)] | None = None
    direction: Direction = Direction.NEAREST
    string_set: tuple[StringNumber, StringNumber] | None = None
    pulse: Pulse | None = None
    ticks: Annotated[int, Field(ge=1, le=LONGEST)] | None = None


class PitchesRequest(BaseModel):
    """Pitch names or degrees, separated by spaces, written from `tick` on; each lasts `ticks`."""

    text: Annotated[str, Field(max_length=2_000)]
    tick: Tick
    ticks: Annotated[int, Field(ge=1, le=LONGEST)]
    hand: HandSize = HandSize.USUAL


class TabRequest(BaseModel):
    """A text tablature; without `from_bar` it goes to the bars that it names."""

    text: Annotated[str, Field(max_length=200_000)]
    from_bar: Annotated[int, Field(ge=0, le=100_000)] | None = None


class ShapeRequest(BaseModel):
    """The chord that the chart has at a tick, held from a position for so many ticks."""

    tick: Tick
    ticks: Annotated[int, Field(ge=1, le=LONGEST)]
    position: Annotated[int, Field(ge=0, le=36)]


class OtherChangesRequest(BaseModel):
    """Chords for the bars that a span touches, as in a chart's text, and what the teacher calls them."""

    start: Tick
    end: Tick
    text: Annotated[str, Field(max_length=2_000)]
    name: Annotated[str, Field(min_length=1, max_length=60)]

    @model_validator(mode="after")
    def _rises(self) -> OtherChangesRequest:
        if self.end <= self.start:
            raise ValueError("A span ends after it starts.")
        return self


class TapMade(BaseModel):
    """Seconds of the recording; `until` when it was let go, where that is to tell how long its note lasts."""

    at: Second
    until: Second | None = None


class OnsetsRequest(BaseModel):
    """Taps on the onsets of notes, and the string on which these wait for their frets."""

    taps: Annotated[list[TapMade], Field(max_length=2_000)]
    string: Annotated[int, Field(ge=1, le=8)] = 1


@router.post("/figures")
def post_figure(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: CopyRequest) -> Answer:
    return copy_figure(workspace, solo_id, Copy(**body.model_dump()), reader)


@router.post("/pitches")
def post_pitches(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: PitchesRequest) -> Answer:
    return enter_pitches(workspace, solo_id, body.text, body.tick, body.ticks, body.hand, reader)


@router.post("/tablature")
def post_tablature(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: TabRequest) -> Answer:
    return enter_tab(workspace, solo_id, body.text, body.from_bar, reader)


@router.post("/chord-shape")
def post_chord_shape(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: ShapeRequest) -> Answer:
    return write_shape(workspace, solo_id, body.tick, body.ticks, body.position, reader)


@router.post("/other-changes")
def post_other_changes(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: OtherChangesRequest) -> Answer:
    return lay_other_changes(workspace, solo_id, body.text, body.start, body.end, body.name, reader)


@router.post("/onsets")
def post_onsets(workspace: TheWorkspace, reader: TheReader, solo_id: UUID, body: OnsetsRequest) -> Answer:
    return write_by_ear(workspace, solo_id, [Tap(tap.at, tap.until) for tap in body.taps], body.string, reader)
