"""The net: harmonics laid over each other, convolutions over thirds of semitones, then over keys and time."""

from __future__ import annotations

from typing import Final

import torch
from torch import Tensor, nn

from training.labels import HEADS, KEYS, PER_KEY

BELOW: Final = 36
PITCHES: Final = KEYS * PER_KEY
# Shifts in bins of the harmonics ½ 1 2 3 4 5 6 8 of the long spectrum, 1 2 3 4 6 of the short.
LONG_SHIFTS: Final = (-36, 0, 36, 57, 72, 84, 93, 108)
SHORT_SHIFTS: Final = (0, 36, 57, 72, 93)


class Block(nn.Module):
    """Over time at some distance, then over keys; what it finds is added."""

    def __init__(self, wide: int, narrow: int, apart: int) -> None:
        super().__init__()
        self.time = nn.Conv2d(wide, narrow, 3, padding=(1, apart), dilation=(1, apart))
        self.calm = nn.BatchNorm2d(narrow)
        self.keys = nn.Conv2d(narrow, wide, (13, 1), padding=(6, 0))
        self.calmed = nn.BatchNorm2d(wide)

    def forward(self, x: Tensor) -> Tensor:
        return torch.relu(x + self.calmed(self.keys(torch.relu(self.calm(self.time(x))))))


class Listener(nn.Module):
    """`fine` and `wide` channels; the heads come out as logits: (batch, 6, keys, frames), contour, dead.

    The block that looks 32 frames away sees .66 s either way: as far as the string that a long echo comes from.
    """

    def __init__(
        self, fine: int = 32, wide: int = 64, narrow: int = 32, apart: tuple[int, ...] = (1, 2, 4, 8, 32, 4, 2)
    ) -> None:
        super().__init__()
        self.first = nn.Sequential(
            nn.Conv2d(len(LONG_SHIFTS) + len(SHORT_SHIFTS), fine, 3, padding=1), nn.BatchNorm2d(fine), nn.ReLU(),
            nn.Conv2d(fine, fine, (5, 3), padding=(2, 1)), nn.BatchNorm2d(fine), nn.ReLU(),
        )  # fmt: skip
        self.to_keys = nn.Sequential(
            nn.Conv2d(fine, wide, (3, 3), stride=(3, 1), padding=(0, 1)), nn.BatchNorm2d(wide), nn.ReLU()
        )
        self.body = nn.Sequential(*(Block(wide, narrow, step) for step in apart))
        self.heads = nn.Conv2d(wide, len(HEADS), (3, 3), padding=1)
        self.dead = nn.Conv2d(wide, 8, 1)
        self.dead_out = nn.Conv1d(8 * 2, 1, 5, padding=2)
        self.back = nn.Conv2d(wide, PER_KEY * 4, 1)
        self.contour = nn.Sequential(
            nn.Conv2d(fine + 4, 16, 3, padding=1), nn.ReLU(), nn.Conv2d(16, 1, (5, 3), padding=(2, 1))
        )

    def forward(self, spectra: Tensor) -> tuple[Tensor, Tensor, Tensor]:
        long, short = spectra[:, 0], spectra[:, 1]
        laid = [long[:, BELOW + s : BELOW + s + PITCHES] for s in LONG_SHIFTS]
        laid += [short[:, BELOW + s : BELOW + s + PITCHES] for s in SHORT_SHIFTS]
        fine = self.first(torch.stack(laid, 1))
        x = self.body(self.to_keys(fine))
        n, _, k, t = x.shape
        back = self.back(x).reshape(n, 4, PER_KEY, k, t).permute(0, 1, 3, 2, 4).reshape(n, 4, k * PER_KEY, t)
        d = torch.relu(self.dead(x))
        dead = self.dead_out(torch.cat([d.mean(2), d.amax(2)], 1))
        return self.heads(x), self.contour(torch.cat([fine, back], 1))[:, 0], dead[:, 0]
