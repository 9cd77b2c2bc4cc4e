"""A line elsewhere: in another key, over another chord quality, at another place, on other strings, in another feel.

The one function for it: the strip copies figures with it, the lick book carries licks, practice and exports take it
from there. What was changed is said in words; what cannot be done is refused by name (docs/music.md, A figure
elsewhere).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from usagi.core.chart.timeline import Timeline
from usagi.core.degrees.degree import Style, degree
from usagi.core.document.elements import Note, Rest
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import STANDARD, SoloSettings
from usagi.core.document.techniques import Harmonic, HarmonicHow
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.harmony.heard import Heard, hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.phrases.transforming import (
    Allowed,
    Direction,
    FigureImpossible,
    Pulse,
    in_pulse,
    moved,
    placed,
    semitones_to,
)
from usagi.core.pitch.intervals import OCTAVE, interval_words
from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, pitch_text, sharp_name
from usagi.core.readings.grips import OPEN_CHORDS, grips

SPAN: Final = 4  # frets from the lowest of a position to its highest


class Quality(StrEnum):
    """What chords become: each keeps its root."""

    DOMINANT = "dominant"
    MINOR = "minor"
    MAJOR = "major"


SUFFIX: Final = {Quality.DOMINANT: "7", Quality.MINOR: "m7", Quality.MAJOR: "maj7"}
FAMILIES: Final = tuple(OPEN_CHORDS)  # C A G E D


@dataclass(frozen=True)
class Elsewhere:
    """Where a line is to go. What is None stays as it is; everything that is named is done at once.

    `strings` from one to another; `position` the lowest fret of the hand; `family` the open chord whose shape lies
    under it; `tuning` the open strings from string 1 on, without `capo`.
    """

    quality: Quality | None = None
    key: Key | None = None
    direction: Direction = Direction.NEAREST
    tuning: tuple[int, ...] | None = None
    capo: int | None = None
    strings: tuple[int, int] | None = None
    position: int | None = None
    family: str | None = None
    pulse: Pulse | None = None


@dataclass(frozen=True)
class Moved:
    """The line there: its notes and rests, the strings it lies on, how far it went, and what was changed, in words."""

    notes: list[Note]
    rests: list[Rest]
    settings: SoloSettings
    semitones: int
    says: tuple[str, ...]


def elsewhere(
    notes: Sequence[Note], rests: Sequence[Rest], wanted: Elsewhere, settings: SoloSettings, timeline: Timeline
) -> Moved:
    """A line in time order, carried where it is wanted; it keeps its ids and, but for a pulse, its ticks.

    Raises : FigureImpossible, naming every note that is in the way.
    """
    after = _strings_of(wanted, settings)
    says: list[str] = []
    semitones = 0
    line = list(notes)
    by = dict.fromkeys([note.id for note in line], 0)
    if wanted.quality is not None:
        line, by, said = _over(line, wanted.quality, settings, timeline)
        says += said
    if wanted.key is not None and line:
        semitones = semitones_to(key_here(timeline, line[0].tick), wanted.key, wanted.direction)
        by = {one: own + semitones for one, own in by.items()}
    _check_harmonics(line, by)
    if wanted.family is not None:
        line, octave = _in_family(line, by, wanted, settings, after, timeline, semitones)
        semitones += octave
    elif wanted.position is not None or wanted.strings is not None or after != settings:
        line = placed(line, by, settings, after, _allowed(wanted))
    elif any(by.values()):
        line = moved(line, by, settings)
    if semitones:
        says.insert(0, f"It goes {'up' if semitones > 0 else 'down'} {interval_words(semitones)}.")
    says += _place_words(notes, line, after)
    silent = list(rests)
    if wanted.pulse is not None:
        line, silent, said = _in_pulse(line, silent, timeline, wanted.pulse)
        says += said
    return Moved(line, silent, after, semitones, tuple(says))


def key_here(timeline: Timeline, tick: int) -> Key:
    """The key at a tick. Raises : FigureImpossible, where it is not known."""
    here = timeline.facts_at(tick).key
    if here is None:
        raise FigureImpossible("The key here is not known: set it in the chart, then transpose.")
    return here


def over_quality(symbol: str, quality: Quality) -> str:
    """A chord symbol with another quality on the root that it is heard on; one that has the quality stays.

    >>> [over_quality(symbol, Quality.MINOR) for symbol in ("C7", "Dm9", "Eb/F", "N.C.")]
    ['Cm7', 'Dm9', 'Fm7', 'N.C.']
    """
    chord = parse_chord(symbol)
    heard = hear(chord)
    if heard is None or _is(heard, quality):
        return chord.shown
    return f"{heard.root}{SUFFIX[quality]}"


def _is(heard: Heard, quality: Quality) -> bool:
    if quality is Quality.DOMINANT:
        return heard.dominant
    if quality is Quality.MINOR:
        return heard.minor
    return heard.third == 4 and not heard.dominant


def follows(pitch: float, old: Heard, new: Heard) -> float:
    """A pitch after a change of quality alone: third, fifth and seventh follow the chord, other degrees stay."""
    slot = (pitch - old.root.pitch_class) % OCTAVE
    for mine, theirs in ((old.third, new.third), (_fifth(old), _fifth(new)), (old.seventh, new.seventh)):
        if mine is not None and theirs is not None and slot == mine:
            return pitch + theirs - mine
    return pitch


def _fifth(heard: Heard) -> int | None:
    return next((slot for slot in (7, 6, 8) if slot in heard.core), None)


def bent_after(note: Note, pitch: float, old: Heard, new: Heard, start: float) -> tuple[tuple[int, int], ...]:
    """The pitch course of a note that starts at another pitch: each point keeps its own degree."""
    return tuple((at, round(2 * (follows(pitch + quarters / 2, old, new) - start))) for at, quarters in note.course)


def _over(
    notes: Sequence[Note], quality: Quality, settings: SoloSettings, timeline: Timeline
) -> tuple[list[Note], dict[str, int], list[str]]:
    """The notes with their courses over chords of another quality, and by how much each start moves."""
    found: list[Note] = []
    by: dict[str, int] = {}
    changed: dict[tuple[str, str], int] = {}
    for note in notes:
        by[note.id] = 0
        pitch = written_pitch(note, settings)
        change = timeline.chord_at(note.tick)
        if pitch is None or change is None or change.heard is None:
            found.append(note)
            continue
        new = hear(parse_chord(over_quality(change.shown, quality)))
        assert new is not None
        start = follows(pitch, change.heard, new)
        by[note.id] = int(start - pitch)
        course = bent_after(note, pitch, change.heard, new, start)
        found.append(note.model_copy(update={"course": course}) if course != note.course else note)
        if start != pitch:
            old_slot, slot = (int(one - change.heard.root.pitch_class) % OCTAVE for one in (pitch, start))
            names = degree(change.heard, old_slot, style=Style.DEFAULT), degree(new, slot, style=Style.DEFAULT)
            changed[names] = changed.get(names, 0) + 1
    words = [f"the {a} becomes the {b}" + (f" ({n} notes)" if n > 1 else "") for (a, b), n in changed.items()]
    return (
        found,
        by,
        [f"Over {quality} chords {', '.join(words)}." if words else f"Over {quality} chords nothing moves."],
    )


def _strings_of(wanted: Elsewhere, settings: SoloSettings) -> SoloSettings:
    if wanted.tuning is None and wanted.capo is None:
        return settings
    tuning = settings.tuning if wanted.tuning is None else wanted.tuning
    capo = settings.capo if wanted.capo is None else wanted.capo
    gauges = settings.gauges if len(tuning) == len(settings.tuning) else ()
    return settings.model_copy(update={"tuning": tuning, "capo": capo, "gauges": gauges, "strung_for": None})


def _allowed(wanted: Elsewhere) -> Allowed:
    at = wanted.position
    frets = None if at is None else (max(1, at), max(1, at) + SPAN)
    return Allowed(wanted.strings, frets, opens=at is None or at <= 1)


def _check_harmonics(notes: Iterable[Note], by: Mapping[str, int]) -> None:
    for note in notes:
        natural = isinstance(note.attack, Harmonic) and note.attack.how is HarmonicHow.NATURAL
        if natural and by[note.id]:
            raise FigureImpossible(
                f"String {note.string}, fret {(note.fret or 0) / HUNDREDTHS:g} is a natural harmonic: "
                "it lies where it lies, so the line cannot go to another key.",
                id=note.id,
            )


def family_positions(family: str, root: Name, settings: SoloSettings) -> list[int]:
    """The lowest frets at which an open chord's shape lies under a root, along the neck. Standard tuning, at any pitch.

    >>> from usagi.core.pitch.names import parse_name
    >>> {family: family_positions(family, parse_name("C"), SoloSettings())[0] for family in FAMILIES}
    {'C': 0, 'A': 3, 'G': 5, 'E': 8, 'D': 10}
    """
    if not _is_standard(settings):
        raise FigureImpossible("The five families of grips are those of standard tuning; this one is another.")
    shape = next(grip for grip in grips() if grip.family == family and grip.type == "major")
    open_root = settings.tuning[shape.root_string - 1] + settings.capo
    first = (root.pitch_class - open_root - shape.root_offset) % OCTAVE
    highest = settings.highest_fret // HUNDREDTHS - SPAN
    return [fret for fret in (first, first + OCTAVE) if fret <= highest]


def _is_standard(settings: SoloSettings) -> bool:
    tuning = settings.tuning
    return len(tuning) == len(STANDARD) and len({a - b for a, b in zip(tuning, STANDARD, strict=True)}) == 1


def _in_family(
    notes: Sequence[Note],
    by: Mapping[str, int],
    wanted: Elsewhere,
    before: SoloSettings,
    settings: SoloSettings,
    timeline: Timeline,
    semitones: int,
) -> tuple[list[Note], int]:
    """The line where a family's shape lies, in the octave that is nearest; a fret beside the shape may be reached."""
    change = timeline.chord_at(notes[0].tick) or timeline.next_change(notes[0].tick)
    if change is None or change.heard is None:
        raise FigureImpossible("A family of grips needs a chord, and there is none under the first note.")
    root = sharp_name(change.heard.root.pitch_class + semitones)
    assert wanted.family is not None
    faults: list[str] = []
    for octave in (0, -OCTAVE, OCTAVE):
        for position in family_positions(wanted.family, root, settings):
            for low, high in ((0, 0), (1, 0), (0, 1), (1, 1)):
                frets = (max(1, position - low), position + SPAN + high)
                allowed = Allowed(wanted.strings, frets, opens=position == 0)
                try:
                    shifted = {one: own + octave for one, own in by.items()}
                    return placed(notes, shifted, before, settings, allowed), octave
                except FigureImpossible as fault:
                    faults.append(fault.sentence)
    raise FigureImpossible(f"Under the {wanted.family} shape of {root} the line has no place. {faults[0]}")


