"""Beams: eighths and shorter that stand together within one pulse, so a dotted quarter in compound meters."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import Final

from lxml import etree

from usagi.core.formats.notated import Piece
from usagi.core.meter.bars import Bar

FLAGS: Final = {"eighth": 1, "16th": 2, "32nd": 3, "64th": 4}


def beams_of(pieces: Sequence[Piece], bar: Bar) -> list[list[etree._Element]]:
    """The beams of each piece of a bar in one voice, the outermost first; a piece without a beam has a flag."""
    found: list[list[etree._Element]] = [[] for _ in pieces]
    for run in _runs(pieces, bar):
        flags = [FLAGS[pieces[i].written.name] for i in run]
        for level in range(1, max(flags) + 1):
            for i, says in zip(run, _level(flags, level), strict=True):
                if says:
                    beam = etree.Element("beam", number=str(level))
                    beam.text = says
                    found[i].append(beam)
    return found


def _runs(pieces: Sequence[Piece], bar: Bar) -> Iterator[list[int]]:
    """Runs of two or more short notes that start in one pulse."""

    def key(i: int) -> tuple[bool, int]:
        value = pieces[i].written
        return pieces[i].struck is not None and value.name in FLAGS, bar.pulse_at(value.tick)[0]

    for (flagged, _), run in groupby(range(len(pieces)), key):
        together = list(run)
        if flagged and len(together) > 1:
            yield together


def _level(flags: Sequence[int], level: int) -> Iterator[str]:
    """What the beams of one level say at each note of a run: begin, continue, end, a hook, or nothing."""
    has = [False, *(count >= level for count in flags), False]
    for i in range(1, len(has) - 1):
        before, here, after = has[i - 1 : i + 2]
        if not here:
            yield ""
        elif before and after:
            yield "continue"
        elif after:
            yield "begin"
        elif before:
            yield "end"
        else:
            yield "backward hook" if i == len(flags) else "forward hook"
