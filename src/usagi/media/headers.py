"""What a WAV, AIFF or MP3 file says about its own length: decoders believe the file's size instead."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

STREAMED = (0x7FFFFFFF, 0x7FFFF000, 0xFFFFFFFF)  # lengths of a writer that did not know yet

LEAST_MORE = 4_096  # bytes behind the promised end that are no padding
LOOKED_AT = 8_192  # bytes of an MP3 in which its first frame begins


@dataclass(frozen=True, slots=True)
class Length:
    """Bytes of sound that the header promises, and those that are there. `promised` 0: it does not say."""

    promised: int
    there: int
    more: bool = False  # what follows the promised sound is no chunk: there is more of it than the header says


def length_of(file: Path) -> Length | None:
    """The length that a RIFF or AIFF header states; None for other files and where no sound chunk is found."""
    size = file.stat().st_size
    with file.open("rb") as data:
        head = data.read(12)
        if head[:4] == b"RIFF" and head[8:12] == b"WAVE":
            chunk, wanted = "<4sI", b"data"
        elif head[:4] == b"FORM" and head[8:12] in (b"AIFF", b"AIFC"):
            chunk, wanted = ">4sI", b"SSND"
        else:
            return None
        while len(header := data.read(8)) == 8:
            name, promised = struct.unpack(chunk, header)
            there = size - data.tell()
            if name == wanted:
                promised = 0 if promised in STREAMED else promised
                return Length(promised, there, _is_no_chunk(data, promised, there))
            if promised > there:
                return None
            data.seek(promised + promised % 2, 1)
    return None


def _is_no_chunk(data: BinaryIO, promised: int, there: int) -> bool:
    """Whether sound goes on behind its promised end, where only other chunks may stand."""
    left = there - promised - promised % 2
    if promised == 0 or left < LEAST_MORE:
        return False
    data.seek(promised + promised % 2, 1)
    name, size = data.read(4), int.from_bytes(data.read(4), "little")
    return not (all(32 <= letter < 127 for letter in name) and size + 8 <= left + 1)


MPEG = {
    3: (1_152, 0),
    2: (576, 1),
    0: (576, 1),
}  # by the version's bits: samples in a frame, and the row of its side table
SIDE = ((32, 17), (17, 9))  # bytes between a frame's head and the tag, in stereo and mono
RATES = {3: (44_100, 48_000, 32_000), 2: (22_050, 24_000, 16_000), 0: (11_025, 12_000, 8_000)}


def mp3_seconds(file: Path) -> float | None:
    """How long an MP3 says it is, in the tag that encoders write into its first frame; None where none does.

    Source : the layout of the Xing and Info tags, as encoders document it: the name, flags, the number of frames.
    """
    with file.open("rb") as data:
        head = data.read(10)
        skip = 0
        if head[:3] == b"ID3" and len(head) == 10:
            skip = 10 + (head[6] << 21 | head[7] << 14 | head[8] << 7 | head[9])
        data.seek(skip)
        frame = data.read(LOOKED_AT)
    at = next((i for i in range(len(frame) - 4) if frame[i] == 0xFF and frame[i + 1] & 0xE6 == 0xE2), None)
    if at is None:
        return None
    version, rate = frame[at + 1] >> 3 & 3, frame[at + 2] >> 2 & 3
    if version not in MPEG or rate == 3:
        return None
    samples, row = MPEG[version]
    tag = at + 4 + SIDE[row][frame[at + 3] >> 6 == 3]
    if frame[tag : tag + 4] not in (b"Xing", b"Info") or not frame[tag + 7 : tag + 8] or not frame[tag + 7] & 1:
        return None
    count = int.from_bytes(frame[tag + 8 : tag + 12], "big")
    return count * samples / RATES[version][rate]
