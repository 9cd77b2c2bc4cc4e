"""A first place for every note of a score: its own where that sounds what is written, else one that does."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import groupby
from typing import Any, Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import out_of_reach
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import (
    DEEPEST_DIP,
    HIGHEST_BEND,
    LONGEST,
    PARTIAL_SEMITONES,
    Harmonic,
    Picked,
    Sure,
)
from usagi.core.document.writing import NewId
from usagi.core.formats.laid.instrument import MOST_FRETS
from usagi.core.formats.laid.listing import Listing
from usagi.core.formats.score import ScoreNote
from usagi.core.formats.tab_signs import evenly
from usagi.core.fretboard.places import HUNDREDTHS, places_of
from usagi.core.meter.bars import Bars
from usagi.core.pitch.names import pitch_text, sharp_name

LEGATO: Final = ("hammer-on", "pull-off", "slide")


def first_places(
    wanted: Sequence[ScoreNote], settings: SoloSettings, bars: Bars, listed: Listing, new_id: NewId
) -> tuple[list[Note], set[str], dict[str, ScoreNote]]:
    """Notes on a first place each, which of them are where the file says, and what each was."""
    found: list[Note] = []
    pinned: set[str] = set()
    origin: dict[str, ScoreNote] = {}
    strings = _first_strings(wanted, settings)
    for tick, together in groupby(enumerate(wanted), key=lambda one: one[1].tick):
        group = list(together)
        taken: set[int] = set()
        if not bars.first_tick <= tick < bars.end_tick:
            for _, one in group:
                listed.say(tick, f"{_called(one)} lies outside the bars that are here and is left out.")
            continue
        kept: list[tuple[int, ScoreNote, Note, bool]] = []
        for index, one in group:
            note = _placed(one, settings, new_id())
            sits = note is not None
            if note is None:
                note = _anywhere(one, settings, strings.get(index), new_id())
            if note is None:
                listed.say(tick, f"{_called(one)} is not on this neck and is left out.")
                continue
            if sits and note.string in taken:
                note, sits = _anywhere(one, settings, None, note.id), False
                if note is None:
                    listed.say(tick, f"{_called(one)} has no string left and is left out.")
                    continue
            if sits:
                taken.add(note.string)
            kept.append((index, one, note, sits))
        for _, one, _, _ in kept[len(settings.tuning) :]:
            listed.say(tick, f"{_called(one)} is one more than there are strings and is left out.")
        for _, one, note, sits in kept[: len(settings.tuning)]:
            if one.ticks > LONGEST:
                listed.say(tick, f"{_called(one)} is cut at eight whole notes.")
            if one.fields.get("attack", {}).get("kind") == "harmonic" and not isinstance(note.attack, Harmonic):
                listed.say(tick, f"{_called(one)} is a harmonic without its fret: written as the pitch that sounds.")
            found.append(note)
            origin[note.id] = one
            if sits:
                pinned.add(note.id)
    return found, pinned, origin


def _called(note: ScoreNote) -> str:
    if note.midi is None:
        return "a note without a pitch"
    return pitch_text(sharp_name(int(note.midi) % 12), int(note.midi))


def _fields(one: ScoreNote, note_id: str) -> dict[str, Any]:
    ticks = max(1, min(one.ticks, LONGEST))
    fields: dict[str, Any] = {"id": note_id, "tick": one.tick, "ticks": ticks} | dict(one.fields)
    if one.course:
        fields["course"] = _within(one.course, ticks)
    elif one.levels:
        fields["course"] = evenly(tuple(max(DEEPEST_DIP, min(HIGHEST_BEND, level)) for level in one.levels), ticks)
    return fields


def _within(course: Iterable[tuple[int, int]], ticks: int) -> tuple[tuple[int, int], ...]:
    """A course that starts at 0, rises in time, ends with its note and stays within reach."""
    found: list[tuple[int, int]] = []
    for at, quarters in course:
        point = (min(max(at, 0), ticks), max(DEEPEST_DIP, min(HIGHEST_BEND, quarters)))
        if not found or point[0] > found[-1][0]:
            found.append(point)
    if found and found[0][0] > 0:
        found.insert(0, (0, 0))
    return tuple(found[:64])


def _placed(one: ScoreNote, settings: SoloSettings, note_id: str) -> Note | None:
    """The note at the place that the file gives it; None where that does not sound what is written."""
    if one.string is None or not 1 <= one.string <= len(settings.tuning):
        return None
    fields = _fields(one, note_id) | {"string": one.string}
    if one.fret is None:
        unknown = {} if fields.get("dead") else {"sure": Sure.UNKNOWN}
        return Note.model_validate(fields | unknown) if one.midi is None else None
    fret = min(max(one.fret, 0), MOST_FRETS * HUNDREDTHS)
    attack = fields.get("attack", {})
    if attack.get("kind") == "harmonic" and "how" in attack and one.midi is not None:
        fretted = settings.tuning[one.string - 1] + settings.capo + fret / HUNDREDTHS
        fields["attack"] = attack | {"partial": _partial(fretted, one.midi)}
    note = Note.model_validate(fields | {"fret": fret})
    if out_of_reach(note, settings) is not None:
        return None
    sounds = written_pitch(note, settings)
    if one.midi is not None and sounds is not None and abs(sounds - one.midi) > 0.25:
        if isinstance(note.attack, Harmonic) and abs(_fretted(note, settings) - one.midi) <= 0.25:
            return note  # many write a harmonic at the fret that it is touched at
        return None
    return note


def _partial(fretted: float, midi: float) -> int:
    """The partial above a fretted pitch that lies nearest to what sounds."""
    return min(PARTIAL_SEMITONES, key=lambda partial: abs(fretted + PARTIAL_SEMITONES[partial] - midi))


def _fretted(note: Note, settings: SoloSettings) -> float:
    return settings.tuning[note.string - 1] + settings.capo + (note.fret or 0) / HUNDREDTHS


def _anywhere(one: ScoreNote, settings: SoloSettings, string: int | None, note_id: str) -> Note | None:
    """The note on some place that sounds it; None when the neck has none."""
    fields = _fields(one, note_id)
    if one.midi is None:
        strings = len(settings.tuning)
        own = {"string": one.string if one.string in range(1, strings + 1) else strings}
        dead = bool(fields.get("dead"))
        return Note.model_validate(fields | own | ({} if dead else {"sure": Sure.UNKNOWN}))
    if fields.get("attack", {}).get("kind") == "harmonic":
        fields["attack"] = Picked()  # its place is not known, so it is written as the pitch that sounds
    whole = int(one.midi)
    if one.midi != whole and not fields.get("course"):
        fields["course"] = ((0, 1),)  # a quarter tone above: a curl
    places = places_of(whole, settings.tuning, settings.capo, settings.last_fret)
    if not places:
        return None
    place = next((place for place in places if place.string == string), places[0])
    return Note.model_validate(fields | {"string": place.string, "fret": place.fret * HUNDREDTHS})


def _first_strings(wanted: Sequence[ScoreNote], settings: SoloSettings) -> dict[int, int]:
    """A string for every note that is joined to the one before, so that the search knows what stays together."""
    found: dict[int, int] = {}
    chain: list[int] = []

    def close() -> None:
        if len(chain) > 1:
            string = _common_string([wanted[i] for i in chain], settings)
            if string is not None:
                found.update(dict.fromkeys(chain, string))

    for i, one in enumerate(wanted):
        kind = one.fields.get("attack", {}).get("kind", "picked")
        joined = kind in LEGATO and i > 0 and wanted[i - 1].tick < one.tick
        if not joined:
            close()
            chain = []
        chain.append(i)
    close()
    return found


def _common_string(chain: Sequence[ScoreNote], settings: SoloSettings) -> int | None:
    common: set[int] | None = None
    for one in chain:
        if one.midi is None:
            return None
        if one.string is not None and one.fret is not None:
            here = {one.string}
        else:
            here = {p.string for p in places_of(int(one.midi), settings.tuning, settings.capo, settings.last_fret)}
        common = here if common is None else common & here
    return min(common) if common else None
