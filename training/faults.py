"""Faults planted in sound, and how many of them the check finds; how often it finds what is not there.

The writing is that of a take (training/documents.py); the sound is rendered from a copy of its solo in which some
notes are changed. Joins and bars are broken in the writing.

python -m training.faults [--count 40] [--first 97001] [--lead-db 6]
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
import soxr

from training.documents import document_of
from training.played import How, Piece, Played
from training.solos import invented
from training.sources import HELD_OUT, RATE_HZ
from training.spaces import SPACES
from training.takes import take
from usagi.core.checking.check import Checker, Sound
from usagi.core.checking.finding import Finding, FindingKind
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo
from usagi.core.document.techniques import HammerOn, PullOff
from usagi.core.listening.hints import Company, Hints
from usagi.core.listening.offers import Band
from usagi.flows.listening.hearing import AROUND, heard_in

SHARE: Final = 0.12  # of the notes that get a fault
STRAIGHT: Final = ("rock", "shred", "country", "ballad", "funk")  # triplets of the others are played with their swing
APART: Final = 3  # notes between two faults
K = FindingKind
COUNTED: Final = (Band.SURE, Band.LIKELY)
FOUND_AS: Final = {
    "pitch": {K.PITCH, K.OCTAVE},
    "bend": {K.BEND},
    "onset": {K.ONSET},
    "missing": {K.NOT_HEARD},  # written, and not played
    "added": {K.NOT_WRITTEN},  # played, and not written
    "join": {K.JOIN},
    "bar": {K.GAP, K.BAR},
}


@dataclass
class Counts:
    notes: int = 0
    planted: Counter[str] = field(default_factory=Counter)
    found: Counter[str] = field(default_factory=Counter)
    false: Counter[str] = field(default_factory=Counter)
    said: list[tuple[str, float, bool]] = field(default_factory=list)

    def add(self, other: Counts) -> None:
        self.notes += other.notes
        for name in ("planted", "found", "false"):
            getattr(self, name).update(getattr(other, name))
        self.said += other.said


@dataclass(frozen=True)
class Fault:
    """A kind, the tick at which it lies, and the string of its note."""

    kind: str
    tick: int
    string: int
    second: float


def planted(piece: Piece, rng: np.random.Generator) -> tuple[Piece, list[Fault]]:
    """The piece as it is played, with faults that its writing does not have."""
    notes, faults = list(piece.notes), []
    out: list[Played] = []
    since = 0
    for i, note in enumerate(notes):
        since += 1
        before, after = (notes[i - 1] if i else None), (notes[i + 1] if i + 1 < len(notes) else None)
        free = not note.dead and not note.chord and since > APART and rng.random() < 3 * SHARE
        joined = after is not None and after.how in (How.HAMMERED, How.PULLED, How.SLID)
        if not free or note.how is not How.PICKED or joined or note.end_s - note.onset_s < 0.1:
            out.append(note)
            continue
        kind = str(rng.choice(("pitch", "onset", "missing", "added", "bend")))
        if note.bent and rng.random() < 0.6:
            kind = "bend"
        made = _with_fault(kind, note, before, after, rng)
        if made is None:
            out.append(note)
            continue
        out += made
        faults.append(Fault(kind, note.tick, note.string, made[-1].onset_s if made else note.onset_s))
        since = 0
    return replace(piece, notes=tuple(sorted(out, key=lambda n: (n.onset_s, n.string)))), faults


def _with_fault(
    kind: str, note: Played, before: Played | None, after: Played | None, rng: np.random.Generator
) -> list[Played] | None:
    """What is played in the place of a note; None where the fault does not fit."""
    begin = 0.0 if before is None else before.onset_s
    end = note.end_s + 0.4 if after is None else after.onset_s
    match kind:
        case "pitch":
            midi = note.midi + int(rng.choice((-12, -3, -2, -1, 1, 2, 3, 12)))
            return [replace(note, midi=midi)] if 40 <= midi <= 88 else None
        case "onset":
            by = float(rng.choice((-1, 1)) * rng.uniform(0.06, 0.16))
            if not begin + 0.09 < note.onset_s + by < end - 0.09 or note.bent:
                return None
            return [replace(note, onset_s=note.onset_s + by, end_s=max(note.onset_s + by + 0.08, min(note.end_s, end)))]
        case "missing":
            return []
        case "added":
            at = note.onset_s + 0.5 * (end - note.onset_s)
            if after is None or end - note.onset_s < 0.24 or note.bent or note.vibrato is not None:
                return None
            other = note.midi + int(rng.choice((-5, -3, -2, 2, 3, 5)))
            extra = replace(note, onset_s=at, end_s=min(end - 0.005, at + max(0.09, 0.9 * (end - at))), midi=other)
            return [replace(note, end_s=at), extra]
        case _:
            if not note.bent:
                return None
            top = max(cents for _, cents in note.course)
            by = float(rng.choice((-1, 1)) * rng.uniform(50, 110))
            if top + by < 30:
                by = abs(by)
            course = tuple((at, cents * (top + by) / top) for at, cents in note.course)
            return [replace(note, course=course)]


def broken(solo: Solo, rng: np.random.Generator) -> tuple[Solo, list[Fault]]:
    """Joins turned round and notes cut short in the writing."""
    notes, faults = list(solo.notes), []
    last: dict[int, Note] = {}
    for i, note in enumerate(notes):
        source = last.get(note.string)
        last[note.string] = note
        kind = note.attack.kind
        if kind in ("hammer-on", "pull-off") and source is not None and rng.random() < 0.3:
            turned = PullOff() if kind == "hammer-on" else HammerOn()
            notes[i] = note.model_copy(update={"attack": turned})
            faults.append(Fault("join", note.tick, note.string, 0.0))
        elif (
            kind == "picked" and not note.course and note.stack is None and note.ticks >= 5_040 and rng.random() < 0.05
        ):
            notes[i] = note.model_copy(update={"ticks": note.ticks // 2, "vibrato": None})
            faults.append(Fault("bar", note.tick, note.string, 0.0))
    return solo.model_copy(update={"notes": tuple(notes)}), faults


def one(asked: tuple[int, float | None, str, bool, bool]) -> Counts:
    seed, lead_db, space, clean, tell = asked
    rng = np.random.default_rng([seed, 53])
    piece = invented(seed, kind="line", bars=8, style=str(rng.choice(STRAIGHT)))
    if all(note.dead for note in piece.notes):
        return Counts()
    made = take(piece, seed=seed, guitar=HELD_OUT[seed % len(HELD_OUT)], lead_db=lead_db, space=SPACES[space])
    document = document_of(made, "0" * 64)
    plain = document.solo.notes
    solo = document.solo.model_copy(update={"notes": tuple(n.model_copy(update={"heard": None}) for n in plain)})
    whole = Checker().check(solo, document.ground, Sound())
    there = {finding.id for finding in whole.findings}
    faults: list[Fault] = []
    if not clean:
        played, faults = planted(piece, rng)
        made = take(played, seed=seed, guitar=HELD_OUT[seed % len(HELD_OUT)], lead_db=lead_db, space=SPACES[space])
        solo, own = broken(solo, rng)
        faults += own
    sound = soxr.resample(made.sound, RATE_HZ, 48_000).astype(np.float32)
    hints = Hints(company=Company.BAND if lead_db is not None else Company.ALONE)
    hearing = heard_in(np.pad(sound, AROUND)[:, None], hints, round(made.cents, 1) or 0.1)
    seconds = len(sound) / 48_000
    checked = Checker().check(solo, document.ground, Sound(((0.0, seconds),), hearing, banded=lead_db is not None))
    counts = Counts(notes=len(solo.notes))
    used: set[str] = set()
    open_findings = [finding for finding in checked.findings if finding.id not in there]
    for fault in faults:
        counts.planted[fault.kind] += 1
        meant = [f for f in open_findings if _meant(f, fault, document.ground.grid.second)]
        used |= {f.id for f in meant}
        right = [f for f in meant if f.kind in FOUND_AS[fault.kind] and f.band in COUNTED]
        counts.found[fault.kind] += bool(right)
        other = [f for f in meant if f.band in COUNTED]
        counts.found[f"{fault.kind}, some finding"] += bool(other)
        if tell and not right and fault.kind not in ("join", "bar"):
            print(seed, fault, [(str(f.kind), round(f.confidence, 2), f.says) for f in meant], flush=True)
    for finding in open_findings:
        counts.said.append((str(finding.kind), finding.confidence, finding.id in used))
        if finding.id not in used and finding.band in COUNTED:
            counts.false[str(finding.kind)] += 1
            if tell:
                print(
                    seed, "false:", finding.kind, finding.tick, round(finding.confidence, 2), finding.says, flush=True
                )
    return counts


def _meant(finding: Finding, fault: Fault, second: Callable[[float], float]) -> bool:
    """Whether a finding speaks of the place of a fault: its note, or the moment."""
    if fault.kind == "bar" and finding.kind in FOUND_AS["bar"] and abs(finding.tick - fault.tick) < 40_320:
        return True
    if any(one == f"n{fault.tick}-{fault.string}" for one in finding.notes):
        return True
    at = finding.heard.onset_s if finding.heard is not None else second(finding.tick)
    return fault.kind != "join" and not finding.notes and abs(at - fault.second) < 0.12


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--first", type=int, default=97_001)
    parser.add_argument("--lead-db", type=float)
    parser.add_argument("--space", choices=list(SPACES), default="dry")
    parser.add_argument("--clean", action="store_true", help="plant nothing: false alarms alone")
    parser.add_argument(
        "--tell", action="store_true", help="print every fault that is not found, with what is said there"
    )
    parser.add_argument("--processes", type=int, default=2)
    asked = parser.parse_args()
    every = Counts()
    seeds = range(asked.first, asked.first + asked.count)
    with ProcessPoolExecutor(asked.processes) as pool:
        for counts in pool.map(
            one, [(seed, asked.lead_db, asked.space, asked.clean, asked.tell) for seed in seeds], chunksize=2
        ):
            every.add(counts)
    print(f"{every.notes} notes, {sum(every.planted.values())} faults")
    for kind, count in every.planted.items():
        print(
            f"  {kind}: {every.found[kind]} of {count} ({every.found[kind] / count:.1%}), "
            f"with another finding there {every.found[f'{kind}, some finding'] / count:.1%}"
        )
    false = sum(every.false.values())
    print(f"  false: {false} ({100 * false / max(1, every.notes):.2f} in 100 notes): {dict(every.false)}")
    for kind in sorted({k for k, _, _ in every.said}):
        for band, low, high in (("sure", 0.96, 1.1), ("likely", 0.75, 0.96), ("guess", 0.0, 0.75)):
            own = [(c, r) for k, c, r in every.said if k == kind and low <= c < high]
            if own:
                said, right = np.mean([c for c, _ in own]), np.mean([r for _, r in own])
                print(f"  {kind} {band}: {len(own)}, said {said:.2f}, right {right:.2f}")


if __name__ == "__main__":
    main()
