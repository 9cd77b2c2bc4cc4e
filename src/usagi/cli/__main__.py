"""`python -m usagi.cli COMMAND`, called by ./usagi once everything is installed."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from usagi.cli import backup, convert, documents, licks, listening, worker
from usagi.cli.cluster import ClusterTrouble
from usagi.core.errors import UsagiError


def parser() -> argparse.ArgumentParser:
    root = argparse.ArgumentParser(prog="./usagi", description="The workbench of a lead guitar teacher.")
    commands = root.add_subparsers(dest="command", required=True, metavar="COMMAND")
    demo = commands.add_parser("demo", help="start with the demo's solos")
    demo.add_argument("--fresh", action="store_true", help="put the demo back as it was")
    demo.set_defaults(run=run_server, studio="demo")
    start = commands.add_parser("start", help="start with your own studio")
    start.set_defaults(run=run_server, studio="local", fresh=False)
    for command in (demo, start):
        command.add_argument("--port", type=int, default=None, help="the page's port (default 8000 or USAGI_PORT)")
    documents.add_commands(commands)
    convert.add_commands(commands)
    listening.add_commands(commands)
    licks.add_commands(commands)
    backup.add_commands(commands)
    worker.add_commands(commands)
    return root


def run_server(args: argparse.Namespace) -> int:
    from usagi.cli.serve import serve  # the server and its libraries, which most commands do without

    return serve(studio=args.studio, fresh=args.fresh, port=args.port)


def main(words: Sequence[str] | None = None) -> int:
    args = parser().parse_args(words)
    try:
        result: int = args.run(args)
        return result
    except (UsagiError, ClusterTrouble) as trouble:
        print(f"usagi: {trouble}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 0
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main())
