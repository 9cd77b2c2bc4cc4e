"""Stock forms as chart text, in any key: what a blues is hung in (docs/music.md, Chords, Forms)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from usagi.core.pitch.keys import Key
from usagi.core.pitch.names import Name, single_name


class Form(StrEnum):
    TWELVE = "12-bar"
    MINOR_TWELVE = "minor 12-bar"
    EIGHT = "8-bar"
    SIXTEEN = "16-bar"


class Cadence(StrEnum):
    """Bars 9 and 10."""

    V_IV = "V IV"
    II_V = "ii V"


class Turnaround(StrEnum):
    """Bars 11 and 12."""

    NONE = "none"
    I_V = "I | V"
    I_VI_II_V = "I VI | ii V"


@dataclass(frozen=True, slots=True)
class Variant:
    """How a form is played. The minor form has bVI7 or a half-diminished ii in bar 9 and is not varied otherwise."""

    quick_change: bool = False  # IV in bar 2
    sharp_four: bool = False  # a diminished chord a half step above IV in bar 6
    cadence: Cadence = Cadence.V_IV
    turnaround: Turnaround = Turnaround.NONE
    minor_two: bool = False
    choruses: int = 1


def form_text(form: Form, key: Key, variant: Variant = Variant()) -> str:
    """The chart text of a form, four bars a line.

    >>> from usagi.core.pitch.keys import parse_key
    >>> print(form_text(Form.EIGHT, parse_key("G major")))
    Form:
    | {key G major} {blues} G7 | D7 | C7 | C7 |
    | G7 | D7 | G7 | D7 |
    """
    bars = _minor(key, variant) if form is Form.MINOR_TWELVE else _major(form, key, variant)
    bars[0] = f"{{key {key}}} {{blues}} {bars[0]}"
    lines = ["Form:"] + [f"| {' | '.join(bars[at : at + 4])} |" for at in range(0, len(bars), 4)]
    if variant.choruses > 1:
        lines.append(f"{variant.choruses} choruses")
    return "\n".join(lines)


def _major(form: Form, key: Key, variant: Variant) -> list[str]:
    one, two, four, five, six = (_root(key, steps, semis) for steps, semis in ((0, 0), (1, 2), (3, 5), (4, 7), (5, 9)))
    i, iv, v = f"{one}7", f"{four}7", f"{five}7"
    if form is Form.EIGHT:
        return [i, v, iv, iv, i, v, i, v]
    second = iv if variant.quick_change else i
    sixth = f"{_root(key, 3, 6)}dim7" if variant.sharp_four else iv
    cadence = [v, iv] if variant.cadence is Cadence.V_IV else [f"{two}m7", v]
    last = {
        Turnaround.NONE: [i, i],
        Turnaround.I_V: [i, v],
        Turnaround.I_VI_II_V: [f"{i} {six}7", f"{two}m7 {v}"],
    }[variant.turnaround]
    times = 3 if form is Form.SIXTEEN else 1
    return [i, second, i, i, iv, sixth, i, i, *cadence * times, *last]


def _minor(key: Key, variant: Variant) -> list[str]:
    i, iv, v = f"{_root(key, 0, 0)}m7", f"{_root(key, 3, 5)}m7", f"{_root(key, 4, 7)}7"
    before = f"{_root(key, 1, 2)}m7b5" if variant.minor_two else f"{_root(key, 5, 8)}7"
    return [i, i, i, i, iv, iv, i, i, before, v, i, v]


def _root(key: Key, steps: int, semitones: int) -> Name:
    """A chord root on a step of the key; one that would need two accidentals is spelled with one or none."""
    name = key.tonic.above(steps, semitones)
    return name if abs(name.alter) < 2 else single_name(name.pitch_class, upwards=name.alter > 0)
