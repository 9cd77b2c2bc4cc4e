"""The lines of a text with tablature: which are strings, and what the others are.

Strings are named by letters, with octaves or without, by numbers, from the top or from the bottom, or not at all.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

from usagi.core.formats.other_tabs.head import Head, take_head
from usagi.core.formats.score import FileUnreadable
from usagi.core.formats.tab_signs import LEGEND
from usagi.core.harmony.symbols import is_chord

MOST_BYTES: Final = 2_000_000
MOST_COLUMNS: Final = 1_000  # a longer line is no string of a tablature
MOST_LINES: Final = 20_000
LEAST_STRINGS: Final = 3  # lines, one under another, that make a system
_NAME = r"(?:[\[(]?\s*(?:[A-Ga-g][#b♯♭]?\d?|[1-8]|[①-⑧])\s*[\])]?)"
STRING: Final = re.compile(rf"\s*(?P<name>{_NAME})?\s*(?P<bar>[:|¦\[(]+|(?=-))(?P<rest>.*)")
_FRAMED: Final = re.compile(rf"\s*{_NAME}\s*[:|¦]+")
_TIMES: Final = re.compile(
    r"\(?\s*(?:[x×]\s*(\d+)|(?<!\w)(\d+)\s?[x×]|play\s+(\d+)\s+times|(\d+)\s+times)\s*\)?",
    re.IGNORECASE,
)
_BEHIND: Final = re.compile(r"(\|)\s+[^-|]*$")  # words behind the last bar line
_SECTION: Final = re.compile(r"\s*(?:\[(?P<inside>[^\]]{1,60})\]|(?P<plain>[A-Za-z][\w '#.&/-]{0,58}):)\s*")
_PART: Final = re.compile(
    r"\s*(?P<named>(?:intro|verse|chorus|bridge|solo|outro|head|interlude|break|coda|ending|riff|lick|part|section|theme"
    r"|fill|vamp|turnaround)(?:[ .#]+(?:\d{1,2}|[a-z]))?)[:.]?(?:\s*\([^()]{1,60}\))?\s*",
    re.IGNORECASE,
)
_COUNTS: Final = re.compile(r"(?:\d{1,2}|[&+eaEA~.|,-]|trip|let|la|li|ta)+~?$")
PALM: Final = r"P\.?M\.?[-._]*"
_PALMS: Final = re.compile(rf"\s*(?:{PALM}[|\s]*)+")
_QUOTED: Final = re.compile(r"(?:> ?)+")
_PRE: Final = re.compile(r"<pre\b[^>]*>(.*?)(?:</pre\s*>|\Z)", re.IGNORECASE | re.DOTALL)
_TAG: Final = re.compile(r"<(?:/?[a-z][a-z0-9]*)\b[^>]*>", re.IGNORECASE)
_RULE: Final = re.compile(r"[\s=\-_*~#.]*$")
_EXPLAINS: Final = re.compile(
    r"\W*\S{1,5}\s*[=:–-]\s*\w[\w ,()/'-]*$"
    r"|.*\b(?:hammer|pull-?off|bend|slide|vibrato|legend|harmonic)\b.*",
    re.IGNORECASE,
)
_LEGEND: Final = tuple(words for _, words, _ in LEGEND)
MOST_TIMES: Final = 16
SIZES: Final = {
    "full": "1",
    "1": "1",
    "1/2": "½",
    "½": "½",
    "1/4": "¼",
    "¼": "¼",
    "1½": "1½",
    "1 1/2": "1½",
}  # of bends
SIZE: Final = re.compile(r"1\s1/2|\S+")
AROUND: Final = ("chords", "counts", "lengths", "numbers", "palms", "sizes")  # lines that go with the system they touch


@dataclass
class Block:
    """A system as it stands in the text: string lines from the highest, what stands around it."""

    first_line: int
    lines: list[str]
    names: list[str]
    above: list[tuple[int, str]]
    below: list[tuple[int, str]]
    section: str | None = None
    times: int = 1
    first_string: int = 1


_DASHES: Final = str.maketrans("–—−‐─│¦’\u00a0", "-----||' ")


def text_of(data: bytes) -> str:
    """The text of a file: UTF-8, UTF-16 with its mark, else Latin-1; dashes made one. Raises : FileUnreadable."""
    if len(data) > MOST_BYTES:
        raise FileUnreadable(f"This text is too long: {MOST_BYTES // 1_000_000} MB at most.")
    if b"\0" in data[:4_000] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise FileUnreadable("This file is no text.")
    marked = data.startswith((b"\xff\xfe", b"\xfe\xff"))
    for encoding in ("utf-16", "latin-1") if marked else ("utf-8-sig", "latin-1"):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if text.lstrip().startswith("{\\rtf"):
            raise FileUnreadable(
                "This is a document of a word processor (RTF). Save it as plain text, and import that."
            )
        return _out_of_page(text).translate(_DASHES)
    raise FileUnreadable("This file is no text.")


def _out_of_page(text: str) -> str:
    """What stands between <pre> and </pre> of a web page; any other text as it is."""
    parts = _PRE.findall(text)
    return html.unescape(_TAG.sub("", "\n".join(parts))) if parts else text


def lines_of(text: str) -> list[str]:
    """The lines of a text, without tabs and without the > that a mail sets before those that it answers."""
    lines = [_without_tabs(line).rstrip() for line in text.splitlines()]
    if len(lines) > MOST_LINES:
        raise FileUnreadable(f"This text has more than {MOST_LINES} lines.")
    answered = [_QUOTED.sub("", line, count=1) if line.startswith(">") else line for line in lines]
    strings = sum(a != b and _is_string(b) is not None for a, b in zip(lines, answered, strict=True))
    return answered if strings >= LEAST_STRINGS else lines


def _without_tabs(line: str) -> str:
    """Tabs become dashes on a string, blanks elsewhere."""
    framed = _FRAMED.match(line)
    if "\t" not in line or framed is None:
        return line.expandtabs(4)
    body = line.expandtabs(4)
    begins = len(framed[0].expandtabs(4))
    end = max(body.rfind("|"), begins)
    return body[:begins] + body[begins:end].replace(" ", "-") + body[end:]


def _is_string(line: str, *, below: bool = False) -> re.Match[str] | None:
    """A line as a string; one `below` another may be as full of signs, or break off as soon, as it likes."""
    found = STRING.fullmatch(line) if len(line) <= MOST_COLUMNS else None
    if found is None:
        return None
    rest = found["rest"]
    dashes = rest.count("-")
    signs = len(rest.replace(" ", ""))
    framed = bool(found["name"]) and bool(found["bar"])
    if below and framed and dashes and (dashes == signs or re.search(r"[\dxX]", rest)):
        return found
    notes = re.search(r"[\dxX|]", rest) is not None
    dense = (6 if framed else 3) * dashes
    return found if dashes >= 2 and dense >= signs and (notes or dashes >= 6) else None


def blocks_of(lines: Sequence[str]) -> list[Block]:
    """Systems: runs of string lines, as many as a guitar has."""
    found: list[Block] = []
    at = 0
    while at < len(lines):
        run = at
        while run < len(lines) and _is_string(lines[run], below=run > at) is not None:
            run += 1
        if run - at >= LEAST_STRINGS:
            for first, last in _parted(lines, at, run):
                matches = [STRING.fullmatch(line) for line in lines[first:last]]
                names = [re.sub(r"[\[\]() ]", "", one["name"] or "") for one in matches if one is not None]
                bodies = [_BEHIND.sub(r"\1", line) for line in lines[first:last]]
                block = Block(first + 1, bodies, names, [], [])
                block.times = max(
                    _times_in(line[len(body) :]) for line, body in zip(lines[first:last], bodies, strict=True)
                )
                found.append(block)
        at = max(run, at + 1)
    return found


def _times_in(text: str) -> int:
    """How many times a text says to play something: once when it does not say. Very long numbers are cut."""
    found = _TIMES.search(text)
    return 1 if found is None else max(int(next(filter(None, found.groups()))[:9]), 1)


def _parted(lines: Sequence[str], start: int, end: int) -> Iterator[tuple[int, int]]:
    """A run of more lines than strings is several systems that stand close."""
    count = end - start
    size = next((n for n in (6, 7, 8, 5, 4) if count > 8 and count % n == 0), count)
    for at in range(start, end, size):
        yield at, min(at + size, end)


def sort_lines(lines: Sequence[str], blocks: Sequence[Block], head: Head, unread: dict[int, str]) -> None:
    """Sort the lines between systems: heads, sections, chords, counts, lengths, repeats; list the others as unread."""
    owner: dict[int, tuple[Block | None, Block | None]] = {}
    taken = {n for block in blocks for n in range(block.first_line, block.first_line + len(block.lines))}
    for number, line in enumerate(lines, start=1):
        if number in taken:
            continue
        before = next((b for b in reversed(blocks) if b.first_line < number), None)
        after = next((b for b in blocks if b.first_line > number), None)
        owner[number] = before, after
        if not line.strip() or _RULE.match(line):
            continue
        kind = kind_of(line)
        touching_above = after is not None and _touches(lines, number, after.first_line)
        touching_below = before is not None and _touches(lines, before.first_line + len(before.lines) - 1, number)
        block = before if touching_below or after is None else after
        if block is not None and kind in ("times", "chords") and _TIMES.search(line) is not None:
            block.times = _times_in(line)
        if kind in AROUND and after is not None and touching_above:
            after.above.append((number, _TIMES.sub(_blank, line)))
        elif kind in (*AROUND, "degrees") and before is not None and touching_below:
            before.below.append((number, line))
        elif (part := _PART.fullmatch(line)) is not None and after is not None:
            after.section = part["named"].strip()
        elif (kind == "times" and block is not None) or take_head(
            line,
            head,
            first=before is None and not line.lstrip().startswith("["),  # a section, and no title
        ):
            continue
        elif (section := _SECTION.fullmatch(line)) is not None and after is not None:
            after.section = (section["inside"] or section["plain"] or "").strip()
        elif _EXPLAINS.fullmatch(line.strip()) or any(words in line for words in _LEGEND):
            continue  # what a sign means
        else:
            unread.setdefault(number, line.strip())


def _blank(found: re.Match[str]) -> str:
    return " " * len(found[0])


def _touches(lines: Sequence[str], start: int, end: int) -> bool:
    """Whether no blank line stands between two lines, both counted from 1."""
    return all(lines[i].strip() for i in range(start, end - 1))


def kind_of(line: str) -> str:
    """What a line that is no string says: chords, counts, lengths, numbers, palms, times, degrees, or other."""
    words = line.replace("|", " ").split()
    if not words:
        return "other"
    if all(word.isdecimal() for word in words) and words != sorted({*words}, key=int)[:1] * len(words):
        rising = [int(word) for word in words]
        if rising == list(range(rising[0], rising[0] + len(rising))) and rising[0] != 1:
            return "numbers"
    spoken = words[0].rstrip("~").isdecimal() and not all(word.isdecimal() for word in words)
    if (words[0] == "1" or spoken) and all(_COUNTS.fullmatch(word) for word in words) and len(words) > 2:
        return "counts"
    if all(re.fullmatch(r"[WHQEST]\.?3?", word) for word in words) and len(words) > 1:
        return "lengths"
    if all(word.isdecimal() for word in words):
        return "numbers"
    if _PALMS.fullmatch(line):
        return "palms"
    if all(word.casefold() in SIZES for word in SIZE.findall(line)):
        return "sizes"
    chords = _TIMES.sub(" ", line).replace("|", " ").split()
    if chords and all(is_chord(bare(word)) for word in chords):
        return "chords"
    if _TIMES.fullmatch(line.strip()):
        return "times"
    if all(re.fullmatch(r"[(b#\d),>+]+", word) for word in words):
        return "degrees"
    return "other"


def bare(word: str) -> str:
    """A chord symbol without the parentheses that some set round all of it."""
    return word[1:-1] if word.startswith("(") and word.endswith(")") else word
