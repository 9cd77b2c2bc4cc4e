"""Which notes are heard in a sound, under a teacher's hints."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from usagi.core.listening.facts import Judge, before, facts_of
from usagi.core.listening.hints import Company, Hints, Texture
from usagi.core.listening.net import Said
from usagi.core.listening.notes import Track, ended_by, tracks
from usagi.core.listening.spectrum import FRAMES_PER_S, LOWEST_KEY
from usagi.core.listening.technique import BendHeard, Joined, Judged, VibratoHeard, played


@dataclass(frozen=True)
class Limits:
    """How sure a track must be to be a note."""

    line: float  # one that starts alone
    together: float  # one that starts with a surer one
    most: int  # that start together
    cluster_s: float


STEP_OF_MORE: Final = 0.12
RINGS_AFTER, RINGS_ON = 6, 20  # frames
LEAST_DEAD: Final = 0.6
DEAD_APART: Final = 5  # frames from a note with a pitch
DEAD_S: Final = 0.05
MOST_DEAD: Final = 0.5  # how sure a dead note is at most
LEAST_FAINT: Final = 0.02  # how likely a note is that is kept though it is not offered
RAKE_FRAMES: Final = 13  # before a note, in which strings are brushed on the way to it
BRUSHED: Final = 0.2  # of what is dead, in a rake
RAKE_GAP: Final = 4  # frames without it that a rake goes on over, and from its end to the note
LEAST_RAKE: Final = 5  # frames from its start to the note: one dead stroke is shorter
RAKE_STROKE: Final = 2.2  # frames between two strings
WITH_A_BAND: Final = Limits(0.45, 0.6, 2, 0.06)
LIMITS: Final = {
    Texture.AUTO: Limits(0.35, 0.3, 6, 0.06),
    Texture.LINE: Limits(0.35, 2.0, 1, 0.045),
    Texture.RING: Limits(0.4, 0.35, 6, 0.06),
    Texture.TWO: Limits(0.25, 0.07, 2, 0.05),
    Texture.STRUM: Limits(0.4, 0.3, 6, 0.13),
}
LIKELY_BESIDE: Final = 0.05  # of an onset on another key, to be offered in the place of a note


@dataclass(frozen=True)
class HeardNote:
    """One note. `midi` is the fretted pitch; `cents` lie above it, one a frame of 11.6 ms."""

    onset_s: float
    end_s: float
    midi: int
    confidence: float
    joined: Joined
    bend: BendHeard | None
    vibrato: VibratoHeard | None
    cents: NDArray[np.float64]
    others: tuple[int, ...] = ()  # likely pitches in its place, then octaves
    dead: bool = False
    rings: bool = False  # on under the next note, on its own string
    slid_from: int = 0  # semitones below the pitch at which a slide into it begins
    slid_s: float = 0.0
    raked: int = 0  # muted strings brushed on the way to it
    judged: Judged | None = None  # how likely each way of playing it is; none of a dead note

    def moved(self, by_s: float) -> HeardNote:
        """The same, so many seconds later."""
        return replace(self, onset_s=self.onset_s + by_s, end_s=self.end_s + by_s)


@dataclass(frozen=True)
class Faint:
    """What may be a note and is not sure enough to be one; `midi` is the pitch at which it begins."""

    onset_s: float
    midi: int
    confidence: float

    def moved(self, by_s: float) -> Faint:
        """The same, so many seconds later."""
        return replace(self, onset_s=self.onset_s + by_s)


@dataclass(frozen=True)
class Hearing:
    """The notes of a sound, and what else may be one; both in order of onset."""

    notes: tuple[HeardNote, ...] = ()
    faint: tuple[Faint, ...] = ()

    def between(self, start_s: float, end_s: float) -> Hearing:
        """What begins in `[start, end)`."""
        a, b = (bisect_left(self.notes, at, key=_onset) for at in (start_s, end_s))
        c, d = (bisect_left(self.faint, at, key=_onset) for at in (start_s, end_s))
        return Hearing(self.notes[a:b], self.faint[c:d])

    def moved(self, by_s: float) -> Hearing:
        """The same, so many seconds later."""
        return Hearing(tuple(n.moved(by_s) for n in self.notes), tuple(n.moved(by_s) for n in self.faint))


def _onset(one: HeardNote | Faint) -> float:
    return one.onset_s


def hear_notes(said: Said, judge: Judge, hints: Hints = Hints()) -> Hearing:
    """The notes of a sound; seconds count from its start.

    Parameters
    ----------
    said : what the first net says of it.
    judge : the second net, which says of each track how likely it is a note and how it is played.
    hints : what the teacher says of it. With one line or two notes no more are taken at a time, and with a band no
        second ones are looked for unless they are told.
    """
    limits = LIMITS[hints.texture]
    if hints.company is Company.BAND and hints.texture is Texture.AUTO:
        limits = WITH_A_BAND
    low, high = hints.lowest or 0, hints.highest or 127
    every = tracks(said)
    if not every:
        return Hearing(tuple(_dead_notes(said, [])))
    found, rows = facts_of(every, said)
    judged = [Judged(*map(float, row)) for row in judge(rows)]
    inside = [(track, own) for track, own in zip(found, judged, strict=True) if low <= track.key <= high]
    taken = _taken(inside, limits, STEP_OF_MORE * hints.more)
    line = [track for track, _ in taken]
    line = [ended_by(track, line) for track in line]
    if hints.texture is Texture.LINE:
        line = [t.until(line[i + 1].first) if i + 1 < len(line) else t for i, t in enumerate(line)]
    onsets, strengths = np.array([t.onset for t in line]), np.array([t.strength for t in line])
    notes = []
    for i, (track, (_, own)) in enumerate(zip(line, taken, strict=True)):
        rings = hints.texture is not Texture.LINE and _rings(track, line)
        note = _note(track, own, before(i, line, onsets, strengths), said, rings=rings)
        notes.append(replace(note, raked=_raked(track, said)) if note.joined is Joined.PICKED else note)
    raked = [(t.onset - RAKE_FRAMES, t.onset) for t, note in zip(line, notes, strict=True) if note.raked]
    dead = [
        note
        for note in _dead_notes(said, line)
        if not any(begin <= note.onset_s * FRAMES_PER_S < end for begin, end in raked)
    ]
    offered = {id(track) for track, _ in taken}
    faint = [
        Faint(track.onset_s, track.key, own.right)
        for track, own in inside
        if id(track) not in offered and own.right >= LEAST_FAINT
    ]
    return Hearing(tuple(sorted([*notes, *dead], key=lambda note: (note.onset_s, note.midi))), tuple(faint))


def _taken(found: Sequence[tuple[Track, Judged]], limits: Limits, shift: float) -> list[tuple[Track, Judged]]:
    """The surest of what starts together, as many as may."""
    taken: list[tuple[Track, Judged]] = []
    for track, judged in sorted(found, key=lambda one: -one[1].right):
        near = [t for t, _ in taken if abs(t.onset_s - track.onset_s) < limits.cluster_s]
        if judged.right < (limits.together if near else limits.line) - shift or len(near) >= limits.most:
            continue
        taken.append((track, judged))
    return sorted(taken, key=lambda one: (one[0].onset, one[0].key))


def _dead_notes(said: Said, line: Sequence[Track]) -> list[HeardNote]:
    """Strokes without a pitch; always guesses."""
    strokes = (said.dead > LEAST_DEAD) & (said.dead >= maximum_filter1d(said.dead, 9))
    found = []
    for frame in np.flatnonzero(strokes):
        if any(abs(track.onset - frame) < DEAD_APART for track in line):
            continue
        at, confidence = float(frame) / FRAMES_PER_S, float(min(MOST_DEAD, said.dead[frame] / 2))
        found.append(HeardNote(at, at + DEAD_S, 0, confidence, Joined.PICKED, None, None, np.zeros(0), dead=True))
    return found


def _raked(track: Track, said: Said) -> int:
    """How many muted strings are brushed on the way to a note: before it something dead lasts longer than a stroke."""
    dead = said.dead[max(0, track.first - RAKE_FRAMES) : track.first] > BRUSHED
    back = len(dead) - np.flatnonzero(dead)[::-1]  # frames before the note, rising
    far = 0
    for frames in map(int, back):
        if frames - far > RAKE_GAP:
            break
        far = frames
    return int(np.clip(round((far - 1) / RAKE_STROKE), 2, 3)) if far >= LEAST_RAKE else 0


def _note(track: Track, judged: Judged, previous: Track | None, said: Said, *, rings: bool) -> HeardNote:
    how = played(track, judged, previous, said)
    return HeardNote(
        onset_s=track.onset_s,
        end_s=track.end_s,
        midi=track.key - how.fretted_off,
        confidence=judged.right,
        joined=how.joined,
        bend=how.bend,
        vibrato=how.vibrato,
        cents=track.cents + 100 * how.fretted_off,
        others=_others(track, said, how.fretted_off),
        rings=rings,
        slid_from=how.slid_from,
        slid_s=how.slid_s,
        judged=judged,
    )


def _rings(track: Track, line: Sequence[Track]) -> bool:
    """Whether it sounds on under notes that begin well after it."""
    return any(track.first + RINGS_AFTER < t.first < track.last - RINGS_ON for t in line)


def _others(track: Track, said: Said, off: int) -> tuple[int, ...]:
    """Other pitches that are likely to begin then, the likeliest first; of a bent string the pitch that is heard."""
    near = said.onset[:, max(0, track.first - 3) : track.first + 4].max(axis=1).copy()
    near[track.key - LOWEST_KEY] = 0
    likely = [int(k) + LOWEST_KEY for k in np.argsort(near)[::-1][:2] if near[k] > LIKELY_BESIDE]
    key = track.key - off
    heard = [track.key] if off else []
    return tuple(one for one in dict.fromkeys([*heard, *likely, key + 12, key - 12]) if one != key)
