"""Offers as the page draws and says them, and the heard pitch as a curve on its string."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from usagi.core.degrees.naming import name_pitch
from usagi.core.degrees.words import course_words
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import SlideIn, steps_text
from usagi.core.fretboard.places import HUNDREDTHS, Place, places_of
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.mending import Mend, Moving
from usagi.core.listening.offers import Band, Offer, as_heard_there
from usagi.core.listening.spectrum import FRAMES_PER_S
from usagi.core.listening.technique import Joined
from usagi.core.values import Value

OCTAVE: Final = 12
CURVE_STEP: Final = 2  # frames between two points of a curve
_JOINED = {"hammer-on": "hammered on", "pull-off": "pulled off", "slide": "slid into"}


class PitchOffer(Value):
    """Another pitch for an offer."""

    midi: int
    name: str


class OfferView(Value):
    """One offer: the note as it would be written, where it sounds, and what may be put right by a key."""

    number: int
    note: Note
    second: float
    end_second: float
    midi: int
    name: str
    shown: str  # on its string
    says: str
    band: Band
    blocked: str  # why it cannot be taken; empty when it can
    places: tuple[Place, ...]  # where its pitch lies on this neck
    others: tuple[PitchOffer, ...]  # in the order in which a key brings them
    octave: PitchOffer | None  # what the key for octaves brings: above, below, then back
    moving: Moving | None  # what one key makes of it: a slide of a bend, a bend of a slide


class CurveView(Value):
    """The heard pitch of a note, in cents above its fret, from a second on; on the string of its note."""

    string: int
    second: float
    step_s: float
    cents: tuple[int, ...]


class OffersView(Value):
    """What a span offers, how it was heard in words, the curves of all that was heard in it, and what is no note."""

    offers: tuple[OfferView, ...]
    curves: tuple[CurveView, ...]
    sentence: str
    left_out: int


def view_offers(
    found: Sequence[Offer],
    heard: Sequence[HeardNote],
    solo: Solo,
    ground: Ground,
    *,
    mends: Mapping[int, Mend],
    left_out: int,
) -> OffersView:
    """Offers in words; `mends` are what the teacher put right, `left_out` how many moments are no notes."""
    views = tuple(_view(offer, solo.settings, ground, mends.get(offer.number)) for offer in found)
    return OffersView(
        offers=views, curves=_curves(found, heard, solo, ground), sentence=_sentence(found, left_out), left_out=left_out
    )


def _sentence(found: Sequence[Offer], left_out: int) -> str:
    if not found:
        return "Nothing more is heard here." + (f" {left_out} said to be no note." if left_out else "")
    bands = [sum(offer.band is band for offer in found) for band in Band]
    counts = ", ".join(f"{n} {band}" for n, band in zip(bands, Band, strict=True) if n)
    notes = "1 note is" if len(found) == 1 else f"{len(found)} notes are"
    return f"{notes} offered: {counts}."


def pitch_name(midi: int, ground: Ground, tick: int) -> str:
    """A pitch as it is called over the chord at a tick, with its octave."""
    change = ground.timeline.chord_at(tick)
    heard = None if change is None else change.heard
    name = name_pitch(midi % 12, heard, ground.timeline.facts_at(tick).key)
    return f"{name}{(midi - name.alter) // 12 - 1}"


def _view(offer: Offer, settings: SoloSettings, ground: Ground, mend: Mend | None) -> OfferView:
    note, heard = offer.note, offer.heard
    name = "" if note.dead else pitch_name(offer.midi, ground, note.tick)
    shown = "×" if note.dead else str((note.fret or 0) // HUNDREDTHS)
    top = max((quarters for _, quarters in note.course), default=0)
    if top:
        shown += f" ↑{steps_text(top)}"
    words = ["dead note" if note.dead else f"{name}, string {note.string}, fret {(note.fret or 0) // HUNDREDTHS}"]
    if note.rake is not None:
        words.append("raked into")
    words += course_words(note)
    if note.attack.kind in _JOINED:
        words.append(_JOINED[note.attack.kind])
    if isinstance(note.attack, SlideIn):
        words.append("slid into from below" if _from_below(note, note.attack) else "slid into from above")
    if note.vibrato is not None:
        words.append(f"vibrato {note.vibrato.width_cents:.0f} cents, {note.vibrato.rate_hz:.1f} Hz")
    others = tuple(PitchOffer(midi=midi, name=pitch_name(midi, ground, note.tick)) for midi in _others(offer, mend))
    return OfferView(
        number=offer.number,
        note=note,
        second=heard.onset_s,
        end_second=heard.end_s,
        midi=offer.midi,
        name=name,
        shown=shown,
        says=f"{', '.join(words)}: {offer.band}",
        band=offer.band,
        blocked=offer.blocked,
        places=() if note.dead else places_of(offer.midi, settings.tuning, settings.capo, settings.last_fret),
        others=others,
        octave=next((one for one in others if (one.midi - offer.midi) % OCTAVE == 0), None),
        moving=_moving(heard, mend),
    )


def _from_below(note: Note, attack: SlideIn) -> bool:
    return attack.start == "far below" or (isinstance(attack.start, int) and attack.start < (note.fret or 0))


def _others(offer: Offer, mend: Mend | None) -> tuple[int, ...]:
    """The next likely pitch first, then octaves; of one that was put right, those behind it, then what was heard."""
    others = offer.heard.others
    if mend is not None and mend.midi in others:
        at = others.index(mend.midi)
        others = (*others[at + 1 :], *others[:at])
    return tuple(dict.fromkeys(midi for midi in others if midi != offer.midi))


def _moving(heard: HeardNote, mend: Mend | None) -> Moving | None:
    if mend is not None and mend.moving is not None:
        return Moving.BEND if mend.moving is Moving.SLIDE else Moving.SLIDE
    if heard.bend is not None:
        return Moving.SLIDE
    return Moving.BEND if heard.joined is Joined.SLID else None


def _curves(found: Sequence[Offer], heard: Sequence[HeardNote], solo: Solo, ground: Ground) -> tuple[CurveView, ...]:
    """Of what is offered on its string; of what is written on the string of its note."""
    curves = [_curve(offer.note.string, offer.heard) for offer in found if len(offer.heard.cents)]
    offered = {id(offer.heard) for offer in found}
    begin = min((one.onset_s for one in heard), default=0.0) - 0.2
    end = max((one.end_s for one in heard), default=0.0) + 0.2
    for note in solo.notes:
        if note.dead or not begin <= ground.grid.second(note.tick) <= end:
            continue
        own = as_heard_there(heard, note, ground)
        if own is not None and id(own) not in offered and len(own.cents):
            curves.append(_curve(note.string, own))
    return tuple(curves)


def _curve(string: int, heard: HeardNote) -> CurveView:
    return CurveView(
        string=string,
        second=round(heard.onset_s, 4),
        step_s=CURVE_STEP / FRAMES_PER_S,
        cents=tuple(round(float(cents)) for cents in heard.cents[::CURVE_STEP]),
    )
