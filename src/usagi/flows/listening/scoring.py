"""How well the listener hears what documents say: their notes against what it offers in their sound."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import mir_eval
import numpy as np

from usagi.core.audio import RATE_HZ, Sound, from_stored
from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument
from usagi.core.listening.heard import HeardNote, Hearing
from usagi.core.listening.hints import Hints
from usagi.core.listening.offers import Band, band_of
from usagi.core.listening.technique import Joined
from usagi.core.playing.timing import expected_seconds
from usagi.flows.listening.hearing import AROUND, SIDES, heard_in
from usagi.flows.sound.pieces import of_channels
from usagi.media.decode import decode
from usagi.media.scratch import scratch_folder

BEFORE_S, AFTER_S = 0.5, 1.0  # of the recording that is listened to around a document's notes
OCTAVES = (12, 24)
TOGETHER_S = 0.05


class SoundMissing(UsagiError):
    """A document whose sound is not in the folder."""

    code = "sound-missing"


@dataclass(frozen=True)
class Truth:
    """A note of a document: seconds, the written pitch, what is done with it."""

    onset_s: float
    end_s: float
    midi: float
    note: Note


@dataclass
class Score:
    """Counts over documents; `said` are confidences with whether they were right."""

    notes: int = 0
    offered: int = 0
    right: int = 0
    onsets_right: int = 0
    octaves: int = 0
    counts: dict[str, list[int]] = field(default_factory=dict)  # there, offered, right
    doubles: list[int] = field(default_factory=lambda: [0, 0])  # there, both found
    sizes: list[float] = field(default_factory=list)
    onsets: list[float] = field(default_factory=list)
    said: list[tuple[float, bool]] = field(default_factory=list)

    def add(self, truth: Sequence[Truth], heard: Sequence[HeardNote]) -> None:
        """Match one document's notes: onset within 50 ms and pitch within 50 cents, dead notes left out."""
        heard = [one for one in heard if not one.dead]
        self.notes += len(truth)
        self.offered += len(heard)
        pairs = matched(truth, heard)
        self.right += len(pairs)
        by_onset = matched(truth, heard, pitch=False)
        self.onsets_right += len(by_onset)
        found, offered = {a for a, _ in pairs}, {b for _, b in pairs}
        self.octaves += sum(b not in offered and abs(truth[a].midi - heard[b].midi) in OCTAVES for a, b in by_onset)
        self.said += [(one.confidence, b in offered) for b, one in enumerate(heard)]
        self.onsets += [abs(heard[b].onset_s - truth[a].onset_s) for a, b in pairs]
        self.sizes += [
            abs(50.0 * max(q for _, q in truth[a].note.course) - bend.size_cents)
            for a, b in pairs
            if truth[a].note.course and (bend := heard[b].bend) is not None
        ]
        for name, (there, said) in TECHNIQUES.items():
            row = self.counts.setdefault(name, [0, 0, 0])
            row[0] += sum(there(one.note) for one in truth)
            row[1] += sum(said(one) for one in heard)
            row[2] += sum(there(truth[a].note) and said(heard[b]) for a, b in pairs)
        for group in doubles(truth):
            self.doubles[0] += 1
            self.doubles[1] += all(a in found for a in group)

    def told(self, file: str) -> dict[str, Any]:
        """The figures as one JSON object; none where there is nothing to count."""
        return {
            "file": file,
            "notes": self.notes,
            "offered": self.offered,
            "precision": _share(self.right, self.offered),
            "recall": _share(self.right, self.notes),
            "f": _share(2 * self.right, self.notes + self.offered),
            "f_onset": _share(2 * self.onsets_right, self.notes + self.offered),
            "octave_errors": _share(self.octaves, self.offered),
            **{name: _counts(row) for name, row in self.counts.items()},
            "bend_size_cents": _spread(self.sizes, 1),
            "double_stops": {"there": self.doubles[0], "both": _share(self.doubles[1], self.doubles[0])},
            "onset_ms": _spread(self.onsets, 1_000),
            "by_confidence": [_band(band, self.said) for band in Band],
        }


TECHNIQUES: dict[str, tuple[Callable[[Note], bool], Callable[[HeardNote], bool]]] = {
    "bends": (lambda note: any(q > 0 for _, q in note.course), lambda one: one.bend is not None),
    "slides": (lambda note: note.attack.kind == "slide", lambda one: one.joined is Joined.SLID),
    "vibrato": (lambda note: note.vibrato is not None, lambda one: one.vibrato is not None),
}


