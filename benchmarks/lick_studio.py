"""Generated solos whose phrases are cut: players who walk about a scale, and come back to cells of their own.

Truth enough for searching: some degrees in a row are common, some rare, and every player repeats himself.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import count

import numpy as np

from usagi.core.chart.text import read_chart
from usagi.core.document.elements import Note, Phrase, Rest
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument
from usagi.core.meter.ticks import EIGHTH, QUARTER, SIXTEENTH, WHOLE

FORM_BARS, CHORUSES = 16, 5
KEYS = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
CHORDS = (
    (0, 0, 0, 0, 5, 5, 0, 0, 7, 5, 0, 7, 0, 5, 0, 7),
    (2, 7, 0, 9, 2, 7, 0, 0, 5, 10, 0, 9, 2, 7, 0, 7),
    (9, 2, 7, 0, 5, 11, 4, 9, 9, 2, 7, 0, 5, 4, 9, 9),
)
QUALITIES = (
    {0: "7", 5: "7", 7: "7"},
    {0: "maj7", 2: "m7", 5: "maj7", 7: "7", 9: "7", 10: "7"},
    {0: "maj7", 2: "m7", 4: "7", 5: "maj7", 7: "7", 9: "m7", 11: "m7b5"},
)
SCALES = ((0, 3, 5, 6, 7, 10), (0, 2, 4, 7, 9), (0, 2, 3, 5, 7, 9, 10), (0, 2, 4, 5, 7, 9, 10), (0, 2, 4, 5, 7, 9, 11))
RHYTHMS = (
    (EIGHTH,) * 8, (EIGHTH, EIGHTH, QUARTER, EIGHTH, EIGHTH), (QUARTER, EIGHTH, EIGHTH), (SIXTEENTH,) * 8,
    (QUARTER // 3,) * 6, (QUARTER // 3,) * 3 + (QUARTER,), (EIGHTH + SIXTEENTH, SIXTEENTH, EIGHTH, EIGHTH),
)  # fmt: skip
OPENS = (64, 59, 55, 50, 45, 40)
FEELS = ("{straight}", "{swing 1.6}", "{triplet}", "{swing 2}")


@dataclass(frozen=True)
class Habits:
    """What one generated player comes back to: steps along a scale, and the rhythms liked."""

    scale: tuple[int, ...]
    cells: tuple[tuple[int, ...], ...]
    rhythms: tuple[int, ...]
    position: int


def habits_of(player: int) -> Habits:
    rng = np.random.default_rng([player, 5])
    cells = tuple(tuple(int(x) for x in rng.choice((-3, -2, -1, -1, 1, 1, 2, 3), rng.integers(3, 7))) for _ in range(6))
    return Habits(
        SCALES[int(rng.integers(len(SCALES)))],
        cells,
        tuple(map(int, rng.choice(len(RHYTHMS), 4))),
        int(rng.integers(3, 11)),
    )


def generated(seed: int, player: int, phrases: int = 40) -> SoloDocument:
    """A solo of so many phrases, one in two bars, on a chart of its own."""
    rng = np.random.default_rng([seed, 11])
    habits, numbers = habits_of(player), count()
    form, key = int(rng.integers(len(CHORDS))), int(rng.integers(12))
    chords = [f"{KEYS[(key + step) % 12]}{QUALITIES[form].get(step, '7')}" for step in CHORDS[form]]
    feel = FEELS[int(rng.integers(len(FEELS)))]
    mode = "major" if form < 2 else "minor"
    tonic = KEYS[key if form < 2 else (key + 9) % 12]
    text = f"A:\n| {{key {tonic} {mode}}} {feel} " + " | ".join(chords) + f" |\n{CHORUSES} choruses\n"
    chart = read_chart(text, new_id=lambda: f"c{next(numbers)}").chart
    bars = max(FORM_BARS * CHORUSES, 2 * phrases)
    bpm = int(rng.integers(60, 220))
    ground = Ground(
        settings=GroundSettings(bars=bars, form=chart.form, choruses=CHORUSES),
        anchors=(Anchor(id="a0", tick=0, second=1.0), Anchor(id="a1", tick=QUARTER, second=1.0 + 60 / bpm)),
        sections=chart.sections,
    )
    places = _places(habits, key)
    notes: list[Note] = []
    rests: list[Rest] = []
    cut: list[Phrase] = []
    at = len(places) // 2
    for number in range(phrases):
        start = 2 * WHOLE * number
        tick = start + int(rng.integers(0, 8)) * EIGHTH
        if tick > start:
            rests.append(Rest(id=f"r{number}", tick=start, ticks=tick - start))
        begin, end = tick, start + 2 * WHOLE - QUARTER
        wanted = int(rng.integers(6, 20))
        own = 0
        while own < wanted and tick < end:
            rhythm = RHYTHMS[habits.rhythms[int(rng.integers(4))]]
            if rng.random() < 0.6:
                steps = habits.cells[int(rng.integers(len(habits.cells)))]
            else:
                steps = tuple(map(int, rng.choice((-2, -1, 1, 2, 0, 4, -4), 4)))
            for step, ticks in zip(steps, rhythm, strict=False):
                if tick + ticks > end or own >= wanted:
                    tick = end if own else tick
                    break
                at = int(np.clip(at + step, 0, len(places) - 1))
                string, fret = places[at]
                values: dict[str, object] = {"id": f"n{number}-{own}", "tick": tick, "ticks": ticks, "string": string}
                values["fret"] = fret * 100
                if ticks >= EIGHTH and rng.random() < 0.06:
                    values["course"] = ((0, 0), (ticks // 2, int(rng.choice((1, 2, 4)))))
                elif rng.random() < 0.04:
                    values["vibrato"] = {"start": 0, "width_cents": 40.0, "rate_hz": 5.5}
                notes.append(Note.model_validate(values))
                tick, own = tick + ticks, own + 1
        last = notes[-1].end
        rests.append(Rest(id=f"s{number}", tick=last, ticks=start + 2 * WHOLE - last))
        cut.append(Phrase(id=f"p{number}", start=begin, end=last, name=""))
    return SoloDocument(
        tune=f"Tune {seed % 211}",
        ground=ground,
        solo=Solo(
            settings=SoloSettings(title=f"take {seed}", player=f"Player {player}", last_bar=bars),
            notes=tuple(notes),
            rests=tuple(rests),
            phrases=tuple(cut),
        ),
    )


def _places(habits: Habits, key: int) -> list[tuple[int, int]]:
    """The scale under the hand, low to high."""
    found: dict[int, tuple[int, int]] = {}
    for string, open_midi in enumerate(OPENS, start=1):
        for fret in range(habits.position, habits.position + 5):
            midi = open_midi + fret
            if (midi - key) % 12 in habits.scale:
                found.setdefault(midi, (string, fret))
    return [found[midi] for midi in sorted(found)]
