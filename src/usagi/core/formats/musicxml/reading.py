"""MusicXML by any program read into a score: one part, its repeats played out, every voice of it.

Strings and frets are taken where the file has them. A staff of tablature that doubles a staff of notes is read instead
of it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Final

from lxml import etree

from usagi.core.formats.musicxml.bars import played_bars
from usagi.core.formats.musicxml.container import root_of
from usagi.core.formats.musicxml.measures import Measure, MeasureReader
from usagi.core.formats.musicxml.sounding import Sounding
from usagi.core.formats.musicxml.unroll import unrolled
from usagi.core.formats.score import (
    FileUnreadable,
    Part,
    Score,
    ScoreNote,
    anchors_of,
    chosen_part,
)
from usagi.core.meter.meters import Meter
from usagi.core.meter.ticks import QUARTER

DOUBLED: Final = 0.7  # of a staff's onsets: where so many stand on a staff of tablature, too, it says them again


def parts_of(root: etree._Element) -> list[Part]:
    """The parts of a score with their notes counted."""
    names = {
        one.get("id", ""): " ".join((one.findtext("part-name") or "").split())
        for one in root.iterfind("part-list/score-part")
    }
    found = []
    for part in root.findall("part"):
        part_id = part.get("id", "")
        notes = sum(1 for note in part.iter("note") if note.find("pitch") is not None)
        fretted = next(part.iter("fret"), None) is not None
        found.append(Part(part_id, names.get(part_id) or part_id or "part", notes, fretted))
    return found


def read_parts(data: bytes) -> list[Part]:
    """The parts of a file, for a person to choose from. Raises : FileUnreadable."""
    return parts_of(root_of(data))


def read_musicxml(data: bytes, *, part: str | None = None) -> Score:
    """One part of a file.

    Parameters
    ----------
    data : the file's bytes.
    part : its id, its name or its number; None takes the likeliest for a guitar.

    Raises : FileUnreadable, PartUnknown.
    """
    root = root_of(data)
    parts = parts_of(root)
    if not parts:
        raise FileUnreadable("This score has no parts.")
    at = chosen_part(parts, part)
    chosen, element = parts[at], root.findall("part")[at]
    score = _score(element)
    said = [f"The part “{chosen.name}” of {len(parts)}."] if len(parts) > 1 else []
    title = (root.findtext("movement-title") or "").strip()
    tune = (root.findtext("work/work-title") or "").strip()
    player = next(
        (
            (one.text or "").strip()
            for one in root.iterfind("identification/creator")
            if one.get("type") in ("performer", "arranger")
        ),
        "",
    )
    return replace(
        score, tune=tune or title, title=title if tune else "", player=player, messages=(*said, *score.messages)
    )


def _one_staff(measures: Sequence[Measure], tab_staves: set[int]) -> None:
    """Of a staff of notes and one of tablature that says the same, only the tablature is read."""
    onsets: dict[int, set[tuple[int, int]]] = {}
    for i, measure in enumerate(measures):
        for sound in measure.sounds:
            onsets.setdefault(sound.staff, set()).add((i, sound.at))
    for tab in sorted(tab_staves & onsets.keys()):
        for staff in sorted(onsets.keys() - tab_staves):
            if len(onsets[staff] & onsets[tab]) >= DOUBLED * max(len(onsets[staff]), len(onsets[tab])):
                for measure in measures:
                    measure.sounds = [sound for sound in measure.sounds if sound.staff != staff]


def _score(part: etree._Element) -> Score:
    reader, sounding = MeasureReader(), Sounding()
    measures = [reader.read(one) for one in part.findall("measure")]
    if not measures:
        raise FileUnreadable("This part has no bars.")
    _one_staff(measures, reader.tab_staves)
    order = unrolled([measure.marks for measure in measures])
    bars, starts, pickup, odd = played_bars(measures, order)
    laid = list(zip(order, starts, strict=True))
    notes = sounding.notes(measures, laid)
    pickup = _with_room(pickup, notes, bars[0].meter)
    tempos = [(start + at, bpm) for i, start in laid for at, bpm in measures[i].tempos]
    messages = list(odd)
    if len(order) > len(measures):
        messages.append("Its repeats are played out.")
    if sounding.graces:
        one = sounding.graces == 1
        messages.append(
            f"{sounding.graces} grace note{'' if one else 's'} stand{'s' if one else ''} as short notes before "
            "what they lead to."
        )
    if reader.unread_chords:
        messages.append(f"These chord symbols were not read whole: {', '.join(dict.fromkeys(reader.unread_chords))}.")
    return Score(
        bars=tuple(bars),
        notes=tuple(notes),
        pickup_ticks=pickup,
        rests=tuple((start + at, ticks) for i, start in laid for at, ticks in measures[i].rests if ticks > 0),
        chords=tuple((start + at, symbol) for i, start in laid for at, symbol in measures[i].chords),
        anchors=anchors_of(tempos, -pickup),
        dynamics=tuple((start + at, level) for i, start in laid for at, level in measures[i].dynamics),
        swells=tuple(_swells([(start + at, kind) for i, start in laid for at, kind in measures[i].wedges])),
        tuning=reader.tuning,
        capo=reader.capo,
        messages=tuple(messages),
    )


def _with_room(pickup: int, notes: Sequence[ScoreNote], meter: Meter) -> int:
    """The pick-up, longer by a beat when grace notes come before the first note; a bar is longer than any pick-up."""
    early = max((-note.tick for note in notes), default=0)
    if early <= pickup:
        return pickup
    longer = -(-early // QUARTER) * QUARTER
    return longer if longer < meter.bar_ticks else pickup


def _swells(wedges: Sequence[tuple[int, str]]) -> Iterator[tuple[int, int, str]]:
    start: tuple[int, str] | None = None
    for tick, kind in wedges:
        if kind in ("crescendo", "diminuendo"):
            start = tick, "louder" if kind == "crescendo" else "softer"
        elif kind == "stop" and start is not None:
            if tick > start[0]:
                yield start[0], tick, start[1]
            start = None
