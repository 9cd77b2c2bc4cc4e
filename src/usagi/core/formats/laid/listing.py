"""What cannot be held, gathered by bar, and how things are counted in words."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from usagi.core.formats.document_json import SoloDocument
from usagi.core.formats.score import Part
from usagi.core.meter.bars import Bars, bar_name

MOST_LISTED: Final = 200


@dataclass
class Listing:
    """What cannot be held, gathered by bar."""

    bars: Bars
    found: list[tuple[int, str]] = field(default_factory=list)

    def say(self, tick: int, what: str) -> None:
        self.found.append((tick, what))

    def lines(self) -> tuple[str, ...]:
        said = [f"{bar_name(self.bars.at(tick).number).capitalize()}: {what}" for tick, what in sorted(self.found)]
        unlike = list(dict.fromkeys(said))
        if len(unlike) <= MOST_LISTED:
            return tuple(unlike)
        return (*unlike[:MOST_LISTED], f"And {len(unlike) - MOST_LISTED} more.")


def size_words(document: SoloDocument) -> str:
    bars = document.ground.timeline.bars.bars
    return f"{count_of(len(document.solo.notes), 'note')} in {count_of(len(bars), 'bar')}"


def part_words(part: Part) -> str:
    return count_of(part.notes, "note") + (", with strings" if part.strings else "")


def count_of(count: int, thing: str) -> str:
    return f"{count} {thing}{'' if count == 1 else 's'}"
