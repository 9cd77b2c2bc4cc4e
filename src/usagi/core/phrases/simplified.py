"""Versions for students, derived by rules: each keeps the bars and the place of every note that is left.

A rule takes a solo and gives one, with what it dropped or changed in words. Ids are kept, so that a version can be
compared with what it came from note by note.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby

from usagi.core.degrees.lines import Role
from usagi.core.degrees.solo_readings import read_notes
from usagi.core.document.elements import Note, Rest
from usagi.core.document.following import tidied
from usagi.core.document.lengths import with_length
from usagi.core.document.solo import Ground, OwnFeel, Solo
from usagi.core.document.techniques import HammerOn, Picked, PullOff, Slide, SlideIn
from usagi.core.document.writing import NewId
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.bars import Bar
from usagi.core.meter.feel import FeelKind

WHOLE_FRET = 2  # quarter tones


class Rule(StrEnum):
    NO_ORNAMENTS = "without ornaments"
    NO_BENDS = "slides for bends"
    SINGLE_NOTES = "single notes"
    TARGETS = "chord tones on the beat only"
    STRAIGHT = "in a straight feel"


@dataclass(frozen=True)
class Simplified:
    """The simpler solo, and what each rule did, in sentences."""

    solo: Solo
    messages: tuple[str, ...]


def simplify(solo: Solo, ground: Ground, rules: tuple[Rule, ...], new_id: NewId) -> Simplified:
    """Apply rules in the order of their enumeration, whatever order they are asked in."""
    messages = []
    for rule in Rule:
        if rule in rules:
            solo, sentence = _RULES[rule](solo, ground, new_id)
            messages.append(sentence)
    return Simplified(solo, tuple(messages))


def _count(number: int, element: str) -> str:
    return f"{number} {element}{'' if number == 1 else 's'}"


def _no_ornaments(solo: Solo, _: Ground, __: NewId) -> tuple[Solo, str]:
    """No vibrato, trills, rakes, tremolo, curls, dips, ghosts, slides from nowhere and slides away."""
    dropped = 0
    notes = []
    for note in solo.notes:
        if note.ghost:
            dropped += 1
            continue
        values: dict[str, object] = {}
        for name in ("vibrato", "trill", "rake", "tremolo"):
            if getattr(note, name) is not None:
                values[name] = None
        if isinstance(note.attack, SlideIn):
            values["attack"] = Picked()
        if note.ending is not None and note.ending.kind == "slide-off":
            values["ending"] = None
        if note.course and all(quarters <= 1 for _, quarters in note.course):
            values["course"] = ()
        dropped += len(values)
        notes.append(note.model_copy(update=values) if values else note)
    return tidied(solo.model_copy(update={"notes": tuple(notes)})), f"{_count(dropped, 'ornament')} left out."


def _no_bends(solo: Solo, _: Ground, new_id: NewId) -> tuple[Solo, str]:
    """A bend becomes a slide to the fret of its target, where the neck has it; what is released slides back."""
    changed, left = 0, 0
    notes: list[Note] = []
    for note in solo.notes:
        top = max((quarters for _, quarters in note.course), default=0)
        if top < WHOLE_FRET or note.fret is None or top % 2:
            notes.append(note)
            continue
        fret = note.fret + top // 2 * HUNDREDTHS
        if fret > (solo.settings.last_fret - solo.settings.capo) * HUNDREDTHS:
            notes.append(note)
            left += 1
            continue
        changed += 1
        reached = next(at for at, quarters in note.course if quarters == top)
        back = next((at for at, quarters in note.course if at > reached and quarters < top), None)
        plain = {"course": (), "vibrato": None, "stack": None}
        if reached == 0:
            notes.append(note.model_copy(update=plain | {"fret": fret, "ticks": back or note.ticks}))
        else:
            notes.append(note.model_copy(update={"course": (), "ticks": reached, "ending": None, "vibrato": None}))
            until = back if back is not None and back < note.ticks else note.ticks
            notes.append(_slid(note, fret, reached, until, note.ending if until == note.ticks else None, new_id))
        if back is not None and back < note.ticks:
            notes.append(_slid(note, note.fret, back, note.ticks, note.ending, new_id))
    ordered = tuple(sorted(notes, key=lambda note: (note.tick, note.string)))
    words = f"{_count(changed, 'bend')} became slides" + (f", {left} lie too high on the neck." if left else ".")
    return tidied(solo.model_copy(update={"notes": ordered})), words


def _slid(note: Note, fret: int, start: int, end: int, ending: object, new_id: NewId) -> Note:
    return note.model_copy(
        update={
            "id": new_id(), "tick": note.tick + start, "ticks": max(1, end - start), "fret": fret, "attack": Slide(),
            "course": (), "vibrato": None, "ending": ending, "stack": None, "heard": None, "accent": False,
            "rake": None,
        }
    )  # fmt: skip


def _single_notes(solo: Solo, _: Ground, __: NewId) -> tuple[Solo, str]:
    """Of notes that start together the highest stays; what it joins to stays with it."""
    kept: list[Note] = []
    dropped = 0
    for _, together in groupby(solo.notes, key=lambda note: note.tick):
        group = list(together)
        kept.append(max(group, key=lambda note: (not note.dead, -note.string)))
        dropped += len(group) - 1
    kept = [
        with_length(note, kept[i + 1].tick - note.tick) if i + 1 < len(kept) and note.end > kept[i + 1].tick else note
        for i, note in enumerate(kept)
    ]
    return tidied(
        solo.model_copy(update={"notes": tuple(kept)})
    ), f"{_count(dropped, 'note')} left out: of notes struck together the highest stays."


def targets(solo: Solo, ground: Ground) -> list[Note]:
    """The skeleton of a line: its chord tones that start on a pulse. All else is ornament."""
    readings = {reading.id: reading for reading in read_notes(solo, ground)}
    chosen = []
    for note in solo.notes:
        bar = ground.timeline.bars.at(note.tick)
        on_pulse = bar.pulse_at(note.tick)[1] == note.tick
        line = next(line for line in readings[note.id].lines if line.shown)
        if on_pulse and line.role in (Role.CHORD_TONE, Role.ANTICIPATION):
            chosen.append(note)
    return chosen


def without_targets(solo: Solo, ground: Ground) -> Solo:
    """The ornament of a line alone; what was joined to a note of the skeleton is picked."""
    skeleton = {note.id for note in targets(solo, ground)}
    left = tuple(note for note in solo.notes if note.id not in skeleton)
    return tidied(solo.model_copy(update={"notes": left}))


def _targets(solo: Solo, ground: Ground, new_id: NewId) -> tuple[Solo, str]:
    """Targets alone, held to the next of them or the bar's end; silence is written as rests."""
    chosen = targets(solo, ground)
    held = []
    for i, note in enumerate(chosen):
        end = ground.timeline.bars.at(note.tick).end
        after = next((other.tick for other in chosen[i + 1 :] if other.tick > note.tick), end)
        until = max(note.tick + 1, min(end, after))
        led = isinstance(note.attack, HammerOn | PullOff | Slide)  # its source may be gone
        plain = note.model_copy(update={"attack": Picked()}) if led else note
        held.append(with_length(plain, until - note.tick))
    written_bars = {ground.timeline.bars.at(tick).number for tick in _starts(solo)}
    bars = [bar for bar in ground.timeline.bars.bars if bar.number in written_bars]
    found = solo.model_copy(update={"notes": tuple(held), "rests": tuple(_silence(held, bars, new_id))})
    return tidied(found), f"{len(held)} of {_count(len(solo.notes), 'note')} stay: chord tones that begin on a beat."


