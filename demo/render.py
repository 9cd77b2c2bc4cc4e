"""Renders the demo's recordings from the very documents that ship.

    python demo/render.py [NAME]       writes demo/*.ogg, and their hash and length into demo/*.json

The lead is the program's own guitar voice, a little behind the beat; the band (bass, brushed drums, an organ or an
electric piano) is made here of sines and noise, follows the document's chart, and swings as its feel says.
"""

from __future__ import annotations

import hashlib
import sys
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy import signal

from usagi.core.audio import RATE_HZ
from usagi.core.audio.voice import guitar
from usagi.core.chart.timeline import Change
from usagi.core.document.solo import Ground, Solo
from usagi.core.formats.document_json import RecordingReference, SoloDocument, read_document, write_document
from usagi.core.meter.bars import Bar
from usagi.core.meter.feel import expected_ticks
from usagi.core.meter.ticks import QUARTER
from usagi.core.playing.strings import string_events

Mono = NDArray[np.float64]
FOLDER = Path(__file__).parent
TAIL_S = 3.0


@dataclass(frozen=True)
class Mix:
    """How a piece is played: how late the lead is, and which keyboard stands behind it."""

    late_s: float
    organ: bool
    title: str


MIXES = {
    "lanterns-at-low-water": Mix(late_s=0.016, organ=True, title="Radio Fennick, reel 14"),
    "gull-weather": Mix(late_s=0.004, organ=False, title="Radio Fennick, reel 22"),
    "ferry-bell": Mix(late_s=0.02, organ=False, title="Radio Fennick, reel 40"),
    "slack-tide": Mix(late_s=0.019, organ=True, title="Radio Fennick, reel 52, in the hall"),
    "the-net-loft": Mix(late_s=0.006, organ=False, title="Radio Fennick, reel 55"),
    "the-salt-road": Mix(late_s=0.012, organ=True, title="Radio Fennick, reel 31"),
}


def tone(hz: float, length_s: float, partials: dict[int, float], decay_s: float, attack_s: float = 0.006) -> Mono:
    t = np.arange(round(length_s * RATE_HZ)) / RATE_HZ
    wave = sum(a * np.sin(2 * np.pi * hz * k * t) * np.exp(-t * k**0.5 / decay_s) for k, a in partials.items())
    edge = np.minimum(1, t / attack_s) * np.minimum(1, np.maximum(0, length_s - t) / 0.03)
    return np.asarray(wave * edge)


def hz(midi: float) -> float:
    return float(440.0 * 2 ** ((midi - 69) / 12))


