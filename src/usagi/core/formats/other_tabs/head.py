"""What a text with tablature says of the whole piece: title, tuning, capo, tempo, meter, key, feel."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Final

from usagi.core.document.solo import STANDARD
from usagi.core.errors import UsagiError
from usagi.core.fretboard.tunings import FEWEST, KNOWN, MOST, parse_tuning
from usagi.core.meter.feel import Feel, parse_feel
from usagi.core.meter.meters import Meter, MeterImpossible, parse_meter
from usagi.core.pitch.keys import Key, parse_key
from usagi.core.pitch.names import parse_name

_HEAD: Final = re.compile(r"\s*(?P<what>[A-Za-z][A-Za-z .]*?)\s*[:=]\s*(?P<said>.+?)\s*")
# A meter stands alone, between commas, behind "in" or with its word: "1/2" elsewhere is a half step, or a bend's size.
_METER: Final = re.compile(
    r"(?:^|[,;])\s*((?:[2-9]|1\d)/(?:2|4|8|16))\s*(?:$|[,;])"
    r"|\b(?:time(?:\s+signature)?|meter|metre)\s*[:=]?\s*(\d{1,2}/(?:1|2|4|8|16))(?![\d/])"
    r"|\bin\s+((?:[2-9]|1\d)/(?:2|4|8|16))(?![\d/])"
    r"|(?<![\d/])(\d{1,2}/(?:1|2|4|8|16))\s+(?:time|meter|metre)\b",
    re.IGNORECASE,
)
_TEMPO: Final = re.compile(r"(?:=|\bbpm\b|\btempo\b)\D{0,3}(\d{2,3})|(\d{2,3})\s*bpm", re.IGNORECASE)


_DOWN: Final = re.compile(r"\b(?:tune|tuned|tuning)\b.*?(half|whole|full|1/2|½)[- ]?(?:a )?step", re.IGNORECASE)


@dataclass
class Head:
    """What the text says of the whole piece."""

    title: str = ""
    player: str = ""
    tuning: tuple[int, ...] | None = None
    capo: int = 0
    tempo: float | None = None
    meter: Meter | None = None
    key: Key | None = None
    feel: Feel | None = None


def take_head(line: str, head: Head, *, first: bool) -> bool:
    """Take in what a line says of the piece; returns whether it does. `first`: it stands before all systems."""
    took = False
    named = _HEAD.fullmatch(line)
    what, said = (named["what"].casefold(), named["said"]) if named is not None else ("", line.strip())
    if what in ("title", "song", "tune"):
        head.title, took = said[:200], True
    elif what in ("artist", "player", "by", "soloist"):
        head.player, took = said[:200], True
    if "capo" in line.casefold():
        capo = re.search(r"capo\D{0,12}(\d{1,2})", line, re.IGNORECASE)
        if capo is not None and int(capo[1]) <= 12:
            head.capo, took = int(capo[1]), True
    inside = re.search(r"\(([^()]*)\)", line)
    words = re.split(r"\s{2,}", said)[0] if "tuning" in what else line.strip()
    for text in (words, inside[1] if inside is not None else "", *_known(line)):
        if text and head.tuning is None and (tuning := _tuning(text)) is not None:
            head.tuning, took = tuning, True
    down = _DOWN.search(line)
    if head.tuning is None and down is not None and "up" not in line.casefold().split():
        whole = down[1].casefold() in ("whole", "full")
        head.tuning, took = _tuning(f"{'whole' if whole else 'half'} step down"), True
    if what == "key" or what == "mode":
        with suppress(UsagiError):
            head.key, took = parse_key(said), True
    meter = _METER.search(line)
    if meter is not None:
        with suppress(MeterImpossible):
            head.meter, took = parse_meter(next(filter(None, meter.groups()))), True
    tempo = _TEMPO.search(line)
    if tempo is not None:
        bpm = float(next(filter(None, tempo.groups())))
        if 20 <= bpm <= 400:
            head.tempo, took = bpm, True
    for part in line.split(","):
        try:
            head.feel, took = parse_feel(part.strip()), True
        except UsagiError:
            continue
    by = re.fullmatch(r"\s*by\s+(.{1,100})", line)
    if by is not None and first and not head.player:
        head.player, took = by[1].strip(), True
    if not took and first and not head.title and named is None and len(line.strip()) <= 120 and "." not in line:
        head.title, took = line.strip()[:200], True
    return took


def _known(line: str) -> Iterator[str]:
    """The known tuning that a line names, the longest name first."""
    words = f" {' '.join(line.casefold().replace(',', ' ').split())} "
    for name in sorted(KNOWN, key=len, reverse=True):
        if f" {name.casefold()} " in words and (name != "standard" or "tuning" in words or "(" in line):
            yield name
            return


def _tuning(text: str) -> tuple[int, ...] | None:
    try:
        return parse_tuning(text.replace("tuning", "").strip()).midi
    except UsagiError:
        return None


# Of fewer or more strings than six, what they are without names.
USUAL: Final = {
    4: (43, 38, 33, 28),
    5: (43, 38, 33, 28, 23),
    6: STANDARD,
    7: (64, 59, 55, 50, 45, 40, 35),
    8: (64, 59, 55, 50, 45, 40, 35, 30),
}


def tuning_of_names(names: Sequence[str], said: list[str]) -> tuple[tuple[int, ...], bool]:
    """The tuning that names of strings mean, from the topmost line down, and whether that is the lowest string.

    Parameters
    ----------
    names : of one system, empty where a line has none.
    said : takes a sentence when the names are no tuning.
    """
    plain = [name.replace("♯", "#").replace("♭", "b") for name in names]
    count = len(plain)
    if not FEWEST <= count <= MOST:
        return STANDARD, False
    numbers = [int(name) if name.isdecimal() else "①②③④⑤⑥⑦⑧".find(name) + 1 for name in plain if name]
    turned = numbers == list(range(count, 0, -1))
    letters = [name[0].upper() + name[1:] for name in plain if name and name[0].isalpha()]
    if len(letters) < count:
        return USUAL[count], turned
    if (four_or_five := _part_of_standard(letters)) is not None:
        return four_or_five
    low_first, high_first = _tuning(" ".join(letters)), _tuning(" ".join(reversed(letters)))
    known = set(_every_known())
    if low_first in known and high_first not in known:
        return low_first or STANDARD, True
    if high_first is not None:
        return high_first, False
    said.append(f"Its strings are called {' '.join(letters)}, which is no tuning: the usual one is taken.")
    return USUAL[count], False


def _part_of_standard(letters: Sequence[str]) -> tuple[tuple[int, ...], bool] | None:
    """The tuning of four or five names: a bass, or a guitar with some strings left out."""
    classes = _classes(letters)
    if len(letters) >= len(STANDARD) or None in classes:
        return None
    for tuning in (USUAL[len(letters)], STANDARD):
        for turned in (False, True):
            if _within(classes[::-1] if turned else classes, tuning) is not None:
                return tuning, turned
    return None


def first_string(names: Sequence[str], tuning: Sequence[int]) -> int:
    """The string of the topmost line, 1 for the highest, where fewer lines than strings are written and named."""
    return 1 + (_within(_classes(names), tuning) or 0)


def _classes(names: Sequence[str]) -> list[int | None]:
    """The pitch class of every name of a string; None where it is no letter."""
    letters = [re.match(r"[A-Ga-g][#b♯♭]?", name) for name in names]
    return [None if one is None else parse_name(one[0][0].upper() + one[0][1:]).pitch_class for one in letters]


def _within(classes: Sequence[int | None], tuning: Sequence[int]) -> int | None:
    """How many strings lie above a row of strings with these pitch classes; None when there is no such row."""
    beside = [pitch % 12 for pitch in tuning]
    offsets = range(len(tuning) - len(classes) + 1)
    return next((i for i in offsets if beside[i : i + len(classes)] == list(classes)), None)


def _every_known() -> Iterator[tuple[int, ...]]:
    for text in KNOWN.values():
        yield parse_tuning(text).midi
