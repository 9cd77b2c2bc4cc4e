"""What a worker hears in a recording: asked for here, done there, looked at until it is found."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Any
from uuid import UUID, uuid4

import numpy as np

from usagi.core.audio import RATE_HZ
from usagi.core.audio.chords import CLEARLY_TWO, ChordHeard, hear_chords, two_in_bar, worth_offering
from usagi.core.audio.onsets import onsets_of
from usagi.core.audio.swing import hear_swing
from usagi.core.audio.vocoder import Report
from usagi.core.document.solo import Ground
from usagi.core.errors import UsagiError
from usagi.core.listening.hints import Hints
from usagi.core.meter.feel import FeelKind, SwingUnit
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.core.pitch.keys import Key
from usagi.core.values import Value
from usagi.flows.checking.sound import hear_solo, pieces_of, ticks_of
from usagi.flows.listening.first_look import hear_recording
from usagi.flows.listening.found import (
    BarOffers,
    ChordOffer,
    EstimateKind,
    Found,
    all_frames,
    beats_found,
    chord_symbol,
    key_heard,
    offset_found,
)
from usagi.flows.listening.hearing import frames_between, hear, heard_before, key_of
from usagi.flows.practice.packs import PackWanted, make_pack
from usagi.flows.sound.pieces import Source, frames_of, mono_parts, source_of
from usagi.flows.sound.renders import NobodyWaits
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import estimates as stored
from usagi.store import hearing as store_hearing
from usagi.store.database import Pool, StoreAway, transaction
from usagi.store.found import forget_read
from usagi.store.queue import Lane, line_up

REPORT_S = 0.3
GRACE_S = 1.0
SHORTEST_S = 0.5
BARS_AT_ONCE = 16  # of chords, so that a long recording is never held whole
AROUND_S = 1.0  # of sound around them, so that their edges are heard like their middle
ABANDONED = "The worker that was at it is gone. Ask again."
NO_MEMORY = "There was not enough memory for this. Try fewer bars, or close other programs."

log = logging.getLogger("usagi")


class Estimate(Value):
    """Waiting, running, done, failed or cancelled; how much of it is done; what was found, or why nothing."""

    id: UUID
    kind: EstimateKind
    state: str
    share: float
    found: Found | None = None
    trouble: str = ""


class OpenJob(Value):
    """What is heard in a solo just now; of notes the span of ticks and the hints that they are heard with."""

    estimate: Estimate
    start: int | None = None
    end: int | None = None
    hints: Hints | None = None


def open_jobs(workspace: Workspace, solo_id: UUID) -> list[OpenJob]:
    """What is under way in a solo, for a page that is opened meanwhile. Raises : NotThere."""
    end_abandoned(workspace.pool)
    with transaction(workspace.pool) as db:
        workspace.solo(db, solo_id)
        rows = stored.open_of_solo(db, workspace.scope.studio, solo_id)
    return [
        OpenJob(
            estimate=_estimate(row),
            start=row.asked.get("start"),
            end=row.asked.get("end"),
            hints=row.asked.get("hints"),
        )
        for row in rows
    ]


def _estimate(row: stored.EstimateRow) -> Estimate:
    found = None if row.found is None else Found.model_validate(row.found)
    return Estimate(
        id=row.id, kind=EstimateKind(row.kind), state=row.state, share=row.share, found=found, trouble=row.trouble
    )


def ask_notes(workspace: Workspace, solo_id: UUID, start: int, end: int, hints: Hints) -> Estimate:
    """Ask for the notes between two ticks; what is kept of them is found at once. Raises : NotThere."""
    estimate = uuid4()
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id)
        begin, last = frames_between(source, start, end)
        store_hearing.keep_hints(db, workspace.scope.studio, solo_id, start, end, hints.model_dump(mode="json"))
    kept = heard_before(workspace, source, key_of(source, begin, last, hints))
    asked = {"begin": begin, "last": last, "start": start, "end": end, "hints": hints.model_dump(mode="json")}
    with transaction(workspace.pool) as db:
        stored.add(db, workspace.scope.studio, estimate, EstimateKind.NOTES, asked, solo=solo_id)
        if kept is None:
            line_up(db, workspace.scope.studio, estimate)
        else:
            stored.end(
                db, workspace.scope.studio, estimate, "done", _notes_found(len(kept.notes)).model_dump(mode="json")
            )
    return look(workspace, estimate)


def ask_solo(workspace: Workspace, solo_id: UUID, hints: Hints) -> Estimate:
    """Ask for a whole solo to be heard for its check. Raises : NotThere, when there is no sound to hear it in."""
    estimate = uuid4()
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id)
        pieces_of(source)
        told = hints.model_dump(mode="json")
        store_hearing.keep_hints(db, workspace.scope.studio, solo_id, *ticks_of(source.solo, source.ground), told)
        stored.add(db, workspace.scope.studio, estimate, EstimateKind.SOLO, {"hints": told}, solo=solo_id)
        line_up(db, workspace.scope.studio, estimate, Lane.WHOLE)
    return Estimate(id=estimate, kind=EstimateKind.SOLO, state="waiting", share=0.0)


def ask(
    workspace: Workspace, solo_id: UUID, kind: EstimateKind, first_bar: int, last_bar: int, *, with_offset: bool = True
) -> Estimate:
    """Ask for something to be heard between two bars. Raises : NotThere, when there is no sound to hear it in."""
    estimate = uuid4()
    with transaction(workspace.pool) as db:
        if source_of(db, workspace, solo_id).recording is None:
            raise NotThere("There is no recording here in which anything could be heard.", solo=str(solo_id))
        asked = {"first_bar": first_bar, "last_bar": last_bar, "with_offset": with_offset}
        stored.add(db, workspace.scope.studio, estimate, kind, asked, solo=solo_id)
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
    return _estimate(row)


def cancel(workspace: Workspace, estimate: UUID) -> Estimate:
    """Leave it; a worker stops at its next step. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        stored.cancel(db, workspace.scope.studio, estimate)
    return look(workspace, estimate)


