"""Rhythm written by ear: onsets tapped while it plays become notes whose place is not known yet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from usagi.core.document.elements import Note, Rest
from usagi.core.document.solo import Ground, Solo
from usagi.core.document.techniques import LONGEST, Heard, Sure
from usagi.core.document.writing import NewId, written
from usagi.core.errors import UsagiError
from usagi.core.meter.bars import Bars
from usagi.core.meter.feel import Feel
from usagi.core.meter.quantise import quantise

TAPPED = 0.5  # how sure a tap is of its onset
EARLY = 0.2  # of half a pulse: a finger leaves a little before the next note


class TapsOutside(UsagiError):
    """Taps that hit no bar of the solo."""

    code = "taps-outside"


@dataclass(frozen=True, slots=True)
class Tap:
    """A tap in seconds of the recording. `until` is when it was let go, where that tells how long its note lasts."""

    at: float
    until: float | None = None


def tapped(solo: Solo, ground: Ground, taps: Sequence[Tap], string: int, feels: dict[int, Feel], new_id: NewId) -> Solo:
    """The solo with a note for every tap: its step from the grid, its onset as it was heard.

    A note that starts on the step already keeps its place and takes the onset. New ones last until the next tap, a
    bar at most, or as long as they were held, with a rest behind them; they wait on `string` for their fret.

    Parameters
    ----------
    solo, ground : what is written, and the grid under it.
    taps : in seconds of the recording, in any order.
    string : on which the new notes wait.
    feels : by bar number.
    new_id : gives the ids of new notes and rests.

    Raises : TapsOutside.
    """
    bars = ground.timeline.bars
    by_second = {tap.at: tap for tap in taps}
    seconds = sorted(by_second)
    ticks = quantise([ground.grid.tick(second) for second in seconds], bars, feels)
    inside = [(tick, by_second[second]) for tick, second in zip(ticks, seconds, strict=True)
              if bars.first_tick <= tick < bars.end_tick]  # fmt: skip
    if not inside:
        raise TapsOutside("No tap fell into the bars of this solo: play a part of it, and tap with its notes.")
    there = {note.tick: note for note in solo.notes}
    last_tick, last = inside[-1]
    bar = bars.at(last_tick)
    after = last_tick + (bar.pulse_at(last_tick)[2] if last.until is None else bar.ticks)
    ends = [*inside[1:], (after, Tap(ground.grid.second(after)))]
    heard_again, new, rests = {}, [], []
    for (tick, tap), (next_tick, next_tap) in zip(inside, ends, strict=True):
        end = min(next_tick, tick + bars.at(tick).ticks)
        end_s = next_tap.at
        if tap.until is not None and tap.at < tap.until < next_tap.at:
            end, end_s = _let_go(tick, end, ground.grid.tick(tap.until), bars), tap.until
        heard = Heard(onset_s=tap.at, end_s=max(end_s, tap.at), confidence=TAPPED)
        if tick in there:
            heard_again[tick] = heard
            continue
        new.append(Note(id=new_id(), tick=tick, ticks=end - tick, string=string, sure=Sure.UNKNOWN, heard=heard))
        if tap.until is not None and tap is not last and end < next_tick <= end + LONGEST:
            rests.append(Rest(id=new_id(), tick=end, ticks=next_tick - end))
    notes = tuple(
        note.model_copy(update={"heard": heard_again[note.tick]}) if note.tick in heard_again else note
        for note in solo.notes
    )
    after_notes = written(solo.model_copy(update={"notes": notes}), new, new_id)
    silent = [rest for rest in rests if not _sounding(after_notes, rest)]
    return after_notes.model_copy(
        update={"rests": tuple(sorted((*after_notes.rests, *silent), key=lambda rest: rest.tick))}
    )


def _let_go(tick: int, end: int, released: float, bars: Bars) -> int:
    """Where a held note ends: the half of a pulse nearest to its release; let go just before the end, it lasts."""
    _, start, length = bars.at(tick).pulse_at(tick)
    half = length // 2
    if end - released < half * (1 - EARLY):
        return end
    nearest = start + round((released - start) / half) * half
    return min(end, nearest if nearest > tick else tick + half)


def _sounding(solo: Solo, rest: Rest) -> bool:
    """Whether something is written there already."""
    return any(note.tick < rest.end and rest.tick < note.end for note in solo.notes) or any(
        other.tick < rest.end and rest.tick < other.end for other in solo.rests
    )
