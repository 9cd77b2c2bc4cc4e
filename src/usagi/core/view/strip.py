"""Bars, chords and cues of a ground as the page draws and says them."""

from __future__ import annotations

from usagi.core.chart.sections import place_in_form
from usagi.core.chart.timeline import Change
from usagi.core.degrees.degree import Style, degree
from usagi.core.degrees.naming import chord_tones
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground
from usagi.core.harmony.heard import Heard
from usagi.core.meter.clock import clock_text
from usagi.core.meter.counting import School, slot_words, spoken_beat
from usagi.core.meter.meters import Meter
from usagi.core.values import Value
from usagi.core.view.shapes import Shape


class BeatView(Value):
    tick: int
    count: str


class BarView(Value):
    number: int
    tick: int
    end: int
    label: str
    clock: str
    beats: tuple[BeatView, ...]
    section: str
    meter: str  # where it changes, else empty
    form: str  # which bar of which section, time and chorus it is
    key: str  # what holds here; empty without a key
    blues: bool


class SlotView(Value):
    """What a pitch class is over a chord: for the neck seen from above."""

    degree: str
    shape: Shape


class ChordView(Value):
    id: str
    tick: int
    end: int
    shown: str
    symbol: str
    tones: tuple[str, ...]
    slots: tuple[SlotView, ...]  # by pitch class, 0 to 11; empty for N.C.
    bar: int
    where: str


class CueView(Value):
    """Words or another player's entry, at a place."""

    id: str
    tick: int
    words: str
    where: str


class Strip(Value):
    bars: tuple[BarView, ...]
    cues: tuple[CueView, ...]
    chords: tuple[ChordView, ...]
    tempo: str
    key: str
    feel: str


def view_strip(ground: Ground, reader: Reader = Reader()) -> Strip:
    """Bars and chords of a ground in words."""
    timeline, school = ground.timeline, reader.school
    bars: list[BarView] = []
    meter_before = section_before = None
    for bar in timeline.bars.bars:
        played = timeline.played.get(bar.number)
        section = "" if played is None else played.section
        numbered = section
        if played is not None and ground.settings.choruses > 1 and played.index == 1 and played.time == 1:
            numbered = f"{section or 'chorus'} {played.chorus}".strip()
        starts = played is not None and played.index == 1
        meter = str(bar.meter)
        bars.append(
            BarView(
                number=bar.number,
                tick=bar.tick,
                end=bar.end,
                label=str(bar.number),
                clock=clock_text(ground.grid.second(bar.tick)),
                beats=tuple(
                    BeatView(tick=tick, count=_count(bar.meter, beat, school)) for beat, tick in bar.pulse_ticks()
                ),
                section=numbered if starts or section != section_before else "",
                meter=meter if meter != meter_before else "",
                form=place_in_form(ground.chart, played),
                key="" if (key := timeline.facts_at(bar.tick).key) is None else str(key),
                blues=timeline.facts_at(bar.tick).blues,
            )
        )
        meter_before, section_before = meter, section
    first = timeline.facts_at(0)
    tempo = ground.grid.tempo_bpm(0, first.meter.pulses[0])
    return Strip(
        bars=tuple(bars),
        cues=tuple(
            CueView(id=cue.id, tick=cue.tick, words=cue.words, where=timeline.bars.place(cue.tick))
            for cue in ground.cues
        ),
        chords=tuple(_chords(ground, reader.style)),
        tempo=f"{first.meter.tempo_unit} = {tempo:.4g}",
        key="" if first.key is None else str(first.key),
        feel=str(first.feel),
    )


def _count(meter: Meter, beat: int, school: School) -> str:
    parts = 3 if meter.compound else 2
    return slot_words(
        spoken_beat(meter, beat), parts, compound=meter.compound, groups=bool(meter.groups), school=school
    )[0]


def _slots(change: Change, blues: bool, style: Style) -> tuple[SlotView, ...]:
    heard = change.heard
    if heard is None:
        return ()
    views = []
    for pitch_class in range(12):
        slot = (pitch_class - heard.root.pitch_class) % 12
        shape: Shape = "chord tone" if slot in heard.core else "tension" if slot in heard.extensions else "plain"
        views.append(SlotView(degree=degree(heard, slot, style=style, blues=blues), shape=shape))
    return tuple(views)


def _chords(ground: Ground, style: Style) -> list[ChordView]:
    timeline = ground.timeline
    views = []
    known: dict[tuple[str, Heard | None, bool], tuple[SlotView, ...]] = {}  # the same few come back
    for i, change in enumerate(timeline.changes):
        end = timeline.end_of(i)
        if end <= change.tick:
            continue
        tones = () if change.heard is None else tuple(str(name) for name in chord_tones(change.heard))
        blues = timeline.facts_at(change.tick).blues
        kind = change.chord.symbol, change.heard, blues
        slots = known[kind] = known.get(kind) or _slots(change, blues, style)
        views.append(
            ChordView(
                id=change.id,
                tick=change.tick,
                end=end,
                shown=change.shown,
                symbol=change.chord.symbol,
                tones=tones,
                slots=slots,
                bar=change.bar,
                where=timeline.bars.place(change.tick),
            )
        )
    return views
