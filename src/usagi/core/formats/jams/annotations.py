"""The annotations of a file: what each says when, and which of them are the notes of a guitar."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from math import isfinite, log2
from typing import Any, Final

from usagi.core.formats.score import (
    FileUnreadable,
    Part,
)
from usagi.core.fretboard.tunings import MOST

MOST_BYTES: Final = 24_000_000
MOST_POINTS: Final = 400_000
LONGEST_S: Final = 3_600.0
NOTES: Final = ("note_midi", "note_hz", "pitch_midi", "pitch_hz")
READ: Final = {*NOTES, "beat", "beat_position", "tempo", "key_mode", "chord", "chord_harte", "pitch_contour"}
INTONATION: Final = 0.35  # semitones beside a pitch that are no quarter tone
STRINGS: Final = "strings"


@dataclass(frozen=True, slots=True)
class Told:
    """One observation."""

    time: float
    duration: float
    value: Any


@dataclass(frozen=True, slots=True)
class Heard:
    """A note: when, how long, its pitch, and the source of its annotation."""

    time: float
    duration: float
    midi: int
    source: str
    curled: bool = False  # it lies about a quarter tone above its pitch


@dataclass(frozen=True, slots=True)
class Annotation:
    namespace: str
    source: str
    data: tuple[Told, ...]
    written: int  # observations in the file, with those that cannot be read


def tree_of(data: bytes) -> dict[str, Any]:
    if len(data) > MOST_BYTES:
        raise FileUnreadable(f"This file is too long: {MOST_BYTES // 1_000_000} MB at most.")
    try:
        tree = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError) as fault:
        raise FileUnreadable("This file is no JSON that can be read.") from fault
    if not isinstance(tree, dict) or not isinstance(tree.get("annotations"), list):
        raise FileUnreadable("This is not a JAMS file: it has no annotations.")
    return tree


def object_of(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def annotations_of(tree: dict[str, Any]) -> list[Annotation]:
    found = []
    points = 0
    for one in tree["annotations"]:
        if not isinstance(one, dict) or not isinstance(one.get("namespace"), str):
            continue
        observations = _observations(one.get("data"))
        data = tuple(_data(observations))
        points += len(data)
        if points > MOST_POINTS:
            raise FileUnreadable("This file annotates too many things to be one solo.")
        metadata = one.get("annotation_metadata")
        source = metadata.get("data_source", "") if isinstance(metadata, dict) else ""
        found.append(Annotation(one["namespace"], str(source), data, len(observations)))
    return found


def _observations(data: Any) -> list[Any]:
    """Observations as a list of objects, or (as dense annotations were written) as an object of lists."""
    if isinstance(data, dict):
        names = ("time", "duration", "value")
        lists = [one if isinstance(one := data.get(name), list) else [] for name in names]
        data = [dict(zip(names, values, strict=True)) for values in zip_longest(*lists)]
    return data if isinstance(data, list) else []


def _data(observations: Sequence[Any]) -> Iterator[Told]:
    for one in observations:
        if not isinstance(one, dict):
            continue
        time, duration = number_of(one.get("time")), number_of(one.get("duration")) or 0.0
        if time is not None and abs(time) <= LONGEST_S and 0 <= duration <= LONGEST_S:
            yield Told(time, duration, one.get("value"))


def number_of(value: Any) -> float | None:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    try:
        number = float(value)
    except OverflowError:
        return None
    return number if isfinite(number) and abs(number) < 1e9 else None


def unread_kinds(annotations: Sequence[Annotation]) -> list[str]:
    """The kinds of annotations in the file that are not read."""
    kinds = {one.namespace for one in annotations if one.written and one.namespace not in READ}
    return sorted(kind for kind in kinds if not kind.startswith("segment"))


Lines = list[tuple[str, Annotation]]


def parts_of(annotations: Sequence[Annotation]) -> list[tuple[Part, Lines]]:
    """The strings of one guitar together, when each has its own number as its source; else every annotation."""
    notes = [one for one in annotations if one.namespace in NOTES]
    for namespace in NOTES:
        of_strings = [one for one in notes if one.namespace == namespace and one.source.isdecimal()]
        numbers = {one.source for one in of_strings}
        if len(of_strings) > 1 and len(numbers) == len(of_strings) and all(int(n) < MOST for n in numbers):
            lines = [(one.source, one) for one in of_strings]
            return [(Part(STRINGS, "all strings", sum(map(_count, of_strings)), True), lines)]
    return [
        (Part(str(i), f"{one.namespace} {one.source}".strip(), _count(one)), [(one.source, one)])
        for i, one in enumerate(notes, start=1)
    ]


def _count(annotation: Annotation) -> int:
    return sum(_midi(annotation.namespace, told.value) is not None and told.duration > 0 for told in annotation.data)


def heard_of(lines: Lines) -> Iterator[Heard]:
    for source, line in lines:
        for told in line.data:
            midi = _midi(line.namespace, told.value)
            if midi is not None and told.duration > 0:
                near = round(midi)
                whole = near if abs(midi - near) <= INTONATION else int(midi)
                yield Heard(told.time, told.duration, whole, source, curled=whole < near or midi - whole > INTONATION)


def _midi(namespace: str, value: Any) -> float | None:
    number = number_of(value)
    if number is None or number <= 0:
        return None
    midi = 69 + 12 * log2(number / 440) if namespace.endswith("_hz") else number
    return midi if 0 < midi < 128 else None
