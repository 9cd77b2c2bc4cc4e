"""The key that a row of chords suggests: for their spelling where nobody has said it yet."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from usagi.core.pitch.keys import Key, Mode
from usagi.core.pitch.names import parse_name

# Tonics as they are written with the fewest accidentals.
MAJOR: Final = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
MINOR: Final = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "G#", "A", "Bb", "B")
KEYS: Final = tuple(
    Key(parse_name(name), mode) for mode, names in ((Mode.MAJOR, MAJOR), (Mode.MINOR, MINOR)) for name in names
)
TONIC: Final = 0.5  # of a chord, for each that stands on the tonic and has its third
FRAME: Final = 0.5  # of a chord, for the first and for the last when they are the tonic's


def key_of_chords(chords: Iterable[tuple[int, tuple[int, ...]]]) -> Key | None:
    """The major or minor key to which most tones of some chords belong; what stands on its tonic counts more.

    A seventh above the root of a dominant belongs to no key's judgement: a blues is in the key of its first chord.

    Parameters
    ----------
    chords : pitch class of the root and its tones in half steps above it, in order.

    Returns : None when there are no chords.

    >>> str(key_of_chords([(10, (0, 4, 7, 10)), (3, (0, 4, 7, 10)), (10, (0, 4, 7, 10)), (5, (0, 4, 7, 10))]))
    'Bb major'
    >>> str(key_of_chords([(7, (0, 3, 7)), (0, (0, 3, 7, 10)), (2, (0, 4, 7, 10)), (7, (0, 3, 7))]))
    'G minor'
    """
    row = [(root, tuple(tone for tone in tones if not (tone == 10 and 4 in tones))) for root, tones in chords]
    if not row:
        return None

    def score(key: Key) -> float:
        own, tonic, third = key.pitch_classes, key.tonic.pitch_class, 3 if key.is_minor else 4
        inside = sum(sum((root + tone) % 12 in own for tone in tones) / len(tones) for root, tones in row)
        on_tonic = [root == tonic and third in tones for root, tones in row]
        return inside + TONIC * sum(on_tonic) + FRAME * (on_tonic[0] + on_tonic[-1])

    return max(KEYS, key=score)
