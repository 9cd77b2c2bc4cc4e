"""What sounds of a part: ties joined, grace notes given time, joins and strokes carried to where they belong."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Final

from lxml import etree

from usagi.core.document.techniques import LONGEST, Stroke
from usagi.core.formats.musicxml.measures import Measure, WrittenSound
from usagi.core.formats.musicxml.techniques import Played
from usagi.core.formats.score import (
    MOST_NOTES,
    FileUnreadable,
    ScoreNote,
)
from usagi.core.meter.ticks import QUARTER

GRACE: Final = QUARTER // 8  # ticks of a grace note, a thirty-second
SPREAD_MS: Final = 25.0


@dataclass
class _Open:
    """A note that sounds on into a tie."""

    index: int
    end: int


_TieKey = tuple[str, float | None, int]  # voice, pitch, staff
_Ties = dict[_TieKey, list[_Open]]


class Sounding:
    """The notes of a part while ties and grace notes are looked at."""

    def __init__(self) -> None:
        self.found: list[_Note] = []
        self.graces = 0

    def notes(self, measures: Sequence[Measure], laid: Sequence[tuple[int, int]]) -> list[ScoreNote]:
        """What sounds, in time order; `laid` are the measures as they are played, by index, and where each starts."""
        found = self.found
        open_ties: _Ties = {}
        graces: list[tuple[int, WrittenSound]] = []
        for i, start in laid:
            for sound in sorted(measures[i].sounds, key=lambda one: one.at):
                if len(found) > MOST_NOTES:
                    raise FileUnreadable(f"This part has more than {MOST_NOTES} notes. Take a part of it.")
                if sound.grace:
                    graces.append((start + sound.at, sound))
                    continue
                before = [grace for grace in graces if grace[1].voice == sound.voice and grace[0] == start + sound.at]
                if before and not sound.chord:
                    self._graces(found, before, start + sound.at)
                    graces = [grace for grace in graces if grace not in before]
                self._sound(found, open_ties, sound, start)
        for at, grace in graces:  # what they lead to is not written: they stand where they are
            found.append(_Note(max(at - GRACE, laid[0][1]), GRACE, grace, [grace.element]))
            self.graces += 1
        return list(_scored(found))

    def _sound(self, found: list[_Note], open_ties: _Ties, sound: WrittenSound, start: int) -> None:
        at = start + sound.at
        key = (sound.voice, sound.midi, sound.staff)
        before = self._tied_from(open_ties, key, at) if sound.tied_from else None
        if before is not None:
            note = found[before.index]
            note.ticks += sound.ticks
            note.elements.append(sound.element)
            index = before.index
        else:
            index = len(found)
            found.append(_Note(at, sound.ticks, sound, [sound.element]))
        if sound.tied_on:
            open_ties.setdefault(key, []).append(_Open(index, at + sound.ticks))

    @staticmethod
    def _tied_from(open_ties: _Ties, key: _TieKey, at: int) -> _Open | None:
        """The note that is tied to here: of the same voice, else of another; of several the first."""
        for own in (key, *(other for other in open_ties if other != key and other[1] == key[1])):
            for one in open_ties.get(own, []):
                if one.end == at:
                    open_ties[own].remove(one)
                    return one
        return None

    def _graces(self, found: list[_Note], graces: Sequence[tuple[int, WrittenSound]], at: int) -> None:
        """Turn grace notes into short notes before their main note, and shorten what sounds there."""
        groups: list[list[WrittenSound]] = []
        for _, sound in graces:
            if sound.chord and groups:
                groups[-1].append(sound)
            else:
                groups.append([sound])
        begin = at - GRACE * len(groups)
        for note in found:
            if note.tick < at and note.end > begin and note.sound.voice == graces[0][1].voice:
                begin = max(begin, note.tick + (at - note.tick) // 2)
        each = max(1, (at - begin) // len(groups))
        for note in found:
            if note.tick < begin < note.end and note.sound.voice == graces[0][1].voice:
                note.ticks = begin - note.tick
        for i, group in enumerate(groups):
            tick = begin + i * each
            until = at if i + 1 == len(groups) else tick + each
            for sound in group:
                found.append(_Note(tick, until - tick, sound, [sound.element]))
                self.graces += 1


@dataclass
class _Note:
    """A note as it sounds: its tied values together."""

    tick: int
    ticks: int
    sound: WrittenSound
    elements: list[etree._Element]

    @property
    def end(self) -> int:
        return self.tick + self.ticks


def _scored(notes: Sequence[_Note]) -> Iterator[ScoreNote]:
    """Notes with what is said of how they are played; a join that only its first note says is carried on."""
    ordered = sorted(notes, key=lambda note: note.tick)
    told: list[Played] = []
    for note in ordered:
        played = Played()
        for element in note.elements:
            played.read(element)
        told.append(played)
    strokes = _strokes(ordered, told)
    for i, kind in _carried_on(ordered, told):
        told[i].fields.setdefault("attack", {"kind": kind})
    for i, (note, played) in enumerate(zip(ordered, told, strict=True)):
        ticks = max(1, min(note.ticks, LONGEST))
        fields = played.note_fields(ticks, note.sound.midi)
        stroke, spread, pick = strokes[i]
        if pick is not None:
            fields.setdefault("pick", pick)
        midi = None if fields.get("dead") or note.sound.midi is None else note.sound.midi
        course = played.course(ticks)
        yield ScoreNote(
            tick=note.tick,
            ticks=note.ticks,
            midi=midi,
            string=played.string,
            fret=played.fret,
            levels=() if course or not any(played.levels) else tuple(played.levels),
            course=course,
            fields=fields,
            stroke=stroke,
            spread_ms=spread,
        )


def _carried_on(notes: Sequence[_Note], told: Sequence[Played]) -> Iterator[tuple[int, str]]:
    """Of each join that only its first note says: the next note of its voice, and the kind of the join."""
    waiting: dict[tuple[str, str], int] = {}
    open_ends: list[tuple[int, str]] = []
    for i, played in enumerate(told):
        for join in played.joined:
            waiting.pop(join, None)
        for join in played.joins:
            if join in waiting:
                open_ends.append((waiting[join], join[0]))
            waiting[join] = i
    open_ends += [(i, kind) for (kind, _), i in waiting.items()]
    for i, kind in open_ends:
        voice, tick = notes[i].sound.voice, notes[i].tick
        for j in range(i + 1, len(notes)):
            if notes[j].sound.voice == voice and notes[j].tick > tick:
                yield j, kind
                break


def _strokes(notes: Sequence[_Note], told: Sequence[Played]) -> list[tuple[Stroke | None, float, str | None]]:
    """For each note its stack's stroke and spread, or its own stroke."""
    found: list[tuple[Stroke | None, float, str | None]] = [(None, 0.0, None)] * len(notes)
    for _, together in groupby(range(len(notes)), key=lambda i: (notes[i].tick, notes[i].sound.voice)):
        group = list(together)
        bows = [told[i].bow for i in group]
        spread = SPREAD_MS if any(told[i].spread for i in group) else 0.0
        stroke: Stroke | None = None
        own = bows
        if len(group) > 1:
            if any(told[i].together for i in group):
                stroke = Stroke.TOGETHER
            elif sum(bow is not None for bow in bows) == 1 and bows[0] is not None:
                stroke, own = Stroke(bows[0]), [None] * len(group)
            elif spread:
                stroke = Stroke.UP if any(told[i].spread_down for i in group) else Stroke.DOWN
        for i, bow in zip(group, own, strict=True):
            found[i] = (stroke, spread, bow)
    return found
