"""Chords that a span of sound suggests: its twelve pitch classes against those of plain chords, and its bass.

Only what a listener tells apart in a band is offered: major, minor, dominant, minor seventh, major seventh,
half-diminished and power chords. Other chords are left to the ear.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import soxr
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.audio.spectra import tones
from usagi.core.audio.vocoder import Report, unreported

Line = NDArray[np.float64]

HEARD_HZ: Final = 22_050
HOP: Final = 1_024
LOWEST_MIDI, BASS_OCTAVES, OCTAVES = 28, 2, 6
SHARPNESS: Final = 14.0  # how quickly belief falls with a worse likeness
BASS_WEIGHT: Final = 0.25
CLEARLY_TWO: Final = 1.6  # times one: then two are put in the place of one
LEAST_BELIEF: Final = 0.25  # of a chord that is offered where it stands
RARE: Final = {"5": 0.06, "m7b5": 0.04}  # what a chord seldom met must fit better by
LOWEST_OF_CHORD: Final = 48 - LOWEST_MIDI  # below lies the bass alone
QUALITIES: Final = {
    "": (0, 4, 7),
    "m": (0, 3, 7),
    "7": (0, 4, 7, 10),
    "m7": (0, 3, 7, 10),
    "maj7": (0, 4, 7, 11),
    "m7b5": (0, 3, 6, 10),
    "5": (0, 7),
}


@dataclass(frozen=True, slots=True)
class ChordHeard:
    """A chord: pitch class of its root, the sign of its quality, and belief, 0 to 1."""

    root: int
    quality: str
    belief: float


def hear_chords(
    sound: Sound, spans_s: Sequence[tuple[float, float]], *, cents: float = 0.0, report: Report = unreported
) -> list[list[ChordHeard]]:
    """For every span of seconds the likeliest chord and two runners-up.

    Parameters
    ----------
    sound : float32, shape (frames, channels), at 48 kHz.
    spans_s : start and end of each span, in seconds from the first frame; what lies outside the sound is silence.
    cents : how far the recording lies off, heard minus nominal.
    report : called with the share that is done, 0 to 1.

    Returns : a list for each span, likeliest first; beliefs add up to 1 at most. Empty where nothing has a pitch.
    """
    line = np.asarray(soxr.resample(sound.mean(axis=1), RATE_HZ, HEARD_HZ), dtype=np.float32)
    report(0.1)
    per_semitone = 3
    loudness = tones(
        line,
        rate_hz=HEARD_HZ,
        hop=HOP,
        lowest_hz=440 * 2 ** ((LOWEST_MIDI - 69 + cents / 100) / 12),
        count=12 * OCTAVES * per_semitone,
        per_octave=12 * per_semitone,
    )
    report(0.8)
    by_semitone = loudness.reshape(12 * OCTAVES, per_semitone, -1)
    middle = by_semitone[:, 0] + 0.5 * (by_semitone[:, 1] + np.roll(by_semitone[:, 2], 1, axis=0))
    found = []
    for start_s, end_s in spans_s:
        first = int(np.ceil(max(0.0, start_s) * HEARD_HZ / HOP))
        last = max(first + 1, int(end_s * HEARD_HZ / HOP))
        found.append(_likeliest(middle[:, first:last]))
    report(1.0)
    return found


def worth_offering(likely: Sequence[ChordHeard]) -> ChordHeard | None:
    """Of what was heard in a span, likeliest first, the chord to offer in its place; none where nothing is believed.

    >>> worth_offering([ChordHeard(9, "m7", 0.6), ChordHeard(0, "", 0.2)])
    ChordHeard(root=9, quality='m7', belief=0.6)
    >>> worth_offering([ChordHeard(9, "m7", 0.12)]) is None
    True
    """
    return likely[0] if likely and likely[0].belief >= LEAST_BELIEF else None


def two_in_bar(
    whole: Sequence[ChordHeard],
    first: Sequence[ChordHeard],
    second: Sequence[ChordHeard],
    *,
    margin: float = 1.0,
) -> tuple[ChordHeard, ChordHeard, float] | None:
    """The chords of the halves of a bar and the belief in both, where they are believed more than one for the whole.

    Parameters
    ----------
    whole, first, second : what was heard in the bar and in its halves, likeliest first.
    margin : how many times the belief in one chord the belief in two must be.

    >>> a, d, c = ChordHeard(9, "7", 0.5), ChordHeard(2, "7", 0.6), ChordHeard(0, "", 0.3)
    >>> two_in_bar([c], [a], [d])[2]
    0.55
    >>> two_in_bar([a], [a], [a]) is None
    True
    """
    if not first or not second or first[0].root == second[0].root:
        return None
    belief = round(float(np.sqrt(first[0].belief * second[0].belief)), 2)
    if belief < LEAST_BELIEF or (whole and margin * whole[0].belief > belief):
        return None
    return first[0], second[0], belief


def _likeliest(loudness: NDArray[np.floating]) -> list[ChordHeard]:
    """Shape (semitones, frames) from the lowest on."""
    if loudness.shape[1] == 0 or float(loudness.max(initial=0.0)) < 1e-4:
        return []
    steady = np.log1p(20 * loudness / (loudness.max() + 1e-9)).mean(axis=1)
    classes = (np.arange(len(steady)) + LOWEST_MIDI) % 12
    chroma = np.bincount(classes[LOWEST_OF_CHORD:], steady[LOWEST_OF_CHORD:], 12)
    bass = np.bincount(classes[: 12 * BASS_OCTAVES], steady[: 12 * BASS_OCTAVES], 12)
    chroma, bass = (line / (np.linalg.norm(line) + 1e-9) for line in (chroma, bass))
    scores = {}
    for root in range(12):
        for quality, slots in QUALITIES.items():
            shape = np.zeros(12)
            shape[[(root + slot) % 12 for slot in slots]] = 1 / np.sqrt(len(slots))
            fit = float(chroma @ shape)
            scores[root, quality] = fit + BASS_WEIGHT * float(bass[root]) - RARE.get(quality, 0.0)
    best = sorted(scores, key=lambda chord: -scores[chord])
    top = scores[best[0]]
    total = sum(np.exp(SHARPNESS * (score - top)) for score in scores.values())
    return [ChordHeard(*c, belief=round(float(np.exp(SHARPNESS * (scores[c] - top)) / total), 2)) for c in best[:3]]
