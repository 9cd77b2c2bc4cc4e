"""Bends that no finger reaches, and what players do instead."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from usagi.core.document.elements import Note
from usagi.core.document.solo import SoloSettings
from usagi.core.document.techniques import SlideIn, steps_text
from usagi.core.fingering.hand import HANDS, HandSize, bend_trouble
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch, places_of


class Instead(StrEnum):
    OTHER_STRING = "on another string"
    SLIDE = "by a slide"
    PREBENT = "prebent, and released"


@dataclass(frozen=True, slots=True)
class Offer:
    """Another way to the bent pitch: the note as it would be written."""

    way: Instead
    words: str
    note: Note


@dataclass(frozen=True, slots=True)
class BendOut:
    """A bend out of reach, why, and what to do."""

    note: str
    sentence: str
    offers: tuple[Offer, ...]


def bend_out_of_reach(note: Note, settings: SoloSettings, hand: HandSize = HandSize.USUAL) -> BendOut | None:
    """None when there is no bend, or a finger does it. Forces and distances are estimates, and are said to be."""
    most = max((quarters for _, quarters in note.course), default=0)
    if most <= 0 or note.fret is None or settings.bottleneck or note.string > len(settings.tuning):
        return None
    fret = note.fret // HUNDREDTHS
    why = bend_trouble(HANDS[hand], settings, note.string, fret, most)
    if why is None:
        return None
    place = "open" if fret == 0 else f"fret {fret}"
    sentence = f"A bend of {steps_text(most)} on string {note.string}, {place}, is out of reach: {why} (an estimate)."
    return BendOut(note.id, sentence, tuple(_offers(note, settings, hand, fret, most)))


def _offers(note: Note, settings: SoloSettings, hand: HandSize, fret: int, most: int) -> list[Offer]:
    offers = []
    midi = open_pitch(note.string, settings.tuning, settings.capo) + fret
    for place in places_of(midi, settings.tuning, settings.capo, settings.last_fret):
        if place.string == note.string or bend_trouble(HANDS[hand], settings, place.string, place.fret, most):
            continue
        moved = note.model_copy(update={"string": place.string, "fret": place.fret * HUNDREDTHS})
        words = f"bend it on string {place.string}, fret {place.fret}"
        offers.append(Offer(Instead.OTHER_STRING, words, moved))
    reached = fret + most // 2
    if most % 2 == 0 and reached <= settings.last_fret - settings.capo:
        at = next(at for at, quarters in note.course if quarters == most)
        slid = note.model_copy(
            update={
                "fret": reached * HUNDREDTHS,
                "course": (),
                "attack": SlideIn(start=fret * HUNDREDTHS, ticks=max(1, min(at, note.ticks - 1))),
            }
        )
        offers.append(Offer(Instead.SLIDE, f"slide from fret {fret} to fret {reached}", slid))
    if note.course[0][1] == 0 and fret > 0:
        half = _least(settings, hand, note.string, fret, most)
        if half:
            course = ((0, half), (max(1, note.ticks // 3), half), (note.ticks, 0))
            lifted = note.model_copy(update={"course": course})
            offers.append(
                Offer(Instead.PREBENT, f"prebent {steps_text(half)}, as far as it goes, and released", lifted)
            )
    return offers


def _least(settings: SoloSettings, hand: HandSize, string: int, fret: int, most: int) -> int:
    """The widest bend from this fret that the finger does, in quarter tones."""
    return next((q for q in range(most - 1, 0, -1) if bend_trouble(HANDS[hand], settings, string, fret, q) is None), 0)
