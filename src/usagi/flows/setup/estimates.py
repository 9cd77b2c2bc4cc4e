"""What a worker hears in a recording: asked for here, done there, looked at until it is found."""

from __future__ import annotations

import logging
import time
from enum import StrEnum
from typing import Any
from uuid import UUID, uuid4

import numpy as np

from usagi.core.audio import RATE_HZ
from usagi.core.audio.beats import hear_beats
from usagi.core.audio.chords import ChordHeard, hear_chords, worth_offering
from usagi.core.audio.onsets import onsets
from usagi.core.audio.swing import hear_swing
from usagi.core.audio.tuning_offset import measure_offset
from usagi.core.audio.vocoder import Report
from usagi.core.degrees.naming import name_pitch
from usagi.core.document.solo import Ground
from usagi.core.errors import UsagiError
from usagi.core.meter.feel import FeelKind, SwingUnit
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.values import Value
from usagi.flows.sound.pieces import Source, frames_of, mono_parts, source_of
from usagi.flows.sound.renders import NobodyWaits
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import estimates as stored
from usagi.store.database import Pool, StoreAway, transaction
from usagi.store.queue import line_up

MEASURED_S = 60  # of the middle tell the offset
REPORT_S = 0.3
GRACE_S = 1.0
SHORTEST_S = 0.5
ABANDONED = "The worker that was at it is gone. Ask again."
NO_MEMORY = "There was not enough memory for this. Try fewer bars, or close other programs."

log = logging.getLogger("usagi")


class EstimateKind(StrEnum):
    BEATS = "beats"
    SWING = "swing"
    CHORDS = "chords"
    OFFSET = "offset"


class PaceFound(Value):
    """One way to count the beats; the first of them is the first of a bar. Seconds."""

    name: str
    bpm: float
    beats: tuple[float, ...]


class ChordOffer(Value):
    symbol: str
    belief: float


class BarOffers(Value):
    """A bar, the chord that is written first in it (none yet: empty), and what it sounds like, likeliest first."""

    bar: int
    now: str
    chord_id: str | None
    offers: tuple[ChordOffer, ...]
    suggested: ChordOffer | None = None  # the likeliest, where it is believed enough to be offered in its place


class Found(Value):
    """What was heard, in words, with the values to take it over by."""

    sentence: str
    cents: float | None = None
    ratio: float | None = None
    count: int | None = None
    paces: tuple[PaceFound, ...] = ()
    bars: tuple[BarOffers, ...] = ()


class Estimate(Value):
    """Waiting, running, done, failed or cancelled; how much of it is done; what was found, or why nothing."""

    id: UUID
    kind: EstimateKind
    state: str
    share: float
    found: Found | None = None
    trouble: str = ""


def ask(
    workspace: Workspace, solo_id: UUID, kind: EstimateKind, first_bar: int, last_bar: int, *, with_offset: bool = True
) -> Estimate:
    """Ask for something to be heard between two bars. Raises : NotThere, when there is no sound to hear it in."""
    estimate = uuid4()
    with transaction(workspace.pool) as db:
        if source_of(db, workspace, solo_id).recording is None:
            raise NotThere("There is no recording here in which anything could be heard.", solo=str(solo_id))
        asked = {"first_bar": first_bar, "last_bar": last_bar, "with_offset": with_offset}
        stored.add(db, workspace.scope.studio, estimate, solo_id, kind, asked)
        line_up(db, workspace.scope.studio, estimate)
    return Estimate(id=estimate, kind=kind, state="waiting", share=0.0)


def end_abandoned(pool: Pool) -> None:
    """End what no worker will end any more, whoever finds it."""
    with transaction(pool) as db:
        stored.end_abandoned(db, grace_s=GRACE_S, trouble=ABANDONED)


def look(workspace: Workspace, estimate: UUID) -> Estimate:
    """How far it is; one that nobody works on is ended. Raises : NotThere."""
    end_abandoned(workspace.pool)
    with transaction(workspace.pool) as db:
        row = stored.read(db, workspace.scope.studio, estimate)
    if row is None:
        raise NotThere("There is no such estimate, or it is too old.", estimate=str(estimate))
    found = None if row.found is None else Found.model_validate(row.found)
    return Estimate(
        id=row.id, kind=EstimateKind(row.kind), state=row.state, share=row.share, found=found, trouble=row.trouble
    )


