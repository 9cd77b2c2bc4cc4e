"""A score of another program laid on a guitar: its chart, its grid, and a place for every note.

Strings and frets are kept where they sound the pitch that is written; other notes get theirs by the position search.
What no hand or neck can hold is left out or cut, and listed by its bar.
"""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby
from typing import Any, Final

from usagi.core.chart.model import Chart, ChartBar, FormEntry, PlacedChord, Section
from usagi.core.chart.sections import MOST_SECTIONS, cut, new_facts
from usagi.core.chart.timeline import Facts
from usagi.core.document.edits import put_together, take_apart
from usagi.core.document.elements import Dynamic, Note, Rest, Stack, Swell
from usagi.core.document.joins import agrees, fitting, sources
from usagi.core.document.lengths import with_length
from usagi.core.document.pitches import written_pitch
from usagi.core.document.rules import out_of_reach
from usagi.core.document.solo import STANDARD, Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import (
    DEEPEST_DIP,
    HIGHEST_BEND,
    LONGEST,
    PARTIAL_SEMITONES,
    Harmonic,
    Picked,
    Sure,
)
from usagi.core.document.writing import cleared
from usagi.core.fingering.search import Search, Way
from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.score import Score, ScoreNote
from usagi.core.formats.tab_signs import evenly
from usagi.core.fretboard.places import HUNDREDTHS, Place, places_of
from usagi.core.fretboard.tunings import REFERENCES
from usagi.core.meter.bars import Bar, Bars, bar_name, lay_bars
from usagi.core.meter.ticks import EIGHTH, QUARTER, SIXTEENTH
from usagi.core.pitch.names import pitch_text, sharp_name

NewId = Callable[[], str]
LEGATO: Final = ("hammer-on", "pull-off", "slide")
MOST_FRETS: Final = 36
STRETCH: Final = 4  # frets that a hand spans without moving
SLOPPY: Final = 0.9  # of the fretted notes: when so many sound one other octave than is written, the octave is wrong
MOST_LISTED: Final = 200
TEXT: Final = 200  # letters of a title


@dataclass(frozen=True)
class Laid:
    """A document made of a score, what a person should hear of, and the ways that the hand could go.

    `ways` are of the notes that had no place of their own, the one taken among them; none when all had.
    """

    document: SoloDocument
    messages: tuple[str, ...]
    ways: tuple[Way, ...] = ()
    listed: tuple[str, ...] = ()  # what could not be held, by bar


@dataclass
class _List:
    """What cannot be held, gathered by bar."""

    bars: Bars
    found: list[tuple[int, str]] = field(default_factory=list)

    def say(self, tick: int, what: str) -> None:
        self.found.append((tick, what))

    def lines(self) -> tuple[str, ...]:
        said = [f"{bar_name(self.bars.at(tick).number).capitalize()}: {what}" for tick, what in sorted(self.found)]
        unlike = list(dict.fromkeys(said))
        if len(unlike) <= MOST_LISTED:
            return tuple(unlike)
        return (*unlike[:MOST_LISTED], f"And {len(unlike) - MOST_LISTED} more.")


def lay(score: Score, new_id: NewId, *, way: int = 0) -> Laid:
    """The document of a score.

    Parameters
    ----------
    score : what was read; one bar or more.
    new_id : gives ids that are not used yet.
    way : which of the ways that the search finds is taken, from 0; the nearest there is.

    Returns : the document, which keeps all hard rules, and what could not be held.
    """
    ground, said = ground_of(score, new_id)
    laid = lay_notes(score, ground, new_id, way=way)
    return replace(laid, messages=(*score.messages, *said, *laid.messages))


