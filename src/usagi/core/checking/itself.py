"""The writing held against itself: bars, the neck, joins and slides, the hand, bends."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction
from typing import Final

from usagi.core.checking.finding import SIZES, Finding, FindingKind, digest
from usagi.core.document.elements import Note, Rest
from usagi.core.document.joins import agrees, fitting, sources
from usagi.core.document.rules import out_of_reach, outside, violations
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import LetRing, Slide, SlideIn, SlideOff
from usagi.core.fingering.bends import bend_out_of_reach
from usagi.core.fingering.hand import HandSize
from usagi.core.fingering.search import written_way
from usagi.core.fingering.shapes import Shaper
from usagi.core.fingering.words import ordinal
from usagi.core.fretboard.places import HUNDREDTHS, Place, open_pitch, places_of
from usagi.core.meter.bars import Bar
from usagi.core.meter.ticks import SIXTEENTH

SEEN: Final = 1.0  # what the writing says by itself is sure
DEAR: Final = 4.0  # what a shift costs that no hand makes in its time; a plain one costs about 1
JUDGED_DEAR: Final = 0.85  # how sure that is
ENDED: Final = 0.8  # that a string which has ended does not sound any more
_JOINS: Final = ("hammer-on", "pull-off", "slide")
_SIGNS: Final = {(1, 4): "¼", (1, 2): "½", (3, 4): "¾", (1, 3): "⅓", (2, 3): "⅔"}
_K = FindingKind


def beats_text(ticks: int, pulse: int) -> str:
    """Ticks as beats of a pulse.

    >>> beats_text(5_040, 10_080), beats_text(35_280, 10_080), beats_text(10_080, 10_080)
    ('½', '3½', '1')
    """
    whole, part = divmod(Fraction(ticks, pulse), 1)
    if not part:
        return str(whole)
    sign = _SIGNS.get((part.numerator, part.denominator))
    return f"{float(whole + part):.2g}" if sign is None else f"{whole or ''}{sign}"


def holes(bar: Bar, sounds: Sequence[Note | Rest]) -> list[tuple[int, int]]:
    """The ticks of a bar that are neither a note nor a rest; `sounds` in order of time, all that reach into it."""
    found, at = [], bar.tick
    for one in sounds:
        if one.tick > at:
            found.append((at, min(one.tick, bar.end)))
        at = max(at, one.end)
        if at >= bar.end:
            break
    if at < bar.end:
        found.append((at, bar.end))
    return [(a, b) for a, b in found if a < b]


def bar_findings(bar: Bar, sounds: Sequence[Note | Rest]) -> Iterator[Finding]:
    """Gaps in a bar that is begun; none in one that is empty."""
    if not any(one.tick < bar.end and bar.tick < one.end for one in sounds):
        return
    open_ticks = holes(bar, sounds)
    pulse = bar.meter.pulses[0]
    inner = [(a, b) for a, b in open_ticks if a > bar.tick and b < bar.end]
    for a, b in inner:
        says = f"a gap of {beats_text(b - a, pulse)} beat{'s' if b - a > pulse else ''}"
        yield _own(_K.GAP, a, b, says, "Write a rest", other=[a, b])
    outer = [one for one in open_ticks if one not in inner]
    if outer:
        missing = sum(b - a for a, b in outer)
        says = f"holds {beats_text(bar.ticks - missing, pulse)} of {beats_text(bar.ticks, pulse)} beats"
        yield _own(_K.BAR, outer[0][0], outer[-1][1], says, "Write rests", other=outer)


def _own(
    kind: FindingKind,
    tick: int,
    end: int,
    says: str,
    mend: str = "",
    *,
    notes: Sequence[Note] = (),
    other: object = None,
    confidence: float = SEEN,
) -> Finding:
    ids = tuple(note.id for note in notes)
    return Finding(kind, tick, end, says, SIZES[kind], confidence, digest(kind, notes, None, other), ids, mend=mend)


def place_findings(solo: Solo, ground: Ground) -> Iterator[Finding]:
    """What lies off the neck, outside the bars, or outside the form."""
    by_id = {note.id: note for note in solo.notes}
    for one in violations(solo, ground):
        note = by_id.get(one.id) if one.kind == "note" else None
        if note is None:
            phrase = next((p for p in solo.phrases if p.id == one.id), None)
            tick = ground.timeline.bars.first_tick if phrase is None else phrase.start
            end = tick + 1 if phrase is None else phrase.end
            yield _own(_K.OUTSIDE, tick, end, one.sentence, other=[one.kind, one.id])
            continue
        off = out_of_reach(note, solo.settings) is not None
        where = elsewhere(note, solo.settings) if off else None
        mend = (f"Put it at string {where.string}, fret {where.fret}" if where is not None else "") if off else (
            "Delete the note" if outside(note, ground) is not None else ""
        )  # fmt: skip
        yield _own(_K.OFF_NECK if off else _K.OUTSIDE, note.tick, note.end, one.sentence, mend, notes=[note])


def elsewhere(note: Note, settings: SoloSettings) -> Place | None:
    """Where the pitch of a note lies on this neck, the nearest fret first; none where it has no pitch here."""
    if note.fret is None or note.string > len(settings.tuning):
        return None
    midi = open_pitch(note.string, settings.tuning, settings.capo) + note.fret // HUNDREDTHS
    places = places_of(midi, settings.tuning, settings.capo, settings.last_fret)
    return min(places, key=lambda place: abs(place.fret * HUNDREDTHS - (note.fret or 0)), default=None)


def join_findings(notes: Sequence[Note]) -> Iterator[Finding]:
    """Joins and slides that no string makes; `notes` in order of time."""
    before = sources(notes)
    following = {source.id: note_id for note_id, source in before.items()}
    by_id = {note.id: note for note in notes}
    for note in notes:
        source, kind = before.get(note.id), note.attack.kind
        own = [one for one in (source, note) if one is not None]
        if kind in _JOINS and not agrees(note, source):
            yield _own(_K.JOIN, note.tick, note.end, _join_says(note, source), _join_mend(note, source), notes=own)
        elif kind in _JOINS and source is not None and _ended(source, note):
            says = f"a {kind} from a note that has ended"
            yield _own(_K.JOIN, note.tick, note.end, says, "Write it picked", notes=own, confidence=ENDED)
        if isinstance(note.attack, SlideIn) and note.attack.start == note.fret:
            yield _own(_K.SLIDE, note.tick, note.end, "slides in from its own fret", "Write it picked", notes=[note])
        after = by_id.get(following.get(note.id, ""))
        if isinstance(note.ending, SlideOff) and isinstance(note.ending.to, int) and after is not None:
            arrives = isinstance(after.attack, Slide) or after.fret is None or after.fret == note.ending.to
            if not arrives and after.tick - note.end < SIXTEENTH:
                goes, there = note.ending.to / HUNDREDTHS, (after.fret or 0) / HUNDREDTHS
                says = f"slides to fret {goes:g}; the next note lies at fret {there:g}"
                yield _own(_K.SLIDE, note.tick, after.end, says, f"Slide to fret {there:g}", notes=[note, after])


def _ended(source: Note, note: Note) -> bool:
    return note.tick - source.end >= SIXTEENTH and not isinstance(source.ending, LetRing)


def _join_says(note: Note, source: Note | None) -> str:
    kind = note.attack.kind
    if source is None or source.fret is None or note.fret is None:
        return f"a {kind} from nowhere: no note lies before it on string {note.string}"
    there, here = source.fret / HUNDREDTHS, note.fret / HUNDREDTHS
    way = "up" if here > there else "down"
    return f"a {kind} from fret {there:g} {way} to fret {here:g}" if here != there else f"a {kind} to its own fret"


def _join_mend(note: Note, source: Note | None) -> str:
    words = {"hammer-on": "Write a hammer-on", "pull-off": "Write a pull-off"}
    return words.get(fitting(note, source).kind, "Write it picked")


def hand_findings(
    notes: Sequence[Note], settings: SoloSettings, seconds: Mapping[int, float], shaper: Shaper
) -> Iterator[Finding]:
    """Shifts dearer than a hand makes in their time, and what it does not reach at once.

    Parameters
    ----------
    notes : in order of time; the hand comes from the first.
    seconds : by tick, when it sounds.
    shaper : of these settings and the hand.
    """
    if settings.bottleneck or not notes:
        return
    at: dict[int, list[Note]] = {}
    for note in notes:
        at.setdefault(note.tick, []).append(note)
    way = written_way(notes, settings, seconds, shaper=shaper)
    for shift in way.shifts:
        if shift.cost >= DEAR:
            own = at[shift.tick]
            says = (
                f"the hand goes from the {ordinal(shift.before)} to the {ordinal(shift.after)} position "
                f"in {shift.time_s:.2f} s"
            )
            yield _own(_K.SHIFT, shift.tick, own[0].end, says, notes=own, confidence=JUDGED_DEAR)
    for tick, trouble in way.troubles:
        if not trouble.startswith("no place bends"):
            yield _own(_K.REACH, tick, at[tick][0].end, trouble, notes=at[tick])


def bend_findings(notes: Sequence[Note], settings: SoloSettings, hand: HandSize) -> Iterator[Finding]:
    """Bends beyond what string, gauge and hand allow."""
    for note in notes:
        out = bend_out_of_reach(note, settings, hand) if note.course else None
        if out is not None:
            says = out.sentence[0].lower() + out.sentence[1:-1]
            mend = out.offers[0].words if out.offers else ""
            yield _own(_K.BEND_REACH, note.tick, note.end, says, mend[:1].upper() + mend[1:], notes=[note], other=hand)
