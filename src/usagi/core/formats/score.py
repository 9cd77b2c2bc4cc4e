"""What a file of another program says, before it is laid on a guitar: bars, chords, pitches, places if it has them.

Readers of MusicXML, MIDI, JAMS and tablature by others make a `Score`; `laying.py` makes a document of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

from usagi.core.document.techniques import Loudness, Stroke
from usagi.core.errors import UsagiError
from usagi.core.meter.feel import Feel
from usagi.core.meter.meters import COMMON_TIME, Meter
from usagi.core.meter.ticks import QUARTER
from usagi.core.pitch.keys import Key

MOST_BARS: Final = 2_000
MOST_NOTES: Final = 20_000
USUAL_BPM: Final = 120.0  # of a file that names no tempo


class FileUnreadable(UsagiError):
    """A file of another program that cannot be read, or that holds nothing for a guitar."""

    code = "file-unreadable"


class PartUnknown(UsagiError):
    """A part that a file does not have."""

    code = "part-unknown"


@dataclass(frozen=True, slots=True)
class Part:
    """One part of a file: what to call it by, its name, how many notes it has, whether it names strings."""

    id: str
    name: str
    notes: int
    strings: bool = False


@dataclass(frozen=True, slots=True)
class ScoreBar:
    """A bar as it is played. `section` is the name of one that begins here; `feel` None holds the one before."""

    meter: Meter = COMMON_TIME
    key: Key | None = None
    section: str | None = None
    feel: Feel | None = None
    blues: bool = False


@dataclass(frozen=True, slots=True)
class ScoreNote:
    """A note: pitch as it sounds (MIDI, quarter tones .5; None when dead or not known), and its place if it has one.

    `fields` are those of a `Note` (attack, ending, ghost …). `levels` are quarter tones that a bend goes through, for
    files that do not say when; `course` where they do.
    """

    tick: int
    ticks: int
    midi: float | None
    string: int | None = None
    fret: int | None = None  # hundredths
    levels: tuple[int, ...] = ()
    course: tuple[tuple[int, int], ...] = ()
    fields: Mapping[str, Any] = field(default_factory=dict)
    stroke: Stroke | None = None  # of the stack that it stands in
    spread_ms: float = 0.0

    @property
    def end(self) -> int:
        return self.tick + self.ticks


@dataclass(frozen=True)
class Score:
    """A part of a file. Ticks count from bar 1; a pick-up has negative ones. `rests` are `(tick, ticks)`."""

    bars: tuple[ScoreBar, ...]
    notes: tuple[ScoreNote, ...]
    pickup_ticks: int = 0
    rests: tuple[tuple[int, int], ...] = ()
    chords: tuple[tuple[int, str], ...] = ()
    anchors: tuple[tuple[int, float], ...] = ()  # tick and second; of two or more
    dynamics: tuple[tuple[int, Loudness], ...] = ()
    swells: tuple[tuple[int, int, str], ...] = ()  # start, end, louder or softer
    tuning: tuple[int, ...] | None = None
    capo: int = 0
    last_fret: int = 22
    tune: str = ""
    title: str = ""
    player: str = ""
    messages: tuple[str, ...] = ()


def anchors_of(tempos: Iterable[tuple[int, float]], first_tick: int) -> tuple[tuple[int, float], ...]:
    """A tempo map as anchors; the first tick of the music is at second 0.

    Parameters
    ----------
    tempos : `(tick, quarter notes a minute)`, in any order; before the first its tempo holds, too.
    first_tick : of bar 1, or of the pick-up.

    >>> anchors_of([(0, 120.0), (20_160, 60.0)], 0)
    ((0, 0.0), (20160, 1.0), (30240, 2.0))
    """
    by_tick = {max(tick, first_tick): bpm for tick, bpm in sorted(tempos) if 5.0 <= bpm <= 1_000.0}
    if first_tick not in by_tick:
        by_tick[first_tick] = next(iter(by_tick.values()), USUAL_BPM)
    found = [(first_tick, 0.0)]
    for tick in sorted(by_tick)[1:]:
        before, second = found[-1]
        found.append((tick, second + (tick - before) / QUARTER * 60.0 / by_tick[before]))
    last, second = found[-1]
    found.append((last + QUARTER, second + 60.0 / by_tick[last]))
    return tuple((tick, round(second, 6)) for tick, second in found)


def feels_of(bars: Iterable[ScoreBar]) -> dict[int, Feel]:
    """The feel of each bar by its number, that of bar 1 in a pick-up, too."""
    found: dict[int, Feel] = {}
    now = Feel()
    for number, bar in enumerate(bars, start=1):
        now = bar.feel or now
        found[number] = now
    return found | {0: found.get(1, now)}


def chosen_part(parts: Iterable[Part], wanted: str | None) -> int:
    """Which part, from 0: the one asked for by its number in the list, from 1, or else by its id or its name; else the
    likeliest for a guitar.

    Raises : PartUnknown; FileUnreadable, when no part has a note.
    """
    there = list(parts)
    if wanted is None:
        playable = [i for i, part in enumerate(there) if part.notes]
        if not playable:
            raise FileUnreadable("This file has no notes with a pitch.")
        return max(playable, key=lambda i: (there[i].strings, _guitar(there[i].name), there[i].notes))
    key = wanted.strip().casefold()
    names = [
        [str(i) for i in range(1, len(there) + 1)],
        [part.id.casefold() for part in there],
        [part.name.casefold() for part in there],
    ]
    found = next((of_a_kind.index(key) for of_a_kind in names if key in of_a_kind), None)
    if found is None:
        listed = ", ".join(f"{i} “{part.name}”" for i, part in enumerate(there, start=1)) or "none"
        raise PartUnknown(f"There is no part “{wanted}” in this file; it has {listed}.", part=wanted)
    if not there[found].notes:
        raise FileUnreadable(f"The part “{there[found].name}” has no notes with a pitch.")
    return found


def _guitar(name: str) -> int:
    """How likely a part is to be the guitar part."""
    words = name.casefold()
    return 2 * any(word in words for word in ("solo", "lead")) + any(word in words for word in ("guitar", "gtr"))
