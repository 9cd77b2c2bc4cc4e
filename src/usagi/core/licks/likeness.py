"""What one lick has otherwise than another, in words: the cheapest way from one to the other, step by step."""

from __future__ import annotations

from collections.abc import Sequence
from math import log2
from typing import Final

from usagi.core.licks.line import KeyFree, Token
from usagi.core.licks.nearness import DIRECTION, GAP, LEAST_GAP, SLOT
from usagi.core.pitch.keys import PLAIN

SAME_GAP: Final = 0.05  # of a doubling
FEW: Final = 3  # notes that are named one by one
Pair = tuple[Token | None, Token | None]


def aligned(one: Sequence[Token], other: Sequence[Token]) -> list[Pair]:
    """The tokens of two lines side by side, at the least cost; None where the other has one more."""
    m, n = len(one), len(other)
    cost = [[float(i + j) if not i or not j else 0.0 for j in range(n + 1)] for i in range(m + 1)]
    for i in range(1, m + 1):
        for j in range(1, n + 1):
            cost[i][j] = min(
                cost[i - 1][j - 1] + replacing(one[i - 1], other[j - 1]), cost[i - 1][j] + 1, cost[i][j - 1] + 1
            )
    pairs: list[Pair] = []
    i, j = m, n
    while i or j:
        if i and j and cost[i][j] == cost[i - 1][j - 1] + replacing(one[i - 1], other[j - 1]):
            i, j = i - 1, j - 1
            pairs.append((one[i], other[j]))
        elif i and cost[i][j] == cost[i - 1][j] + 1:
            i -= 1
            pairs.append((one[i], None))
        else:
            j -= 1
            pairs.append((None, other[j]))
    return pairs[::-1]


def replacing(one: Token, other: Token) -> float:
    """What it costs to make one token the other (docs/music.md, Nearness)."""
    return (
        SLOT * (one.slot != other.slot)
        + DIRECTION * (one.direction != other.direction)
        + GAP * min(1.0, _apart(one, other))
    )


def _apart(one: Token, other: Token) -> float:
    return abs(log2(max(LEAST_GAP, one.gap)) - log2(max(LEAST_GAP, other.gap)))


def differences(one: KeyFree, other: KeyFree) -> str:
    """What the other has otherwise, in words.

    >>> ab = KeyFree(((4,), (3,), (0,)), (64, 63, 60), (5_040, 5_040, 5_040))
    >>> cd = KeyFree(((4,), (3,), (0,), (9,)), (64, 63, 60, 69), (5_040, 5_040, 5_040, 10_080))
    >>> differences(ab, cd), differences(ab, ab)
    ('one note more, the 6', 'the same degrees and the same rhythm')
    """
    pairs = aligned(one.tokens, other.tokens)
    more = [b for a, b in pairs if a is None and b is not None]
    less = [a for a, b in pairs if b is None and a is not None]
    both = [(a, b) for a, b in pairs if a is not None and b is not None]
    changed = [(a, b) for a, b in both if a.slot != b.slot]
    turned = sum(a.direction != b.direction for a, b in both)
    rhythm = sum(_apart(a, b) > SAME_GAP for a, b in both[:-1])
    said = []
    if more:
        said.append(_counted(more, "more"))
    if less:
        said.append(_counted(less, "fewer"))
    if len(changed) == 1 and changed[0][0].slot is not None and changed[0][1].slot is not None:
        said.append(f"the {PLAIN[changed[0][1].slot]} for the {PLAIN[changed[0][0].slot]}")
    elif changed:
        said.append(f"{_number(len(changed))} other degrees" if len(changed) > 1 else "one other degree")
    if turned and not changed:
        said.append("in another octave" if turned == 1 else f"turned in {_number(turned)} places")
    if rhythm:
        said.append("in another rhythm" if rhythm > 2 else f"{_number(rhythm)} other length{'s' if rhythm > 1 else ''}")
    if not said:
        return "the same degrees and the same rhythm"
    return ", ".join(said if more or less or changed else ["the same degrees", *said])


def _counted(tokens: Sequence[Token], word: str) -> str:
    words = f"{_number(len(tokens))} note{'s' if len(tokens) > 1 else ''} {word}"
    names = [PLAIN[token.slot] for token in tokens if token.slot is not None]
    return f"{words}, the {' '.join(names)}" if len(tokens) <= FEW and len(names) == len(tokens) else words


_NUMBERS: Final = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")


def _number(count: int) -> str:
    return _NUMBERS[count] if count < len(_NUMBERS) else str(count)