def lay_notes(score: Score, ground: Ground, new_id: NewId, *, way: int = 0, on: SoloSettings | None = None) -> Laid:
    """As `lay`, on a ground that is there: bar 1 of the score on its bar 1. What lies outside its bars is listed.

    `on` is the instrument that the notes are for, where it is not the score's own.
    """
    settings, moved = _settings(score, ground, on)
    bars = ground.timeline.bars
    listed = _List(bars)
    notes, pinned, origin = _notes(_in_octave(score, moved), settings, bars, listed, new_id)
    ways = _ways(notes, pinned, settings, ground)
    if ways:
        taken = ways[min(way, len(ways) - 1)]
        at = {place.note: place for place in taken.places}
        notes = [
            n if n.id in pinned or n.id not in at else _moved(n, at[n.id].string, at[n.id].fret, settings)
            for n in notes
        ]
    laid = _attacks_fit(_apart(_own_strings(notes, pinned, settings), listed, settings))
    notes, stacks = _stacked(laid, origin, new_id)
    solo = Solo(
        settings=settings,
        notes=tuple(notes),
        rests=_rests(score, notes, bars, new_id),
        stacks=stacks,
        dynamics=tuple(
            Dynamic(id=new_id(), tick=tick, level=level)
            for tick, level in sorted(dict(score.dynamics).items())
            if bars.first_tick <= tick < bars.end_tick
        ),
        swells=tuple(
            Swell.model_validate({"id": new_id(), "start": start, "end": end, "to": to})
            for start, end, to in sorted(score.swells)
            if bars.first_tick <= start < end <= bars.end_tick
        ),
    )
    free = len(notes) - sum(note.id in pinned for note in notes)
    messages = []
    if moved:
        messages.append(
            f"Its frets sound {'an octave lower' if moved < 0 else 'an octave higher'} than is written; the frets hold."
        )
    if free:
        messages.append(f"{_count(free, 'note')} had no place on the neck: the position search gave one.")
    solo = _in_order(solo)
    document = SoloDocument(tune=score.tune.strip()[:TEXT], ground=ground, solo=solo)
    return Laid(document, tuple(messages), ways, listed.lines())


def _in_order(solo: Solo) -> Solo:
    """The solo with its elements in the order in which documents are stored."""
    ordered = put_together(take_apart(solo))
    assert isinstance(ordered, Solo)
    return ordered


def brought_into(solo: Solo, came: Solo, ground: Ground, new_id: NewId) -> Solo:
    """A solo with what came in place of what its bars held, from the first bar with a note to the last.

    Parameters
    ----------
    solo : what is written already.
    came : notes laid on the same ground, for the same instrument; one or more.
    ground : under both.
    new_id : gives the ids of rests that are cut.
    """
    bars = ground.timeline.bars
    start = bars.at(came.notes[0].tick).tick
    end = bars.at(max(note.end for note in came.notes) - 1).end
    rest = cleared(solo, start, end, new_id)
    return _in_order(
        rest.model_copy(
            update={
                "notes": (*rest.notes, *came.notes),
                "stacks": (*rest.stacks, *came.stacks),
                "rests": (*rest.rests, *(one for one in came.rests if start <= one.tick and one.end <= end)),
                "dynamics": (*(one for one in rest.dynamics if not start <= one.tick < end), *came.dynamics),
                "swells": (*(one for one in rest.swells if one.end <= start or end <= one.start), *came.swells),
            }
        )
    )


def way_words(way: Way) -> str:
    """A way of the hand in a few words, for a person to choose by.

    >>> way_words(Way((), 0.0, (), ()))
    'around fret 1'
    """
    opens = f", {_count(way.opens, 'open string')}" if way.opens else ""
    shifts = f", {_count(len(way.shifts), 'shift')}" if way.shifts else ""
    return f"around fret {way.position}{opens}{shifts}"


def _count(count: int, thing: str) -> str:
    return f"{count} {thing}{'' if count == 1 else 's'}"


# -- the ground --------------------------------------------------------------------------------------------------


def ground_of(score: Score, new_id: NewId) -> tuple[Ground, list[str]]:
    """The ground that a score stands on, its chart folded into sections; and what a person should hear of."""
    said: list[str] = []
    bars = lay_bars([bar.meter for bar in score.bars], pickup_ticks=score.pickup_ticks)
    chart_bars, odd = _chart_bars(score, bars, new_id)
    said += odd
    flat = Section(id=new_id(), name="", bars=tuple(chart_bars))
    chart = Chart(sections=(flat,), form=(FormEntry(section=flat.id),))
    if not score.chords:
        said.append("The file names no chords: the chart says N.C. until you write them.")
    chart = cut(chart, _section_starts(score), len(score.bars), new_id)
    settings = GroundSettings(
        pickup_ticks=score.pickup_ticks, bars=len(score.bars), form=chart.form, choruses=chart.choruses
    )
    anchors = score.anchors if len(score.anchors) > 1 else ((0, 0.0), (QUARTER * 60, 30.0))
    ground = Ground(
        settings=settings,
        anchors=tuple(Anchor(id=new_id(), tick=tick, second=second) for tick, second in anchors),
        sections=tuple(chart.sections),
        exceptions=chart.exceptions,
    )
    ordered = put_together(take_apart(ground))
    assert isinstance(ordered, Ground)
    return ordered, said


def _section_starts(score: Score) -> list[tuple[int, str]]:
    starts = [(i, _name(bar.section)) for i, bar in enumerate(score.bars, start=1) if bar.section is not None]
    if len(starts) > MOST_SECTIONS:
        starts = starts[:1]
    return starts if starts and starts[0][0] == 1 else [(1, ""), *starts]