def matched(truth: Sequence[Truth], heard: Sequence[HeardNote], *, pitch: bool = True) -> list[tuple[int, int]]:
    """Pairs of indices, by mir_eval: onsets within 50 ms and, unless only these count, pitches within 50 cents."""
    if not truth or not heard:
        return []
    own = np.array([[one.onset_s, max(one.end_s, one.onset_s + 0.01)] for one in truth])
    other = np.array([[max(0.0, one.onset_s), max(one.end_s, one.onset_s + 0.01)] for one in heard])
    hz = np.array([440 * 2 ** ((one.midi - 69) / 12) if pitch else 440.0 for one in truth])
    heard_hz = np.array([440 * 2 ** ((one.midi - 69) / 12) if pitch else 440.0 for one in heard])
    return list(mir_eval.transcription.match_notes(own, hz, other, heard_hz, offset_ratio=None))


def doubles(truth: Sequence[Truth]) -> list[list[int]]:
    """Pairs of notes that start together, of two strings alone."""
    groups: list[list[int]] = []
    for i in sorted(range(len(truth)), key=lambda i: truth[i].onset_s):
        if groups and truth[i].onset_s - truth[groups[-1][0]].onset_s < TOGETHER_S:
            groups[-1].append(i)
        else:
            groups.append([i])
    return [group for group in groups if len(group) == 2]


def truth_of(document: SoloDocument) -> list[Truth]:
    """The notes of a document that have a pitch, where they were heard, else where the grid expects them."""
    solo, ground = document.solo, document.ground
    edges = sorted({edge for note in solo.notes for edge in (note.tick, note.end)})
    second = dict(zip(edges, expected_seconds(solo, ground, edges), strict=True))
    found = []
    for note in solo.notes:
        midi = written_pitch(note, solo.settings)
        if midi is None:
            continue
        if note.heard is not None:
            found.append(Truth(note.heard.onset_s, note.heard.end_s, midi, note))
        else:
            found.append(Truth(second[note.tick], second[note.end], midi, note))
    return sorted(found, key=lambda one: one.onset_s)


def sounds_in(folder: Path) -> dict[str, Path]:
    """The files of a folder by the SHA-256 of their bytes."""
    found = {}
    for path in sorted(folder.rglob("*")):
        if path.is_file() and path.suffix.lower() not in (".json", ".txt"):
            with path.open("rb") as file:
                found[hashlib.file_digest(file, "sha256").hexdigest()] = path
    return found


def pcm_of(path: Path) -> Sound:
    """A sound file as it is heard: float32, shape (frames, channels), 48 kHz. Raises : SoundRefused."""
    with scratch_folder() as scratch:
        out = scratch / "pcm"
        decoded = decode(path, out, name=path.name)
        stored = np.fromfile(out, dtype="<i2").reshape(-1, decoded.channels)
    return from_stored(stored)


def hear_document(document: SoloDocument, sounds: dict[str, Path], hints: Hints) -> tuple[list[Truth], Hearing]:
    """What a document says and what is heard where it says it. Raises : SoundMissing, SoundRefused."""
    path = None if document.recording is None else sounds.get(document.recording.sha256)
    if path is None:
        raise SoundMissing(
            f"The sound of “{document.tune}” is not in the folder: none of its files has the same bytes."
        )
    truth = truth_of(document)
    if not truth:
        return [], Hearing()
    pcm = of_channels(pcm_of(path), SIDES[hints.side])
    begin = max(0, round((truth[0].onset_s - BEFORE_S) * RATE_HZ))
    end = min(len(pcm), round((max(one.end_s for one in truth) + AFTER_S) * RATE_HZ))
    first, last = begin - AROUND, end + AROUND
    part = np.pad(pcm[max(0, first) : last], ((max(0, -first), max(0, last - len(pcm))), (0, 0)))
    heard = heard_in(part, hints, document.ground.settings.offset_cents)
    return truth, heard.moved(begin / RATE_HZ)


def _share(part: float, whole: float) -> float | None:
    return None if not whole else round(part / whole, 4)


def _counts(row: Sequence[int]) -> dict[str, float | int | None]:
    there, offered, right = row
    return {"there": there, "offered": offered, "right": right, "f": _share(2 * right, there + offered)}


def _spread(values: Sequence[float], scale: float) -> dict[str, float | None]:
    if not values:
        return {"median": None, "p90": None}
    return {
        "median": round(float(np.median(values)) * scale, 1),
        "p90": round(float(np.percentile(values, 90)) * scale, 1),
    }


def _band(band: Band, said: Sequence[tuple[float, bool]]) -> dict[str, Any]:
    own = [(confidence, right) for confidence, right in said if band_of(confidence) is band]
    return {
        "band": str(band),
        "said": None if not own else round(float(np.mean([c for c, _ in own])), 4),
        "right": None if not own else round(float(np.mean([r for _, r in own])), 4),
        "notes": len(own),
    }
