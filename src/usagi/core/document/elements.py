"""Notes and what stands beside them in a solo; each has an id that is never reused."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from usagi.core.chart.model import Id
from usagi.core.document.techniques import (
    Attack,
    Course,
    Ending,
    Finger,
    FretHundredths,
    Heard,
    Loudness,
    Pick,
    Picked,
    Rake,
    Stroke,
    Sure,
    Ticks,
    Tremolo,
    Trill,
    Vibrato,
    check_course,
)
from usagi.core.errors import UsagiError
from usagi.core.harmony.symbols import parse_chord
from usagi.core.values import Value

FARTHEST = 100_000_000  # ticks: more than two hours at any tempo
Tick = Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]


class ElementImpossible(UsagiError):
    """A note, rest, phrase … that means nothing by itself."""

    code = "thing-impossible"


class Note(Value):
    """One note. `fret` is in hundredths; it is absent only for a dead or unknown note."""

    id: Id
    tick: Tick
    ticks: Ticks
    string: Annotated[int, Field(ge=1, le=8)]
    fret: FretHundredths | None = None
    attack: Attack = Picked()
    course: Course = ()
    vibrato: Vibrato | None = None
    trill: Trill | None = None
    ending: Ending | None = None
    dead: bool = False
    ghost: bool = False
    accent: bool = False
    palm_mute: bool = False
    tremolo: Tremolo | None = None
    rake: Rake | None = None
    finger: Finger | None = None
    pick: Pick | None = None
    stack: Id | None = None
    sure: Sure = Sure.SURE
    heard: Heard | None = None

    def model_post_init(self, _: object, /) -> None:
        """Refuse a note that means nothing. A validator would look at every note of a solo again with each edit."""
        check_course(self.course, self.ticks)
        if self.fret is None and not self.dead and self.sure is not Sure.UNKNOWN:
            raise ElementImpossible(f"The note on string {self.string} has no fret: only a dead or unknown note may.")

    @property
    def end(self) -> int:
        return self.tick + self.ticks


class Rest(Value):
    id: Id
    tick: Tick
    ticks: Ticks

    @property
    def end(self) -> int:
        return self.tick + self.ticks


class Stack(Value):
    """Notes on one tick; the notes name it."""

    id: Id
    stroke: Stroke | None = None
    spread_ms: Annotated[float, Field(ge=0, le=500)] = 0.0


class Span(Value):
    """`[start, end)` in ticks."""

    id: Id
    start: Tick
    end: Tick

    @model_validator(mode="after")
    def _forwards(self) -> Span:
        if self.end <= self.start:
            raise ElementImpossible("A span ends after it starts.", start=self.start, end=self.end)
        return self


class Phrase(Span):
    """A named stretch; a note belongs where it starts."""

    name: Annotated[str, Field(max_length=120)] = ""


class Question(Span):
    """A doubt with words, over a span and perhaps some of its notes; `answer` closes it."""

    notes: tuple[Id, ...] = ()
    words: Annotated[str, Field(max_length=500)]
    answers: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=12)] = ()
    answer: Annotated[str, Field(max_length=500)] | None = None


class Dynamic(Value):
    id: Id
    tick: Tick
    level: Loudness


class Swell(Span):
    to: Literal["louder", "softer"]


class AnticipationChoice(Value):
    """An overruled anticipation: the note is heard against the chord here, or against the next."""

    kind: Literal["anticipation"] = "anticipation"
    id: Id
    note: Id
    heard: Literal["here", "next"]


class ReadingChoice(Value):
    """The reading that the teacher picked for a phrase."""

    kind: Literal["reading"] = "reading"
    id: Id
    phrase: Id
    reading: Annotated[str, Field(max_length=120)]


class OtherChord(Value):
    tick: Tick
    symbol: Annotated[str, Field(min_length=1, max_length=40)]

    @model_validator(mode="after")
    def _readable(self) -> OtherChord:
        parse_chord(self.symbol)
        return self


class ChangesChoice(Span):
    """Other changes that the teacher lays over a span; `shown` makes them the first line there."""

    kind: Literal["changes"] = "changes"
    name: Annotated[str, Field(min_length=1, max_length=60)]
    chords: Annotated[tuple[OtherChord, ...], Field(min_length=1, max_length=64)]
    shown: bool = True


class FingeringChoice(Value):
    """Notes whose place is pinned."""

    kind: Literal["fingering"] = "fingering"
    id: Id
    notes: tuple[Id, ...]


class WaiverChoice(Value):
    """A finding of the check that the teacher lets stand: its kind, the notes that it names, and why.

    `judged` is the digest of what the finding was judged by; when that changes, the waiver lapses.
    """

    kind: Literal["waiver"] = "waiver"
    id: Id
    finding: Annotated[str, Field(min_length=1, max_length=40)]
    notes: tuple[Id, ...] = ()
    judged: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
    reason: Annotated[str, Field(max_length=200)] = ""


RoleName = Literal[
    "anticipation", "chord tone", "enclosure", "passing", "approach", "pedal", "blue", "tension", "scale", "outside"
]  # fmt: skip


class RoleChoice(Value):
    """The role that the teacher gives a note, and the degree of its goal, over the computed ones."""

    kind: Literal["role"] = "role"
    id: Id
    note: Id
    role: RoleName
    goal: Annotated[str, Field(max_length=8)] | None = None


class TellingChoice(Value):
    """The teacher's words for a phrase, and what the program told when they were written."""

    kind: Literal["telling"] = "telling"
    id: Id
    phrase: Id
    words: Annotated[str, Field(min_length=1, max_length=2_000)]
    told: Annotated[str, Field(max_length=2_000)] = ""


Choice = Annotated[
    AnticipationChoice | ReadingChoice | ChangesChoice | FingeringChoice | WaiverChoice | RoleChoice | TellingChoice,
    Field(discriminator="kind"),
]
