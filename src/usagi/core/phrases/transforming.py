"""A line in another key, at another place, on other strings, in triplets (docs/music.md, A figure elsewhere).

These are the single steps; `elsewhere.py` takes several at once. What cannot be done is refused with every note that is
in the way, never moved by an octave in silence.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from usagi.core.chart.timeline import Timeline
from usagi.core.document.elements import Note, Rest
from usagi.core.document.frets import at_place
from usagi.core.document.joins import sources
from usagi.core.document.lengths import with_length
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.pitch.intervals import OCTAVE, nearest_way
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import pitch_text, sharp_name

STRING_COST = 1.5  # frets that a change of string is worth
MOST_NAMED = 3  # notes in the way, one by one
JOINED = ("hammer-on", "pull-off", "slide")


class FigureImpossible(UsagiError):
    """A figure that cannot be written where it was asked for."""

    code = "figure-impossible"


class Direction(StrEnum):
    NEAREST = "nearest"
    UP = "up"
    DOWN = "down"


class Pulse(StrEnum):
    """Into what a pulse is divided: two halves, or a triplet's two thirds and one."""

    STRAIGHT = "straight"
    TRIPLETS = "triplets"


def semitones_to(old: Key, new: Key, direction: Direction = Direction.NEAREST) -> int:
    """From one tonic to another: the nearest way (a tritone goes up), or up or down.

    >>> from usagi.core.pitch.keys import parse_key
    >>> [semitones_to(parse_key("A"), parse_key("E"), way) for way in Direction]
    [-5, 7, -5]
    """
    nearest = nearest_way(old.tonic.pitch_class, new.tonic.pitch_class)
    if direction is Direction.UP:
        return nearest % OCTAVE
    return nearest % OCTAVE - OCTAVE if direction is Direction.DOWN and nearest else nearest


def transposed(notes: Sequence[Note], semitones: int, settings: SoloSettings) -> list[Note]:
    """Every note so many semitones higher; notes in time order.

    All frets move when they can; the notes that cannot (an open string down, the end of the neck) are put on other
    strings, with what is joined to them. Raises : FigureImpossible, naming every note that has no place.

    Parameters
    ----------
    notes : in time order.
    semitones : up, or down below 0.
    settings : of the solo's strings.
    """
    return moved(notes, dict.fromkeys([note.id for note in notes], semitones), settings)


def moved(notes: Sequence[Note], by: Mapping[str, int], settings: SoloSettings) -> list[Note]:
    """Like `transposed`, with semitones for each note."""
    stuck = {
        note.id
        for note in notes
        if note.fret is not None and not 0 <= note.fret + by[note.id] * HUNDREDTHS <= settings.highest_fret
    }
    chains = _chains(notes)
    again = {one for chain in chains if stuck & set(chain) for one in chain}
    kept = [
        at_place(n, n.string, None if n.fret is None else n.fret + by[n.id] * HUNDREDTHS, settings)
        for n in notes
        if n.id not in again
    ]
    moving = [note for note in notes if note.id in again]
    return placed(moving, by, settings, settings, Allowed(), kept)


def on_strings(notes: Sequence[Note], first: int, last: int, settings: SoloSettings) -> list[Note]:
    """The same pitches on the strings `first` to `last` alone, whatever number the line lay on.

    Parameters
    ----------
    notes : in time order.
    first, last : the allowed strings, 1 the thinnest.
    settings : of the solo's strings.

    Raises : FigureImpossible, naming every note that has no place there.
    """
    if not 1 <= first <= last <= len(settings.tuning):
        raise FigureImpossible(f"Strings {first} to {last} are not on this guitar: it has {len(settings.tuning)}.")
    return placed(notes, {}, settings, settings, Allowed((first, last)))


def in_pulse(
    notes: Sequence[Note], rests: Sequence[Rest], timeline: Timeline, to: Pulse
) -> tuple[list[Note], list[Rest]]:
    """Straight to triplets: what lies on half of a pulse moves to two thirds of it; or back. Compound meters stay."""

    def moved(tick: int) -> int:
        bar = timeline.bars.at(tick)
        if bar.meter.compound:
            return tick
        _, start, pulse = bar.pulse_at(tick)
        half, two_thirds = start + pulse // 2, start + 2 * pulse // 3
        return {half: two_thirds}.get(tick, tick) if to is Pulse.TRIPLETS else {two_thirds: half}.get(tick, tick)

    found = []
    for note in notes:
        start, end = moved(note.tick), moved(note.end)
        found.append(with_length(note.model_copy(update={"tick": start}), max(1, end - start)))
    silent = [
        rest.model_copy(update={"tick": moved(rest.tick), "ticks": max(1, moved(rest.end) - moved(rest.tick))})
        for rest in rests
    ]
    return found, silent


def each(notes: Iterable[Note], change: Callable[[Note], Note]) -> list[Note]:
    """All notes changed one by one. Raises : FigureImpossible, with the sentence of every note that cannot be."""
    found, faults = [], []
    for note in notes:
        try:
            found.append(change(note))
        except FigureImpossible as fault:
            faults.append((note.id, fault.sentence))
    if faults:
        raise FigureImpossible(" ".join(dict.fromkeys(sentence for _, sentence in faults)), id=faults[0][0])
    return found


