"""Decoding uploads to canonical PCM, safely: a codec may crash, loop or swell, the server must not."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from usagi.core.audio import RATE_HZ
from usagi.core.errors import UsagiError

DECODER = "soundfile or PyAV, soxr HQ, 48 kHz, rev 3"
PATIENCE_S = 120.0
LOOK_S = 0.3
MOST_BYTES = 600_000_000
FORMATS = "WAV, FLAC, OGG, Opus, MP3, AIFF, M4A, AAC, MP4 or another usual sound file"
# What a file picker offers; anything else that decodes comes in too.
ENDINGS = (
    *(".wav", ".flac", ".ogg", ".oga", ".opus", ".mp3", ".mp2", ".aif", ".aiff", ".aifc", ".caf", ".au", ".w64"),
    *(".m4a", ".m4b", ".aac", ".mp4", ".mov", ".wma", ".ac3", ".amr", ".mka", ".mkv", ".webm"),
)


class SoundRefused(UsagiError):
    """An upload that is no sound we can take."""

    code = "sound-refused"


@dataclass(frozen=True, slots=True)
class Decoded:
    """Canonical PCM in `pcm`; notices are sentences about what had to be mended."""

    pcm: Path
    frames: int
    channels: int
    notices: tuple[str, ...]

    @property
    def seconds(self) -> float:
        return self.frames / RATE_HZ


NOTICES = {
    "damaged": "The file is damaged; the sound ends where it could no longer be read.",
    "shorter": "The file is shorter than it says; it may have been cut off.",
    "longer": "The file is longer than its header says; only the length in the header was read.",
    "not-finite": "Some samples were no numbers; they are silent now.",
    "mixed-down": "More than two channels were mixed down to stereo.",
    "no-length": "The file does not say how long it is; everything in it was read.",
    "clipped": "Some samples were louder than full scale; they are clipped.",
}


def decode(upload: Path, pcm: Path, *, name: str, stopped: Callable[[], bool] = lambda: False) -> Decoded:
    """Decode a file in a process of its own, with its memory and time limited; `stopped` ends it.

    Raises : SoundRefused, naming the file and why.
    """
    if upload.stat().st_size > MOST_BYTES:
        raise SoundRefused(
            f"“{name}” is larger than {MOST_BYTES // 1_000_000} MB. Cut out the part with the solo.", file=name
        )
    env = os.environ | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    command = [sys.executable, "-m", "usagi.media.decode_child", str(upload), str(pcm)]
    output = _watched(command, env, name, stopped)
    try:
        answer = json.loads(output)
    except ValueError as fault:
        raise SoundRefused(
            f"“{name}” could not be decoded: the decoder stopped on it. Save it as WAV or FLAC and try again.",
            file=name,
        ) from fault
    if "error" in answer:
        raise SoundRefused(_refusal(name, answer), file=name)
    notices = tuple(NOTICES[notice] for notice in answer["notices"])
    return Decoded(pcm, answer["frames"], answer["channels"], notices)


def _watched(command: list[str], env: dict[str, str], name: str, stopped: Callable[[], bool]) -> bytes:
    """What the decoder prints. Raises : SoundRefused, when it takes too long or nobody waits for it any more."""
    until = time.monotonic() + PATIENCE_S
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=env) as child:
        while True:
            try:
                return child.communicate(timeout=min(LOOK_S, PATIENCE_S))[0]
            except subprocess.TimeoutExpired as late:
                gone = stopped()
                if not gone and time.monotonic() < until:
                    continue
                child.kill()
                why = "was stopped; nothing of it is kept" if gone else "took too long to decode"
                raise SoundRefused(f"“{name}” {why}. Save it as WAV or FLAC and try again.", file=name) from late


def _refusal(name: str, answer: dict[str, object]) -> str:
    value = answer.get("value")
    return {
        "not-audio": f"“{name}” is not a sound file that can be read. Bring it as {FORMATS}.",
        "nothing": f"“{name}” is empty: there is nothing in the file. Export it again.",
        "no-sound": f"“{name}” has no sound in it, only pictures or data. Export its sound as WAV or MP3.",
        "empty": f"“{name}” holds no sound: it is 0 seconds long.",
        "too-long": f"“{name}” is longer than 15 minutes. Cut out the part with the solo.",
        "rate": f"“{name}” has {value} samples a second; between 8,000 and 192,000 can be read.",
        "channels": f"“{name}” has {value} channels; up to 8 can be read.",
    }[str(answer["error"])]
