"""A solo played on an instrument, through an amplifier and a room, alone or with a band: what a microphone would get.

Everything at 44.1 kHz in one channel. A bent string is its note read at another pace, so that bends, slides and
vibrato keep the instrument's own tone.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from training.played import How, Line, Piece, Played
from training.sources import DRUMS, FONTS, RATE_HZ, Instrument, instrument, training_guitars
from training.spaces import Space, heard_through, some_space

CONTROL: Final = 64  # frames between two points of a pitch curve
AHEAD_S: Final = 0.02


@dataclass(frozen=True)
class Take:
    """A sound at 44.1 kHz, the solo that is heard in it, and how far from A = 440 it lies."""

    sound: Line
    piece: Piece
    cents: float
    lead_db: float | None  # over the band; none: alone
    instrument: str
    space: str


def take(
    piece: Piece,
    *,
    seed: int,
    guitar: str | None = None,
    lead_db: float | None = None,
    space: Space | None = None,
    mistuned: bool = True,
) -> Take:
    """A take of a piece. Without a space it is as some player's room and amplifier are."""
    rng = np.random.default_rng([seed, 3])
    name = str(rng.choice(training_guitars())) if guitar is None else guitar
    tool = _kept(name)
    cents = (
        float(rng.uniform(-45, 45))
        if mistuned and rng.random() < 0.5
        else float(rng.uniform(-6, 6))
        if mistuned
        else 0.0
    )
    piece, line = played(piece, tool, rng, cents)
    space = some_space(rng, tool.name) if space is None else space
    line = space.amplified(line, rng)
    if lead_db is not None:
        line = with_band(line, piece, lead_db, cents, rng)
    line = heard_through(line, space, rng)
    top = float(np.abs(line).max()) + 1e-9
    line = line * (float(rng.uniform(0.2, 0.95)) / top)
    return Take(line.astype(np.float32), piece, cents, lead_db, name, space.name)


@lru_cache(maxsize=80)
def _kept(name: str) -> Instrument:
    return instrument(name)


def played(piece: Piece, tool: Instrument, rng: np.random.Generator, cents: float) -> tuple[Piece, Line]:
    """The strings alone. The piece comes back with the ends that really sound."""
    out = np.zeros(round((piece.length_s + 1.5) * RATE_HZ), np.float32)
    by_string: dict[int, list[Played]] = {}
    for note in piece.notes:
        by_string.setdefault(note.string, []).append(note)
    for notes in by_string.values():
        chain: list[Played] = []
        for note in notes:
            if chain and note.how not in (How.HAMMERED, How.PULLED, How.SLID):
                _lay(out, chain, tool, rng, cents)
                chain = []
            chain.append(note)
        _lay(out, chain, tool, rng, cents)
    if rng.random() < 0.25:
        for at in rng.uniform(0.2, piece.length_s, int(rng.integers(1, 5))):
            _squeak(out, float(at), rng)
    return piece, out


def _lay(out: Line, chain: list[Played], tool: Instrument, rng: np.random.Generator, cents: float) -> None:
    """Notes of one string that are joined: one pluck, and what the left hand makes of it."""
    if not chain:
        return
    first, last = chain[0], chain[-1]
    dies = 0.012 if last.dead else float(rng.uniform(0.015, 0.06)) if not last.ring else float(rng.uniform(0.05, 0.25))
    length = last.end_s - first.onset_s + 5 * dies
    frames = round(length * RATE_HZ)
    at = np.arange(0, frames + CONTROL, CONTROL) / RATE_HZ
    midi = _curve(chain, at) + cents / 100
    pitch, sound = tool.nearest(first.starts_at, rng)
    step = 2.0 ** ((midi - pitch) / 12)
    phase = np.interp(
        np.arange(frames), np.arange(len(at)) * CONTROL, np.concatenate([[0.0], np.cumsum(step[:-1] * CONTROL)])
    )
    line = _read(sound, phase)
    for note in chain[1:]:
        line = _joined(line, note, first.onset_s, tool, rng, midi, cents)
    line *= _level(chain, frames, dies, rng)
    if first.palm_mute or first.dead:
        line = _dull(line, first.dead, rng)
    start = round(first.onset_s * RATE_HZ)
    line = line[: max(0, len(out) - start)]
    out[start : start + len(line)] += line


