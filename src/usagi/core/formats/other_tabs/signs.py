"""The signs of others on a string as we write them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from usagi.core.formats.tab_signs import SignUnreadable, read_cells

_CLEANED: Final = (
    (re.compile(r"\((\d{1,2}(?:[hpbr/\\]\d{1,2})+~*)\)"), lambda m: f"-{m[1]}-"),
    (re.compile(r"N\.?H\.?(\d{1,2})"), lambda m: f"<{m[1]}>".ljust(len(m[0]), "-")),
    (re.compile(r"[PA]\.?H\.?(\d{1,2})-{2,}"), lambda m: f"<{m[1]}p2>".ljust(len(m[0]), "-")),
    (re.compile(r"(?<=\d)(?:bend|bu)(\d{1,2})"), lambda m: f"b{m[1]}".ljust(len(m[0]), "-")),
    (re.compile(r"(?<=\d)\^(?=\d)"), lambda m: "b"),
    (re.compile(r"==+"), lambda m: "-" * len(m[0])),
    (re.compile(r"\[(\d{1,2})\]"), lambda m: f"<{m[1]}>"),
    (re.compile(r"b\((\d{1,2})\)"), lambda m: f"b{m[1]}--"),
    (re.compile(r"b1/2"), lambda m: "b½--"),
    (re.compile(r"b1/4"), lambda m: "b¼--"),
    (re.compile(r"b[Ff]ull"), lambda m: "b1---"),
    (re.compile(r"b[Ff](?![a-z])"), lambda m: "b1"),
    (re.compile(r"(?<=[-|(])(\d{1,2})\^(?=-|\||$)"), lambda m: f"{m[1]}b"),
    (re.compile(r"(?<=\d)v+(?=-|\||$| )"), lambda m: "~" * len(m[0])),
    (re.compile(r"(?<=\d)[sS](?=\d)"), lambda m: "/"),
    (re.compile(r"[HP](?=\d)"), lambda m: m[0].lower()),
    (re.compile(r"(?<=\d)[hp](?=-)"), lambda m: "-"),
    (re.compile(r"T(?=\d)"), lambda m: "t"),
    (re.compile(r"\*"), lambda m: "-"),
    (re.compile(r"(?<![\d)>~=.½¼¾rmzw^])[~=.]+"), lambda m: "-" * len(m[0])),
)


def _frame(text: str, at: int) -> bool:
    """Whether a sign belongs to the frame of a system, not to a note; the colon of a rake does."""
    rake = text[at] == ":" and re.search(r"k\d+$", text[:at]) is not None
    return text[at] in "|:[]o " and not rake


def cleaned(line: str, columns: Sequence[int]) -> tuple[str, list[tuple[int, str]]]:
    """A string with bar lines where the system has them and signs as we write them; and what is no sign, by column."""
    text = line
    for pattern, by in _CLEANED:
        text = pattern.sub(by, text)
    text = text[: len(line)].ljust(len(line), "-")
    text = "".join("|" if i in columns else "-" if _frame(text, i) else sign for i, sign in enumerate(text))
    unread: list[tuple[int, str]] = []
    while True:
        try:
            for _ in read_cells(text.replace("|", "-")):
                pass
            return text, unread
        except SignUnreadable as fault:
            bad = re.match(r"[^-|]+", text[fault.column :])
            piece = bad[0] if bad is not None else text[fault.column]
            unread.append((fault.column, piece))
            text = text[: fault.column] + "-" * len(piece) + text[fault.column + len(piece) :]
