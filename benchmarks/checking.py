"""The check: how long a solo of 2,000 notes takes that has been listened to, whole and after one edit."""

from __future__ import annotations

import time
from collections.abc import Iterable

import numpy as np

from benchmarks.figures import Figure
from benchmarks.fingering import best_of
from benchmarks.solos import big_solo
from usagi.core.checking.check import Checker, Sound
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo
from usagi.core.listening.heard import Faint, HeardNote, Hearing
from usagi.core.listening.spectrum import FRAMES_PER_S
from usagi.core.listening.technique import Joined, Judged
from usagi.core.playing.timing import expected_seconds

FAINT = 3  # for each note
EDITS = 20


def heard_of(solo: Solo, ground: Ground, rng: np.random.Generator) -> Sound:
    """As it is written, by a player who is some milliseconds loose; and much that is faint."""
    edges = [tick for note in solo.notes for tick in (note.tick, note.end)]
    seconds = expected_seconds(solo, ground, edges)
    notes, faint = [], []
    judged = Judged(0.98, 0.02, 0.02, 0.02, 0.02, 0.02)
    for i, note in enumerate(solo.notes):
        pitch = written_pitch(note, solo.settings)
        if pitch is None:
            continue
        begin, end = seconds[2 * i] + float(rng.normal(0, 0.008)), seconds[2 * i + 1]
        frames = max(4, round((end - begin) * FRAMES_PER_S))
        curve = rng.normal(0, 4, frames)
        notes.append(
            HeardNote(
                begin, max(end, begin + 0.05), round(pitch), 0.98, Joined.PICKED, None, None, curve, judged=judged
            )
        )
        faint += [Faint(begin + float(rng.uniform(0, 0.3)), int(rng.integers(40, 85)), 0.05) for _ in range(FAINT)]
    hearing = Hearing(
        tuple(sorted(notes, key=lambda one: (one.onset_s, one.midi))), tuple(sorted(faint, key=lambda one: one.onset_s))
    )
    return Sound(((0.0, max(seconds) + 2),), hearing)


def figures() -> Iterable[Figure]:
    document = big_solo(2_000)
    solo, ground = document.solo, document.ground
    sound = heard_of(solo, ground, np.random.default_rng(5))
    yield Figure(
        "check of 2,000 notes that were listened to, whole",
        best_of(lambda: Checker().check(solo, ground, sound)), "ms", goal=500,
    )  # fmt: skip
    checker = Checker()
    checker.check(solo, ground, sound)
    places = np.linspace(10, len(solo.notes) - 10, EDITS).astype(int)
    spent = []
    for at in places:
        note = solo.notes[int(at)]
        changed = note.model_copy(update={"accent": not note.accent})
        solo = solo.model_copy(update={"notes": (*solo.notes[: int(at)], changed, *solo.notes[int(at) + 1 :])})
        begin = time.perf_counter()
        checker.check(solo, ground, sound)
        spent.append(1_000 * (time.perf_counter() - begin))
    yield Figure("the same after one edit, median of 20", float(np.median(spent)), "ms", goal=30)