def _starts(solo: Solo) -> list[int]:
    return [note.tick for note in solo.notes] + [rest.tick for rest in solo.rests]


def _silence(held: list[Note], bars: list[Bar], new_id: NewId) -> list[Rest]:
    """Rests where no target sounds, bar by bar."""
    found = []
    for bar in bars:
        at = bar.tick
        for note in held:
            if bar.tick <= note.tick < bar.end:
                if note.tick > at:
                    found.append(Rest(id=new_id(), tick=at, ticks=note.tick - at))
                at = max(at, note.end)
        if at < bar.end:
            found.append(Rest(id=new_id(), tick=at, ticks=bar.end - at))
    return found


def _straightened(solo: Solo, _: Ground, __: NewId) -> tuple[Solo, str]:
    """The version has a straight feel of its own; ticks do not move."""
    settings = solo.settings.model_copy(update={"feel": OwnFeel(feel=FeelKind.STRAIGHT)})
    return solo.model_copy(update={"settings": settings}), "Now counted and played with a straight feel. No note moved."


_RULES: Mapping[Rule, Callable[[Solo, Ground, NewId], tuple[Solo, str]]] = {
    Rule.NO_ORNAMENTS: _no_ornaments,
    Rule.NO_BENDS: _no_bends,
    Rule.SINGLE_NOTES: _single_notes,
    Rule.TARGETS: _targets,
    Rule.STRAIGHT: _straightened,
}
