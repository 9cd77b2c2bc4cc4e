"""Every technique as a type with parameters, units and bounds (docs/music.md, Techniques)."""

from __future__ import annotations

from enum import StrEnum
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, field_validator

from usagi.core.errors import UsagiError
from usagi.core.values import Value

MOST_FRET = 3_600  # hundredths; bottleneck mode reaches furthest
HIGHEST_BEND, DEEPEST_DIP = 12, -24  # quarter tones: three whole steps up, an octave down
LONGEST = 40_320 * 8  # ticks of one note: eight whole notes

FretHundredths = Annotated[int, Field(ge=0, le=MOST_FRET)]
Ticks = Annotated[int, Field(ge=1, le=LONGEST)]


class CourseImpossible(UsagiError):
    """A pitch course that no string can follow."""

    code = "course-impossible"


class Picked(Value):
    kind: Literal["picked"] = "picked"


class HammerOn(Value):
    kind: Literal["hammer-on"] = "hammer-on"


class PullOff(Value):
    kind: Literal["pull-off"] = "pull-off"


class Slide(Value):
    """A slide from the note before on the same string."""

    kind: Literal["slide"] = "slide"


class SlideIn(Value):
    """A slide from nowhere: from a fret or from far, over some ticks of the note."""

    kind: Literal["slide-in"] = "slide-in"
    start: FretHundredths | Literal["far below", "far above"]
    ticks: Ticks


class Tapped(Value):
    kind: Literal["tapped"] = "tapped"


class HarmonicHow(StrEnum):
    NATURAL = "natural"
    PINCHED = "pinched"
    TAPPED = "tapped"


class Harmonic(Value):
    """A natural harmonic takes its partial from the fret; the others name it above the fretted note."""

    kind: Literal["harmonic"] = "harmonic"
    how: HarmonicHow = HarmonicHow.NATURAL
    partial: Annotated[int, Field(ge=2, le=8)] = 2


Attack = Annotated[
    Picked | HammerOn | PullOff | Slide | SlideIn | Tapped | Harmonic, Field(discriminator="kind")
]  # fmt: skip

# Semitones of a partial above its fundamental, rounded to the tempered scale.
PARTIAL_SEMITONES = {2: 12, 3: 19, 4: 24, 5: 28, 6: 31, 7: 34, 8: 36}

CoursePoint = tuple[Annotated[int, Field(ge=0, le=LONGEST)], int]
Course = Annotated[tuple[CoursePoint, ...], Field(max_length=64)]


def check_course(course: tuple[tuple[int, int], ...], ticks: int) -> None:
    """Refuse a course that does not start at 0, does not rise in time, leaves its note or bends too far.

    Raises : CourseImpossible.
    """
    if not course:
        return
    if course[0][0] != 0:
        raise CourseImpossible("The pitch course of a note starts at its first tick.")
    for (at, _), (later, _) in pairwise(course):
        if later <= at:
            raise CourseImpossible(f"The pitch course goes back in time, from {at} to {later} ticks.")
    if course[-1][0] > ticks:
        raise CourseImpossible(f"The pitch course ends {course[-1][0] - ticks} ticks after its note.")
    for _, quarters in course:
        if quarters > HIGHEST_BEND:
            raise CourseImpossible(
                f"A bend of {steps_text(quarters)} steps is out of reach: a string bends three whole steps at most.",
                quarters=quarters,
            )
        if quarters < DEEPEST_DIP:
            raise CourseImpossible(f"A dip of {steps_text(-quarters)} steps is out of reach: six at most.")


def steps_text(quarters: int) -> str:
    """Quarter tones as whole steps, the way a bend is called.

    >>> [steps_text(q) for q in (1, 2, 4, 6, 8, 36)]
    ['¼', '½', '1', '1½', '2', '9']
    """
    whole, rest = divmod(quarters, 4)
    return (str(whole) if whole or not rest else "") + ("", "¼", "½", "¾")[rest]


class By(StrEnum):
    FINGER = "finger"
    BAR = "bar"


class Vibrato(Value):
    """Shaking from `start` ticks into the note on; the width is from lowest to highest pitch."""

    start: Annotated[int, Field(ge=0, le=LONGEST)] = 0
    width_cents: Annotated[float, Field(ge=5, le=300)] = 40.0
    rate_hz: Annotated[float, Field(ge=1, le=12)] = 5.5
    by: By = By.FINGER


class Trill(Value):
    fret: FretHundredths
    rate_hz: Annotated[float, Field(ge=2, le=20)] = 9.0


class SlideOff(Value):
    """A slide away at the end: to a fret or far, over some ticks of the note."""

    kind: Literal["slide-off"] = "slide-off"
    to: FretHundredths | Literal["far down", "far up"]
    ticks: Ticks


class Staccato(Value):
    kind: Literal["staccato"] = "staccato"


class Choked(Value):
    kind: Literal["choked"] = "choked"


class LetRing(Value):
    kind: Literal["let ring"] = "let ring"


Ending = Annotated[SlideOff | Staccato | Choked | LetRing, Field(discriminator="kind")]


class Tremolo(Value):
    rate_hz: Annotated[float, Field(ge=2, le=24)] = 10.0


class Rake(Value):
    """Muted strings struck before the note, in this order."""

    strings: Annotated[tuple[Annotated[int, Field(ge=1, le=8)], ...], Field(min_length=1, max_length=7)]


class Finger(StrEnum):
    INDEX = "1"
    MIDDLE = "2"
    RING = "3"
    LITTLE = "4"
    THUMB = "T"


class Pick(StrEnum):
    DOWN = "down"
    UP = "up"
    SWEEP = "sweep"
    FINGER = "finger"


class Sure(StrEnum):
    SURE = "sure"
    UNSURE = "unsure"
    UNKNOWN = "unknown"


class Stroke(StrEnum):
    DOWN = "down"
    UP = "up"
    TOGETHER = "together"


class Loudness(StrEnum):
    PP = "pp"
    P = "p"
    MP = "mp"
    MF = "mf"
    F = "f"
    FF = "ff"


class Heard(Value):
    """What the sound said of a note when it was written: seconds, confidence 0 to 1, cents along the note."""

    onset_s: float
    end_s: float
    confidence: Annotated[float, Field(ge=0, le=1)]
    cents: Annotated[tuple[float, ...], Field(max_length=32)] = ()

    @field_validator("cents")
    @classmethod
    def _near(cls, cents: tuple[float, ...]) -> tuple[float, ...]:
        if any(abs(value) > 2_400 for value in cents):
            raise CourseImpossible("A heard curve lies within two octaves of its note.")
        return cents
