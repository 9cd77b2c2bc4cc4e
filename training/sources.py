"""Single notes of instruments, to be played at any pitch: of sound fonts, of recordings, and of strings made here.

`FOLDER` holds what was rendered or fetched once. Packages of Debian: fluidsynth, fluid-soundfont-gm, timgm6mb-soundfont,
csound-soundfont, timidity, freepats, ffmpeg; of npm: tonejs-instrument-guitar-{acoustic,nylon,electric}-mp3 (CC-BY).
The instruments of `HELD_OUT` take no part in training and tuning.
"""

from __future__ import annotations

import os
import re
import struct
import subprocess
import tarfile
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path
from typing import Any, Final

import numpy as np
import scipy.signal
import soundfile
from numpy.typing import NDArray

Line = NDArray[np.float32]
RATE_HZ: Final = 44_100
FOLDER: Final = Path(os.environ.get("USAGI_TRAINING", "/tmp/usagi-training"))
NOTE_S: Final = 4.0
GAP_S: Final = 1.0
KEYS: Final = range(38, 92, 3)
FONTS: Final = {
    "fluid": "/usr/share/sounds/sf2/FluidR3_GM.sf2",
    "tim": "/usr/share/sounds/sf2/TimGM6mb.sf2",
    "bank": "/usr/share/sounds/sf2/sf_GMbank.sf2",
}
GUITARS: Final = {"nylon": 24, "steel": 25, "jazz": 26, "clean": 27, "muted": 28, "overdriven": 29, "distorted": 30}
BAND: Final = {"piano": 0, "epiano": 4, "organ": 16, "bass": 33, "upright": 32, "strings": 48}
DRUMS: Final = {"kick": 36, "snare": 38, "hat": 42, "open": 46, "ride": 51, "crash": 49, "stick": 37, "tom": 45}
HELD_OUT: Final = ("pat-clean", "pat-steel", "pat-jazz", "pat-nylon", "rec-electric", "guide")


@dataclass(frozen=True)
class Instrument:
    """Notes by the pitch they really have; each begins at its attack. float32, one channel at 44.1 kHz."""

    name: str
    notes: tuple[tuple[float, Line], ...]

    def nearest(self, midi: float, rng: np.random.Generator) -> tuple[float, Line]:
        pitches = np.array([pitch for pitch, _ in self.notes])
        near = np.flatnonzero(np.abs(pitches - midi) <= np.abs(pitches - midi).min() + 0.6)
        return self.notes[int(rng.choice(near))]


def instruments(names: tuple[str, ...]) -> dict[str, Instrument]:
    return {name: instrument(name) for name in names}


def training_guitars() -> tuple[str, ...]:
    fonts = [f"{font}-{name}" for font in FONTS for name in GUITARS if name != "muted"]
    return (*fonts, "rec-acoustic", "rec-nylon", *(f"string-{n}" for n in range(10)))


