"""Chords as keys play them: core tones and named extensions, each voice moving as little as it can."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import combinations
from typing import Final

from usagi.core.harmony.heard import Heard

LOWEST, HIGHEST = 52, 74  # MIDI: above the bass, below most of the lead
VOICES: Final = 4
MIDDLE: Final = 62
WIDEST: Final = 19  # semitones from the lowest voice to the highest


def tones(heard: Heard) -> list[int]:
    """The slots above the root that are played, the most telling first; at most four.

    The third or what stands for it, the seventh or sixth, named extensions, a changed fifth; then the natural fifth and
    the root, which the bass has, where there is room. So every core tone of a triad sounds.

    Parameters
    ----------
    heard : the chord as it is heard.
    """
    sounding = set(heard.semitones)
    thirds: tuple[int, ...] = (3, 4, 5, 2)
    telling = [slot for slot in thirds if slot in heard.core and slot in sounding][:1]
    telling += [slot for slot in (10, 11, 9) if slot in heard.core and slot in sounding and slot not in telling][:1]
    telling += [slot for slot in heard.extensions if slot in sounding and slot not in telling]
    telling += [slot for slot in heard.core if slot in sounding and slot not in telling and slot not in (0, 7)]
    telling += [slot for slot in (7, 0) if slot in sounding and slot not in telling]
    return telling[:VOICES]


def voicings(heard: Heard) -> list[tuple[int, ...]]:
    """Every way to lay the chord's tones between two bounds, one a voice, rising.

    Parameters
    ----------
    heard : the chord as it is heard.
    """
    root = heard.root.pitch_class
    classes = [(root + slot) % 12 for slot in tones(heard)]
    pool = [midi for midi in range(LOWEST, HIGHEST + 1) if midi % 12 in classes]
    return [
        pick
        for pick in combinations(pool, len(classes))
        if len({midi % 12 for midi in pick}) == len(classes) and pick[-1] - pick[0] <= WIDEST
    ]


def led(chords: Iterable[Heard]) -> list[tuple[int, ...]]:
    """A voicing for each chord, so that all voices together move as little as they can from the one before.

    Parameters
    ----------
    chords : one after the other; the first lies around the middle of the range.

    >>> from usagi.core.harmony.heard import hear
    >>> from usagi.core.harmony.symbols import parse_chord
    >>> one, other = led([hear(parse_chord("Dm7")), hear(parse_chord("G7"))])
    >>> motion(one, other) <= 4
    True
    """
    before: tuple[int, ...] | None = None
    found = []
    for heard in chords:
        ways = voicings(heard)
        if before is None:
            chosen = min(ways, key=lambda way: (abs(sum(way) / len(way) - MIDDLE), way))
        else:
            was = before
            chosen = min(ways, key=lambda way: (motion(was, way) + 0.1 * abs(sum(way) / len(way) - MIDDLE), way))
        found.append(chosen)
        before = chosen
    return found


def motion(one: Sequence[int], other: Sequence[int]) -> int:
    """Semitones that the voices move altogether; each goes to the nearest voice of the other, both ways.

    Parameters
    ----------
    one, other : MIDI pitches.

    >>> motion((60, 64, 67), (60, 65, 69))
    3
    """
    return max(
        sum(min(abs(a - b) for b in other) for a in one),
        sum(min(abs(a - b) for a in one) for b in other),
    )