def _place_words(before: Sequence[Note], after: Sequence[Note], settings: SoloSettings) -> Iterator[str]:
    """The notes that went to another string than most of the line did, by name."""
    old = {note.id: note for note in before}
    went = [(old[note.id], note) for note in after if note.fret is not None]
    by = [new.string - was.string for was, new in went]
    if not any(by):
        return
    if len(set(by)) == 1:
        count = abs(by[0])
        yield f"Every note lies {count} string{'s' if count > 1 else ''} {'lower' if by[0] > 0 else 'higher'}."
        return
    most = max(set(by), key=by.count)
    if by.count(most) * 2 <= len(by):
        yield f"{sum(one != 0 for one in by)} of {len(by)} notes lie on other strings."
        return
    told: dict[str, None] = {}
    for (_, new), own in zip(went, by, strict=True):
        pitch = written_pitch(new, settings)
        if own != most and pitch is not None:
            name = pitch_text(sharp_name(int(pitch) % OCTAVE), int(pitch))
            told[f"The {name} goes to string {new.string}, fret {(new.fret or 0) / HUNDREDTHS:g}."] = None
    yield from told


def _in_pulse(
    notes: Sequence[Note], rests: Sequence[Rest], timeline: Timeline, pulse: Pulse
) -> tuple[list[Note], list[Rest], list[str]]:
    line, silent = in_pulse(notes, rests, timeline, pulse)
    ends: dict[int, Note] = {}
    for note in sorted(line, key=lambda one: (one.tick, one.string)):
        other = ends.get(note.string)
        if other is not None and other.end > note.tick:
            place = timeline.bars.place(note.tick)
            raise FigureImpossible(f"At {place} a half and two thirds of the beat would fall together.", id=note.id)
        ends[note.string] = note
    count = sum(new.tick != old.tick for old, new in zip(notes, line, strict=True))
    what = "from half to two thirds of the beat" if pulse is Pulse.TRIPLETS else "from two thirds to half of the beat"
    return (
        line,
        silent,
        [f"{count} note{'s' if count != 1 else ''} go {what}."] if count else ["No note moves in time."],
    )
