"""Sound as files: the steps of a line of the plan, or a span at some speeds, in one archive that a worker makes."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import dataclass
from typing import Annotated
from uuid import UUID, uuid4

import numpy as np
from pydantic import Field

from usagi.core.audio import RATE_HZ, Stored, from_stored, to_stored
from usagi.core.audio.levels import limited
from usagi.core.audio.stretch import SEAM_S
from usagi.core.audio.vocoder import Report
from usagi.core.document.elements import Tick
from usagi.core.document.teaching import MOST_PASSES, Speed
from usagi.core.errors import UsagiError
from usagi.core.formats.cue_sheet import CueTrack, write_cue_sheet
from usagi.core.meter.counting import School
from usagi.core.playing.loops import LEAD_S, Loop, loop_span, with_half_bars
from usagi.core.playing.vamp import VampStyle
from usagi.core.practice import cautions
from usagi.core.practice.plan import line_of
from usagi.core.values import Value
from usagi.core.view.plan import StepView, steps_at, view_line, where
from usagi.core.view.practice import loop_of
from usagi.flows.editing.changing import Loaded, load
from usagi.flows.listening.found import EstimateKind, Found
from usagi.flows.sound.mixing import FARTHEST_KEY, Count, Mix, count_in_sound, mixed
from usagi.flows.sound.pieces import LONGEST_PIECE_S, Piece, Source, pcm_of, source_of
from usagi.flows.workspace import NotThere, Workspace
from usagi.media.encode import SoundFormat, Tags, encoded
from usagi.store import estimates as stored
from usagi.store.database import transaction
from usagi.store.made import keep_file, read_file
from usagi.store.queue import Lane, line_up
from usagi.store.titles import ground_place

MOST_S = 1_800.0  # of sound in one pack
PART_S = 30.0  # a loop that is longer than one piece is made of parts of so much recording
_UNSAFE = re.compile(r"[^\w\-. ]+")


class PackImpossible(UsagiError):
    """A loop pack that cannot be made."""

    code = "pack-impossible"


class PackWanted(Value):
    """A line of the plan, or a span at speeds in per mille, as sound files; levels and key as on the loop page."""

    line: Annotated[str, Field(max_length=140)] = "whole"
    span: tuple[Tick, Tick] | None = None  # ticks; instead of the line
    speeds: Annotated[tuple[Speed, ...], Field(max_length=12)] = ()
    format: SoundFormat = SoundFormat.FLAC
    passes: Annotated[int, Field(ge=1, le=MOST_PASSES)] | None = None
    count_in: bool = True
    around: bool = False
    recording: Annotated[float, Field(ge=0, le=1)] = 1.0
    voice: Annotated[float, Field(ge=0, le=1)] = 0.0
    vamp: Annotated[float, Field(ge=0, le=1)] = 0.0
    count: Count = Count.NONE
    key: Annotated[int, Field(ge=-FARTHEST_KEY, le=FARTHEST_KEY)] = 0
    style: VampStyle | None = None
    over: Annotated[str, Field(max_length=40)] = ""
    school: School = School.A

    def mix(self) -> Mix:
        """What is heard together."""
        return Mix(
            self.recording, self.voice, self.vamp, self.count, self.key, self.style, self.over.strip(), self.school
        )


def ask_pack(workspace: Workspace, solo_id: UUID, wanted: PackWanted) -> UUID:
    """Line a pack up for a worker. Raises : NotThere, PlanImpossible, PackImpossible, when it is too long."""
    loaded = load(workspace, solo_id)
    part = _part(loaded, wanted)
    seconds = (part.loop.end - part.loop.start) / RATE_HZ
    whole = sum(seconds * 1_000 / step.speed for step in part.steps) * part.passes
    if whole > MOST_S:
        raise PackImpossible(
            f"That is {whole / 60:.0f} minutes of sound; a pack holds {MOST_S / 60:.0f}: take fewer passes or steps."
        )
    mix = wanted.mix()
    if not (mix.recording_sounds or mix.voice or mix.vamp or mix.count is not Count.NONE):
        raise PackImpossible("Nothing would be heard: turn up the recording, the writing or the vamp.")
    estimate = uuid4()
    with transaction(workspace.pool) as db:
        source_of(db, workspace, solo_id, sounds=mix.recording_sounds)
        asked = wanted.model_dump(mode="json")
        stored.add(db, workspace.scope.studio, estimate, EstimateKind.PACK, asked, solo=solo_id)
        line_up(db, workspace.scope.studio, estimate, Lane.MADE)
    return estimate


def make_pack(workspace: Workspace, solo_id: UUID, estimate: UUID, asked: PackWanted, report: Report) -> Found:
    """Make the archive and keep it. Raises : NotThere, PlanImpossible, and the errors of the sound."""
    loaded = load(workspace, solo_id)
    part = _part(loaded, asked)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id, sounds=asked.mix().recording_sounds)
        tune = ground_place(db, workspace.scope, loaded.ground_id).tune
    player = loaded.solo.settings.player
    out, tracks = io.BytesIO(), []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for i, step in enumerate(part.steps):
            pcm, passes_s = _step(workspace, source, part, step.speed, asked, _within(report, i, len(part.steps)))
            name = _safe(f"{i + 1:02d} {part.name} {step.percent} percent {step.bpm} bpm")
            tags = Tags(
                title=f"{part.name}, {step.percent} %",
                artist=player,
                album=f"{tune}: {part.name}",
                comment=f"{part.where}, {part.passes} passes. {cautions.EARS} {cautions.COPIES}",
                track=i + 1,
            )
            file = f"{name}.{asked.format.value}"
            archive.writestr(file, encoded(pcm, asked.format, tags))
            tracks.append(CueTrack(file, tags.title, passes_s))
            report((i + 1) / len(part.steps))
        text = [f"{tune}: {part.name}", part.where, part.says, "", *(one.file for one in tracks), "", *_said()]
        archive.writestr("00 read me.txt", "\n".join(text) + "\n")
        archive.writestr("00 passes.cue", write_cue_sheet(f"{tune}: {part.name}", player, tracks))
    name = f"{_safe(f'{tune} {part.name}')}.zip"
    with transaction(workspace.pool) as db:
        keep_file(db, workspace.scope.studio, estimate, name, out.getvalue())
    count = len(tracks)
    return Found(sentence=f"{count} file{'' if count == 1 else 's'} made.", count=count)


def pack_file(workspace: Workspace, estimate: UUID) -> tuple[str, bytes]:
    """A pack's name and bytes. Raises : NotThere, when it is not made or a week old."""
    with transaction(workspace.pool) as db:
        found = read_file(db, workspace.scope.studio, estimate)
    if found is None:
        raise NotThere("This loop pack is not here, or not any more: make it again.", pack=str(estimate))
    return found