def _read(sound: Line, phase: np.ndarray) -> Line:
    """A sound read at other places, on lines between its frames; at its end it goes round its last second."""
    size = len(sound) - 2
    if size > RATE_HZ and phase[-1] >= size:
        turn = RATE_HZ // 2
        phase = np.where(phase < size, phase, size - turn + (phase - size) % turn)
    index = np.minimum(phase.astype(np.int64), size)
    part = (phase - index).astype(np.float32)
    return sound[index] * (1 - part) + sound[index + 1] * part


def _curve(chain: list[Played], at: np.ndarray) -> np.ndarray:
    """MIDI pitch along a chain. A slide passes over the frets; a bottleneck does not know them."""
    first = chain[0].onset_s
    midi = np.full(len(at), float(chain[0].midi))
    for i, note in enumerate(chain):
        start = note.onset_s - first
        here = at >= start
        midi[here] = note.midi + note.cents(at[here] - start) / 100
        if note.how is How.SLID and i:
            under = (at >= start - note.glide_s) & (at < start)
            share = (at[under] - start + note.glide_s) / note.glide_s
            apart = note.midi - chain[i - 1].midi
            over = share * apart
            frets = np.round(over)
            smooth = frets + np.clip((over - frets) * 2.2, -0.5, 0.5) ** 3 * 4  # stands on a fret, then moves on
            midi[under] = chain[i - 1].midi + (over if note.loud < 0.5 else smooth)
    return midi


