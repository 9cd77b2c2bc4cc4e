"""The techniques of a note by name, for searches and habits."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from enum import StrEnum
from typing import Final

from usagi.core.document.elements import Note
from usagi.core.document.techniques import By, Choked, Harmonic, LetRing, SlideIn, SlideOff, Staccato


class Technique(StrEnum):
    BEND = "bend"
    PREBEND = "prebend"
    RELEASE = "release"
    CURL = "curl"
    CHOKE = "choke"
    DIP = "bar dip"
    VIBRATO = "vibrato"
    BAR_VIBRATO = "bar vibrato"
    TRILL = "trill"
    HAMMER_ON = "hammer-on"
    PULL_OFF = "pull-off"
    SLIDE = "slide"
    SLIDE_IN = "slide in"
    SLIDE_OFF = "slide off"
    HARMONIC = "harmonic"
    TAPPED = "tapped"
    TREMOLO = "tremolo"
    RAKE = "rake"
    STACK = "double stop"
    DEAD = "dead note"
    GHOST = "ghost note"
    ACCENT = "accent"
    PALM_MUTE = "palm mute"
    STACCATO = "staccato"
    LET_RING = "let ring"


def _top(note: Note) -> int:
    return max((quarters for _, quarters in note.course), default=0)


def _released(note: Note) -> bool:
    top = _top(note)
    reached = next((i for i, (_, quarters) in enumerate(note.course) if quarters == top), 0)
    return top > 0 and any(quarters < top for _, quarters in note.course[reached + 1 :])


_IS: Final[Mapping[Technique, Callable[[Note], bool]]] = {
    Technique.BEND: lambda note: _top(note) > 1 and note.course[0][1] <= 0,
    Technique.PREBEND: lambda note: bool(note.course) and note.course[0][1] > 0,
    Technique.RELEASE: _released,
    Technique.CURL: lambda note: _top(note) == 1,
    Technique.CHOKE: lambda note: isinstance(note.ending, Choked) and bool(note.course) and note.course[-1][1] > 0,
    Technique.DIP: lambda note: any(quarters < 0 for _, quarters in note.course),
    Technique.VIBRATO: lambda note: note.vibrato is not None and note.vibrato.by is By.FINGER,
    Technique.BAR_VIBRATO: lambda note: note.vibrato is not None and note.vibrato.by is By.BAR,
    Technique.TRILL: lambda note: note.trill is not None,
    Technique.HAMMER_ON: lambda note: note.attack.kind == "hammer-on",
    Technique.PULL_OFF: lambda note: note.attack.kind == "pull-off",
    Technique.SLIDE: lambda note: note.attack.kind == "slide",
    Technique.SLIDE_IN: lambda note: isinstance(note.attack, SlideIn),
    Technique.SLIDE_OFF: lambda note: isinstance(note.ending, SlideOff),
    Technique.HARMONIC: lambda note: note.attack.kind == "harmonic",
    Technique.TAPPED: lambda note: note.attack.kind == "tapped",
    Technique.TREMOLO: lambda note: note.tremolo is not None,
    Technique.RAKE: lambda note: note.rake is not None,
    Technique.STACK: lambda note: note.stack is not None,
    Technique.DEAD: lambda note: note.dead,
    Technique.GHOST: lambda note: note.ghost,
    Technique.ACCENT: lambda note: note.accent,
    Technique.PALM_MUTE: lambda note: note.palm_mute,
    Technique.STACCATO: lambda note: isinstance(note.ending, Staccato),
    Technique.LET_RING: lambda note: isinstance(note.ending, LetRing),
}


def played_words(note: Note) -> tuple[str, ...]:
    """The techniques of a note as one looks for them: those of `played`, and how a harmonic is made.

    >>> from usagi.core.document.techniques import Harmonic
    >>> played_words(Note(id="n", tick=0, ticks=10_080, string=2, fret=1200, attack=Harmonic()))
    ('harmonic', 'natural harmonic')
    """
    words = [str(one) for one in played(note)]
    if isinstance(note.attack, Harmonic):
        words.append(f"{note.attack.how} harmonic")
    return tuple(words)


def played(note: Note) -> tuple[Technique, ...]:
    """The techniques of a note, in the order of their table.

    >>> bent = Note(id="n", tick=0, ticks=10_080, string=2, fret=800, course=((0, 0), (5_040, 4), (10_080, 0)))
    >>> [str(one) for one in played(bent)]
    ['bend', 'release']
    """
    return tuple([technique for technique, holds in _IS.items() if holds(note)])