def cancel(workspace: Workspace, estimate: UUID) -> Estimate:
    """Leave it; a worker stops at its next step. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        stored.cancel(db, workspace.scope.studio, estimate)
    return look(workspace, estimate)


def work(workspace: Workspace, estimate: UUID) -> None:
    """Do what was asked for; what it finds is written once, however often this is tried."""
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        row = stored.read(db, studio, estimate)
        if row is None or not stored.begin(db, studio, estimate):
            return
    written_at = 0.0

    def report(share: float) -> None:
        nonlocal written_at
        if time.monotonic() - written_at < REPORT_S and share < 1:
            return
        written_at = time.monotonic()
        with transaction(workspace.pool) as db:
            if not stored.set_share(db, studio, estimate, share):
                raise NobodyWaits("It has been left.")

    state, found, trouble = "done", None, ""
    try:
        found = _heard(workspace, row, report).model_dump(mode="json")
    except NobodyWaits:
        return
    except StoreAway:
        raise  # the queue tries it again when the database is back
    except UsagiError as fault:
        state, trouble = "failed", fault.sentence
    except MemoryError:
        state, trouble = "failed", NO_MEMORY
    except Exception:
        number = uuid4().hex[:8]
        log.exception("fault %s while hearing %s", number, row.kind)
        state, trouble = "failed", f"That was our fault, not yours: nothing was changed. Number {number}."
    with transaction(workspace.pool) as db:
        stored.end(db, studio, estimate, state, found, trouble)


def _heard(workspace: Workspace, row: stored.EstimateRow, report: Report) -> Found:
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, row.solo_id)
    first, last = int(row.asked["first_bar"]), int(row.asked["last_bar"])
    match EstimateKind(row.kind):
        case EstimateKind.BEATS:
            return _beats(workspace, source, report)
        case EstimateKind.SWING:
            return _swing(workspace, source, first, last, report)
        case EstimateKind.CHORDS:
            return _chords(
                workspace, source, (first, last), report, with_offset=bool(row.asked.get("with_offset", True))
            )
        case _:
            return _offset(workspace, source)


def _all_frames(source: Source) -> int:
    assert source.recording is not None and source.recording.frames is not None
    return source.recording.frames


def _beats(workspace: Workspace, source: Source, report: Report) -> Found:
    meter = source.ground.timeline.facts_at(0).meter
    heard = hear_beats(
        mono_parts(workspace, source, 0, _all_frames(source)),
        len(meter.pulses),
        report,
        compound=meter.compound,
    )
    if heard is None:
        raise NotThere("No beat is to be heard in this recording: tap it.")
    paces = tuple(PaceFound(name=pace.name, bpm=pace.bpm, beats=pace.beats) for pace in heard.paces)
    return Found(sentence=heard.sentence, paces=paces)


def _span(source: Source, first: int, last: int) -> tuple[list[Any], int, int]:
    """The bars between two numbers, and the frames from the first's start to the last's end."""
    ground = source.ground
    bars = [bar for bar in ground.timeline.bars.bars if first <= bar.number <= last]
    if not bars:
        raise NotThere(f"There are no bars {first} to {last}.")
    begin = max(0, round(ground.grid.second(bars[0].tick) * RATE_HZ))
    end = min(_all_frames(source), round(ground.grid.second(bars[-1].end) * RATE_HZ))
    if end <= begin:
        raise NotThere(f"The bars {first} to {last} lie outside the recording.")
    if end - begin < SHORTEST_S * RATE_HZ:
        raise NotThere(
            f"Only {(end - begin) / RATE_HZ:.2g} s of sound lie in bars {first} to {last}: too little to hear."
        )
    return bars, begin, end


def _swing(workspace: Workspace, source: Source, first: int, last: int, report: Report) -> Found:
    bars, begin, end = _span(source, first, last)
    ground = source.ground
    feel = ground.timeline.facts_at(bars[0].tick).feel
    divided = EIGHTH if feel.kind is FeelKind.SWING and feel.unit is SwingUnit.SIXTEENTH else QUARTER
    sound = frames_of(workspace, source, begin, end, mono=True)
    report(0.2)
    struck = onsets(sound) / RATE_HZ + begin / RATE_HZ
    report(0.9)
    edges = [ground.grid.second(tick) for tick in range(bars[0].tick, bars[-1].end + 1, divided)]
    heard = hear_swing(struck, np.array(edges))
    return Found(sentence=heard.sentence, ratio=heard.ratio, count=heard.count)


def _chords(
    workspace: Workspace, source: Source, numbers: tuple[int, int], report: Report, *, with_offset: bool
) -> Found:
    bars, begin, end = _span(source, *numbers)
    ground = source.ground
    second, from_s = ground.grid.second, begin / RATE_HZ
    spans = [(second(bar.tick) - from_s, second(bar.end) - from_s) for bar in bars]
    cents = ground.settings.offset_cents if with_offset else 0.0
    heard = hear_chords(frames_of(workspace, source, begin, end, mono=True), spans, cents=cents, report=report)
    offers = []
    for bar, likely in zip(bars, heard, strict=True):
        written = next((change for change in ground.timeline.changes if change.bar == bar.number), None)
        believed = worth_offering(likely)
        offers.append(
            BarOffers(
                bar=bar.number,
                now="" if written is None else written.shown,
                chord_id=None if written is None else written.id,
                offers=tuple(_offer(chord, ground, bar.tick) for chord in likely),
                suggested=None if believed is None else _offer(believed, ground, bar.tick),
            )
        )
    return Found(sentence="Likeliest first; nothing is taken unasked.", bars=tuple(offers))


def _offer(chord: ChordHeard, ground: Ground, tick: int) -> ChordOffer:
    """Spelled in the key that holds there."""
    root = name_pitch(chord.root, None, ground.timeline.facts_at(tick).key, blues=False)
    return ChordOffer(symbol=f"{root}{chord.quality}", belief=chord.belief)


def _offset(workspace: Workspace, source: Source) -> Found:
    frames = _all_frames(source)
    begin = max(0, (frames - MEASURED_S * RATE_HZ) // 2)
    found = measure_offset(frames_of(workspace, source, begin, min(frames, begin + MEASURED_S * RATE_HZ)))
    if found is None:
        raise NotThere("Nothing in this recording has a pitch that could be measured.")
    return Found(sentence=found.sentence, cents=found.cents)
