"""`./usagi backup FILE` and `./usagi restore FILE`."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any


def add_commands(commands: Any) -> None:
    for name, help_text, run in (
        ("backup", "write everything to one file", write_backup),
        ("restore", "bring a backup back", bring_back),
    ):
        command = commands.add_parser(name, help=help_text)
        command.add_argument("file", type=Path, metavar="FILE")
        over = "an older file of this name" if name == "backup" else "what is here, wholly"
        command.add_argument("--replace", action="store_true", help=f"put it in the place of {over}")
        command.set_defaults(run=run)


def write_backup(args: argparse.Namespace) -> int:
    return _run(args, "backed up", writes=True)


def bring_back(args: argparse.Namespace) -> int:
    return _run(args, "restored", writes=False)


def _run(args: argparse.Namespace, done: str, *, writes: bool) -> int:
    from usagi.cli.cluster import Cluster  # the database's libraries, which other commands do without
    from usagi.cli.studio import ready_database
    from usagi.flows.studio.backup import back_up, restore
    from usagi.settings import home_from_environment
    from usagi.store.database import open_pool

    with ready_database(Cluster(home_from_environment())) as dsn:
        pool = open_pool(dsn, size=1)
        try:
            kept = (back_up if writes else restore)(pool, args.file, _say, replace=args.replace)
        finally:
            pool.close()
    _clear()
    size = kept.bytes / 1e6
    print(f"{done}: {kept.solos} solos, {kept.recordings} recordings, {size:.1f} MB, compared by digest: {args.file}")
    return 0


def _say(words: str, share: float) -> None:
    if sys.stderr.isatty():
        print(f"\r\x1b[K{share:4.0%}  {words}; Ctrl-C stops it and changes nothing", end="", file=sys.stderr)


def _clear() -> None:
    if sys.stderr.isatty():
        print("\r\x1b[K", end="", file=sys.stderr)
