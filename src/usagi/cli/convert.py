"""`convert`: one file as another, without server and database. It runs what *Export* and *Import* of the page run."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any
from uuid import uuid4

from usagi.cli.documents import write_whole
from usagi.core.degrees.degree import Style
from usagi.core.degrees.spoken import Reader
from usagi.core.formats.files import (
    KINDS,
    Coming,
    FileKind,
    Going,
    kind_named,
    kind_of_bytes,
    kind_of_file,
    left_behind,
    parts_in,
    read_in,
    written,
)
from usagi.core.formats.laid.laying import Laid
from usagi.core.formats.laid.listing import part_words, size_words
from usagi.core.formats.other_tabs.times import Lengths
from usagi.core.formats.score import FileUnreadable
from usagi.core.handout.pictures import PICTURES


def add_commands(commands: Any) -> None:
    convert = commands.add_parser("convert", help="turn a file of one format into another")
    convert.add_argument(
        "source", nargs="?", type=Path, metavar="IN", help="a solo document or a file of another program"
    )
    convert.add_argument("goal", nargs="?", type=Path, metavar="OUT", help="its ending says the format")
    convert.add_argument(
        "--list", action="store_true", help="what does not come across; without OUT the parts of IN; alone all formats"
    )
    convert.add_argument("--to", metavar="FORMAT", help="the format of OUT, where its ending does not say it")
    convert.add_argument("--part", help="which part of IN: its number in the list, its id or its name")
    convert.add_argument("--lengths", choices=list(Lengths), help="how notes lie in a tablature that does not say it")
    convert.add_argument(
        "--way", type=int, default=1, metavar="N", help="which way of the hand for notes without a place, from 1"
    )
    convert.add_argument("--degrees", action="store_true", help="degrees under the notes (MusicXML)")
    convert.add_argument("--style", choices=list(Style), default=Style.DEFAULT, help="degree style")
    convert.add_argument("--as-written", action="store_true", help="swing as it is written, not as it sounds (MIDI)")
    convert.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    if args.source is None:
        print_formats()
        return 0
    data = _read(args.source)
    kind = kind_of_bytes(data, args.source.name)
    if args.goal is None:
        print(f"{kind.says}")
        for i, part in enumerate(parts_in(data, kind), start=1):
            print(f"{i}  {part.name}  {part_words(part)}")
        return 0
    coming = Coming(part=args.part, lengths=Lengths(args.lengths) if args.lengths else None, way=max(args.way, 1) - 1)
    laid = read_in(data, kind, coming, lambda: str(uuid4()))
    goal, left = _written(args, laid)
    write_whole(args.goal, goal)
    _say(args, laid, left)
    return 0


def _written(args: argparse.Namespace, laid: Laid) -> tuple[bytes, list[str]]:
    reader = Reader(style=Style(args.style))
    ending = args.to or args.goal.suffix.removeprefix(".").casefold()
    if ending in PICTURES:
        from usagi.media.pictures import picture_file  # the libraries of fonts and pages, which others do without

        return picture_file(laid.document, ending, reader=reader), []
    kind: FileKind = kind_named(args.to) if args.to else kind_of_file(args.goal.name)
    going = Going(degrees=args.degrees, as_played=not args.as_written, reader=reader)
    return written(laid.document, kind, going), left_behind(laid.document, kind)


def _say(args: argparse.Namespace, laid: Laid, left: list[str]) -> None:
    """What a person should hear of, on standard error."""
    print(f"usagi: {size_words(laid.document)}.", file=sys.stderr)
    for message in laid.messages:
        print(f"usagi: {message}", file=sys.stderr)
    if not args.list:
        lost = len(laid.listed) + len(left)
        if lost:
            print(f"usagi: {lost} things do not come across; --list names them.", file=sys.stderr)
        return
    for line in laid.listed:
        print(line)
    for line in left:
        print(f"Not held: {line}")


def print_formats() -> None:
    for kind in KINDS:
        print(f"{kind.name:10} {' '.join(kind.endings):24} {'in and out' if kind.comes_in else 'out':11} {kind.says}")
    for name, says in PICTURES.items():
        print(f"{name:10} {'.' + name:24} {'out':11} {says}")


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        raise FileUnreadable(f"{path} cannot be opened: {fault.strerror}.") from fault
