"""The process that decodes: `python -m usagi.media.decode_child UPLOAD PCM`.

It limits its own memory, reads in blocks, counts while it reads and never trusts a header. It writes 16-bit PCM of
one or two channels at 48 kHz and prints one JSON object: frames and channels with notices, or the code of a refusal.
"""

from __future__ import annotations

import json
import resource
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

MEMORY_BYTES = 1_500_000_000  # of address space; libraries alone take some hundred MB of it
BLOCK_FRAMES = 65_536
LONGEST_S = 15 * 60
SLOWEST_HZ, FASTEST_HZ = 8_000, 192_000
MOST_CHANNELS = 8
SLACK_S, SLACK = 0.25, 0.01  # codecs pad and trim; less than this is not missing
# Where the length is counted, not guessed from the bit rate.
COUNTED = ("PCM", "FLOAT", "DOUBLE", "ULAW", "ALAW", "ALAC", "VORBIS", "OPUS")
COUNTED_IN = ("mov", "mp4", "m4a", "caf", "flac", "ogg", "matroska", "webm", "wav", "aiff")


class NoSound(LookupError):
    """A file that can be read and has no sound in it."""


def main(upload: Path, out: Path) -> dict[str, object]:
    """Decode one file; the result as it is printed."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    import numpy as np  # after the limit, so that it holds for them too
    import soundfile
    import soxr

    from usagi.core.audio import RATE_HZ, to_stored
    from usagi.media.headers import length_of, mp3_seconds
    from usagi.media.mixing import weights

    if upload.stat().st_size == 0:
        return {"error": "nothing"}
    notices: set[str] = set()
    length = length_of(upload)
    unstated = length is not None and length.promised == 0 and length.there > 0
    try:
        if unstated:  # soundfile would take it at its word
            notices.add("no-length")
            raise soundfile.LibsndfileError(0)
        sound: Any = _Plain(soundfile.SoundFile(str(upload)), notices)
    except soundfile.LibsndfileError:
        try:
            sound = _Contained(upload, notices)
        except NoSound:
            return {"error": "no-sound"}
        except (ValueError, OSError, LookupError):
            return {"error": "not-audio"}
    if not SLOWEST_HZ <= sound.samplerate <= FASTEST_HZ:
        return {"error": "rate", "value": sound.samplerate}
    if sound.channels > MOST_CHANNELS:
        return {"error": "channels", "value": sound.channels}
    channels = min(2, sound.channels)
    mixed = weights(sound.channels, ogg=sound.ogg) if sound.channels > 2 else None
    stream = soxr.ResampleStream(sound.samplerate, RATE_HZ, channels, dtype="float32", quality="HQ")
    read = written = 0
    end = np.zeros((0, sound.channels), dtype=np.float32)
    with out.open("wb") as pcm:
        for block in _and(sound.blocks(), end):
            read += len(block)
            if read > LONGEST_S * sound.samplerate:
                return {"error": "too-long"}
            if not np.isfinite(block).all():
                notices.add("not-finite")
                block = np.nan_to_num(block, nan=0.0, posinf=0.0, neginf=0.0)
            if mixed is not None:
                notices.add("mixed-down")
                block = block @ mixed
            if len(block) and float(np.abs(block).max()) > 1.0:
                notices.add("clipped")
            last = len(block) == 0
            resampled = to_stored(stream.resample_chunk(np.ascontiguousarray(block), last=last))
            pcm.write(resampled.tobytes())
            written += len(resampled)
    if read == 0 or written == 0:
        return {"error": "empty"}
    cut = length is not None and length.promised > length.there + 1
    if length is not None and length.more:
        notices.add("longer")
    stated = mp3_seconds(upload) if length is None else None
    if stated is not None and stated - read / sound.samplerate > max(SLACK_S, SLACK * stated):
        cut = True
    missing = sound.frames - read if sound.exact and not unstated else 0
    if (cut or missing > max(SLACK_S * sound.samplerate, SLACK * sound.frames)) and "damaged" not in notices:
        notices.add("shorter")
    return {"frames": written, "channels": channels, "notices": sorted(notices)}


def _and(blocks: Iterator[Any], end: Any) -> Iterator[Any]:
    """The blocks that hold something, then an empty one."""
    for block in blocks:
        if len(block):
            yield block
    yield end


class _Plain:
    """WAV, FLAC, Ogg, MP3 and their like."""

    def __init__(self, file: Any, notices: set[str]) -> None:
        self._file, self._notices = file, notices
        self.samplerate, self.channels, self.frames = file.samplerate, file.channels, file.frames
        self.exact = file.subtype.startswith(COUNTED) or file.format == "FLAC"
        self.ogg = file.format == "OGG"

    def blocks(self) -> Iterator[Any]:
        import soundfile

        while True:
            try:
                block = self._file.read(BLOCK_FRAMES, dtype="float32", always_2d=True)
            except soundfile.LibsndfileError:
                self._notices.add("damaged")
                return
            if len(block) == 0:
                return
            yield block


class _Contained:
    """The first sound in an MP4, M4A, AAC or WMA file and their like.

    Raises : NoSound; ValueError, OSError or LookupError, when it is no such file.
    """

    def __init__(self, upload: Path, notices: set[str]) -> None:
        import av

        self._notices = notices
        self._container = av.open(str(upload), metadata_errors="ignore")
        if not self._container.streams.audio:
            raise NoSound
        self._stream = self._container.streams.audio[0]
        self._stream.codec_context.thread_count = 1
        self.samplerate, self.channels = int(self._stream.rate or 0), int(self._stream.channels or 0)
        names = self._container.format.name.split(",")
        self.exact, self.ogg = any(name in COUNTED_IN for name in names), False
        # The codec pads the end of its last frame; how long the sound is stands in the container.
        # Without a container nothing says it: a length that is guessed from the bit rate is none.
        length = self._stream.duration if self.exact else None
        self.frames = 0 if length is None else round(float(length * (self._stream.time_base or 0)) * self.samplerate)

    def blocks(self) -> Iterator[Any]:
        import av
        import numpy as np

        resampler = av.AudioResampler(format="flt", layout=self._stream.layout, rate=self.samplerate)
        left = self.frames or None
        try:
            for frame in self._container.decode(self._stream):
                for plain in resampler.resample(frame):
                    block = plain.to_ndarray().reshape(-1, self.channels).astype(np.float32)
                    block = block if left is None else block[:left]
                    left = None if left is None else left - len(block)
                    yield block
        except (av.FFmpegError, ValueError):
            self._notices.add("damaged")


if __name__ == "__main__":
    sys.stdout.write(json.dumps(main(Path(sys.argv[1]), Path(sys.argv[2]))))
