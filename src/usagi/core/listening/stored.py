"""Heard notes as JSON and back: what is kept of them, in seconds of the recording."""

from __future__ import annotations

from typing import Any

import numpy as np

from usagi.core.listening.heard import HeardNote
from usagi.core.listening.technique import BendHeard, Joined, VibratoHeard


def to_stored(note: HeardNote, at_s: float = 0.0) -> dict[str, Any]:
    """A note as JSON values, moved by some seconds; its curve in whole cents.

    >>> one = HeardNote(0.5, 1.0, 69, 0.9, Joined.PICKED, None, None, np.array([0.0, 1.4]))
    >>> from_stored(to_stored(one, 2.0)).onset_s
    2.5
    """
    return {
        "onset_s": round(note.onset_s + at_s, 4),
        "end_s": round(note.end_s + at_s, 4),
        "midi": note.midi,
        "confidence": round(note.confidence, 4),
        "joined": str(note.joined),
        "bend": None if note.bend is None else [[round(at, 4), round(cents, 1)] for at, cents in note.bend.points],
        "vibrato": None
        if note.vibrato is None
        else [round(note.vibrato.start_s, 4), round(note.vibrato.width_cents, 1), round(note.vibrato.rate_hz, 2)],
        "cents": [round(float(cents)) for cents in note.cents],
        "others": list(note.others),
        "dead": note.dead,
        "rings": note.rings,
        "slid": [note.slid_from, round(note.slid_s, 4)],
        "raked": note.raked,
    }


def from_stored(value: dict[str, Any]) -> HeardNote:
    """The inverse of `to_stored`."""
    bend, vibrato = value["bend"], value["vibrato"]
    return HeardNote(
        onset_s=value["onset_s"],
        end_s=value["end_s"],
        midi=value["midi"],
        confidence=value["confidence"],
        joined=Joined(value["joined"]),
        bend=None if bend is None else BendHeard(tuple((float(at), float(cents)) for at, cents in bend)),
        vibrato=None if vibrato is None else VibratoHeard(*map(float, vibrato)),
        cents=np.array(value["cents"], dtype=np.float64),
        others=tuple(value["others"]),
        dead=value["dead"],
        rings=value["rings"],
        slid_from=value["slid"][0],
        slid_s=value["slid"][1],
        raked=value["raked"],
    )
