"""Seconds as a clock shows them."""

from __future__ import annotations


def clock_text(second: float) -> str:
    """Minutes, seconds and tenths.

    >>> clock_text(72.56), clock_text(-0.5)
    ('1:12.6', '-0:00.5')
    """
    tenths = round(abs(second) * 10)
    sign = "-" if second < 0 and tenths else ""
    return f"{sign}{tenths // 600}:{tenths % 600 // 10:02d}.{tenths % 10}"
