"""Amplifiers, rooms, delays, tapes and codecs between the string and the file."""

from __future__ import annotations

from dataclasses import dataclass
from io import BytesIO
from typing import Final

import numpy as np
import scipy.signal
import soundfile

from training.played import Line
from training.sources import RATE_HZ


@dataclass(frozen=True)
class Space:
    """What colours a take. Levels in dB; none where it is not there."""

    name: str = "dry"
    drive_db: float | None = None
    cabinet: bool = False
    tilt_db: float = 0.0
    resonance: tuple[float, float] | None = None  # Hz, dB
    room: tuple[float, float] | None = None  # seconds to -60 dB, level
    delay: tuple[float, float, float] | None = None  # seconds, level, what comes back
    hiss_db: float | None = None
    hum_db: float | None = None
    buzz: float = 0.0
    chorus: bool = False
    wow: float = 0.0  # the share by which the pace sways
    codec: str | None = None  # mp3, vorbis, low-pass

    def amplified(self, line: Line, rng: np.random.Generator) -> Line:
        """The guitar's own chain; the band has none of it."""
        if self.buzz:
            rough = np.clip(line / (np.abs(line).max() + 1e-9) * 3, -0.4, 0.4) ** 3
            line = line + (self.buzz * scipy.signal.lfilter([1, -1], [1], rough)).astype(np.float32)
        if self.drive_db is not None:
            top = float(np.sqrt(np.mean(line**2))) * 4 + 1e-9
            driven = np.tanh(line / top * 10 ** (self.drive_db / 20))
            line = (driven * top * 0.6).astype(np.float32)
        if self.cabinet:
            sos = scipy.signal.butter(2, (90, rng.uniform(3_500, 5_500)), "bandpass", fs=RATE_HZ, output="sos")
            line = scipy.signal.sosfilt(sos, line).astype(np.float32)
        if self.chorus:
            t = np.arange(len(line))
            sway = 0.008 * RATE_HZ + 0.0025 * RATE_HZ * np.sin(2 * np.pi * 0.8 * t / RATE_HZ)
            line = (line + 0.6 * np.interp(t - sway, t, line)).astype(np.float32)
        if self.delay is not None:
            line = _delayed(line, *self.delay)
        return line


def _delayed(line: Line, seconds: float, level_db: float, back: float) -> Line:
    step = round(seconds * RATE_HZ)
    out, echo = line.copy(), line * np.float32(10 ** (level_db / 20))
    for k in range(1, 8):
        if k * step >= len(line) or back ** (k - 1) < 0.05:
            break
        out[k * step :] += echo[: len(line) - k * step] * np.float32(back ** (k - 1))
    return out


