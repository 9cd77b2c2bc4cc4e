"""Takes made ready to learn from: spectra and labels, one file each, on all cores.

python -m training.gather FOLDER FIRST COUNT
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
import soxr

from training.labels import labels
from training.solos import invented
from training.sources import RATE_HZ
from training.takes import take
from usagi.core.listening.spectrum import RATE_HZ as HEARD_HZ
from usagi.core.listening.spectrum import spectra


def one(folder: Path, seed: int) -> None:
    """A take of a seed: two fifths alone, the others with a band 3 dB above to 12 dB below; rakes in a third."""
    kept = folder / f"{seed}.npz"
    if kept.exists():
        return
    rng = np.random.default_rng([seed, 11])
    lead_db = None if rng.random() < 0.4 else float(rng.uniform(-3, 12))
    busy = float(rng.choice((1.0, 2.0)))
    rakes = float(rng.choice((0.0, 0.0, 0.3)))
    made = take(invented(seed, busy=busy, rakes=rakes), seed=seed, lead_db=lead_db)
    line = soxr.resample(made.sound, RATE_HZ, HEARD_HZ).astype(np.float32)
    heard = spectra(line, cents=made.cents + float(rng.normal(0, 3)))
    said = labels(made.piece, heard.shape[2])
    np.savez(kept, spectra=heard.astype(np.float16), heads=said.heads,
             contour=said.contour, dead=said.dead, band=lead_db is not None)  # fmt: skip


def main() -> None:
    folder, first, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    folder.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        list(pool.map(one, [folder] * count, range(first, first + count), chunksize=8))


if __name__ == "__main__":
    main()