def _name(text: str) -> str:
    """A section name that a chart can hold."""
    plain = " ".join(text.replace("|", " ").replace(":", " ").split()).lstrip("{<%. ")[:60].strip()
    return plain or "section"


def _chart_bars(score: Score, bars: Bars, new_id: NewId) -> tuple[list[ChartBar], list[str]]:
    """A chart bar a bar; chords on their beats, pushed where they come an eighth or a sixteenth early."""
    placed: dict[int, dict[int, tuple[str, int]]] = {}
    loose = 0
    for tick, symbol in sorted(score.chords):
        bar, place, push, exact = _chord_place(tick, bars)
        if bar is None:
            continue
        loose += not exact
        placed.setdefault(bar.number, {})[place] = (symbol, push)
    found = []
    before = Facts()
    for number, one in enumerate(score.bars, start=1):
        now = Facts(
            meter=one.meter,
            key=one.key if one.key is not None else before.key,
            feel=one.feel if one.feel is not None else before.feel,
            blues=one.blues,
        )
        chords = tuple(
            PlacedChord.model_validate({"id": new_id(), "symbol": symbol, "place": place, "push": push})
            for place, (symbol, push) in sorted(placed.get(number, {}).items())
        )
        found.append(ChartBar(id=new_id(), chords=chords, facts=new_facts(before, now)))
        before = now
    said = (
        [f"{_count(loose, 'chord')} lay on no beat and stand{'s' if loose == 1 else ''} on the nearest."]
        if loose
        else []
    )
    return found, said


def _chord_place(tick: int, bars: Bars) -> tuple[Bar | None, int, int, bool]:
    """The bar of a chord, its place there, how early it comes, and whether that is exactly where it was."""
    for push in (0, EIGHTH, SIXTEENTH):
        bar = bars.number(bars.at(tick + push).number)
        if bar is not None and bar.number > 0 and (tick + push - bar.tick) % bar.meter.beat_ticks == 0:
            if push and tick < bars.bars[0].tick:
                continue
            return bar, tick + push - bar.tick, push, True
    bar = bars.number(bars.at(max(tick, 0)).number)
    if bar is None:
        return None, 0, 0, False
    beat = bar.meter.beat_ticks
    place = min(round((max(tick, 0) - bar.tick) / beat), bar.meter.numerator - 1) * beat
    return bar, place, 0, False


# -- the instrument ----------------------------------------------------------------------------------------------


def _settings(score: Score, ground: Ground, on: SoloSettings | None) -> tuple[SoloSettings, int]:
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


def _in_octave(score: Score, octaves: int) -> list[ScoreNote]:
    ordered = sorted(score.notes, key=lambda note: (note.tick, -(note.midi or 0)))
    if not octaves:
        return ordered
    return [replace(note, midi=None if note.midi is None else note.midi + octaves) for note in ordered]


# -- places ------------------------------------------------------------------------------------------------------


