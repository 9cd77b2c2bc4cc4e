"""What is said where practice can hurt, and where the law of copies matters. Advice of doctors and local law decide."""

from __future__ import annotations

from typing import Final

from usagi.core.document.solo import STANDARD, SoloSettings
from usagi.core.fretboard.tension import USUAL, Gauge, cautions, turn

HANDS: Final = "Fifteen minutes, then rest the hand. Stop when it hurts; if it goes on hurting, see a professional."
EARS: Final = "Keep the volume where you can talk over it."
BREAK: Final = "Fifteen minutes of looping. Put the guitar down for a few minutes."
COPIES: Final = "Whether you may copy or share a recording depends on your local law."
BREAK_AFTER_S: Final = 15 * 60  # the same figure as in `HANDS` and `BREAK`


def of_strings(settings: SoloSettings) -> tuple[str, ...]:
    """What is said where strings are tuned up from a standard set, or from the one that the solo names.

    Parameters
    ----------
    settings : tuning, gauges, what the set is made for.
    """
    made_for = settings.strung_for or STANDARD
    if len(made_for) != len(settings.tuning):
        return ()
    gauges = [Gauge(one.gauge_inch, one.wound) for one in settings.gauges] or list(USUAL)
    if len(gauges) < len(settings.tuning):
        return ()
    scale_m = settings.scale_length_mm / 1_000
    turns = [
        turn(i + 1, old, new, gauges[i], scale_m)
        for i, (old, new) in enumerate(zip(made_for, settings.tuning, strict=True))
    ]
    raised = [one for one in turns if one.semitones > 0]
    return tuple(cautions(raised)[:1]) if raised else ()