def _said() -> tuple[str, ...]:
    return (cautions.HANDS, cautions.EARS, cautions.COPIES)


@dataclass(frozen=True, slots=True)
class _Part:
    """What is made into sound: its name, where it lies and its steps in words, the loop, how often each is passed."""

    name: str
    where: str
    says: str
    loop: Loop
    steps: tuple[StepView, ...]
    passes: int


def _part(loaded: Loaded, wanted: PackWanted) -> _Part:
    """Raises : NotThere, when the plan has no such line; PackImpossible, for a span outside the bars."""
    solo, ground = loaded.solo, loaded.ground
    if wanted.span is None:
        line = line_of(solo, ground, wanted.line)
        said = view_line(line, solo, ground)
        loop = loop_of(line, solo, ground, around=wanted.around)
        return _Part(line.name, said.where, said.stair, loop, said.steps, wanted.passes or line.ladder.passes)
    bars = ground.timeline.bars
    start, end = max(wanted.span[0], bars.first_tick), min(wanted.span[1], bars.end_tick)
    if end <= start:
        raise PackImpossible("This span lies outside the bars of the recording.")
    tick, end_tick = with_half_bars(start, end, ground) if wanted.around else (start, end)
    loop = loop_span(solo, ground, tick, end_tick)
    steps = steps_at(ground, start, wanted.speeds or (1_000,))
    said_where = where(start, end, ground)
    speeds = ", ".join(f"{step.percent} %" for step in steps)
    return _Part(said_where, said_where, f"at {speeds}", loop, steps, wanted.passes or 1)


def _step(
    workspace: Workspace, source: Source, part: _Part, speed: int, asked: PackWanted, report: Report
) -> tuple[Stored, tuple[float, ...]]:
    """One step: a bar counted, then the loop as often as it is to be passed; and the seconds at which passes begin."""
    mix = asked.mix()
    once = _loop(workspace, source, part.loop, speed, mix, report)
    loops = np.tile(once, (part.passes, 1))
    begin = 0
    if asked.count_in:
        counted = pcm_of(count_in_sound(source, part.loop.tick, speed, mix))
        lead = round(LEAD_S * RATE_HZ * 1_000 / speed)  # the bar line is so far into the loop
        begin = max(0, len(counted) - lead)
        whole = np.zeros((begin + len(loops), loops.shape[1]), np.float32)
        whole[: len(counted)] += from_stored(counted)
        whole[begin:] += from_stored(loops)
        loops = to_stored(limited(whole))
    return loops, tuple((begin + i * len(once)) / RATE_HZ for i in range(part.passes))


def _within(report: Report, number: int, of: int) -> Report:
    """What reports a part of the whole as its share of that."""
    return lambda share: report((number + share) / of)


def _loop(workspace: Workspace, source: Source, loop: Loop, speed: int, mix: Mix, report: Report) -> Stored:
    """The loop once: one piece that joins itself, or parts that fade into one another."""
    if loop.end - loop.start <= LONGEST_PIECE_S * RATE_HZ:
        return pcm_of(mixed(workspace, source, Piece(loop.start, loop.end, speed, loop=True), mix, report))
    step, seam = round(PART_S * RATE_HZ), round(SEAM_S * RATE_HZ)
    fade = np.linspace(0, 1, seam, dtype=np.float32)[:, None]
    whole: list[Stored] = []
    tail = None
    starts = range(loop.start, loop.end, step)
    for number, at in enumerate(starts):
        wanted = Piece(at, min(loop.end, at + step), speed, tail=seam)
        part = pcm_of(mixed(workspace, source, wanted, mix, _within(report, number, len(starts)))).copy()
        if tail is not None:
            part[:seam] = np.rint(part[:seam] * fade + tail * (1 - fade)).astype(np.int16)
        whole.append(part[:-seam])
        tail = part[-seam:]
    return np.concatenate(whole)


def _safe(name: str) -> str:
    return " ".join(_UNSAFE.sub(" ", name.replace("·", "-")).split())[:100]
