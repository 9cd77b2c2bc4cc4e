"""What is practised with: the recording, the writing, a vamp and a count, each at its level, at any speed and key."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from usagi.core.audio import RATE_HZ, Sound, from_stored, to_stored
from usagi.core.audio.band import BandEvent, band
from usagi.core.audio.clicks import clicks
from usagi.core.audio.levels import limited
from usagi.core.audio.stretch import MOST_CENTS, check_speed, piece_frames
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.document.solo import Ground
from usagi.core.harmony.heard import hear
from usagi.core.harmony.symbols import parse_chord
from usagi.core.meter.counting import School
from usagi.core.playing.counted import counted
from usagi.core.playing.loops import count_in
from usagi.core.playing.vamp import VampStyle, played_at, vamp
from usagi.flows.sound.pieces import (
    CLICK_LEVEL,
    Channels,
    Piece,
    PieceImpossible,
    Source,
    grid_clicks,
    pcm_of,
    stretched_piece,
    wav_bytes,
    written_piece,
)
from usagi.flows.workspace import Workspace
from usagi.media.spoken import spoken

VAMP = 1  # number of the vamp; raised when it would sound otherwise
FARTHEST_KEY = 11  # semitones either way
RECORDED_KEY = MOST_CENTS // 100  # semitones that a recording can be moved
SPOKEN_LEVEL = 0.6


class Count(StrEnum):
    NONE = "none"
    CLICKS = "clicks"
    SPOKEN = "spoken"


@dataclass(frozen=True, slots=True)
class Mix:
    """Levels from 0 to 1, the count, and how far the key moves in semitones.

    `style` and `over` are the vamp's: over what the chart asks for, and one chord instead of it.
    """

    recording: float = 1.0
    voice: float = 0.0
    vamp: float = 0.0
    count: Count = Count.NONE
    key: int = 0
    style: VampStyle | None = None
    over: str = ""
    school: School = School.A

    @property
    def recording_sounds(self) -> bool:
        """A recording is moved two semitones at most; further away it is silent."""
        return self.recording > 0 and abs(self.key) <= RECORDED_KEY


def mixed(workspace: Workspace, source: Source, wanted: Piece, mix: Mix, report: Report = unreported) -> bytes:
    """A piece of everything that is wanted together, a WAV file as long as the piece alone would be.

    Raises : PieceImpossible, SpeedImpossible; ChordUnreadable, for a vamp over a chord that cannot be read.
    """
    check_speed(wanted.speed_permille, wanted.cents)
    if abs(mix.key) > FARTHEST_KEY:
        raise PieceImpossible(f"The key moves {FARTHEST_KEY} half steps at most either way.")
    plain = replace(wanted, clicks=False, number=None)
    frames = piece_frames(wanted.end - wanted.start, wanted.speed_permille) + wanted.tail
    moved = replace(plain, cents=plain.cents + 100 * mix.key)
    layers: list[tuple[float, Sound]] = []
    if mix.recording_sounds and source.recording is not None:
        cents = max(-MOST_CENTS, min(MOST_CENTS, moved.cents))
        layers.append((mix.recording, _sound(stretched_piece(workspace, source, replace(moved, cents=cents), report))))
    if mix.voice > 0:
        layers.append((mix.voice, _sound(written_piece(workspace, source, replace(moved, channels=Channels.BOTH)))))
    if mix.vamp > 0:
        layers.append((mix.vamp, _vamp(source.ground, moved, mix, frames)))
    if mix.count is not Count.NONE:
        layers.append((1.0, _count(source, plain, mix, frames)))
    width = max((sound.shape[1] for _, sound in layers), default=1)
    out = np.zeros((frames, width), np.float32)
    for level, sound in layers:
        out[: len(sound)] += level * sound[:frames]
    return wav_bytes(to_stored(limited(out)))


def count_in_sound(source: Source, tick: int, speed_permille: int, mix: Mix) -> bytes:
    """One bar counted before a tick, clicked or spoken, as a WAV file of exactly its length."""
    check_speed(speed_permille, 0)
    wanted = count_in(source.ground, tick, speed_permille=speed_permille)
    if mix.count is not Count.SPOKEN:
        return wav_bytes(to_stored(clicks(wanted.at_s, wanted.length_s)))
    words = [(second, str(beat)) for (second, _), beat in zip(wanted.at_s, wanted.beats, strict=True)]
    return wav_bytes(to_stored(limited(_said(words, round(wanted.length_s * RATE_HZ), loop=False))))


def vamp_of(ground: Ground, start_s: float, end_s: float, mix: Mix) -> list[BandEvent]:
    """The strokes of a vamp around some seconds of a recording, at the recorded tempo and key."""
    tick, end = round(ground.grid.tick(start_s)), round(ground.grid.tick(end_s))
    over = hear(parse_chord(mix.over)) if mix.over else None
    return vamp(ground, tick, max(tick + 1, end), style=mix.style, over=over)


def _vamp(ground: Ground, wanted: Piece, mix: Mix, frames: int) -> Sound:
    speed = wanted.speed_permille / 1_000
    start_s, end_s = wanted.start / RATE_HZ, (wanted.end + wanted.tail) / RATE_HZ
    semitones = (ground.settings.offset_cents + wanted.cents) / 100
    events = played_at(vamp_of(ground, start_s, end_s, mix), speed, semitones)
    return band(events, start_s / speed, frames, loop=wanted.loop)


def _count(source: Source, wanted: Piece, mix: Mix, frames: int) -> Sound:
    if mix.count is Count.CLICKS:
        return grid_clicks(source.ground, wanted, frames)
    speed = wanted.speed_permille / 1_000
    grid = source.ground.grid
    start_s, end_s = wanted.start / RATE_HZ, wanted.end / RATE_HZ
    tick, end = round(grid.tick(start_s)), round(grid.tick(end_s))
    words = counted(source.solo, source.ground, tick, max(tick + 1, end), speed=speed, school=mix.school)
    at = [((word.second - start_s) / speed, word.word) for word in words if start_s <= word.second < end_s]
    return _said(at, frames, loop=wanted.loop)


def _said(words: list[tuple[float, str]], frames: int, *, loop: bool) -> Sound:
    """Words at their seconds; one that has no sound is a click. In a loop what rings beyond its end begins it."""
    out = np.zeros((frames, 1), np.float32)
    for second, word in words:
        sound = spoken(word)
        level = SPOKEN_LEVEL
        if sound is None:
            sound, level = clicks([(0.0, False)], 0.03), CLICK_LEVEL
        at = round(second * RATE_HZ)
        first = sound[: max(0, frames - at)]
        out[at : at + len(first)] += level * first
        if loop and len(first) < len(sound):
            rest = sound[len(first) :][:frames]
            out[: len(rest)] += level * rest
    return out


def _sound(wav: bytes) -> Sound:
    return from_stored(pcm_of(wav))
