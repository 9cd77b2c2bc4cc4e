"""A tablature of any hand read into a score. Every line that could not be read is listed.

Where a text does not say how long its notes are, the person says how they lie (`Lengths`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import STANDARD, SoloSettings
from usagi.core.errors import UsagiError
from usagi.core.formats.other_tabs.head import first_string, tuning_of_names
from usagi.core.formats.other_tabs.lines import blocks_of, lines_of, sort_lines, text_of
from usagi.core.formats.other_tabs.systems import Found, OneBar, take_system
from usagi.core.formats.other_tabs.times import Lengths
from usagi.core.formats.score import MOST_BARS, USUAL_BPM, FileUnreadable, Part, Score, ScoreBar, ScoreNote, anchors_of
from usagi.core.formats.tab_reading import with_lengths
from usagi.core.meter.bars import lay_bars
from usagi.core.meter.ticks import QUARTER


class LengthsMissing(UsagiError):
    """A tablature that says nothing of how long its notes are, and nobody else did."""

    code = "lengths-missing"


def read_parts(data: bytes) -> list[Part]:
    """A tablature is one part."""
    bars = _read(text_of(data), Lengths.SPACING).bars
    return [Part("1", "tablature", sum(len(bar.placed) for bar in bars), True)]


def says_lengths(data: bytes) -> bool:
    """Whether every system has a line that tells how long its notes are; else the person is asked."""
    reading = _read(text_of(data), Lengths.SPACING)
    return reading.timed


def read_tab_by_others(data: bytes, *, lengths: Lengths | None = None) -> Score:
    """A tablature of any hand.

    Parameters
    ----------
    data : UTF-8 or Latin-1 text.
    lengths : how notes lie where the text does not say; None refuses such a text.

    Raises : FileUnreadable, when there is no tablature; LengthsMissing.
    """
    reading = _read(text_of(data), lengths or Lengths.SPACING)
    if not any(bar.placed for bar in reading.bars):
        raise FileUnreadable("This tablature has no notes that can be read.")
    if not reading.timed and lengths is None:
        offers = ", ".join(Lengths)
        raise LengthsMissing(f"This tablature does not say how long its notes are. Choose: {offers}.")
    return _score(reading)


def _read(text: str, lengths: Lengths) -> Found:
    lines = lines_of(text)
    reading = Found()
    blocks = blocks_of(lines)
    if not blocks:
        raise FileUnreadable("There is no tablature in this text: one line for each string, with dashes.")
    sort_lines(lines, blocks, reading.head, reading.unread)
    named = max(blocks, key=lambda block: (all(block.names), len(block.names)))
    tuning, from_the_lowest = tuning_of_names(named.names, reading.said)
    for block in blocks:
        if from_the_lowest:
            block.lines.reverse()
            block.names.reverse()
        block.first_string = first_string(block.names, tuning)
    reading.head.tuning = reading.head.tuning or tuning
    strings = len(reading.head.tuning or STANDARD)
    for block in blocks:
        take_system(block, strings, lengths, reading)
    return reading


def _score(reading: Found) -> Score:
    head = reading.head
    settings = SoloSettings(tuning=head.tuning or STANDARD, capo=head.capo, last_fret=24 if head.capo == 0 else 36)
    order = _played(reading.bars)
    opening = reading.bars[0]
    short = opening.pickup if len(order) > 1 else 0  # what the first bar lacks at its start
    pickup = opening.meter.bar_ticks - short if short else 0
    bars = lay_bars([reading.bars[i].meter for i in order[1 if pickup else 0 :]], pickup_ticks=pickup)
    starts = [bar.counted_from for bar in bars.bars]
    placed = [replace(one, tick=starts[n] + one.tick) for n, i in enumerate(order) for one in reading.bars[i].placed]
    number = iter(range(10**9))
    notes = [_scored(note, settings) for note in with_lengths(placed, bars, lambda: f"t{next(number)}")]
    chords = [(starts[n] + at, symbol) for n, i in enumerate(order) for at, symbol in reading.bars[i].chords]
    quarter = QUARTER / (bars.bars[0].meter.pulses[0])
    messages = list(reading.said)
    if len(order) > len(reading.bars):
        messages.append("Its repeats are played out.")
    messages += [f"Line {number} was not read: {why}" for number, why in sorted(reading.unread.items())]
    return Score(
        bars=tuple(
            ScoreBar(
                reading.bars[i].meter,
                head.key if n == 0 else None,
                reading.bars[i].section,
                head.feel if n == 0 else None,
            )
            for n, i in enumerate(order[1 if pickup else 0 :])
        ),
        notes=tuple(notes),
        pickup_ticks=pickup,
        chords=tuple(chords),
        anchors=anchors_of([(0, (head.tempo or USUAL_BPM) / quarter)], -pickup),
        tuning=head.tuning,
        capo=head.capo,
        last_fret=24,
        title=head.title,
        player=head.player,
        messages=tuple(messages),
    )


def _played(bars: Sequence[OneBar]) -> list[int]:
    """The order in which the bars are played, with their repeats."""
    found: list[int] = []
    start = 0
    for i, bar in enumerate(bars):
        if bar.forward:
            start = i
        found.append(i)
        if bar.backward:
            for _ in range(bar.backward - 1):
                found += range(start, i + 1)
            start = i + 1
        if len(found) > MOST_BARS:
            raise FileUnreadable(f"Played out, this tablature has more than {MOST_BARS} bars.")
    return found


def _scored(note: Note, settings: SoloSettings) -> ScoreNote:
    fields = {
        name: getattr(note, name)
        for name in type(note).model_fields
        if name not in ("id", "tick", "ticks", "string", "fret", "course", "stack")
        and getattr(note, name) != type(note).model_fields[name].default
    }
    if "attack" in fields:
        fields["attack"] = fields["attack"].model_dump()
    return ScoreNote(
        tick=note.tick,
        ticks=note.ticks,
        midi=written_pitch(note, settings),
        string=note.string,
        fret=note.fret,
        course=note.course,
        fields=fields,
    )
