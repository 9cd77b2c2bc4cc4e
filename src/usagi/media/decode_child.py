"""The process that decodes: `python -m usagi.media.decode_child UPLOAD PCM`.

It limits its own memory, reads in blocks, counts while it reads and never trusts a header. It writes 16-bit PCM of
one or two channels at 48 kHz and prints one JSON object: frames and channels with notices, or the code of a refusal.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path

MEMORY_BYTES = 1_500_000_000  # of address space; libraries alone take some hundred MB of it
BLOCK_FRAMES = 65_536
LONGEST_S = 15 * 60
SLOWEST_HZ, FASTEST_HZ = 8_000, 192_000
MOST_CHANNELS = 8


def main(upload: Path, out: Path) -> dict[str, object]:
    """Decode one file; the result as it is printed."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    import numpy as np  # after the limit, so that it holds for them too
    import soundfile
    import soxr

    from usagi.core.audio import RATE_HZ, to_stored

    try:
        sound = soundfile.SoundFile(str(upload))
    except soundfile.LibsndfileError:
        return {"error": "not-audio"}
    if not SLOWEST_HZ <= sound.samplerate <= FASTEST_HZ:
        return {"error": "rate", "value": sound.samplerate}
    if sound.channels > MOST_CHANNELS:
        return {"error": "channels", "value": sound.channels}
    channels = 2 if sound.channels == 2 else 1
    stream = soxr.ResampleStream(sound.samplerate, RATE_HZ, channels, dtype="float32", quality="HQ")
    notices: set[str] = set()
    read = written = 0
    with out.open("wb") as pcm:
        while True:
            try:
                block = sound.read(BLOCK_FRAMES, dtype="float32", always_2d=True)
            except soundfile.LibsndfileError:
                notices.add("damaged")
                block = np.zeros((0, sound.channels), dtype=np.float32)
            read += len(block)
            if read > LONGEST_S * sound.samplerate:
                return {"error": "too-long"}
            if not np.isfinite(block).all():
                notices.add("not-finite")
                block = np.nan_to_num(block, nan=0.0, posinf=0.0, neginf=0.0)
            if sound.channels > 2:
                notices.add("mixed-down")
                block = block.mean(axis=1, keepdims=True)
            if len(block) and float(np.abs(block).max()) > 1.0:
                notices.add("clipped")
            last = len(block) == 0
            resampled = to_stored(stream.resample_chunk(np.ascontiguousarray(block), last=last))
            pcm.write(resampled.tobytes())
            written += len(resampled)
            if last:
                break
    if read == 0 or written == 0:
        return {"error": "empty"}
    claimed = sound.frames
    if 0 < read < claimed and "damaged" not in notices:
        notices.add("shorter")
    return {"frames": written, "channels": channels, "notices": sorted(notices)}


if __name__ == "__main__":
    sys.stdout.write(json.dumps(main(Path(sys.argv[1]), Path(sys.argv[2]))))
