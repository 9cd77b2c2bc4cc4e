"""What one key makes of a finding: the solo as it is heard, or as it can be played."""

from __future__ import annotations

from typing import Final

from usagi.core.checking.finding import Finding, FindingKind
from usagi.core.checking.itself import elsewhere, holes
from usagi.core.document.elements import Note, Rest
from usagi.core.document.joins import agrees, fitting, sources
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import Picked, SlideOff
from usagi.core.document.writing import NewId, written
from usagi.core.errors import UsagiError
from usagi.core.fingering.bends import bend_out_of_reach
from usagi.core.fingering.hand import HandSize
from usagi.core.fretboard.places import HUNDREDTHS, places_of
from usagi.core.listening.laying import laid
from usagi.core.listening.offers import course_as_heard, offers, taken, vibrato_as_heard
from usagi.core.playing.timing import feels_of

_K = FindingKind
REMOVED: Final = (_K.NOT_HEARD, _K.OUTSIDE)


class NotMended(UsagiError):
    """A finding that no key mends."""

    code = "not-mended"


def mended(solo: Solo, ground: Ground, finding: Finding, new_id: NewId, hand: HandSize = HandSize.USUAL) -> Solo:
    """The solo with a finding mended as its `mend` says.

    Raises : NotMended, when only a person can, or what it names is gone.
    """
    if not finding.mend or finding.kind is _K.CHORD:
        raise NotMended("No key mends this: change it by hand, waive it, or leave it.")
    if finding.kind in (_K.GAP, _K.BAR):
        return _with_rests(solo, ground, finding, new_id)
    if finding.kind is _K.NOT_WRITTEN:
        return _written(solo, ground, finding, new_id, hand)
    notes = {note.id: note for note in solo.notes}
    own = [notes[one] for one in finding.notes if one in notes]
    if len(own) < len(finding.notes) or not own:
        raise NotMended("The note of this finding is not here any more.")
    note = own[0] if finding.kind is _K.SLIDE else own[-1]
    if finding.kind in REMOVED:
        return solo.model_copy(update={"notes": tuple(one for one in solo.notes if one.id != note.id)})
    changed = _changed(note, own, solo, ground, finding, hand)
    if changed is None or changed == note:
        raise NotMended("This cannot be written here: change it by hand, waive it, or leave it.")
    return written(
        solo.model_copy(update={"notes": tuple(n for n in solo.notes if n.id != note.id)}), [changed], new_id
    )


def _with_rests(solo: Solo, ground: Ground, finding: Finding, new_id: NewId) -> Solo:
    bar = ground.timeline.bars.at(finding.tick)
    sounds: list[Note | Rest] = sorted([*solo.notes, *solo.rests], key=lambda one: one.tick)
    rests = [
        Rest(id=new_id(), tick=a, ticks=b - a) for a, b in holes(bar, sounds) if finding.tick <= a and b <= finding.end
    ]
    return solo.model_copy(update={"rests": tuple(sorted((*solo.rests, *rests), key=lambda rest: rest.tick))})


def _written(solo: Solo, ground: Ground, finding: Finding, new_id: NewId, hand: HandSize) -> Solo:
    assert finding.heard is not None
    found = offers([finding.heard], solo, ground, new_id=new_id, hand=hand)
    if not found or found[0].blocked:
        raise NotMended(found[0].blocked if found else "Its pitch lies nowhere on this neck.")
    return taken(solo, found[:1], new_id)


def _changed(note: Note, own: list[Note], solo: Solo, ground: Ground, finding: Finding, hand: HandSize) -> Note | None:
    heard = finding.heard
    match finding.kind:
        case _K.PITCH | _K.OCTAVE if heard is not None:
            return _at_pitch(note, heard.midi, solo.settings)
        case _K.BEND if heard is not None:
            return note.model_copy(update={"course": course_as_heard(note, heard, ground)})
        case _K.VIBRATO if heard is not None:
            return note.model_copy(update={"vibrato": vibrato_as_heard(heard, note.ticks, ground), "trill": None})
        case _K.ONSET if heard is not None:
            return note.model_copy(update={"tick": laid([heard], ground, feels_of(solo, ground))[0].tick})
        case _K.JOIN:
            source = sources(solo.notes).get(note.id)
            attack = Picked() if agrees(note, source) else fitting(note, source)
            return note.model_copy(update={"attack": attack})
        case _K.SLIDE if len(own) == 2 and isinstance(note.ending, SlideOff):
            return note.model_copy(update={"ending": note.ending.model_copy(update={"to": own[1].fret})})
        case _K.SLIDE:
            return note.model_copy(update={"attack": Picked()})
        case _K.OFF_NECK:
            place = elsewhere(note, solo.settings)
            return None if place is None else _placed(note, place.string, place.fret)
        case _K.BEND_REACH:
            out = bend_out_of_reach(note, solo.settings, hand)
            return None if out is None or not out.offers else out.offers[0].note
        case _:
            return None


def _placed(note: Note, string: int, fret: int) -> Note:
    return note.model_copy(update={"string": string, "fret": fret * HUNDREDTHS})


def _at_pitch(note: Note, midi: int, settings: SoloSettings) -> Note | None:
    """On its own string where the pitch lies near on it, else the nearest place."""
    places = places_of(midi, settings.tuning, settings.capo, settings.last_fret)
    fret = (note.fret or 0) / HUNDREDTHS
    if not places:
        return None
    best = min(places, key=lambda place: abs(place.fret - fret) + 2 * abs(place.string - note.string))
    return _placed(note, best.string, best.fret)
