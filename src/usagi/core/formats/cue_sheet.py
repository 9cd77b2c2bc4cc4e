"""A cue sheet: which file holds which step, and where in it each pass begins; read by players of sound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

FRAMES: Final = 75  # of a second, as cue sheets count
MOST_INDEXES: Final = 99
KINDS: Final = {"mp3": "MP3"}  # what is not named here is called WAVE


@dataclass(frozen=True, slots=True)
class CueTrack:
    """One file: its name, its title, and the seconds at which its passes begin; before the first it is counted in."""

    file: str
    title: str
    passes_s: tuple[float, ...]


def write_cue_sheet(title: str, performer: str, tracks: Sequence[CueTrack]) -> str:
    """The sheet of some files, a track each.

    Index 01 and on are the passes; index 00 is the count-in, where there is one.

    >>> print(write_cue_sheet("Slack Tide", "", [CueTrack("01.flac", "50 %", (2.0, 5.52))]), end="")
    TITLE "Slack Tide"
    FILE "01.flac" WAVE
      TRACK 01 AUDIO
        TITLE "50 %"
        INDEX 00 00:00:00
        INDEX 01 00:02:00
        INDEX 02 00:05:39
    """
    lines = [f"TITLE {_quoted(title)}"]
    if performer:
        lines.append(f"PERFORMER {_quoted(performer)}")
    for number, track in enumerate(tracks, start=1):
        lines.append(f"FILE {_quoted(track.file)} {KINDS.get(track.file.rpartition('.')[2], 'WAVE')}")
        lines += [f"  TRACK {number:02d} AUDIO", f"    TITLE {_quoted(track.title)}"]
        if track.passes_s and track.passes_s[0] > 0:
            lines.append("    INDEX 00 00:00:00")
        for index, second in enumerate(track.passes_s[:MOST_INDEXES], start=1):
            lines.append(f"    INDEX {index:02d} {_time(second)}")
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return '"' + " ".join(text.replace('"', "'").split()) + '"'


def _time(second: float) -> str:
    frames = round(second * FRAMES)
    minutes, rest = divmod(frames, 60 * FRAMES)
    return f"{minutes:02d}:{rest // FRAMES:02d}:{rest % FRAMES:02d}"