def _joined(
    line: Line, note: Played, first_s: float, tool: Instrument, rng: np.random.Generator, midi: np.ndarray, cents: float
) -> Line:
    """What a hammer, a pull or the end of a slide adds to a string that already sounds."""
    at = round((note.onset_s - first_s) * RATE_HZ)
    if at >= len(line) - 200:
        return line
    if note.how is How.SLID:
        return line
    if rng.random() < 0.5:  # struck by the finger: a weaker note of its own takes over
        pitch, sound = tool.nearest(note.midi, rng)
        rest = len(line) - at
        control = midi[at // CONTROL :]
        step = 2.0 ** ((control - pitch) / 12)
        phase = np.concatenate([[0.0], np.cumsum(step[:-1] * CONTROL)])
        skip = float(rng.uniform(0.0, 0.03)) * RATE_HZ
        own = _read(sound, skip + np.interp(np.arange(rest), np.arange(len(control)) * CONTROL, phase))
        level = np.sqrt(np.mean(line[max(0, at - 2_000) : at] ** 2) + 1e-12) / (
            np.sqrt(np.mean(own[:4_000] ** 2)) + 1e-6
        )
        fade = np.clip(np.arange(rest) / (RATE_HZ * 0.008), 0, 1).astype(np.float32)
        line = line.copy()
        line[at:] = line[at:] * (1 - fade) + own * fade * np.float32(min(1.5, level * rng.uniform(0.6, 1.3)))
        return line
    line = line.copy()
    bump = 1 + float(rng.uniform(0, 0.6)) * np.exp(-np.arange(len(line) - at) / (RATE_HZ * 0.1))
    line[at:] *= bump.astype(np.float32)
    return line


def _level(chain: list[Played], frames: int, dies: float, rng: np.random.Generator) -> Line:
    first, last = chain[0], chain[-1]
    level = np.full(frames, first.loud, np.float32)
    held = round((last.end_s - first.onset_s) * RATE_HZ)
    level[held:] *= np.exp(-np.arange(frames - held) / (dies * RATE_HZ)).astype(np.float32)
    if first.how is How.SLID_IN and rng.random() < 0.5:
        rise = round(0.03 * RATE_HZ)
        level[:rise] *= np.linspace(0.2, 1, rise, dtype=np.float32)[: len(level[:rise])]
    for note in chain:
        if note.slide_off is not None:
            from_s = note.end_s - first.onset_s - note.slide_off[1]
            start = round(from_s * RATE_HZ)
            level[start:] *= np.exp(-np.arange(frames - start) / (0.5 * note.slide_off[1] * RATE_HZ)).astype(np.float32)
    return level


def _dull(line: Line, dead: bool, rng: np.random.Generator) -> Line:
    dies = float(rng.uniform(0.008, 0.02) if dead else rng.uniform(0.05, 0.16)) * RATE_HZ
    line = line * np.exp(-np.arange(len(line)) / dies).astype(np.float32)
    if dead:
        thump = rng.standard_normal(len(line)) * np.exp(-np.arange(len(line)) / (0.01 * RATE_HZ))
        line = 0.5 * line + 0.1 * np.convolve(thump, np.ones(24) / 24, "same").astype(np.float32)
    return line.astype(np.float32)


def _squeak(out: Line, at: float, rng: np.random.Generator) -> None:
    """A finger that runs along a wound string."""
    length = round(float(rng.uniform(0.05, 0.2)) * RATE_HZ)
    hz = np.linspace(rng.uniform(900, 2_200), rng.uniform(1_500, 3_500), length)
    noise = rng.standard_normal(length)
    tone = np.sin(2 * np.pi * np.cumsum(hz) / RATE_HZ) * (0.5 + 0.5 * noise)
    line = (tone * np.hanning(length) * rng.uniform(0.005, 0.04)).astype(np.float32)
    start = round(at * RATE_HZ)
    line = line[: max(0, len(out) - start)]
    out[start : start + len(line)] += line


# The band --------------------------------------------------------------------------------------------------------------


def with_band(
    lead: Line, piece: Piece, lead_db: float, cents: float, rng: np.random.Generator, font: str | None = None
) -> Line:
    band = band_alone(piece, len(lead), cents, rng, font)
    active = np.abs(lead) > 0.05 * np.abs(lead).max()
    lead_rms = float(np.sqrt(np.mean(lead[active] ** 2))) if active.any() else 1.0
    band_rms = float(np.sqrt(np.mean(band**2))) + 1e-9
    return (lead + band * (lead_rms / band_rms * 10 ** (-lead_db / 20))).astype(np.float32)


def band_alone(piece: Piece, frames: int, cents: float, rng: np.random.Generator, font: str | None = None) -> Line:
    """Bass, chords and drums over the chords of a piece."""
    out = np.zeros(frames, np.float32)
    font = str(rng.choice(list(FONTS))) if font is None else font
    bass = _kept(f"{font}-{rng.choice(('bass', 'upright'))}")
    comp = _kept(f"{font}-{rng.choice(('piano', 'epiano', 'organ', 'strings', 'steel', 'clean'))}")
    drums = _kept(f"{font}-drums")
    half, beat = 20_160, 10_080
    levels = rng.uniform(0.5, 1.2, 3) * (rng.random(3) > 0.12)
    if not levels.any():
        levels[0] = 1.0
    walking, stabs = rng.random() < 0.4, rng.random() < 0.5
    low = 40 + int(rng.integers(-2, 3))

    def lay(tool: Instrument, midi: float, at: float, until: float, loud: float) -> None:
        pitch, sound = tool.nearest(midi, rng)
        length = round(max(0.05, until - at) * RATE_HZ)
        tail = round(0.05 * RATE_HZ)
        line = _read(sound, np.arange(length + tail) * 2.0 ** ((midi + cents / 100 - pitch) / 12))
        line[length:] *= np.linspace(1, 0, len(line) - length, dtype=np.float32)
        start = round((at + float(rng.normal(0, 0.004))) * RATE_HZ)
        if start < 0:
            return
        line = line[: max(0, frames - start)]
        out[start : start + len(line)] += line * np.float32(loud)

    for i, (root, quality) in enumerate(piece.chords):
        third = 3 if quality.startswith("m") else 4
        tones = [0, third, 7, *((10,) if "7" in quality else ())]
        begin, end = i * half, (i + 1) * half
        for b in range(2):
            at, until = piece.second(begin + b * beat), piece.second(begin + (b + 1) * beat)
            step = int(rng.choice((0, third, 7, 12))) if walking and b else 0
            if b == 0 or walking or rng.random() < 0.3:
                lay(
                    bass, low + (root - low) % 12 + step - (12 if rng.random() < 0.1 else 0), at, until, 1.1 * levels[0]
                )
            hat = piece.second(begin + b * beat + beat // 2)
            for place in (at, hat):
                lay(drums, DRUMS["hat"], place, place + 0.3, 0.5 * levels[2] * rng.uniform(0.6, 1))
            lay(
                drums,
                DRUMS["kick" if (i + b) % 2 == 0 or rng.random() < 0.2 else "snare"],
                at,
                at + 0.6,
                1.3 * levels[2],
            )
        base = 55 + int(rng.integers(-3, 4))
        if stabs:
            for b in range(4):
                if rng.random() < 0.5:
                    at = piece.second(begin + b * beat // 2)
                    for tone in tones:
                        lay(comp, base + (root + tone - base) % 12, at, at + rng.uniform(0.1, 0.3), 0.5 * levels[1])
        else:
            for tone in tones:
                lay(comp, base + (root + tone - base) % 12, piece.second(begin), piece.second(end), 0.5 * levels[1])
    return out
