"""The guitar that a score is laid on: its tuning, capo and neck, and the octave that its frets sound in."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import Final

from usagi.core.document.solo import STANDARD, Ground, SoloSettings
from usagi.core.formats.score import Score, ScoreNote
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import REFERENCES

MOST_FRETS: Final = 36
TEXT: Final = 200  # letters of a title
SLOPPY: Final = 0.9  # of the fretted notes: when so many sound one other octave than is written, the octave is wrong


def instrument_of(score: Score, ground: Ground, on: SoloSettings | None) -> tuple[SoloSettings, int]:
    """Tuning, capo and neck; and by how many semitones (an octave or none) its frets lie beside its pitches."""
    if on is not None:
        return on, 0
    most_string = max((note.string or 0 for note in score.notes), default=0)
    tuning = score.tuning
    if tuning is None:
        usual = REFERENCES.get(max(6, min(most_string, 8)), REFERENCES[6])
        tuning = tuple(reversed(usual)) if most_string > 6 else STANDARD
    capo = min(max(score.capo, 0), 12)
    highest = max((note.fret // HUNDREDTHS + capo for note in score.notes if note.fret is not None), default=0)
    last = ground.timeline.bars.bars[-1].number
    settings = SoloSettings(
        title=score.title.strip()[:TEXT],
        player=score.player.strip()[:TEXT],
        tuning=tuning,
        capo=capo,
        last_fret=min(max(score.last_fret, highest, 12), MOST_FRETS),
        bottleneck=any(_between_frets(note) for note in score.notes),
        first_bar=0 if ground.settings.pickup_ticks else 1,
        last_bar=last,
    )
    beside = Counter(_beside(note, settings) for note in score.notes if _beside(note, settings) is not None)
    whole = sum(beside.values())
    for octave in (-12, 12):
        if whole and beside[octave] >= SLOPPY * whole:
            return settings, octave
    return settings, 0


def _between_frets(note: ScoreNote) -> bool:
    """Whether only a bottleneck stops there."""
    harmonic = note.fields.get("attack", {}).get("kind") == "harmonic"
    return note.fret is not None and note.fret % HUNDREDTHS != 0 and not harmonic


def _beside(note: ScoreNote, settings: SoloSettings) -> float | None:
    """How far the place of a note sounds from its written pitch, in semitones."""
    if note.midi is None or note.string is None or note.fret is None or note.string > len(settings.tuning):
        return None
    if note.string < 1 or note.fields.get("attack", {}).get("kind") == "harmonic":
        return None
    return settings.tuning[note.string - 1] + settings.capo + note.fret / HUNDREDTHS - note.midi


def in_octave(score: Score, octaves: int) -> list[ScoreNote]:
    ordered = sorted(score.notes, key=lambda note: (note.tick, -(note.midi or 0)))
    if not octaves:
        return ordered
    return [replace(note, midi=None if note.midi is None else note.midi + octaves) for note in ordered]
