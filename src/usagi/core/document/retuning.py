"""A solo on other strings: another tuning, capo or number of strings, frets kept or pitches kept."""

from __future__ import annotations

from dataclasses import dataclass

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import out_of_reach
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.document.techniques import Harmonic
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.pitch.names import pitch_text, sharp_name

JOINED = ("hammer-on", "pull-off", "slide")
STRING_COST = 1.5  # frets that a change of string is worth
LEAVING_JOINED = 100.0  # what is joined to the note before stays on its string when it can


@dataclass(frozen=True, slots=True)
class Impossible:
    """A note that cannot be played any more, where, and why."""

    id: str
    place_tick: int
    sentence: str


@dataclass(frozen=True)
class Retuned:
    solo: Solo
    changed: int  # notes that sound or lie otherwise
    impossible: tuple[Impossible, ...]


def keep_frets(solo: Solo, settings: SoloSettings) -> Retuned:
    """The same frets on the new strings; what has no place stays in the document and is listed."""
    after = solo.model_copy(update={"settings": settings})
    bad = []
    changed = 0
    for note in solo.notes:
        reason = out_of_reach(note, settings)
        if reason is not None:
            bad.append(Impossible(note.id, note.tick, reason))
        elif written_pitch(note, solo.settings) != written_pitch(note, settings):
            changed += 1
    return Retuned(after, changed, tuple(bad))


def keep_pitches(solo: Solo, settings: SoloSettings) -> Retuned:
    """The same pitches at the nearest frets that the new strings have for them.

    Each note takes the place that moves least, on a string that is free while it sounds; a note joined to the one
    before stays with it. A pitch that no place has keeps its old place and is listed: no octave is moved in silence.
    """
    placed: list[Note] = []
    bad = []
    changed = 0
    went: dict[int, int] = {}  # old string -> new string of the note before on it
    sounding: dict[int, int] = {}  # new string -> tick until which it is taken
    for note in sorted(solo.notes, key=lambda one: (one.tick, one.string)):
        pitch = written_pitch(note, solo.settings)
        if pitch is None or (isinstance(note.attack, Harmonic)):
            new, reason = note, out_of_reach(note, settings)
            if reason is None and isinstance(note.attack, Harmonic) and written_pitch(note, settings) != pitch:
                reason = f"The harmonic on string {note.string} sounds otherwise on this tuning."
        else:
            new, reason = _replaced(note, pitch, settings, went.get(note.string), sounding)
        if reason is not None:
            bad.append(Impossible(note.id, note.tick, reason))
        changed += (new.string, new.fret) != (note.string, note.fret)
        went[note.string] = new.string
        sounding[new.string] = max(sounding.get(new.string, new.end), new.end)
        placed.append(new)
    placed.sort(key=lambda one: (one.tick, one.string))
    after = solo.model_copy(update={"settings": settings, "notes": tuple(placed)})
    return Retuned(after, changed, tuple(bad))


def _replaced(
    note: Note, pitch: float, settings: SoloSettings, before: int | None, sounding: dict[int, int]
) -> tuple[Note, str | None]:
    joined = note.attack.kind in JOINED and before is not None
    free = settings.last_fret - settings.capo
    best: tuple[float, int, int] | None = None
    for string in range(1, len(settings.tuning) + 1):
        if sounding.get(string, note.tick) > note.tick:
            continue
        fret = (pitch - open_pitch(string, settings.tuning, settings.capo)) * HUNDREDTHS
        if not 0 <= fret <= free * HUNDREDTHS or (fret % HUNDREDTHS and not settings.bottleneck):
            continue
        moved = abs(fret - (note.fret or 0)) / HUNDREDTHS + STRING_COST * abs(string - note.string)
        cost = moved + (LEAVING_JOINED if joined and string != before else 0)
        if best is None or cost < best[0]:
            best = (cost, string, round(fret))
    if best is None:
        return note, _why(pitch, settings)
    return note.model_copy(update={"string": best[1], "fret": best[2]}), None


def _why(pitch: float, settings: SoloSettings) -> str:
    name = pitch_text(sharp_name(int(pitch)), int(pitch))
    opens = [open_pitch(string, settings.tuning, settings.capo) for string in range(1, len(settings.tuning) + 1)]
    if pitch < min(opens):
        return f"{name} lies below the lowest string."
    if pitch > max(opens) + settings.last_fret - settings.capo:
        return f"{name} lies above the last fret."
    return f"{name} has no free string while the others sound."
