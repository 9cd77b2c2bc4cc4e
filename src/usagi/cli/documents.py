"""Commands on documents: `read` and `chord` need no server and no database; `export` and `import` use the studio."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import UUID

from usagi.core.degrees.degree import Style
from usagi.core.degrees.spoken import Reader
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument, document_from_tree, document_schema
from usagi.core.formats.json_text import DocumentUnreadable, json_trees, text_of
from usagi.core.formats.read_output import chord_json, chord_line, reading_json, reading_table
from usagi.core.formats.text_tab import write_tab


def add_commands(commands: Any) -> None:
    read = commands.add_parser("read", help="print every note of a solo document with its degrees")
    read.add_argument("files", nargs="*", metavar="FILE", help="solo documents; none or - reads standard input")
    read.add_argument("--json", action="store_true", help="as JSON, one object a document")
    read.add_argument("--tab", action="store_true", help="as text tablature")
    read.add_argument("--style", choices=list(Style), default=Style.DEFAULT, help="degree style")
    read.add_argument("--names", choices=("letters", "syllables"), default="letters")
    read.set_defaults(run=read_documents)
    # `chart` is the command's earlier name.
    chord = commands.add_parser("chord", aliases=["chart"], help="print how chord symbols are read")
    chord.add_argument("symbols", nargs="*", metavar="SYMBOL", help="none or - reads a symbol a line")
    chord.add_argument("--json", action="store_true", help="as a JSON list")
    chord.set_defaults(run=read_symbols)
    schema = commands.add_parser("schema", help="print the JSON Schema of solo documents")
    schema.set_defaults(run=print_schema)
    api = commands.add_parser("openapi", help="print the shape of the server's API")
    api.set_defaults(run=print_api)
    for name, help_text in (
        ("export", "write a solo of the studio as a document"),
        ("import", "make solos of documents"),
    ):
        command = commands.add_parser(name, help=help_text)
        command.add_argument("--demo", action="store_true", help="in the demo's studio")
        if name == "export":
            command.add_argument("solo", metavar="SOLO", nargs="?", help="its id; none lists the solos")
            command.add_argument("--tab", action="store_true", help="as text tablature")
            command.add_argument("-o", "--output", type=Path, help="a file; none prints")
            command.set_defaults(run=export_solo)
        else:
            command.add_argument("files", nargs="+", type=Path, metavar="FILE")
            command.set_defaults(run=import_files)


def read_documents(args: argparse.Namespace) -> int:
    reader = Reader(style=Style(args.style), syllables=args.names == "syllables")
    for text in _texts(args.files):
        for tree in json_trees(text):
            document = document_from_tree(tree)
            print(_printed(document, reader, as_json=args.json, tab=args.tab))
    return 0


def _printed(document: SoloDocument, reader: Reader, *, as_json: bool, tab: bool) -> str:
    if tab:
        return write_tab(document, reader=reader)
    if as_json:
        return json.dumps(reading_json(document, reader), ensure_ascii=False)
    return reading_table(document, reader)


def _texts(files: list[str]) -> Iterator[str]:
    for file in files or ["-"]:
        try:
            yield text_of(sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes())
        except OSError as fault:
            raise DocumentUnreadable(f"{file} cannot be opened: {fault.strerror}.") from fault


def read_symbols(args: argparse.Namespace) -> int:
    symbols = args.symbols
    if not symbols or symbols == ["-"]:
        symbols = [line.strip() for line in sys.stdin if line.strip()]
    if args.json:
        print(json.dumps([chord_json(symbol) for symbol in symbols], ensure_ascii=False))
    else:
        for symbol in symbols:
            print(chord_line(symbol))
    return 0


def print_schema(_: argparse.Namespace) -> int:
    print(json.dumps(document_schema(), ensure_ascii=False, indent=2, sort_keys=True))
    return 0


def print_api(_: argparse.Namespace) -> int:
    from usagi.main import make_app

    print(json.dumps(make_app().openapi(), ensure_ascii=False, indent=2, sort_keys=True))
    return 0


def export_solo(args: argparse.Namespace) -> int:
    from usagi.cli.studio import studio_workspace  # the database's libraries, which read and chord do without
    from usagi.flows.studio.exchange import export_json, export_tab
    from usagi.flows.studio.shelf import read_shelf

    with studio_workspace(demo=args.demo) as workspace:
        if args.solo is None:
            for row in read_shelf(workspace):
                print(f"{row.id}  {row.tune} · {row.title} · {row.player or 'player not known'}")
            return 0
        try:
            solo_id = UUID(args.solo)
        except ValueError as fault:
            raise UsagiError(f"“{args.solo}” is not the id of a solo; `./usagi export` lists them.") from fault
        data = export_tab(workspace, solo_id).encode() if args.tab else export_json(workspace, solo_id)
    if args.output is None:
        sys.stdout.buffer.write(data)
    else:
        write_whole(args.output, data)
    return 0


def write_whole(path: Path, data: bytes) -> None:
    """A file written whole or not at all. Raises : UsagiError, when it cannot be."""
    half = path.with_name(path.name + ".half")
    try:
        half.write_bytes(data)
        half.replace(path)
    except OSError as fault:
        half.unlink(missing_ok=True)
        raise UsagiError(f"{path} cannot be written: {fault.strerror}.") from fault


def import_files(args: argparse.Namespace) -> int:
    from usagi.cli.studio import studio_workspace
    from usagi.flows.studio.importing import import_json

    with studio_workspace(demo=args.demo) as workspace:
        for file in args.files:
            try:
                data = file.read_bytes()
            except OSError as fault:
                raise UsagiError(f"{file} cannot be opened: {fault.strerror}.") from fault
            done = import_json(workspace, data)
            print(done.solo_id)
            if done.differences:
                print(
                    f"  on the ground that is here; the document's differs in: {', '.join(done.differences)}",
                    file=sys.stderr,
                )
            if not done.has_sound:
                print("  without its sound: add its file on the shelf", file=sys.stderr)
    return 0
