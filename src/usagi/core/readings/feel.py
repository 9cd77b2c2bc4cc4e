"""How a player sits on the beat in a phrase, from heard onsets (docs/music.md, Feel of the player)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final, NamedTuple

import numpy as np

from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.playing.timing import expected_seconds

FEWEST: Final = 4  # picked onsets
SAID_MS: Final = 10.0  # ahead or behind
EVEN_MS: Final = 15.0  # interquartile range
LEAST_LOOSE_MS: Final = 15.0
NEAR_CENTS: Final = 25.0  # of its target, for a bend that arrives
STAYS_S: Final = 0.05


class Sounded(NamedTuple):
    """What was heard of a note: its onset and end in seconds, and its pitch in cents above the fret, evenly spaced."""

    onset_s: float
    end_s: float
    cents: tuple[float, ...] = ()


class Placed(NamedTuple):
    """Where a note was played: milliseconds behind its expected place, in per cent of the pulse; whether it is off."""

    note: str
    ms: float
    percent: float
    off: bool


class Bent(NamedTuple):
    """A bend as it was heard: how long before its course says so it left its fret, and when it had arrived."""

    note: str
    early_ms: float | None
    arrives_ms: float | None


class Feel(NamedTuple):
    """A phrase's feel. Without four picked onsets that were heard there is nothing but its density."""

    says: str
    notes: tuple[Placed, ...]
    bends: tuple[Bent, ...]
    median_ms: float | None
    spread_ms: float | None
    swing: float | None
    density: float  # notes a second


def feel_of(
    notes: Sequence[Note],
    heard: Mapping[str, Sounded],
    solo: Solo,
    ground: Ground,
    onsets: Sequence[int] | None = None,
) -> Feel:
    """The feel of some notes that follow each other.

    Parameters
    ----------
    heard : by note id, as far as it was.
    onsets : of the whole solo, rising, where the caller knows them.
    """
    edges = [note.tick for note in notes]
    expected = expected_seconds(solo, ground, edges, onsets) if notes else []
    seconds = ground.grid.second(max(n.end for n in notes)) - ground.grid.second(notes[0].tick) if notes else 0.0
    density = len({note.tick for note in notes}) / seconds if seconds > 0 else 0.0
    picked = [
        (note, at) for note, at in zip(notes, expected, strict=True)
        if note.id in heard and note.attack.kind == "picked" and not note.dead
    ]  # fmt: skip
    if len(picked) < FEWEST:
        return Feel("These notes were not listened to." if not picked else "Too little was heard to tell.", (), (),
                    None, None, None, density)  # fmt: skip
    off = np.array([(heard[note.id].onset_s - at) * 1_000 for note, at in picked])
    median = float(np.median(off))
    spread = float(np.subtract(*np.percentile(off, (75, 25))))
    loose = max(LEAST_LOOSE_MS, spread)
    placed = tuple(
        Placed(note.id, float(ms), float(ms / 10 / _pulse_s(note, ground)), abs(ms - median) > 2 * loose)
        for (note, _), ms in zip(picked, off, strict=True)
    )
    swing = _swing([(note, heard[note.id]) for note, _ in picked], ground)
    bends = tuple(_bent(note, heard[note.id], ground, loose) for note in notes if note.course and note.id in heard)
    return Feel(_words(median, spread, swing), placed, bends, median, spread, swing, density)


def _pulse_s(note: Note, ground: Ground) -> float:
    _, start, length = ground.timeline.bars.at(note.tick).pulse_at(note.tick)
    return ground.grid.second(start + length) - ground.grid.second(start)


def _words(median: float, spread: float, swing: float | None) -> str:
    even = "evenly" if spread <= EVEN_MS else f"loosely, within {spread:.0f} ms"
    where = "on the beat" if abs(median) <= SAID_MS else f"{abs(median):.0f} ms {'behind' if median > 0 else 'ahead'}"
    ratio = "" if swing is None else f"; swing {swing:.1f} to 1"
    return f"Played {where}, {even}{ratio}."


def _swing(picked: Sequence[tuple[Note, Sounded]], ground: Ground) -> float | None:
    """Median of first half to second half, over pulses with onsets on the beat, on its half and on the next."""
    bars = ground.timeline.bars
    at = {note.tick: sounded.onset_s for note, sounded in picked}
    ratios = []
    for tick, onset in at.items():
        _, start, length = bars.at(tick).pulse_at(tick)
        half, after = start + length // 2, start + length
        if tick == start and half in at and after in at and at[after] > at[half] > onset:
            ratios.append((at[half] - onset) / (at[after] - at[half]))
    return float(np.median(ratios)) if ratios else None


def _bent(note: Note, sounded: Sounded, ground: Ground, loose_ms: float) -> Bent:
    """When a bend left its fret and arrived, against its course."""
    curve = np.array(sounded.cents)
    target = max(quarters for _, quarters in note.course) * 50
    if len(curve) < 2 or target <= 0:
        return Bent(note.id, None, None)
    seconds = np.linspace(0, sounded.end_s - sounded.onset_s, len(curve))
    written = [(ground.grid.second(note.tick + at) - ground.grid.second(note.tick), q) for at, q in note.course]
    still = max((at for at, quarters in written if quarters == written[0][1]), default=0.0)
    left = next((float(at) for at, cents in zip(seconds, curve, strict=True) if cents > NEAR_CENTS), None)
    early = None if left is None or (still - left) * 1_000 <= loose_ms else (still - left) * 1_000
    arrives = None
    near = np.abs(curve - target) <= NEAR_CENTS
    for i in np.flatnonzero(near):
        stays = seconds >= seconds[i]
        stays &= seconds <= seconds[i] + STAYS_S
        if near[stays].all() and seconds[-1] - seconds[i] >= STAYS_S:
            arrives = float(seconds[i]) * 1_000
            break
    return Bent(note.id, early, arrives)