class Band:
    """Gathers sounds on a stereo tape."""

    def __init__(self, ground: Ground, length_s: float) -> None:
        self.ground = ground
        self.tape = np.zeros((round(length_s * RATE_HZ), 2))
        self.dice = np.random.default_rng(7)

    def second(self, tick: float) -> float:
        """Where the band plays a written place: with its feel."""
        moved = expected_ticks([int(tick)], [int(tick)], self.ground.timeline.bars, self.ground.timeline.feels)[0]
        return self.ground.grid.second(moved)

    def put(self, sound: Mono, at_s: float, level: float, pan: float) -> None:
        start = round(at_s * RATE_HZ)
        if start < 0:
            sound, start = sound[-start:], 0
        sound = sound[: max(0, len(self.tape) - start)]
        self.tape[start : start + len(sound), 0] += level * sound * np.cos((pan + 1) * np.pi / 4)
        self.tape[start : start + len(sound), 1] += level * sound * np.sin((pan + 1) * np.pi / 4)

    def play(self, organ: bool) -> None:
        bars = self.ground.timeline.bars
        for bar in bars.bars:
            last = bar.number == bars.bars[-1].number
            if bar.meter.compound:
                self._in_twelve(bar, last)
                continue
            self._drums(bar.tick, bar.ticks, last, counting=bar.number == 0)
            if bar.number >= 1:
                self._bass(bar.tick, bar.ticks, last)
                self._keys(bar.tick, bar.ticks, organ, last)

    def _in_twelve(self, bar: Bar, last: bool) -> None:
        """A slow shuffle: brushes on every pulse and its third part, bass on the pulses, an organ held under them."""
        eighth = QUARTER // 2
        for number, (_, at) in enumerate(bar.pulse_ticks()):
            if last and number:
                break
            for part, level in ((0, 0.06 if number % 2 else 0.035), (2, 0.03)):
                brush = signal.lfilter([1, -0.7], [1], self.dice.standard_normal(round(0.2 * RATE_HZ)))
                shape = np.exp(-np.arange(len(brush)) / (0.05 * RATE_HZ))
                self.put(brush * shape, self.second(at + part * eighth), level, 0.25)
            if number % 2 == 0:
                t = np.arange(round(0.16 * RATE_HZ)) / RATE_HZ
                kick = np.sin(2 * np.pi * (52 * t + 3 * (1 - np.exp(-t / 0.02)) / 2)) * np.exp(-t / 0.06)
                self.put(kick, self.second(at), 0.3, 0.0)
            change = self._change(at)
            if change is None or change.heard is None:
                continue
            length = (4.0 if last else 1.0) * (self.second(at + 3 * eighth) - self.second(at))
            root = 31 + (change.heard.root.pitch_class - 31) % 12
            step = (0, 4, 7, 9)[number % 4] if {4, 7} <= set(change.heard.names) else (0, 0, 6, 0)[number % 4]
            strings = {1: 1.0, 2: 0.55, 3: 0.25, 4: 0.12}
            self.put(tone(hz(root + step), 0.95 * length, strings, 0.9), self.second(at), 0.27, -0.05)
            for slot in [slot for slot in sorted(change.heard.names) if slot not in (0, 7)][:3]:
                midi = 55 + (change.heard.root.pitch_class + slot - 55) % 12
                held = tone(hz(midi), 0.92 * length, {1: 1, 2: 0.5, 3: 0.22, 4: 0.12}, 6.0, 0.02)
                self.put(held, self.second(at), 0.035, 0.45)

    def _change(self, tick: int) -> Change | None:
        return self.ground.timeline.chord_at(tick)

    def _drums(self, tick: int, ticks: int, last: bool, *, counting: bool) -> None:
        for beat in range(ticks // QUARTER):
            at = tick + beat * QUARTER
            if last and beat:
                break
            brush = signal.lfilter([1, -0.7], [1], self.dice.standard_normal(round(0.22 * RATE_HZ)))
            shape = np.exp(-np.arange(len(brush)) / (0.05 * RATE_HZ))
            backbeat = beat % 2 == 1
            self.put(brush * shape, self.second(at), 0.075 if backbeat else 0.03, 0.25)
            if counting:
                continue
            ride = self.dice.standard_normal(round(0.18 * RATE_HZ)) * np.exp(-np.arange(round(0.18 * RATE_HZ)) / 2400)
            ride = signal.sosfilt(signal.butter(2, 6_500, "highpass", fs=RATE_HZ, output="sos"), ride)
            self.put(ride, self.second(at), 0.05, -0.35)
            if backbeat:
                self.put(ride, self.second(at + QUARTER // 2), 0.035, -0.35)
            if beat % 2 == 0:
                t = np.arange(round(0.16 * RATE_HZ)) / RATE_HZ
                kick = np.sin(2 * np.pi * (52 * t + 3 * (1 - np.exp(-t / 0.02)) / 2)) * np.exp(-t / 0.06)
                self.put(kick, self.second(at), 0.3, 0.0)

    def _bass(self, tick: int, ticks: int, last: bool) -> None:
        strings = {1: 1.0, 2: 0.55, 3: 0.25, 4: 0.12, 5: 0.05}
        for beat in range(ticks // QUARTER):
            at = tick + beat * QUARTER
            change = self._change(at)
            if change is None or change.heard is None or (last and beat):
                continue
            begins = change.tick >= at - QUARTER // 2 and change.tick <= at
            root = 28 + (change.heard.root.pitch_class - 28) % 12
            names = change.heard.names
            fifth = next((slot for slot in (7, 6, 8) if slot in names), 7)
            third = next((slot for slot in (3, 4, 5) if slot in names), 7)
            walk = (0, third, fifth, fifth - 12 + 7 if fifth == 7 else fifth)
            step = 0 if begins or beat == 0 else walk[beat % 4]
            following = self._change(at + QUARTER)
            if beat % 4 == 3 and following is not None and following.heard is not None and following.id != change.id:
                goal = 28 + (following.heard.root.pitch_class - 28) % 12
                step = goal - 1 - root
            length = self.second(at + QUARTER) - self.second(at)
            self.put(
                tone(hz(root + step), (3.0 if last else 0.95) * length, strings, 0.9), self.second(at), 0.26, -0.05
            )

    def _keys(self, tick: int, ticks: int, organ: bool, last: bool) -> None:
        places = ((0, 3), (3, 2), (6, 1)) if organ else ((0, 2), (2, 2), (4, 3), (7, 1))
        for eighth, length in places:
            at = tick + eighth * QUARTER // 2
            if at >= tick + ticks or (last and eighth):
                continue
            change = self._change(at)
            if change is None or change.heard is None:
                continue
            slots = [slot for slot in sorted(change.heard.names) if slot not in (0, 7)][:4]
            span = self.second(at + length * QUARTER // 2) - self.second(at)
            for i, slot in enumerate(slots):
                midi = 55 + (change.heard.root.pitch_class + slot - 55) % 12
                if organ:
                    sound = tone(hz(midi), span * (2.5 if last else 0.8), {1: 1, 2: 0.5, 3: 0.22, 4: 0.12}, 6.0, 0.012)
                    self.put(sound, self.second(at), 0.035, 0.5)
                else:
                    sound = tone(hz(midi), span * (2.5 if last else 1.0), {1: 1, 2: 0.25, 7: 0.05}, 0.8, 0.003)
                    self.put(sound, self.second(at) + 0.004 * i, 0.055, 0.4 - 0.25 * i)


def room(sound: NDArray[np.float64], seconds: float, seed: int) -> NDArray[np.float64]:
    """A small hall of decaying noise, different for each side."""
    dice = np.random.default_rng(seed)
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    out = []
    for _ in range(2):
        tail = dice.standard_normal(len(t)) * np.exp(-t * 6.9 / seconds)
        tail = signal.sosfilt(signal.butter(1, 4_000, fs=RATE_HZ, output="sos"), tail)
        out.append(signal.fftconvolve(sound, tail / np.sqrt(np.sum(tail**2)))[: len(sound)])
    return np.stack(out, axis=1)


def record(document: SoloDocument, mix: Mix) -> NDArray[np.float32]:
    """The whole recording, stereo."""
    ground: Ground = document.ground
    solo: Solo = document.solo
    length_s = ground.grid.second(ground.timeline.bars.end_tick) + TAIL_S
    band = Band(ground, length_s)
    band.play(mix.organ)
    lead = guitar(string_events(solo, ground, late_s=mix.late_s), length_s)[:, 0].astype(np.float64)
    dry = band.tape + 0.5 * lead[: len(band.tape), None] * np.array([0.78, 0.62])
    wet = room(0.35 * band.tape.mean(axis=1) + 0.4 * lead[: len(band.tape)], 1.3, 3)
    out = dry + 0.22 * wet
    fade = np.minimum(1, (len(out) - np.arange(len(out))) / (1.5 * RATE_HZ))[:, None]
    out = np.tanh(1.1 * out * fade)
    return (out * 0.89 / np.max(np.abs(out))).astype(np.float32)


def write_ogg(path: Path, sound: NDArray[np.float32]) -> None:
    """Opus in an Ogg file, written in blocks: one large write is known to crash the encoder."""
    with soundfile.SoundFile(path, "w", RATE_HZ, 2, format="OGG", subtype="OPUS", compression_level=0.6) as file:
        for start in range(0, len(sound), 16_384):
            file.write(sound[start : start + 16_384])


def main() -> None:
    for name, mix in MIXES.items():
        if sys.argv[1:] and name not in sys.argv[1:]:
            continue
        document = read_document((FOLDER / f"{name}.json").read_bytes())
        sound = record(document, mix)
        path = FOLDER / f"{name}.ogg"
        write_ogg(path, sound)
        reference = RecordingReference(
            sha256=hashlib.sha256(path.read_bytes()).hexdigest(), seconds=len(sound) / RATE_HZ, title=mix.title
        )
        whole = document.model_copy(update={"recording": reference})
        (FOLDER / f"{name}.json").write_bytes(write_document(whole))


if __name__ == "__main__":
    main()