def instrument(name: str) -> Instrument:
    """An instrument by name, kept in the folder once it is made."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    kept = FOLDER / f"{name}.npz"
    if not kept.exists():
        notes = _made(name)
        arrays: dict[str, Any] = {f"n{i}": s.astype(np.float16) for i, (_, s) in enumerate(notes)}
        np.savez(kept, pitches=[p for p, _ in notes], **arrays)
    with np.load(kept) as stored:
        pitches = stored["pitches"]
        return Instrument(name, tuple((float(p), stored[f"n{i}"].astype(np.float32)) for i, p in enumerate(pitches)))


def _made(name: str) -> list[tuple[float, Line]]:
    family, which = name.split("-", 1) if "-" in name else (name, "")
    if family in FONTS:
        if which == "drums":
            return [(float(key), sound) for key, sound in _rendered(family, None, list(DRUMS.values()), 110, 1.5)]
        program = (GUITARS | BAND)[which]
        return [
            _tuned(key, sound) for v in (75, 115) for key, sound in _rendered(family, program, list(KEYS), v, NOTE_S)
        ]
    if family == "pat":
        return [_tuned(k, s) for v in (75, 115) for k, s in _rendered("pat", GUITARS[which], list(KEYS), v, NOTE_S)]
    if family == "rec":
        return _recorded(which)
    if family == "string":
        return delay_line(int(which))
    if family == "guide":
        return travelling_waves()
    raise ValueError(name)


# Sound fonts -----------------------------------------------------------------------------------------------------------


def _midi_file(program: int | None, keys: list[int], velocity: int, note_s: float) -> bytes:
    """One note after another; a tick is a millisecond."""
    channel, events = (9 if program is None else 0), bytearray()
    if program is not None:
        events += bytes([0, 0xC0, program])
    for key in keys:
        events += bytes([0, 0x90 | channel, key, velocity]) + _length(round(note_s * 1000))
        events += bytes([0x80 | channel, key, 0]) + _length(round(GAP_S * 1000)) + bytes([0x80 | channel, key, 0])
    events += bytes([0, 0xFF, 0x2F, 0])
    return struct.pack(">4sIHHH", b"MThd", 6, 0, 1, 500) + struct.pack(">4sI", b"MTrk", len(events)) + bytes(events)


def _length(value: int) -> bytes:
    parts = [value & 0x7F]
    while value := value >> 7:
        parts.append(0x80 | (value & 0x7F))
    return bytes(reversed(parts))


def _rendered(font: str, program: int | None, keys: list[int], velocity: int, note_s: float) -> list[tuple[int, Line]]:
    midi, wav = FOLDER / f"{font}-{program}-{velocity}.mid", FOLDER / f"{font}-{program}-{velocity}.wav"
    midi.write_bytes(_midi_file(program, keys, velocity, note_s))
    if font == "pat":
        command = ["timidity", "-c", "/etc/timidity/freepats.cfg", "-Ow", "-o", str(wav), "-s", str(RATE_HZ),
                   "--reverb=0", "--chorus=0", "--volume=60", str(midi)]  # fmt: skip
    else:
        command = ["fluidsynth", "-ni", "-q", "-R", "0", "-C", "0", "-g", "0.5", "-r", str(RATE_HZ), "-F", str(wav),
                   FONTS[font], str(midi)]  # fmt: skip
    subprocess.run(command, check=True, capture_output=True)
    sound, _ = soundfile.read(wav, dtype="float32", always_2d=True)
    line = sound.mean(axis=1)
    wav.unlink()
    midi.unlink()
    step, own = round((note_s + GAP_S) * RATE_HZ), round(note_s * RATE_HZ)
    return [(key, _from_attack(line[i * step : i * step + own])) for i, key in enumerate(keys)]


def _from_attack(sound: Line) -> Line:
    """From the first moment that is heard, as loud as others are."""
    top = float(np.abs(sound).max())
    if top < 1e-4:
        return np.zeros(RATE_HZ // 10, np.float32)
    smooth = scipy.ndimage.maximum_filter1d(np.abs(sound), 32)
    first = int(np.argmax(smooth > 0.05 * top))
    loud = np.sqrt(np.mean(sound[first : first + RATE_HZ // 4] ** 2)) + 1e-6
    return (sound[max(0, first - 16) :] * (0.12 / loud)).astype(np.float32)


def _tuned(key: float, sound: Line) -> tuple[float, Line]:
    """The pitch that a note really has, read from its partials within a third of a semitone of its name."""
    part = sound[RATE_HZ // 20 : RATE_HZ // 20 + RATE_HZ]
    if len(part) < RATE_HZ // 4:
        return key, sound
    size = 1 << 18
    spectrum = np.abs(np.fft.rfft(part * np.hanning(len(part)), size))
    offsets = np.arange(-40, 41)
    total = np.zeros(len(offsets))
    for h in range(1, 6):
        hz = 440 * 2 ** ((key - 69 + offsets / 100) / 12) * h
        if hz.max() < RATE_HZ / 2:
            line = spectrum[np.round(hz * size / RATE_HZ).astype(int)]
            total += line / (line.max() + 1e-9) * (0.9**h)
    return key + float(offsets[np.argmax(total)]) / 100, sound


# Recordings ------------------------------------------------------------------------------------------------------------


def _recorded(which: str) -> list[tuple[float, Line]]:
    archive = next(FOLDER.glob(f"tonejs-instrument-guitar-{which}-mp3-*.tgz"), None)
    if archive is None:
        subprocess.run(
            ["npm", "pack", "-q", f"tonejs-instrument-guitar-{which}-mp3"], check=True, cwd=FOLDER, capture_output=True
        )
        archive = next(FOLDER.glob(f"tonejs-instrument-guitar-{which}-mp3-*.tgz"))
    steps = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
    found = []
    with tarfile.open(archive) as tar:
        for member in tar.getmembers():
            name = re.fullmatch(r"package/([A-G])(s?)(\d)\.mp3", member.name)
            if name is None:
                continue
            stored = tar.extractfile(member)
            assert stored is not None
            sound, rate = soundfile.read(BytesIO(stored.read()), dtype="float32", always_2d=True)
            line = scipy.signal.resample_poly(sound.mean(axis=1), RATE_HZ, rate).astype(np.float32)
            key = 12 * (int(name[3]) + 1) + steps[name[1]] + (1 if name[2] else 0)
            found.append(_tuned(key, _from_attack(line[: round(NOTE_S * RATE_HZ)])))
    return found


# Strings ---------------------------------------------------------------------------------------------------------------


def delay_line(seed: int) -> list[tuple[float, Line]]:
    """A plucked string as a loop of delay with a loss that grows with frequency (Karplus and Strong 1983, extended by
    Jaffe and Smith): the pick's place, its hardness, the pickup's place and the damping are the seed's."""
    rng = np.random.default_rng([seed, 5])
    place, pickup = rng.uniform(0.06, 0.3), rng.uniform(0.04, 0.25)
    bright, stretch, hard = rng.uniform(0.2, 0.75), rng.uniform(0.45, 0.5), rng.uniform(0.05, 0.6)
    found = []
    for key in KEYS:
        hz = 440 * 2 ** ((key - 69) / 12)
        period = RATE_HZ / hz
        delay = int(period - 0.5)
        part = period - 0.5 - delay
        tuning = (1 - part) / (1 + part)
        burst = rng.standard_normal(delay + 1)
        burst = scipy.signal.lfilter([1 - hard], [1, -hard], burst)
        excite = np.zeros(round(NOTE_S * RATE_HZ))
        excite[: len(burst)] = burst
        comb = np.zeros(max(2, round(period * place)) + 1)
        comb[0], comb[-1] = 1, -1
        excite = scipy.signal.lfilter(comb, [1], excite)
        # y = x + g * (loss, tuned by an all-pass) of y a period before.
        loss = (
            np.array([1 - stretch, stretch]) if bright < 0.5 else np.array([1 - 0.5 * (1 - bright), 0.5 * (1 - bright)])
        )
        gain = 10 ** (-3 * period / RATE_HZ / rng.uniform(2.0, 6.0))
        feedback = gain * np.convolve(loss, [tuning, 1.0])
        line = scipy.signal.lfilter([1.0, tuning], _loop([1.0, tuning], feedback, delay), excite)
        hear = np.zeros(max(2, round(period * pickup)) + 1)
        hear[0], hear[-1] = 1, -1
        line = scipy.signal.lfilter(hear, [1], line)
        found.append(_tuned(key, _from_attack(line.astype(np.float32))))
    return found


