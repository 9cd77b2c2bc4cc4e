"""Entry by pitch: names or degrees typed, and the best place for them under the hand."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from usagi.core.chart.timeline import Timeline
from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.search import Search
from usagi.core.fretboard.places import HUNDREDTHS, places_of
from usagi.core.pitch.names import NameUnreadable, parse_name, parse_pitch

DEGREE_SLOTS = {1: 0, 2: 2, 3: 4, 4: 5, 5: 7, 6: 9, 7: 11, 9: 2, 11: 5, 13: 9}
_DEGREE = re.compile(r"(bb|b|#)?(1[13]|[1-79])$")
SIGNS = {None: 0, "b": -1, "bb": -2, "#": 1}
MIDDLE = 64  # where the first pitch without an octave lies nearest, when nothing is written before it


class PitchesUnreadable(UsagiError):
    """Typed pitches that cannot be read, or that this neck does not have."""

    code = "pitches-unreadable"


@dataclass(frozen=True, slots=True)
class Typed:
    """One word: a MIDI pitch at a tick, or a rest (None)."""

    midi: int | None
    tick: int


def read_pitches(text: str, tick: int, ticks: int, timeline: Timeline, before: float | None) -> list[Typed]:
    """Words apart by spaces: `C5`, `Eb`, degrees over the chord (`b3`, `#11`) or `-` for a rest, each `ticks` long.

    Without an octave a pitch lies nearest to the one before it, `before` to begin with; a tritone goes up.

    Parameters
    ----------
    text : words with spaces between.
    tick, ticks : where the first begins, and how long each lasts.
    timeline : the chords, for degrees.
    before : MIDI pitch written before the first; None when there is none.

    Raises : PitchesUnreadable.
    """
    words = text.replace("♭", "b").replace("♯", "#").split()
    if not words:
        raise PitchesUnreadable("Type pitches with spaces between: C5 Eb G, or degrees over the chord: 1 b3 5.")
    last = MIDDLE if before is None else before
    found = []
    for i, word in enumerate(words):
        at = tick + i * ticks
        if word in ("-", "r"):
            found.append(Typed(None, at))
            continue
        midi = _word(word, at, timeline, last, number=i + 1)
        found.append(Typed(midi, at))
        last = midi
    return found


def _word(word: str, tick: int, timeline: Timeline, last: float, *, number: int) -> int:
    degree = _DEGREE.match(word)
    if degree is not None:
        change = timeline.chord_at(tick)
        if change is None or change.heard is None:
            raise PitchesUnreadable(f"Word {number}, “{word}”, is a degree, and there is no chord to count it from.")
        slot = DEGREE_SLOTS[int(degree[2])] + SIGNS[degree[1]]
        return _nearest((change.heard.root.pitch_class + slot) % 12, last)
    try:
        if word[-1].isdigit():
            return parse_pitch(word)
        return _nearest(parse_name(word).pitch_class, last)
    except NameUnreadable as fault:
        raise PitchesUnreadable(f"Word {number}, “{word}”, is no pitch: write C5, Eb, or a degree as b3.") from fault


def _nearest(pitch_class: int, last: float) -> int:
    below = int(last) - (int(last) - pitch_class) % 12
    return below if last - below < 6 else below + 12


def placed(
    typed: Sequence[Typed],
    ticks: int,
    settings: SoloSettings,
    context: Sequence[Note],
    seconds: Mapping[int, float],
    new_id: Callable[[], str],
    hand: HandSize = HandSize.USUAL,
) -> list[Note]:
    """Notes for typed pitches at the best places for a hand that comes from `context`.

    Parameters
    ----------
    typed : pitches and rests in time order.
    ticks : the length of each.
    settings : of the solo: strings, capo, scale length, gauges.
    context : notes written before; the hand comes from the last of them.
    seconds : by tick, when it sounds: how long the hand has for a shift.
    new_id : gives the ids of the new notes.
    hand : how far the hand reaches.

    Raises : PitchesUnreadable.
    """
    notes = []
    for one in typed:
        if one.midi is None:
            continue
        places = places_of(one.midi, settings.tuning, settings.capo, settings.last_fret)
        if not places:
            raise PitchesUnreadable(f"The pitch {one.midi} (of MIDI) is not on this neck.", midi=one.midi)
        own = places[0]
        notes.append(Note(id=new_id(), tick=one.tick, ticks=ticks, string=own.string, fret=own.fret * HUNDREDTHS))
    way = Search(
        [*context, *notes],
        settings,
        seconds,
        pinned=[note.id for note in context],
        hand=hand,
        reported=[n.id for n in notes],
    ).best()
    at = {place.note: place for place in way.places}
    return [note.model_copy(update={"string": at[note.id].string, "fret": at[note.id].fret}) for note in notes]


def last_pitch(context: Sequence[Note], settings: SoloSettings) -> float | None:
    """The pitch that was written last."""
    pitches = [pitch for note in context if (pitch := written_pitch(note, settings)) is not None]
    return pitches[-1] if pitches else None
