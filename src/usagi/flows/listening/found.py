"""What can be heard in a recording, and what was found: values, and the ways to hear what needs no bars."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from usagi.core.audio import RATE_HZ
from usagi.core.audio.beats import hear_beats
from usagi.core.audio.chords import QUALITIES, ChordHeard
from usagi.core.audio.tuning_offset import measure_offset
from usagi.core.audio.vocoder import Report
from usagi.core.degrees.naming import name_pitch
from usagi.core.harmony.key_heard import key_of_chords
from usagi.core.pitch.keys import Key
from usagi.core.values import Value
from usagi.flows.sound.pieces import Source, frames_of, mono_parts
from usagi.flows.workspace import NotThere, Workspace

MEASURED_S = 60  # of the middle tell the offset
LEAST_S = 8  # in which eight beats lie at any usual pace


class EstimateKind(StrEnum):
    BEATS = "beats"
    SWING = "swing"
    CHORDS = "chords"
    OFFSET = "offset"
    NOTES = "notes"
    SOLO = "solo"
    PACK = "pack"  # made, not heard


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
    doubt: str = ""  # about what was found, in a word; empty where there is none
    first_doubt: str = ""  # about beat 1
    straight: bool = False  # of a swing: it is none
    text: str | None = None  # of a chart
    paces: tuple[PaceFound, ...] = ()
    bars: tuple[BarOffers, ...] = ()


def all_frames(source: Source) -> int:
    assert source.recording is not None and source.recording.frames is not None
    return source.recording.frames


def beats_found(workspace: Workspace, source: Source, pulses: int, report: Report, *, compound: bool = False) -> Found:
    """The beats of a whole recording, so many in a bar. Raises : NotThere, when none is to be heard."""
    heard = hear_beats(mono_parts(workspace, source, 0, all_frames(source)), pulses, report, compound=compound)
    if heard is None:
        seconds = all_frames(source) / RATE_HZ
        if seconds < LEAST_S:
            raise NotThere(f"This recording is {seconds:.1f} s long: too short to tell its beat by. Tap it.")
        raise NotThere("No beat is to be heard in this recording: tap it.")
    paces = tuple(PaceFound(name=pace.name, bpm=pace.bpm, beats=pace.beats) for pace in heard.paces)
    return Found(sentence=heard.sentence, paces=paces, doubt=heard.doubt, first_doubt=heard.first_doubt)


def offset_found(workspace: Workspace, source: Source) -> Found:
    """Raises : NotThere, when nothing in it has a pitch."""
    frames = all_frames(source)
    begin = max(0, (frames - MEASURED_S * RATE_HZ) // 2)
    found = measure_offset(frames_of(workspace, source, begin, min(frames, begin + MEASURED_S * RATE_HZ)))
    if found is None:
        raise NotThere("Nothing in this recording has a pitch that could be measured.")
    return Found(sentence=found.sentence, cents=found.cents)


def key_heard(chords: Iterable[ChordHeard]) -> Key | None:
    """The key that chords suggest, for their spelling; None when there are none."""
    return key_of_chords((chord.root, QUALITIES[chord.quality]) for chord in chords)


def chord_symbol(chord: ChordHeard, key: Key | None) -> str:
    """A heard chord as it is written in a key.

    >>> from usagi.core.pitch.keys import parse_key
    >>> chord_symbol(ChordHeard(10, "m7", 0.5), parse_key("Eb major")), chord_symbol(ChordHeard(10, "m7", 0.5), None)
    ('Bbm7', 'A#m7')
    """
    return f"{name_pitch(chord.root, None, key)}{chord.quality}"
