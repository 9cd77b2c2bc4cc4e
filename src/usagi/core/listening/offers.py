"""Offers: heard notes as they would be written, on the grid, under the hand, beside what is written already.

Nothing written is replaced: where a note stands on the place of an offer, the offer says so and cannot be taken; what
is written as it is heard is offered no more.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType
from typing import Final

import numpy as np

from usagi.core.document.elements import Note, Rest
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import (
    HIGHEST_BEND,
    HammerOn,
    Heard,
    LetRing,
    Picked,
    PullOff,
    Rake,
    Slide,
    SlideIn,
    Sure,
    Vibrato,
)
from usagi.core.document.writing import NewId, written
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.search import Search
from usagi.core.fretboard.places import HUNDREDTHS, places_of
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.laying import Laid, laid
from usagi.core.listening.mending import Mend, mended
from usagi.core.listening.technique import BendHeard, Joined
from usagi.core.playing.timing import expected_seconds, feels_of

SURE: Final = 0.96
LIKELY: Final = 0.75
CONTEXT: Final = 4  # written notes on either side that the hand comes from and goes to
NEAR_TICKS: Final = 2_520  # a sixteenth of a whole note either way: the same moment
MOMENT_S: Final = 0.03
CURVE_POINTS: Final = 32


class Band(StrEnum):
    """How sure an offer is."""

    SURE = "sure"
    LIKELY = "likely"
    GUESS = "guess"


def band_of(confidence: float) -> Band:
    """
    >>> [str(band_of(c)) for c in (0.99, 0.8, 0.4)]
    ['sure', 'likely', 'guess']
    """
    return Band.SURE if confidence >= SURE else Band.LIKELY if confidence >= LIKELY else Band.GUESS


@dataclass(frozen=True)
class Offer:
    """One note as it would be written. `number` counts what was heard; a slide made of a bend has two notes of one."""

    number: int
    note: Note
    heard: HeardNote
    midi: int
    band: Band
    blocked: str = ""


def offers(
    heard: Sequence[HeardNote],
    solo: Solo,
    ground: Ground,
    *,
    new_id: NewId,
    mends: Mapping[int, Mend] = MappingProxyType({}),
    left_out: Collection[int] = (),
    hand: HandSize = HandSize.USUAL,
) -> list[Offer]:
    """Offers for what was heard, in order of time; what is written already is left out.

    Parameters
    ----------
    heard : seconds of the recording.
    solo, ground : what is written, and the grid under it.
    new_id : gives the ids of the notes.
    mends : what the teacher put right, by number.
    left_out : numbers of what is no note.
    hand : how far the hand reaches.
    """
    numbered = [(number, note) for number, note in mended(heard, mends) if number not in left_out]
    feels = feels_of(solo, ground)
    bars = ground.timeline.bars
    places = laid([note for _, note in numbered], ground, feels)
    written_already = _written_already(list(zip([note for _, note in numbered], places, strict=True)), solo)
    drafts = [
        (number, note, at)
        for i, ((number, note), at) in enumerate(zip(numbered, places, strict=True))
        if bars.first_tick <= at.tick < bars.end_tick and i not in written_already
    ]
    playable = [(number, note, at) for number, note, at in drafts if note.dead or _reachable(note.midi, solo.settings)]
    notes = _placed([(note, at) for _, note, at in playable], solo, ground, new_id, hand)
    found = []
    for (number, one, _), note in zip(playable, notes, strict=True):
        at = mends[number].at if number in mends else None
        if at is not None and note.fret is not None:
            note = _at(note, at.string, at.fret * HUNDREDTHS, solo.settings)
        band = Band.GUESS if one.raked else band_of(one.confidence)
        found.append(Offer(number, note, one, one.midi, band, _blocked(note, solo)))
    return found


def taken(solo: Solo, chosen: Sequence[Offer], new_id: NewId, *, rests: bool = True) -> Solo:
    """The solo with some offers written into it, and rests where it is silent between them."""
    notes = [_as_taken(offer) for offer in chosen if not offer.blocked]
    after = written(solo, notes, new_id)
    if not rests or len(notes) < 2:
        return after
    silent = [rest for rest in _silences(notes, new_id) if _free(rest, after)]
    return after.model_copy(update={"rests": tuple(sorted((*after.rests, *silent), key=lambda rest: rest.tick))})


def _as_taken(offer: Offer) -> Note:
    """A guess that is taken stays marked as unsure."""
    sure = Sure.UNSURE if offer.band is Band.GUESS else offer.note.sure
    return offer.note.model_copy(update={"sure": sure})


def _silences(notes: Sequence[Note], new_id: NewId) -> list[Rest]:
    ordered = sorted(notes, key=lambda note: note.tick)
    found, end = [], ordered[0].end
    for note in ordered[1:]:
        if note.tick > end:
            found.append(Rest(id=new_id(), tick=end, ticks=note.tick - end))
        end = max(end, note.end)
    return found


def _free(rest: Rest, solo: Solo) -> bool:
    return not any(n.tick < rest.end and rest.tick < n.end for n in solo.notes) and not any(
        r.tick < rest.end and rest.tick < r.end for r in solo.rests
    )


def _reachable(midi: int, settings: SoloSettings) -> bool:
    return bool(places_of(midi, settings.tuning, settings.capo, settings.last_fret))


def _written_already(notes: Sequence[tuple[HeardNote, Laid]], solo: Solo) -> set[int]:
    """Places of heard notes that are written: at their pitch, or as the teacher put them right at their moment."""
    found: set[int] = set()
    used: set[str] = set()
    for same in (True, False):
        for i, (note, at) in enumerate(notes):
            for other in solo.notes:
                if i in found or other.id in used:
                    continue
                at_its_moment = other.heard is not None and abs(other.heard.onset_s - note.onset_s) < MOMENT_S
                of_its_pitch = other.dead if note.dead else written_pitch(other, solo.settings) == note.midi
                near = at_its_moment or abs(other.tick - at.tick) < NEAR_TICKS
                if (near and of_its_pitch) if same else at_its_moment:
                    found.add(i)
                    used.add(other.id)
    return found


def _blocked(note: Note, solo: Solo) -> str:
    """Why an offer cannot be taken; empty when it can."""
    for other in solo.notes:
        if other.string == note.string and other.tick == note.tick:
            return "A note is written there already: delete it first."
        if other.string == note.string and note.tick < other.tick < note.tick + min(note.ticks, NEAR_TICKS):
            return "The next written note of this string begins too soon after it."
    return ""


def _placed(
    drafts: Sequence[tuple[HeardNote, Laid]],
    solo: Solo,
    ground: Ground,
    new_id: NewId,
    hand: HandSize,
) -> list[Note]:
    """Notes at the cheapest places for a hand that comes from what is written and goes on to it."""
    if not drafts:
        return []
    notes = _joined_up(drafts, solo.settings, ground, new_id)
    first, last = min(n.tick for n in notes), max(n.tick for n in notes)
    before = [n for n in solo.notes if n.tick < first][-CONTEXT:]
    inside = [n for n in solo.notes if first <= n.tick <= last]
    after = [n for n in solo.notes if n.tick > last][:CONTEXT]
    context = [*before, *inside, *after]
    line = sorted([*context, *notes], key=lambda n: (n.tick, n.string))
    ticks = sorted({n.tick for n in line})
    seconds = dict(zip(ticks, expected_seconds(solo, ground, ticks), strict=True))
    way = Search(
        line, solo.settings, seconds, pinned=[n.id for n in context], hand=hand, reported=[n.id for n in notes]
    ).best()
    at = {place.note: place for place in way.places}
    return [
        n if n.fret is None or n.id not in at else _at(n, at[n.id].string, at[n.id].fret, solo.settings) for n in notes
    ]


def _at(note: Note, string: int, fret: int, settings: SoloSettings) -> Note:
    attack = note.attack
    if isinstance(attack, SlideIn) and isinstance(attack.start, int) and note.fret is not None:
        attack = attack.model_copy(
            update={"start": max(0, min(settings.highest_fret, attack.start + fret - note.fret))}
        )
    if isinstance(attack, HammerOn | Slide) and fret == 0:
        attack = Picked()
    rake = None if note.rake is None else _rake(len(note.rake.strings), string, settings)
    return note.model_copy(update={"string": string, "fret": fret, "attack": attack, "rake": rake})


def _rake(count: int, string: int, settings: SoloSettings) -> Rake | None:
    """Over the lower strings on to a note, as many as there are."""
    strings = tuple(range(min(string + count, len(settings.tuning)), string, -1))
    return Rake(strings=strings) if strings else None


def _joined_up(
    drafts: Sequence[tuple[HeardNote, Laid]], settings: SoloSettings, ground: Ground, new_id: NewId
) -> list[Note]:
    """Notes at some place each, those that are joined on one string, so that the search knows what belongs together."""
    order = sorted(range(len(drafts)), key=lambda i: (drafts[i][1].tick, -drafts[i][0].midi))
    used: dict[int, set[int]] = {}
    placed: dict[int, tuple[int, int, bool]] = {}
    previous: int | None = None
    for place, i in enumerate(order):
        heard, at = drafts[i]
        taken_there = used.setdefault(at.tick, set())
        chain = previous is not None and heard.joined in (Joined.HAMMERED, Joined.PULLED, Joined.SLID)
        spots = [(p.string, p.fret) for p in places_of(heard.midi, settings.tuning, settings.capo, settings.last_fret)]
        spots = [spot for spot in spots if spot[0] not in taken_there] or spots or [(1, 0)]
        joined = False
        if chain and previous is not None:
            string = placed[previous][0]
            same = [spot for spot in spots if spot[0] == string and spot[1] != placed[previous][1]]
            if same and string not in taken_there:
                spots, joined = same, True
        if not joined:  # a string on which what is joined to it fits, too
            ahead = [drafts[j][0] for j in order[place + 1 : place + 6]]
            spots = sorted(spots, key=lambda spot: (-_fits(spot[0], ahead, settings), abs(spot[1] - 7)))
        string, fret = spots[0]
        taken_there.add(string)
        placed[i] = (string, fret, joined)
        previous = i
    return [_note(heard, at, placed[i], settings, ground, new_id) for i, (heard, at) in enumerate(drafts)]


def _fits(string: int, ahead: Sequence[HeardNote], settings: SoloSettings) -> int:
    count = 0
    for note in ahead:
        if note.joined not in (Joined.HAMMERED, Joined.PULLED, Joined.SLID):
            break
        if not any(
            p.string == string for p in places_of(note.midi, settings.tuning, settings.capo, settings.last_fret)
        ):
            break
        count += 1
    return count


def _note(
    heard: HeardNote, at: Laid, place: tuple[int, int, bool], settings: SoloSettings, ground: Ground, new_id: NewId
) -> Note:
    string, fret, joined = place
    into = _into(heard, at.ticks, ground)
    told = Heard(
        onset_s=round(heard.onset_s, 4),
        end_s=round(max(heard.end_s, heard.onset_s), 4),
        confidence=round(min(1.0, max(0.0, heard.confidence)), 3),
        cents=_curve(heard),
    )
    if heard.dead:
        return Note(id=new_id(), tick=at.tick, ticks=at.ticks, string=string, dead=True, heard=told)
    attack = {
        Joined.HAMMERED: HammerOn(),
        Joined.PULLED: PullOff(),
        Joined.SLID: Slide(),
    }.get(heard.joined if joined else Joined.PICKED, Picked())
    if heard.joined is Joined.SLID_IN and fret > 0 and heard.slid_from:
        start = max(0, fret - heard.slid_from)
        attack = SlideIn(start=start * HUNDREDTHS, ticks=max(1, into(heard.slid_s)))
    course = _course(heard.bend, at.ticks, into)
    return Note(
        id=new_id(),
        tick=at.tick,
        ticks=at.ticks,
        string=string,
        fret=fret * HUNDREDTHS,
        attack=attack,
        course=course,
        vibrato=vibrato_as_heard(heard, at.ticks, ground),
        ending=LetRing() if heard.rings else None,
        rake=_rake(heard.raked, string, settings),
        heard=told,
    )


def _course(bend: BendHeard | None, ticks: int, into: Callable[[float], int]) -> tuple[tuple[int, int], ...]:
    """The points of a course, to the quarter tone; a bend that is heard is at least one."""
    if bend is None:
        return ()
    course: list[tuple[int, int]] = []
    for seconds, cents in bend.points:
        quarters = min(HIGHEST_BEND, round(cents / 50)) if cents < 25 else min(HIGHEST_BEND, max(1, round(cents / 50)))
        at = into(seconds) if course else 0
        if course and at <= course[-1][0]:
            at = course[-1][0] + 1
        if at > ticks:
            break
        course.append((at, quarters))
    if len(course) > 1 and course[1][1] == course[0][1] == 0 and course[1][0] < ticks // 12:
        course.pop(1)  # it is bent at once
    return tuple(course) if any(quarters for _, quarters in course) else ()


def course_as_heard(note: Note, heard: HeardNote, ground: Ground) -> tuple[tuple[int, int], ...]:
    """The course of a written note by what is heard of its pitch: sizes to the quarter tone, times to the tick."""
    return _course(heard.bend, note.ticks, _into(heard, note.ticks, ground))


def vibrato_as_heard(heard: HeardNote, ticks: int, ground: Ground) -> Vibrato | None:
    """The vibrato of a note of so many ticks as it is heard; none where none is."""
    if heard.vibrato is None:
        return None
    return Vibrato(
        start=_into(heard, ticks, ground)(heard.vibrato.start_s),
        width_cents=float(np.clip(round(heard.vibrato.width_cents), 5, 300)),
        rate_hz=float(np.clip(round(heard.vibrato.rate_hz, 1), 1, 12)),
    )


def _into(heard: HeardNote, ticks: int, ground: Ground) -> Callable[[float], int]:
    """From seconds after the onset to ticks into a note of so many."""
    begin = ground.grid.tick(heard.onset_s)
    return lambda seconds: max(0, min(ticks, round(ground.grid.tick(heard.onset_s + seconds) - begin)))


def _curve(heard: HeardNote) -> tuple[float, ...]:
    if not len(heard.cents):
        return ()
    at = np.linspace(0, len(heard.cents) - 1, min(CURVE_POINTS, len(heard.cents))).round().astype(int)
    return tuple(float(np.clip(round(c, 1), -2_400, 2_400)) for c in heard.cents[at])


def as_heard_there(heard: Sequence[HeardNote], note: Note, ground: Ground) -> HeardNote | None:
    """What was heard of a written note: by the moment that it keeps, else the nearest to its place on the grid."""
    at = note.heard.onset_s if note.heard is not None else ground.grid.second(note.tick)
    near = [one for one in heard if abs(one.onset_s - at) < (0.03 if note.heard is not None else 0.12) and not one.dead]
    return min(near, key=lambda one: abs(one.onset_s - at), default=None)