def _chains(notes: Sequence[Note]) -> list[list[str]]:
    """Notes that slurs and slides join: they lie on one string."""
    led_by = sources(notes)
    chains: list[list[str]] = []
    chain_of: dict[str, list[str]] = {}
    for note in notes:
        source = led_by.get(note.id)
        if note.attack.kind in JOINED and source is not None:
            chain = chain_of[source.id]
        else:
            chain = []
            chains.append(chain)
        chain.append(note.id)
        chain_of[note.id] = chain
    return chains


def _listed(faults: Sequence[str]) -> str:
    """The notes in the way, each once; of many the first, and how many more there are."""
    each_once = list(dict.fromkeys(faults))
    more = len(each_once) - MOST_NAMED
    return " ".join(each_once if more <= 1 else [*each_once[:MOST_NAMED], f"So have {more} others."])


@dataclass(frozen=True, slots=True)
class Allowed:
    """Where notes may lie: strings from one to another (all without), and stopped frets; open strings where `opens`."""

    strings: tuple[int, int] | None = None
    frets: tuple[int, int] | None = None
    opens: bool = True

    def holds(self, fret: int) -> bool:
        """Whether a fret, in hundredths, is one of them."""
        if not fret:
            return self.opens
        return self.frets is None or self.frets[0] * HUNDREDTHS <= fret <= self.frets[1] * HUNDREDTHS


def placed(
    notes: Sequence[Note],
    by: Mapping[str, int],
    before: SoloSettings,
    settings: SoloSettings,
    allowed: Allowed,
    beside: Sequence[Note] = (),
) -> list[Note]:
    """Each chain of joined notes on the allowed string that moves least and on which nothing else sounds meanwhile.

    Parameters
    ----------
    notes : in time order, as they lie on the strings of `before`.
    by : semitones that a note moves, by its id; none stays.
    settings : of the strings that they go to.
    allowed : where they may lie.
    beside : notes that lie there already.

    Raises : FigureImpossible, naming every note that has no place.
    """
    first, last = allowed.strings or (1, len(settings.tuning))
    strings = range(first, min(last, len(settings.tuning)) + 1)
    done = list(beside)
    faults = []
    by_id = {note.id: note for note in notes}
    for chain in _chains(notes):
        group = [by_id[one] for one in chain]
        best: tuple[float, list[Note]] | None = None
        for string in strings:
            there = [_on(note, string, by.get(note.id, 0), before, settings, allowed) for note in group]
            laid = [note for note in there if note is not None]
            if len(laid) < len(group) or any(_overlap(one, other) for one in laid for other in done):
                continue
            cost = sum(_distance(old, new) for old, new in zip(group, laid, strict=True))
            if best is None or cost < best[0]:
                best = (cost, laid)
        if best is None:
            faults += [_without_place(note, by.get(note.id, 0), before, settings, allowed) for note in group]
        else:
            done += best[1]
    if faults:
        raise FigureImpossible(_listed(faults), id=notes[0].id)
    return sorted(done, key=lambda note: (note.tick, note.string, note.id))


def _on(
    note: Note, string: int, semitones: int, before: SoloSettings, settings: SoloSettings, allowed: Allowed
) -> Note | None:
    if note.fret is None:
        return note.model_copy(update={"string": string})
    if note.string > len(before.tuning):
        return None
    was = open_pitch(note.string, before.tuning, before.capo)
    fret = note.fret + (semitones + was - open_pitch(string, settings.tuning, settings.capo)) * HUNDREDTHS
    if not 0 <= fret <= settings.highest_fret or not allowed.holds(fret) or (not fret and note.course):
        return None  # an open string cannot be bent
    return at_place(note, string, fret, settings)


def _overlap(one: Note, other: Note) -> bool:
    return one.string == other.string and one.tick < other.end and other.tick < one.end


def _distance(old: Note, new: Note) -> float:
    frets = 0 if old.fret is None or new.fret is None else abs(new.fret - old.fret) / HUNDREDTHS
    return frets + STRING_COST * abs(new.string - old.string)


def _without_place(note: Note, semitones: int, before: SoloSettings, settings: SoloSettings, allowed: Allowed) -> str:
    where = f"string {note.string}" + ("" if note.fret is None else f", fret {note.fret / HUNDREDTHS:g}")
    pitch = written_pitch(note, before)
    midi = None if pitch is None else int(pitch + semitones)
    name = "" if midi is None else f", which would sound {pitch_text(sharp_name(midi % 12), midi)},"
    first, last = allowed.strings or (1, len(settings.tuning))
    on = "this neck" if (first, last) == (1, len(settings.tuning)) else f"strings {first} to {last}"
    if allowed.frets is not None:
        on += f" between frets {allowed.frets[0]} and {allowed.frets[1]}"
    return f"S{where[1:]}{name} has no free place on {on}."
