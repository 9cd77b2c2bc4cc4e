"""Solos of any size as ordinary documents, with every technique and every kind of element in them.

Nothing of it is music: pitches walk about at random over a chart of many chords.
"""

from __future__ import annotations

from itertools import count

import numpy as np

from usagi.core.chart.text import read_chart
from usagi.core.document.elements import (
    AnticipationChoice,
    ChangesChoice,
    Dynamic,
    FingeringChoice,
    Note,
    OtherChord,
    Phrase,
    Question,
    Rest,
    Stack,
    Swell,
)
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument
from usagi.core.meter.ticks import EIGHTH, QUARTER, WHOLE

FORM_BARS = 16
CHART = """
A:
| {4/4} {key A minor} {swing 1.6} Am7 | D7 | Gmaj7 | Cmaj7 F#m7b5 | Bm7b5 | E7b9 | Am7 | A7 |
| Dm9 | G13 | Cmaj7 | Fmaj7 | Bm7b5 E7#9 | Am6 | F7 E7 | Am(maj7) |
"""
ATTACKS = (
    {"kind": "picked"},
    {"kind": "hammer-on"},
    {"kind": "pull-off"},
    {"kind": "slide"},
    {"kind": "slide-in", "start": 300, "ticks": 1_260},
    {"kind": "slide-in", "start": "far below", "ticks": 1_260},
    {"kind": "tapped"},
    {"kind": "harmonic", "how": "pinched", "partial": 3},
)
EXTRAS: tuple[dict[str, object], ...] = (
    {},
    {"course": [(0, 0), (1_260, 4)]},
    {"course": [(0, 0), (1_000, 2), (2_000, 2), (2_400, 0)]},
    {"course": [(0, 4), (1_260, 4), (2_520, 0)]},
    {"course": [(0, 0), (1_260, 1)]},
    {"vibrato": {"start": 600, "width_cents": 45.0, "rate_hz": 5.4}},
    {"trill": {"fret": 900}},
    {"tremolo": {"rate_hz": 11.0}},
    {"rake": {"strings": [5, 4]}},
    {"ending": {"kind": "slide-off", "to": "far down", "ticks": 1_260}},
    {"ending": {"kind": "staccato"}},
    {"ending": {"kind": "let ring"}},
    {"ending": {"kind": "choked"}},
    {"ghost": True},
    {"accent": True},
    {"palm_mute": True},
    {"finger": "1", "pick": "down"},
    {"sure": "unsure"},
    {"dead": True},
)


def big_ground(bars: int, minutes: float) -> Ground:
    """A ground of so many bars, a multiple of 16 and at most 1,024, over so many minutes."""
    numbers = count()
    chart = read_chart(CHART, new_id=lambda: f"c{next(numbers)}").chart
    return Ground(
        settings=GroundSettings(bars=bars, form=chart.form, choruses=max(1, bars // FORM_BARS)),
        anchors=(
            Anchor(id="a0", tick=0, second=1.0),
            Anchor(id="a1", tick=bars * WHOLE, second=1.0 + 60 * minutes),
        ),
        sections=chart.sections,
    )


def big_solo(notes: int = 2_000, bars: int = 400, minutes: float = 10.0, seed: int = 1) -> SoloDocument:
    """A solo of so many notes spread over the bars; every twentieth is a stack of two."""
    rng = np.random.default_rng(seed)
    step = bars * WHOLE // notes
    step -= step % (EIGHTH // 4)
    written: list[Note] = []
    rests: list[Rest] = []
    stacks: list[Stack] = []
    tick, number, string, fret = 0, 0, 2, 8
    while len(written) < notes:
        ticks = min(step, int(rng.choice([EIGHTH, EIGHTH, QUARTER])))
        string = int(np.clip(string + rng.integers(-1, 2), 1, 5))
        fret = int(np.clip(fret + rng.integers(-3, 4), 2, 17))
        values: dict[str, object] = {"id": f"n{number}", "tick": tick, "ticks": ticks, "string": string}
        values |= {"fret": fret * 100, "attack": ATTACKS[number % len(ATTACKS)]}
        extra = EXTRAS[int(rng.integers(len(EXTRAS)))]
        if ticks >= EIGHTH or "course" not in extra:
            values |= extra
        if number % 20 == 19 and len(written) + 2 <= notes:
            stacks.append(Stack(id=f"s{number}"))
            values["stack"] = f"s{number}"
            written.append(Note.model_validate(values | {"id": f"n{number}b", "string": string + 1}))
        written.append(Note.model_validate(values))
        if ticks < step:
            rests.append(Rest(id=f"r{number}", tick=tick + ticks, ticks=step - ticks))
        tick += step
        number += 1
    phrases = tuple(
        Phrase(id=f"p{i}", name=f"phrase {i + 1}", start=start, end=start + 2 * WHOLE)
        for i, start in enumerate(range(0, bars * WHOLE, 4 * WHOLE))
    )
    return SoloDocument(
        tune=f"{notes} notes",
        ground=big_ground(bars, minutes),
        solo=Solo(
            settings=SoloSettings(title=f"{notes} notes over {bars} bars", player="Nobody", last_bar=bars),
            notes=tuple(sorted(written, key=lambda note: (note.tick, note.string, note.id))),
            rests=tuple(rests),
            stacks=tuple(stacks),
            phrases=phrases,
            questions=(Question(id="q0", start=0, end=WHOLE, notes=(written[0].id,), words="Is the first one there?"),),
            dynamics=(Dynamic(id="d0", tick=0, level="mf"),),
            swells=(Swell(id="w0", start=0, end=WHOLE, to="louder"),),
            choices=(
                AnticipationChoice(id="h0", note=written[3].id, heard="here"),
                ChangesChoice(id="h1", name="tritone", start=0, end=WHOLE, chords=(OtherChord(tick=0, symbol="Eb7"),)),
                FingeringChoice(id="h2", notes=(written[5].id,)),
            ),
        ),
    )
