"""What a WAV or AIFF file says about its own length, read from its chunks: decoders believe the file's size instead."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path

STREAMED = (0x7FFFFFFF, 0x7FFFF000, 0xFFFFFFFF)  # lengths of a writer that did not know yet


@dataclass(frozen=True, slots=True)
class Length:
    """Bytes of sound that the header promises, and those that are there. `promised` 0: it does not say."""

    promised: int
    there: int


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
                return Length(0 if promised in STREAMED else promised, there)
            if promised > there:
                return None
            data.seek(promised + promised % 2, 1)
    return None