def work(workspace: Workspace, estimate: UUID, leaving: Callable[[], bool] = lambda: False) -> None:
    """Do what was asked for; what it finds is written once, however often this is tried.

    `leaving` : whether the worker is told to stop; what it does is left to another then.
    """
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        row = stored.read(db, studio, estimate)
        if row is None or not stored.begin(db, studio, estimate):
            return
    written_at = 0.0

    def report(share: float) -> None:
        nonlocal written_at
        if leaving():
            raise NobodyWaits("This worker stops.")
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
    if row.recording_id is not None:
        return hear_recording(workspace, row.recording_id, EstimateKind(row.kind), report)
    assert row.solo_id is not None
    if row.kind == EstimateKind.PACK:
        return make_pack(workspace, row.solo_id, row.id, PackWanted.model_validate(row.asked), report)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, row.solo_id)
    first, last = int(row.asked.get("first_bar", 0)), int(row.asked.get("last_bar", 0))
    match EstimateKind(row.kind):
        case EstimateKind.BEATS:
            return _beats(workspace, source, report)
        case EstimateKind.SWING:
            return _swing(workspace, source, first, last, report)
        case EstimateKind.CHORDS:
            return _chords(
                workspace, source, (first, last), report, with_offset=bool(row.asked.get("with_offset", True))
            )
        case EstimateKind.NOTES:
            return _notes(workspace, source, row.asked, report)
        case EstimateKind.SOLO:
            found = _notes_found(hear_solo(workspace, source, Hints.model_validate(row.asked["hints"]), report))
            with transaction(workspace.pool) as db:
                forget_read(db, workspace.scope.studio, row.solo_id)  # what is measured of its player is another
            return found
        case _:
            return offset_found(workspace, source)


def _notes(workspace: Workspace, source: Source, asked: dict[str, Any], report: Report) -> Found:
    hints = Hints.model_validate(asked["hints"])
    return _notes_found(len(hear(workspace, source, int(asked["begin"]), int(asked["last"]), hints, report).notes))


def _notes_found(count: int) -> Found:
    return Found(sentence=f"{count} note{'' if count == 1 else 's'} heard.", count=count)


def _beats(workspace: Workspace, source: Source, report: Report) -> Found:
    meter = source.ground.timeline.facts_at(0).meter
    return beats_found(workspace, source, len(meter.pulses), report, compound=meter.compound)


