"""The listener: sound and a teacher's hints in, heard notes out. When it hears otherwise its number rises."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Final

import numpy as np
from numpy.typing import NDArray

from usagi.core.audio import Sound
from usagi.core.audio.tuning_offset import PERHAPS, measure_offset
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.listening.facts import Judge
from usagi.core.listening.heard import Hearing, hear_notes
from usagi.core.listening.hints import Hints
from usagi.core.listening.net import AROUND_S, Net, Said, said_of
from usagi.core.listening.spectrum import FRAMES_PER_S, HOP, RATE_HZ, Line, loudness

LISTENER: Final = 2
PIECE_S: Final = 12.0  # looked at at once, so that a long span takes little memory and can be left
EARLY_S: Final = 0.06  # a note that begins so shortly before the span belongs to it


@dataclass(frozen=True)
class Nets:
    """The two nets of a listener."""

    net: Net
    judge: Judge


def listen(
    line: Line, nets: Nets, hints: Hints = Hints(), *, cents: float = 0.0, report: Report = unreported
) -> Hearing:
    """The notes that begin in a span; seconds count from its start.

    Parameters
    ----------
    line : float32, one channel at 22,050 Hz: the span with `AROUND_S` of sound, or silence, on both sides.
    nets : what looks at its spectra, and what judges.
    hints : what the teacher says of it.
    cents : how far the recording lies above A = 440; within half a semitone unless the teacher says so.
    report : called with the share that is done, 0 to 1.
    """
    around = round(AROUND_S * FRAMES_PER_S)
    length_s = len(line) / RATE_HZ - 2 * around * HOP / RATE_HZ
    said = _said(line, nets.net, cents + hints.cents, around, report)
    return hear_notes(said, nets.judge, hints).moved(-around / FRAMES_PER_S).between(-EARLY_S, length_s)


def _said(line: Line, net: Net, cents: float, around: int, report: Report) -> Said:
    """What the net says of a whole line, looked at in pieces that overlap by what an answer rests on."""
    loud = loudness(line)
    total = 1 + len(line) // HOP
    step = round(PIECE_S * FRAMES_PER_S)
    parts: list[Said] = []
    for first in range(0, total, step):
        last = min(total, first + step)
        begin, end = max(0, first - around), min(total, last + around)
        said = said_of(line[begin * HOP : end * HOP], net, cents=cents, loud=loud)
        parts.append(said.cut(first - begin, last - begin))
        report(last / total)
    return parts[0] if len(parts) == 1 else _joined(parts)


def _joined(parts: list[Said]) -> Said:
    return Said(**{f.name: np.concatenate([getattr(part, f.name) for part in parts], axis=-1) for f in fields(Said)})


def offset_of(sound: Sound, stated_cents: float) -> float:
    """How far a span lies above A = 440: as stated for its recording, else as it is measured where that agrees.

    Parameters
    ----------
    sound : float32, shape (frames, channels), 48 kHz.
    stated_cents : of the recording; 0 where nobody said.
    """
    if stated_cents:
        return stated_cents
    found = measure_offset(sound) if sound.size else None
    return found.cents if found is not None and found.agreement >= PERHAPS else 0.0


def span_line(line: NDArray[np.float32], start: int, end: int) -> Line:
    """Samples `[start, end)` of a line at 22,050 Hz with what a span needs around it, silence where there is none."""
    around = round(AROUND_S * FRAMES_PER_S) * HOP
    first, last = start - around, end + around
    part = line[max(0, first) : max(0, last)]
    return np.pad(part, (max(0, -first), max(0, last - first - max(0, -first) - len(part)))).astype(np.float32)
