"""Notes as soundings of strings, for the program's own guitar."""

from __future__ import annotations

from usagi.core.audio.voice import StringEvent
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo, SoloSettings
from usagi.core.document.techniques import Choked, LetRing, Loudness, SlideIn, SlideOff, Staccato
from usagi.core.document.things import Note
from usagi.core.fretboard.places import fretted_pitch
from usagi.core.playing.timing import expected_seconds

SLIDE_S = 0.07  # a slide from the note before, at most
FAR_SEMITONES = 5
LEVELS = dict(zip(Loudness, (0.3, 0.42, 0.55, 0.68, 0.82, 0.95), strict=True))


def string_events(solo: Solo, ground: Ground, *, late_s: float = 0.0) -> list[StringEvent]:
    """Every note with a pitch, and every dead one, in time order; `late_s` lays the line behind the beat."""
    edges = [edge for note in solo.notes for edge in (note.tick, note.end)]
    seconds = expected_seconds(solo, ground, edges)
    events = []
    before: dict[int, Note] = {}
    for i, note in enumerate(solo.notes):
        onset, end = seconds[2 * i], seconds[2 * i + 1]
        event = _event(note, before.get(note.string), solo, onset + late_s, end - onset)
        if event is not None:
            events.append(event)
        before[note.string] = note
    return events


def _event(note: Note, before: Note | None, solo: Solo, onset: float, length: float) -> StringEvent | None:
    level = next((d.level for d in reversed(solo.dynamics) if d.tick <= note.tick), Loudness.MF)
    loud = LEVELS[level] * (0.45 if note.ghost else 1.0) + (0.15 if note.accent else 0.0)
    if note.dead:
        return StringEvent(onset, min(length, 0.08), ((0.0, 40.0),), loud=min(1.0, loud), muted=True)
    pitch = written_pitch(note, solo.settings)
    if pitch is None:
        return None
    per_tick = length / note.ticks
    sounding = length * (0.5 if isinstance(note.ending, Staccato) else 1.0)
    vibrato = None
    if note.vibrato is not None:
        vibrato = (note.vibrato.start * per_tick, note.vibrato.width_cents, note.vibrato.rate_hz)
    return StringEvent(
        onset_s=onset,
        sounding_s=sounding,
        curve=_curve(note, before, solo.settings, pitch, per_tick, length),
        loud=min(1.0, loud),
        picked=note.attack.kind not in ("hammer-on", "pull-off", "slide"),
        vibrato=vibrato,
        ring_s=1.5 if isinstance(note.ending, LetRing) else 0.0,
        cut_s=0.008 if isinstance(note.ending, Choked) or note.palm_mute else 0.025,
    )


def _curve(
    note: Note, before: Note | None, settings: SoloSettings, pitch: float, per_tick: float, length: float
) -> tuple[tuple[float, float], ...]:
    points = [(at * per_tick, pitch + quarters / 2) for at, quarters in note.course] or [(0.0, pitch)]
    if note.attack.kind == "slide" and before is not None:
        source = written_pitch(before, settings)
        if source is not None:
            points = _led_in(points, source, min(SLIDE_S, length / 2))
    elif isinstance(note.attack, SlideIn):
        start = note.attack.start
        away = {"far below": pitch - FAR_SEMITONES, "far above": pitch + FAR_SEMITONES}
        source = (
            away[start] if isinstance(start, str) else fretted_pitch(note.string, start, settings.tuning, settings.capo)
        )
        points = _led_in(points, source, min(note.attack.ticks * per_tick, length / 2))
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
