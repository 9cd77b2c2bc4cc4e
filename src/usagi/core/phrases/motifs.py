"""Motifs: three to twelve notes that come again, and what changed (docs/music.md, Motif).

A figure is what stands between silences of a pulse, or in one bar of a longer line; each is linked to the nearest
earlier one that it is like, by the first kind that applies. Inside lines four notes or more that come again are found
wherever they stand.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise
from typing import Any, Final

from usagi.core.degrees.patterns import Events
from usagi.core.document.solo import Ground
from usagi.core.readings.line import Sound, contour
from usagi.core.readings.relations import Relation, RelationKind

SHORTEST, LONGEST = 3, 12
INSIDE: Final = 4  # notes of a figure that is found inside a line
Figure = tuple[Sound, ...]


class Change(StrEnum):
    """What became of a motif, in the order in which it is sought."""

    REPEATED = "repeated"
    DISPLACED = "displaced"
    MOVED = "moved with its chord"
    TRANSPOSED = "transposed"
    SEQUENCED = "sequenced"
    STRETCHED = "stretched"
    SHORTENED = "shortened"
    CUT = "cut"
    DECORATED = "decorated"


@dataclass
class Remembered:
    """The keys of figures, remembered from one search to the next: a figure is the same while its sounds are."""

    figures: dict[tuple[int, ...], tuple[Figure, Any, Any]] = field(default_factory=dict)
    windows: dict[tuple[int, ...], tuple[Figure, list[tuple[Any, ...]]]] = field(default_factory=dict)


def motifs(
    sounds: Mapping[str, Sound],
    events: Events,
    ground: Ground,
    scale_at: Callable[[int], frozenset[int] | None],
    before: Remembered | None = None,
) -> tuple[list[Relation], Remembered]:
    """Every figure that comes again, linked to the nearest before it; and what the next search may take over.

    Parameters
    ----------
    sounds, events : of one line, the sounds by note id. Of notes that start together the highest is the line.
    scale_at : the pitch classes of the scale reading at a tick, in whose steps a sequence is counted.
    """
    seen: dict[tuple[Any, ...], list[Figure]] = {}
    found: list[Relation] = []
    now = Remembered()
    before = before or Remembered()
    for figure in figures(sounds, events, ground):
        scale = scale_at(figure[0].note.tick)
        known = (*map(id, figure), hash(scale))
        if known not in now.figures:
            now.figures[known] = before.figures.get(known) or (
                figure,
                list(_sought(figure, ground, scale)),
                list(_kept(figure, ground, scale)),
            )
        _, sought, kept = now.figures[known]
        for change, keys in sought:
            earlier = [known for key in keys for known in seen.get(key, ()) if _apart(known, figure, change)]
            if earlier:
                nearest = max(earlier, key=lambda known: known[0].note.tick)
                found.append(_relation(nearest, figure, change, ground))
                break
        for key in kept:
            seen.setdefault(key, []).append(figure)
    covered = {note for relation in found for note in relation.end}
    return [*found, *_inside(_lines(sounds, events), covered, ground, before, now)], now


def _inside(
    lines: list[list[Sound]], covered: set[str], ground: Ground, before: Remembered, now: Remembered
) -> Iterator[Relation]:
    """Figures inside lines that come again with the same rhythm and intervals or degrees, as long as they go."""
    seen: dict[tuple[Any, ...], list[tuple[int, int]]] = {}
    for n, line in enumerate(lines):
        after = 0
        for j in range(len(line) - INSIDE + 1):
            window = tuple(line[j : j + INSIDE])
            known = tuple(map(id, window))
            now.windows[known] = kept = before.windows.get(known) or (window, _inside_keys(window))
            keys = kept[1]
            if j >= after and not any(sound.note.id in covered for sound in window):
                earlier = [at for key in keys for at in seen.get(key, ()) if at[0] < n or at[1] + INSIDE <= j]
                if earlier:
                    m, i = max(earlier)
                    most = min(LONGEST, len(lines[m]) - i, len(line) - j, j - i if m == n else LONGEST)
                    length = _extent(lines[m][i : i + most], line[j : j + most])
                    first, figure = tuple(lines[m][i : i + length]), tuple(line[j : j + length])
                    yield _relation(first, figure, _named(first, figure, ground), ground)
                    after = j + length
            for key in keys:
                seen.setdefault(key, []).append((n, j))


def _inside_keys(figure: Figure) -> list[tuple[Any, ...]]:
    """None for one pitch that is only repeated."""
    if len({sound.midi for sound in figure}) == 1:
        return []
    rhythm = _rhythm(figure)
    keys: list[tuple[Any, ...]] = [("intervals", rhythm, _intervals(figure))]
    if all(sound.degree for sound in figure):
        keys.append(("degrees", rhythm, contour(figure), tuple(sound.degree for sound in figure)))
    return keys


def _extent(one: Sequence[Sound], other: Sequence[Sound]) -> int:
    """How many notes go alike in rhythm and intervals, or in rhythm, contour and degrees."""
    lengths = [0, 0]
    for by, alike in enumerate((_moves_alike, _stands_alike)):
        for k, (a, b) in enumerate(zip(one, other, strict=True)):
            begins = a.note.tick - one[0].note.tick == b.note.tick - other[0].note.tick
            if not begins or not alike(one[max(0, k - 1)], a, other[max(0, k - 1)], b):
                break
            lengths[by] = k + 1
    return max(lengths)


def _moves_alike(before: Sound, a: Sound, other_before: Sound, b: Sound) -> bool:
    return a.midi - before.midi == b.midi - other_before.midi


def _stands_alike(before: Sound, a: Sound, other_before: Sound, b: Sound) -> bool:
    rises, others = a.midi - before.midi, b.midi - other_before.midi
    same_way = (rises > 0) == (others > 0) and (rises < 0) == (others < 0)
    return bool(a.degree) and a.degree == b.degree and same_way


def _named(one: Figure, other: Figure, ground: Ground) -> Change:
    """The first kind that applies to figures of one rhythm, with the same intervals or degrees."""
    if _pitches(one) == _pitches(other):
        return Change.REPEATED if _place(one, ground) == _place(other, ground) else Change.DISPLACED
    degrees = [sound.degree for sound in one]
    if all(degrees) and degrees == [sound.degree for sound in other] and contour(one) == contour(other):
        return Change.MOVED
    return Change.TRANSPOSED


def figures(sounds: Mapping[str, Sound], events: Events, ground: Ground) -> list[Figure]:
    """The figures of a line, in order; those of one bar stand for lines that are longer than a motif."""
    bars = ground.timeline.bars
    found: list[Figure] = []
    for line in _lines(sounds, events):
        by_bar: dict[int, list[Sound]] = {}
        for sound in line:
            by_bar.setdefault(bars.at(sound.note.tick).number, []).append(sound)
        whole = [line] if len(line) <= LONGEST else []
        cells = list(by_bar.values()) if len(by_bar) > 1 else []
        found += [tuple(one) for one in (*whole, *cells) if SHORTEST <= len(one) <= LONGEST]
    return sorted(found, key=lambda figure: (figure[0].note.tick, -len(figure)))


def _lines(sounds: Mapping[str, Sound], events: Events) -> list[list[Sound]]:
    """The highest notes between silences of a pulse."""
    lines: list[list[Sound]] = []
    for i, event in enumerate(events.of):
        if not i or events.broken[i]:
            lines.append([])
        lines[-1].append(sounds[event[0].id])
    return lines


def _apart(known: Figure, figure: Figure, change: Change) -> bool:
    """Whether two figures share no note; of a cut one the beginning is meant, and it is shorter."""
    if known[-1].note.tick >= figure[0].note.tick:
        return False
    return change is not Change.CUT or len(figure) < len(known)


def _rhythm(figure: Figure) -> tuple[int, ...]:
    return tuple(sound.note.tick - figure[0].note.tick for sound in figure)


def _intervals(figure: Figure) -> tuple[float, ...]:
    return tuple(b.midi - a.midi for a, b in pairwise(figure))


def _place(figure: Figure, ground: Ground) -> int:
    return figure[0].note.tick - ground.timeline.bars.at(figure[0].note.tick).counted_from


def _steps(figure: Figure, scale: frozenset[int] | None) -> tuple[int, ...] | None:
    """Scale steps from note to note; None where a note is outside the scale."""
    if scale is None or any(sound.midi % 1 or int(sound.midi) % 12 not in scale for sound in figure):
        return None
    order = sorted(scale)
    places = [len(order) * (int(s.midi) // 12) + order.index(int(s.midi) % 12) for s in figure]
    return tuple(b - a for a, b in pairwise(places))


def _on_pulses(figure: Figure, ground: Ground) -> tuple[tuple[int, float], ...]:
    """The notes on pulses, counted in pulses from the first of them."""
    bars = ground.timeline.bars
    on = [sound for sound in figure if bars.at(sound.note.tick).pulse_at(sound.note.tick)[1] == sound.note.tick]
    if not on or on[0] is not figure[0]:
        return ()
    return tuple((sound.note.tick - on[0].note.tick, sound.midi) for sound in on)


def _pitches(figure: Figure) -> tuple[float, ...]:
    return tuple(sound.midi for sound in figure)


def _sought(
    figure: Figure, ground: Ground, scale: frozenset[int] | None
) -> Iterator[tuple[Change, list[tuple[Any, ...]]]]:
    """For each kind, under which keys an earlier figure would be found."""
    rhythm, intervals = _rhythm(figure), _intervals(figure)
    yield Change.REPEATED, [("same", _place(figure, ground), rhythm, _pitches(figure))]
    yield Change.DISPLACED, [("pitches", rhythm, _pitches(figure))]
    if all(sound.degree for sound in figure):
        yield Change.MOVED, [("degrees", rhythm, contour(figure), tuple(sound.degree for sound in figure))]
    yield Change.TRANSPOSED, [("intervals", rhythm, intervals)]
    steps = _steps(figure, scale)
    if steps is not None:
        yield Change.SEQUENCED, [("steps", rhythm, steps)]
    if all(tick % 2 == 0 for tick in rhythm):
        yield Change.STRETCHED, [("intervals", tuple(tick // 2 for tick in rhythm), intervals)]
    yield Change.SHORTENED, [("intervals", tuple(tick * 2 for tick in rhythm), intervals)]
    yield Change.CUT, [("begins", rhythm, intervals)]
    on = _on_pulses(figure, ground)
    if len(on) >= SHORTEST and len(on) < len(figure):
        yield Change.DECORATED, [("plain", on)]


def _kept(figure: Figure, ground: Ground, scale: frozenset[int] | None) -> Iterator[tuple[Any, ...]]:
    """Under which keys a figure is found again."""
    rhythm, intervals = _rhythm(figure), _intervals(figure)
    yield ("same", _place(figure, ground), rhythm, _pitches(figure))
    yield ("pitches", rhythm, _pitches(figure))
    yield ("degrees", rhythm, contour(figure), tuple(sound.degree for sound in figure))
    yield ("intervals", rhythm, intervals)
    steps = _steps(figure, scale)
    if steps is not None:
        yield ("steps", rhythm, steps)
    for count in range(SHORTEST, len(figure)):
        yield ("begins", rhythm[:count], intervals[: count - 1])
    on = _on_pulses(figure, ground)
    if len(on) == len(figure):
        yield ("plain", on)


def _relation(before: Figure, figure: Figure, change: Change, ground: Ground) -> Relation:
    start = before[: len(figure)] if change is Change.CUT else before
    bar = ground.timeline.bars.at(before[0].note.tick).number
    return Relation(
        RelationKind.MOTIF,
        tuple(sound.note.id for sound in start),
        tuple(sound.note.id for sound in figure),
        tuple(sound.degree for sound in figure),
        f"as in bar {bar}, {_words(before, figure, change)}",
        str(change),
    )


def _words(before: Figure, figure: Figure, change: Change) -> str:
    apart = int(figure[0].midi - before[0].midi)
    if change is Change.TRANSPOSED and apart:
        return f"{abs(apart)} half step{'s' if abs(apart) > 1 else ''} {'higher' if apart > 0 else 'lower'}"
    return {
        Change.REPEATED: "the same", Change.DISPLACED: "at another place in the bar",
        Change.SEQUENCED: "moved along the scale", Change.STRETCHED: "twice as slow", Change.SHORTENED: "twice as fast",
        Change.CUT: "only its beginning", Change.DECORATED: "with notes between",
    }.get(change, str(change))  # fmt: skip
