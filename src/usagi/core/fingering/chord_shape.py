"""A chord under the hand: the tones of the chart's chord that a position has, one a string."""

from __future__ import annotations

from itertools import product

from usagi.core.document.solo import SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.fretboard.places import open_pitch
from usagi.core.harmony.heard import Heard

REACH = 4  # frets of a position that a chord is held in
FEWEST = 3  # strings


class NoShape(UsagiError):
    """A chord that a position does not have."""

    code = "no-shape"


def chord_shape(heard: Heard, position: int, settings: SoloSettings) -> list[tuple[int, int]]:
    """Strings and frets of a chord held from a position (0: with open strings), the thickest string first.

    Third and seventh (or sixth) come first, then the root in the bass, then strings without a gap. Raises : NoShape.

    Parameters
    ----------
    heard : the chord.
    position : fret of the first finger; 0 for one with open strings.
    settings : of the solo's strings.
    """
    slots = {(heard.root.pitch_class + slot) % 12: slot for slot in heard.core}
    strings = range(len(settings.tuning), 0, -1)
    last = settings.last_fret - settings.capo
    choices: list[list[tuple[int, int, int] | None]] = []
    for string in strings:
        opened = open_pitch(string, settings.tuning, settings.capo)
        frets = range(max(0, position), min(last, position + REACH - 1) + 1)
        found = [(string, fret, slots[(opened + fret) % 12]) for fret in frets if (opened + fret) % 12 in slots]
        choices.append([None, *found])
    best: tuple[float, list[tuple[int, int]]] = (0.0, [])
    for combination in product(*choices):
        held = [one for one in combination if one is not None]
        if len(held) < FEWEST:
            continue
        score = _score(held, heard)
        if score > best[0]:
            best = score, [(string, fret) for string, fret, _ in held]
    if not best[1]:
        raise NoShape(f"No three tones of this chord lie under the hand at fret {position}.", position=position)
    return best[1]


def _score(held: list[tuple[int, int, int]], heard: Heard) -> float:
    tones = {slot for _, _, slot in held}
    wanted = [slot for slot in (heard.third, heard.seventh, 9 if heard.sixth else None) if slot is not None]
    frets = [fret for _, fret, _ in held if fret > 0]
    if sum(fret > min(frets, default=0) for fret in frets) > 3:
        return 0.0  # one finger lies over the lowest fret, three are left
    gaps = held[0][0] - held[-1][0] + 1 - len(held)
    root = 2.0 if held[0][2] == 0 else 0.0
    return 3.0 * sum(slot in tones for slot in wanted) + root + 0.6 * len(tones) + 0.4 * len(held) - 1.0 * gaps
