"""Beats and the first of each bar, heard in the sound of a band.

The pulse is followed through the strength of onsets (core/audio/pulse.py); its beats are drawn to what is struck
beside them, because frames are coarse. Which beat is the first of a bar is judged from the bass, from changes of
harmony and from what is struck hardest. Twice and half the pace are as true to a listener, so they are offered too.

In a compound meter what is heard may be its pulse, every second eighth or the eighths themselves: what is struck
between the beats tells, and the first that is offered is the pulse.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import soxr
from numpy.typing import NDArray

from usagi.core.audio import RATE_HZ, Sound
from usagi.core.audio.onsets import OnsetStream
from usagi.core.audio.pulse import follow, onset_strength
from usagi.core.audio.spectra import BLOCK, Table, mel_bands, pitch_classes, power
from usagi.core.audio.sureness import FIRST_WEIGHTS, PACE_WEIGHTS, chance, first_facts, pace_facts
from usagi.core.audio.vocoder import Report, unreported

Line = NDArray[np.float64]

HEARD_HZ: Final = 22_050
HOP: Final = 256
REACH_S: Final = 0.045  # from a beat to what is struck beside it
BASS_HZ: Final = 180.0
FEWEST: Final = 8
EIGHTHS: Final = 3  # in the pulse of a compound meter
SURE, PERHAPS = 0.85, 0.6
CLEAR: Final = 0.9  # of beat 1
MISTAKEN: Final = (2 / 3, 3 / 2, 3 / 4, 4 / 3)  # what a pace is taken for
CHANGED: Final = 0.1  # how much surer another pace must be
SLOWEST_BPM, FASTEST_BPM = 50.0, 230.0
OFF_BEATS: Final = 0.16  # of the bass on the beats, less than this begins between them
FILLED: Final = 0.3  # of the places between beats, when they are eighths that the band plays
BESIDE_S: Final = 0.03  # from such a place to what is struck there
SLOWEST_EIGHTHS: Final = 100.0  # a minute; a pace below it that nothing divides is a pulse


@dataclass(frozen=True)
class Pace:
    """One way to count: seconds of the beats, the first of them a first of a bar."""

    name: str
    bpm: float
    beats: tuple[float, ...]


@dataclass(frozen=True)
class BeatsHeard:
    """What was heard. `struck` is the share of beats on which something begins; `sure` and `first_sure` are how likely
    the first pace (half and twice that count as right) and its beat 1 are."""

    paces: tuple[Pace, ...]  # the likeliest first
    struck: float
    sure: float
    first_sure: float

    @property
    def doubt(self) -> str:
        """The word of doubt about the pace; empty when it is sure."""
        return "" if self.sure >= SURE else "perhaps" if self.sure >= PERHAPS else "a guess"

    @property
    def first_doubt(self) -> str:
        """The word of doubt about beat 1; empty when it is clear."""
        return "" if self.first_sure >= CLEAR else "a guess"

    @property
    def sentence(self) -> str:
        """What was heard, in words: of the pace, and of beat 1."""
        heard = self.paces[0]
        sure = {"": "", "perhaps": ", perhaps"}.get(self.doubt, ", but that is a guess")
        first = "beat 1 is a guess: check it" if self.first_doubt else "beat 1 is clear"
        begins = f"something begins on {self.struck:.0%} of {len(heard.beats)} beats"
        return f"About {heard.bpm:.0f} a minute{sure}: {begins}; {first}."


def hear_beats(
    parts: Iterable[Sound], pulses: int, report: Report = unreported, *, compound: bool = False
) -> BeatsHeard | None:
    """The beats of a sound; None when no pulse is heard.

    Parameters
    ----------
    parts : the sound in order, some seconds at once, so that a long one is never held whole: float32, shape (frames,
        channels), at 48 kHz.
    pulses : in a bar.
    report : called with the share that is done, 0 to 1.
    compound : whether three eighths go into a pulse.
    """
    line, struck_at = _line_and_onsets(parts)
    if len(line) < HEARD_HZ:
        return None
    report(0.2)
    spectrum = _spectrum(line)
    strength = onset_strength(spectrum.bands, hop=HOP)
    report(0.4)

    def followed(bpm: float | None = None) -> tuple[Line, float]:
        frames = follow(strength, frames_per_s=HEARD_HZ / HOP, bpm=bpm)
        return _drawn(frames * HOP / HEARD_HZ, struck_at)

    beats, struck = followed()
    if len(beats) < FEWEST:
        return None
    mistaken = () if compound else MISTAKEN  # which eighths were followed is asked below
    beats, struck, sure = _likeliest_pace(beats, struck, followed, strength, mistaken)
    if not compound and _bpm(beats) >= 2 * SLOWEST_BPM:
        beats = _without_off_beats(beats, spectrum.low)
    report(0.6)
    step = _eighths_in(beats, struck_at) if compound else EIGHTHS
    if step < EIGHTHS:  # what was followed was no pulse: that is followed anew, so that it slips to no other eighth
        beats, struck = followed(_bpm(beats) * step / EIGHTHS)
        if len(beats) < FEWEST:
            return None
    report(0.7)
    first, first_sure = _first_of_bar(beats, strength, spectrum, pulses, struck)
    report(1.0)
    return BeatsHeard(_paces(beats[first:], step, strength), struck, sure, first_sure)


def _likeliest_pace(
    beats: Line,
    struck: float,
    followed: Callable[[float], tuple[Line, float]],
    strength: Line,
    mistaken: Sequence[float],
) -> tuple[Line, float, float]:
    """Of the pace that was followed and those that it is mistaken for, the likeliest; and how sure it is."""
    found = [(_sure_of(beats, struck, strength), beats, struck)]
    for factor in mistaken:
        bpm = _bpm(beats) * factor
        if SLOWEST_BPM <= bpm <= FASTEST_BPM:
            other, hit = followed(bpm)
            if len(other) >= FEWEST and abs(_bpm(other) / bpm - 1) < 0.08:
                found.append((_sure_of(other, hit, strength) - CHANGED, other, hit))
    sure, best, hit = max(found, key=lambda one: one[0])
    return best, hit, max(0.0, sure)


def _facts_of(beats: Line, struck: float, strength: Line) -> Line:
    return pace_facts(np.round(beats * HEARD_HZ / HOP).astype(np.int64), strength, struck, _bpm(beats))


def _sure_of(beats: Line, struck: float, strength: Line) -> float:
    return chance(_facts_of(beats, struck, strength), PACE_WEIGHTS)


@dataclass(frozen=True)
class _Spectrum:
    """What is known of every frame: power in bands as the ear has them, power by pitch class, loudness of the bass."""

    bands: Table
    classes: Table
    low: Line


def _spectrum(line: Table) -> _Spectrum:
    mel, lowest = mel_bands(HEARD_HZ), round(BASS_HZ * BLOCK / HEARD_HZ)
    bands, classes, low = [], [], []
    for part in power(line, hop=HOP):
        bands.append(mel @ part)
        classes.append(pitch_classes(part, rate_hz=HEARD_HZ))
        low.append(np.sqrt(part[:lowest]).sum(axis=0))
    return _Spectrum(np.concatenate(bands, axis=1), np.concatenate(classes, axis=1), np.concatenate(low))


def _line_and_onsets(parts: Iterable[Sound]) -> tuple[Table, Line]:
    """The sound in one channel at the rate of hearing, and the seconds at which something is struck."""
    stream, strikes = soxr.ResampleStream(RATE_HZ, HEARD_HZ, 1, dtype="float32"), OnsetStream()
    lines: list[Table] = []
    struck = []
    for part in parts:
        mixed = part.mean(axis=1, keepdims=True, dtype=np.float32)
        lines.append(stream.resample_chunk(mixed[:, 0]))
        struck.append(strikes.feed(mixed))
    lines.append(stream.resample_chunk(np.zeros(0, np.float32), last=True))
    return np.concatenate(lines), np.concatenate([*struck, strikes.end()]) / RATE_HZ


def _bpm(beats: Line) -> float:
    return 60 / float(np.median(np.diff(beats)))


def _drawn(beats: Line, struck_at: Line) -> tuple[Line, float]:
    """Beats drawn to what is struck beside them, those between on a line through their neighbours; the share struck."""
    if len(struck_at) == 0:
        return beats, 0.0
    after = np.clip(np.searchsorted(struck_at, beats), 1, max(1, len(struck_at) - 1))
    near = np.stack([struck_at[after - 1], struck_at[np.minimum(after, len(struck_at) - 1)]])
    off = near - beats
    nearest = np.take_along_axis(off, np.argmin(np.abs(off), axis=0)[None], axis=0)[0]
    lag = float(np.median(nearest[np.abs(nearest) < REACH_S])) if np.any(np.abs(nearest) < REACH_S) else 0.0
    close = np.abs(nearest - lag) < REACH_S
    number = np.arange(len(beats))
    drawn = np.where(close, beats + nearest, np.nan)
    if close.sum() >= 2:
        drawn = np.where(close, drawn, np.interp(number, number[close], drawn[close]))
        drawn[: number[close][0]] = beats[: number[close][0]] + lag
        drawn[number[close][-1] + 1 :] = beats[number[close][-1] + 1 :] + lag
    else:
        drawn = beats
    return np.maximum.accumulate(drawn + 1e-6 * number), float(close.mean())


def _eighths_in(beats: Line, struck_at: Line) -> int:
    """How many eighths of a compound meter go into a heard beat: 3 in a pulse, 2, or 1 where eighths were heard."""

    def filled(part: float) -> float:
        at = beats[:-1] + part * np.diff(beats)
        after = np.clip(np.searchsorted(struck_at, at), 1, max(1, len(struck_at) - 1))
        near = np.stack([struck_at[after - 1], struck_at[np.minimum(after, len(struck_at) - 1)]])
        return float(np.mean(np.abs(near - at).min(axis=0) < BESIDE_S))

    if len(struck_at) == 0:
        return EIGHTHS
    halves, thirds = filled(1 / 2), (filled(1 / 3) + filled(2 / 3)) / 2
    if max(halves, thirds) < FILLED:
        return 1 if _bpm(beats) > SLOWEST_EIGHTHS else EIGHTHS
    return 2 if halves > thirds else EIGHTHS


def _without_off_beats(beats: Line, low: Line) -> Line:
    """Every other beat, when the bass plays on those alone: the others are off-beats that cymbals play."""
    bass = _bass_on(beats, low)
    halves = [float(bass[::2].mean()), float(bass[1::2].mean())]
    stronger = int(np.argmax(halves))
    return beats[stronger::2] if min(halves) < OFF_BEATS * max(halves) else beats


def _bass_on(beats: Line, low: Line) -> Line:
    """How much louder the bass is behind each beat than before it."""
    at = np.clip(np.round(beats * HEARD_HZ / HOP).astype(int), 2, len(low) - 3)
    return np.array([low[k : k + 6].max() - low[max(0, k - 6) : k - 1].mean() for k in at])


def _first_of_bar(beats: Line, strength: Line, spectrum: _Spectrum, pulses: int, struck: float) -> tuple[int, float]:
    """Which of the first `pulses` beats begins a bar, and how clear that is, 0 to 1."""
    if pulses < 2 or len(beats) < 2 * pulses:
        return 0, 0.0
    line = _evidence(beats, strength, spectrum)
    first = int(np.argmax([line[phase::pulses].mean() for phase in range(pulses)]))
    pace = _facts_of(beats, struck, strength)
    return first, chance(first_facts(line, pulses, pace, chance(pace, PACE_WEIGHTS)), FIRST_WEIGHTS)


def _evidence(beats: Line, strength: Line, spectrum: _Spectrum) -> Line:
    """For every beat how much it sounds like the first of a bar: by its bass, its force, and a change of harmony."""
    chroma, low = spectrum.classes, spectrum.low
    at = np.clip(np.round(beats * HEARD_HZ / HOP).astype(int), 2, len(low) - 3)
    bass = _bass_on(beats, low)
    hard = np.array([strength[k - 2 : k + 3].max() for k in at])
    spans = [chroma[:, a:b].mean(axis=1) for a, b in zip(at, [*at[1:], at[-1] + 40], strict=True)]
    shapes = np.array([span / (np.linalg.norm(span) + 1e-9) for span in spans])
    change = np.concatenate([[0.0], 1 - np.sum(shapes[1:] * shapes[:-1], axis=1)])
    evidence = sum(weight * _level(line) for weight, line in ((1.0, bass), (0.5, hard), (1.5, change)))
    return np.asarray(evidence)


def _level(line: Line) -> Line:
    scaled: Line = (line - line.mean()) / (line.std() + 1e-9)
    return np.clip(scaled, -2.5, 2.5)


def _paces(pulse: Line, step: int, strength: Line) -> tuple[Pace, ...]:
    """From a first on; where another pace was heard than the pulse, that stands behind it.

    Half as fast are two sets of alternate beats, the stronger first: where a pace is heard double, either may be right.
    """
    found = [({1: "a third as fast", 2: "two thirds as fast", EIGHTHS: "as heard"}[step], pulse)]
    if step < EIGHTHS:
        found.append(("as heard", _divided(pulse, EIGHTHS)[::step]))
    halved = "half as fast" if step == EIGHTHS else "half of that"
    doubled = "twice as fast" if step == EIGHTHS else "twice that"
    halves = sorted(
        ((halved, pulse[::2]), (f"{halved}, the other beats", pulse[1::2])),
        key=lambda half: -_strong(half[1], strength),
    )
    found += [half for half in halves if len(half[1]) > 1]
    found.append((doubled, _divided(pulse, 2)))
    return tuple(Pace(name, round(_bpm(line), 1), tuple(round(float(s), 4) for s in line)) for name, line in found)


def _strong(beats: Line, strength: Line) -> float:
    """The mean onset strength on the beats."""
    at = np.clip(np.round(beats * HEARD_HZ / HOP).astype(int), 0, len(strength) - 1)
    return float(np.mean(strength[at])) if len(at) else 0.0


def _divided(beats: Line, parts: int) -> Line:
    return np.interp(np.arange(parts * (len(beats) - 1) + 1) / parts, np.arange(len(beats)), beats)
