"""Speak the counting words once (README.md): run by hand where Debian's flite is installed."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile

SPOKEN = Path(__file__).parents[1] / "src/usagi/media/spoken"
NUMBERS = (
    "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve", "thirteen",
    "fourteen", "fifteen", "sixteen",
)  # fmt: skip
# Each word as it is spelled for the voice.
SPELLED = {str(n): word for n, word in enumerate(NUMBERS, start=1)} | {
    "and": "and", "e": "ee", "a": "uh", "trip": "trip", "let": "lit", "la": "lah", "li": "lee", "ta": "tah",
}  # fmt: skip
LONGEST_S = 0.42
HEARD = 0.06  # of the loudest: from where a word counts as begun
FADE_S = 0.03
LEVEL = 0.7


def speak(spelled: str) -> tuple[np.ndarray, int]:
    """A word as the voice says it, and its rate."""
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        subprocess.run(
            ["flite", "-voice", "slt", "--setf", "duration_stretch=0.75", "-t", spelled, "-o", file.name], check=True
        )
        sound, rate = soundfile.read(file.name)
    return sound, rate


def trimmed(sound: np.ndarray, rate: int) -> np.ndarray:
    """From where it is heard to where it ends, at one level, faded at its end."""
    loud = np.abs(sound) > HEARD * np.abs(sound).max()
    first, last = int(np.argmax(loud)), len(loud) - int(np.argmax(loud[::-1]))
    cut = sound[first : min(last, first + round(LONGEST_S * rate))].copy()
    fade = round(FADE_S * rate)
    cut[-fade:] *= np.linspace(1, 0, fade)
    louder: np.ndarray = LEVEL * cut / np.abs(cut).max()
    return louder


def main() -> None:
    for word, spelled in SPELLED.items():
        sound, rate = speak(spelled)
        soundfile.write(SPOKEN / f"{word}.flac", trimmed(sound, rate), rate, subtype="PCM_16")


if __name__ == "__main__":
    main()
