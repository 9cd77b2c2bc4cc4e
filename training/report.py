"""What is reported of the listener: takes of seeds and instruments that tuned nothing, a row for each condition.

python -m training.report [--count 40] [--first 95001] [--quick] [--only NAME …]
"""

from __future__ import annotations

import argparse
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
import soxr

from training.judge import Counts, count, line_of
from training.solos import invented
from training.sources import HELD_OUT, RATE_HZ, training_guitars
from training.spaces import SPACES
from training.takes import take
from usagi.core.listening.hints import Company, Hints, Texture
from usagi.flows.listening.hearing import AROUND, heard_in


@dataclass(frozen=True)
class Row:
    """A condition: which instruments, how loud the lead is over a band, the space, what is played, what is told."""

    name: str
    held_out: bool = True
    lead_db: float | None = None
    space: str = "dry"
    style: str | None = None
    kind: str | None = None
    hints: Hints = Hints()
    rakes: float = 0.0


BAND = Hints(company=Company.BAND)
ROWS = (
    Row("alone", kind="line"),
    Row("alone, instruments of the training", held_out=False, kind="line"),
    Row("band 6 dB below", lead_db=6.0, kind="line", hints=BAND),
    Row("band as loud", lead_db=0.0, kind="line", hints=BAND),
    Row("band 6 dB below, instruments of the training", held_out=False, lead_db=6.0, kind="line", hints=BAND),
    Row("band as loud, instruments of the training", held_out=False, lead_db=0.0, kind="line", hints=BAND),
    Row("everything mixed, nothing told"),
    Row("double stops, told", kind="double stops", hints=Hints(texture=Texture.TWO)),
    Row("double stops, not told", kind="double stops"),
    Row("let ring, told", kind="let ring", hints=Hints(texture=Texture.RING)),
    Row("let ring, not told", kind="let ring"),
    Row("strums, told", kind="strums", hints=Hints(texture=Texture.STRUM)),
    Row("strums, not told", kind="strums"),
    *(Row(f"alone, {name}", space=name, kind="line") for name in SPACES if name != "dry"),
    Row("bottleneck", style="bottleneck", kind="line"),
    Row("plain plucks", style="plain", kind="line"),
    Row("rakes", style="plain", kind="line", rakes=0.3),
)


def one(asked: tuple[Row, int, bool]) -> tuple[Counts, float, float]:
    row, seed, quick = asked
    guitars = HELD_OUT if row.held_out else training_guitars()
    guitar = guitars[seed % len(guitars)]
    piece = invented(seed, style=row.style, kind=row.kind, rakes=row.rakes)
    made = take(piece, seed=seed, guitar=guitar, lead_db=row.lead_db, space=SPACES[row.space])
    sound = soxr.resample(made.sound, RATE_HZ, 48_000).astype(np.float32)
    begin = time.perf_counter()
    hints = row.hints.model_copy(update={"quick": quick})
    heard = heard_in(np.pad(sound, AROUND)[:, None], hints, round(made.cents, 1) or 0.1).notes
    spent = time.perf_counter() - begin
    counts = Counts()
    count(piece, list(heard), counts)
    return counts, spent, len(sound) / 48_000


def added(parts: list[Counts]) -> Counts:
    whole = Counts()
    for part in parts:
        for name in ("notes", "offered", "right", "right_onset", "octaves"):
            setattr(whole, name, getattr(whole, name) + getattr(part, name))
        whole.kinds += part.kinds
        whole.errors += part.errors
        whole.sizes += part.sizes
        whole.said += part.said
    return whole


def bands(said: list[tuple[float, bool]]) -> str:
    out = []
    for name, low, high in (("sure", 0.96, 1.01), ("likely", 0.75, 0.96), ("guess", 0.0, 0.75)):
        own = [(c, r) for c, r in said if low <= c < high]
        if own:
            out.append(
                f"{name} {len(own)}: said {np.mean([c for c, _ in own]):.3f} right {np.mean([r for _, r in own]):.3f}"
            )
    return "; ".join(out)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--first", type=int, default=95_001)
    parser.add_argument("--quick", action="store_true")
    parser.add_argument("--only", nargs="*")
    asked = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        for row in ROWS:
            if asked.only and row.name not in asked.only:
                continue
            seeds = range(asked.first, asked.first + asked.count)
            found = list(pool.map(one, [(row, seed, asked.quick) for seed in seeds], chunksize=2))
            counts = added([part for part, _, _ in found])
            pace = 10 * sum(s for _, s, _ in found) / sum(length for _, _, length in found)
            print(f"{line_of(row.name, counts)} | {bands(counts.said)} | {pace:.2f} s for 10 s", flush=True)


if __name__ == "__main__":
    main()
