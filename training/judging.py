"""Teach the second net: whether a track is a note, and how it is played. Its takes are none of the first net's.

python -m training.judging LISTENER.onnx OUT.onnx FIRST COUNT [--minutes 2]
"""

from __future__ import annotations

import argparse
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Final

import numpy as np
import soxr
import torch
from torch import nn

from training.played import How, Piece
from training.solos import invented
from training.sources import RATE_HZ
from training.takes import take
from usagi.core.listening.facts import COUNT, facts_of
from usagi.core.listening.net import load_net, said_of
from usagi.core.listening.notes import Track, tracks
from usagi.core.listening.spectrum import RATE_HZ as HEARD_HZ

SAID: Final = ("right", "bend", "vibrato", "slide", "legato", "slide-in")
NEAR_S: Final = 0.05


def truth(piece: Piece, found: list[Track]) -> np.ndarray:
    """For each track what is so of it; what is no note has nothing but that."""
    out = np.zeros((len(found), len(SAID)), np.float32)
    taken: set[int] = set()
    for note in piece.notes:
        if note.dead:
            continue
        fits = [
            (abs(track.onset_s - note.onset_s) - 0.02 * track.strength, i)
            for i, track in enumerate(found)
            if i not in taken and track.key == round(note.starts_at) and abs(track.onset_s - note.onset_s) < NEAR_S
        ]
        if not fits:
            continue
        _, i = min(fits)
        taken.add(i)
        out[i] = [1, note.bent, note.vibrato is not None, note.how is How.SLID,
                  note.how in (How.HAMMERED, How.PULLED), note.how is How.SLID_IN]  # fmt: skip
    return out


_net = None


def one(asked: tuple[str, int]) -> tuple[np.ndarray, np.ndarray]:
    global _net
    model, seed = asked
    if _net is None:
        _net = load_net(Path(model).read_bytes())
    rng = np.random.default_rng([seed, 23])
    lead_db = None if rng.random() < 0.45 else float(rng.uniform(-2, 9))
    made = take(invented(seed, busy=float(rng.choice((1.0, 2.0)))), seed=seed, lead_db=lead_db)
    line = soxr.resample(made.sound, RATE_HZ, HEARD_HZ).astype(np.float32)
    said = said_of(line, _net, cents=made.cents + float(rng.normal(0, 2)))
    found, facts = facts_of(tracks(said), said)
    return facts, truth(made.piece, found)


class Judge(nn.Module):
    """Facts as they come; what is said are logits in teaching, probabilities in what ships."""

    def __init__(self, mean: torch.Tensor, scale: torch.Tensor) -> None:
        super().__init__()
        self.register_buffer("mean", mean)
        self.register_buffer("scale", scale)
        self.body = nn.Sequential(
            nn.Linear(COUNT, 96), nn.ReLU(), nn.Dropout(0.1), nn.Linear(96, 48), nn.ReLU(), nn.Linear(48, len(SAID))
        )

    def forward(self, facts: torch.Tensor) -> torch.Tensor:
        return self.body(torch.clamp((facts - self.mean) / self.scale, -6, 6))


class Told(nn.Module):
    def __init__(self, judge: Judge) -> None:
        super().__init__()
        self.judge = judge

    def forward(self, facts: torch.Tensor) -> torch.Tensor:
        return torch.sigmoid(self.judge(facts))


def teach(facts: np.ndarray, so: np.ndarray, seed: int = 0) -> Judge:
    """Early stopping on a tenth; techniques count where there is a note."""
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    apart = rng.random(len(facts)) < 0.1
    mean, scale = facts.mean(axis=0), facts.std(axis=0) + 1e-3
    judge = Judge(torch.from_numpy(mean), torch.from_numpy(scale))
    x, y = torch.from_numpy(facts), torch.from_numpy(so)
    train, test = torch.from_numpy(np.flatnonzero(~apart)), torch.from_numpy(np.flatnonzero(apart))
    optimiser = torch.optim.AdamW(judge.parameters(), lr=1e-3, weight_decay=0.02)

    def loss(at: torch.Tensor) -> torch.Tensor:
        one = nn.functional.binary_cross_entropy_with_logits(judge(x[at]), y[at], reduction="none")
        note = y[at, :1]
        return one[:, 0].mean() + 1.5 * (one[:, 1:] * note).sum() / (note.sum() * 5 + 1)

    best, kept, since = np.inf, None, 0
    for epoch in range(120):
        judge.train()
        for part in torch.split(train[torch.randperm(len(train))], 256):
            optimiser.zero_grad()
            value = loss(part)
            value.backward()
            optimiser.step()
        judge.eval()
        with torch.no_grad():
            held = float(loss(test))
        if held < best - 1e-5:
            best, since, kept = held, 0, {k: v.clone() for k, v in judge.state_dict().items()}
        since += 1
        if since > 12:
            break
        print(f"epoch {epoch}: {held:.4f}", flush=True)
    assert kept is not None
    judge.load_state_dict(kept)
    return judge.eval()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("model")
    parser.add_argument("out", type=Path)
    parser.add_argument("first", type=int)
    parser.add_argument("count", type=int)
    asked = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        parts = list(
            pool.map(one, [(asked.model, seed) for seed in range(asked.first, asked.first + asked.count)], chunksize=4)
        )
    facts, so = (np.concatenate(one) for one in zip(*parts, strict=True))
    np.savez(asked.out.with_suffix(".npz"), facts=facts, so=so)
    print(len(facts), "tracks,", so.sum(axis=0))
    judge = teach(facts, so)
    torch.onnx.export(
        Told(judge), (torch.zeros(2, COUNT),), str(asked.out), input_names=["facts"], output_names=["said"],
        opset_version=17, dynamo=False, dynamic_axes={"facts": {0: "tracks"}, "said": {0: "tracks"}},
    )  # fmt: skip


if __name__ == "__main__":
    main()
