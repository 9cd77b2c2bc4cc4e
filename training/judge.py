"""How well the listener hears takes of seeds: figures by condition, matched by mir_eval."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import mir_eval
import numpy as np

from training.played import How, Piece, Played

ONSET_S, PITCH_CENTS = 0.05, 50.0


@dataclass
class Counts:
    """Sums over takes."""

    notes: int = 0
    offered: int = 0
    right: int = 0
    right_onset: int = 0
    octaves: int = 0
    kinds: Counter[str] = field(default_factory=Counter)
    errors: list[float] = field(default_factory=list)
    sizes: list[float] = field(default_factory=list)
    said: list[tuple[float, bool]] = field(default_factory=list)

    def f(self) -> float:
        return 2 * self.right / max(1, self.notes + self.offered)

    def kind_f(self, kind: str) -> float:
        k = self.kinds
        return 2 * k[f"{kind} right"] / max(1, k[f"{kind} there"] + k[f"{kind} said"])


def count(piece: Piece, heard: list, into: Counts) -> list[tuple[Played, object]]:
    """Match what was heard with what was played; returns the pairs."""
    there = [n for n in piece.notes if not n.dead and 35 <= n.midi < 92]
    heard = [h for h in heard if not h.dead]
    into.notes += len(there)
    into.offered += len(heard)
    pairs: list[tuple[int, int]] = []
    if there and heard:
        truth = np.array([[n.onset_s, max(n.end_s, n.onset_s + 0.02)] for n in there])
        guess = np.array([[max(h.onset_s, 0), max(h.end_s, h.onset_s + 0.02)] for h in heard])
        hz = 440 * 2 ** ((np.array([n.midi for n in there]) - 69) / 12)
        own = 440 * 2 ** ((np.array([h.midi for h in heard]) - 69) / 12)
        pairs = mir_eval.transcription.match_notes(
            truth, hz, guess, own, offset_ratio=None, pitch_tolerance=PITCH_CENTS
        )
        onset_pairs = mir_eval.transcription.match_notes(
            truth, np.full(len(hz), 440.0), guess, np.full(len(own), 440.0), offset_ratio=None
        )
        into.right_onset += len(onset_pairs)
        matched = {b for _, b in pairs}
        for a, b in onset_pairs:
            if b not in matched and abs(there[a].midi - heard[b].midi) in (12, 24):
                into.octaves += 1
    into.right += len(pairs)
    right = {b for _, b in pairs}
    into.said += [(h.confidence, b in right) for b, h in enumerate(heard)]
    joined = {b: a for a, b in pairs}
    tests: dict[str, tuple[Callable[[Played], bool], Callable[[Any], bool]]] = {
        "bend": (lambda n: n.bent, lambda h: h.bend is not None),
        "slide": (lambda n: n.how is How.SLID, lambda h: h.joined == "slide"),
        "vibrato": (lambda n: n.vibrato is not None, lambda h: h.vibrato is not None),
        "legato": (lambda n: n.how in (How.HAMMERED, How.PULLED), lambda h: h.joined in ("hammer-on", "pull-off")),
        "slide-in": (lambda n: n.how is How.SLID_IN, lambda h: h.joined == "slide-in"),
        "rake": (lambda n: n.raked > 0, lambda h: h.raked > 0),
    }
    for kind, (is_there, is_said) in tests.items():
        into.kinds[f"{kind} there"] += sum(is_there(n) for n in there)
        into.kinds[f"{kind} said"] += sum(is_said(h) for h in heard)
        into.kinds[f"{kind} right"] += sum(is_there(there[a]) and is_said(heard[b]) for a, b in pairs)
    plain = [
        b for b, a in joined.items() if not there[a].bent and there[a].how is How.PICKED and there[a].vibrato is None
    ]
    into.kinds["plain"] += len(plain)
    into.kinds["plain bent"] += sum(heard[b].bend is not None for b in plain)
    for a, b in pairs:
        into.errors.append(heard[b].onset_s - there[a].onset_s)
        if there[a].bent and heard[b].bend is not None:
            into.sizes.append(abs(heard[b].bend.size_cents - max(c for _, c in there[a].course)))
    found = {a for a, _ in pairs}
    chords: dict[int, list[int]] = {}
    for a, note in enumerate(there):
        if note.chord:
            chords.setdefault(note.chord, []).append(a)
    for members in chords.values():
        if len(members) == 2:
            into.kinds["double there"] += 1
            into.kinds["double right"] += all(a in found for a in members)
    for a, note in enumerate(there):
        kind = "chord" if note.chord else "bent" if note.bent else note.how.value
        into.kinds[f"note {kind}"] += 1
        into.kinds[f"found {kind}"] += a in found
    return [(there[a], heard[b]) for a, b in pairs]


def line_of(name: str, c: Counts) -> str:
    errors = np.abs(np.array(c.errors) * 1000) if c.errors else np.zeros(1)
    sizes = np.array(c.sizes) if c.sizes else np.zeros(1)
    found = {k[5:]: f"{c.kinds['found ' + k[5:]] / n:.2f}" for k, n in c.kinds.items() if k.startswith("note ")}
    return (
        f"{name}: n {c.notes} F {c.f():.3f} (P {c.right / max(1, c.offered):.3f} R {c.right / max(1, c.notes):.3f}) "
        f"onset F {2 * c.right_onset / max(1, c.notes + c.offered):.3f} oct {c.octaves / max(1, c.offered):.4f} "
        f"| bend {c.kind_f('bend'):.2f} size {np.median(sizes):.0f}/{np.percentile(sizes, 90):.0f} false "
        f"{c.kinds['plain bent'] / max(1, c.kinds['plain']):.4f} slide {c.kind_f('slide'):.2f} vib {c.kind_f('vibrato'):.2f} "
        f"legato {c.kind_f('legato'):.2f} in {c.kind_f('slide-in'):.2f} "
        f"rake {c.kind_f('rake'):.2f} of {c.kinds['rake there']} said {c.kinds['rake said']} "
        f"| doubles {c.kinds['double right'] / max(1, c.kinds['double there']):.2f} of {c.kinds['double there']} "
        f"| onset ms {np.median(np.array(c.errors or [0])) * 1000:.1f}, {np.median(errors):.1f}/{np.percentile(errors, 90):.1f} | {found}"
    )
