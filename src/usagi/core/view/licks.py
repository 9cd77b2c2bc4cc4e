"""Licks as they are drawn in the book: strings, degrees, chords, where they belong and how exact they are."""

from __future__ import annotations

from collections.abc import Collection

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.pitches import course_stages
from usagi.core.document.techniques import steps_text
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.licks.drawn import STYLES, Drawn, DrawnNote, onsets
from usagi.core.licks.searching import Match
from usagi.core.pitch.intervals import interval_words, nearest_way
from usagi.core.values import Value
from usagi.core.view.shapes import BendView

SMALL = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")


class LickNote(Value):
    """A note of a lick: what it is called, from its start to its target, and whether the search named it."""

    note: Note
    fret: str
    degrees: tuple[str, ...]
    shape: str
    blue: bool
    bends: tuple[BendView, ...]
    hit: bool
    target: bool  # of the skeleton; the rest is ornament


class LickBar(Value):
    label: str
    tick: int


class LickChord(Value):
    tick: int
    shown: str


class LickDrawing(Value):
    """`[start, end)` in ticks; `strings` are the open strings' names from string 1 on."""

    start: int
    end: int
    strings: tuple[str, ...]
    notes: tuple[LickNote, ...]
    bars: tuple[LickBar, ...]
    chords: tuple[LickChord, ...]


def view_drawn(
    drawn: Drawn, reader: Reader = Reader(), match: Match | None = None, targets: Collection[str] = ()
) -> LickDrawing:
    """A lick as it is drawn for a reader; the notes of a match and those of the skeleton are marked."""
    style = STYLES.index(reader.style)
    hit = set() if match is None else {
        note.id for event in onsets(drawn)[match.first : match.last + 1] for note in event
    }  # fmt: skip
    return LickDrawing(
        start=drawn.start,
        end=drawn.end,
        strings=tuple(str(name) for name in tuning_of(drawn.tuning).names),
        notes=tuple(_note(one, style, hit=one.note.id in hit, target=one.note.id in targets) for one in drawn.notes),
        bars=tuple(LickBar(label=str(bar.number), tick=bar.tick) for bar in drawn.bars),
        chords=tuple(LickChord(tick=chord.tick, shown=chord.shown) for chord in drawn.chords),
    )


def _note(one: DrawnNote, style: int, *, hit: bool, target: bool) -> LickNote:
    note = one.note
    return LickNote(
        note=note,
        fret=fret_text(note),
        degrees=one.degrees[style],
        shape=one.shape,
        blue=one.blue,
        bends=tuple(
            BendView(at=at, quarters=quarters, size=steps_text(abs(quarters)))
            for at, quarters, _ in course_stages(note.course, note.ticks)
            if quarters
        ),
        hit=hit,
        target=target,
    )


def fret_text(note: Note) -> str:
    """What is written on the string: the fret, × for a dead note, ? for one that is not known."""
    if note.dead:
        return "×"
    return "?" if note.fret is None else f"{note.fret / HUNDREDTHS:g}"


def beat_words(place: int) -> str:
    """A place in the bar, twice the beat and one more off it.

    >>> beat_words(2), beat_words(5)
    ('on beat 1', 'after beat 2')
    """
    return f"{'after' if place % 2 else 'on'} beat {place // 2}"


def exactness(
    more: int, starts: tuple[int | None, int], ends: tuple[int | None, int], keys: tuple[int | None, int | None]
) -> str:
    """How exact a result is: the first thing in which it differs, and the key beside it.

    Each pair is what was asked for, if it was, and what is there.

    >>> exactness(0, (None, 2), (None, 4), (0, 5)), exactness(1, (None, 2), (None, 4), (None, 5))
    ('exactly, a fourth higher', 'one note more')
    >>> exactness(0, (2, 3), (None, 4), (None, None))
    'starts after beat 1'
    """
    said = []
    if more:
        said.append(f"{SMALL[more] if more < len(SMALL) else more} note{'s' if more > 1 else ''} more")
    for word, (asked, there) in (("starts", starts), ("ends", ends)):
        if asked is not None and asked != there:
            said.append(f"{word} {beat_words(there)}")
    words = ", ".join(said) or "exactly"
    asked_key, key = keys
    if asked_key is None or asked_key == key:
        return words
    return f"{words}, {higher(nearest_way(asked_key, key))}" if key is not None else f"{words}, in no key"


def higher(semitones: int) -> str:
    """How much higher or lower something lies.

    >>> higher(5), higher(-1)
    ('a fourth higher', 'a half step lower')
    """
    return f"{interval_words(semitones)} {'higher' if semitones > 0 else 'lower'}"


def how_words(tempo: float, feel: str, low_fret: int | None, thin: int, thick: int) -> str:
    """Tempo, feel, where the hand is and which strings, in a line.

    >>> how_words(131.6, "swing", 5, 2, 4)
    '132, swing · fret 5 · strings 2–4'
    """
    said = [f"{tempo:.0f}, {feel}" if feel else f"{tempo:.0f}"]
    said.append("open strings" if low_fret is None else f"fret {low_fret}")
    said.append(f"string {thin}" if thin == thick else f"strings {thin}–{thick}")
    return " · ".join(said)


def counted(count: int, exact: int, *, searched: bool, kept: bool) -> str:
    """How many were found, in a sentence.

    >>> counted(14, 6, searched=True, kept=False), counted(1, 1, searched=False, kept=True)
    ('14 phrases, 6 exactly as asked', '1 lick')
    """
    word = "lick" if kept else "phrase"
    all_of_them = f"{count} {word}{'' if count == 1 else 's'}"
    return all_of_them if not searched or not count else f"{all_of_them}, {exact} exactly as asked"