def _loop(head: list[float], feedback: NDArray[np.float64], delay: int) -> NDArray[np.float64]:
    out = np.zeros(delay + len(feedback))
    out[: len(head)] = head
    out[delay:] -= feedback
    return out


def travelling_waves() -> list[tuple[float, Line]]:
    """A string by its modes: stiff, struck at a point by a hammer of some width, each mode with a loss of its own
    (N. Fletcher and T. Rossing, The Physics of Musical Instruments, chapter 2). Takes no part in training."""
    rng = np.random.default_rng(99)
    t = np.arange(round(NOTE_S * RATE_HZ)) / RATE_HZ
    found = []
    for key in KEYS:
        hz = 440 * 2 ** ((key - 69) / 12)
        line = np.zeros(len(t))
        for n in range(1, int(min(60, 0.45 * RATE_HZ / hz))):
            f = n * hz * np.sqrt(1 + 1.2e-4 * n * n)
            weight = np.sin(np.pi * n * 0.19) * np.sin(np.pi * n * 0.11) / n * np.exp(-((n / 25) ** 2))
            dies = 1 / (0.35 + 1.5e-7 * f * f + hz / 900)
            line += weight * np.exp(-t / dies) * np.sin(2 * np.pi * f * t + rng.uniform(0, 0.4))
        pick = rng.standard_normal(len(t)) * np.exp(-t / 0.003) * 0.02
        found.append((float(key), _from_attack((line + pick).astype(np.float32))))
    return found
