"""Notes as soundings of strings, for the program's own guitar: every technique as the hand would do it."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from math import ceil, log2

from usagi.core.audio.voice import CUT_S, StringEvent
from usagi.core.document.elements import Note, Stack, Swell
from usagi.core.document.loudness import level_after, level_at, swell_of
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import (
    Choked,
    Harmonic,
    LetRing,
    Loudness,
    Pick,
    SlideIn,
    SlideOff,
    Staccato,
    Stroke,
    Tapped,
)
from usagi.core.fretboard.places import HUNDREDTHS, fretted_pitch, open_pitch
from usagi.core.playing.timing import expected_seconds

SLIDE_S = 0.07  # a slide from the note before, at most
FAR_SEMITONES = 5
LEVELS = dict(zip(Loudness, (0.3, 0.42, 0.55, 0.68, 0.82, 0.95), strict=True))
STEP = 0.14  # of loudness that a swell goes where no other level follows it
RINGING_S = 4.0  # at most, until the string is struck again
RAKE_S = 0.018  # between the muted strings of a rake
TRILL_STEP_S = 0.004  # from one fret of a trill to the other
STROKE_MS = 28.0  # over all strings of a stack that has a stroke and no spread of its own
GHOST, ACCENT, RAKED = 0.45, 0.15, 0.5
BEHIND = 0.16  # how loud the string rings behind a bottleneck
LEAST_BEHIND = 0.9  # semitones: nearer the nut it is too short to ring
# An up-stroke comes from nearer the bridge, a finger from further off.
PICK_PLACES = {Pick.DOWN: 0.13, Pick.UP: 0.105, Pick.SWEEP: 0.14, Pick.FINGER: 0.2}


@dataclass(frozen=True, slots=True)
class _Sounding:
    """One note on its way to the string: when, how long, what was before it, how loud."""

    note: Note
    before: Note | None
    onset: float
    length: float
    free_s: float  # until its string is struck again
    loud: float
    swell: tuple[float, float]
    seed: int

    @property
    def per_tick(self) -> float:
        return self.length / self.note.ticks


def string_events(solo: Solo, ground: Ground, *, late_s: float = 0.0) -> list[StringEvent]:
    """Every note with a pitch, and every dead one, in time order; `late_s` lays the line behind the beat."""
    edges = [edge for note in solo.notes for edge in (note.tick, note.end)]
    seconds = expected_seconds(solo, ground, edges)
    after = _struck_again(solo, dict(zip(edges, seconds, strict=True)))
    stacks = {stack.id: stack for stack in solo.stacks}
    delays = _delays(solo, stacks)
    before: dict[int, Note] = {}
    events: list[StringEvent] = []
    for i, note in enumerate(solo.notes):
        onset, end = seconds[2 * i], seconds[2 * i + 1]
        level, swell = _loudness(note, solo)
        late = late_s + delays.get(note.id, 0.0)
        sounding = _Sounding(
            note,
            before.get(note.string),
            onset + late,
            max(0.02, end - onset - delays.get(note.id, 0.0)),
            max(0.0, after.get(note.id, end + RINGING_S) - end),
            level,
            swell,
            100 * i,
        )
        events += _events(sounding, solo.settings)
        before[note.string] = note
    return sorted(events, key=lambda event: event.onset_s)


def slowed(events: list[StringEvent], speed: float, semitones: float = 0.0) -> list[StringEvent]:
    """The events as a recording of them sounds when it is slowed: all times and rates go along, pitches move apart.

    Parameters
    ----------
    events : at the recorded speed.
    speed : as a share of it.
    semitones : how far pitches move.
    """
    return [
        replace(
            event,
            onset_s=event.onset_s / speed,
            sounding_s=event.sounding_s / speed,
            curve=tuple((at / speed, midi + semitones) for at, midi in event.curve),
            vibrato=None
            if event.vibrato is None
            else (event.vibrato[0] / speed, event.vibrato[1], event.vibrato[2] * speed),
            ring_s=event.ring_s / speed,
        )
        for event in events
    ]


def _struck_again(solo: Solo, seconds: Mapping[int, float]) -> dict[str, float]:
    """When the string of each note is struck again or cut by a rest, by note id."""
    rests = [rest.tick for rest in solo.rests]
    last: dict[int, Note] = {}
    found: dict[str, float] = {}
    for note in solo.notes:
        if note.string in last:
            found[last[note.string].id] = seconds[note.tick]
        last[note.string] = note
    for note in solo.notes:
        at = bisect_right(rests, note.end - 1)
        if at < len(rests) and rests[at] == note.end:
            found[note.id] = seconds[note.end]
    return found


def _delays(solo: Solo, stacks: Mapping[str, Stack]) -> dict[str, float]:
    """Seconds by which the strings of a stroke come one after another."""
    members: dict[str, list[Note]] = {}
    for note in solo.notes:
        if note.stack is not None:
            members.setdefault(note.stack, []).append(note)
    found: dict[str, float] = {}
    for stack_id, notes in members.items():
        stack = stacks.get(stack_id)
        if stack is None or stack.stroke is Stroke.TOGETHER or (stack.stroke is None and not stack.spread_ms):
            continue
        spread = stack.spread_ms or STROKE_MS
        order = sorted(notes, key=lambda note: note.string, reverse=stack.stroke is not Stroke.UP)
        for i, note in enumerate(order):
            found[note.id] = spread / 1_000 * i / max(1, len(order) - 1)
    return found


def _loudness(note: Note, solo: Solo) -> tuple[float, tuple[float, float]]:
    """Loudness of a note, and what a swell makes of it from its start to its end."""
    level = LEVELS[level_at(solo, note.tick)]
    loud = level * (GHOST if note.ghost else 1.0) + (ACCENT if note.accent else 0.0)
    swell = swell_of(note, solo)
    if swell is None:
        return min(1.0, loud), (1.0, 1.0)
    return min(1.0, loud), (_swollen(swell, note.tick, level, solo), _swollen(swell, note.end, level, solo))


def _swollen(swell: Swell, tick: int, level: float, solo: Solo) -> float:
    reached = level_after(solo, swell)
    goal = level + (STEP if swell.to == "louder" else -STEP) * 2 if reached is None else LEVELS[reached]
    into = min(1.0, max(0.0, (tick - swell.start) / (swell.end - swell.start)))
    return max(0.1, 1.0 + (goal - level) / level * into)


def _events(sounding: _Sounding, settings: SoloSettings) -> list[StringEvent]:
    note = sounding.note
    events = []
    if note.rake is not None:
        count = len(note.rake.strings)
        events += [
            StringEvent(
                sounding.onset - RAKE_S * (count - i), 0.03, ((0.0, 40.0),), loud=RAKED * sounding.loud, muted=True,
                seed=sounding.seed + 10 + i,
            )
            for i in range(count)
        ]  # fmt: skip
    if note.dead:
        dead = StringEvent(
            sounding.onset, min(sounding.length, 0.08), ((0.0, 40.0),), loud=sounding.loud, muted=True,
            seed=sounding.seed,
        )  # fmt: skip
        return [*events, dead]
    pitch = written_pitch(note, settings)
    if pitch is None:
        return events
    plain = _plain(sounding, settings, pitch)
    if settings.bottleneck and not settings.muted_behind:
        events += _behind(plain, open_pitch(note.string, settings.tuning, settings.capo))
    return events + (_repeated(plain, note.tremolo.rate_hz) if note.tremolo is not None else [plain])


def _plain(sounding: _Sounding, settings: SoloSettings, pitch: float) -> StringEvent:
    note = sounding.note
    vibrato = None
    if note.vibrato is not None:
        vibrato = (note.vibrato.start * sounding.per_tick, note.vibrato.width_cents, note.vibrato.rate_hz)
    return StringEvent(
        onset_s=sounding.onset,
        sounding_s=sounding.length * (0.5 if isinstance(note.ending, Staccato) else 1.0),
        curve=_curve(sounding, settings, pitch),
        loud=sounding.loud,
        picked=note.attack.kind not in ("hammer-on", "pull-off", "slide") and not isinstance(note.attack, Tapped),
        place=PICK_PLACES[note.pick or Pick.DOWN],
        vibrato=vibrato,
        ring_s=min(RINGING_S, sounding.free_s) if isinstance(note.ending, LetRing) else 0.0,
        cut_s=0.008 if isinstance(note.ending, Choked) else CUT_S,
        damped=note.palm_mute,
        pure=isinstance(note.attack, Harmonic),
        stop=(note.fret or 0) / HUNDREDTHS,
        swell=sounding.swell,
        seed=sounding.seed,
    )


def _behind(event: StringEvent, open_midi: float) -> list[StringEvent]:
    """What rings between the nut and a bottleneck when no finger mutes it: the rest of the string, quieter.

    Its length is what the stopped part leaves, so it falls as the sounding part rises: at the twelfth fret both agree.
    """
    stopped = [(at, midi - open_midi) for at, midi in _in_steps(event.curve)]
    curve = tuple((at, open_midi - 12 * log2(1 - 2 ** (-up / 12))) for at, up in stopped if up >= LEAST_BEHIND)
    if len(curve) < len(stopped):  # open, or nearly: hardly a string is left to ring
        return []
    return [
        replace(
            event, curve=curve, loud=BEHIND * event.loud, picked=False, vibrato=None, pure=True, seed=event.seed + 90
        )
    ]


def _in_steps(curve: tuple[tuple[float, float], ...]) -> Iterator[tuple[float, float]]:
    """A curve with points at every half semitone of its slides."""
    for (at, midi), (later, goal) in pairwise(curve):
        steps = max(1, ceil(abs(goal - midi) * 2))
        for i in range(steps):
            yield at + (later - at) * i / steps, midi + (goal - midi) * i / steps
    yield curve[-1]


def _repeated(event: StringEvent, rate_hz: float) -> list[StringEvent]:
    """Tremolo picking: the string is struck again and again along the curve."""
    apart = 1 / rate_hz
    times = max(1, round(event.sounding_s / apart))
    each = event.sounding_s / times
    found = []
    for i in range(times):
        at = i * each
        vibrato = None if event.vibrato is None else (event.vibrato[0] - at, *event.vibrato[1:])
        last = i == times - 1
        found.append(
            replace(
                event,
                onset_s=event.onset_s + at,
                sounding_s=each,
                curve=tuple((t - at, midi) for t, midi in event.curve),
                vibrato=vibrato,
                ring_s=event.ring_s if last else 0.0,
                cut_s=event.cut_s if last else 0.004,
                seed=event.seed + 20 + i,
            )
        )
    return found


def _curve(sounding: _Sounding, settings: SoloSettings, pitch: float) -> tuple[tuple[float, float], ...]:
    note, per_tick, length = sounding.note, sounding.per_tick, sounding.length
    points = [(at * per_tick, pitch + quarters / 2) for at, quarters in note.course] or [(0.0, pitch)]
    if note.attack.kind == "slide" and sounding.before is not None:
        source = written_pitch(sounding.before, settings)
        if source is not None:
            points = _led_in(points, source, min(SLIDE_S, length / 2))
    elif isinstance(note.attack, SlideIn):
        start = note.attack.start
        away = {"far below": pitch - FAR_SEMITONES, "far above": pitch + FAR_SEMITONES}
        source = (
            away[start] if isinstance(start, str) else fretted_pitch(note.string, start, settings.tuning, settings.capo)
        )
        points = _led_in(points, source, min(note.attack.ticks * per_tick, length / 2))
    if note.trill is not None:
        other = fretted_pitch(note.string, note.trill.fret, settings.tuning, settings.capo) - pitch
        points = _trilled(points, other, note.trill.rate_hz, length)
    if isinstance(note.ending, SlideOff):
        to = note.ending.to
        gone = {"far down": pitch - FAR_SEMITONES, "far up": pitch + FAR_SEMITONES}
        goal = gone[to] if isinstance(to, str) else fretted_pitch(note.string, to, settings.tuning, settings.capo)
        leaves = max(points[-1][0] + 0.001, length - note.ending.ticks * per_tick)
        points += [(leaves, points[-1][1]), (max(leaves + 0.001, length), goal)]
    return tuple(points)


def _led_in(points: list[tuple[float, float]], source: float, takes_s: float) -> list[tuple[float, float]]:
    rest = [(t, midi) for t, midi in points if t > takes_s]
    return [(0.0, source), (takes_s, points[0][1]), *rest]


def _trilled(points: list[tuple[float, float]], by: float, rate_hz: float, length: float) -> list[tuple[float, float]]:
    """The course struck off and on: half of each turn on the other fret."""
    base = points[0][1]
    half = 0.5 / rate_hz
    found = [points[0]]
    up = False
    at = half
    while at < length:
        found.append((at, base + (by if up else 0.0)))
        up = not up
        found.append((at + TRILL_STEP_S, base + (by if up else 0.0)))
        at += half
    return found
