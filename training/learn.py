"""Teach a net from gathered takes, and write it as ONNX.

python -m training.learn FOLDER OUT.onnx [--lite] [--minutes 20] [--from WEIGHTS.pt]
"""

from __future__ import annotations

import argparse
import time
from pathlib import Path
from typing import Any, Final

import numpy as np
import torch
from torch import Tensor
from torch.nn.functional import binary_cross_entropy_with_logits as cross_entropy

from training.labels import HEADS
from training.net import Listener

CROP: Final = 512
BATCH: Final = 4
WEIGHT: Final = {"onset": 3.0, "legato": 4.0, "frame": 1.5, "vibrato": 3.0, "bend": 3.0, "glide": 5.0}
SHARE: Final = {"onset": 3.0, "legato": 1.0, "frame": 1.0, "vibrato": 0.7, "bend": 0.7, "glide": 0.7}
LITE: Final[dict[str, Any]] = {"fine": 16, "wide": 32, "narrow": 16, "apart": (1, 2, 4, 8, 2)}


class Takes:
    """Gathered takes in memory; a batch is some crops of them."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.takes: list[dict[str, Tensor]] = []
        self.known: set[Path] = set()
        self.look()

    def look(self) -> None:
        """Take in what has been gathered since."""
        for path in sorted(self.folder.glob("*.npz"), key=lambda path: int(path.stem)):
            if path in self.known or time.time() - path.stat().st_mtime < 5:
                continue
            self.known.add(path)
            with np.load(path) as stored:
                self.takes.append(
                    {name: torch.from_numpy(stored[name]) for name in ("spectra", "heads", "contour", "dead")}
                )

    def batch(self, rng: np.random.Generator) -> dict[str, Tensor]:
        picked: dict[str, list[Tensor]] = {"spectra": [], "heads": [], "contour": [], "dead": []}
        for index in rng.integers(len(self.takes), size=BATCH):
            one = self.takes[int(index)]
            frames = one["dead"].shape[0]
            first = int(rng.integers(0, max(1, frames - CROP + 1)))
            for name, parts in picked.items():
                part = one[name][..., first : first + CROP].float()
                if part.shape[-1] < CROP:
                    part = torch.nn.functional.pad(part, (0, CROP - part.shape[-1]))
                parts.append(part)
        whole = {name: torch.stack(parts) for name, parts in picked.items()}
        spectra = whole["spectra"]
        level = torch.from_numpy(rng.uniform(-0.12, 0.06, (BATCH, 1, 1, 1)).astype(np.float32))
        whole["spectra"] = torch.relu(spectra + level * (spectra > 0.02))
        return whole


def loss_of(net: Listener, batch: dict[str, Tensor]) -> tuple[Tensor, dict[str, float]]:
    with torch.autocast("cpu", dtype=torch.bfloat16):
        heads, contour, dead = net(batch["spectra"].contiguous(memory_format=torch.channels_last))
    heads, contour, dead = heads.float(), contour.float(), dead.float()
    total, parts = torch.zeros(()), {}
    for i, name in enumerate(HEADS):
        one = cross_entropy(heads[:, i], batch["heads"][:, i], pos_weight=torch.tensor(WEIGHT[name]))
        parts[name] = float(one.detach())
        total = total + SHARE[name] * one
    lines = cross_entropy(contour, batch["contour"], pos_weight=torch.tensor(2.0))
    dull = cross_entropy(dead, batch["dead"], pos_weight=torch.tensor(5.0))
    parts |= {"contour": float(lines.detach()), "dead": float(dull.detach())}
    return total + 2.0 * lines + 0.05 * dull, parts


def teach(
    folder: Path, out: Path, *, minutes: float, lite: bool, begin: Path | None, seed: int = 0, rate: float = 2e-3
) -> None:
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    net = Listener(**LITE) if lite else Listener()
    if begin is not None:
        net.load_state_dict(torch.load(begin))
    net = net.to(memory_format=torch.channels_last)
    takes = Takes(folder)
    optimiser = torch.optim.AdamW(net.parameters(), lr=rate, weight_decay=1e-3)
    started, step = time.monotonic(), 0
    running: dict[str, float] = {}
    while (spent := (time.monotonic() - started) / 60) < minutes:
        share = spent / minutes
        for group in optimiser.param_groups:
            group["lr"] = rate * min(1.0, (step + 1) / 200) * (0.5 * (1 + np.cos(np.pi * share)) * 0.98 + 0.02)
        loss, parts = loss_of(net, takes.batch(rng))
        optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 1.0)
        optimiser.step()
        running = {name: 0.98 * running.get(name, value) + 0.02 * value for name, value in parts.items()}
        step += 1
        if step % 200 == 0:
            print(
                f"{spent:5.1f} min, step {step}: " + ", ".join(f"{k} {v * 1000:.2f}" for k, v in running.items()),
                flush=True,
            )
            torch.save(net.state_dict(), out.with_suffix(".pt"))
            takes.look()
    torch.save(net.state_dict(), out.with_suffix(".pt"))
    export(net, out)


class _Said(torch.nn.Module):
    """Logits as probabilities, for what ships."""

    def __init__(self, net: Listener) -> None:
        super().__init__()
        self.net = net

    def forward(self, spectra: Tensor) -> tuple[Tensor, Tensor, Tensor]:
        heads, contour, dead = self.net(spectra)
        return torch.sigmoid(heads), torch.sigmoid(contour), torch.sigmoid(dead)


def export(net: Listener, out: Path) -> None:
    """Any number of frames goes in."""
    net = net.to(memory_format=torch.contiguous_format).eval()
    torch.onnx.export(
        _Said(net), (torch.zeros(1, 2, 315, 200),), str(out), input_names=["spectra"],
        output_names=["heads", "contour", "dead"], opset_version=17, dynamo=False,
        dynamic_axes={"spectra": {3: "frames"}, "heads": {3: "frames"}, "contour": {2: "frames"}, "dead": {1: "frames"}},
    )  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--lite", action="store_true")
    parser.add_argument("--minutes", type=float, default=20.0)
    parser.add_argument("--begin", type=Path)
    parser.add_argument("--rate", type=float, default=2e-3)
    asked = parser.parse_args()
    teach(asked.folder, asked.out, minutes=asked.minutes, lite=asked.lite, begin=asked.begin, rate=asked.rate)


if __name__ == "__main__":
    main()
