"""Pictures to paste into a document: a phrase or some bars as tablature, and the neck with what is played on it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.handout.blocks import lines_of
from usagi.core.handout.marks import Box, Face, Line, Mark, Text, moved
from usagi.core.handout.strings import degree_marks, draw_tab
from usagi.core.handout.type import measured, signs, width
from usagi.core.licks.entries import Span
from usagi.core.view.licks import LickNote
from usagi.core.view.plan import drawn

PICTURES: Final = {"svg": "Tablature as a picture (SVG)", "png": "Tablature as a picture (PNG)"}  # the kinds of file
ROOM_PT: Final = 540.0
EDGE_PT: Final = 8.0
TITLE_PT: Final = 12.0
BETWEEN_PT: Final = 8.0
FRET_PT: Final = 42.0
NECK_STRING_PT: Final = 18.0
FEWEST_FRETS: Final = 5
INLAYS: Final = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
MOST_NOTES: Final = 400


class PictureImpossible(UsagiError):
    """A picture of nothing, or of too much."""

    code = "picture-impossible"


@dataclass(frozen=True)
class Picture:
    """Marks from the upper left corner, and their width and height in points."""

    title: str
    width: float
    height: float
    marks: tuple[Mark, ...]


def tab_picture(
    solo: Solo,
    ground: Ground,
    start: int,
    end: int,
    *,
    title: str = "",
    reader: Reader = Reader(),
    room: float = ROOM_PT,
) -> Picture:
    """What starts between two ticks, as tablature with its chords, counts and degrees, in lines of whole bars.

    Raises : PictureImpossible, when nothing starts there.
    """
    notes = _between(solo, start, end)
    inner = room - 2 * EDGE_PT
    y = EDGE_PT
    marks: list[Mark] = []
    if title:
        marks.append(Text(x=EDGE_PT, y=y + TITLE_PT, text=signs(title), size=TITLE_PT, face=Face.BOLD))
        y += TITLE_PT + BETWEEN_PT
    widest = width(signs(title), TITLE_PT, Face.BOLD) if title else 0.0
    for tab in lines_of(Span(tuple(notes)), solo, ground, inner, reader):
        line = draw_tab(tab, inner, fill=False)
        marks += [moved(mark, EDGE_PT, y) for mark in line.marks]
        widest = max(widest, line.spacing.places[-1])
        y += line.height + BETWEEN_PT
    return Picture(title, widest + 2 * EDGE_PT, y - BETWEEN_PT + EDGE_PT, tuple(measured(mark) for mark in marks))


def neck_picture(
    solo: Solo, ground: Ground, start: int, end: int, *, title: str = "", reader: Reader = Reader()
) -> Picture:
    """The part of the neck that is played between two ticks, string 1 on top, each place with its degree.

    A place that is played over several chords takes the degree that it has most often. Raises : PictureImpossible.
    """
    notes = _between(solo, start, end)
    drawing = drawn(notes, solo, ground, reader)
    placed = [
        one for one in (drawing.notes if drawing is not None else ()) if one.note.fret is not None and one.degrees
    ]
    if not placed:
        raise PictureImpossible("Nothing with a place on the neck starts there.")
    low, high = _frets(placed)
    strings = tuning_of(solo.settings.tuning).names
    left = EDGE_PT + max(width(str(name), 10.0) for name in strings) + 8 + (FRET_PT * 0.6 if low == 0 else 0)
    top = EDGE_PT + (TITLE_PT + BETWEEN_PT if title else 0) + 8
    marks: list[Mark] = []
    if title:
        marks.append(Text(x=EDGE_PT, y=EDGE_PT + TITLE_PT, text=signs(title), size=TITLE_PT, face=Face.BOLD))
    first = max(low, 1)
    right = left + FRET_PT * (high - first + 1)
    bottom = top + NECK_STRING_PT * (len(strings) - 1)
    for i, name in enumerate(strings):
        y = top + NECK_STRING_PT * i
        marks.append(Text(x=EDGE_PT, y=y + 3.5, text=signs(str(name)), size=10.0))
        marks.append(Line(x1=left, y1=y, x2=right, y2=y, width=0.6 + 0.7 * i / max(1, len(strings) - 1)))
    for fret in range(first, high + 2):
        x = left + FRET_PT * (fret - first)
        marks.append(Line(x1=x, y1=top, x2=x, y2=bottom, width=3.0 if fret == 1 else 0.8))
        if fret <= high:
            middle = x + FRET_PT / 2
            number, face = _fret_name(fret, solo.settings), Face.BOLD if fret in INLAYS else Face.READING
            marks.append(Text(x=middle, y=bottom + 20, text=number, size=9.0, anchor="middle", face=face))
    for (string, fret), label in _labels(placed).items():
        x = left - FRET_PT * 0.35 if fret == 0 else left + FRET_PT * (fret / HUNDREDTHS - first + 0.5)
        y = top + NECK_STRING_PT * (string - 1)
        marks += _named(label, x, y)
    height = bottom + 24 + EDGE_PT
    return Picture(title, right + EDGE_PT, height, tuple(measured(mark) for mark in marks))


def _fret_name(fret: int, settings: SoloSettings) -> str:
    return f"{fret}" if not settings.capo else f"{fret} (capo {settings.capo})" if fret == 1 else f"{fret}"


def _between(solo: Solo, start: int, end: int) -> list[Note]:
    notes = [note for note in solo.notes if start <= note.tick < end]
    if not notes:
        raise PictureImpossible("Nothing starts there: mark a phrase, or bars with notes.")
    if len(notes) > MOST_NOTES:
        raise PictureImpossible(f"{len(notes)} notes are too many for one picture: {MOST_NOTES} at most.")
    return notes


def _frets(placed: Sequence[LickNote]) -> tuple[int, int]:
    """The lowest and the highest fret shown: what is played, and some more where that is little."""
    frets = [-(-(one.note.fret or 0) // HUNDREDTHS) for one in placed]
    stopped = [fret for fret in frets if fret] or [1]
    low, high = min(stopped), max(stopped)
    while high - low + 1 < FEWEST_FRETS:
        low, high = (low - 1, high) if low > 1 and (high - low) % 2 else (low, high + 1)
    return (0 if 0 in frets else low), high


def _labels(placed: Sequence[LickNote]) -> dict[tuple[int, int], LickNote]:
    by_place: dict[tuple[int, int], list[LickNote]] = {}
    for one in placed:
        by_place.setdefault((one.note.string, one.note.fret or 0), []).append(one)
    found = {}
    for place, ones in by_place.items():
        usual = Counter(one.degrees[0] for one in ones).most_common(1)[0][0]
        found[place] = next(one for one in ones if one.degrees[0] == usual)
    return found


def _named(one: LickNote, x: float, y: float) -> list[Mark]:
    """A degree on its place, on white paper, in the tablet of its role."""
    plain = one.model_copy(update={"degrees": one.degrees[:1]})
    across = max(13.0, width(signs(plain.degrees[0]), 10.0, Face.BOLD) + 6)
    paper = Box(x=x - across / 2, y=y - 7, width=across, height=14, radius=3)
    found = degree_marks(plain, x, y + 3.5)
    boxed = any(isinstance(mark, Box) for mark in found)
    texts = [
        mark.model_copy(update={"knocked": True}) if isinstance(mark, Text) and not mark.inverse else mark
        for mark in found
    ]
    return texts if boxed else [paper, *texts]
