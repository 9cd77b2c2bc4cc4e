"""Files damaged at random, the same way for the same seed: bytes, numbers, tags and lines changed, cut, doubled, moved."""

from __future__ import annotations

import random
import re

NUMBERS = (b"0", b"-1", b"1", b"2", b"99", b"65536", b"4294967296", b"1e308", b"nan", b"1/3", b"", b"x", b"0.0000001")


def damaged(data: bytes, seed: int) -> bytes:
    """One to five hurts. Half of the files keep their outer form, so that what is inside them is tried, too."""
    chance = random.Random(seed)
    hurts = HURTS if chance.random() < 0.5 else GENTLE
    for _ in range(chance.randint(1, 5)):
        data = chance.choice(hurts)(data, chance)
    return data


def _flipped(data: bytes, chance: random.Random) -> bytes:
    if not data:
        return data
    at = chance.randrange(len(data))
    return data[:at] + bytes([chance.randrange(256)]) + data[at + 1 :]


def _cut(data: bytes, chance: random.Random) -> bytes:
    at = chance.randrange(len(data) + 1)
    return data[:at] if chance.random() < 0.3 else data[:at] + data[at + chance.randint(1, 200) :]


def _piece(data: bytes, chance: random.Random) -> bytes:
    """Only a little of it is left, as of a download that broke off."""
    at = chance.randrange(len(data) + 1)
    return data[at : at + chance.randint(1, 200)]


def _doubled(data: bytes, chance: random.Random) -> bytes:
    at = chance.randrange(len(data) + 1)
    return data[:at] + data[at : at + chance.randint(1, 400)] * chance.randint(2, 9) + data[at:]


def _number(data: bytes, chance: random.Random) -> bytes:
    places = list(re.finditer(rb"\d+(?:\.\d+)?", data))
    if not places:
        return _flipped(data, chance)
    one = chance.choice(places)
    return data[: one.start()] + chance.choice(NUMBERS) + data[one.end() :]


def _line(data: bytes, chance: random.Random) -> bytes:
    lines = data.split(b"\n")
    one, other = chance.randrange(len(lines)), chance.randrange(len(lines))
    lines[one], lines[other] = lines[other], lines[one]
    if chance.random() < 0.5:
        del lines[one]
    return b"\n".join(lines)


def _word(data: bytes, chance: random.Random) -> bytes:
    words = list(re.finditer(rb"[A-Za-z][\w-]+", data))
    if len(words) < 2:
        return _flipped(data, chance)
    one, other = chance.choice(words), chance.choice(words)
    return data[: one.start()] + other[0] + data[one.end() :]


def _element(data: bytes, chance: random.Random) -> bytes:
    """An element of XML, or an object of JSON, left out, doubled or put where another stands."""
    found = [m.span() for m in re.finditer(rb"<([a-z][\w-]*)[^<>]*>(?:[^<]|<(?!/\1>|\1[ >]))*</\1>|\{[^{}]*\},", data)]
    if len(found) < 2:
        return _number(data, chance)
    (start, end), (other, stop) = chance.choice(found), chance.choice(found)
    piece = chance.choice((b"", data[start:end] * 2, data[other:stop]))
    return data[:start] + piece + data[end:]


HURTS = (_flipped, _cut, _piece, _doubled, _number, _number, _line, _word)
GENTLE = (_number, _element, _element)
