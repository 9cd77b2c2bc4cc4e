"""Findings as the page lists them and draws them close, in words."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from typing import Final

import numpy as np

from usagi.core.checking.check import BarChecked, Checked, Sound
from usagi.core.checking.finding import Finding, FindingKind, Group
from usagi.core.checking.sound import top_cents
from usagi.core.degrees.words import steps_words
from usagi.core.document.elements import Note, WaiverChoice
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Ground, Solo
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch, places_of
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.offers import Band, as_heard_there
from usagi.core.listening.spectrum import FRAMES_PER_S
from usagi.core.meter.bars import bar_name
from usagi.core.playing.strings import string_events
from usagi.core.playing.timing import expected_seconds
from usagi.core.values import Value
from usagi.core.view.offers import pitch_name

AROUND_S: Final = 0.15  # on both sides of a finding that is drawn close
CURVE_STEP: Final = 2  # frames
STILL_S: Final = 0.3  # a finding is heard for so long at least
BEFORE_S: Final = 0.06  # before its place, that a note may begin
MOST_ANSWERED: Final = 6  # notes of an answer
NEAR_NOTES: Final = 3
SAME_MOMENT_S: Final = 0.15
SWING_STEPS: Final = 40  # points in a second of written vibrato
Point = tuple[float, float]


class FindingView(Value):
    """One finding: where, what, how sure; what its key does, when there is one."""

    id: str
    kind: FindingKind
    group: Group
    bar: str
    title: str
    says: str
    band: Band
    tick: int
    end: int
    string: int | None
    notes: tuple[str, ...]
    second: float
    end_second: float
    mend: str
    waiver: str = ""  # the id of the choice that waives it
    reason: str = ""


class BarCheckView(Value):
    number: int
    listened: bool
    open: int


class HeardMark(Value):
    """A heard note behind the ink: its string, from second to second."""

    string: int
    second: float
    end_second: float


class HeardAnswer(Value):
    """What is heard where a question is open, in words: one of its answers."""

    question: str
    words: str


class CheckView(Value):
    """What does not agree, the heaviest first; what is waived; how far the check is; the versions it belongs to."""

    findings: tuple[FindingView, ...]
    waived: tuple[FindingView, ...]
    bars: tuple[BarCheckView, ...]
    heard: tuple[HeardMark, ...]
    answers: tuple[HeardAnswer, ...]
    done: float
    listened: float  # the share of bars
    sentence: str
    versions: dict[str, int]


class LineView(Value):
    """A line across the drawing: a fret of the string, or a note where no string is known."""

    midi: float
    label: str


class CloserView(Value):
    """What is written and what is heard, in MIDI pitch over seconds; `gap` is what lies between them, if it is told."""

    title: str
    says: str
    band: Band
    start_s: float
    end_s: float
    lines: tuple[LineView, ...]
    written: tuple[Point, ...]
    heard: tuple[Point, ...]
    onset_written_s: float | None = None
    onset_heard_s: float | None = None
    gap: tuple[float, float, float] | None = None  # second, from, to
    gap_says: str = ""


def view_check(checked: Checked, sound: Sound, solo: Solo, ground: Ground, versions: Mapping[str, int]) -> CheckView:
    waivers = {(one.finding, one.notes, one.judged): one for one in solo.choices if isinstance(one, WaiverChoice)}
    notes = {note.id: note for note in solo.notes}
    listened = sum(bar.listened for bar in checked.bars) / len(checked.bars) if checked.bars else 0.0
    return CheckView(
        findings=tuple(_view(one, notes, solo, ground) for one in checked.findings),
        waived=tuple(
            _view(one, notes, solo, ground, waivers.get((str(one.kind), one.notes, one.judged)))
            for one in checked.waived
        ),
        bars=tuple(BarCheckView(number=bar.number, listened=bar.listened, open=bar.open) for bar in checked.bars),
        heard=_marks(sound, solo, ground),
        answers=tuple(_answers(sound, solo, ground)),
        done=checked.done,
        listened=listened,
        sentence=_sentence(checked, listened),
        versions=dict(versions),
    )


def _marks(sound: Sound, solo: Solo, ground: Ground) -> tuple[HeardMark, ...]:
    """Each heard note on the string of the written note that it sounds like, else where the hand is nearest to it."""
    settings = solo.settings
    notes = [note for note in solo.notes if note.fret is not None and note.string <= len(settings.tuning)]
    seconds = expected_seconds(solo, ground, [note.tick for note in notes])
    marks = []
    for one in sound.hearing.notes:
        if one.dead:
            continue
        at = bisect_left(seconds, one.onset_s)
        near = range(max(0, at - NEAR_NOTES), min(len(notes), at + NEAR_NOTES))
        string = _string_of(one, [(notes[i], abs(seconds[i] - one.onset_s)) for i in near], solo)
        if string is not None:
            marks.append(HeardMark(string=string, second=round(one.onset_s, 3), end_second=round(one.end_s, 3)))
    return tuple(marks)


def _answers(sound: Sound, solo: Solo, ground: Ground) -> Iterator[HeardAnswer]:
    """For open questions over a few notes: the notes that are heard there."""
    for question in solo.questions:
        if question.answer is not None:
            continue
        start, end = expected_seconds(solo, ground, (question.start, question.end))
        heard = [one for one in sound.hearing.between(start - BEFORE_S, end - BEFORE_S).notes if not one.dead]
        if heard and len(heard) <= MOST_ANSWERED and sound.covers(start, end):
            words = ", ".join(_heard_words(one, ground, question.start) for one in heard)
            yield HeardAnswer(question=question.id, words=f"heard: {words}")


def _heard_words(one: HeardNote, ground: Ground, tick: int) -> str:
    name = pitch_name(one.midi, ground, tick)
    quarters = 0 if one.bend is None else round(one.bend.size_cents / 50)
    return f"{name} bent {steps_words(quarters)}" if quarters else name


def _string_of(one: HeardNote, near: Sequence[tuple[Note, float]], solo: Solo) -> int | None:
    settings = solo.settings
    same = [
        (apart, note.string)
        for note, apart in near
        if apart < SAME_MOMENT_S and abs((written_pitch(note, settings) or 0) - one.midi) < 1
    ]
    if same:
        return min(same)[1]
    places = places_of(one.midi, settings.tuning, settings.capo, settings.last_fret)
    hand = min(near, key=lambda of: of[1])[0].fret if near else None
    fret = HUNDREDTHS * 5 if hand is None else hand
    return min(places, key=lambda place: abs(place.fret * HUNDREDTHS - fret)).string if places else None


def _sentence(checked: Checked, listened: float) -> str:
    count = len(checked.findings)
    found = "Nothing to mend" if not count else "1 finding" if count == 1 else f"{count} findings"
    if not listened:
        return f"{found} in the writing; the sound has not been listened to."
    if listened < 1:
        left = _bars_left(checked.bars)
        return f"{found}; {left} not listened to yet."
    return f"{found}."


def _bars_left(bars: tuple[BarChecked, ...]) -> str:
    left = sum(not bar.listened for bar in bars)
    return "1 bar is" if left == 1 else f"{left} bars are"


def _view(
    finding: Finding,
    notes: Mapping[str, Note],
    solo: Solo,
    ground: Ground,
    waiver: WaiverChoice | None = None,
) -> FindingView:
    note = notes.get(finding.notes[-1]) if finding.notes else None
    start, end = _seconds(finding, note, solo, ground)
    return FindingView(
        id=finding.id,
        kind=finding.kind,
        group=finding.group,
        bar=_bar(finding, ground),
        title=_title(finding, note, ground),
        says=_says(finding, ground),
        band=finding.band,
        tick=finding.tick,
        end=finding.end,
        string=None if note is None else note.string,
        notes=finding.notes,
        second=round(start, 4),
        end_second=round(end, 4),
        mend=finding.mend,
        waiver="" if waiver is None else waiver.id,
        reason="" if waiver is None else waiver.reason,
    )


def _bar(finding: Finding, ground: Ground) -> str:
    return bar_name(ground.timeline.bars.at(finding.tick).number)


def _title(finding: Finding, note: Note | None, ground: Ground) -> str:
    bar = _bar(finding, ground)
    words = [bar[0].upper() + bar[1:]]
    if note is not None:
        words.append(f"string {note.string}")
        if note.fret is not None:
            words.append(f"fret {note.fret / HUNDREDTHS:g}")
    return ", ".join(words)


def _says(finding: Finding, ground: Ground) -> str:
    if finding.kind is FindingKind.NOT_WRITTEN and finding.heard is not None:
        return f"{pitch_name(finding.heard.midi, ground, finding.tick)} is heard and not written"
    return finding.says


def _seconds(finding: Finding, note: Note | None, solo: Solo, ground: Ground) -> tuple[float, float]:
    """Where it is to be heard: what is written, what is heard, or both."""
    ticks = (finding.tick, finding.end) if note is None else (note.tick, note.end)
    start, end = expected_seconds(solo, ground, ticks)
    if finding.heard is not None:
        start, end = min(start, finding.heard.onset_s), max(end, finding.heard.end_s)
    return start, max(end, start + STILL_S)


def view_closer(finding: Finding, sound: Sound, solo: Solo, ground: Ground) -> CloserView:
    """A finding drawn close."""
    notes = {note.id: note for note in solo.notes}
    note = notes.get(finding.notes[-1]) if finding.notes else None
    heard = finding.heard
    if heard is None and note is not None:
        heard = as_heard_there(sound.hearing.notes, note, ground)
    start, end = _seconds(finding, note, solo, ground)
    written = () if note is None else _written(note, solo, ground)
    curve = () if heard is None or finding.kind is FindingKind.NOT_HEARD else _heard(heard)
    expected = None if note is None else expected_seconds(solo, ground, [note.tick])[0]
    gap, says = _gap(finding, note, written, solo)
    return CloserView(
        title=_title(finding, note, ground),
        says=_says(finding, ground),
        band=finding.band,
        start_s=round(start - AROUND_S, 3),
        end_s=round(end + AROUND_S, 3),
        lines=_lines(written, curve, note, solo, ground),
        written=written,
        heard=curve,
        onset_written_s=expected if finding.kind is FindingKind.ONSET else None,
        onset_heard_s=heard.onset_s if finding.kind is FindingKind.ONSET and heard is not None else None,
        gap=gap,
        gap_says=says,
    )


def _written(note: Note, solo: Solo, ground: Ground) -> tuple[Point, ...]:
    """The pitch of a note as it is written, with its vibrato; seconds of the recording."""
    before = [one for one in solo.notes if one.string == note.string and one.tick < note.tick][-1:]
    alone = solo.model_copy(update={"notes": (*before, note)})
    events = [event for event in string_events(alone, ground) if event.curve and not event.muted]
    if not events:
        return ()
    event = events[-1]
    at = [s for s, _ in event.curve]
    points = sorted({*at, event.sounding_s, *np.arange(0, event.sounding_s, 1 / SWING_STEPS).tolist()})
    pitch = np.interp(points, at, [midi for _, midi in event.curve])
    if event.vibrato is not None:
        start, width, hz = event.vibrato
        inside = np.array(points) >= start
        pitch = pitch + inside * width / 200 * np.sin(2 * np.pi * hz * (np.array(points) - start))
    return tuple(
        (round(event.onset_s + s, 4), round(float(midi), 3))
        for s, midi in zip(points, pitch, strict=True)
        if s <= event.sounding_s
    )


def _heard(heard: HeardNote) -> tuple[Point, ...]:
    return tuple(
        (round(heard.onset_s + k * CURVE_STEP / FRAMES_PER_S, 4), round(heard.midi + float(cents) / 100, 3))
        for k, cents in enumerate(heard.cents[::CURVE_STEP])
    )


def _lines(
    written: tuple[Point, ...], heard: tuple[Point, ...], note: Note | None, solo: Solo, ground: Ground
) -> tuple[LineView, ...]:
    """The frets, or the notes, between which the drawing lies."""
    pitches = [midi for _, midi in (*written, *heard)]
    if not pitches:
        return ()
    low, high = int(np.floor(min(pitches) + 0.3)), int(np.ceil(max(pitches) - 0.3))
    step = 1 if high - low <= 6 else 2 if high - low <= 13 else 6
    settings = solo.settings
    nut = None
    if note is not None and note.fret is not None and note.string <= len(settings.tuning):
        nut = open_pitch(note.string, settings.tuning, settings.capo)
    tick = 0 if note is None else note.tick
    return tuple(
        LineView(
            midi=midi, label=str(midi - nut) if nut is not None and midi >= nut else pitch_name(midi, ground, tick)
        )
        for midi in range(low, high + 1, step)
    )


def _gap(
    finding: Finding, note: Note | None, written: tuple[Point, ...], solo: Solo
) -> tuple[tuple[float, float, float] | None, str]:
    """From what is written to what is heard, where a size tells it: of a bend."""
    heard = finding.heard
    pitch = None if note is None else written_pitch(note, solo.settings)
    if finding.kind is not FindingKind.BEND or heard is None or note is None or pitch is None or not written:
        return None, ""
    top = top_cents(heard, written[-1][0] - written[0][0])
    if top is None:
        return None, ""
    wanted, reached = pitch + max((q for _, q in note.course), default=0) / 2, heard.midi + top / 100
    cents = round(100 * (reached - wanted))
    return (written[-1][0], wanted, reached), f"{abs(cents)} cents {'wide' if cents > 0 else 'short'}"