def _span(source: Source, first: int, last: int) -> tuple[list[Any], int, int]:
    """The bars between two numbers, and the frames from the first's start to the last's end."""
    ground = source.ground
    bars = [bar for bar in ground.timeline.bars.bars if first <= bar.number <= last]
    if not bars:
        raise NotThere(f"There are no bars {first} to {last}.")
    begin = max(0, round(ground.grid.second(bars[0].tick) * RATE_HZ))
    end = min(all_frames(source), round(ground.grid.second(bars[-1].end) * RATE_HZ))
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
    struck = onsets_of(mono_parts(workspace, source, begin, end)) / RATE_HZ + begin / RATE_HZ
    report(0.9)
    edges = [ground.grid.second(tick) for tick in range(bars[0].tick, bars[-1].end + 1, divided)]
    heard = hear_swing(struck, np.array(edges))
    return Found(sentence=heard.sentence, ratio=heard.ratio, count=heard.count, doubt=heard.doubt)


def _chords(
    workspace: Workspace, source: Source, numbers: tuple[int, int], report: Report, *, with_offset: bool
) -> Found:
    bars, _, _ = _span(source, *numbers)
    ground = source.ground
    cents = ground.settings.offset_cents if with_offset else 0.0
    heard, halves = [], []
    for first in range(0, len(bars), BARS_AT_ONCE):
        some = bars[first : first + BARS_AT_ONCE]
        spans = [(bar.tick, bar.end) for bar in some]
        middles = [bar.pulse_ticks()[len(bar.pulse_ticks()) // 2][1] for bar in some]
        spans += [half for bar, m in zip(some, middles, strict=True) for half in ((bar.tick, m), (m, bar.end))]
        found = _heard_over(workspace, source, spans, cents)
        heard += found[: len(some)]
        halves += found[len(some) :]
        report((first + len(some)) / len(bars))
    guessed = key_heard(likely[0] for likely in heard if likely)
    offers = []
    for i, (bar, likely) in enumerate(zip(bars, heard, strict=False)):
        written = next((change for change in ground.timeline.changes if change.bar == bar.number), None)
        first_half, second_half = halves[2 * i : 2 * i + 2]
        two = two_in_bar(likely, first_half, second_half) if len(bar.pulse_ticks()) % 2 == 0 else None
        clearly = two is not None and two[2] >= CLEARLY_TWO * likely[0].belief
        believed = worth_offering(likely)
        key = _key_at(ground, bar.tick, guessed)
        both = None if two is None else _pair(*two, key)
        offers.append(
            BarOffers(
                bar=bar.number,
                now="" if written is None else written.shown,
                chord_id=None if written is None else written.id,
                offers=(*(_offer(chord, key) for chord in likely), *([] if both is None else [both])),
                suggested=both if clearly else None if believed is None else _offer(believed, key),
            )
        )
    return Found(sentence="Likeliest first; nothing is taken unasked.", bars=tuple(offers))


def _heard_over(
    workspace: Workspace, source: Source, spans: list[tuple[int, int]], cents: float
) -> list[list[ChordHeard]]:
    """The chords over spans of ticks, with a little sound around all of them."""
    second = source.ground.grid.second
    begin = max(0, round((second(min(a for a, _ in spans)) - AROUND_S) * RATE_HZ))
    end = min(all_frames(source), round((second(max(b for _, b in spans)) + AROUND_S) * RATE_HZ))
    at = begin / RATE_HZ
    sound = frames_of(workspace, source, begin, end, mono=True)
    return hear_chords(sound, [(second(a) - at, second(b) - at) for a, b in spans], cents=cents)


def _key_at(ground: Ground, tick: int, guessed: Key | None) -> Key | None:
    """The key that the chart says there; else the one that is heard."""
    return ground.timeline.facts_at(tick).key or guessed


def _offer(chord: ChordHeard, key: Key | None) -> ChordOffer:
    return ChordOffer(symbol=chord_symbol(chord, key), belief=chord.belief)


def _pair(first: ChordHeard, second: ChordHeard, belief: float, key: Key | None) -> ChordOffer:
    """Two chords that share a bar evenly, as they are typed into it."""
    return ChordOffer(symbol=" ".join(chord_symbol(chord, key) for chord in (first, second)), belief=belief)
