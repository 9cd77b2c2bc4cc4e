"""What the notes of a solo say about its strings: whether it sounds low, and which six-string could play it."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import STANDARD, Solo
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import open_pitch
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.pitch.names import pitch_text, sharp_name

STEPS = {1: "a half step", 2: "a whole step"}
FEWEST = 5  # notes on open strings of a lower tuning before anything is offered
TIMES = 3  # as many as on the open strings that are set
MOST_DOWN = 12  # semitones that the lowest string of a six-string is tuned down


class NoSixString(UsagiError):
    """A part that no six-string with one lowered string plays."""

    code = "no-six-string"


@dataclass(frozen=True, slots=True)
class SixString:
    """A tuning, low to high, whose lowest string is tuned down as far as the part needs."""

    tuning: str
    sentence: str


@dataclass(frozen=True, slots=True)
class SoundsLow:
    """That the strings were probably tuned down, in words, and the tuning that they would have."""

    tuning: str
    sentence: str


def sounds_low(solo: Solo) -> SoundsLow | None:
    """Whether the strings were probably tuned down; None without evidence.

    Open strings are played often, and ring. Where the open pitches of strings a step lower are written far more often
    than those that are set, and the lowest of them lies under the lowest string or is played most, it is offered.
    """
    settings = solo.settings
    opens = {open_pitch(string, settings.tuning, settings.capo) for string in range(1, len(settings.tuning) + 1)}
    pitches = [pitch for note in solo.notes if (pitch := written_pitch(note, settings)) is not None]
    here = sum(pitch in opens for pitch in pitches)
    for down, words in STEPS.items():
        lower = {pitch - down for pitch in opens}
        there = sum(pitch in lower for pitch in pitches)
        below = sum(note.fret is None and note.string == len(settings.tuning) for note in solo.notes)
        if there + below >= FEWEST and there + below >= TIMES * max(1, here):
            lowered = tuning_of(tuple(midi - down for midi in settings.tuning))
            low_to_high = [*zip(lowered.names, lowered.midi, strict=True)][::-1]
            return SoundsLow(
                " ".join(pitch_text(name, midi) for name, midi in low_to_high),
                f"It sounds {words} low: {there} notes lie on open strings {words} down, {here} on these. "
                f"Tuned down, they would ring open.",
            )
    return None


def six_string(solo: Solo) -> SixString:
    """The standard six-string with its lowest string tuned down to the lowest note of a part. Raises : NoSixString."""
    pitches = [pitch for note in solo.notes if (pitch := written_pitch(note, solo.settings)) is not None]
    if not pitches:
        raise NoSixString("Nothing is written yet that a string would be needed for.")
    lowest = int(min(pitches))
    sixth = min(STANDARD[-1], lowest)
    down = STANDARD[-1] - sixth
    name = pitch_text(sharp_name(lowest), lowest)
    if down > MOST_DOWN:
        raise NoSixString(f"The lowest note is {name}: no sixth string goes {down} semitones down and still sounds.")
    low_to_high = [sixth, *reversed(STANDARD[:-1])]
    tuning = " ".join(pitch_text(sharp_name(midi), midi) for midi in low_to_high)
    how = "the standard tuning reaches it" if not down else (
        f"the sixth string goes {down} semitone{'s' if down > 1 else ''} down, to {name}"
    )  # fmt: skip
    return SixString(tuning, f"The lowest note is {name}: {how}.")
