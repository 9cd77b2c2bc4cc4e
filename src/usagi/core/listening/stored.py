"""What was heard as JSON and back: what is kept of it, in seconds of the recording."""

from __future__ import annotations

from dataclasses import astuple
from typing import Any

import numpy as np

from usagi.core.listening.heard import Faint, HeardNote, Hearing
from usagi.core.listening.technique import BendHeard, Joined, Judged, VibratoHeard


def to_stored(heard: Hearing) -> dict[str, Any]:
    """What was heard as JSON values; curves in whole cents.

    >>> one = HeardNote(0.5, 1.0, 69, 0.9, Joined.PICKED, None, None, np.array([0.0, 1.4]))
    >>> back = from_stored(to_stored(Hearing((one,), (Faint(0.7, 64, 0.1),))))
    >>> back.notes[0].onset_s, back.notes[0].cents.tolist(), back.faint[0].midi
    (0.5, [0.0, 1.0], 64)
    """
    return {
        "notes": [_note_to_stored(note) for note in heard.notes],
        "faint": [[round(one.onset_s, 4), one.midi, round(one.confidence, 3)] for one in heard.faint],
    }


def from_stored(value: dict[str, Any]) -> Hearing:
    """The inverse of `to_stored`."""
    faint = tuple(Faint(float(onset), int(midi), float(sure)) for onset, midi, sure in value["faint"])
    return Hearing(tuple(_note_from_stored(one) for one in value["notes"]), faint)


def _note_to_stored(note: HeardNote) -> dict[str, Any]:
    judged = note.judged
    return {
        "onset_s": round(note.onset_s, 4),
        "end_s": round(note.end_s, 4),
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
        "judged": None if judged is None else [round(chance, 3) for chance in astuple(judged)],
    }


def _note_from_stored(value: dict[str, Any]) -> HeardNote:
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
        judged=None if value["judged"] is None else Judged(*map(float, value["judged"])),
    )
