"""A way of the hand in words: where it lies, where it moves and what that costs."""

from __future__ import annotations

from collections.abc import Callable

from usagi.core.fingering.search import Way
from usagi.core.fretboard.places import HUNDREDTHS

FINGERS = {1: "index", 2: "middle", 3: "ring", 4: "little"}
MOST_SAID = 4  # shifts and stretches; the rest are counted


def ordinal(number: int) -> str:
    """A number as it is said of positions.

    >>> [ordinal(n) for n in (1, 2, 3, 4, 11, 12, 21)]
    ['1st', '2nd', '3rd', '4th', '11th', '12th', '21st']
    """
    if number % 100 in (11, 12, 13):
        return f"{number}th"
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th') }"


def title(way: Way) -> str:
    """What kind of way it is."""
    if not any(place.fret for place in way.places):
        return "open strings"
    strings = sorted(way.strings)
    run = f"string {strings[0]}" if len(strings) == 1 else f"strings {strings[0]}–{strings[-1]}"
    return f"{ordinal(way.position)} position, {run}" + (", with open strings" if way.opens else "")


def reasons(way: Way, written: Way, place: Callable[[int], str]) -> list[str]:
    """Why it costs what it costs, in sentences; `place` says a tick as a place of the solo."""
    sentences = [_fingers(way)]
    for shift in way.shifts[:MOST_SAID]:
        by = abs(shift.after - shift.before)
        sentences.append(
            f"At {place(shift.tick)} the hand goes {by} fret{'s' if by > 1 else ''} "
            f"{'up' if shift.after > shift.before else 'down'}, to the {ordinal(shift.after)} position, "
            f"with {shift.time_s:.2f} s for it: {shift.cost:.1f}."
        )
    if len(way.shifts) > MOST_SAID:
        more = way.shifts[MOST_SAID:]
        sentences.append(f"{len(more)} more shifts cost {sum(shift.cost for shift in more):.1f}.")
    if not way.shifts:
        sentences.append("The hand stays.")
    stretched = [one for one in way.places if one.finger == 4 and one.fret // HUNDREDTHS - one.position >= 4]
    if stretched:
        first = stretched[0]
        sentences.append(
            f"{len(stretched)} stretch{'es' if len(stretched) > 1 else ''} over five frets, "
            f"first to fret {first.fret / HUNDREDTHS:g} on string {first.string}."
        )
    sentences += [f"At {place(tick)}: {why}." for tick, why in way.troubles]
    sentences.append(f"It costs {way.cost:.1f}; as written, {written.cost:.1f}.")
    return sentences


def _fingers(way: Way) -> str:
    used = [place.finger for place in way.places if place.finger]
    if not used:
        return "No finger is needed."
    counts = [f"{FINGERS[finger]} {used.count(finger)}" for finger in sorted(set(used))]
    return f"Fingers: {', '.join(counts)}" + (f"; open {way.opens}." if way.opens else ".")
