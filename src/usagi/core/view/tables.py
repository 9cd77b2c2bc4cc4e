"""What the page needs to walk and draw without computing music: lengths, bends, strings, frets."""

from __future__ import annotations

from usagi.core.document.credits import disputes
from usagi.core.document.solo import Solo
from usagi.core.document.techniques import steps_text
from usagi.core.fretboard.places import HUNDREDTHS, open_pitch
from usagi.core.fretboard.tension import Gauge, print_gauges
from usagi.core.fretboard.tunings import tuning_of
from usagi.core.meter.ticks import EIGHTH, LENGTHS, TUPLETS
from usagi.core.values import Value
from usagi.core.view.shapes import BendView

INLAYS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24, 27, 29, 31, 33, 36)
BEND_SIZES = (1, 2, 4, 6, 8)  # quarter tones, in the order in which the bend key walks them


class TupletView(Value):
    count: int
    ticks: int


class LengthView(Value):
    name: str
    short: str
    ticks: int
    dotted: int
    triplet: int
    tuplets: tuple[TupletView, ...]


class StringView(Value):
    """A string, its open name, and the pitch class of every fret from the open string on."""

    number: int
    name: str
    classes: tuple[int, ...]


class Tables(Value):
    """What the page needs to walk and draw without computing music."""

    lengths: tuple[LengthView, ...]
    bend_sizes: tuple[BendView, ...]
    bend_reached: int  # ticks; a bend is reached after these or half the note, whichever is shorter
    strings: tuple[StringView, ...]
    frets: int
    inlays: tuple[int, ...]
    disputes: tuple[str, ...]  # who plays what, in sentences
    gauges: str
    strung_for: str  # the tuning that the set is made for, low to high
    highest_fret: float  # that a finger or a bottleneck reaches


def view_tables(solo: Solo) -> Tables:
    """Lengths, bends, strings and frets for the keys and the neck."""
    settings = solo.settings
    tuning = tuning_of(settings.tuning)
    names = [str(name) for name in tuning.names]
    return Tables(
        lengths=tuple(
            LengthView(
                name=n.name,
                short=n.short,
                ticks=n.ticks,
                dotted=n.dotted,
                triplet=n.triplet,
                tuplets=tuple(TupletView(count=count, ticks=n.tuplet(count)) for count in TUPLETS),
            )
            for n in LENGTHS
        ),
        bend_sizes=tuple(BendView(at=0, quarters=q, size=steps_text(q)) for q in BEND_SIZES),
        bend_reached=EIGHTH,
        strings=tuple(
            StringView(
                number=i,
                name=name,
                classes=tuple(
                    (open_pitch(i, settings.tuning, settings.capo) + fret) % 12
                    for fret in range(settings.last_fret - settings.capo + 1)
                ),
            )
            for i, name in enumerate(names, start=1)
        ),
        frets=settings.last_fret - settings.capo,
        inlays=INLAYS,
        disputes=disputes(settings.credits),
        gauges=print_gauges(Gauge(gauge.gauge_inch, gauge.wound) for gauge in settings.gauges),
        strung_for=" ".join(str(name) for name in reversed(tuning_of(settings.strung_for or settings.tuning).names)),
        highest_fret=settings.highest_fret / HUNDREDTHS,
    )