def _notes(
    wanted: Sequence[ScoreNote], settings: SoloSettings, bars: Bars, listed: _List, new_id: NewId
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


def _moved(note: Note, string: int, fret: int, settings: SoloSettings) -> Note:
    moved = note.model_copy(update={"string": string, "fret": None if note.fret is None else fret})
    return note if out_of_reach(moved, settings) is not None else moved


def _ways(notes: Sequence[Note], pinned: set[str], settings: SoloSettings, ground: Ground) -> tuple[Way, ...]:
    """The ways of the hand through the whole line; none when nothing is to be found."""
    line = [note for note in notes if note.fret is not None and not note.dead]
    free = [note.id for note in line if note.id not in pinned]
    if not free:
        return ()
    seconds = {note.tick: ground.grid.second(note.tick) for note in line}
    keep = [note.id for note in line if note.id in pinned]
    return tuple(Search(line, settings, seconds, pinned=keep, reported=free).ways())


def _own_strings(notes: Sequence[Note], pinned: set[str], settings: SoloSettings) -> list[Note]:
    """Notes that start together on strings of their own, as near to each other as can be, where no hand was found."""
    found: list[Note] = []
    for _, together in groupby(sorted(notes, key=lambda one: one.tick), key=lambda one: one.tick):
        group = list(together)
        if len({note.string for note in group}) == len(group):
            found += group
            continue
        taken = {note.string for note in group if note.id in pinned or note.fret is None}
        free = [note for note in group if note.id not in pinned and note.fret is not None]
        found += [note for note in group if note not in free]
        found += _spread(free, taken, settings)
    return found


def _spread(notes: Sequence[Note], taken: set[int], settings: SoloSettings) -> list[Note]:
    """Notes on different strings with the least distance between their frets; those without one stay where they are."""
    options = []
    for note in sorted(notes, key=lambda one: -(written_pitch(one, settings) or 0)):
        pitch = int(written_pitch(note, settings) or 0)
        places = places_of(pitch, settings.tuning, settings.capo, settings.last_fret)
        options.append((note, [place for place in places if place.string not in taken]))
    best: tuple[int, int, dict[str, Place]] | None = None

    def seek(at: int, used: dict[str, Place]) -> None:
        nonlocal best
        if at == len(options):
            frets = [place.fret for place in used.values() if place.fret]
            beyond = max(0, max(frets, default=0) - min(frets, default=0) - STRETCH)
            cost = (len(options) - len(used), 100 * beyond + sum(frets))
            if best is None or cost < best[:2]:
                best = (*cost, dict(used))
            return
        note, places = options[at]
        strings = {place.string for place in used.values()}
        for place in places:
            if place.string not in strings:
                used[note.id] = place
                seek(at + 1, used)
                del used[note.id]
        if best is None or at + 1 - len(used) <= best[0]:
            seek(at + 1, used)

    seek(0, {})
    chosen = best[2] if best is not None else {}
    return [
        note
        if note.id not in chosen
        else note.model_copy(update={"string": chosen[note.id].string, "fret": chosen[note.id].fret * HUNDREDTHS})
        for note in notes
    ]


def _apart(notes: Sequence[Note], listed: _List, settings: SoloSettings) -> list[Note]:
    """One note a string at a time: what would sound into the next on its string is cut, and listed."""
    found: list[Note] = []
    last: dict[int, int] = {}
    for note in sorted(notes, key=lambda one: (one.tick, one.string)):
        index = last.get(note.string)
        before = found[index] if index is not None else None
        if before is not None and index is not None and before.end > note.tick:
            if before.tick == note.tick:
                listed.say(note.tick, f"{_said(note, settings)} has no string left and is left out.")
                continue
            if before.end - note.tick > SIXTEENTH // 4:
                listed.say(before.tick, f"{_said(before, settings)} cannot be held: its string plays on.")
            found[index] = with_length(before, note.tick - before.tick)
        last[note.string] = len(found)
        found.append(note)
    return found


def _said(note: Note, settings: SoloSettings) -> str:
    pitch = written_pitch(note, settings)
    return "a note" if pitch is None else pitch_text(sharp_name(int(pitch) % 12), int(pitch))


def _attacks_fit(notes: Sequence[Note]) -> list[Note]:
    """Hammer-ons, pull-offs and slides that agree with the note before on their string."""
    found = []
    before = sources(notes)
    for note in notes:
        source = before.get(note.id)
        if not agrees(note, source):
            note = note.model_copy(update={"attack": fitting(note, source)})
        found.append(note)
    return found


def _stacked(
    notes: Sequence[Note], origin: Mapping[str, ScoreNote], new_id: NewId
) -> tuple[list[Note], tuple[Stack, ...]]:
    """Notes that start together are a stack, with the stroke that the file gives."""
    found: list[Note] = []
    stacks = []
    for _, together in groupby(sorted(notes, key=lambda n: (n.tick, n.string, n.id)), key=lambda n: n.tick):
        group = list(together)
        if len(group) > 1:
            was = [origin[note.id] for note in group]
            stroke = next((one.stroke for one in was if one.stroke is not None), None)
            stack = Stack(id=new_id(), stroke=stroke, spread_ms=max(one.spread_ms for one in was))
            stacks.append(stack)
            group = [note.model_copy(update={"stack": stack.id}) for note in group]
        found += group
    return found, tuple(stacks)


def _rests(score: Score, notes: Sequence[Note], bars: Bars, new_id: NewId) -> tuple[Rest, ...]:
    """The rests of a score in which nothing sounds, as they are written."""
    sounding = _merged((note.tick, note.end) for note in notes)
    found = []
    at = bars.first_tick
    for tick, ticks in sorted(score.rests):
        start, end = max(tick, at), min(tick + ticks, bars.end_tick)
        for begin, stop in _outside(start, end, sounding):
            found.append(Rest(id=new_id(), tick=begin, ticks=min(stop - begin, LONGEST)))
        at = max(at, end)
    return tuple(found)


def _merged(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    for start, end in sorted(spans):
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return found


def _outside(start: int, end: int, spans: Sequence[tuple[int, int]]) -> Iterable[tuple[int, int]]:
    """The parts of `[start, end)` that no span covers."""
    at = start
    for begin, stop in spans[max(0, bisect_right(spans, (start, start)) - 1) :]:
        if begin >= end:
            break
        if begin > at:
            yield at, min(begin, end)
        at = max(at, stop)
    if at < end:
        yield at, end
