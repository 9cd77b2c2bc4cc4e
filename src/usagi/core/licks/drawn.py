"""A lick as it is kept for drawing: its notes with their degrees in each style, and the bars and chords under them.

What is kept is said by the reader's style when it is asked for, so nothing has to be read again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby, pairwise
from typing import Any

from pydantic import JsonValue

from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.lines import Line, Role
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo
from usagi.core.licks.line import KeyFree
from usagi.core.readings.line import Sound
from usagi.core.readings.motion import chord_motion
from usagi.core.readings.reading import changes_under
from usagi.core.values import Value

STYLES = (Style.DEFAULT, Style.PLAIN, Style.EXTENDED)


class DrawnNote(Value):
    """A note and its degrees in the three styles: of a bend from its start to its target."""

    note: Note
    degrees: tuple[tuple[str, ...], ...]
    shape: str
    blue: bool = False


class DrawnBar(Value):
    number: int
    tick: int


class DrawnChord(Value):
    tick: int
    shown: str


class Drawn(Value):
    """`[start, end)` in ticks of its solo, in whole pulses; `motion` is that of its chords, `pitch` its first voice."""

    start: int
    end: int
    motion: str
    pitch: int
    tuning: tuple[int, ...]
    capo: int
    notes: tuple[DrawnNote, ...]
    bars: tuple[DrawnBar, ...]
    chords: tuple[DrawnChord, ...]


def draw(notes: Sequence[Note], sounds: Sequence[Sound], solo: Solo, ground: Ground) -> Drawn:
    """The notes of a lick, in time order, drawn from `sounds`, which are those of them that have a pitch."""
    by_id = {sound.note.id: sound for sound in sounds}
    timeline = ground.timeline
    _, start, _ = timeline.bars.at(notes[0].tick).pulse_at(notes[0].tick)
    last = max(note.end for note in notes)
    _, pulse, length = timeline.bars.at(last - 1).pulse_at(last - 1)
    end = pulse + length
    first = timeline.index_at(start)
    under = [change for i, change in enumerate(timeline.changes) if i == first or start < change.tick < end]
    motion = chord_motion(changes_under(sounds, notes[0].tick, last, timeline), timeline)
    return Drawn(
        start=start,
        end=end,
        motion=motion,
        pitch=int(max(sound.midi for sound in sounds if sound.note.tick == sounds[0].note.tick) // 1),
        tuning=solo.settings.tuning,
        capo=solo.settings.capo,
        notes=tuple(_note(note, by_id.get(note.id)) for note in notes),
        bars=tuple(DrawnBar(number=bar.number, tick=bar.tick) for bar in timeline.bars.bars if start <= bar.tick < end),
        chords=tuple(DrawnChord(tick=max(start, change.tick), shown=change.shown) for change in under),
    )


def _note(note: Note, sound: Sound | None) -> DrawnNote:
    plain = note.model_copy(update={"heard": None})
    if sound is None:
        return DrawnNote(note=plain, degrees=((), (), ()), shape="none")
    line = next(line for line in sound.reading.lines if line.shown)
    if sound.heard is None:
        key = () if sound.reading.key_degree is None else (sound.reading.key_degree,)
        return DrawnNote(note=plain, degrees=(key, key, key), shape="key" if key else "none")
    return DrawnNote(
        note=plain,
        degrees=tuple(_said(line, sound, style) for style in STYLES),
        shape=_shape(line.role),
        blue=line.blue,
    )


def _shape(role: Role | None) -> str:
    return "plain" if role is None else role.value


def _said(line: Line, sound: Sound, style: Style) -> tuple[str, ...]:
    """Where it starts and where it goes, of a note that changes its pitch; else what it is."""
    heard = sound.heard
    assert heard is not None
    main = line.degree or ""
    start = line.stages[0]
    if style is not Style.DEFAULT:
        main = _named(sound.midi, sound, style)
    if len(line.stages) < 2 or start.midi == sound.midi:
        return (main,)
    first = start.degree or "" if style is Style.DEFAULT else _named(start.midi, sound, style)
    return (first, main)


def _named(midi: float, sound: Sound, style: Style) -> str:
    assert sound.heard is not None
    slot = (int(midi // 1) - sound.heard.root.pitch_class) % 12
    return degree(sound.heard, slot, style=style) + ("+" if midi % 1 else "")


def short(drawn: Drawn) -> dict[str, JsonValue]:
    """A drawing as JSON without what is usual; `Drawn` reads it back."""
    tree: dict[str, Any] = drawn.model_dump(mode="json", exclude_defaults=True)
    for told, one in zip(tree.get("notes", ()), drawn.notes, strict=True):
        for name in ("attack", "ending"):
            if name in told["note"]:  # which kind it is, is said even where nothing else is
                told["note"][name] = getattr(one.note, name).model_dump(mode="json")
    return tree


def onsets(drawn: Drawn) -> list[list[Note]]:
    """The notes with a pitch, event by event."""
    pitched = [one.note for one in drawn.notes if not one.note.dead and one.note.fret is not None]
    return [list(group) for _, group in groupby(pitched, key=lambda note: note.tick)]


def with_gaps(line: KeyFree, drawn: Drawn) -> KeyFree:
    """A line that was read from its letters, with the gaps that its drawing shows."""
    events = onsets(drawn)
    ticks = [event[0].tick for event in events]
    last = [max(event, key=lambda note: -note.string).ticks for event in events[-1:]]
    return replace(line, gaps=(*(b - a for a, b in pairwise(ticks)), *last))
