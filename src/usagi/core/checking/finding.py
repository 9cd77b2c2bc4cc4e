"""A finding: what does not agree, where, by how much and how sure; and what a key makes of it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

from usagi.core.document.elements import Note
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.offers import Band, band_of


class FindingKind(StrEnum):
    """What a finding is about. The first hold the writing against itself, the others against the sound."""

    GAP = "gap"
    BAR = "bar"
    OFF_NECK = "off the neck"
    OUTSIDE = "outside"
    JOIN = "join"
    SLIDE = "slide"
    SHIFT = "shift"
    REACH = "reach"
    BEND_REACH = "bend out of reach"
    PITCH = "pitch"
    OCTAVE = "octave"
    BEND = "bend"
    VIBRATO = "vibrato"
    NOT_HEARD = "not heard"
    NOT_WRITTEN = "not written"
    ONSET = "onset"
    CHORD = "chord"


class Group(StrEnum):
    """What the list can be narrowed to."""

    PITCH = "pitch"
    BENDS = "bends"
    ONSETS = "onsets"
    MISSING = "missing"
    BARS = "bars"
    JOINS = "joins"
    HAND = "hand"
    CHORDS = "chords"


_K = FindingKind
GROUPS: Final = {
    _K.GAP: Group.BARS, _K.BAR: Group.BARS, _K.OFF_NECK: Group.HAND, _K.OUTSIDE: Group.BARS, _K.JOIN: Group.JOINS,
    _K.SLIDE: Group.JOINS, _K.SHIFT: Group.HAND, _K.REACH: Group.HAND, _K.BEND_REACH: Group.HAND,
    _K.PITCH: Group.PITCH, _K.OCTAVE: Group.PITCH, _K.BEND: Group.BENDS, _K.VIBRATO: Group.BENDS,
    _K.NOT_HEARD: Group.MISSING, _K.NOT_WRITTEN: Group.MISSING, _K.ONSET: Group.ONSETS, _K.CHORD: Group.CHORDS,
}  # fmt: skip
# How much each is worth mending, 0 to 1; bends and onsets are weighed by how far they are off.
SIZES: Final = {
    _K.GAP: 0.4, _K.BAR: 0.5, _K.OFF_NECK: 1.0, _K.OUTSIDE: 0.8, _K.JOIN: 0.6, _K.SLIDE: 0.5, _K.SHIFT: 0.4,
    _K.REACH: 0.7, _K.BEND_REACH: 0.6, _K.PITCH: 1.0, _K.OCTAVE: 0.9, _K.BEND: 1.0, _K.VIBRATO: 0.3,
    _K.NOT_HEARD: 0.8, _K.NOT_WRITTEN: 0.8, _K.ONSET: 0.7, _K.CHORD: 0.6,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Finding:
    """One place that does not agree.

    `tick` and `end` say where; `notes` whose it is; `says` what is so, without the place; `size` and `confidence` are
    0 to 1. `judged` is a digest of what it was judged by: a waiver holds as long as that stays. `heard` is what was
    heard there, where the sound speaks.
    """

    kind: FindingKind
    tick: int
    end: int
    says: str
    size: float
    confidence: float
    judged: str
    notes: tuple[str, ...] = ()
    heard: HeardNote | None = None
    mend: str = ""  # what one key does; empty where only a person can mend it
    symbol: str = ""  # of a chord that is heard

    @property
    def id(self) -> str:
        """The same for the same thing, however often it is found."""
        pitch = "" if self.notes or self.heard is None else f" {self.heard.midi}"  # two sounds of one moment
        return f"{self.kind}:{' '.join(self.notes) or self.tick}{pitch}"

    @property
    def group(self) -> Group:
        return GROUPS[self.kind]

    @property
    def band(self) -> Band:
        return band_of(self.confidence)

    @property
    def weight(self) -> float:
        """Size times sureness: what is looked at first."""
        return self.size * self.confidence


def digest(kind: FindingKind, notes: Sequence[Note] = (), heard: HeardNote | None = None, other: Any = None) -> str:
    """Of all that a finding was judged by: its notes as they are written, what was heard of them, and anything else.

    What is heard is rounded, so that hearing it again, a little otherwise, is the same.
    """
    written = [note.model_dump(mode="json", include=JUDGED_BY) for note in notes]
    sound = None
    if heard is not None:
        bend = 0 if heard.bend is None else round(heard.bend.size_cents / 20)
        sound = [heard.midi, round(heard.onset_s * 50), bend, heard.vibrato is not None]
    text = json.dumps([kind, written, sound, other], sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


JUDGED_BY: Final = {"tick", "ticks", "string", "fret", "attack", "course", "vibrato", "trill", "ending", "dead"}
