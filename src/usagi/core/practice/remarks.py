"""Where a teacher's remarks belong: at a note, over a phrase, over a bar."""

from __future__ import annotations

from usagi.core.document.solo import Ground, Solo
from usagi.core.document.teaching import OnNote, OnPhrase, Remark
from usagi.core.meter.bars import bar_name
from usagi.core.practice.plan import letter


def span(remark: Remark, solo: Solo, ground: Ground) -> tuple[int, int]:
    """The ticks that a remark is about.

    Parameters
    ----------
    remark : of the solo; what it names is there (`core/document/rules.py`).
    solo, ground : where it stands.
    """
    match remark.on:
        case OnNote(note=note):
            one = next(one for one in solo.notes if one.id == note)
            return one.tick, one.end
        case OnPhrase(phrase=phrase):
            whole = next(one for one in solo.phrases if one.id == phrase)
            return whole.start, whole.end
        case on:
            bars = ground.timeline.bars
            bar = bars.number(on.bar) or bars.bars[-1]
            return bar.tick, bar.end


def place(remark: Remark, solo: Solo, ground: Ground) -> str:
    """Where a remark belongs, in words: “the note at 3:2”, “phrase b”, “bar 4”."""
    match remark.on:
        case OnNote():
            return f"the note at {ground.timeline.bars.place(span(remark, solo, ground)[0])}"
        case OnPhrase(phrase=phrase):
            return f"phrase {letter([one.id for one in solo.phrases].index(phrase))}"
        case on:
            return bar_name(on.bar)


def in_order(solo: Solo, ground: Ground) -> list[Remark]:
    """The remarks by where they belong; of those that start together the one about most first."""

    def key(remark: Remark) -> tuple[int, int, str]:
        start, end = span(remark, solo, ground)
        return start, -end, remark.id

    return sorted(solo.remarks, key=key)


def about(solo: Solo, ground: Ground, start: int, end: int) -> list[Remark]:
    """The remarks that are about something within `[start, end)`, in order."""
    found = []
    for remark in in_order(solo, ground):
        first, last = span(remark, solo, ground)
        if first < end and start < last:
            found.append(remark)
    return found
