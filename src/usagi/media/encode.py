"""Sound written as a file that other programs play: FLAC, Opus, MP3 or WAV, with its tags."""

from __future__ import annotations

import io
import unicodedata
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
import soundfile

from usagi.core.audio import RATE_HZ, Stored

FULL_SCALE: Final = 32_768  # of 16-bit samples


class SoundFormat(StrEnum):
    FLAC = "flac"
    OPUS = "opus"
    MP3 = "mp3"
    WAV = "wav"


@dataclass(frozen=True, slots=True)
class Tags:
    title: str
    artist: str = ""
    album: str = ""
    comment: str = ""
    track: int = 1


_WRITTEN: Final = {
    SoundFormat.FLAC: ("FLAC", "PCM_16"),
    SoundFormat.OPUS: ("OGG", "OPUS"),
    SoundFormat.MP3: ("MP3", "MPEG_LAYER_III"),
    SoundFormat.WAV: ("WAV", "PCM_16"),
}


def encoded(pcm: Stored, format: SoundFormat, tags: Tags) -> bytes:
    """A sound at 48 kHz as a file of a format.

    Parameters
    ----------
    pcm : int16, shape (frames, channels).
    format, tags : what is written.
    """
    out = io.BytesIO()
    container, subtype = _WRITTEN[format]
    said = _plain if format is SoundFormat.MP3 else str
    with soundfile.SoundFile(
        out, "w", samplerate=RATE_HZ, channels=pcm.shape[1], format=container, subtype=subtype
    ) as file:
        for name in ("title", "album", "artist", "comment"):
            if text := said(getattr(tags, name)):  # the library refuses an empty one
                setattr(file, name, text)
        file.tracknumber = str(tags.track)
        # As floats: the library's stereo MP3 of integers is noise. WAV and FLAC keep every sample.
        sound = pcm / np.float32(FULL_SCALE)
        for at in range(0, len(pcm), RATE_HZ):  # by the second: the encoder of Opus does not take it all at once
            file.write(sound[at : at + RATE_HZ])
    return out.getvalue()


def _plain(text: str) -> str:
    """Without signs beyond ASCII: the library writes the tags of MP3 in a coding that garbles them."""
    folded = unicodedata.normalize("NFKD", text.replace(" · ", " - ").replace("–", "-"))
    return folded.encode("ascii", "ignore").decode()
