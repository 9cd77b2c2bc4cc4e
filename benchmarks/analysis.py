"""The analysis: how long a solo of 2,000 notes over 400 bars takes, whole and after one edit."""

from __future__ import annotations

import time
from collections.abc import Iterable

import numpy as np

from benchmarks.figures import Figure
from benchmarks.fingering import best_of
from benchmarks.solos import big_solo
from usagi.core.degrees.solo_readings import readings
from usagi.core.phrases.analysis import analyse

EDITS = 20


def figures() -> Iterable[Figure]:
    document = big_solo(2_000, 400, 0.2)
    solo, ground = document.solo, document.ground
    phrases = f"{len(solo.phrases)} phrases"
    labels = best_of(lambda: readings(solo, ground))
    yield Figure(
        "2,000 notes over 400 bars read completely, best of 5",
        best_of(lambda: analyse(solo, ground)),
        "ms",
        goal=400,
        baseline=f"{phrases}; labels and roles alone {labels:.0f} ms",
    )
    read = analyse(solo, ground)
    roles, rest = [], []
    for at in np.linspace(10, len(solo.notes) - 10, EDITS).astype(int):
        note = solo.notes[int(at)]
        changed = note.model_copy(update={"fret": (note.fret or 0) + 100})
        solo = solo.model_copy(update={"notes": (*solo.notes[: int(at)], changed, *solo.notes[int(at) + 1 :])})
        begin = time.perf_counter()
        readings(solo, ground, before=read.readings)
        told = time.perf_counter()
        read = analyse(solo, ground, before=read)
        roles.append(1_000 * (told - begin))
        rest.append(1_000 * (time.perf_counter() - told))
    yield Figure("roles after one edit, median of 20", float(np.median(roles)), "ms", goal=30)
    yield Figure("readings, relations and motifs after it, median of 20", float(np.median(rest)), "ms", goal=30)