def heard_through(line: Line, space: Space, rng: np.random.Generator) -> Line:
    """The room, the microphone, the tape and the file."""
    spectrum = np.fft.rfft(line, len(line) + RATE_HZ // 2)
    hz = np.fft.rfftfreq(len(line) + RATE_HZ // 2, 1 / RATE_HZ)
    gain = 10 ** (space.tilt_db / 20 * np.log2(np.maximum(hz, 60) / 800) / 3)
    if space.resonance is not None:
        at, db = space.resonance
        gain = gain * 10 ** (db / 20 * np.exp(-((np.log2(np.maximum(hz, 20) / at)) ** 2) * 4))
    line = np.fft.irfft(spectrum * gain)[: len(line)].astype(np.float32)
    if space.room is not None:
        seconds, level = space.room
        size = round(seconds * RATE_HZ)
        answer = rng.standard_normal(size) * 10 ** (-3 * np.arange(size) / size)
        answer[: round(0.008 * RATE_HZ)] *= 0.2
        answer = scipy.signal.lfilter([1, rng.uniform(0.2, 0.7)], [1], answer)
        wet = scipy.signal.fftconvolve(line, answer / np.sqrt(np.sum(answer**2)))[: len(line)]
        line = (line + wet * 10 ** (level / 20)).astype(np.float32)
    loud = float(np.sqrt(np.mean(line**2))) + 1e-9
    if space.wow:
        t = np.arange(len(line)) / RATE_HZ
        rate = rng.uniform(0.4, 1.2)
        sway = space.wow / 2 / (2 * np.pi * rate) * np.sin(2 * np.pi * rate * t + rng.uniform(0, 6))
        line = np.interp(t + sway, t, line).astype(np.float32)
    if space.hiss_db is not None:
        noise = rng.standard_normal(len(line))
        if rng.random() < 0.5:
            noise = scipy.signal.lfilter([1], [1, -0.9], noise)
        line = (line + noise / noise.std() * loud * 10 ** (space.hiss_db / 20)).astype(np.float32)
    if space.hum_db is not None:
        t, mains = np.arange(len(line)) / RATE_HZ, float(rng.choice((50, 60)))
        hum = sum(np.sin(2 * np.pi * mains * k * t) / k for k in (1, 2, 3, 5))
        line = (line + np.asarray(hum) * loud * 10 ** (space.hum_db / 20)).astype(np.float32)
    return _coded(line, space.codec)


def _coded(line: Line, codec: str | None) -> Line:
    if codec is None:
        return line
    if codec == "low-pass":
        return scipy.signal.sosfilt(scipy.signal.butter(4, 4_000, fs=RATE_HZ, output="sos"), line).astype(np.float32)
    top = float(np.abs(line).max()) + 1e-9
    file = BytesIO()
    if codec == "mp3":
        soundfile.write(file, line / top * 0.9, RATE_HZ, format="MP3", compression_level=0.9, bitrate_mode="CONSTANT")
    else:
        soundfile.write(file, line / top * 0.9, RATE_HZ, format="OGG", subtype="VORBIS", compression_level=0.9)
    file.seek(0)
    back, _ = soundfile.read(file, dtype="float32", always_2d=True)
    back = back[:, 0]
    if codec == "mp3":  # a decoder begins late
        back = back[_lag(line, back) :]
    return np.pad(back, (0, max(0, len(line) - len(back))))[: len(line)] * np.float32(top / 0.9)


def _lag(line: Line, back: Line) -> int:
    size = min(len(line), len(back), RATE_HZ * 4)
    like = scipy.signal.correlate(back[:size], line[:size], "full", method="fft")
    return int(np.clip(np.argmax(like) - size + 1, 0, 4_000))


def some_space(rng: np.random.Generator, guitar: str = "") -> Space:
    """As players' rooms and amplifiers are, by chance."""
    driven = "dist" in guitar or "over" in guitar

    def perhaps(share: float) -> bool:
        return bool(rng.random() < share)

    return Space(
        name="some",
        drive_db=float(rng.uniform(0, 26)) if perhaps(0.2 if driven else 0.45) else None,
        cabinet=perhaps(0.35),
        tilt_db=float(rng.uniform(-7, 7)) if perhaps(0.7) else 0.0,
        resonance=(float(rng.uniform(200, 4_000)), float(rng.uniform(-8, 8))) if perhaps(0.5) else None,
        room=(float(rng.uniform(0.2, 2.2)), float(rng.uniform(-22, -3))) if perhaps(0.5) else None,
        delay=(float(rng.uniform(0.1, 0.65)), float(rng.uniform(-20, -5)), float(rng.uniform(0.1, 0.55)))
        if perhaps(0.4)
        else None,
        hiss_db=float(rng.uniform(-65, -26)) if perhaps(0.6) else None,
        hum_db=float(rng.uniform(-60, -28)) if perhaps(0.2) else None,
        buzz=float(rng.uniform(0, 0.5)) if perhaps(0.1) else 0.0,
        chorus=perhaps(0.08),
        wow=float(rng.uniform(0.002, 0.03)) if perhaps(0.1) else 0.0,
        codec=str(rng.choice(("mp3", "vorbis", "low-pass"))) if perhaps(0.3) else None,
    )


# One at a time, for the rows that are reported.
SPACES: Final = {
    "dry": Space(),
    "room": Space("room", room=(1.4, -6.0)),
    "long delay": Space("long delay", delay=(0.42, -8.0, 0.45)),
    "hiss": Space("hiss", hiss_db=-30.0),
    "mp3": Space("mp3", codec="mp3"),
    "wow": Space("wow", wow=0.03),
    "amplifier": Space("amplifier", drive_db=18.0, cabinet=True),
    "fret buzz": Space("fret buzz", buzz=0.6),
}
